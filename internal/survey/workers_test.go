package survey_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/survey"
)

// TestMain lets this program be a worker: one that some files end, as a fault in a library
// or in this program's own reading would.
func TestMain(m *testing.M) {
	if len(os.Args) > 1 && os.Args[1] == "stop" { // a worker that neither ends nor does anything
		_ = syscall.Kill(os.Getpid(), syscall.SIGSTOP)
	}
	if len(os.Args) > 2 && os.Args[1] == "work" { // a folder in which each leaves a mark
		if err := os.Mkdir(filepath.Join(os.Args[2], fmt.Sprint(os.Getpid())), 0o755); err != nil {
			panic(err)
		}
	}
	if len(os.Args) > 1 && os.Args[1] == "work" {
		if err := survey.Work(os.Stdin, os.Stdout, mortal); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(3)
		}
		return
	}
	os.Exit(m.Run())
}

// mortal is a reader that files of some names do to what their names say.
func mortal([]byte) (survey.Doing, error) {
	c, catalogueErr := catalogue.Embedded()
	reader, readerErr := reading.New(c)
	var kept [][]byte
	return func(ctx context.Context, job survey.Job, begin func(string)) (survey.Said, error) {
		ctx, end := context.WithCancel(ctx)
		defer end()
		heavy := false
		said, err := survey.Do(ctx, reader, userrule.Rules{}, job, func(file string) {
			begin(file)
			switch filepath.Base(file) {
			case "overflow.tf":
				overflow(0)
			case "panic.tf":
				go func() { panic("a fault") }()
				select {}
			case "exit.tf":
				os.Exit(7)
			case "hang.tf":
				for {
				}
			case "slow.tf":
				time.Sleep(3 * time.Second)
			case "heavy.tf": // as a reading ends that takes too much
				heavy = true
				end()
			case "memory.tf":
				for range 2 {
					kept = append(kept, make([]byte, 500<<20))
				}
				<-ctx.Done()
			}
		})
		said.Alone = said.Alone || heavy
		return said, err
	}, errors.Join(catalogueErr, readerErr)
}

func overflow(n int) int { return overflow(n+1) + n }

func TestWhatEndsAWorkerEndsNothingElse(t *testing.T) {
	r, _ := reader(t)
	workers := &survey.Workers{Command: program(t, "work")}
	defer workers.Close()
	dir := t.TempDir()
	var locations []repo.Location
	add := func(name string, files map[string]string) {
		files[".node-version"], files["web/.node-version"] = "22\n", "24\n"
		lay(t, filepath.Join(dir, name), files)
		locations = append(locations, repo.Location{Name: name, Path: filepath.Join(dir, name), Kind: repo.Plain})
	}
	evil := map[string]string{"overflow": "nests too deeply", "panic": "panic: a fault", "exit": "exit status 7"}
	for i := range 30 {
		add(fmt.Sprint("good", i), map[string]string{})
		for name := range evil {
			if i == 10 {
				add(name, map[string]string{"a/" + name + ".tf": ""})
			}
		}
	}
	add("several", map[string]string{"overflow.tf": "", "b/panic.tf": "", "z/exit.tf": ""})
	add("large", map[string]string{"memory.tf": ""})
	add("heavy", map[string]string{"a/heavy.tf": "", "b/heavy.tf": ""})
	add("heaviest", map[string]string{"a/heavy.tf": "", "b/heavy.tf": "", "c/heavy.tf": "", "d/heavy.tf": "", "e/heavy.tf": "", "f/heavy.tf": ""})

	read, err := survey.Reader{Claims: r, Workers: workers}.Read(t.Context(), locations, repo.Reading{}, nil)
	require.NoError(t, err)
	for _, got := range read {
		reasons := map[string]string{}
		for _, p := range got.Problems {
			reasons[p.File] = p.Reason
		}
		switch why := evil[got.Name]; {
		case strings.HasPrefix(got.Name, "good"):
			assert.Len(t, got.Claims, 2, got.Name)
			assert.Empty(t, got.Problems, got.Name)
		case why != "":
			assert.Len(t, got.Claims, 2, "%s: the rest is read", got.Name)
			assert.Len(t, reasons, 1, got.Name)
			assert.Contains(t, reasons["a/"+got.Name+".tf"], "ended the reader", got.Name)
			assert.Contains(t, reasons["a/"+got.Name+".tf"], why, got.Name)
		case got.Name == "several":
			assert.Len(t, got.Claims, 2)
			assert.Len(t, reasons, 3)
		case got.Name == "heavy":
			assert.Len(t, got.Claims, 2, "the rest is read")
			assert.Equal(t, "reading it ended the reader (it took more than 768 MB of memory)", reasons["a/heavy.tf"])
			assert.Len(t, reasons, 2)
		case got.Name == "heaviest": // is given up where it has ended its reader so often
			assert.Len(t, got.Claims, 1, "what comes before is read")
			assert.Contains(t, reasons, "d/heavy.tf")
			assert.NotContains(t, reasons, "f/heavy.tf")
		default:
			assert.Len(t, got.Claims, 2, "the rest is read")
			assert.Len(t, reasons, 1)
			assert.Regexp(t, "MB of memory|failed to allocate", reasons["memory.tf"])
		}
		assert.Empty(t, got.Unread, got.Name)
	}
}

// program is this one, which is a worker where it is told to be.
func program(t *testing.T, args ...string) []string {
	t.Helper()
	self, err := os.Executable()
	require.NoError(t, err)
	return append([]string{self}, args...)
}

// beds has workers read a folder of these files.
func beds(ctx context.Context, t *testing.T, workers *survey.Workers, files map[string]string) (survey.ReadRepository, error) {
	t.Helper()
	r, _ := reader(t)
	dir := t.TempDir()
	lay(t, dir, files)
	defer workers.Close()
	read, err := survey.Reader{Claims: r, Workers: workers}.Read(ctx, []repo.Location{{Name: "beds", Path: dir, Kind: repo.Plain}}, repo.Reading{}, nil)
	return read[0], err
}

// TestAFileThatIsReadForEver costs its limit, and itself alone.
func TestAFileThatIsReadForEver(t *testing.T) {
	workers := &survey.Workers{Command: program(t, "work"), FileLimit: 2 * time.Second}
	read, err := beds(t.Context(), t, workers, map[string]string{".node-version": "22\n", "a/hang.tf": "", "z/.node-version": "24\n"})
	require.NoError(t, err)
	assert.Empty(t, read.Unread)
	assert.Len(t, read.Claims, 2, "the rest is read")
	require.Len(t, read.Problems, 1)
	assert.Equal(t, "a/hang.tf", read.Problems[0].File)
	assert.Contains(t, read.Problems[0].Reason, "ended the reader (it took longer than 2s)")
}

// TestAWorkerThatSaysNothing is given up, whether it was told little or more than a pipe holds.
func TestAWorkerThatSaysNothing(t *testing.T) {
	for _, rules := range [][]byte{nil, bytes.Repeat([]byte("#"), 4<<20)} {
		workers := &survey.Workers{Command: program(t, "stop"), Rules: rules, Limit: time.Second}
		read, err := beds(t.Context(), t, workers, map[string]string{".node-version": "22\n"})
		require.NoError(t, err)
		assert.Contains(t, read.Unread, "reading it ended the reader")
	}
}

// TestWaitingIsNoReading: a repository's time begins when its worker does, however many
// it was given before.
func TestWaitingIsNoReading(t *testing.T) {
	r, _ := reader(t)
	begun := t.TempDir()
	workers := &survey.Workers{Command: program(t, "work", begun), Limit: 5 * time.Second} // less than two take
	defer workers.Close()
	dir := t.TempDir()
	var locations []repo.Location
	for i := range 8 * runtime.GOMAXPROCS(0) { // twice as many as it reads at a time
		at := filepath.Join(dir, fmt.Sprint(i))
		lay(t, at, map[string]string{"slow.tf": "", "z/.node-version": "22\n"})
		locations = append(locations, repo.Location{Name: filepath.Base(at), Path: at, Kind: repo.Plain})
	}
	read, err := survey.Reader{Claims: r, Workers: workers}.Read(t.Context(), locations, repo.Reading{}, nil)
	require.NoError(t, err)
	for _, got := range read {
		assert.Empty(t, got.Unread)
		assert.Empty(t, got.Problems)
		assert.Len(t, got.Claims, 1)
	}
	one, err := os.ReadDir(begun)
	require.NoError(t, err)
	assert.Len(t, one, 1, "none was given up, and read again by another worker")
}

// TestWorkersThatCannotBeStarted: reading says so, and is not taken for an empty repository.
func TestWorkersThatCannotBeStarted(t *testing.T) {
	for _, command := range [][]string{{"/no/such/program"}, {"false"}} {
		read, err := beds(t.Context(), t, &survey.Workers{Command: command}, map[string]string{".node-version": "22\n"})
		require.NoError(t, err)
		assert.NotEmpty(t, read.Unread, command)
		assert.Empty(t, read.Claims)
	}
}

// TestWorkersEndWithTheirReading.
func TestWorkersEndWithTheirReading(t *testing.T) {
	ctx, cancel := context.WithTimeout(t.Context(), time.Second)
	defer cancel()
	_, err := beds(ctx, t, &survey.Workers{Command: program(t, "work")}, map[string]string{"hang.tf": ""})
	assert.ErrorIs(t, err, context.DeadlineExceeded)
}
