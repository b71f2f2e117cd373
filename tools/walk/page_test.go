package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const page = "# Beds\n\n<!-- walk: file trust/a.yaml -->\n```yaml\na: 1\n```\n\n```sh\n# a comment\nwexo survey ~/work   # a remark\nwexo serve   # until stopped\nwexo lines nod   # status 2\nwexo with x | source   # in fish\n```\n\n```console\n$ wexo lines nod\nwexo: unknown tool\n# status 2\n$ true\n```\n\n```\nnot a command\n```\n"

func TestBlocksAndSteps(t *testing.T) {
	list := blocks(page)
	require.Len(t, list, 4)
	assert.Equal(t, block{line: 5, language: "yaml", says: "file trust/a.yaml", lines: []string{"a: 1"}}, list[0])
	assert.Equal(t, []step{
		{line: 10, command: "wexo survey ~/work   # a remark"},
		{line: 11, command: "wexo serve", lasting: true},
		{line: 12, command: "wexo lines nod", status: "2"},
	}, steps(list[1]))
	assert.Equal(t, []step{
		{line: 17, command: "wexo lines nod", expect: []string{"wexo: unknown tool"}, status: "2"},
		{line: 20, command: "true", expect: []string{}},
	}, steps(list[2]))
	assert.Empty(t, list[2].says, "a comment is of the block behind it alone")
	assert.Empty(t, steps(list[3]))
}

func TestWhatComesBackIsCompared(t *testing.T) {
	for _, c := range []struct {
		expect, got []string
		same        bool
	}{
		{nil, nil, true},
		{nil, []string{"a"}, false},
		{[]string{"a  b"}, []string{"a b "}, true},
		{[]string{"a"}, []string{"a", "b"}, false},
		{[]string{"…"}, []string{"a", "b"}, true},
		{[]string{"…"}, nil, true},
		{[]string{"…", "b", "…"}, []string{"a", "b"}, true},
		{[]string{"…", "c", "…"}, []string{"a", "b"}, false},
		{[]string{"seen from … machines"}, []string{"seen from 4 machines"}, true},
		{[]string{"(a+b)…"}, []string{"(a+b) and more"}, true},
		{[]string{"(a+b)"}, []string{"aab"}, false},
	} {
		assert.Equal(t, c.same, matches(c.expect, c.got), "%q %q", c.expect, c.got)
	}
}

func TestAnchors(t *testing.T) {
	got := anchors("# The *service*, and more\n## What is run, and what never\n```\n# no heading\n```\n<a id=\"pin\"></a>**pin**\n")
	assert.Equal(t, map[string]bool{"the-service-and-more": true, "what-is-run-and-what-never": true, "pin": true}, got)
}
