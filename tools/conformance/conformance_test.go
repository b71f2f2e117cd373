package conformance

import (
	"flag"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A process a question makes dpkg slow: in a small run it gets a tenth of the questions.
var (
	pairs = flag.Int("pairs", 3000, "questions a reference")
	seed  = flag.Uint64("seed", 7, "where the generators start")
)

// TestConformance: Wexo answers as every reference does, but for what is decided.
func TestConformance(t *testing.T) {
	for _, r := range all() {
		t.Run(r.name, func(t *testing.T) {
			t.Parallel()
			count := *pairs
			if r.scheme == "debian" && count < 10_000 {
				count /= 10
			}
			out, err := r.run(count, *seed)
			require.NoError(t, err, "make tools installs what is missing")
			for _, d := range out.differ {
				assert.Fail(t, d.String())
			}
			t.Logf("%d questions: %d yes or not equal, %d refused, %d decided, %d differ", out.asked, out.telling, out.refused, out.decidedCount(), len(out.differ))
			for _, reason := range out.reasons() {
				t.Logf("%d decided: %s; for example %s", len(out.decided[reason]), reason, out.decided[reason][0])
			}
			assert.Greater(t, out.telling, count/25, "enough questions should be answered with yes, or with an order")
			assert.Less(t, out.refused, count*9/10, "not too many should be junk")
			assert.Less(t, out.decidedCount(), count/3, "decisions are exceptions")
		})
	}
}

// TestOnceDifferent: what was once read otherwise than by its own tool stays right. Each
// was found by generated questions; theirs is the reference's answer.
func TestOnceDifferent(t *testing.T) {
	agreed := []known{
		{"npm ranges", "^1.2.3-b||>=v1.9.0||^ x.1", "1.2.3-b", "false", "false", ""}, // an alternative that takes everything takes the others' prereleases away
		{"npm ranges", "<0.0.0-b >=0.0.x", "0.0.0-a", "true", "true", ""},            // ">=0.0.0" bounds nothing, not even prereleases
		{"npm ranges", ">=v0.0.0 || ^1.0.0-a", "1.0.0-a", "true", "true", ""},        // but with a v it does
		{"npm ranges", "~1.x.2", "1.0.1", "true", "true", ""},
		{"npm ranges", "1.x.2", "1.0.1", "error", "error", ""},
		{"npm ranges", "^ ", "1.0.0", "error", "error", ""},
		{"npm ranges", "~=  1.9.0", "1.9.1", "true", "true", ""},
		{"npm ranges", "> =1.1.4", "1.1.4", "true", "true", ""},
		{"npm ranges", "~> > 1.0.0", "1.0.1", "true", "true", ""},
		{"npm ranges", "+1.2.3 <2", "1.0.0", "true", "true", ""}, // builds are cut off first
		{"npm ranges", "x.4.0 - 1.4.2", "0.1.0", "true", "true", ""},
		{"npm ranges", "1.0.0 - v=2.0.0-a", "2.0.0-a", "true", "true", ""},
		{"npm ranges", "^9007199254740991.2.4", "1.0.0", "error", "error", ""},
		{"packaging ranges", ">1.0a1", "1.0.post1", "false", "false", ""},
		{"packaging ranges", ">1.0a1", "1.0a2+local", "false", "false", ""},
		{"packaging ranges", "<1.0.post1", "1.0.dev1", "false", "false", ""},
		{"packaging ranges", "==1.0.*", "1.post1", "true", "true", ""},
		{"packaging ranges", "===1.0", "1.0.0", "false", "false", ""},
		{"packaging ranges", "!=1.2.post.*", "1.3", "error", "error", ""},
		{"maven order", "1-alpha-1", "1-alpha", "1", "1", ""},
		{"maven order", "2.0.1", "2-1", "1", "1", ""},
		{"maven ranges", "[0,0]", "0.0", "true", "true", ""},
		{"maven ranges", "(0,0]", "0", "error", "error", ""},
		{"maven ranges", "[, )", "3", "true", "true", ""},
		{"maven ranges", "[1,2)", "2-alpha", "true", "true", ""},
		{"rubygems order", "1.0.a", "1.a", "0", "0", ""},
		{"rubygems order", "1pre", "1", "error", "error", ""},
		{"rubygems ranges", "~> 1--pre.1", "1-pre.1", "true", "true", ""},
		{"composer order", "dev-main", "0.1", "-1", "-1", ""},
		{"composer ranges", "0.1  -  0.1", "0.1", "error", "error", ""},
		{"composer ranges", "<0pl11@RC", "0pl1", "true", "true", ""},
		{"composer ranges", "!=vV0.2", "0.2", "error", "error", ""},
		{"composer ranges", "0.* | dev-x", "dev-x", "true", "true", ""},
		{"elixir ranges", "> 2.0.0 and < 3.0.0 or == 1.0.0", "1.0.0", "true", "true", ""}, // and binds more tightly
		{"elixir ranges", "> 1.0.0 or<3.0.0", "1.5.0", "error", "error", ""},
		{"cargo ranges", ">=1.2, >=1.2.5-a", "1.2.5-b", "false", "false", ""}, // a comparator with missing numbers admits no prerelease
		{"terraform ranges", "!= 1.0.0", "2.0.0-rc1", "true", "true", ""},
		{"terraform ranges", "~> 1.0.0-a", "1.0.0", "false", "false", ""},
		{"terraform ranges", "1.0.0beta", "1.0.0-beta", "true", "true", ""},
		{"java order", "21-ea", "21+1", "-1", "-1", ""},
		{"java order", "17.0.9+0", "17-ea+-x", "error", "error", ""},
		{"dpkg order", "1.0~rc1-1", "1.0-1", "-1", "-1", ""},
		{"dpkg order", "1:1.0", "2.0", "1", "1", ""},
		{"go/version order", "1.21", "1.21rc1", "-1", "-1", ""},
		{"go/version order", "1.21rc", "1.21rc0", "-1", "-1", ""},
	}
	askAll(t, agreed, func(known, reference, question) {})
}

// TestDecided: where Wexo answers otherwise on purpose, both answers stay what they were.
func TestDecided(t *testing.T) {
	decided := []known{
		{"maven order", "1.foo.2", "1-alpha", "-1", "1", "1-alpha < 1 < 1.foo.2, and Maven says so too: its order runs in a circle here"},
		{"maven order", "", "1", "-1", "error", "nothing is no version"},
		{"maven ranges", " [1]", "2", "true", "false", "a space before the bracket does not make it a wish"},
		{"npm ranges", "<2.11.*1", "2.1.1", "true", "error", "npm strikes the star out"},
		{"x/mod order", "1.2-rc", "1.3.0", "error", "-1", "the scheme semver reads missing numbers as zero before a prerelease too"},
		{"packaging ranges", "==2!1.0.*", "2!1.0", "false", "true", "an epoch was lost before .* until release 24 of the library"},
		{"packaging ranges", "~=9.0c.1", "9.1", "false", "true", "the text is normalised first: 9.0rc1"},
		{"composer ranges", "<2,~1.99999999999999999999", "1.0", "false", "error", "PHP counts on in fractions"},
		{"composer ranges", "11 - 0|^1", "1", "false", "true", "an alternative that holds nothing takes nothing from the other"},
		{"terraform ranges", "1.2.3.4", "1.2.3", "false", "error", "no version of Terraform or a provider has four numbers"},
		{"terraform ranges", "< 1.0.0-a.b", "1.0.0-a", "false", "true", "its order runs in a circle: a < a.1 < a.b < a"},
		{"java order", "17.0.9-LTS", "17.0.9", "-1", "0", "-LTS says of a release that it is supported for long"},
		{"java order", "1.8.0", "9", "error", "-1", "the old form: 1.8 is 8"},
		{"dpkg order", "1_0", "2", "-1", "error", "dpkg warns, and compares all the same"},
		{"dpkg order", "2", "-1-1", "-1", "error", "dpkg warns of a hyphen at the beginning too"},
	}
	askAll(t, decided, func(c known, r reference, q question) {
		if !r.circles || c.ours == "error" {
			assert.NotEmpty(t, r.decide(q, c.theirs, c.ours), "%q %q is decided by name", c.x, c.y)
		}
	})
}

// known is a question whose answers are known.
type known struct{ reference, x, y, theirs, ours, why string }

// askAll asks each reference its questions at once and checks both answers.
func askAll(t *testing.T, list []known, also func(known, reference, question)) {
	questions, asked := map[string][]question{}, map[string][]known{}
	for _, c := range list {
		q := question{"range", c.x, c.y}
		if strings.HasSuffix(c.reference, "order") {
			q.kind = "order"
		}
		questions[c.reference], asked[c.reference] = append(questions[c.reference], q), append(asked[c.reference], c)
	}
	for name, list := range questions {
		r := named(t, name)
		theirs, err := r.ask(list)
		require.NoError(t, err)
		require.Len(t, theirs, len(list))
		for i, q := range list {
			c := asked[name][i]
			assert.Equal(t, c.theirs, theirs[i], "%s: %q %q %s", name, c.x, c.y, c.why)
			assert.Equal(t, c.ours, r.ours(q), "Wexo, as %s: %q %q %s", name, c.x, c.y, c.why)
			also(c, r, q)
		}
	}
}

// TestCirclesAreShown: a difference is put down to a circle only where one is there.
func TestCirclesAreShown(t *testing.T) {
	maven := named(t, "maven order")
	found, err := maven.circular([]pair{{"1.foo.2", "1-alpha"}, {"1.0", "2.0"}, {"1-alpha", "1-beta"}, {"1.0", "1"}})
	require.NoError(t, err)
	assert.Equal(t, []bool{true, false, false, false}, found)
}

func named(t *testing.T, name string) reference {
	t.Helper()
	for _, r := range all() {
		if strings.HasPrefix(r.name, name) {
			return r
		}
	}
	require.Fail(t, "no reference "+name)
	return reference{}
}
