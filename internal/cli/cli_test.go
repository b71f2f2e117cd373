package cli_test

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
	"wexo/internal/core/inventory"
	"wexo/internal/report"
)

// wexo runs a command line in process.
func wexo(t *testing.T, args ...string) (status int, out, errors string) {
	t.Helper()
	return wexoReading(t, "", args...)
}

func wexoReading(t *testing.T, input string, args ...string) (status int, out, errors string) {
	t.Helper()
	var o, e bytes.Buffer
	status = cli.Run(args, cli.Streams{In: strings.NewReader(input), Out: &o, Err: &e})
	return status, o.String(), e.String()
}

// estate lays out the demo once and gives its folder.
func estate(t *testing.T) string {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "demo")
	status, out, errors := wexo(t, "demo", "--once", "--dir", dir)
	require.Equal(t, 0, status, errors)
	require.Contains(t, out, "33 repositories")
	return dir
}

func lay(t *testing.T, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, content := range files {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(content), 0o644))
	}
	return dir
}

func TestSurveyOfTheDemo(t *testing.T) {
	dir := estate(t)
	args := []string{"survey", "--config", filepath.Join(dir, "wexo.yaml"), "--as-of", "2026-11-16", "--output", "json"}
	inventories, err := filepath.Glob(filepath.Join(dir, "inventories", "*.json"))
	require.NoError(t, err)
	for _, file := range inventories {
		args = append(args, "--inventory", file)
	}
	status, out, errors := wexo(t, append(args, filepath.Join(dir, "repositories"))...)
	assert.Equal(t, 1, status, "there are errors")
	assert.Equal(t, "Not seen, and so what rests on it is not known: volunteer-rota/package.json:4: broken JSON: invalid character '\"' after object value (expecting ',' or '}')\nRepositories' own rules take away 1 claim, 3 errors, in 1 repository; wexo survey --strict counts them.\n", errors)
	r, err := report.ReadDocument(strings.NewReader(out))
	require.NoError(t, err)
	assert.Equal(t, "2026-11-16", r.AsOf)
	assert.Equal(t, []string{"kiosk-image", "orchid-desk", "potting-bench", "seed-agent"}, r.Telling().Machines)
	for _, class := range []string{"toolchain-missing", "pin-missing", "claims-disagree", "bound-violated", "interpreter-mismatch", "interpreter-dangling",
		"end-of-life", "support-ending", "pin-floating", "tools-incompatible", "platform-mismatch", "companion-missing", "version-unknown", "file-unreadable", "file-unclaimed"} {
		assert.Positive(t, r.Summary.ByClass[class], "the demo shows %s", class)
	}
	troubled := map[string]bool{}
	for _, f := range r.Findings {
		if !f.Apart && f.Repository != "" {
			troubled[f.Repository] = true
		}
	}
	assert.Positive(t, r.Summary.Apart, "and what counts apart")
	assert.Greater(t, len(r.Repositories)-len(troubled), len(r.Repositories)/2, "most repositories are healthy")

	status, again, _ := wexo(t, append(args, filepath.Join(dir, "repositories"))...)
	assert.Equal(t, 1, status)
	assert.Equal(t, out, again, "two runs can be compared")
	status, _, _ = wexo(t, append(args, "--fail-on", "never", filepath.Join(dir, "repositories"))...)
	assert.Equal(t, 0, status)
	status, _, _ = wexo(t, append(args, filepath.Join(dir, "repositories", "specimen-web"))...)
	assert.Equal(t, 0, status, "a warning does not fail")
	status, _, _ = wexo(t, append(args, "--fail-on", "warning", filepath.Join(dir, "repositories", "specimen-web"))...)
	assert.Equal(t, 1, status)
}

func TestDemoContinuesAndStartsAnew(t *testing.T) {
	dir := estate(t)
	note := filepath.Join(dir, "repositories", "moss-index", "note.txt")
	require.NoError(t, os.WriteFile(note, nil, 0o644))
	status, _, _ := wexo(t, "demo", "--once", "--dir", dir)
	assert.Equal(t, 0, status)
	assert.FileExists(t, note)
	status, _, _ = wexo(t, "demo", "--once", "--dir", dir, "--fresh")
	assert.Equal(t, 0, status)
	assert.NoFileExists(t, note)

	require.NoError(t, os.Remove(filepath.Join(dir, ".wexo-demo")))
	require.NoError(t, os.WriteFile(note, nil, 0o644))
	status, out, errors := wexo(t, "demo", "--once", "--dir", dir)
	assert.Equal(t, 0, status, errors)
	assert.Contains(t, out, "33 repositories")
	assert.NoFileExists(t, note, "a demo that was stopped half made is made anew")

	mine := lay(t, map[string]string{"thesis.txt": "do not delete"})
	status, _, errors = wexo(t, "demo", "--once", "--dir", mine, "--fresh")
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, "not the demo's")
	assert.FileExists(t, filepath.Join(mine, "thesis.txt"))
}

func TestTraceReadsWithoutAManual(t *testing.T) {
	dir := estate(t)
	bench := filepath.Join(dir, "inventories", "potting-bench.json")
	status, out, errors := wexo(t, "trace", "--as-of", "2026-11-16", "--inventory", bench, filepath.Join(dir, "repositories", "weather-mast"), "python")
	require.Equal(t, 0, status, errors)
	for _, says := range []string{"Python in weather-mast", ".python-version:1:1", "3.12", "together they allow: >=3.12.0 <3.13.0", "Override", "▶ Pin", "Inherited pin",
		"First on PATH", "a proxy", "The pin decides: Python 3.12.7 runs.", "interpreter mismatch", "3.8.18"} {
		assert.Contains(t, out, says)
	}
	status, out, _ = wexo(t, "trace", "--inventory", bench, filepath.Join(dir, "repositories", "garden-common")+":newsletter", "nodejs")
	assert.Equal(t, 0, status)
	assert.Contains(t, out, "These cannot hold together")
	assert.Contains(t, out, "newsletter/package.json")
	status, _, errors = wexo(t, "trace", "--inventory", bench, filepath.Join(dir, "repositories", "moss-index"), "java")
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "it speaks of python")
}

func TestBadInput(t *testing.T) {
	dir := lay(t, map[string]string{
		"good/.node-version": "22\n", "good/package.json": "{}",
		"binary/.python-version": "3.1\x002",
		"utf8/.python-version":   "3.12 \xff\n",
		"json/package.json":      "{",
	})
	for _, name := range []string{"empty", "new"} {
		require.NoError(t, os.MkdirAll(filepath.Join(dir, name), 0o755))
	}
	run := func(name string, args ...string) {
		cmd := exec.Command(name, args...)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	run("git", "-C", filepath.Join(dir, "new"), "init", "-q")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "new", ".node-version"), []byte("22\n"), 0o644))
	require.NoError(t, os.Symlink("..", filepath.Join(dir, "good", "loop")))
	require.NoError(t, os.Symlink("/etc/passwd", filepath.Join(dir, "good", ".java-version")))
	huge, err := os.Create(filepath.Join(dir, "good", ".go-version"))
	require.NoError(t, err)
	require.NoError(t, huge.Truncate(200<<20))
	require.NoError(t, huge.Close())
	require.NoError(t, syscall.Mkfifo(filepath.Join(dir, "good", ".python-version"), 0o644))

	status, out, errors := wexo(t, "survey", "--worktree", "--output", "json", dir, filepath.Join(dir, "nowhere"))
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "nowhere: no such folder")
	r, err := report.ReadDocument(strings.NewReader(out))
	require.NoError(t, err)
	names := map[string]string{}
	for _, repository := range r.Repositories {
		names[repository.Name] = repository.Notice
	}
	assert.Contains(t, names, "new", "a repository without commits is surveyed")
	said := map[string]string{}
	for _, f := range r.Findings {
		if f.Class == "file-unreadable" {
			said[f.Repository+"/"+f.Evidence[0].File] = f.Message
		}
	}
	for file, says := range map[string]string{
		"good/.java-version": "leads out of the repository", "good/.go-version": "200 MB", "good/.python-version": "not a regular file",
		"binary/.python-version": "binary", "utf8/.python-version": "UTF-8", "json/package.json": "broken JSON",
	} {
		assert.Contains(t, said[file], says, file)
	}
	for _, repository := range r.Repositories {
		if repository.Name == "good" {
			assert.Equal(t, "22", repository.Folders[0].Tools[0].Claims[0].Raw, "the good file beside the bad ones is read")
		}
	}

	status, _, errors = wexo(t, "survey", filepath.Join(dir, "new"))
	assert.NotContains(t, errors, "panic")
	assert.NotEqual(t, 2, status)
	status, _, errors = wexo(t, "survey", filepath.Join(dir, "empty"))
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "no repository is found there")
}

func TestWrongUsage(t *testing.T) {
	dir := lay(t, map[string]string{".node-version": "22\n", "bad.json": "{\n"})
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{"survey"}, "name a folder"},
		{[]string{"survey", "--output", "pigeon", dir}, "--output should be text or json, and it is \"pigeon\""},
		{[]string{"survey", "--fail-on", "monday", dir}, "error, warning, note or never"},
		{[]string{"survey", "--as-of", "soon", dir}, "--as-of should be a date such as 2026-11-16, and it is \"soon\""},
		{[]string{"survey", "--inventory", filepath.Join(dir, "bad.json"), dir}, "bad.json: line 2"},
		{[]string{"survey", "--inventory", filepath.Join(dir, "none.json"), dir}, "none.json"},
		{[]string{"survey", "--worktree", "--ref", "x", dir}, "--ref and --worktree exclude each other"},
		{[]string{"survey", "--no-such-flag"}, "unknown option --no-such-flag for wexo survey"},
		{[]string{"survey", "--verbos", dir}, `unknown option --verbos for wexo survey; did you mean "--verbose"?`},
		{[]string{"surve", dir}, `unknown command "surve" for wexo; did you mean "survey"?`},
		{[]string{"machines", "lst"}, `unknown command "lst" for wexo machines; did you mean "list"?`},
		{[]string{"machines"}, "wexo machines wants one of changes, list, remove, send or unit"},
		{[]string{"tokens", "add"}, "0 arguments were given; it is used so: wexo tokens add NAME"},
		{[]string{"findings", "--limit", "few"}, `--limit should be a whole number, and it is "few"`},
		{[]string{"findings", "--class", "end-of-lif"}, `--class is "end-of-lif", which is none that is known; did you mean "end-of-life"?`},
		{[]string{"findings", "--severity", "awful"}, `--severity should be error, warning or note, and it is "awful"`},
		{[]string{"findings", "--server", "127.0.0.1:8420"}, `--server is "127.0.0.1:8420", which is no service's address; one looks like http://127.0.0.1:8420`},
		{[]string{"machines", "unit", "--server", "https://wexo.trust.invalid", "--kind", "laptoop"}, `did you mean "laptop"?`},
		{[]string{"inventory", "--kind", "laptoop"}, `--kind is "laptoop", which is none that is known; did you mean "laptop"?`},
		{[]string{"with", dir, "--shell", "fsh"}, `did you mean "fish"?`},
		{[]string{"rules", "nod"}, `no rule speaks of "nod"; did you mean "node"?`},
		{[]string{"machines", "send", "--kind", "laptoop"}, `--kind is "laptoop", which is none that is known; did you mean "laptop"?`},
		{[]string{"tokens", "add", "fern", "--role", "redaer"}, `--role is "redaer", which is none that is known; did you mean "reader"?`},
		{[]string{"lines", "nod"}, `unknown tool "nod"; did you mean "node"?`},
		{[]string{"satisfies", "nmp", "1", "2"}, `unknown dialect "nmp"; did you mean "npm"?`},
		{[]string{"order", "semvr", "1", "2"}, `unknown scheme "semvr"; did you mean "semver"?`},
		{[]string{"trace", dir, "abacus"}, "unknown tool"},
		{[]string{"lines", "abacus"}, "unknown tool"},
		{[]string{"findings"}, "which service"},
		{[]string{"order", "roman", "I"}, "unknown scheme"},
		{[]string{"serve", "--config", filepath.Join(dir, "bad.json")}, "bad.json"},
	} {
		status, out, errors := wexo(t, c.args...)
		assert.Equal(t, 2, status, "%v", c.args)
		assert.Empty(t, out)
		assert.Contains(t, errors, c.says, "%v", c.args)
	}
}

func TestVersionCommands(t *testing.T) {
	status, out, _ := wexo(t, "satisfies", "npm", "^20.9 || >=22", "18.1.0", "20.11.1", "21.0.0", "24.0.0")
	assert.Equal(t, 0, status)
	assert.Equal(t, "20.11.1\n24.0.0\n", out)
	status, out, _ = wexo(t, "satisfies", "npm", "^20", "18.1.0")
	assert.Equal(t, 1, status)
	assert.Empty(t, out)
	_, out, _ = wexo(t, "order", "java", "17.0.9+9", "1.8.0_292", "21", "11.0.2")
	assert.Equal(t, "1.8.0_292\n11.0.2\n17.0.9+9\n21\n", out)
	_, out, _ = wexoReading(t, `{"dialect":"npm","range":"^1","version":"1.2.3"}`+"\n"+`{"dialect":"npm","range":"^^1","version":"1.2.3"}`+"\n", "satisfies", "--stdin")
	lines := strings.Split(strings.TrimSpace(out), "\n")
	assert.Equal(t, `{"satisfies":true}`, lines[0])
	assert.Contains(t, lines[1], `"error"`)
	_, out, _ = wexoReading(t, `{"scheme":"pep440","a":"1.0rc1","b":"1.0"}`+"\n", "order", "--stdin")
	assert.Equal(t, `{"order":-1}`, strings.TrimSpace(out))
	_, out, _ = wexo(t, "lines", "node", "--as-of", "2026-11-16")
	assert.Regexp(t, `node +22 +Jod +2024-04-24 +2027-04-30 +maintenance`, out)
}

func TestInventoryOfThisMachine(t *testing.T) {
	status, out, errors := wexo(t, "inventory", "--output", "json")
	require.Equal(t, 0, status, errors)
	file := filepath.Join(t.TempDir(), "inventory.json")
	require.NoError(t, os.WriteFile(file, []byte(out), 0o644))
	dir := lay(t, map[string]string{".node-version": "lts\n"})
	status, text, _ := wexo(t, "survey", "--inventory", file, "--fail-on", "never", dir)
	assert.Equal(t, 0, status)
	assert.Contains(t, text, "pin floating")
	assert.NotContains(t, text, "\x1b[", "no colour where there is no terminal")
	_, human, _ := wexo(t, "inventory")
	assert.Contains(t, human, "Node.js")
	assert.Contains(t, human, "PATH runs")
}

// TestInventoryOfAnUnpackedImage: a machine is probed by its files alone.
func TestInventoryOfAnUnpackedImage(t *testing.T) {
	dir := estate(t)
	image := filepath.Join(dir, "machines", "kiosk-image")
	status, out, errors := wexo(t, "inventory", "--root", image, "--kind", "image", "--output", "json")
	require.Equal(t, 0, status, errors)
	var got inventory.Inventory
	require.NoError(t, json.Unmarshal([]byte(out), &got))
	assert.Equal(t, "kiosk-image", got.Machine.Name)
	assert.Equal(t, "image", got.Machine.Kind)
	assert.Len(t, got.Installations, 9)
	assert.Contains(t, got.FirstOnPath, inventory.OnPath{Tool: "python", Path: "/usr/local/bin/python3", Version: "3.13.1"})
	status, _, errors = wexo(t, "inventory", "--root", filepath.Join(dir, "nowhere"))
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "no such file or folder")
}

// lines is a writer whose complete lines can be waited for.
type lines struct {
	mu   sync.Mutex
	text strings.Builder
	more chan struct{}
}

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.text.Write(p)
	select {
	case l.more <- struct{}{}:
	default:
	}
	return len(p), nil
}

// after waits for a line with the prefix and gives what follows it.
func (l *lines) after(t *testing.T, prefix string) string {
	t.Helper()
	limit := time.After(20 * time.Second)
	for {
		l.mu.Lock()
		text := l.text.String()
		l.mu.Unlock()
		for line := range strings.Lines(text) {
			if rest, ok := strings.CutPrefix(line, prefix); ok && strings.HasSuffix(line, "\n") {
				return strings.TrimSpace(rest)
			}
		}
		select {
		case <-l.more:
		case <-limit:
			t.Fatalf("no line begins with %q in: %s", prefix, text)
		}
	}
}

// TestAService drives a service through its commands, from its first start to its stop.
func TestAService(t *testing.T) {
	dir := estate(t)
	data := filepath.Join(t.TempDir(), "wexo.db")
	config := filepath.Join(t.TempDir(), "wexo.yaml")
	require.NoError(t, os.WriteFile(config, []byte("as-of: 2026-11-16\nlisten: 127.0.0.1:1\nroots: ["+dir+"]\n"), 0o644))
	t.Setenv("WEXO_LISTEN", "127.0.0.1:2")
	out, logged := &lines{more: make(chan struct{}, 1)}, &lines{more: make(chan struct{}, 1)}
	done := make(chan int, 1)
	go func() {
		done <- cli.Run([]string{"serve", "--config", config, "--data", data, "--listen", "127.0.0.1:0"}, cli.Streams{In: strings.NewReader(""), Out: out, Err: logged})
	}()
	token := out.after(t, "An owner's token, shown once: ")
	link := out.after(t, "Sign in to the console, once:  ")
	url, _, _ := strings.Cut(link, "/sign-in")
	t.Setenv("WEXO_SERVER", url)
	t.Setenv("WEXO_TOKEN", token)
	ask := func(args ...string) string {
		t.Helper()
		status, text, errors := wexo(t, args...)
		require.Equal(t, 0, status, "%v: %s", args, errors)
		return text
	}

	assert.Contains(t, ask("repositories", "add", filepath.Join(dir, "repositories")), "weather-mast")
	for _, machine := range []string{"potting-bench", "orchid-desk"} {
		ask("machines", "send", filepath.Join(dir, "inventories", machine+".json"))
	}
	assert.Regexp(t, `potting-bench +laptop +linux/amd64 +— +0 of 0 +14`, ask("machines", "list"))
	status, text, errors := wexo(t, "survey")
	assert.Equal(t, 1, status, "there are errors")
	assert.Contains(t, errors, "33 of 33 repositories read")
	assert.Contains(t, text, "Python: editors run another version than what is asked for, in weather-mast")
	_, each, _ := wexo(t, "survey", "--each")
	assert.Contains(t, each, "interpreter mismatch")
	assert.Contains(t, ask("findings", "--class", "end-of-life"), "1 of 1 findings")
	assert.Contains(t, ask("findings", "--output", "json", "--repository", "moss-index"), `"total": 0`)
	assert.Contains(t, ask("findings", "--apart"), "3 of 3 findings")
	assert.Contains(t, ask("trace", "weather-mast", "python"), "The pin decides: Python 3.12.7 runs.")
	assert.Contains(t, ask("trace", "garden-common:newsletter", "node"), "These cannot hold together")
	ask("repositories", "remove", "moss-index")
	assert.NotContains(t, ask("repositories", "list"), "moss-index")
	reader := strings.TrimSpace(ask("tokens", "add", "a reader"))
	assert.Regexp(t, `a reader +reader`, ask("tokens", "list"))

	status, _, errors = wexo(t, "tokens", "list", "--token", reader)
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "the service says: The role reader may not do this")
	status, _, errors = wexo(t, "repositories", "add", "/etc")
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "does not lie below")
	status, _, errors = wexo(t, "serve", "--data", filepath.Join(t.TempDir(), "other.db"), "--listen", strings.TrimPrefix(url, "http://"))
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "is taken by another program")

	require.NoError(t, syscall.Kill(os.Getpid(), syscall.SIGTERM))
	assert.Equal(t, 0, <-done, "it stops cleanly")
	logged.after(t, "time=")
	status, _, errors = wexo(t, "findings")
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "does not answer")
}
