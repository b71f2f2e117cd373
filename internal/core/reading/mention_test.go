package reading_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/reading"
)

func mentioned(t *testing.T, files map[string]string) []string {
	t.Helper()
	var out []string
	for _, m := range newReader(t).Read(tree(files)).Mentions {
		out = append(out, fmt.Sprintf("%s %q %s:%d:%d %s", m.Tool, m.Raw, m.File, m.Line, m.Column, m.Reason))
	}
	return out
}

// TestMentions: what looks like a tool beside a version and makes no claim is told, once,
// with the reason; what is understood, and what is only called so, is not.
func TestMentions(t *testing.T) {
	for _, c := range []struct {
		name, file, content string
		want                []string
	}{
		{"another implementation", ".github/workflows/a.yml", "jobs:\n  a:\n    strategy: {matrix: {python: ['3.12', pypy-3.9]}}\n    steps:\n      - {uses: actions/setup-python@v5, with: {python-version: '${{ matrix.python }}'}}\n",
			[]string{`python "pypy-3.9" .github/workflows/a.yml:3:42 pypy is no vendor or build of Python that the catalogue knows`}},
		{"nothing defines it", ".github/workflows/a.yml", "jobs:\n  a:\n    steps:\n      - {uses: actions/setup-go@v5, with: {go-version: '${{ matrix.go }}'}}\n",
			[]string{`go "${{ matrix.go }}" .github/workflows/a.yml:4:57 nothing in the file says what ${{ matrix.go }} is`}},
		{"only a run knows", ".github/workflows/a.yml", "jobs:\n  a:\n    steps:\n      - {id: pick, run: ./pick >> $GITHUB_OUTPUT}\n      - {uses: actions/setup-go@v5, with: {go-version: '${{ steps.pick.outputs.go }}'}}\n",
			[]string{`go "${{ steps.pick.outputs.go }}" .github/workflows/a.yml:5:57 only a run knows what the step pick gives`}},
		{"far from any", ".github/workflows/a.yml", "env: {NODE_VERSION: 9000}\n",
			[]string{`node "9000" .github/workflows/a.yml:1:21 no version of Node.js is near this number`}},
		{"a step's own word", ".github/workflows/a.yml", "jobs:\n  a:\n    steps:\n      - {uses: shivammathur/setup-php@v2, with: {php-version: lowest}}\n",
			[]string{`php "lowest" .github/workflows/a.yml:4:63 a word of the step's own, no version of PHP`}},
		{"left out", ".github/workflows/a.yml", "jobs:\n  a:\n    strategy:\n      matrix:\n        exclude:\n          - {os: macos, node-version: 8}\n          - {os: macos, node-version: lts}\n",
			[]string{`node "8" .github/workflows/a.yml:6:39 left out of the matrix, or allowed to fail`}},
		{"allowed to fail", ".travis.yml", "matrix:\n  allow_failures:\n    - go: [1.21.x, tip]\n",
			[]string{`go "1.21.x" .travis.yml:3:12 left out of the matrix, or allowed to fail`}},
		{"a line that no rule reads", "Makefile", "all:\n\tinstall-python 3.12\n",
			[]string{`python "python 3.12" Makefile:2:10 no rule reads what stands here`}},
		{"a variable that is none", "Dockerfile", "FROM debian:12\nENV NODE_VERSION=none\n",
			[]string{`node "none" Dockerfile:2:18 no version of Node.js`}},
		{"a claim's own line", "Dockerfile", "FROM node:22\n", nil},
		{"a comment", "Dockerfile", "FROM debian:12\n# node 18 once\n", nil},
		{"a name", ".github/workflows/a.yml", "jobs:\n  node-18:\n    name: Node 18\n", nil},
		{"a step's own version", ".github/workflows/a.yml", "jobs:\n  a:\n    steps:\n      - uses: actions/setup-node@v4\n", nil},
		{"a package of that name", "package.json", `{"devDependencies": {"@types/node": "^22.1.0"}}`, nil},
		{"a file that cannot be read", "package.json", `{"engines": {"node": ">=22"`, nil},
		{"a line as a whole", "setup.cfg", "[metadata]\nclassifiers =\n  Programming Language :: Python :: 3\n", nil},
		{"when a dependency counts", "pyproject.toml", "[project]\ndependencies = [\n  \"tomli; python_version<'3.11'\",\n]\n", nil},
		{"a condition", ".github/workflows/a.yml", "jobs:\n  a:\n    if: matrix.java_version == '8'\n", nil},
		{"what is shown", "Makefile", "all:\n\techo \"needs python 3.12\"\n", nil},
		{"a dependency with a longer name", "composer.json", `{"require": {
"garden/beds-php": "^1.4"}}`, nil},
		{"a module", "go.mod", "module a.invalid/b\n\ngo 1.26\n\nrequire c.invalid/go v0.12.0\n", nil},
		{"a lock file", "package-lock.json", `{"packages": {"node_modules/x": {"engines": {"python": ">=3.9"}}}}`, nil},
	} {
		assert.Equal(t, c.want, mentioned(t, map[string]string{c.file: c.content}), c.name)
	}
}

// TestARuleTurnsAMentionIntoAClaim: what a rule of the user's reads is understood.
func TestARuleTurnsAMentionIntoAClaim(t *testing.T) {
	files := map[string]string{"Makefile": "all:\n\tinstall-python 3.12\n\tinstall-ruby 3.4\n"}
	assert.Len(t, mentioned(t, files), 2)
	files[".wexo.yaml"] = "claims: [{files: [Makefile], tool: python, pattern: 'install-python (\\S+)'}]\n"
	assert.Equal(t, []string{`ruby "ruby 3.4" Makefile:3:10 no rule reads what stands here`}, mentioned(t, files))
}

// TestMentionsAreFew: a file of nothing but mentions, and a tree of such files, end.
func TestMentionsAreFew(t *testing.T) {
	files := map[string]string{}
	for i := range 40 {
		files[fmt.Sprintf("f%d/Makefile", i)] = strings.Repeat("\tinstall-python 3.12\n", 3_000)
	}
	assert.Len(t, mentioned(t, files), reading.MaxMentions)
	assert.Len(t, mentioned(t, map[string]string{"Makefile": files["f0/Makefile"]}), 50)
}
