package assess

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/policy"
)

// TestWhichRuleTakesAway: the one that names the file, its folder or its tool; else one that could.
func TestWhichRuleTakesAway(t *testing.T) {
	written := []policy.OwnRule{
		{Kind: "tags", Text: "a", Line: 1}, {Kind: "leave-out", Text: "docs", Line: 2}, {Kind: "leave-out", Text: "app/**", Line: 3}, {Kind: "apart", Text: "lab", Line: 4},
		{Kind: "unpinned-is-fine", Text: "go", Line: 5}, {Kind: "claims", Text: "ops/*.env", Line: 6}, {Kind: "planned-end", Text: "2029-01-01", Line: 7}, {Kind: "built-by", Text: "agents", Line: 8},
	}
	b := &blame{written: written, known: map[blamedFor]int{}}
	for what, line := range map[blamedFor]int{
		{file: "docs/.node-version", folder: "docs"}:                      2,
		{file: "app/deep/.node-version", folder: "app/deep"}:              3,
		{file: "lab/x", folder: "lab/x", class: "end-of-life"}:            4,
		{class: "pin-missing", tool: "go"}:                                5,
		{file: "ops/a.env", tool: "go"}:                                   6,
		{file: "x", class: "support-ending", tool: "node"}:                7,
		{file: "x", class: "toolchain-missing", tool: "node"}:             8,
		{class: "pin-missing", tool: "node"}:                              8,
		{file: "app/deep/.node-version", folder: "", class: "x"}:          3,
		{file: "other/app/deep/.node-version", folder: "other", tool: ""}: 8,
	} {
		if at := b.of(what); assert.GreaterOrEqual(t, at, 0, "%v", what) {
			assert.Equal(t, line, written[at].Line, "%v", what)
		}
	}
	assert.Equal(t, -1, (&blame{known: map[blamedFor]int{}}).of(blamedFor{file: "x"}), "nobody wrote a rule")
}

// TestBlameHasAnEnd: a repository's own globs against all that it claims are compared so often and
// no oftener.
func TestBlameHasAnEnd(t *testing.T) {
	b := &blame{known: map[blamedFor]int{}}
	for range 200 {
		b.written = append(b.written, policy.OwnRule{Kind: "leave-out", Text: strings.Repeat("**/a*", 20) + "/b"})
	}
	for i := range 5_000 {
		file := strings.Repeat("aa/", 30) + strings.Repeat("x", i%50) + string(rune('a'+i%26))
		assert.Zero(t, b.of(blamedFor{file: file}), "the first that could")
	}
	assert.Equal(t, mostLooked, b.looked)
}
