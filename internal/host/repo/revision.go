package repo

import (
	"bytes"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"wexo/internal/host/repo/odb"
)

// revision is a ref as somebody asks for it: a name, and the way from there to a commit. It is
// followed here: git would read a configuration for it that the repository wrote.
type revision struct {
	name  string
	steps []step
}

// step is one of the ways behind a name: ~2 goes to the first parent's first parent, ^2 to the
// second parent.
type step struct {
	parent int // which one
	times  int
}

// maxSteps is how far back a revision may lead.
const maxSteps = 10_000

var (
	stepBehind = regexp.MustCompile(`^(?:\^\{(?:commit)?\}|~(\d*)|\^(\d*))`)
	errSteps   = errors.New("names no commit in a way that is followed here: name a branch, a tag or a commit, with ~ and ^ behind it where an earlier one is meant")
)

// parseRevision parts a name from the steps behind it.
func parseRevision(text string) (revision, error) {
	end := strings.IndexAny(text, "~^")
	if end < 0 {
		end = len(text)
	}
	out := revision{name: text[:end]}
	far := 0
	for rest := text[end:]; rest != ""; {
		m := stepBehind.FindStringSubmatch(rest)
		if m == nil {
			return out, fmt.Errorf("%q %w", text, errSteps)
		}
		rest = rest[len(m[0]):]
		one := step{parent: 1, times: 1}
		number := &one.times
		if strings.HasPrefix(m[0], "^") {
			number = &one.parent
		}
		if m[1]+m[2] != "" {
			n, err := strconv.Atoi(m[1] + m[2])
			if err != nil {
				return out, fmt.Errorf("%q %w", text, errSteps)
			}
			*number = n
		}
		if m[0] == "^{}" || m[0] == "^{commit}" || one.parent == 0 {
			continue // the commit itself
		}
		if far += one.times; far > maxSteps {
			return out, fmt.Errorf("%q leads back further than %d commits", text, maxSteps)
		}
		out.steps = append(out.steps, one)
	}
	if out.name == "" || strings.Contains(out.name, "@{") || strings.Contains(out.name, ":") || strings.Contains(out.name, "..") {
		return out, fmt.Errorf("%q %w", text, errSteps)
	}
	return out, nil
}

// commit follows the revision from an object to a commit, and gives its name and its tree's.
func (r revision) commit(store *odb.Store, id string) (string, odb.ID, error) {
	id, tree, err := commit(store, id)
	for _, s := range r.steps {
		for range s.times {
			if err != nil {
				return "", "", err
			}
			var parent string
			if parent, err = parentOf(store, id, s.parent); err == nil {
				id, tree, err = commit(store, parent)
			}
		}
	}
	return id, tree, err
}

// parentOf is the n-th parent of a commit, from 1.
func parentOf(store *odb.Store, id string, n int) (string, error) {
	object, _ := odb.ParseID(id)
	_, data, err := store.Read(object, maxCommit)
	if err != nil {
		return "", fmt.Errorf("%s cannot be read: %w", id, err)
	}
	for line := range bytes.Lines(data) {
		name, isParent := bytes.CutPrefix(bytes.TrimSpace(line), []byte("parent "))
		switch {
		case len(bytes.TrimSpace(line)) == 0:
			return "", errNoRef
		case isParent:
			if n--; n == 0 {
				return string(name), nil
			}
		}
	}
	return "", errNoRef
}
