package assess_test

import (
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/sentence"
)

// situation is a folder that was labelled before it was judged.
type situation struct {
	line  string
	label string   // holds, broken or may
	names []string // what a finding is about, in any order
	files map[string]string
}

func situations(t *testing.T) []situation {
	t.Helper()
	data, err := os.ReadFile("testdata/together.txt")
	require.NoError(t, err)
	var out []situation
	for line := range strings.Lines(string(data)) {
		line = strings.TrimRight(line, "\n")
		if line == "" || line[0] == '#' {
			continue
		}
		parts := strings.Split(line, " | ")
		label := strings.Fields(parts[0])
		s := situation{line: line, label: label[0], names: label[1:], files: map[string]string{}}
		slices.Sort(s.names)
		for _, part := range parts[1:] {
			name, content, found := strings.Cut(part, ": ")
			require.True(t, found, line)
			s.files[name] = strings.ReplaceAll(content, `\n`, "\n") + "\n"
		}
		out = append(out, s)
	}
	return out
}

// empty is a machine that has nothing: what is asked for decides.
func empty() inventory.Inventory {
	inv := bench()
	inv.Installations, inv.FirstOnPath, inv.Defaults, inv.Overrides = nil, nil, nil, nil
	return inv
}

// TestWhatGoesTogether: of every labelled folder exactly what does not go together is found,
// whatever the machines have, and as sure as it is.
func TestWhatGoesTogether(t *testing.T) {
	all := situations(t)
	require.GreaterOrEqual(t, len(all), 120)
	for _, s := range all {
		found, fleet := newGarden(s.files, empty()).look(t)
		teller := sentence.For(fleet, day)
		var broken []*assess.Finding
		var said strings.Builder
		for _, f := range found {
			if f.Class.Name == "tools-incompatible" {
				message, remedy := teller.Tell(f)
				said.WriteString("\n" + message + "\n  -> " + remedy)
				broken = append(broken, f)
			}
		}
		if s.label == "holds" {
			assert.Empty(t, broken, s.line+said.String())
			continue
		}
		if !assert.Len(t, broken, 1, s.line+said.String()) {
			continue
		}
		names := broken[0].Tools()
		slices.Sort(names)
		assert.Equal(t, s.names, names, s.line)
		assert.Equal(t, s.label == "broken", broken[0].Verdict.Tied.Sure, s.line+said.String())
		assert.Equal(t, s.label == "may", strings.Contains(said.String(), " may not "), s.line+said.String())
		assert.NotEmpty(t, broken[0].Evidence, s.line)
		for _, e := range broken[0].Evidence {
			assert.Contains(t, said.String(), e.File, s.line)
		}
	}
}

// TestTheJointAnswerAgrees: whatever is told not to go together is part of a conflict of the
// joint answer, and where a rule is part of one it is told. What rests on a build's label the
// joint answer leaves out.
func TestTheJointAnswerAgrees(t *testing.T) {
	conflicts := 0
	for _, s := range situations(t) {
		g := newGarden(s.files, empty())
		result, facts, fleet := g.judge(t)
		viewed, joint := facts.Reconciling(policy.Policy{}, fleet, day).Folder(result, "")
		require.NotNil(t, viewed, s.line)
		require.True(t, joint.Decided, s.line)
		told := slices.ContainsFunc(result.Findings, func(f *assess.Finding) bool {
			return f.Class.Name == "tools-incompatible" && !slices.ContainsFunc(f.Verdict.Tied.Ends, func(e assess.BrokenEnd) bool { return e.Of == assess.OfLabel })
		})
		ruled := slices.ContainsFunc(joint.Chain, func(l assess.Link) bool { return l.Rule != nil })
		assert.Equal(t, told, ruled, s.line)
		if !joint.Feasible {
			conflicts++
			assert.True(t, joint.Smallest, s.line)
			assert.NotEmpty(t, joint.Chain, s.line)
		}
		for _, c := range joint.Choices {
			assert.NotEmpty(t, c.Text, s.line)
		}
	}
	assert.Greater(t, conflicts, 60)
}
