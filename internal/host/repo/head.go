package repo

import (
	"bytes"
	"os"
	"path/filepath"
	"regexp"
	"strings"
)

// CommitOf tells which commit a ref of a repository leads to by reading the files that
// git keeps refs in, without starting git. It is "" where that is not plain to see; then
// git has to be asked.
func CommitOf(l Location, ref string) string {
	dir := l.Path
	if l.Kind == Git {
		dir = filepath.Join(dir, ".git")
		info, err := os.Lstat(dir)
		if err != nil || !info.IsDir() { // a linked work tree or a submodule
			return ""
		}
	} else if l.Kind != Bare {
		return ""
	}
	if config := small(filepath.Join(dir, "config")); bytes.Contains(bytes.ToLower(config), []byte("refstorage")) {
		return ""
	}
	name := ref
	if name == "" {
		name = "HEAD"
	}
	if !plainRef.MatchString(name) {
		return ""
	}
	for range 5 {
		text := strings.TrimSpace(string(small(filepath.Join(dir, filepath.FromSlash(name)))))
		next, symbolic := strings.CutPrefix(text, "ref: ")
		switch {
		case objectName.MatchString(text):
			return text
		case symbolic && strings.HasPrefix(next, "refs/") && plainRef.MatchString(next):
			name = next
		case text == "" && strings.HasPrefix(name, "refs/"):
			return packed(small(filepath.Join(dir, "packed-refs")), name)
		default:
			return ""
		}
	}
	return ""
}

var (
	objectName = regexp.MustCompile(`^[0-9a-f]{40}(?:[0-9a-f]{24})?$`)
	plainRef   = regexp.MustCompile(`^(?:HEAD|refs/(?:heads|tags|remotes)/[A-Za-z0-9_][A-Za-z0-9_./-]*)$`)
)

// maxRefs is the largest file of refs that is looked at, in bytes.
const maxRefs = 16 << 20

func small(file string) []byte {
	info, err := os.Lstat(file)
	if err != nil || !info.Mode().IsRegular() || info.Size() > maxRefs {
		return nil
	}
	data, err := os.ReadFile(file)
	if err != nil {
		return nil
	}
	return data
}

// packed looks a ref up among those that git packed into one file. A tag that is an
// object of its own is left to git.
func packed(data []byte, name string) string {
	rest := data
	for len(rest) > 0 {
		line, after, _ := bytes.Cut(rest, []byte{'\n'})
		rest = after
		id, ref, ok := bytes.Cut(line, []byte{' '})
		if !ok || string(ref) != name {
			continue
		}
		if bytes.HasPrefix(after, []byte{'^'}) || !objectName.Match(id) {
			return ""
		}
		return string(id)
	}
	return ""
}
