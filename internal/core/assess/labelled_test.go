package assess_test

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"wexo/internal/core/assess"
	"wexo/internal/core/sentence"
)

// labelled is a repository with what a careful person said of it after reading it: its
// causes, how many findings may be printed, and what may and may not be advised.
type labelled struct {
	name  string
	files map[string]string
	want  []string
}

// labelledRepositories are those of testdata/causes. A file named beds/%03d/x stands for as
// many as "repeat" says.
func labelledRepositories(t testing.TB) []labelled {
	t.Helper()
	names, err := filepath.Glob("testdata/causes/*.txt")
	require.NoError(t, err)
	var out []labelled
	for _, name := range names {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		now, times := map[string]string{}, 0
		for _, f := range txtar.Parse(data).Files {
			switch f.Name {
			case "repeat":
				times, err = strconv.Atoi(strings.TrimSpace(string(f.Data)))
				require.NoError(t, err)
			case "want":
				out = append(out, labelled{fmt.Sprintf("%s/%d", filepath.Base(name), len(out)), expanded(now, times), strings.Split(strings.TrimSpace(string(f.Data)), "\n")})
				now, times = map[string]string{}, 0
			default:
				now[f.Name] = string(f.Data)
			}
		}
	}
	return out
}

func expanded(files map[string]string, times int) map[string]string {
	out := map[string]string{}
	for name, content := range files {
		if !strings.Contains(name, "%") {
			out[name] = content
			continue
		}
		for n := range times {
			out[fmt.Sprintf(name, n)] = content
		}
	}
	return out
}

// TestLabelledCauses: of every labelled repository the causes are those that were named, no
// more findings are printed than may be, and all that is advised may be advised.
func TestLabelledCauses(t *testing.T) {
	all := labelledRepositories(t)
	require.GreaterOrEqual(t, len(all), 80)
	for _, l := range all {
		found, fleet := newGarden(l.files, bench(), agent()).look(t)
		teller := sentence.For(fleet, day)
		var said strings.Builder
		counted, apart := 0, 0
		for _, f := range found {
			message, remedy := teller.Tell(f)
			if f.Apart {
				apart++
				continue
			}
			counted++
			fmt.Fprintf(&said, "%s in %q: %s\n  -> %s\n", f.Class.Name, f.Folder, message, remedy)
		}
		var causes []string
		for _, c := range assess.Causes(found) {
			tool := "-"
			if c.Tool != nil {
				tool = c.Tool.Name
			}
			causes = append(causes, c.Class.Name+" "+tool)
			assert.NotEmpty(t, teller.Cause(c))
		}
		l.check(t, causes, counted, apart, said.String())
	}
}

func (l labelled) check(t *testing.T, causes []string, counted, apart int, said string) {
	t.Helper()
	shown := fmt.Sprintf("%s %v\n%s", l.name, slices.Sorted(maps.Keys(l.files))[:min(len(l.files), 3)], said)
	var named []string
	for _, line := range l.want {
		word, rest, _ := strings.Cut(line, " ")
		n, _ := strconv.Atoi(rest)
		switch word {
		case "cause":
			named = append(named, rest)
		case "most":
			assert.LessOrEqual(t, counted, n, shown)
		case "apart":
			assert.Equal(t, n, apart, shown)
		case "says":
			assert.Contains(t, said, rest, shown)
		case "never":
			for remedy := range strings.Lines(said) {
				if strings.HasPrefix(remedy, "  -> ") {
					assert.NotContains(t, remedy, rest, shown)
				}
			}
		default:
			t.Errorf("%s: unknown label %q", l.name, line)
		}
	}
	assert.ElementsMatch(t, named, causes, shown)
}
