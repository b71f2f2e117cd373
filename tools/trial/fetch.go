package main

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// fetch brings each tree of a list into a folder of its own, as a repository with one commit.
// What cannot be had is told and left out.
func fetch(in io.Reader, into string) error {
	if into == "" {
		return fmt.Errorf("name a folder for the trees with -into")
	}
	scanner := bufio.NewScanner(in)
	for scanner.Scan() {
		words := strings.Fields(scanner.Text())
		if len(words) != 3 {
			continue
		}
		tree := filepath.Join(into, folderOf(words[0], words[1]))
		if _, err := os.Stat(filepath.Join(tree, ".git")); err == nil {
			continue
		}
		if err := one(words[0], words[1], words[2], tree); err != nil {
			fmt.Fprintf(os.Stderr, "%s %s is left out: %v\n", words[0], words[1], err)
			os.RemoveAll(tree)
		}
	}
	return scanner.Err()
}

// folderOf is what a tree's folder is called.
func folderOf(kind, name string) string {
	return kind + "-" + strings.NewReplacer("/", "-", "@", "").Replace(name)
}

func one(kind, name, version, tree string) error {
	work, err := os.MkdirTemp("", "trial-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	if err := os.MkdirAll(tree, 0o755); err != nil {
		return err
	}
	script := `apt-get source --download-only -qq "$1=$2" && dpkg-source --no-check -x *.dsc "$3/tree" && cp -a "$3/tree/." "$4"`
	switch kind {
	case "npm":
		script = `npm pack --silent "$1@$2" && tar -xf *.tgz --strip-components=1 -C "$4" && : "$3"`
	case "module": // the zip holds the tree below module@version
		script = `go mod download -json "$1@$2" > told && cp -r "$(sed -n 's/^\t"Dir": "\(.*\)",$/\1/p' told)/." "$4" && chmod -R u+w "$4" && : "$3"`
	}
	script += ` && cd "$4" && git init -q && git add -Af && git -c user.name=trial -c user.email=trial@invalid commit -qm "$1 $2"`
	cmd := exec.Command("sh", "-c", script, "sh", name, version, work, tree)
	cmd.Dir = work
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%w: %s", err, strings.TrimSpace(string(out)))
	}
	return nil
}
