package survey_test

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/survey"
)

func git(t *testing.T, dir string, args ...string) {
	t.Helper()
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=t", "-c", "user.email=t@trust.invalid"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
}

// estate is one repository that is read again and again, as one whose files have long lain still.
type estate struct {
	t      *testing.T
	dir    string
	kind   repo.Kind
	how    repo.Reading
	reader survey.Reader
	now    time.Time
}

func newEstate(t *testing.T, kind repo.Kind, how repo.Reading) *estate {
	r, c := reader(t)
	e := &estate{t: t, dir: filepath.Join(t.TempDir(), "beds"), kind: kind, how: how, now: time.Now().Add(time.Hour)}
	e.reader = survey.Reader{Claims: r}
	e.remember(c, filepath.Join(t.TempDir(), "deep", "readings"), userrule.Rules{})
	return e
}

// remember reads with a memory that is opened anew, as the next run of the program does.
func (e *estate) remember(c *catalogue.Catalogue, file string, rules userrule.Rules) {
	e.t.Helper()
	require.NoError(e.t, e.reader.Memory.Close())
	memory, err := survey.OpenMemory(file, "test", c, rules)
	require.NoError(e.t, err)
	memory.Now = func() time.Time { return e.now }
	e.t.Cleanup(func() { memory.Close() })
	e.reader.Memory = memory
}

func (e *estate) read() survey.ReadRepository {
	e.t.Helper()
	got, err := e.reader.Read(e.t.Context(), []repo.Location{{Name: "beds", Path: e.dir, Kind: e.kind}}, e.how, nil)
	require.NoError(e.t, err)
	return got[0]
}

func raws(r survey.ReadRepository) map[string]string {
	out := map[string]string{}
	for _, c := range r.Claims {
		out[c.File] = c.Raw
	}
	return out
}

func TestACommittedTreeIsReadOnce(t *testing.T) {
	e := newEstate(t, repo.Git, repo.Reading{})
	lay(t, e.dir, map[string]string{".node-version": "22\n", "web/.python-version": "3.12\n", "go.mod": "module x\n\ngo 1.25\n"})
	git(t, e.dir, "init", "-q", "-b", "main")
	git(t, e.dir, "add", "-A")
	git(t, e.dir, "commit", "-qm", "beds")
	first := e.read()
	assert.False(t, first.Recalled)
	assert.Equal(t, 3, first.Reread)

	second := e.read()
	assert.True(t, second.Recalled, "the commit is the same")
	assert.Equal(t, first.Reading, second.Reading)
	assert.Equal(t, first.Commit, second.Commit)

	lay(t, e.dir, map[string]string{".node-version": "24\n"})
	assert.True(t, e.read().Recalled, "what is not committed does not count")
	git(t, e.dir, "commit", "-qam", "newer")
	third := e.read()
	assert.False(t, third.Recalled)
	assert.Equal(t, 1, third.Reread, "the others have not changed")
	assert.Equal(t, map[string]string{".node-version": "24", "web/.python-version": "3.12", "go.mod": "1.25"}, raws(third))

	git(t, e.dir, "pack-refs", "--all")
	assert.True(t, e.read().Recalled, "refs may be packed")
	git(t, e.dir, "checkout", "-q", "--detach", "HEAD~1")
	assert.Equal(t, "22", raws(e.read())[".node-version"], "HEAD leads elsewhere")
}

func TestAWorkingTreeIsReadOnce(t *testing.T) {
	for _, kind := range []repo.Kind{repo.Git, repo.Plain} {
		e := newEstate(t, kind, repo.Reading{Worktree: true})
		lay(t, e.dir, map[string]string{".node-version": "22\n", "web/package.json": "{\"engines\": {\"node\": \">=20\"}}", ".vscode/settings.json": `{"python.defaultInterpreterPath": ".venv/bin/python"}`, "src/a.txt": "x"})
		first := e.read()
		assert.False(t, first.Recalled)
		assert.Equal(t, 3, first.Reread)
		assert.True(t, e.read().Recalled, "nothing has changed")

		changes := []func(){
			func() { lay(t, e.dir, map[string]string{".node-version": "23\n"}) },
			func() { lay(t, e.dir, map[string]string{"deep/er/.ruby-version": "3.3.1\n"}) },
			func() { require.NoError(t, os.Remove(filepath.Join(e.dir, "web/package.json"))) },
			func() {
				lay(t, e.dir, map[string]string{".venv/bin/python": "", ".venv/pyvenv.cfg": "version = 3.11.2\n"})
			},
			func() { lay(t, e.dir, map[string]string{".venv/pyvenv.cfg": "version = 3.12.22\n"}) },
			func() { lay(t, e.dir, map[string]string{".wexo.yaml": "leave-out: [deep]\n"}) },
			func() { lay(t, e.dir, map[string]string{".wexo.yaml": "leave-out: [.node-version]\n"}) },
			func() {
				lay(t, e.dir, map[string]string{".wexo.yaml": "claims: [{files: [.node-version], tool: go}]\n"})
			},
			func() {
				lay(t, e.dir, map[string]string{".wexo.yaml": "claims: [{files: [.node-version], tool: python}]\n"})
			},
			func() { lay(t, e.dir, map[string]string{".wexo.yaml": "tags: [shed]\n"}) },
		}
		for i, change := range changes {
			change()
			got := e.read()
			assert.False(t, got.Recalled, "change %d", i)
			fresh := survey.Reader{Claims: e.reader.Claims}
			want, err := fresh.Read(t.Context(), []repo.Location{{Name: "beds", Path: e.dir, Kind: kind}}, e.how, nil)
			require.NoError(t, err)
			assert.ElementsMatch(t, want[0].Claims, got.Claims, "change %d: as if it were read for the first time", i)
			assert.LessOrEqual(t, got.Reread, 2, "change %d: only what changed", i)
			assert.True(t, e.read().Recalled, "change %d", i)
		}
	}
}

// TestWhatChangedAMomentAgoIsNotTrusted: file systems' clocks are coarse, so a file that
// was written while it was read may change again without a trace.
func TestWhatChangedAMomentAgoIsNotTrusted(t *testing.T) {
	e := newEstate(t, repo.Plain, repo.Reading{})
	e.now = time.Now()
	lay(t, e.dir, map[string]string{".node-version": "22\n"})
	e.read()
	assert.False(t, e.read().Recalled)
}

// TestAnotherKeyRemembersNothing: readings by other rules are none.
func TestAnotherKeyRemembersNothing(t *testing.T) {
	e := newEstate(t, repo.Plain, repo.Reading{})
	_, c := reader(t)
	file := e.reader.Memory.File
	lay(t, e.dir, map[string]string{".node-version": "22\n"})
	e.read()
	require.True(t, e.read().Recalled)
	e.remember(c, file, userrule.Rules{})
	require.True(t, e.read().Recalled, "in the next run too")
	e.remember(c, file, rulesOf(t, c, "leave-out: [x]\n"))
	assert.False(t, e.read().Recalled, "other rules")
	e.remember(c, file, rulesOf(t, c, "leave-out: [x]\nplanned-end: 2028-01-01\nunpinned-is-fine: [node]\nhorizon: 90\nseverities: {pin-missing: note}\n"))
	assert.True(t, e.read().Recalled, "what else is decided changes nothing of what is read")
}

// TestADamagedMemoryIsMadeAnew, whether it is found to be damaged when it is opened or later.
func TestADamagedMemoryIsMadeAnew(t *testing.T) {
	e := newEstate(t, repo.Plain, repo.Reading{})
	_, c := reader(t)
	file := e.reader.Memory.File
	lay(t, e.dir, map[string]string{".node-version": "22\n"})
	e.read()
	require.NoError(t, e.reader.Memory.Close())
	sound, err := os.ReadFile(file)
	require.NoError(t, err)
	e.reader.Memory = nil
	torn := slices.Concat(sound[:4096], bytes.Repeat([]byte{0xa5}, len(sound)-4096))
	for i, damaged := range [][]byte{{}, []byte("{"), bytes.Repeat([]byte("beds "), 5000), sound[:len(sound)/2], torn} {
		require.NoError(t, os.WriteFile(file, damaged, 0o600))
		e.remember(c, file, userrule.Rules{})
		got := e.read()
		assert.False(t, got.Recalled, "damage %d", i)
		assert.Equal(t, "22", raws(got)[".node-version"], "damage %d", i)
		e.remember(c, file, userrule.Rules{})
		e.read()
		assert.True(t, e.read().Recalled, "damage %d: it works again", i)
	}
}

// TestTwoReadersShareAMemory, as two runs at once do.
func TestTwoReadersShareAMemory(t *testing.T) {
	e := newEstate(t, repo.Plain, repo.Reading{})
	_, c := reader(t)
	lay(t, e.dir, map[string]string{".node-version": "22\n"})
	other, err := survey.OpenMemory(e.reader.Memory.File, "test", c, userrule.Rules{})
	require.NoError(t, err)
	defer other.Close()
	other.Now = e.reader.Memory.Now
	e.read()
	mine := e.reader.Memory
	e.reader.Memory = other
	assert.True(t, e.read().Recalled)
	e.reader.Memory = mine
}

// TestOldReadingsAreForgotten once half a year went by and something else was read.
func TestOldReadingsAreForgotten(t *testing.T) {
	e := newEstate(t, repo.Plain, repo.Reading{})
	lay(t, e.dir, map[string]string{".node-version": "22\n"})
	e.read()
	e.now = e.now.AddDate(0, 0, 179)
	assert.True(t, e.read().Recalled)
	e.now = e.now.AddDate(0, 0, 2)
	beds := e.dir
	e.dir = filepath.Join(t.TempDir(), "ledger")
	lay(t, e.dir, map[string]string{".node-version": "24\n"})
	e.read()
	e.dir = beds
	assert.False(t, e.read().Recalled)
}

// TestRulesReachEveryRepository: the estate's rules hold with the repository's own.
func TestRulesReachEveryRepository(t *testing.T) {
	r, c := reader(t)
	rules := rulesOf(t, c, "claims: [{files: [versions/ruby], tool: ruby}]\nrepositories: {be*: {leave-out: [web]}}\n")
	dir := t.TempDir()
	lay(t, dir, map[string]string{"versions/ruby": "3.3.1\n", "web/.node-version": "22\n"})
	got, err := survey.Reader{Claims: r, Rules: rules}.Read(t.Context(), []repo.Location{{Name: "beds", Path: dir, Kind: repo.Plain}, {Name: "other", Path: dir, Kind: repo.Plain}}, repo.Reading{}, nil)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"versions/ruby": "3.3.1"}, raws(got[0]))
	assert.Equal(t, map[string]string{"versions/ruby": "3.3.1", "web/.node-version": "22"}, raws(got[1]))
}
