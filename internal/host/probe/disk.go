package probe

import (
	"bytes"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync"
)

// disk is the files of a machine; root is "/" or the folder in which they lie. All
// paths given and returned are the machine's own, with slashes.
type disk struct {
	root  string
	drive string // where Windows lies; "" on other systems
	// top is the root through which another machine's files are read; closed is true where it
	// cannot be.
	top    *os.Root
	closed bool
	names  *names // where cases do not count
}

type entry = fs.DirEntry

// own reports whether the files are those of the machine Wexo runs on.
func (d disk) own() bool { return d.root == "/" || d.root == "" }

// on is where a path of the machine lies on the disk Wexo reads.
func (d disk) on(at string) string {
	switch {
	case !d.own():
		return filepath.Join(d.root, filepath.FromSlash(at))
	case d.drive != "":
		return toWindows(at, d.drive)
	}
	return at
}

func (d disk) list(dir string) []entry {
	real, err := d.real(dir)
	if err != nil {
		return nil
	}
	return d.entries(real)
}

// real follows every link of a path, as the machine itself would.
func (d disk) real(at string) (string, error) {
	if d.own() && d.drive == "" {
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
		at := path.Join(done, d.spelled(done, part))
		target, err := d.link(at)
		switch {
		case err != nil:
			return "", err
		case target == "":
			done = at
			continue
		}
		if hops++; hops > 40 {
			return "", errors.New("links lead in a circle")
		}
		if strings.HasPrefix(target, "/") {
			done = "/"
		}
		rest = append(strings.Split(target, "/"), rest...)
	}
	return done, nil
}

// spelled is the name of an entry of a folder as the folder has it, where cases do not count.
// A short name, and what a folder does not list, stay as they are; other machines' folders and
// drives are not listed.
func (d disk) spelled(dir, name string) string {
	if d.names == nil || within("/"+shares, path.Join(dir, name)) || dir == "/" && isDrive(name) {
		return name
	}
	if found, ok := d.namesIn(dir)[strings.ToLower(name)]; ok {
		return found
	}
	return name
}

// names are those of folders by themselves in lower case, kept since each is asked for often.
type names struct{ of sync.Map }

func (d disk) namesIn(dir string) map[string]string {
	if known, ok := d.names.of.Load(dir); ok {
		return known.(map[string]string)
	}
	out := map[string]string{}
	for _, e := range d.entries(dir) {
		out[strings.ToLower(e.Name())] = e.Name()
	}
	d.names.of.Store(dir, out)
	return out
}

func sortEntries(list []entry) {
	slices.SortFunc(list, func(a, b entry) int { return strings.Compare(a.Name(), b.Name()) })
}

// link is where a link leads, or a folder of Windows that is mounted from elsewhere; "" of
// what is there and neither.
func (d disk) link(at string) (string, error) {
	if at == "/"+shares || path.Dir(at) == "/"+shares {
		return "", nil // the name of a machine is no folder
	}
	info, err := d.lstat(at)
	if err != nil || info.Mode()&(fs.ModeSymlink|fs.ModeIrregular) == 0 {
		return "", err
	}
	target, err := d.readlink(at)
	switch {
	case err != nil && info.Mode()&fs.ModeSymlink == 0:
		return "", nil // it is irregular in another way
	case err != nil:
		return "", err
	case d.drive != "" && (isDrive(target) || strings.HasPrefix(target, `\`)):
		return fromWindows(target, d.drive), nil
	case d.drive != "":
		return strings.ReplaceAll(target, `\`, "/"), nil
	}
	return target, nil
}

// exists reports whether something is at a path, a link that leads nowhere included.
func (d disk) exists(at string) bool {
	above, err := d.real(path.Dir(at))
	if err != nil {
		return false
	}
	_, err = d.lstat(path.Join(above, d.spelled(above, path.Base(at))))
	return err == nil
}

func (d disk) isDir(at string, e entry) bool {
	if e != nil && e.Type()&(fs.ModeSymlink|fs.ModeIrregular) == 0 {
		return e.IsDir()
	}
	real, err := d.real(at)
	if err != nil {
		return false
	}
	info, err := d.lstat(real)
	return err == nil && info.IsDir()
}

// executable reports whether a file may be run; on Windows its ending alone says so.
func (d disk) executable(at string, windows bool) bool {
	info, err := d.lstat(at)
	return err == nil && info.Mode().IsRegular() && (windows || info.Mode().Perm()&0o111 != 0)
}

// head reads the first bytes of a regular file, at most limit.
func (d disk) head(at string, limit int64) ([]byte, error) {
	real, err := d.real(at)
	if err != nil {
		return nil, err
	}
	info, err := d.lstat(real)
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, errors.New("not a regular file")
	}
	f, err := d.open(real)
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
