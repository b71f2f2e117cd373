package report_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/report"
)

// text is a report as people read it, and the same as it comes from a service.
func text(t *testing.T, r *report.Report, c *catalogue.Catalogue, each bool) string {
	t.Helper()
	var out, sent bytes.Buffer
	require.NoError(t, report.Text(&out, r.Telling(), c, report.Style{Width: 100}, each))
	d, err := report.ReadDocument(strings.NewReader(written(t, r)))
	require.NoError(t, err)
	require.NoError(t, report.Text(&sent, d.Telling(), c, report.Style{Width: 100}, each))
	assert.Equal(t, out.String(), sent.String())
	return out.String()
}

// TestManyAreShownByTheirCauses: of many repositories the text tells what is wrong across
// them, those that reach furthest first, with how far and the first few places.
func TestManyAreShownByTheirCauses(t *testing.T) {
	repositories := map[string]map[string]string{}
	for n := range 30 {
		repositories[fmt.Sprintf("bed-%02d", n)] = map[string]string{".python-version": "3.11\n"}
	}
	for n := range 20 {
		repositories[fmt.Sprintf("pond-%02d", n)] = map[string]string{".python-version": "3.8\n"}
	}
	for n := range 15 {
		repositories[fmt.Sprintf("tree-%02d", n)] = map[string]string{fmt.Sprintf(".zig-%02d-version", n): "0.14\n"}
	}
	r, c := build(t, repositories, "bench", "desk", "shed")
	out := text(t, r, c, false)
	assert.Contains(t, out, `
◆ Python 3.11: asked for by 30 repositories, missing on every machine
  → In bed-00: Install Python 3.11 on every machine.
    bed-00 .python-version · bed-01 .python-version · bed-02 .python-version · and 27 more

◆ Python 3.8: out of support since 7 Oct 2024, in use in 20 repositories
  → In pond-00: Move to Python 3.12 (supported until 31 Oct 2028): change .python-version:1.
    pond-00 .python-version · pond-01 .python-version · pond-02 .python-version · and 17 more
`)
	assert.Equal(t, 10, strings.Count(out, "belongs to no known tool"), "a dozen causes and no more")
	assert.Contains(t, out, "and 5 causes more. --each prints every finding")
	each := text(t, r, c, true)
	assert.Equal(t, 65, strings.Count(each, "→ "), "every finding")
}

// TestOneRepositoryIsShownByItsCauses: what is the same in many folders is told once, and the
// first screen holds five causes.
func TestOneRepositoryIsShownByItsCauses(t *testing.T) {
	files := map[string]string{}
	for n := range 100 {
		files[fmt.Sprintf("beds/%03d/.python-version", n)] = "3.8\n"
	}
	r, c := build(t, map[string]map[string]string{"garden": files}, "bench")
	out := text(t, r, c, false)
	assert.Equal(t, 1, strings.Count(out, "→ "), out)
	assert.Contains(t, out, "Python · end of life in beds/000/, and in 99 more places")

	for n := range 7 {
		files[fmt.Sprintf("sheds/%d/.python-version", n)] = fmt.Sprintf("3.%d\n", n+1)
	}
	r, c = build(t, map[string]map[string]string{"garden": files}, "bench")
	out = text(t, r, c, false)
	assert.Equal(t, 5, strings.Count(out, " · end of life"), out)
	assert.Contains(t, out, "and 3 causes more (--each prints every finding)")
}

// TestWhatCountsApartCountsNowhere but in its own number: in no severity, class or cause.
func TestWhatCountsApartCountsNowhere(t *testing.T) {
	r, c := build(t, map[string]map[string]string{"seed-ledger": {".python-version": "3.12\n", "testdata/old/.python-version": "3.8\n", "examples/a/.python-version": "3.11\n"}}, "bench")
	assert.Equal(t, 2, r.Summary.Apart)
	assert.Zero(t, r.Summary.Count())
	assert.Zero(t, r.Summary.Worst())
	assert.Empty(t, r.Summary.ByClass)
	assert.Empty(t, r.Causes())
	out := text(t, r, c, false)
	assert.Contains(t, out, "◆ 0 errors   ▲ 0 warnings   ○ 0 notes   1 without findings")
	assert.Contains(t, out, "2 findings in folders of test data, examples or vendored code count apart (--each lists them).")
	assert.NotContains(t, out, "→")
	each := text(t, r, c, true)
	assert.Contains(t, each, "Python · end of life in testdata/old/  apart")
	var got struct {
		Findings []report.Finding
	}
	require.NoError(t, json.Unmarshal([]byte(written(t, r)), &got))
	require.Len(t, got.Findings, 2)
	for _, f := range got.Findings {
		assert.True(t, f.Apart)
		assert.NotEmpty(t, f.Cause)
	}
}
