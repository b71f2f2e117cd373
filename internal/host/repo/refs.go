package repo

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"regexp"
	"strings"
	"unicode/utf8"

	"wexo/internal/host/repo/odb"
)

var (
	objectName = regexp.MustCompile(`^[0-9a-f]{40}(?:[0-9a-f]{24})?$`)
	shortName  = regexp.MustCompile(`^[0-9a-f]{4,63}$`)
	pseudoRef  = regexp.MustCompile(`^[A-Z][A-Z_]*HEAD$`) // of the work tree, beside HEAD
	reftable   = regexp.MustCompile(`(?i)refstorage\s*=\s*"?reftable`)
	longNames  = regexp.MustCompile(`(?i)objectformat\s*=\s*"?sha256`)
)

// isRef reports whether a name may be that of a ref, as git allows it: HEAD and its like, or
// folders below refs. No part of one leads elsewhere.
func isRef(name string) bool {
	return pseudoRef.MatchString(name) || name == head || strings.HasPrefix(name, "refs/") && mayNameRef(name)
}

// head is the ref that a work tree is at.
const head = "HEAD"

// mayNameRef reports whether a name may stand for a ref or the end of one.
func mayNameRef(name string) bool {
	if name == "" || name == "@" || len(name) > 4_000 || !utf8.ValidString(name) || strings.HasSuffix(name, ".") ||
		strings.Contains(name, "..") || strings.Contains(name, "@{") || strings.ContainsAny(name, " ~^:?*[\\\x7f") {
		return false
	}
	for part := range strings.SplitSeq(name, "/") {
		if part == "" || part[0] == '.' || strings.HasSuffix(part, ".lock") {
			return false
		}
	}
	return !strings.ContainsFunc(name, func(r rune) bool { return r < ' ' })
}

// Errors of refs.
var (
	// ErrNoCommits is a repository without commits.
	ErrNoCommits = errors.New("it has no commits yet")
	errNoRef     = errors.New("no such ref")
)

// CommitOf tells which commit a ref of a repository leads to by reading the files that
// git keeps refs in, as far as that is plain to see; "" otherwise. A repository that leads
// outside tells nothing.
func CommitOf(l Location, how Reading) string {
	if l.Kind == Plain || how.Within.check(l) != nil {
		return ""
	}
	at, err := how.Within.refsOf(l)
	if err != nil {
		return ""
	}
	id, err := at.ref(nameOf(how.Ref))
	if err != nil {
		return ""
	}
	return id
}

// nameOf is a ref as it is looked up; HEAD where none is given.
func nameOf(ref string) string {
	if ref == "" {
		return "HEAD"
	}
	return ref
}

// ref follows HEAD or a full ref to an object's name. A tag that is an object of its own is left
// to those who read objects.
func (at layout) ref(name string) (string, error) {
	if !isRef(name) {
		return "", errNoRef
	}
	tables := at.reftable()
	for range 6 {
		id, next, err := at.step(name, tables)
		switch {
		case err != nil:
			return "", err
		case id != "":
			return id, nil
		case !strings.HasPrefix(next, "refs/") || !isRef(next):
			return "", fmt.Errorf("its ref %s cannot be understood", name)
		}
		name = next
	}
	return "", errors.New("its refs lead in a circle")
}

// step is the object that a ref leads to, or the next ref.
func (at layout) step(name string, tables bool) (id, next string, err error) {
	folder := at.git // HEAD is the work tree's own
	if strings.HasPrefix(name, "refs/") {
		folder = at.common
	}
	if tables && (name == head || strings.HasPrefix(name, "refs/")) {
		one, err := inTables(folder, name)
		if err == nil && one == (tabled{}) {
			err = errNoRef
		}
		return one.id, one.leads, err
	}
	data, err := small(folder, name)
	if err != nil {
		return "", "", err
	}
	text := strings.TrimSpace(string(data))
	if pseudoRef.MatchString(name) {
		text, _, _ = strings.Cut(text, "\t") // what was fetched says more
	}
	next, symbolic := strings.CutPrefix(text, "ref: ")
	switch {
	case objectName.MatchString(text):
		return text, "", nil
	case symbolic:
		return "", next, nil
	case text == "" && strings.HasPrefix(name, "refs/"):
		id, err = at.packed(name)
		return id, "", err
	case text == "" && name != head:
		return "", "", errNoRef
	case text == "":
		return "", "", errors.New("its .git holds no repository: there is no HEAD")
	}
	return "", text, nil
}

// packed looks a ref up among those that git packed into one file.
func (at layout) packed(name string) (string, error) {
	rest, err := small(at.common, "packed-refs")
	if err != nil {
		return "", err
	}
	for len(rest) > 0 {
		line, after, _ := bytes.Cut(rest, []byte{'\n'})
		rest = after
		if id, ref, ok := bytes.Cut(line, []byte{' '}); ok && string(ref) == name && objectName.Match(id) {
			return string(id), nil
		}
	}
	return "", errNoRef
}

// hasBranches reports whether there is any branch, as far as refs are files. In doubt there is none.
func (at layout) hasBranches() bool {
	if text, err := small(at.common, "packed-refs"); err == nil && bytes.Contains(text, []byte(" refs/heads/")) {
		return true
	}
	root, err := os.OpenRoot(at.common)
	if err != nil {
		return false
	}
	defer root.Close()
	entries, err := fs.ReadDir(root.FS(), "refs/heads") // through which no link leads out
	return err == nil && len(entries) > 0
}

// reftable reports whether refs are kept in tables.
func (at layout) reftable() bool {
	config, err := small(at.common, "config")
	return err == nil && reftable.Match(config)
}

// nameSize is how many bytes the names of objects have.
func (at layout) nameSize() int {
	if config, err := small(at.common, "config"); err == nil && longNames.Match(config) {
		return 32
	}
	return 20
}

// find follows a ref as people write it: a full name, a branch, a tag, an object's name.
func (at layout) find(name string) (string, error) {
	switch {
	case objectName.MatchString(name):
		return name, nil
	case name == "@":
		name = head
	}
	if isRef(name) {
		if id, err := at.ref(name); err == nil || !errors.Is(err, errNoRef) || name == head {
			return id, err
		}
	}
	if !mayNameRef(name) {
		return "", errNoRef
	}
	for _, form := range []string{"refs/%s", "refs/tags/%s", "refs/heads/%s", "refs/remotes/%s", "refs/remotes/%s/HEAD"} {
		id, err := at.ref(fmt.Sprintf(form, name))
		if err == nil || !errors.Is(err, errNoRef) {
			return id, err
		}
	}
	return "", errNoRef
}

// maxTags is how many tags may stand on each other, and maxCommit the largest commit or
// tag that is read, in bytes.
const (
	maxTags   = 8
	maxCommit = 4 << 20
)

// commit follows tags to a commit, and gives its name and its tree's.
func commit(store *odb.Store, name string) (id string, tree odb.ID, err error) {
	for range maxTags {
		object, ok := odb.ParseID(name)
		if !ok {
			return "", "", fmt.Errorf("%q names no object", name)
		}
		kind, data, err := store.Read(object, maxCommit)
		if err != nil {
			return "", "", fmt.Errorf("%s cannot be read: %w", name, err)
		}
		key := map[odb.Kind]string{odb.Commit: "tree ", odb.Tag: "object "}[kind]
		rest, ok := bytes.CutPrefix(data, []byte(key))
		line, _, _ := bytes.Cut(rest, []byte{'\n'})
		if key == "" || !ok {
			return "", "", fmt.Errorf("%s leads to no commit", name)
		}
		if kind == odb.Commit {
			tree, ok := odb.ParseID(string(line))
			if !ok {
				return "", "", fmt.Errorf("its commit %s names no tree", name)
			}
			return name, tree, nil
		}
		name = string(line)
	}
	return "", "", errors.New("its tags lead nowhere")
}
