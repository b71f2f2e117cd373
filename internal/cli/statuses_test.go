package cli_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
)

// TestEveryExitStatus: every command comes to every status that it is said to have, and to no
// other in these ways; and no command is without any.
func TestEveryExitStatus(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{
		"bench.json": benchOf, "roots/good/.node-version": "24.21.0\n", "roots/later/.node-version": "24.21.0\n",
		"bad/.node-version": "18\n", "apart/.node-version": "18\n", "apart/package.json": `{"engines": {"node": ">=24"}}`, "broken/.node-version": "24.21.0\n", "broken/package.json": "{",
		"catalogue/tools/dibber.yaml": "tool: dibber\n", "good/baselines/kiosk.yaml": "baseline: kiosk\ntitle: Kiosks\ndemands: {node: \"24\"}\n",
	})
	at := func(name string) string { return filepath.Join(dir, name) }
	here := func(args ...string) []string {
		return append(args, "--fresh", "--as-of", "2026-11-30", "--inventory", at("bench.json"))
	}
	token, link, stop := serving(t, "--data", at("wexo.db"), "--roots", at("roots"), "--as-of", "2026-11-30")
	defer stop()
	url, _, _ := strings.Cut(link, "/sign-in")
	ask := func(args ...string) []string { return append(args, "--server", url, "--token", token) }
	away := func(args ...string) []string {
		return append(args, "--server", "http://127.0.0.1:1", "--token", token)
	}
	type way struct {
		status int
		args   []string
	}
	ways := map[string][]way{
		"catalogue check": {{0, []string{"catalogue", "check", at("good")}}, {2, []string{"catalogue", "check", at("catalogue")}}},
		"catalogue show":  {{0, []string{"catalogue", "show", "node"}}, {2, []string{"catalogue", "show", "nod"}}},
		"demo":            {{0, []string{"demo", "--once", "--dir", at("demo")}}, {2, []string{"demo", "--bogus"}}, {3, []string{"demo", "--once", "--dir", "/proc/demo"}}},
		"inventory":       {{0, []string{"inventory", "--root", at("roots")}}, {2, []string{"inventory", "--output", "list"}}, {3, []string{"inventory", "--root", at("gone")}}},
		"lines":           {{0, []string{"lines", "node"}}, {2, []string{"lines", "nod"}}},
		"needs":           {{0, here("needs", at("roots/good"))}, {2, here("needs", "nobody", at("roots/good"))}, {3, here("needs", at("broken"))}},
		"order":           {{0, []string{"order", "semver", "1.0.0"}}, {2, []string{"order", "semver", "fern"}}},
		"reconcile":       {{0, here("reconcile", at("roots/good"))}, {1, here("reconcile", at("apart"))}, {2, here("reconcile")}, {3, here("reconcile", at("broken"))}},
		"rules":           {{0, []string{"rules", "node"}}, {2, []string{"rules", "nod"}}},
		"satisfies":       {{0, []string{"satisfies", "npm", ">=1", "2.0.0"}}, {1, []string{"satisfies", "npm", ">=2", "1.0.0"}}, {2, []string{"satisfies", "npm", "fern", "1.0.0"}}},
		"serve":           {{0, nil}, {2, []string{"serve", "--log", "loud"}}, {3, []string{"serve", "--listen", "127.0.0.1:0", "--data", at("wexo.db")}}},
		"survey":          {{0, here("survey", at("roots/good"))}, {1, here("survey", at("bad"))}, {2, here("survey", "--output", "list", at("bad"))}, {3, here("survey", at("broken"))}},
		"trace":           {{0, here("trace", at("roots/good"), "node")}, {2, here("trace", at("roots/good"), "nod")}, {3, here("trace", at("broken"), "node")}},
		"with":            {{0, []string{"with", at("catalogue")}}, {2, []string{"with"}}, {3, []string{"with", at("broken")}}},

		"repositories add":    {{0, ask("repositories", "add", at("roots"))}, {2, ask("repositories", "add")}, {3, ask("repositories", "add", at("gone"))}},
		"repositories list":   {{0, ask("repositories", "list")}, {2, ask("repositories", "list", "--output", "list")}, {3, away("repositories", "list")}},
		"findings":            {{0, ask("findings")}, {2, ask("findings", "--class", "fern")}, {3, away("findings")}},
		"machines send":       {{0, ask("machines", "send", at("bench.json"))}, {2, ask("machines", "send", "--kind", "fern")}, {3, away("machines", "send", at("bench.json"))}},
		"machines list":       {{0, ask("machines", "list")}, {2, ask("machines", "list", "more")}, {3, away("machines", "list")}},
		"machines changes":    {{0, ask("machines", "changes", "bench")}, {2, ask("machines", "changes")}, {3, away("machines", "changes", "bench")}},
		"machines unit":       {{0, ask("machines", "unit")}, {2, ask("machines", "unit", "--every", "1s")}, {3, ask("machines", "unit", "--dir", "/proc/units")}},
		"machines remove":     {{0, ask("machines", "remove", "bench")}, {2, ask("machines", "remove")}, {3, ask("machines", "remove", "bench")}},
		"repositories remove": {{0, ask("repositories", "remove", "later")}, {2, ask("repositories", "remove")}, {3, ask("repositories", "remove", "later")}},
		"sessions list":       {{0, ask("sessions", "list")}, {2, ask("sessions", "list", "more")}, {3, away("sessions", "list")}},
		"sessions remove":     {{0, nil}, {2, ask("sessions", "remove")}, {3, ask("sessions", "remove", "99")}},
		"tokens add":          {{0, ask("tokens", "add", "fern", "--role", "reader")}, {2, ask("tokens", "add", "fern", "--role", "king")}, {3, away("tokens", "add", "fern", "--role", "reader")}},
		"tokens list":         {{0, ask("tokens", "list")}, {2, ask("tokens", "list", "more")}, {3, away("tokens", "list")}},
		"tokens remove":       {{0, ask("tokens", "remove", "2")}, {2, ask("tokens", "remove")}, {3, ask("tokens", "remove", "99")}},
		"tokens recover":      {{0, nil}, {2, []string{"tokens", "recover", "--data", at("gone.db")}}, {3, []string{"tokens", "recover", "--data", at("bench.json")}}},
	}
	order := []string{"repositories add", "machines send"} // before what lists and removes them
	said := cli.Statuses()
	var all []string
	var visit func(c *cobra.Command)
	visit = func(c *cobra.Command) {
		for _, sub := range c.Commands() {
			switch {
			case sub.Hidden || sub.Name() == "help" || sub.Name() == "completion":
			case sub.HasSubCommands():
				visit(sub)
			default:
				all = append(all, strings.TrimPrefix(sub.CommandPath(), "wexo "))
			}
		}
	}
	visit(cli.Command(cli.Streams{}))
	for _, name := range all {
		assert.NotEmpty(t, said[name], "%s is said to have no exit status", name)
		if !slices.Contains(order, name) {
			order = append(order, name)
		}
	}
	assert.Len(t, said, len(all), "every command that is spoken of is there")
	slices.SortStableFunc(order, func(a, b string) int { // what removes comes last
		last := func(name string) int { return map[bool]int{true: 1}[strings.HasSuffix(name, "remove")] }
		return last(a) - last(b)
	})
	for _, name := range order {
		var come []int
		for _, w := range ways[name] {
			come = append(come, w.status)
			if w.args == nil {
				continue // TestAService and those of sessions and tokens come to it
			}
			status, out, errs := wexo(t, w.args...)
			assert.Equal(t, w.status, status, "%s: %s%s", w.args, out, errs)
		}
		var want []int
		for _, s := range said[name] {
			want = append(want, s.Status)
		}
		assert.Equal(t, want, come, name)
	}
	text, err := os.ReadFile("../../docs/commands.md")
	require.NoError(t, err)
	for name, list := range said {
		for _, s := range list {
			assert.Contains(t, string(text), s.Means, name)
		}
	}
}
