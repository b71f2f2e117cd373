package document

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/theory/jsonpath"
	"pgregory.net/rapid"
)

// TestSelectorsLeadWhereTheLibraryDoes: only the budget is ours.
func TestSelectorsLeadWhereTheLibraryDoes(t *testing.T) {
	leaf := rapid.Custom(func(t *rapid.T) any {
		return rapid.SampledFrom([]any{"20", "x", 3.5, true, nil}).Draw(t, "leaf")
	})
	var value func(depth int) *rapid.Generator[any]
	value = func(depth int) *rapid.Generator[any] {
		return rapid.Custom(func(t *rapid.T) any {
			switch kind := rapid.IntRange(0, 3).Draw(t, "kind"); {
			case depth == 0 || kind == 0:
				return leaf.Draw(t, "v")
			case kind == 1:
				return any(rapid.SliceOfN(value(depth-1), 0, 4).Draw(t, "list"))
			}
			return any(rapid.MapOfN(rapid.SampledFrom([]string{"a", "b", "c"}), value(depth-1), 0, 3).Draw(t, "map"))
		})
	}
	segments := rapid.SliceOfN(rapid.SampledFrom([]string{".a", ".b", "['c']", "[*]", "..a", "..[*]", "[0]", "[-1]", "[0:2]", "[::-1]", "[::2]", "['a','b']",
		"[?@.a]", "[?@.a=='20' || @.b==3.5]", "[?@=='x']", "..[?@.b]", "[?!@.c]", "[?count(@['a'])==1]"}), 1, 4)
	rapid.Check(t, func(t *rapid.T) {
		doc := value(4).Draw(t, "document")
		text := "$" + strings.Join(segments.Draw(t, "segments"), "")
		data, err := json.Marshal(doc)
		require.NoError(t, err)
		s, err := compileJSONPath(text)
		require.NoError(t, err, text)
		parsed, err := Parse("json", Source{data, Selectors{text: s}, NewBudget(t.Context())})
		require.NoError(t, err)
		var got []string
		for _, n := range parsed.(*Tree).Nodes(text) {
			got = append(got, fmt.Sprint(n.standard()))
		}
		var want []string
		for _, v := range jsonpath.MustParse(text).Select(doc) {
			want = append(want, fmt.Sprint(v))
		}
		slices.Sort(got)
		slices.Sort(want)
		assert.Equal(t, want, got, "%s of %s", text, data)
	})
}

// TestCountedMatchesAreTheSame as those of the library.
func TestCountedMatchesAreTheSame(t *testing.T) {
	for _, text := range []string{`(a+)b?`, `(?m)^(\w*)$`, `\b(a|ab)(?:c)?`, `(x*)`, `(?s)a(.*)b`, `(ä)\B`} {
		re := regexp.MustCompile(text)
		rapid.Check(t, func(t *rapid.T) {
			data := []byte(rapid.StringOf(rapid.SampledFrom([]rune("abcx ä\n"))).Draw(t, "text"))
			assert.Equal(t, re.FindAllSubmatchIndex(data, most), findCounted(re, sizeOf(re), data, NewBudget(t.Context())), "%s in %q", text, data)
		})
	}
}
