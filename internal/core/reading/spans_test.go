package reading_test

import (
	"encoding/binary"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"wexo/internal/core/claim"
)

// another is a text like another one, of another version; empty where it names none.
func another(raw string) string {
	for i := len(raw) - 1; i >= 0; i-- {
		switch c := raw[i]; {
		case c >= '0' && c <= '8':
			return raw[:i] + string(c+1) + raw[i+1:]
		case c == '9':
			return raw[:i] + "8" + raw[i+1:]
		}
	}
	return ""
}

// wide is a text as some editors write it.
func wide(text string, marked bool) string {
	var out []byte
	if marked {
		out = []byte{0xff, 0xfe}
	}
	for _, unit := range utf16.Encode([]rune(text)) {
		out = binary.LittleEndian.AppendUint16(out, unit)
	}
	return string(out)
}

func returns(s string) string {
	return strings.ReplaceAll(strings.ReplaceAll(s, "\r\n", "\n"), "\n", "\r\n")
}

// allCorpus is the files of every case of both corpora.
func allCorpus(t *testing.T) []map[string]string {
	t.Helper()
	var out []map[string]string
	for _, c := range corpus {
		out = append(out, map[string]string{c.file: c.content})
	}
	archives, err := filepath.Glob("testdata/corpus/*.txt")
	require.NoError(t, err)
	for _, name := range archives {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		files := map[string]string{}
		for _, f := range txtar.Parse(data).Files {
			if f.Name == "want" {
				out, files = append(out, files), map[string]string{}
				continue
			}
			files[f.Name] = string(f.Data)
		}
	}
	return out
}

// TestSpansAreExactlyTheValue: what stands between a claim's begin and end is replaced, and
// reading again finds the other version in the same place; in every format, with every line
// end and encoding.
func TestSpansAreExactlyTheValue(t *testing.T) {
	r := newReader(t)
	replaced := map[string]int{}
	var without []string
	failed := 0
	files := allCorpus(t)
	for _, files := range files {
		for how, write := range map[string]func(string) string{
			"as it is":  func(s string) string { return s },
			"returns":   returns,
			"a mark":    func(s string) string { return "\ufeff" + strings.TrimPrefix(s, "\ufeff") },
			"in UTF-16": func(s string) string { return wide(strings.TrimPrefix(s, "\ufeff"), true) },
			"both":      func(s string) string { return "\ufeff" + returns(strings.TrimPrefix(s, "\ufeff")) },
		} {
			texts := map[string]string{}
			for name, content := range files {
				texts[name] = write(content)
			}
			for _, was := range r.Read(tree(texts)).Claims {
				if was.Begin == 0 && was.End == 0 {
					without = append(without, how+" "+was.File+" "+was.Raw)
					continue
				}
				content := texts[was.File]
				require.Less(t, was.Begin, was.End, "%s %q", how, content)
				require.LessOrEqual(t, was.End, len(content), "%s %q", how, content)
				to := another(was.Raw)
				if to == "" || was.Means != "" { // a name, or a text that only stands for a version
					if how == "as it is" && !strings.Contains(content[was.Begin:was.End], `\\`) {
						assert.Equal(t, was.Raw, content[was.Begin:was.End], was.File)
					}
					continue
				}
				put := to
				if written := content[was.Begin:was.End]; strings.Contains(strings.ReplaceAll(written, "\x00", ""), "_") && !strings.Contains(written, "$") && !strings.Contains(was.Raw, "_") {
					put = strings.ReplaceAll(to, ".", "_") // as the file writes numbers
				}
				if how == "in UTF-16" {
					put = wide(put, false)
				}
				edited := maps.Clone(texts)
				edited[was.File] = content[:was.Begin] + put + content[was.End:]
				now := r.Read(tree(edited)).Claims
				found := slices.ContainsFunc(now, func(n claim.Claim) bool {
					same := n.Role == was.Role && n.Tool == was.Tool && n.File == was.File && n.Line == was.Line && n.Folder == was.Folder
					return same && (n.Raw == to || n.Locked != nil)
				})
				if !assert.True(t, found, "%s: %s %q at %d to %d in %q, put %q: %+v", how, was.File, was.Raw, was.Begin, was.End, content, to, now) {
					failed++
				}
				replaced[path.Base(was.File)]++
			}
			if failed > 5 {
				t.FailNow()
			}
		}
	}
	t.Logf("%d claims without a place: %q", len(without), without[:min(len(without), 40)])
	for _, file := range []string{"package.json", "pyproject.toml", "pom.xml", "go.mod", "Dockerfile", "build.gradle", ".python-version", "main.tf", "setup.cfg", "Gemfile"} {
		assert.Positive(t, replaced[file], file)
	}
}
