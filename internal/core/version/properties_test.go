package version

import (
	"encoding/json"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var (
	drawNumber = rapid.SampledFrom([]string{"0", "1", "2", "3", "10", "18", "20"})
	drawPre    = rapid.SampledFrom([]string{"", "", "", "-alpha", "-beta.1", "-rc.2", "-0", "-1a"})
	drawOp     = rapid.SampledFrom([]string{"", "^", "~", ">", "<", ">=", "<=", "=", "~>", "> "})
)

func drawVersion(t *rapid.T) string {
	return drawNumber.Draw(t, "major") + "." + drawNumber.Draw(t, "minor") + "." + drawNumber.Draw(t, "patch") + drawPre.Draw(t, "pre")
}

func drawPartial(t *rapid.T) string {
	switch rapid.IntRange(0, 5).Draw(t, "form") {
	case 0:
		return drawNumber.Draw(t, "major")
	case 1:
		return drawNumber.Draw(t, "major") + "." + drawNumber.Draw(t, "minor")
	case 2:
		return drawNumber.Draw(t, "major") + ".x"
	case 3:
		return rapid.SampledFrom([]string{"*", "1.*.*", "2.3.x"}).Draw(t, "wild")
	}
	return drawVersion(t)
}

func drawRange(t *rapid.T) string {
	var alternatives []string
	for range rapid.IntRange(1, 2).Draw(t, "alternatives") {
		if rapid.IntRange(0, 4).Draw(t, "hyphen") == 0 {
			alternatives = append(alternatives, drawPartial(t)+" - "+drawPartial(t))
			continue
		}
		var comparators []string
		for range rapid.IntRange(1, 2).Draw(t, "comparators") {
			comparators = append(comparators, drawOp.Draw(t, "op")+drawPartial(t))
		}
		alternatives = append(alternatives, strings.Join(comparators, " "))
	}
	return strings.Join(alternatives, " || ")
}

func mustRange(t *rapid.T) Set {
	raw := drawRange(t)
	set, err := ParseRange("npm", Semver, raw)
	if err != nil {
		t.Fatalf("%q: %v", raw, err)
	}
	return set
}

// TestSetLaws: what the algebra says of sets holds for every version asked of them.
func TestSetLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := mustRange(t), mustRange(t)
		v, err := Semver.Parse(drawVersion(t))
		if err != nil {
			t.Fatal(err)
		}
		inA, inB := a.Contains(v), b.Contains(v)
		check := func(law string, ok bool) {
			if !ok {
				t.Fatalf("%s fails for %s, %s and %s", law, a, b, v)
			}
		}
		check("intersection", a.Intersect(b).Contains(v) == (inA && inB))
		check("union", a.Unite(b).Contains(v) == (inA || inB))
		check("complement", a.Complement().Contains(v) == !inA)
		check("De Morgan", a.Unite(b).Complement().Equal(a.Complement().Intersect(b.Complement())))
		check("idempotence", a.Unite(a).Equal(a) && a.Intersect(a).Equal(a))
		check("double complement", a.Complement().Complement().Equal(a))
		check("subset", a.Intersect(b).SubsetOf(a) && a.SubsetOf(a.Unite(b)))
		check("emptiness", !inA || !a.IsEmpty())
	})
}

// TestOrderIsTotal: comparing is antisymmetric and transitive in every scheme.
func TestOrderIsTotal(t *testing.T) {
	for scheme, list := range ordered {
		var all []string
		for _, group := range list {
			all = append(all, strings.Split(group, "=")...)
		}
		draw := rapid.SampledFrom(all)
		rapid.Check(t, func(t *rapid.T) {
			var v [3]Version
			for i := range v {
				var err error
				if v[i], err = scheme.Parse(draw.Draw(t, "version")); err != nil {
					t.Fatal(err)
				}
			}
			if v[0].Compare(v[1]) != -v[1].Compare(v[0]) {
				t.Fatalf("%s and %s are not antisymmetric", v[0], v[1])
			}
			if v[0].Compare(v[1]) <= 0 && v[1].Compare(v[2]) <= 0 && v[0].Compare(v[2]) > 0 {
				t.Fatalf("%s, %s and %s are not transitive", v[0], v[1], v[2])
			}
		})
	}
}

// TestAgainstNpm compares ranges with npm's own reading, for generated ranges and versions.
func TestAgainstNpm(t *testing.T) {
	type question struct{ Range, Version string }
	var questions []question
	for seed := range 4000 {
		gen := rapid.Custom(func(t *rapid.T) question { return question{drawRange(t), drawVersion(t)} })
		questions = append(questions, gen.Example(seed))
	}
	input, err := json.Marshal(questions)
	require.NoError(t, err)
	npm, err := exec.LookPath("npm")
	require.NoError(t, err, "npm is needed, as the README says")
	real, err := filepath.EvalSymlinks(npm)
	require.NoError(t, err)
	cmd := exec.Command("node", "-e", `
		const semver = require("module").createRequire(process.argv[1])("semver");
		const list = JSON.parse(require("fs").readFileSync(0, "utf8"));
		console.log(JSON.stringify(list.map(q => semver.satisfies(q.Version, q.Range))));`, real)
	cmd.Stdin = strings.NewReader(string(input))
	out, err := cmd.Output()
	require.NoError(t, err)
	var answers []bool
	require.NoError(t, json.Unmarshal(out, &answers))
	require.Len(t, answers, len(questions))
	both := map[bool]int{}
	for i, q := range questions {
		set, err := ParseRange("npm", Semver, q.Range)
		require.NoError(t, err)
		v, err := Semver.Parse(q.Version)
		require.NoError(t, err)
		assert.Equal(t, answers[i], set.Contains(v), "%s in %q", q.Version, q.Range)
		both[answers[i]]++
	}
	assert.Greater(t, both[true], 200, "enough questions should be answered yes")
	assert.Greater(t, both[false], 200, "and no")
}

func FuzzParse(f *testing.F) {
	for _, list := range ordered {
		for _, group := range list {
			f.Add(group)
		}
	}
	f.Fuzz(func(t *testing.T, raw string) {
		for scheme := Semver; int(scheme) < len(schemes); scheme++ {
			v, err := scheme.Parse(raw)
			if err != nil {
				continue
			}
			if v.Compare(v) != 0 {
				t.Fatalf("%s %q differs from itself", scheme, raw)
			}
			again, err := scheme.Parse(v.String())
			if err != nil || again.Compare(v) != 0 {
				t.Fatalf("%s %q prints as %q, which reads as another version (%v)", scheme, raw, v, err)
			}
		}
	})
}

func FuzzParseRange(f *testing.F) {
	for _, raw := range []string{"^1.2.3-beta || 2.x", "1 - 2", ">=3.9,<4,!=3.10.*", "~=1.4.2", "1.22", "*", "20.x"} {
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw string) {
		for _, dialect := range DialectNames() {
			set, err := ParseRange(dialect, NoScheme, raw)
			if err == nil && !set.Intersect(set.Complement()).IsEmpty() {
				t.Fatalf("%s %q meets its complement", dialect, raw)
			}
		}
	})
}
