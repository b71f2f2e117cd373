package survey_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/claim"
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
	e.reader = survey.Reader{Claims: r, Memory: survey.NewMemory(filepath.Join(t.TempDir(), "readings"), "test", c, nil)}
	e.reader.Memory.Now = func() time.Time { return e.now }
	return e
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

// TestAnotherKeyRemembersNothing, and neither does a damaged memory.
func TestAnotherKeyRemembersNothing(t *testing.T) {
	e := newEstate(t, repo.Plain, repo.Reading{})
	lay(t, e.dir, map[string]string{".node-version": "22\n"})
	e.read()
	require.True(t, e.read().Recalled)
	_, c := reader(t)
	e.reader.Memory = survey.NewMemory(e.reader.Memory.Dir, "test", c, []byte("leave-out: [x]\n"))
	e.reader.Memory.Now = func() time.Time { return e.now }
	assert.False(t, e.read().Recalled, "other rules")
	files, err := filepath.Glob(filepath.Join(e.reader.Memory.Dir, "*"))
	require.NoError(t, err)
	require.Len(t, files, 1, "one file a repository, no leftovers")
	for _, damage := range []string{"", "{", "{}\n{", "null\nnull\n"} {
		require.NoError(t, os.WriteFile(files[0], []byte(damage), 0o600))
		got := e.read()
		assert.False(t, got.Recalled)
		assert.Equal(t, "22", raws(got)[".node-version"])
	}
}

// TestRulesReachEveryRepository: the estate's rules hold with the repository's own.
func TestRulesReachEveryRepository(t *testing.T) {
	r, c := reader(t)
	rules, problems := claim.ParseRules([]byte("claims: [{files: [versions/ruby], tool: ruby}]\nrepositories: {be*: {leave-out: [web]}}\n"), c, true)
	require.Empty(t, problems)
	dir := t.TempDir()
	lay(t, dir, map[string]string{"versions/ruby": "3.3.1\n", "web/.node-version": "22\n"})
	got, err := survey.Reader{Claims: r, Rules: rules}.Read(t.Context(), []repo.Location{{Name: "beds", Path: dir, Kind: repo.Plain}, {Name: "other", Path: dir, Kind: repo.Plain}}, repo.Reading{}, nil)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"versions/ruby": "3.3.1"}, raws(got[0]))
	assert.Equal(t, map[string]string{"versions/ruby": "3.3.1", "web/.node-version": "22"}, raws(got[1]))
}
