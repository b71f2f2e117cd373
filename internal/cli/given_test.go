package cli_test

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestGivenFilesThatNeverEnd: what a command is pointed at is read so far as makes sense.
func TestGivenFilesThatNeverEnd(t *testing.T) {
	dir := lay(t, map[string]string{".node-version": "22\n"})
	for _, args := range [][]string{
		{"survey", "--inventory", "/dev/zero", dir},
		{"survey", "--config", "/dev/zero", dir},
		{"trace", "--inventory", "/dev/zero", dir, "node"},
		{"serve", "--config", "/dev/zero", "--listen", "127.0.0.1:0"},
		{"machines", "send", "--server", "http://127.0.0.1:1", "--token", "x", "/dev/zero"},
	} {
		status, _, errs := wexo(t, args...)
		assert.Equal(t, 2, status, args)
		assert.Contains(t, errs, "/dev/zero: it is larger than", args)
	}
}

// TestGivenPipes: a file may be what another program writes just now.
func TestGivenPipes(t *testing.T) {
	dir := lay(t, map[string]string{".node-version": "22\n", "notes/bed": "24.1.0\n"})
	inventory, err := json.Marshal(map[string]any{"format": "wexo.inventory/1", "takenAt": "2026-11-20T08:00:00Z",
		"machine": map[string]any{"name": "potting-shed", "os": "linux", "arch": "amd64"}, "installations": []any{}})
	require.NoError(t, err)
	texts := map[string]string{"inventory": string(inventory), "config": "claims:\n  - {files: [notes/bed], tool: node}\n"}
	args := []string{"survey", "--fail-on", "never", "--output", "json", "--worktree"}
	for name, text := range texts {
		pipe := filepath.Join(t.TempDir(), name)
		require.NoError(t, syscall.Mkfifo(pipe, 0o600))
		go func() { // waits until it is read
			_ = os.WriteFile(pipe, []byte(text), 0o600)
		}()
		args = append(args, "--"+name, pipe)
	}
	status, out, errs := wexo(t, append(args, dir)...)
	require.Equal(t, 0, status, errs)
	assert.Contains(t, out, "potting-shed")
	assert.Contains(t, out, "notes/bed")
}

// TestASignalEndsWaitingForAPipe that nobody writes to.
func TestASignalEndsWaitingForAPipe(t *testing.T) {
	dir := lay(t, map[string]string{".node-version": "22\n"})
	pipe := filepath.Join(t.TempDir(), "pipe")
	require.NoError(t, syscall.Mkfifo(pipe, 0o600))
	type outcome struct {
		status int
		errs   string
	}
	ended := make(chan outcome, 1)
	go func() {
		status, _, errs := wexo(t, "survey", "--inventory", pipe, dir)
		ended <- outcome{status, errs}
	}()
	var writer *os.File
	require.Eventually(t, func() (open bool) { // as soon as it waits there
		var err error
		writer, err = os.OpenFile(pipe, os.O_WRONLY|syscall.O_NONBLOCK, 0)
		return err == nil
	}, 30*time.Second, 5*time.Millisecond)
	defer writer.Close()
	require.NoError(t, syscall.Kill(os.Getpid(), syscall.SIGTERM))
	select {
	case got := <-ended:
		assert.Equal(t, 3, got.status)
		assert.Contains(t, got.errs, "stopped while "+pipe+" was read")
	case <-time.After(30 * time.Second):
		t.Fatal("it goes on waiting")
	}
}

// TestAnAnswerThatNeverEnds, of a server that is not Wexo's.
func TestAnAnswerThatNeverEnds(t *testing.T) {
	endless := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		spaces := make([]byte, 1<<20)
		for i := range spaces {
			spaces[i] = ' '
		}
		for r.Context().Err() == nil {
			if _, err := w.Write(spaces); err != nil {
				return
			}
		}
	}))
	defer endless.Close()
	status, _, errs := wexo(t, "machines", "list", "--server", endless.URL, "--token", "x")
	assert.Equal(t, 3, status)
	assert.Contains(t, errs, "wexo: the service's answer is larger than 256 MB")
}

// TestNothingOfAnothersIsTouched: files that are not Wexo's are refused and stay as they are.
func TestNothingOfAnothersIsTouched(t *testing.T) {
	dir := t.TempDir()
	note := filepath.Join(dir, "seeds.txt")
	require.NoError(t, os.WriteFile(note, []byte("poppies"), 0o644))
	other := filepath.Join(dir, "ledger.db")
	db, err := sql.Open("sqlite", "file:"+other)
	require.NoError(t, err)
	_, err = db.Exec(`CREATE TABLE seeds (name TEXT); INSERT INTO seeds VALUES ('poppy')`)
	require.NoError(t, errors.Join(err, db.Close()))
	require.NoError(t, os.Chmod(other, 0o644))
	device := filepath.Join(dir, "pipe")
	require.NoError(t, syscall.Mkfifo(device, 0o644))
	files, err := os.ReadDir(dir)
	require.NoError(t, err)
	before := map[string]string{}
	for _, file := range []string{note, other} {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		before[file] = string(data)
	}
	for _, c := range []struct {
		says string
		args []string
	}{
		{"cannot be the demo's folder", []string{"demo", "--dir", note, "--listen", "127.0.0.1:0"}},
		{"cannot be the demo's folder", []string{"demo", "--fresh", "--dir", device, "--listen", "127.0.0.1:0"}},
		{"is damaged", []string{"serve", "--data", note, "--listen", "127.0.0.1:0"}},
		{"holds the data of another program", []string{"serve", "--data", other, "--listen", "127.0.0.1:0"}},
		{"is no ordinary file", []string{"serve", "--data", device, "--listen", "127.0.0.1:0"}},
		{"is no ordinary file", []string{"serve", "--data", dir, "--listen", "127.0.0.1:0"}},
		{"holds the data of another program", []string{"tokens", "recover", "--data", other}},
		{"is no ordinary file", []string{"tokens", "recover", "--data", device}},
	} {
		status, _, errs := wexo(t, c.args...)
		assert.Contains(t, []int{2, 3}, status, c.args)
		assert.Contains(t, errs, c.says, c.args)
	}
	for file, was := range before {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.Equal(t, was, string(data), file)
		info, err := os.Stat(file)
		require.NoError(t, err)
		assert.Equal(t, fs.FileMode(0o644), info.Mode(), file)
	}
	still, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(files), fmt.Sprint(still), "nothing is laid beside them")
	info, err := os.Lstat(device)
	require.NoError(t, err)
	assert.Equal(t, fs.ModeNamedPipe|0o644, info.Mode())
}
