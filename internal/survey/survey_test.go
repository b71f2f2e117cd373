package survey_test

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/ruletest"
	"wexo/internal/survey"
)

func reader(t *testing.T) (*reading.Reader, *catalogue.Catalogue) {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	r, err := reading.New(c)
	require.NoError(t, err)
	return r, c
}

func rulesOf(t *testing.T, c *catalogue.Catalogue, text string) userrule.Rules {
	t.Helper()
	rules, _, problems := userrule.Parse([]byte(text), c, true)
	require.Empty(t, problems)
	return rules
}

func lay(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for name, content := range files {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(content), 0o644))
	}
}

func TestGoodAndBadRepositoriesTogether(t *testing.T) {
	dir := t.TempDir()
	lay(t, filepath.Join(dir, "good"), map[string]string{".node-version": "22\n"})
	lay(t, filepath.Join(dir, "damaged"), map[string]string{".git/HEAD": "nonsense", ".node-version": "22\n"})
	lay(t, filepath.Join(dir, "odd-ref"), map[string]string{".node-version": "22\n"})
	out, err := exec.Command("git", "-C", filepath.Join(dir, "odd-ref"), "init", "-q").CombinedOutput()
	require.NoError(t, err, string(out))
	r, c := reader(t)
	locations := []repo.Location{
		{Name: "good", Path: filepath.Join(dir, "good"), Kind: repo.Plain},
		{Name: "damaged", Path: filepath.Join(dir, "damaged"), Kind: repo.Git},
		{Name: "gone", Path: filepath.Join(dir, "gone"), Kind: repo.Git},
		{Name: "odd-ref", Path: filepath.Join(dir, "odd-ref"), Kind: repo.Git},
	}
	var mu sync.Mutex
	var counted []int
	read, err := survey.Reader{Claims: r}.Read(t.Context(), locations, repo.Reading{Ref: "no-such-branch"}, func(n int, _ survey.ReadRepository) {
		mu.Lock()
		defer mu.Unlock()
		counted = append(counted, n)
	})
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2, 3, 4}, counted)
	var names []string
	for _, got := range read {
		names = append(names, got.Name)
	}
	assert.Equal(t, []string{"good", "damaged", "gone", "odd-ref"}, names, "in the order given")
	assert.Len(t, read[0].Claims, 1)
	for _, bad := range read[1:] {
		require.Len(t, bad.Problems, 1, bad.Name)
		assert.NotEmpty(t, bad.Problems[0].Reason)
	}
	assert.Contains(t, read[3].Problems[0].Reason, "no-such-branch")

	estate := survey.NewEstate(ruletest.Book(t, c), policy.Policy{})
	var entries []survey.Entry
	for _, one := range read {
		entries = append(entries, estate.Prepare(one))
	}
	judged, err := estate.Judge(t.Context(), entries, estate.Fleet(nil, nil), time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC), nil)
	require.NoError(t, err)
	for _, name := range []string{"damaged", "gone", "odd-ref"} {
		one, known := judged.Of(name)
		require.True(t, known)
		require.Len(t, one.Findings, 1)
		assert.Equal(t, "file-unreadable", one.Findings[0].Class.Name)
		said := judged.Report("test").Finding(one.Findings[0])
		assert.Contains(t, said.Message, "The repository cannot be read")
	}
}

func TestStopping(t *testing.T) {
	dir := t.TempDir()
	lay(t, dir, map[string]string{".node-version": "22\n"})
	r, _ := reader(t)
	ctx, cancel := context.WithCancel(t.Context())
	var locations []repo.Location
	for range 500 {
		locations = append(locations, repo.Location{Name: "bed", Path: dir, Kind: repo.Plain})
	}
	seen := 0
	_, err := survey.Reader{Claims: r}.Read(ctx, locations, repo.Reading{}, func(n int, _ survey.ReadRepository) {
		seen = n
		if n == 3 {
			cancel()
		}
	})
	assert.ErrorIs(t, err, context.Canceled)
	assert.Less(t, seen, 500)
}
