package repo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"regexp"
	"strings"

	"wexo/internal/host/repo/odb"
)

var (
	objectName = regexp.MustCompile(`^[0-9a-f]{40}(?:[0-9a-f]{24})?$`)
	plainRef   = regexp.MustCompile(`^(?:HEAD|refs(?:/[A-Za-z0-9_][A-Za-z0-9_.+-]*)+)$`)
	plainName  = regexp.MustCompile(`^[A-Za-z0-9_][A-Za-z0-9_./+-]*$`)
	reftable   = regexp.MustCompile(`(?i)refstorage\s*=\s*"?reftable`)
)

// Errors of refs.
var (
	// ErrNoCommits is a repository without commits.
	ErrNoCommits = errors.New("it has no commits yet")
	errNoRef     = errors.New("no such ref")
	// errAskGit is a ref that only git can follow.
	errAskGit = errors.New("git has to be asked")
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

// ref follows HEAD or a full ref to an object's name. A packed tag that is an object of its own
// is left to those who read objects.
func (at layout) ref(name string) (string, error) {
	if !plainRef.MatchString(name) {
		return "", errAskGit
	}
	folder := at.git // HEAD is the work tree's own
	for range 6 {
		if name != "HEAD" {
			folder = at.common
		}
		data, err := small(filepath.Join(folder, filepath.FromSlash(name)))
		if err != nil {
			return "", err
		}
		text := strings.TrimSpace(string(data))
		next, symbolic := strings.CutPrefix(text, "ref: ")
		switch {
		case objectName.MatchString(text):
			return text, nil
		case symbolic && next == "refs/heads/.invalid":
			return "", errAskGit
		case symbolic && strings.HasPrefix(next, "refs/") && plainRef.MatchString(next):
			name = next
		case text == "" && name != "HEAD":
			return at.packed(name)
		case text == "":
			return "", errors.New("its .git holds no repository: there is no HEAD")
		default:
			return "", fmt.Errorf("its ref %s cannot be understood", name)
		}
	}
	return "", errors.New("its refs lead in a circle")
}

// packed looks a ref up among those that git packed into one file.
func (at layout) packed(name string) (string, error) {
	rest, err := small(filepath.Join(at.common, "packed-refs"))
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
	config, err := small(filepath.Join(at.common, "config"))
	if err == nil && reftable.Match(config) {
		return "", errAskGit
	}
	return "", errNoRef
}

// find follows a ref as people write it: a full name, a branch, a tag, an object's name.
// What else git understands is git's to answer.
func (at layout) find(ctx context.Context, name string) (string, error) {
	if objectName.MatchString(name) {
		return name, nil
	}
	if name == "HEAD" || !plainName.MatchString(name) || strings.Contains(name, "..") {
		return at.orGit(ctx, name, at.ref)
	}
	for _, form := range []string{"%s", "refs/%s", "refs/tags/%s", "refs/heads/%s", "refs/remotes/%s", "refs/remotes/%s/HEAD"} {
		full := fmt.Sprintf(form, name)
		if !strings.HasPrefix(full, "refs/") {
			continue
		}
		id, err := at.ref(full)
		if err == nil || !errors.Is(err, errNoRef) && !errors.Is(err, errAskGit) {
			return id, err
		}
	}
	return askGit(ctx, at, name) // a shortened name, or an expression
}

func (at layout) orGit(ctx context.Context, name string, ref func(string) (string, error)) (string, error) {
	id, err := ref(name)
	if errors.Is(err, errAskGit) {
		return askGit(ctx, at, name)
	}
	return id, err
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
