package document

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// defined are names for tests, as lines of a matrix and of variables.
func defined(names map[string][]string) Lookup {
	return func(name string) []Value {
		var out []Value
		for i, text := range names[name] {
			out = append(out, Value{Text: text, Offset: 10*i + 1})
		}
		return out
	}
}

// TestCompose: one mechanism for every spelling.
func TestCompose(t *testing.T) {
	lookup := defined(map[string][]string{
		"matrix.go": {"1.24", "1.25"}, "GO": {"1.25.3"}, "env.MINOR": {"25"}, "NESTED": {"1.${{ env.MINOR }}"}, "CIRCLE": {"${CIRCLE}"}, "matrix.os": {"a", "b", "c"},
	})
	for _, c := range []struct {
		text string
		want []string
	}{
		{"1.25", []string{"1.25"}},
		{"${{ matrix.go }}", []string{"1.24", "1.25"}},
		{"${{matrix.go}}.x", []string{"1.24.x", "1.25.x"}},
		{"golang:$GO", []string{"golang:1.25.3"}},
		{"golang:${GO}-slim", []string{"golang:1.25.3-slim"}},
		{"${NONE:-1.23}", []string{"1.23"}},
		{"${NONE-1.23}", []string{"1.23"}},
		{"${GO:-1.23}", []string{"1.25.3"}},
		{"%GO%", []string{"1.25.3"}},
		{"$env:GO", []string{"1.25.3"}},
		{"$(GO)", []string{"1.25.3"}},
		{"<< matrix.go >>", []string{"1.24", "1.25"}},
		{"${{ matrix.none || '1.22' }}", []string{"1.22"}},
		{"${NESTED}.1", []string{"1.25.1"}},
		{"${{ matrix.go }}-${{ matrix.os }}", []string{"1.24-a", "1.24-b", "1.24-c", "1.25-a", "1.25-b", "1.25-c"}},
		{"go$NONE", []string{"go$NONE"}},
		{"100%", []string{"100%"}},
		{"a < b << c", []string{"a < b << c"}},
	} {
		var got []string
		for _, one := range Compose(c.text, lookup) {
			got = append(got, one.Text)
		}
		assert.Equal(t, c.want, got, c.text)
	}
	whole := Compose(" ${{ matrix.go }} ", lookup)
	assert.Equal(t, "1.25", whole[1].Whole.Text)
	assert.Equal(t, "matrix.go", whole[1].Choice)
	assert.Equal(t, &Given{Name: "matrix.go", Offset: 11}, whole[1].From)
	assert.Nil(t, Compose("go${{ matrix.go }}", lookup)[0].Whole, "a part is no whole")
	assert.Equal(t, "$NONE", Compose("a${GO}$NONE", lookup)[0].Open)
	assert.LessOrEqual(t, len(Compose("${CIRCLE}", lookup)[0].Text), 100, "a circle ends")
}

func TestBraces(t *testing.T) {
	for text, want := range map[string]string{
		"py39":             "py39",
		"py{38,39}":        "py38 py39",
		"py{38, 39}-x":     "py38-x py39-x",
		"py{38,39}-d{4,5}": "py38-d4 py38-d5 py39-d4 py39-d5",
		"py{38":            "py{38",
		"{a}":              "a",
		"{}":               "",
	} {
		var got []string
		for _, v := range Braces(Value{Text: text}) {
			got = append(got, v.Text)
		}
		assert.Equal(t, want, strings.Join(got, " "), text)
	}
	assert.Equal(t, []string{"a{1,2}", " b", ""}, Fields("a{1,2}, b,", ','))
	assert.Len(t, Braces(Value{Text: strings.Repeat("{0,1}", 20)}), composeMost)
	assert.Equal(t, 6, Braces(Value{Text: "py{38,39}"})[1].Given.Offset)
}

// TestComposeEnds: whatever refers to whatever, few texts of little length come of it, and
// none of a text that holds no reference.
func TestComposeEnds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		part := rapid.SampledFrom([]string{"$A", "${B}", "${{ C }}", "%A%", "$(B)", "<< C >>", "${A:-$B}", "1.", "x", "{1,2}", "${", "%", "$env:C"})
		names := map[string][]string{}
		for _, name := range []string{"A", "B", "C"} {
			for range rapid.IntRange(0, 4).Draw(t, "values") {
				names[name] = append(names[name], strings.Join(rapid.SliceOfN(part, 0, 4).Draw(t, "parts"), ""))
			}
		}
		text := strings.Join(rapid.SliceOfN(part, 0, 6).Draw(t, "text"), "")
		asked := 0
		lookup := defined(names)
		got := Compose(text, func(name string) []Value { asked++; return lookup(name) })
		assert.NotEmpty(t, got, text)
		assert.LessOrEqual(t, len(got), composeValues)
		assert.Less(t, asked, 2_000_000)
		for _, one := range got {
			assert.Less(t, len(one.Text), 3*composeLong, text)
		}
		if !Refers(text) {
			assert.Equal(t, []Composed{{Text: text}}, got)
		}
	})
}

// TestWhatRefersToItself: a name's own value is not looked up in itself; what it falls back to is.
func TestWhatRefersToItself(t *testing.T) {
	names := defined(map[string][]string{"NODE_VERSION": {"${NODE_VERSION:-22}"}, "env.GO": {"${{ env.GO || '1.26' }}"}, "A": {"$A"}, "B": {"1$C"}, "C": {"2$B"}})
	for text, want := range map[string]string{"node:${NODE_VERSION:-20}": "node:22", "$NODE_VERSION": "22", "${{ env.GO }}": "1.26", "${A:-3}": "3", "x$A": "x$A"} {
		got := Compose(text, names)
		require.Len(t, got, 1, text)
		assert.Equal(t, want, got[0].Text, text)
	}
	assert.Len(t, Compose("$B", names), 1, "a circle ends")
}

func FuzzCompose(f *testing.F) {
	for _, seed := range []string{"${{ a }}", "${A:-b}", "<< p >>", "%A%x", "$env:A", "$(b)c"} {
		f.Add(seed, "1.${A}")
	}
	f.Fuzz(func(t *testing.T, text, value string) {
		for _, one := range Compose(text, func(string) []Value { return []Value{{Text: value}} }) {
			if one.Open != "" && !Refers(value) { // what refers to itself is undefined
				t.Fatalf("%q is defined and stays open", text)
			}
		}
		if masked := Mask(text); len(masked) != len(text) {
			t.Fatalf("masking %q changes its length", text)
		}
		if at, end, ok := FallbackAt(text); ok && (at > end || end > len(text)) {
			t.Fatal(fmt.Sprint(at, end))
		}
	})
}

// TestCMakeText: what is text for others is no code, and offsets stay.
func TestCMakeText(t *testing.T) {
	for text, want := range map[string]string{
		"a(\"b\") # c\nd":    "a(\"b\")    \nd",
		"x [[y\nz]] w":       "x    \n    w",
		"#[=[ a ]] b ]=] c":  "                c",
		"\"one line (x)\" y": "\"one line (x)\" y",
		"\"two\nlines\" y":   "\"   \n     \" y",
		"a\\\"b # c":         "a\\\"b    ",
		"[not a bracket] b":  "[not a bracket] b",
		"unclosed [[ a b":    "unclosed       ",
		"unclosed \"a\nb":    "unclosed \"a\nb",
	} {
		assert.Equal(t, want, string(blankCMake([]byte(text))), text)
	}
}
