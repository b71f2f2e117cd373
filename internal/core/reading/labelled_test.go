package reading_test

import (
	"bytes"
	"encoding/binary"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"wexo/internal/core/claim"
	"wexo/internal/core/reading"
)

var update = flag.Bool("update", false, "write what is read into the corpus, to be looked over by hand")

// detailed is a claim in one line, with what only some claims have.
func detailed(c claim.Claim) string {
	out := fmt.Sprintf("%s %s %s @%s:%d:%d", c.Role, c.Tool, c.Raw, c.File, c.Line, c.Column)
	for _, part := range []struct{ name, value string }{{"folder", c.Folder}, {"means", c.Means}, {"reading", c.Reading}, {"component", c.Component},
		{"stage", c.Stage}, {"vendor", c.Vendor}, {"purpose", c.Purpose}, {"digest", c.Digest}, {"oneOf", c.OneOf}, {"scope", c.Scope}, {"beaten", c.Beaten}, {"then", strings.Join(c.Fallbacks, ",")}} {
		if part.value != "" {
			out += " " + part.name + "=" + part.value
		}
	}
	if c.Given != nil {
		out += fmt.Sprintf(" given=%s@%s:%d:%d", c.Given.Name, c.Given.File, c.Given.Line, c.Given.Column)
	}
	if c.Locked != nil {
		var by []string
		for _, d := range c.Locked.By {
			by = append(by, fmt.Sprintf("%s %s %q line %d", d.Dependency, d.Version, d.Raw, d.Line))
		}
		out += fmt.Sprintf(" locked=%d by [%s]", c.Locked.Demands, strings.Join(by, "; "))
	}
	if c.Certainty != claim.High {
		out += " certainty=" + c.Certainty
	}
	return out
}

// TestLabelledCorpus reads small files as they stand in repositories. Each case is files
// and, in "want", the claims they make and the problems they have.
func TestLabelledCorpus(t *testing.T) {
	archives, err := filepath.Glob("testdata/corpus/*.txt")
	require.NoError(t, err)
	r := newReader(t)
	cases := 0
	for _, name := range archives {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		archive := txtar.Parse(data)
		files := map[string]string{}
		for i, f := range archive.Files {
			if f.Name != "want" {
				files[f.Name] = string(f.Data)
				continue
			}
			got := read(r, files)
			if *update {
				archive.Files[i].Data = []byte(got)
			} else {
				assert.Equal(t, string(f.Data), got, "%s, case %d: %v", name, i, keys(files))
			}
			checkPlaces(t, r, files)
			cases += len(files)
			files = map[string]string{}
		}
		if *update {
			require.NoError(t, os.WriteFile(name, txtar.Format(archive), 0o644))
		}
	}
	assert.GreaterOrEqual(t, cases, 330, "files of the corpus")
}

func read(r *reading.Reader, files map[string]string) string {
	var b bytes.Buffer
	got := r.Read(tree(files))
	var lines []string
	for _, c := range got.Claims {
		lines = append(lines, detailed(c))
	}
	for _, p := range got.Problems {
		lines = append(lines, fmt.Sprintf("%s %s:%d:%d %s", p.Kind, p.File, p.Line, p.Column, p.Reason))
	}
	slices.Sort(lines)
	for _, line := range lines {
		fmt.Fprintln(&b, line)
	}
	return b.String()
}

// checkPlaces: the text of a claim stands where the claim says it does, unless it is
// written elsewhere.
func checkPlaces(t *testing.T, r *reading.Reader, files map[string]string) {
	t.Helper()
	for _, c := range r.Read(tree(files)).Claims {
		lines := strings.Split(files[c.File], "\n")
		if c.Given != nil || c.Raw == "latest" || (c.Reading == "minimum" || c.Reading == "level") && strings.Contains(c.Raw, ".") || strings.Contains(c.Raw, `\`) {
			continue // substituted, joined from parts, or written with escapes
		}
		if assert.LessOrEqual(t, c.Line, len(lines)) && assert.LessOrEqual(t, c.Column-1, len(lines[c.Line-1])) {
			assert.True(t, strings.HasPrefix(lines[c.Line-1][c.Column-1:], c.Raw), "%s stands at %q", detailed(c), lines[c.Line-1][c.Column-1:])
		}
	}
}

// TestEncodings: the whole corpus says the same with other ends of lines, with a byte
// order mark and in UTF-16.
func TestEncodings(t *testing.T) {
	archives, err := filepath.Glob("testdata/corpus/*.txt")
	require.NoError(t, err)
	r := newReader(t)
	variants := map[string]func(string) string{
		"CRLF":          func(s string) string { return strings.ReplaceAll(s, "\n", "\r\n") },
		"mark":          func(s string) string { return "\ufeff" + s },
		"little endian": func(s string) string { return inUTF16(s, binary.LittleEndian) },
		"big endian":    func(s string) string { return inUTF16(s, binary.BigEndian) },
	}
	for _, name := range archives {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		files := map[string]string{}
		for _, f := range txtar.Parse(data).Files {
			if f.Name != "want" {
				files[f.Name] = string(f.Data)
				continue
			}
			for how, change := range variants {
				changed := map[string]string{}
				for file, content := range files {
					changed[file] = change(content)
				}
				assert.Equal(t, string(f.Data), read(r, changed), "%s in %s: %v", how, name, keys(files))
			}
			files = map[string]string{}
		}
	}
}

func inUTF16(s string, order binary.AppendByteOrder) string {
	var out []byte
	for _, unit := range utf16.Encode([]rune("\ufeff" + s)) {
		out = order.AppendUint16(out, unit)
	}
	return string(out)
}

func keys(files map[string]string) []string {
	var out []string
	for name := range files {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}
