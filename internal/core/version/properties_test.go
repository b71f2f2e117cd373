package version

import (
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// written are ranges as people write them, a dialect a list. Properties draw from them
// and change their numbers.
var written = map[string][]string{
	"npm": {"^1.2.3", "~1.2", ">=1.2.3 <2.1", "1 || 2.x || >=4", "1.2 - 2.3", "^1.2.3-beta.2", "<=2", ">1.2.3-rc.1 <1.2.4", "*", "=1.2.3", ">2 <1", "^0.0.3"},
	"pep440": {">=3.1,<4", "~=3.1.2", "==3.1.*", "!=3.1.*,>=2", "==3.1.2", "!=3.1.2", ">3.1", "<3.1", ">=3.1a1", ">3.1a1", "<=3.1.post1", "===3.1", "==3.1+local", "~=1.2.post1",
		"", ">1.2.post1", "<1.2.post1"},
	"maven":         {"[1,2)", "(,1],[2,)", "[1.2]", "(1,2]", "1.2", "[1-alpha,1]", "(,1.2-beta-1)", "[1-sp,2-SNAPSHOT]"},
	"rubygems":      {"~> 1.2", ">= 1.2, < 3", "!= 1.2", "~> 1.2.a", "= 1.2.3", "> 1.a", "<= 2.0.0.1"},
	"cargo":         {"1.2", "=1.2.3", "~1.2.3", ">=1.2, <1.5", "1.*", "*", "^0.0.3", "1.2.3-rc.1", "<=1.2.3-a, >=1.2.3-a"},
	"composer":      {"^1.2", "~1.2.3", "1.2.* | ^3", ">=1.2 <3", "1.2 - 2.3", "dev-main", "!=1.2", ">1.2@beta", "1.2-beta1", "*", "!=dev-main"},
	"pub":           {"^1.2.3", ">=1.2.3 <2.0.0", "any", "1.2.3", "1.2.3+4", ">1.2.3-dev <1.2.3", "<=1.2.3+4"},
	"hex":           {"~> 1.2", "~> 1.2.3", ">= 1.2.3 and < 2.0.0 or == 3.0.0", "!= 1.2.3", "> 1.2.3-rc.1"},
	"terraform":     {"~> 1.2", ">= 1.2, != 1.3.0, < 2", "1.2.3-beta1", "~> 1.2.3-beta1", "!= 1.2.3-beta1", "> 1.2.3-beta1"},
	"go-minimum":    {"1.2", "1.22", "1.22.1", "1.21rc1"},
	"cmake-minimum": {"3.16", "3.16...3.28"},
	"image-tag":     {"20.11-alpine3.19", "3-slim", "1.2.3-rc.1-slim"},
	"plain":         {"1", "1.2", "1.2.3", "2.x", "*", "1.2.3-rc.1"},
	"setup":         {"^1.2", "~1.2.3", ">=1.2 <3", "1.x || 3", "1.2 - 2.3", ">1.2", "<=1.2.3-rc.1", "*"},
}

// renumbered is the text with small changes to its numbers.
func renumbered(t *rapid.T, text string) string {
	var b strings.Builder
	for text != "" {
		digits, rest := cutDigits(text)
		if digits == "" {
			b.WriteByte(text[0])
			text = text[1:]
			continue
		}
		if rapid.IntRange(0, 2).Draw(t, "change") == 0 {
			digits = strconv.Itoa(rapid.IntRange(0, 4).Draw(t, "number"))
		}
		b.WriteString(digits)
		text = rest
	}
	return b.String()
}

// drawSet is a range of the dialect, perhaps turned inside out or joined with another.
func drawSet(t *rapid.T, dialect string) Set {
	for {
		set, err := ParseRange(dialect, NoScheme, renumbered(t, rapid.SampledFrom(written[dialect]).Draw(t, "range")))
		if err != nil {
			continue
		}
		switch rapid.IntRange(0, 4).Draw(t, "turn") {
		case 0:
			return set.Complement()
		case 1:
			return set.Unite(drawSet(t, dialect))
		}
		return set
	}
}

// drawMember is a version that the dialect's sets may contain.
func drawMember(t *rapid.T, s Scheme) Version {
	for {
		group := rapid.SampledFrom(ordered[s]).Draw(t, "version")
		if v, err := s.Parse(renumbered(t, rapid.SampledFrom(strings.Split(group, "=")).Draw(t, "spelling"))); err == nil {
			return v
		}
	}
}

// TestSetLaws: what the algebra says of sets holds for every version asked of them, in
// every dialect.
func TestSetLaws(t *testing.T) {
	for _, dialect := range DialectNames() {
		t.Run(dialect, func(t *testing.T) { rapid.Check(t, func(t *rapid.T) { checkSetLaws(t, dialect) }) })
	}
}

func checkSetLaws(t *rapid.T, dialect string) {
	a, b := drawSet(t, dialect), drawSet(t, dialect)
	v := drawMember(t, a.Scheme())
	inA, inB := a.Contains(v), b.Contains(v)
	check := func(law string, ok bool) {
		if !ok {
			t.Fatalf("%s fails for %s and %s and %s", law, a.Canonical(), b.Canonical(), v)
		}
	}
	check("intersection", a.Intersect(b).Contains(v) == (inA && inB))
	check("union", a.Unite(b).Contains(v) == (inA || inB))
	check("difference", a.Minus(b).Contains(v) == (inA && !inB))
	check("complement", a.Complement().Contains(v) == !inA)
	check("De Morgan", a.Unite(b).Complement().Equal(a.Complement().Intersect(b.Complement())))
	check("idempotence", a.Unite(a).Equal(a) && a.Intersect(a).Equal(a))
	check("absorption", a.Unite(a.Intersect(b)).Equal(a) && a.Intersect(a.Unite(b)).Equal(a))
	check("double complement", a.Complement().Complement().Equal(a))
	check("excluded middle", a.Unite(a.Complement()).Equal(All(a.Scheme())) && a.Intersect(a.Complement()).IsEmpty())
	check("subset without what is outside", a.SubsetOf(b) == a.Minus(b).IsEmpty() && a.WithPrereleases().SubsetOf(b) == a.WithPrereleases().Minus(b).IsEmpty())
	check("overlap", a.Overlaps(b) == !a.Intersect(b).IsEmpty() && !a.Overlaps(a.Complement()))
	check("subset", a.Intersect(b).SubsetOf(a) && a.SubsetOf(a.Unite(b)) && (!a.SubsetOf(b) || !inA || inB))
	check("emptiness", !inA || !a.IsEmpty())
	check("explanation", (a.Explain(v) == "") == inA)
	check("commutation", a.Intersect(b).Canonical() == b.Intersect(a).Canonical() && a.Unite(b).Canonical() == b.Unite(a).Canonical())
}

// TestSetsReadBack: the canonical form of any set reads back as that set.
func TestSetsReadBack(t *testing.T) {
	for _, dialect := range DialectNames() {
		t.Run(dialect, func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				a := drawSet(t, dialect).Intersect(drawSet(t, dialect))
				text := a.Canonical()
				again, err := ParseSet(a.Scheme(), text)
				if err != nil {
					t.Fatal(err)
				}
				if again.Canonical() != text || !again.Equal(a) {
					t.Fatalf("%s reads back as %s", text, again.Canonical())
				}
				v := drawMember(t, a.Scheme())
				if again.Contains(v) != a.Contains(v) {
					t.Fatalf("%s, read back, differs on %s", text, v)
				}
			})
		})
	}
}

func TestNotASet(t *testing.T) {
	for _, text := range []string{"", ">=", ">=x", "1.2.3.4", "local >=1.0.0", "prereleases", ">=1*x", "+*"} {
		_, err := ParseSet(Semver, text)
		assert.Error(t, err, text)
	}
	_, err := ParseSet(NoScheme, "*")
	assert.Error(t, err)
}

// TestContradictionOfMany: forty claims that only all together contradict each other are
// not tried in every combination.
func TestContradictionOfMany(t *testing.T) {
	sets := make([]Set, 40)
	for i := range sets {
		one, err := ParseRange("plain", Semver, strconv.Itoa(i))
		require.NoError(t, err)
		all, err := ParseRange("npm", Semver, ">=0.0.0 <40.0.0")
		require.NoError(t, err)
		sets[i] = all.Minus(one)
	}
	found := Contradiction(append([]Set{sets[3], All(Semver)}, sets...))
	assert.Len(t, found, 40, "each leaves one line out, and repeated or empty claims are not named")
}

// TestOrderIsTotal: comparing is antisymmetric and transitive in every scheme, equal
// versions are interchangeable, and a version reads back from its own text.
func TestOrderIsTotal(t *testing.T) {
	for scheme := Semver; int(scheme) < len(schemes); scheme++ {
		t.Run(scheme.String(), func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				v := []Version{drawMember(t, scheme), drawMember(t, scheme), drawMember(t, scheme)}
				if v[0].Compare(v[1]) != -v[1].Compare(v[0]) {
					t.Fatalf("%s and %s are not antisymmetric", v[0], v[1])
				}
				if v[0].Compare(v[1]) == 0 && v[0].Compare(v[2]) != v[1].Compare(v[2]) {
					t.Fatalf("%s and %s are equal, but not against %s", v[0], v[1], v[2])
				}
				slices.SortFunc(v, Version.Compare)
				if v[0].Compare(v[2]) > 0 {
					t.Fatalf("%s, %s and %s are not transitive", v[0], v[1], v[2])
				}
				again, err := scheme.Parse(v[0].String())
				if err != nil || again.Compare(v[0]) != 0 {
					t.Fatalf("%q reads back as %s (%v)", v[0], again, err)
				}
			})
		})
	}
}

// TestCutsAreOrdered: a version lies in the set from itself on, and nothing older does.
func TestCutsAreOrdered(t *testing.T) {
	for scheme := Semver; int(scheme) < len(schemes); scheme++ {
		rapid.Check(t, func(t *rapid.T) {
			v, w := drawMember(t, scheme), drawMember(t, scheme)
			if AtLeast(v).Contains(w) != (w.Compare(v) >= 0) {
				t.Fatalf("%s: %s and at least %s", scheme, w, v)
			}
			if LessThan(v).Contains(w) != (w.Compare(v) < 0) {
				t.Fatalf("%s: %s and less than %s", scheme, w, v)
			}
			if Exactly(v).Contains(w) != (w.Compare(v) == 0 && w.class == v.class) {
				t.Fatalf("%s: %s and exactly %s", scheme, w, v)
			}
		})
	}
}

// TestSmallestContradiction: what is named cannot hold together, and would without any one of it.
func TestSmallestContradiction(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var sets []Set
		for range rapid.IntRange(1, 6).Draw(t, "count") {
			sets = append(sets, drawSet(t, "npm"))
		}
		together := func(among []int) Set {
			out := All(Semver)
			for _, i := range among {
				out = out.Intersect(sets[i])
			}
			return out
		}
		everything := make([]int, len(sets))
		for i := range everything {
			everything[i] = i
		}
		found := Contradiction(sets)
		if (found == nil) == together(everything).IsEmpty() {
			t.Fatalf("found %v of %v", found, sets)
		}
		if found == nil {
			return
		}
		if !together(found).IsEmpty() {
			t.Fatalf("%v of %v can hold together", found, sets)
		}
		for n := range found {
			if together(slices.Delete(slices.Clone(found), n, n+1)).IsEmpty() {
				t.Fatalf("%v of %v is not the smallest", found, sets)
			}
		}
	})
}

func TestContradictionNamesTheFirstSmallest(t *testing.T) {
	var sets []Set
	for _, raw := range []string{">=1", "^18", ">=16", "^20", "18.x", "^22"} {
		set, err := ParseRange("npm", Semver, raw)
		require.NoError(t, err)
		sets = append(sets, set)
	}
	assert.Equal(t, []int{1, 3}, Contradiction(sets))
	assert.Nil(t, Contradiction(sets[:3]))
	assert.Nil(t, Contradiction(nil))
	three := make([]Set, 3)
	for i, raw := range []string{"18 || 20", "18 || 22", "20 || 22"} {
		three[i], _ = ParseRange("npm", Semver, raw)
	}
	assert.Equal(t, []int{0, 1, 2}, Contradiction(three), "no two of them alone contradict each other")
	assert.Equal(t, []int{1}, Contradiction([]Set{three[0], None(Semver)}))
	assert.Nil(t, Contradiction([]Set{three[0], All(Semver)}))
}
