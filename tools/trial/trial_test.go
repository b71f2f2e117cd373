package main

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func written(t *testing.T, name, text string) string {
	t.Helper()
	at := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	return at
}

// TestADrawFollowsFromItsSeed and from the lists alone; another seed draws others.
func TestADrawFollowsFromItsSeed(t *testing.T) {
	var index, list strings.Builder
	for _, name := range []string{"libfern-java", "ruby-moss", "python-bed", "kiosk"} {
		index.WriteString("Package: " + name + "\nVersion: 1.0-1\nGo-Import-Path: garden.invalid/" + name + "\nFiles:\n 0 100 " + name + "_1.0.orig.tar.gz\n\n")
	}
	index.WriteString("Package: native\nVersion: 1\nFiles:\n 0 100 native_1.tar.xz\n\n")
	for i := range 400 {
		list.WriteString(strings.Repeat("x", i%7) + string(rune('a'+i%26)) + strings.Repeat("y", i/26) + "\t1.0.0\t9000\tlabels\n")
	}
	sources, npm := written(t, "Sources", index.String()), written(t, "npm.tsv", list.String())
	drawn := func(seed string) string {
		var out bytes.Buffer
		require.NoError(t, run([]string{"draw", "-seed", seed, "-npm", npm, "-sources", sources, "-modules", "2"}, nil, &out))
		return out.String()
	}
	assert.Equal(t, drawn("1"), drawn("1"))
	assert.NotEqual(t, drawn("1"), drawn("2"))
	assert.Equal(t, 2, strings.Count(drawn("1"), "module garden.invalid/"))
	assert.NotContains(t, drawn("1"), "native", "what is the distribution's own has no tree of somebody else's")
	lines := strings.Split(strings.TrimSpace(drawn("1")), "\n")
	seen := map[string]bool{}
	for _, l := range lines {
		assert.False(t, seen[l], l)
		seen[l] = true
	}
}

// TestComparing: what was labelled and not heard, and what was heard and not labelled, is told.
func TestComparing(t *testing.T) {
	labels := written(t, "labels", "bed\tgo.mod:3\tbound\tgo\t1.26\nbed\tMakefile:1\tsetup\tgo\t1.25\n")
	report := written(t, "report", `{"repositories": [{"name": "bed", "folders": [{"tools": [{"tool": "go", "claims": [
		{"role": "bound", "raw": "1.26.0", "file": "go.mod", "line": 3}, {"role": "component", "raw": "9", "file": "x", "line": 1},
		{"role": "setup", "raw": "1.27", "file": "Dockerfile", "line": 1}]}]}]}], "causes": [{}]}`)
	var out bytes.Buffer
	require.NoError(t, run([]string{"compare", "-labels", labels, "-report", report}, nil, &out))
	assert.Equal(t, "missed\tbed\tMakefile:1\tsetup\tgo\t1.25\nextra\tbed\tDockerfile:1\tsetup\tgo\t1.27\n1 of 2 labels heard; 2 claims, 1 of them without a label; 1 causes\n", out.String())
	assert.ErrorContains(t, run([]string{"compare", "-labels", written(t, "bad", "a\tb\n"), "-report", report}, nil, &out), "2 cells, not five")
	assert.ErrorContains(t, run([]string{"sow"}, nil, &out), "none of draw, fetch and compare")
	assert.ErrorContains(t, run(nil, nil, &out), "name what to do")
}

// TestTheTrialsAreWhole: every label is of a tree that its list names.
func TestTheTrialsAreWhole(t *testing.T) {
	for _, draw := range []string{"first", "second", "third"} {
		data, err := os.ReadFile(filepath.Join(draw, "trees.txt"))
		require.NoError(t, err)
		trees := map[string]bool{}
		for line := range strings.Lines(string(data)) {
			if words := strings.Fields(line); len(words) == 3 && words[0] != "#" {
				trees[folderOf(words[0], words[1])] = true
			}
		}
		assert.GreaterOrEqual(t, len(trees), 200, draw)
		labels, err := readLabels(filepath.Join(draw, "labels.txt"))
		require.NoError(t, err)
		for _, l := range labels {
			assert.True(t, trees[l.tree], "%s: %s", draw, l)
		}
	}
}
