package probe

import (
	"bytes"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/catalogue"
)

var spade = catalogue.Pattern{Regexp: regexp.MustCompile(`Spade v(\d+\.\d+\.\d+) \(`)}

func TestSearch(t *testing.T) {
	for text, want := range map[string]string{
		"":                                     "",
		"Spade v1.2.3 (":                       "1.2.3",
		"Spade v1.2.3":                         "",
		"Spade v Spade vSpade v1.2.3 (x":       "1.2.3",
		"\x00\xffSpade v1.2.3 (Spade v4.5.6 (": "1.2.3",
	} {
		got, err := search(strings.NewReader(text), spade)
		require.NoError(t, err)
		assert.Equal(t, want, got, text)
	}
	_, err := search(iotest.ErrReader(os.ErrPermission), spade)
	assert.ErrorIs(t, err, os.ErrPermission)
}

// TestSearchFindsAnywhere: wherever it stands, however it comes.
func TestSearchFindsAnywhere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := rapid.SampledFrom([]int{0, 1, mostMatched, searchedAtOnce, searchedAtOnce + mostMatched, 2 * searchedAtOnce}).Draw(t, "at") + rapid.IntRange(-20, 20).Draw(t, "off")
		data := bytes.Repeat([]byte("Spade "), 2*searchedAtOnce/6+100)
		copy(data[max(at, 0):], "Spade v10.20.30 (")
		got, err := search(bytes.NewReader(data), spade)
		require.NoError(t, err)
		require.Equal(t, "10.20.30", got)
	})
}

// TestSearchedIsRemembered until the executable changes.
func TestSearchedIsRemembered(t *testing.T) {
	at := filepath.Join(t.TempDir(), "spade")
	require.NoError(t, os.WriteFile(at, []byte("Spade v1.2.3 ("), 0o755))
	said := OpenSaid(filepath.Join(t.TempDir(), "said.json"))
	p := &probe{machine: Machine{Said: said}, disk: disk{root: "/"}}
	c := &candidate{path: at}
	assert.Equal(t, "1.2.3", p.searched(c, spade))
	require.Len(t, said.all, 1)
	assert.Equal(t, "1.2.3", p.searched(c, spade))
	require.NoError(t, os.WriteFile(at, []byte("newer: Spade v1.2.4 ("), 0o755))
	assert.Equal(t, "1.2.4", p.searched(c, spade))
	assert.Empty(t, p.searched(&candidate{path: at, broken: "by a link"}, spade))
	assert.Empty(t, p.searched(&candidate{path: filepath.Dir(at)}, spade))
}
