package assess_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
)

// TestSilenceIsNotSoundness: what a folder needs and a machine lacks is a finding, whatever
// asks for it.
func TestSilenceIsNotSoundness(t *testing.T) {
	for tool, files := range map[string]map[string]string{
		".NET":      {"Kiosk.csproj": `<Project Sdk="Microsoft.NET.Sdk"><PropertyGroup><TargetFramework>net8.0</TargetFramework></PropertyGroup></Project>`},
		"Flutter":   {"pubspec.yaml": "name: kiosk\nenvironment:\n  sdk: ^3.5.0\n  flutter: '>=3.24.0'\n"},
		"Terraform": {"main.tf": "terraform {\n  required_version = \">= 1.5\"\n}\n"},
	} {
		found := of(judge(t, files, day, bench()), "toolchain-missing")
		require.NotEmpty(t, found, tool)
		all := ""
		for _, f := range found {
			all += f.Message + f.Remedy
			assert.Equal(t, []string{"bench"}, f.Machines)
			assert.NotEmpty(t, f.Evidence)
		}
		assert.Contains(t, all, "needs "+tool)
		assert.Contains(t, all, "bench has none")
	}
	assert.Empty(t, of(judge(t, map[string]string{"Dockerfile": "FROM dart:3.5\n"}, day, bench()), "toolchain-missing"), "what a container brings need not be here")
	nested := map[string]string{"main.tf": "terraform {\n  required_version = \">= 1.5\"\n}\n", "a/main.tf": "terraform {\n  required_version = \">= 1.6\"\n}\n"}
	assert.Len(t, of(judge(t, nested, day, bench()), "toolchain-missing"), 1, "once, for the topmost folder")
}

// TestWhatWouldRunIsJudgedWhateverAsksForIt: a manifest's bound shows as well as a pin that
// a tool is in use, and so does what runs without either.
func TestWhatWouldRunIsJudgedWhateverAsksForIt(t *testing.T) {
	old := bench()
	old.Installations = append(old.Installations, inventory.Installation{Tool: "dotnet", Version: "6.0.428", Path: "/usr/share/dotnet/dotnet", Home: "/usr/share/dotnet", Health: "good"},
		inventory.Installation{Tool: "ruby", Version: "2.7.8", Path: "/opt/ruby/bin/ruby", Home: "/opt/ruby", Health: "good"})
	old.FirstOnPath = append(old.FirstOnPath, inventory.OnPath{Tool: "dotnet", Path: "/usr/share/dotnet/dotnet", Version: "6.0.428"}, inventory.OnPath{Tool: "ruby", Path: "/opt/ruby/bin/ruby", Version: "2.7.8"})
	for line, files := range map[string]map[string]string{
		".NET 6":   {"Kiosk.csproj": `<Project Sdk="Microsoft.NET.Sdk"><PropertyGroup><TargetFramework>net6.0</TargetFramework></PropertyGroup></Project>`},
		"Ruby 2.7": {"ledger.gemspec": "Gem::Specification.new do |s|\n  s.required_ruby_version = '>= 2.7'\nend\n", "beds/beds.gemspec": "Gem::Specification.new do |s|\n  s.required_ruby_version = '>= 2.6'\nend\n"},
	} {
		a := judge(t, files, day, old)
		assert.Equal(t, []string{"pin-missing"}, classes(a), "what comes of a missing pin is said there")
		found := a.Findings
		require.Len(t, found, 1, "once, for all folders: %s", line)
		assert.Contains(t, found[0].Message, "Support for "+line+" ended")
		assert.Equal(t, []string{"bench"}, found[0].Machines)
	}
	assert.Empty(t, of(judge(t, map[string]string{"Dockerfile": "FROM ruby:3.4\n"}, day, old), "end-of-life"), "what a container brings is not what runs here")
}

// with is a machine of another name on which a variable says something.
func with(name, tool, variable, raw string) inventory.Inventory {
	inv := bench()
	inv.Machine.Name = name
	if variable != "" {
		inv.Overrides = []inventory.Override{{Tool: tool, Variable: variable, Raw: raw}}
	}
	return inv
}

// TestTwoReasonsAreToldApart: machines with the same problem for different reasons.
func TestTwoReasonsAreToldApart(t *testing.T) {
	both := judge(t, map[string]string{".java-version": "17\n"}, day, with("desk-a", "java", "JAVA_HOME", "/usr/lib/jvm/temurin-21"), with("desk-b", "java", "JAVA_HOME", "/opt/gone"))
	found := of(both, "override-lingering")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "JAVA_HOME is set on desk-a and beats it: Java 21.0.8+9 runs there")
	found = of(both, "toolchain-missing")
	require.Len(t, found, 1, "where it leads nowhere, nothing runs")
	assert.Contains(t, found[0].Message, "JAVA_HOME is set on desk-b: it says /opt/gone, which leads to no Java there")

	more := func(name, version string) inventory.Inventory {
		inv := with(name, "", "", "")
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "python", Version: version, Path: "/opt/python/" + version + "/bin/python3", Home: "/opt/python/" + version, Health: "good"})
		return inv
	}
	found = of(judge(t, map[string]string{".python-version": "3.12\n", ".pins": "python <3.12.7\n", ".beds": "python 3.12.4\n"}, day, more("desk-a", "3.12.4"), more("desk-b", "3.12.4"), with("desk-c", "", "", "")), "claims-disagree")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "on desk-a and desk-b the first leads to 3.12.7 and the second to 3.12.4")
}

// TestWhatAVariableLeadsToIsJudged for its support, and it is the variable that is named.
func TestWhatAVariableLeadsToIsJudged(t *testing.T) {
	old := with("desk", "python", "GARDEN_PYTHON", "3.8.18")
	a := judge(t, map[string]string{".python-version": "3.13\n", "pyproject.toml": "[project]\nrequires-python = \">=3.12\"\n"}, day, bench(), old)
	ended := of(a, "end-of-life")
	require.Len(t, ended, 1)
	assert.Equal(t, []string{"desk"}, ended[0].Machines)
	assert.Contains(t, ended[0].Message, "but 3.8.18 on desk through GARDEN_PYTHON would run. Support for Python 3.8 ended")
	assert.Equal(t, "Unset GARDEN_PYTHON on desk, or point it at a supported version.", ended[0].Remedy)
	bound := of(a, "bound-violated")
	require.Len(t, bound, 1)
	assert.Contains(t, bound[0].Message, "a variable beats the pin and 3.8.18 on desk through GARDEN_PYTHON would run")
	assert.NotContains(t, bound[0].Message, "with the pin in")
	assert.Contains(t, bound[0].Remedy, "Unset GARDEN_PYTHON on desk")

	void := of(judge(t, map[string]string{"setup.py": ""}, day, with("desk", "python", "GARDEN_PYTHON", "/opt/gone")), "toolchain-missing")
	require.Len(t, void, 1, "nothing is pinned, and what decides leads nowhere")
	assert.Contains(t, void[0].Message, "GARDEN_PYTHON is set on desk: it says /opt/gone, which leads to no Python there, and so nothing runs.")
}

// TestNothingIsInstalledInsideNothing: where no version satisfies all, none is proposed.
func TestNothingIsInstalledInsideNothing(t *testing.T) {
	a := judge(t, map[string]string{"package.json": `{"engines": {"node": ">=99"}, "devEngines": {"runtime": {"name": "node", "version": "<18"}}}`}, day, bench())
	bounds := of(a, "bound-violated")
	require.Len(t, bounds, 2)
	for _, f := range bounds {
		assert.NotContains(t, f.Remedy, "none")
		assert.Contains(t, f.Remedy, "No version satisfies all that is demanded here")
	}
}

// TestEqualWantsAreOne: thousands of lines that ask the same cost no more than one.
func TestEqualWantsAreOne(t *testing.T) {
	many := judge(t, map[string]string{".beds": strings.Repeat("node 22\n", 4000) + "node 24\n"}, day, bench())
	few := judge(t, map[string]string{".beds": "node 22\nnode 24\n"}, day, bench())
	assert.Equal(t, classes(few), classes(many))
	require.Len(t, of(many, "claims-disagree"), 1)
	assert.Len(t, many.Subjects[0].Resolutions[0].Ladder, len(few.Subjects[0].Resolutions[0].Ladder))
}

// TestBeatenRungsAreNamed: a pin of a folder above is on the ladder, also where a nearer one beats it.
func TestBeatenRungsAreNamed(t *testing.T) {
	a := judge(t, map[string]string{".node-version": "20\n", "web/.node-version": "22\n", "web/kiosk/.node-version": "24\n", "web/kiosk/deep/package.json": "{}"}, day, bench())
	kiosk, deep := a.Subjects[2].Resolutions[0].Ladder, a.Subjects[3].Resolutions[0].Ladder
	var said []string
	for _, ladder := range [][]resolve.Rung{kiosk, deep} {
		for _, r := range ladder {
			if r.Says && (r.Source == resolve.ByPin || r.Source == resolve.ByInherited) {
				said = append(said, r.Source+" "+r.Raw+" "+r.Where+" "+r.Note)
			}
		}
	}
	assert.Equal(t, []string{
		"pin 24 web/kiosk/.node-version:1 ", "inherited-pin 22 web/.node-version:1 beaten by the nearer pin", "inherited-pin 20 .node-version:1 beaten by the nearer pin",
		"inherited-pin 24 web/kiosk/.node-version:1 ", "inherited-pin 22 web/.node-version:1 beaten by the nearer pin", "inherited-pin 20 .node-version:1 beaten by the nearer pin",
	}, said)
}

// TestPolicyIsAnInput: what the user decides changes verdicts, and no reading.
func TestPolicyIsAnInput(t *testing.T) {
	files := map[string]string{".node-version": "22\n", "docs/setup.py": ""}
	assert.Equal(t, []string{"support-ending", "pin-missing"}, classes(judge(t, files, day, bench())))
	p := policy.Policy{Settings: policy.Settings{Horizon: 30, Unpinned: []policy.Unpinned{{Tool: "python", Folders: []string{"docs"}}}}}
	assert.Empty(t, classes(judgeBy(t, p, files, day, bench())))
	p = policy.Policy{Repositories: []policy.Named{{Name: "b*", Settings: policy.Settings{Severities: []policy.Weighting{{Class: "support-ending", Severity: "error"}}, PlannedEnd: "2028-12-01"}}}}
	found := of(judgeBy(t, p, map[string]string{".node-version": "22\n"}, day, bench()), "support-ending")
	require.Len(t, found, 1)
	assert.Equal(t, "error", string(found[0].Severity))
	assert.Contains(t, found[0].Message, "planned to live until 1 Dec 2028")
}
