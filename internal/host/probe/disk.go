package probe

import (
	"bytes"
	"debug/elf"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// disk is the files of a machine; root is "/" or the folder in which they lie. All
// paths given and returned are the machine's own.
type disk struct{ root string }

type entry = fs.DirEntry

// on is where a path of the machine lies on the disk Wexo reads.
func (d disk) on(path string) string {
	if d.root == "/" || d.root == "" {
		return path
	}
	return filepath.Join(d.root, path)
}

func (d disk) list(dir string) []entry {
	real, err := d.real(dir)
	if err != nil {
		return nil
	}
	entries, err := os.ReadDir(d.on(real))
	if err != nil {
		return nil
	}
	return entries
}

// real follows every link of a path, as the machine itself would.
func (d disk) real(path string) (string, error) {
	if d.root == "/" || d.root == "" {
		return filepath.EvalSymlinks(path)
	}
	done, rest := "/", strings.Split(strings.Trim(filepath.Clean(path), "/"), "/")
	for hops := 0; len(rest) > 0; {
		part := rest[0]
		rest = rest[1:]
		if part == "" || part == "." {
			continue
		}
		if part == ".." {
			done = filepath.Dir(done)
			continue
		}
		at := filepath.Join(done, part)
		info, err := os.Lstat(d.on(at))
		if err != nil {
			return "", err
		}
		if info.Mode()&fs.ModeSymlink == 0 {
			done = at
			continue
		}
		if hops++; hops > 40 {
			return "", errors.New("links lead in a circle")
		}
		target, err := os.Readlink(d.on(at))
		if err != nil {
			return "", err
		}
		if filepath.IsAbs(target) {
			done = "/"
		}
		rest = append(strings.Split(target, "/"), rest...)
	}
	return done, nil
}

func (d disk) exists(path string) bool {
	_, err := os.Lstat(d.on(path))
	return err == nil
}

func (d disk) isDir(path string, e entry) bool {
	if e != nil && e.Type()&fs.ModeSymlink == 0 {
		return e.IsDir()
	}
	real, err := d.real(path)
	if err != nil {
		return false
	}
	info, err := os.Stat(d.on(real))
	return err == nil && info.IsDir()
}

func (d disk) executable(path string) bool {
	info, err := os.Stat(d.on(path))
	return err == nil && info.Mode().IsRegular() && info.Mode().Perm()&0o111 != 0
}

// head reads the first bytes of a regular file, at most limit.
func (d disk) head(path string, limit int64) ([]byte, error) {
	real, err := d.real(path)
	if err != nil {
		return nil, err
	}
	info, err := os.Stat(d.on(real))
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, errors.New("not a regular file")
	}
	f, err := os.Open(d.on(real))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, limit))
}

// isShellScript tells a shim or wrapper: a script that a shell runs.
func (d disk) isShellScript(path string) bool {
	data, err := d.head(path, 128)
	if err != nil || !bytes.HasPrefix(data, []byte("#!")) {
		return false
	}
	first, _, _ := bytes.Cut(data, []byte("\n"))
	for field := range bytes.FieldsSeq(first[2:]) {
		switch filepath.Base(string(field)) {
		case "sh", "bash", "dash", "zsh", "ksh", "fish":
			return true
		}
	}
	return false
}

// arch is the architecture an executable is built for; empty where it does not tell.
func (d disk) arch(path string) string {
	f, err := os.Open(d.on(path))
	if err != nil {
		return ""
	}
	defer f.Close()
	head := make([]byte, 20)
	if _, err := io.ReadFull(f, head); err != nil || !bytes.HasPrefix(head, []byte(elf.ELFMAG)) {
		return ""
	}
	switch elf.Machine(uint16(head[18]) | uint16(head[19])<<8) {
	case elf.EM_X86_64:
		return "amd64"
	case elf.EM_AARCH64:
		return "arm64"
	case elf.EM_386:
		return "386"
	}
	return ""
}
