package reading_test

import (
	"fmt"
	"io/fs"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
)

func told(r fact.Reading, kind claim.ProblemKind) []string {
	var out []string
	for _, p := range r.Problems {
		if p.Kind == kind {
			out = append(out, fmt.Sprintf("%s:%d %s", p.File, p.Line, p.Reason))
		}
	}
	return out
}

// TestRulesThatChangeNothing are told of, those that do something are not.
func TestRulesThatChangeNothing(t *testing.T) {
	got := readWith(t, map[string]string{
		".wexo.yaml": `claims:
  - {files: [ops/node.txt], tool: node}
  - {files: [ops/nod.txt], tool: node}
  - {files: [versions.json], tool: go, select: $.tools.go}
  - {files: [versions.json], tool: python, select: $.tools.py, dialect: pep440}
  - {files: [ops/ruby.txt], tool: ruby, applies-to: greenhouse}
leave-out: [legacy, vendor-old, "*.lock"]
`,
		"ops/node.txt": "22.3.0\n", "ops/ruby.txt": "3.3.1\n", "versions.json": `{"tools": {"py": "3.12"}}`, "legacy/.node-version": "8\n",
	})
	assert.Equal(t, []string{
		".wexo.yaml:3 no file that is read here is called ops/nod.txt",
		".wexo.yaml:4 nothing is found in the one file called versions.json by what it selects",
		".wexo.yaml:6 it applies to greenhouse, and there is no such folder",
		`.wexo.yaml:7 "vendor-old" leaves out nothing that would be read`,
		`.wexo.yaml:7 "*.lock" leaves out nothing that would be read`,
	}, told(got, claim.Idle))
	assert.Equal(t, []string{"pin node 22.3.0 @ops/node.txt:1:1", "pin python 3.12 @versions.json:1:19", "pin ruby 3.3.1 @ops/ruby.txt:1:1"}, shownAll(got))
}

// TestAppliesTo: a claim speaks for the folder that it names, and not for its file's.
func TestAppliesTo(t *testing.T) {
	got := readWith(t, map[string]string{
		".wexo.yaml": "claims:\n  - {files: [ops/*.txt], tool: node, applies-to: web}\n  - {files: [ops/go.env], tool: go, pattern: 'GO=(\\S+)', applies-to: ''}\n  - {files: [ops/py], tool: python}\n",
		"ops/a.txt":  "22.3.0\n", "ops/go.env": "GO=1.25\n", "ops/py": "3.12\n", "web/index.html": "",
	})
	folders := map[string]string{}
	for _, c := range got.Claims {
		folders[c.Tool] = c.Folder
	}
	assert.Equal(t, map[string]string{"node": "web", "go": "", "python": "ops"}, folders)
	assert.Empty(t, told(got, claim.Idle))
}

// TestRulesThatNobodyReads: under another name, or below the root.
func TestRulesThatNobodyReads(t *testing.T) {
	got := readWith(t, map[string]string{".wexo.yml": "tags: [a]\n", "web/.wexo.yaml": "tags: [b]\n", ".node-version": "22\n"})
	const why = "rules are read from .wexo.yaml in the repository's root folder alone"
	assert.Equal(t, []string{".wexo.yml:0 " + why, "web/.wexo.yaml:0 " + why}, told(got, claim.Idle))
	assert.Empty(t, told(readWith(t, map[string]string{".wexo.yaml": "tags: [a]\n"}), claim.Idle))
}

// TestMistakesComeInTheirOrder, whichever part of the rules they are of.
func TestMistakesComeInTheirOrder(t *testing.T) {
	got := readWith(t, map[string]string{".wexo.yaml": "rules:\n  - {name: a, when: {nod: \"*\"}, need: {node: \"*\"}, because: x}\nclaims:\n  - {files: [x], tool: nod}\ntgas: [a]\nplanned-end: soon\n"})
	assert.Equal(t, []string{
		`.wexo.yaml:2 "nod" is no tool or component that the catalogue knows; did you mean "node"?`,
		`.wexo.yaml:4 unknown tool "nod"; did you mean "node"?`,
		`.wexo.yaml:5 unknown key "tgas" in the file; did you mean "tags"?`,
		`.wexo.yaml:6 planned-end should be a date such as 2027-05-01, and it is "soon"`,
	}, told(got, claim.Mistaken))
	assert.Empty(t, told(got, claim.Unreadable))
}

// TestTheEstatesRulesThatDidSomething are named, so that of many repositories it can be told
// which did nothing in any; what is remembered of files does not change it.
func TestTheEstatesRulesThatDidSomething(t *testing.T) {
	r := newReader(t)
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	rules, _, problems := userrule.Parse([]byte("claims:\n  - {files: [ops/node.txt], tool: node}\n  - {files: [ops/none.txt], tool: node}\nleave-out: [legacy, never]\n"), c, true)
	require.Empty(t, problems)
	files := tree(map[string]string{"ops/node.txt": "22.3.0\n", "legacy/.node-version": "8\n"})
	memory := &reading.Memory{Stamp: func(file string, _ fs.DirEntry) string { return file }}
	for range 2 {
		got := r.ReadTree(t.Context(), files, reading.Options{Rules: rules, Remember: memory})
		assert.Equal(t, []string{rules.Claims[0].At.Ref(), rules.LeaveOut[0].At.Ref()}, got.Applied)
		assert.Empty(t, told(got, claim.Idle), "in one repository it need not do anything")
		memory.Settle()
	}
	assert.Equal(t, userrule.Place{Line: 3, N: 2}, rules.Claims[1].At)
}
