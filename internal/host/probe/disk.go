package probe

import (
	"bytes"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
)

// disk is the files of a machine; root is "/" or the folder in which they lie. All
// paths given and returned are the machine's own.
type disk struct{ root string }

type entry = fs.DirEntry

// own reports whether the files are those of the machine Wexo runs on.
func (d disk) own() bool { return d.root == "/" || d.root == "" }

// on is where a path of the machine lies on the disk Wexo reads.
func (d disk) on(at string) string {
	if d.own() {
		return at
	}
	return filepath.Join(d.root, filepath.FromSlash(at))
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
func (d disk) real(at string) (string, error) {
	if d.own() {
		real, err := filepath.EvalSymlinks(at)
		return filepath.ToSlash(real), err
	}
	done, rest := "/", strings.Split(strings.Trim(path.Clean(at), "/"), "/")
	for hops := 0; len(rest) > 0; {
		part := rest[0]
		rest = rest[1:]
		if part == "" || part == "." {
			continue
		}
		if part == ".." {
			done = path.Dir(done)
			continue
		}
		at := path.Join(done, part)
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
		if strings.HasPrefix(target, "/") {
			done = "/"
		}
		rest = append(strings.Split(target, "/"), rest...)
	}
	return done, nil
}

// exists reports whether something is at a path, a link that leads nowhere included.
func (d disk) exists(at string) bool {
	above, err := d.real(path.Dir(at))
	if err != nil {
		return false
	}
	_, err = os.Lstat(d.on(path.Join(above, path.Base(at))))
	return err == nil
}

func (d disk) isDir(at string, e entry) bool {
	if e != nil && e.Type()&fs.ModeSymlink == 0 {
		return e.IsDir()
	}
	real, err := d.real(at)
	if err != nil {
		return false
	}
	info, err := os.Lstat(d.on(real))
	return err == nil && info.IsDir()
}

// executable reports whether a file may be run; on Windows its ending alone says so.
func (d disk) executable(at string, windows bool) bool {
	info, err := os.Lstat(d.on(at))
	return err == nil && info.Mode().IsRegular() && (windows || info.Mode().Perm()&0o111 != 0)
}

// head reads the first bytes of a regular file, at most limit.
func (d disk) head(at string, limit int64) ([]byte, error) {
	real, err := d.real(at)
	if err != nil {
		return nil, err
	}
	info, err := os.Lstat(d.on(real))
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

// isShellScript tells a proxy or wrapper: a script that a shell runs.
func (d disk) isShellScript(at string) bool {
	data, err := d.head(at, 128)
	if err != nil || !bytes.HasPrefix(data, []byte("#!")) {
		return false
	}
	first, _, _ := bytes.Cut(data, []byte("\n"))
	for field := range bytes.FieldsSeq(first[2:]) {
		switch path.Base(string(field)) {
		case "sh", "bash", "dash", "zsh", "ksh", "fish":
			return true
		}
	}
	return false
}
