package terminal_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/terminal"
)

var texts = rapid.StringOf(rapid.OneOf(rapid.Rune(), rapid.SampledFrom([]rune{'\x1b', '[', '3', '1', 'm', '\u202e', '\u009b', '\n', '\r', '\a', 0x7f, 'k', 'e', 'y'})))

// TestNothingSteersATerminal, however the text is cut into writes.
func TestNothingSteersATerminal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		data := []byte(texts.Draw(t, "text"))
		data = append(data, rapid.SliceOf(rapid.Byte()).Draw(t, "bytes")...)
		var whole, parts bytes.Buffer
		a, b := &terminal.Writer{To: &whole}, &terminal.Writer{To: &parts}
		_, err := a.Write(data)
		require.NoError(t, err)
		for rest := data; len(rest) > 0; {
			n := rapid.IntRange(1, len(rest)).Draw(t, "n")
			wrote, err := b.Write(rest[:n])
			require.NoError(t, err)
			assert.Equal(t, n, wrote)
			rest = rest[n:]
		}
		assert.Equal(t, whole.String(), parts.String())
		for _, r := range whole.String() {
			assert.True(t, r == '\n' || r == '\t' || !unicode.IsControl(r) && !unicode.Is(unicode.Bidi_Control, r), "%q", r)
		}
	})
}

func TestOnlyMarkedSequencesPass(t *testing.T) {
	var out bytes.Buffer
	w := &terminal.Writer{To: &out, Mark: "key"}
	for _, part := range []string{"\x1bkey[1mbold\x1bk", "ey[0m and \x1b[31mred\x1bke", "[1m"} {
		_, err := w.Write([]byte(part))
		require.NoError(t, err)
	}
	assert.Equal(t, "\x1b[1mbold\x1b[0m and \ufffd[31mred\ufffdke[1m", out.String())
}

func TestNamesStayOnTheirLine(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, terminal.Printf(&out, "%s: %v, %d\n%s", "fern\nmoss", errors.New("a\tb\u2028c"), 3, terminal.Lines{"one", "t\rwo"}))
	assert.Equal(t, "fern\ufffdmoss: a\ufffdb\ufffdc, 3\none\nt\ufffdwo", out.String())
}

// TestJSONLosesNothing: what was written is read back.
func TestJSONLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := texts.Draw(t, "text")
		var out, shown bytes.Buffer
		encoded, err := json.Marshal(text)
		require.NoError(t, err)
		cut := rapid.IntRange(0, len(encoded)).Draw(t, "cut")
		w := terminal.JSON(&out)
		for _, part := range [][]byte{encoded[:cut], encoded[cut:]} {
			_, err := w.Write(part)
			require.NoError(t, err)
		}
		var back string
		require.NoError(t, json.Unmarshal(out.Bytes(), &back))
		assert.Equal(t, text, back)
		_, err = (&terminal.Writer{To: &shown}).Write(out.Bytes())
		require.NoError(t, err)
		assert.Equal(t, out.String(), shown.String(), "nothing is left to be cleaned")
	})
}

type full struct{}

func (full) Write([]byte) (int, error) { return 0, errors.New("no space left") }

func TestErrorsOfWritingAreKept(t *testing.T) {
	w := &terminal.Writer{To: full{}}
	_, err := w.Write([]byte("x"))
	require.Error(t, err)
	assert.ErrorContains(t, w.Err(), "no space left")
}
