package demo_test

import (
	"context"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/demo"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/host/probe"
)

func TestTheEstateIsTheSameEveryTime(t *testing.T) {
	t.Setenv("GIT_CONFIG_GLOBAL", os.DevNull) // nothing of the account's own git may show
	commits := map[string]string{}
	for range 2 {
		dir := t.TempDir()
		require.NoError(t, demo.LayRepositories(dir))
		entries, err := os.ReadDir(dir)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, len(entries), 16)
		for _, e := range entries {
			out, err := exec.Command("git", "-C", filepath.Join(dir, e.Name()), "rev-parse", "HEAD").Output()
			require.NoError(t, err)
			commit := strings.TrimSpace(string(out))
			if before, known := commits[e.Name()]; known {
				assert.Equal(t, before, commit, e.Name())
			}
			commits[e.Name()] = commit
			status, err := exec.Command("git", "-C", filepath.Join(dir, e.Name()), "status", "--porcelain").Output()
			require.NoError(t, err)
			assert.Empty(t, string(status), "everything is committed")
		}
	}
}

func TestTheMachinesAreProbedForReal(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(c)
	require.NoError(t, err)
	dir := t.TempDir()
	machines, err := demo.LayMachines(dir)
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, m := range machines {
		kinds[m.Info.Kind]++
		assert.False(t, m.Run, "a stand-in is never run")
		inv := probe.Take(context.Background(), c, reader, m)
		tools := map[string]bool{}
		for _, in := range inv.Installations {
			tools[in.Tool] = true
			assert.Equal(t, "good", in.Health, in.Path)
			assert.NotEmpty(t, in.Version, in.Path)
			assert.FileExists(t, filepath.Join(m.Files, in.Path))
		}
		for _, tool := range []string{"python", "node", "java", "go", "npm"} {
			assert.True(t, tools[tool], "%s has %s", m.Info.Name, tool)
		}
		assert.NotEmpty(t, inv.FirstOnPath)
	}
	assert.Equal(t, map[string]int{"laptop": 2, "build-agent": 1, "image": 1}, kinds)
	require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err == nil && d.Type()&fs.ModeSymlink != 0 {
			target, readErr := os.Readlink(path)
			require.NoError(t, readErr)
			assert.NotContains(t, target, dir, "links are the machine's own")
		}
		return err
	}))
}

func TestClock(t *testing.T) {
	now := time.Date(2031, 1, 1, 12, 0, 0, 0, time.UTC)
	clock := demo.Clock(func() time.Time { return now })
	assert.Equal(t, "2026-11-16T08:00:00Z", clock().Format(time.RFC3339))
	now = now.Add(90 * time.Minute)
	assert.Equal(t, "2026-11-16T09:30:00Z", clock().Format(time.RFC3339))
}
