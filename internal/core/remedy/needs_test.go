package remedy

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/version"
)

func node(t *testing.T) *catalogue.Tool {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	one, known := c.Tool("node")
	require.True(t, known)
	return one
}

func asking(t require.TestingT, c *choosing, texts ...string) (out []assess.Lack) {
	for _, text := range texts {
		set, err := version.ParseRange("npm", c.tool.Scheme(), text)
		require.NoError(t, err)
		l := assess.Lack{Tool: c.tool, Set: set}
		if _, err := c.tool.Scheme().Parse(text); err == nil && strings.Count(text, ".") == 2 {
			l.Exact = text
		}
		out = append(out, l)
	}
	return out
}

// told is what to install, with how many it serves.
func told(list []Install) string {
	var out []string
	for _, in := range list {
		text := in.Text
		if in.Version.IsZero() {
			text = "none"
		}
		if in.Ended {
			text += " ended"
		}
		out = append(out, text+strings.Repeat("+", len(in.Asks)))
	}
	return strings.Join(out, " ")
}

var november = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

func TestFewVersionsThatServeAll(t *testing.T) {
	c := &choosing{tool: node(t), on: day.On(november)}
	newest := func(line string) string {
		for i := range c.tool.Lines {
			if c.tool.Lines[i].Line == line {
				return c.tool.Lines[i].Newest().String()
			}
		}
		return ""
	}
	require.NotEmpty(t, newest("24"))
	for name, k := range map[string]struct {
		asks []string
		want string
	}{
		"nothing":                         {nil, ""},
		"one":                             {[]string{"24"}, newest("24") + "+"},
		"all by one":                      {[]string{">=20", ">=22", "24"}, newest("24") + "+++"},
		"one that names a patch":          {[]string{"24.11.1", ">=22"}, "24.11.1++"},
		"two, since one will not do":      {[]string{"22", "24", ">=22"}, newest("24") + "++ " + newest("22") + "+"},
		"long-term support is preferred":  {[]string{">=22 <26"}, newest("24") + "+"},
		"out of support where nothing is": {[]string{"16"}, newest("16") + " ended+"},
		"supported rather than ended":     {[]string{">=16 <25"}, newest("24") + "+"},
		"what was never released":         {[]string{"24.99.0", "24"}, newest("24") + "+ none+"},
	} {
		got, err := c.choose(t.Context(), asking(t, c, k.asks...))
		require.NoError(t, err)
		assert.Equal(t, k.want, told(got), name)
	}
}

// TestChoosingServesEveryAsk whatever is asked: once each, by a version that it admits, with no
// more versions than asks, and with one alone where one would do for all.
func TestChoosingServesEveryAsk(t *testing.T) {
	texts := []string{"24", "22", "20", "18", "26", ">=20", ">=22 <25", "^24.2.0", "24.11.1", "22.11.0", "<24", ">=18 <20", "24.99.0", "*", "16 || 24", "~22.12"}
	tool := node(t)
	rapid.Check(t, func(t *rapid.T) {
		c := &choosing{tool: tool, on: day.On(november.AddDate(0, rapid.IntRange(-30, 12).Draw(t, "months"), 0))}
		asks := asking(t, c, rapid.SliceOfN(rapid.SampledFrom(texts), 1, 7).Draw(t, "asks")...)
		got, err := c.choose(context.Background(), asks)
		require.NoError(t, err)
		served := 0
		var common []candidate
		for i := range asks {
			options := c.admitted(asks[i], asks)
			if i == 0 {
				common = options
			}
			common = slices.DeleteFunc(slices.Clone(common), func(o candidate) bool {
				return !slices.ContainsFunc(options, func(p candidate) bool { return p.version.Compare(o.version) == 0 })
			})
		}
		for _, in := range got {
			served += len(in.Asks)
			require.NotEmpty(t, in.Asks, "nothing is installed for nobody")
			for _, a := range in.Asks {
				if in.Version.IsZero() {
					require.Empty(t, c.admitted(a, asks), "%s has something that would do", a.Set)
					continue
				}
				require.Empty(t, c.tool.Unreleased(version.Exactly(in.Version), c.on), "%s was never released", in.Version)
				require.True(t, a.Set.Contains(in.Version), "%s is asked for, and %s is not in it", a.Set, in.Version)
				require.True(t, in.Set.SubsetOf(a.Set))
			}
			require.True(t, in.Version.IsZero() || in.Set.Contains(in.Version))
		}
		require.Equal(t, len(asks), served, "each is served once")
		if len(common) > 0 {
			require.Len(t, got, 1, "one would do for all: %v", common)
		}

		shuffled := rapid.Permutation(asks).Draw(t, "order")
		again, err := c.choose(context.Background(), shuffled)
		require.NoError(t, err)
		require.Equal(t, versionsOf(got), versionsOf(again), "the order of who asks does not matter")
	})
}

// admitted are the candidates that would serve a lack, each looked at by itself: the supported
// ones, where there are any.
func (c *choosing) admitted(l assess.Lack, all []assess.Lack) []candidate {
	if c.tool.Unreleased(l.Set, c.on) != "" {
		return nil
	}
	list := slices.DeleteFunc(c.candidates(alike(all)), func(o candidate) bool { return !l.Set.Contains(o.version) })
	if supported := slices.DeleteFunc(slices.Clone(list), func(o candidate) bool { return o.ended }); len(supported) > 0 {
		return supported
	}
	return list
}

// versionsOf are what is installed; what cannot be is told as often as it is asked for.
func versionsOf(list []Install) (out []string) {
	for _, in := range list {
		out = append(out, in.Version.String())
	}
	slices.Sort(out)
	return out
}
