package assess_test

import (
	"context"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/sentence"
)

// platforms is a catalogue folder with two baselines and a rule of the trust's own.
var platforms = fstest.MapFS{
	"baselines/kiosk.yaml": {Data: []byte("baseline: kiosk\ntitle: The kiosks\ndemands: {node: \"^22.12\", java: \"21\"}\ncompanions: {node: {tulip: \">=2.3 <3\"}}\nmachines: [kiosks]\n")},
	"baselines/shed.yaml":  {Data: []byte("baseline: shed\ndemands: {node: \"20\", django: \"4.2\"}\n")},
	"baselines/vine.yaml":  {Data: []byte("baseline: vine\ndemands: {gradle: \"8.4\"}\n")},
	"rules/trust.yaml": {Data: []byte("- name: no-runtime\n  when: {java: \">=21\"}\n  need: {java.package: kit}\n  because: the screens are compiled on the spot\n" +
		"- name: arm-node\n  when: {machine.arch: arm64}\n  need: {node: \">=22\"}\n  because: no older build of it starts there\n  severity: warning\n")},
}

// place is a machine with some installations, each "tool version", first on PATH.
func place(name, arch string, packages map[string]string, installed ...[2]string) inventory.Inventory {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name, OS: "linux", Arch: arch, Kind: "laptop"}}
	for _, in := range installed {
		at := "/opt/" + in[0] + "/" + in[1] + "/bin/" + in[0]
		one := inventory.Installation{Tool: in[0], Version: in[1], Path: at, Home: "/opt/" + in[0] + "/" + in[1], Origin: "versioned-root", Health: "good", Arch: arch}
		if in[0] == "node" {
			one.Packages = packages
		}
		if in[0] == "java" {
			one.Package = "runtime"
		}
		inv.Installations = append(inv.Installations, one)
		inv.FirstOnPath = append(inv.FirstOnPath, inventory.OnPath{Tool: in[0], Path: at, Version: in[1]})
	}
	return inv
}

// settled judges a folder under a policy with the platforms, and tells of what rules and
// baselines say.
func settled(t *testing.T, files map[string]string, decided policy.Policy, machines ...inventory.Inventory) map[string][]string {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	book, err := rule.Load(c, catalogue.Shipped(), platforms)
	require.NoError(t, err)
	_, reader := known()
	tree := fstest.MapFS{}
	for name, content := range files {
		tree[name] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
	}
	facts := assess.NewFacts(book)
	var fleet []*inventory.Machine
	for _, inv := range machines {
		fleet = append(fleet, inventory.NewMachine(inv, c))
	}
	all := resolve.NewFleet(fleet, facts.Wants, nil)
	prepared := facts.Prepare(assess.Repository{Name: "bed", Reading: reader.Read(tree)}, decided)
	results, err := assess.All(context.Background(), []*assess.Prepared{prepared}, all, day, assess.Earlier{})
	require.NoError(t, err)
	out := map[string][]string{}
	teller := sentence.For(all, day)
	for _, f := range results[0].Findings {
		message, remedy := teller.Tell(f)
		out[f.Class.Name] = append(out[f.Class.Name], string(f.Severity)+": "+message+" -> "+remedy)
	}
	return out
}

var kiosks = policy.Policy{Machines: []policy.Machines{{Name: "kiosk-*", Tags: []string{"kiosks"}}}}

func TestPlatforms(t *testing.T) {
	kiosk := place("kiosk-1", "amd64", map[string]string{"tulip": "2.4.0"}, [2]string{"node", "22.23.3"}, [2]string{"node", "24.21.0"})
	desk := place("desk", "amd64", map[string]string{}, [2]string{"node", "24.21.0"})
	adopts := func(files map[string]string) map[string]string {
		files[".wexo.yaml"] = "baselines: [kiosk]\n"
		return files
	}
	for name, q := range map[string]struct {
		files map[string]string
		class string
		says  []string // nothing where none is found
	}{
		"a pin outside what is demanded": {adopts(map[string]string{".node-version": "24.21.0"}), "platform-mismatch",
			[]string{`The baseline "The kiosks" (baselines/kiosk.yaml:3) that this repository adopts demands Node.js ^22.12`, ".node-version:1 asks for Node.js 24.21.0", "-> Change .node-version:1 to Node.js 22.23.3 (install it on desk first)."}},
		"a pin inside it":                      {adopts(map[string]string{".node-version": "22.23.3"}), "platform-mismatch", nil},
		"nothing pinned, and it chooses":       {adopts(map[string]string{"package.json": "{}"}), "platform-mismatch", nil},
		"nobody adopts it":                     {map[string]string{".node-version": "24.21.0"}, "platform-mismatch", nil},
		"a bound that leaves nothing of it":    {adopts(map[string]string{"package.json": `{"engines":{"node":">=24"}}`}), "platform-mismatch", []string{"package.json:1 asks for Node.js >=24"}},
		"the machines with the tag demand it":  {map[string]string{".node-version": "24.21.0", ".wexo.yaml": "tags: [kiosks]\n"}, "platform-mismatch", []string{`The baseline "The kiosks" (baselines/kiosk.yaml:3) that kiosks must meet demands Node.js ^22.12`}},
		"the machines that build it demand it": {map[string]string{".node-version": "24.21.0", ".wexo.yaml": "built-by: [kiosks]\n"}, "platform-mismatch", []string{`The baseline "The kiosks" (baselines/kiosk.yaml:3) that kiosks must meet demands Node.js ^22.12`}},
		"the package is of another version":    {adopts(map[string]string{".node-version": "22.23.3"}), "companion-missing", nil},
		"the package is not there":             {adopts(map[string]string{".node-version": "24.21.0"}), "companion-missing", nil},
	} {
		got := settled(t, q.files, kiosks, kiosk, desk)[q.class]
		if len(q.says) == 0 {
			assert.Empty(t, got, name)
			continue
		}
		if assert.Len(t, got, 1, name) {
			for _, says := range q.says {
				assert.Contains(t, got[0], says, name)
			}
		}
	}
	bare := place("kiosk-2", "amd64", map[string]string{"npm": "10.9.0"}, [2]string{"node", "22.23.3"})
	got := settled(t, adopts(map[string]string{".node-version": "22.23.3"}), kiosks, bare)["companion-missing"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], `wants tulip >=2.3 <3 installed with Node.js, but Node.js 22.23.3 on kiosk-2 has none. -> Install tulip >=2.3 <3 into that Node.js on kiosk-2.`)
	got = settled(t, adopts(map[string]string{"package.json": "{}"}), kiosks, place("kiosk-3", "amd64", nil, [2]string{"node", "20.1.0"}))["platform-mismatch"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "nothing here pins another version, and kiosk-3 has none of it. -> Install Node.js")
}

// TestSeveralPlatforms: two that cannot both be met are told with both lines, and what a rule
// makes impossible is told with the rule.
func TestSeveralPlatforms(t *testing.T) {
	desk := place("desk", "amd64", nil, [2]string{"node", "22.23.3"})
	got := settled(t, map[string]string{".node-version": "22.23.3", ".wexo.yaml": "baselines: [kiosk, shed]\n"}, policy.Policy{}, desk)["platform-mismatch"]
	require.Len(t, got, 2)
	assert.Contains(t, got[0]+got[1], `The baselines "The kiosks" (baselines/kiosk.yaml:3) and "shed" (baselines/shed.yaml:2) that this repository adopts demand Node.js ^22.12 and 20: no version is both.`)
	got = settled(t, map[string]string{"build.gradle": "plugins { id 'java' }\n", "gradle/wrapper/gradle-wrapper.properties": "distributionUrl=https\\://x.invalid/gradle-8.4-bin.zip\n", ".wexo.yaml": "baselines: [kiosk]\n"}, policy.Policy{}, desk)["tools-incompatible"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "the baseline The kiosks (baselines/kiosk.yaml:3) demands Java 21")
	assert.Contains(t, got[0], "Java 21 needs Gradle >=8.5")
	got = settled(t, map[string]string{"requirements.txt": "Django==5.0.1\n", ".wexo.yaml": "baselines: [shed, nowhere]\n"}, policy.Policy{}, desk)["platform-mismatch"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], `demands Django 4.2, but requirements.txt:1 names Django ==5.0.1`)
}

// TestRulesOnMachines: kinds of packages, processors and what runs where are judged on the
// machines that have them, once for all.
func TestRulesOnMachines(t *testing.T) {
	arm := place("arm-desk", "arm64", nil, [2]string{"node", "20.20.2"}, [2]string{"java", "21.0.5"})
	amd := place("amd-desk", "amd64", nil, [2]string{"node", "20.20.2"}, [2]string{"java", "17.0.15"})
	got := settled(t, map[string]string{"package.json": `{"devDependencies":{"eslint":"9.1.0"}}`}, policy.Policy{}, arm, amd)["tools-incompatible"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "warning: ")
	assert.Contains(t, got[0], "Node.js 20.20.2 would run on arm-desk")
	got = settled(t, map[string]string{"pom.xml": "<project/>"}, policy.Policy{}, arm, amd)["tools-incompatible"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "error: Java 21.0.5 would run on arm-desk")
	assert.Contains(t, got[0], "the screens are compiled on the spot")
	// Of two machines one runs what does not go together.
	got = settled(t, map[string]string{"pom.xml": "<project><parent><artifactId>spring-boot-starter-parent</artifactId><version>3.0.4</version></parent></project>"}, policy.Policy{},
		place("a", "amd64", nil, [2]string{"java", "17.0.15"}), place("b", "amd64", nil, [2]string{"java", "11.0.2"}))["tools-incompatible"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "But Java 11.0.2 would run on b.")
}

// TestOwnRules: a repository adds rules of its own and replaces none.
func TestOwnRules(t *testing.T) {
	desk := place("desk", "amd64", nil, [2]string{"node", "22.23.3"})
	files := map[string]string{".node-version": "22.23.3", "package.json": `{"devDependencies":{"vite":"7.0.0"}}`,
		".wexo.yaml": "rules:\n  - {name: old-screens, when: {vite: \">=7\"}, need: {node: \"<22\"}, because: the screens are old}\n  - {name: vite-node, when: {vite: \"*\"}, need: {node: \"*\"}, because: anything goes}\n"}
	got := settled(t, files, policy.Policy{}, desk)
	require.Len(t, got["tools-incompatible"], 1)
	assert.Contains(t, got["tools-incompatible"][0], "Vite >=7.0.0 needs Node.js <22.0.0 (the screens are old)")
	require.Len(t, got["rules-mistaken"], 1)
	assert.Contains(t, got["rules-mistaken"][0], ".wexo.yaml:3")
	assert.Contains(t, got["rules-mistaken"][0], "a repository adds rules and replaces none")
}

// TestWhatIsSetUp: a pipeline that sets up nothing that goes with the rest is told, with what
// to set up; one value that goes is enough.
func TestWhatIsSetUp(t *testing.T) {
	workflow := func(versions string) string {
		return "jobs:\n  test:\n    strategy: {matrix: {node: [" + versions + "]}}\n    steps:\n      - uses: actions/setup-node@v4\n        with: {node-version: '${{ matrix.node }}'}\n"
	}
	desk := place("desk", "amd64", nil, [2]string{"node", "24.21.0"})
	look := func(versions string) []string {
		return settled(t, map[string]string{".node-version": "24.21.0", "package.json": `{"devDependencies":{"vite":"7.0.0"}}`, ".github/workflows/test.yml": workflow(versions)}, policy.Policy{}, desk)["tools-incompatible"]
	}
	got := look("16, 18")
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "But .github/workflows/test.yml:3 sets up Node.js 16 and 18. That does not go together. -> Set up Node.js 24")
	assert.Empty(t, look("18, 22"))
	assert.Empty(t, look("18, latest"))
	got = settled(t, map[string]string{"build.gradle": "java { toolchain { languageVersion = JavaLanguageVersion.of(11) } }\n", "gradle/wrapper/gradle-wrapper.properties": "distributionUrl=https\\://x.invalid/gradle-9.1.0-bin.zip\n",
		".github/workflows/test.yml": "jobs:\n  test:\n    steps:\n      - uses: actions/setup-java@v4\n        with: {java-version: 11, distribution: temurin}\n"}, policy.Policy{}, desk)["tools-incompatible"]
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "sets up Java 11")
}

// TestWhatComesAlong: what an installation tells that it brings counts more than the table.
func TestWhatComesAlong(t *testing.T) {
	flutter := func(version, dart string) inventory.Inventory {
		inv := place("desk", "amd64", nil, [2]string{"flutter", version})
		if dart != "" {
			inv.Installations[0].Components = map[string]string{"dart": dart}
		}
		return inv
	}
	look := func(pin string, inv inventory.Inventory) []string {
		return settled(t, map[string]string{"pubspec.yaml": "environment:\n  sdk: \">=3.4.0 <4.0.0\"\n", ".toolchain": "flutter " + pin + "\n"}, policy.Policy{}, inv)["tools-incompatible"]
	}
	got := look("3.19.6", flutter("3.19.6", "3.3.4"))
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "pubspec.yaml:2 asks for Dart >=3.4.0 <4.0.0, but Flutter 3.19.6 (.toolchain:1) brings Dart 3.3.4. -> Change .toolchain:1 to Flutter 3.22.0, the first that will do")
	got = look("3.19.6", flutter("3.10.0", ""))
	require.Len(t, got, 1, "nothing installed tells")
	assert.Contains(t, got[0], "but Flutter 3.19.6 (.toolchain:1) brings Dart 3.3. -> Change .toolchain:1 to Flutter 3.22.0")
	assert.Empty(t, look("3.19.6", flutter("3.19.6", "3.4.1")), "this one was built with another")
	assert.Empty(t, look("3.22.0", flutter("3.22.0", "")))
	got = look("3.22.0", flutter("3.22.0", "3.3.9"))
	require.Len(t, got, 1)
	assert.Contains(t, got[0], "brings Dart 3.3.9")
}
