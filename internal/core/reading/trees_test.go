package reading_test

import (
	"fmt"
	"io/fs"
	"path"
	"strings"
	"testing"
	"testing/fstest"

	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
)

// nastyNames are parts of paths that a reader may trip over.
var nastyNames = []string{
	"package.json", "package-lock.json", "pyproject.toml", "Cargo.toml", "pom.xml", "main.tf", "go.mod", "Dockerfile", ".node-version", ".python-version", ".pins", ".tool", ".wexo.yaml", ".gitignore", "build", "node_modules",
	".github", "workflows", "a.yml", ".vscode", "settings.json", ".idea", "misc.xml", ".venv", "pyvenv.cfg", "CMakeCache.txt", "CACHEDIR.TAG", ".git", "target", "bin", "python", ".config", "compose.yaml", "a.code-workspace",
	" ", "a b", "new\nline", "\x1b[31m", "\u202e", "\xff\xfe", "*", "?", "[", "{a,b}", "**", "~", "-x", "--", "con", "…", strings.Repeat("n", 255), "$HOME", "%2e", "a\\b", "🌿", "é", "\u0065\u0301",
}

// nastyTexts are beginnings of contents.
var nastyTexts = []string{
	"", "22\n", "node 22\n", "{", "[", "((((", "\"", "'", "\\", "${", "<<E\n", "%{if a}", "&a ", "*a", "<a>", "<!--", "---\n", "- ", "a: ", "a.a.a.", "\x00", "\xff\xfe", "\xef\xbb\xbf", "\r\n", "#", "//", "/*", "leave-out: ['**']\n",
	"claims: [{files: ['**'], tool: node, format: raw, pattern: '(a*)b'}]\n", "{\"engines\": {\"node\": \">=20\"}}", "FROM node:", "go 1.", "version = 3.12\n", "9", ".", "\u202e", "}", "]", ")", "=", "\t", "\n",
}

// grow makes a tree of bytes: each three draw a path, a text and how it goes on.
func grow(program []byte) fstest.MapFS {
	tree := fstest.MapFS{"zz-good/.node-version": {Data: []byte("22\n"), Mode: 0o644}}
	at, held := "", ""
	for i := 0; i+2 < len(program) && i < 3*60; i += 3 {
		name := nastyNames[int(program[i])%len(nastyNames)]
		switch op := program[i+1]; {
		case op < 40: // deeper
			if strings.Count(at, "/") < 45 {
				at = path.Join(at, name)
			}
			continue
		case op < 60: // back to the top
			at = ""
			continue
		case op < 80: // a link
			target := []string{"nowhere", "../../../etc/passwd", "/etc", "zz-good", "zz-good/.node-version"}[int(program[i+2])%5] // the tree of the tests follows circles for ever
			plant(tree, path.Join(at, name), &fstest.MapFile{Data: []byte(target), Mode: fs.ModeSymlink | 0o777})
			continue
		case op < 90: // something that is no file
			plant(tree, path.Join(at, name), &fstest.MapFile{Mode: fs.ModeNamedPipe | 0o644})
			continue
		}
		text := nastyTexts[int(program[i+2])%len(nastyTexts)]
		held = strings.Repeat(text, 1+int(program[i+1])*int(program[i+2])%2000) + held
		if held = held[:min(len(held), 4_000)]; program[i+1]%5 == 0 {
			held = text
		}
		plant(tree, path.Join(at, name), &fstest.MapFile{Data: []byte(held), Mode: 0o644})
	}
	return tree
}

// plant adds a file unless it would stand in the way of the good neighbour, or in another file.
func plant(tree fstest.MapFS, at string, file *fstest.MapFile) {
	if !fs.ValidPath(at) || strings.HasPrefix(at, "zz-good") || at == ".wexo.yaml" && strings.Contains(string(file.Data), "leave-out") {
		return
	}
	for dir := path.Dir(at); dir != "."; dir = path.Dir(dir) {
		if tree[dir] != nil {
			return
		}
	}
	for other := range tree {
		if strings.HasPrefix(other, at+"/") {
			return
		}
	}
	tree[at] = file
}

// FuzzTree: whatever stands in a tree, the good neighbour is read, within the budget, and
// every claim has a place.
func FuzzTree(f *testing.F) {
	r := newReader(f)
	for i := range 40 {
		seed := make([]byte, 240)
		for k := range seed {
			seed[k] = byte(i*31 + k*k*7 + k/3)
		}
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, program []byte) {
		for _, worktree := range []bool{false, true} {
			got := r.ReadTree(t.Context(), grow(program), reading.Options{WorkingTree: worktree, Called: policy.Called{Name: "beds"}})
			good := false
			for _, c := range got.Claims {
				good = good || c.File == "zz-good/.node-version" && c.Raw == "22"
				if c.Line < 0 || c.File == "" || !fs.ValidPath(c.File) {
					t.Fatalf("%s has no place", detailed(c))
				}
			}
			if !good || got.Ended != "" {
				t.Fatalf("the good neighbour was not read (working tree: %v): %s %v", worktree, got.Ended, got.Problems)
			}
			for _, p := range got.Problems {
				if strings.Contains(p.Reason, reading.ErrFault.Error()) {
					t.Fatal(p.Reason)
				}
				if text := fmt.Sprint(p); len(text) > 20_000 {
					t.Fatalf("a problem repeats the file: %.300s", text)
				}
			}
		}
	})
}
