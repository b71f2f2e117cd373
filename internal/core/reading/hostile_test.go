package reading_test

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"strconv"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/claim"
	"wexo/internal/core/reading"
)

// hostile are files that want to hurt the reader. Each stands beside a good one, which
// must still be read; none may yield a claim from its own folder that its text does not make.
var hostile = map[string]map[string]string{
	"deep JSON objects":              {"package.json": strings.Repeat(`{"a":`, 50_000) + "1" + strings.Repeat("}", 50_000)},
	"deep JSON lists":                {"package.json": strings.Repeat("[", 400_000)},
	"unfinished JSON string":         {"package.json": `{"engines": {"node": "`},
	"engines is a list":              {"package.json": `{"engines": ["node", ">=20"]}`},
	"engines is null":                {"package.json": `{"engines": null}`},
	"engines.node is an object":      {"package.json": `{"engines": {"node": {"min": "20"}}}`},
	"package.json is a number":       {"package.json": "42"},
	"package.json is empty":          {"package.json": ""},
	"package.json is blank":          {"package.json": "   \n\n"},
	"JSON with a zero byte":          {"package.json": "{\"a\": \"\x00\"}"},
	"JSON in Latin-1":                {"package.json": "{\"a\": \"\xe4\"}"},
	"JSON in UTF-16":                 {"package.json": "\xff\xfe{\x00}\x00"},
	"package manager without number": {"package.json": `{"packageManager": "pnpm"}`},
	"package manager as an object":   {"package.json": `{"packageManager": {"name": "pnpm"}}`},
	"deep TOML lists":                {"pyproject.toml": "a = " + strings.Repeat("[", 100_000)},
	"TOML key twice":                 {"pyproject.toml": "[project]\nname = \"a\"\nname = \"b\"\n"},
	"TOML of another shape":          {"pyproject.toml": "project = 3\n"},
	"requires-python is a list":      {"pyproject.toml": "[project]\nrequires-python = [\">=3\"]\n"},
	"deep XML":                       {"pom.xml": strings.Repeat("<a>", 100_000)},
	"XML entities that multiply":     {"pom.xml": `<!DOCTYPE p [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;">]><project><properties><java.version>&c;</java.version></properties></project>`},
	"XML that asks for a file":       {"pom.xml": `<!DOCTYPE p [<!ENTITY x SYSTEM "file:///etc/passwd">]><project><properties><java.version>&x;</java.version></properties></project>`},
	"a property that names itself":   {"pom.xml": `<project><properties><java.version>${java.version}</java.version></properties></project>`},
	"properties in a circle":         {"pom.xml": `<project><properties><a>${b}${b}</a><b>${a}${a}</b><maven.compiler.release>${a}</maven.compiler.release></properties></project>`},
	"XML of an unknown charset":      {"pom.xml": `<?xml version="1.0" encoding="EBCDIC-GARDEN"?><project/>`},
	"XML with unclosed comment":      {"pom.xml": "<project><!-- "},
	"go.mod in one endless line":     {"go.mod": "module " + strings.Repeat("x", 400_000)},
	"go.mod without a module":        {"go.mod": "go 1.22\n"},
	"go.mod with an unknown word":    {"go.mod": "module x\n\nwater daily\n"},
	"Gradle with endless quotes":     {"build.gradle": strings.Repeat(`"`, 100_000)},
	"Gradle with open comment":       {"build.gradle": "/* java { languageVersion = JavaLanguageVersion.of(17) }"},
	"Gradle of huge numbers":         {"build.gradle": "toolchain.languageVersion = JavaLanguageVersion.of(" + strings.Repeat("9", 5000) + ")"},
	"version of huge numbers":        {".python-version": strings.Repeat("9", 5000)},
	"version of many parts":          {".python-version": strings.Repeat("1.", 2000) + "1"},
	"version with a path":            {".python-version": "../../../etc/passwd"},
	"version with a command":         {".python-version": "$(touch /tmp/ran)"},
	"version with escapes":           {".python-version": "\x1b[31m3.12\x1b[0m"},
	"version with a tab and words":   {".node-version": "\tthe newest one please\n"},
	"many lines":                     {".pins": strings.Repeat("python 3.12\n", 4000)},
	"one endless line":               {".pins": "python " + strings.Repeat("3", 60_000)},
	"binary dot-file":                {".pins": "python 3.12\n\x00\x01\x02"},
	"names with line feeds":          {"a\nb/.node-version": "99999999999999999999\n"},
	"names with escapes":             {"\x1b[31m/.python-version": "no\n"},
	"names in another script":        {"гаража/.python-version": "нет\n"},
	"settings that are a list":       {".vscode/settings.json": "[1, 2]"},
	"settings with an empty path":    {".vscode/settings.json": `{"python.defaultInterpreterPath": ""}`},
	"settings with a climbing path":  {".vscode/settings.json": `{"python.defaultInterpreterPath": "${workspaceFolder}/../../../../etc/shadow"}`},
	"settings with a zero byte path": {".vscode/settings.json": `{"python.defaultInterpreterPath": "/a\u0000b"}`},
	"settings with an odd variable":  {".vscode/settings.json": `{"python.defaultInterpreterPath": "${env:HOME}/bin/python"}`},
	"YAML aliases that multiply":     {".github/workflows/a.yml": "a: &a [x, x, x, x, x, x, x, x, x, x]\nb: &b [*a, *a, *a, *a, *a, *a, *a, *a, *a, *a]\nc: &c [*b, *b, *b, *b, *b, *b, *b, *b, *b, *b]\nd: &d [*c, *c, *c, *c, *c, *c, *c, *c, *c, *c]\ne: &e [*d, *d, *d, *d, *d, *d, *d, *d, *d, *d]\nf: &f [*e, *e, *e, *e, *e, *e, *e, *e, *e, *e]\ng: [*f, *f, *f, *f, *f, *f, *f, *f, *f, *f]\n"},
	"a YAML alias inside itself":     {"pubspec.yaml": "a: &a\n  b: *a\nenvironment:\n  sdk: *a\n"},
	"a YAML merge of itself":         {"compose.yaml": "a: &a\n  <<: *a\n  image: node:1\n"},
	"a YAML alias to nothing":        {"compose.yaml": "services: *missing\n"},
	"deep YAML lists":                {"pnpm-lock.yaml": strings.Repeat("- ", 30_000) + "a\n"},
	"deep YAML in one line":          {"pubspec.yaml": "a: " + strings.Repeat("[", 100_000)},
	"deep YAML mappings":             {".gitlab-ci.yml": deepMappings(600)},
	"YAML with tabs":                 {"pubspec.yaml": "environment:\n\tsdk: 1\n"},
	"YAML key twice":                 {"pubspec.yaml": "environment: {sdk: '1'}\nenvironment: {sdk: '2'}\n"},
	"YAML of another shape":          {"pubspec.yaml": "- environment\n- sdk\n"},
	"YAML with odd keys":             {".github/workflows/a.yml": "? [a, b]\n: {node-version: 20}\n1: 2\nnull: 3\n~: 4\n"},
	"many YAML documents":            {".gitlab-ci.yml": strings.Repeat("---\nimage: node:20\n", 3000)},
	"a variable that names itself":   {".gitlab-ci.yml": "variables:\n  A: $A$A\nimage: node:$A\n"},
	"variables in a circle":          {".gitlab-ci.yml": "variables: {A: $B$B, B: $A$A}\nimage: node:$A\n"},
	"a matrix without end":           {".github/workflows/a.yml": "jobs:\n  a:\n    strategy:\n      matrix:\n        node: [" + strings.Repeat("20, ", 20_000) + "22]\n"},
	"a matrix as large as a file":    {".github/workflows/a.yml": "jobs:\n  a:\n    strategy:\n      matrix:\n        node: [" + strings.Repeat("2, 3, 4, ", 150_000) + "22]\n"},
	"a long line that is not ASCII":  {".github/workflows/a.yml": "jobs:\n  a:\n    strategy:\n      matrix:\n        node: [" + strings.Repeat("ß, ", 100_000) + "22]\n"},
	"TOML of endless tables":         {"Cargo.toml": endless("[t#]\na = 1\n", 100_000) + "[package]\nrust-version = '1.80'\n"},
	"TOML of endless keys":           {"Cargo.toml": "[package]\n" + endless("a# = 1\n", 100_000)},
	"TOML of endless tables within":  {"Cargo.toml": endless("[a.b.t#]\n", 100_000)},
	"TOML of one endless table":      {"Cargo.toml": "a = {" + endless("t# = 1, ", 100_000) + "b = 1}\n"},
	"quotes around nothing":          {".node-version": "\"\"\n", ".beds": "0\n\"\"", ".more-beds": "'' ''\nnode 22\n", ".wide": "\"\u00a0\"\n"},
	"a container of one line":        {"Dockerfile": "FROM " + strings.Repeat("a/", 200_000) + "node:20"},
	"a container that never ends":    {"Dockerfile": "RUN a \\\n" + strings.Repeat("FROM node:1 \\\n", 20_000)},
	"an open here-document":          {"Dockerfile": "RUN <<EOF\nFROM node:1\n"},
	"an argument that names itself":  {"Dockerfile": "ARG A=${A}${A}\nFROM node:${A}\n"},
	"an image without a name":        {"Dockerfile": "FROM :20\nFROM @sha256:\nFROM\nFROM --platform=x\n"},
	"a parent that is itself":        {"pom.xml": "<project><parent><relativePath>pom.xml</relativePath></parent><properties><java.version>${x}</java.version></properties></project>"},
	"parents in a circle":            {"a/pom.xml": "<project><parent><relativePath>../b</relativePath></parent><properties><java.version>${x}</java.version></properties></project>", "b/pom.xml": "<project><parent><relativePath>../a</relativePath></parent></project>"},
	"a parent outside":               {"pom.xml": "<project><parent><relativePath>../../../../etc/passwd</relativePath></parent><properties><java.version>${root}</java.version></properties></project>"},
	"a workspace of folders outside": {"a.code-workspace": `{"folders": [{"path": "../../.."}, {"path": "/etc"}, {"path": 3}], "settings": {"java.home": "/opt/jdk"}}`},
	"deep HCL":                       {"main.tf": strings.Repeat("a {\n", 5_000)},
	"deep HCL expressions":           {"main.tf": "terraform {\n required_version = " + strings.Repeat("(", 5_000)},
	"HCL of open parentheses":        {"main.tf": "a=" + strings.Repeat("(", 100_000)},
	"HCL of negations":               {"main.tf": "a=" + strings.Repeat("!", 400_000)},
	"HCL of minus signs":             {"main.tf": "a=" + strings.Repeat("-", 400_000) + "1"},
	"HCL of sums":                    {"main.tf": "a=1" + strings.Repeat("+1", 400_000)},
	"HCL of sums over lines":         {"main.tf": "a=(1" + strings.Repeat("\n+1", 400_000) + ")"},
	"HCL of calls":                   {"main.tf": "a=" + strings.Repeat("f(", 200_000)},
	"HCL of conditions":              {"main.tf": "a=" + strings.Repeat("a?b:", 200_000)},
	"HCL of texts in texts":          {"main.tf": "a=" + strings.Repeat("\"${", 150_000)},
	"HCL of open here-documents":     {"main.tf": strings.Repeat("a=<<E\n", 400_000)},
	"HCL of a long here-document":    {"main.tf": "a=<<-E\n" + strings.Repeat("  x\n", 200_000) + "E\n"},
	"HCL of conditions in a text":    {"main.tf": "a=\"" + strings.Repeat("%{if a}", 150_000) + "\"\n"},
	"HCL of steps":                   {"main.tf": "a=a" + strings.Repeat("[*].b", 100_000)},
	"HCL of open blocks":             {"main.tf": strings.Repeat("a {", 400_000)},
	"TOML of one dotted key":         {"Cargo.toml": strings.Repeat("a.", 4_000_000) + "a=1\n"},
	"TOML of one dotted table":       {"Cargo.toml": "[" + strings.Repeat("a.", 4_000_000) + "a]\n"},
	"TOML lists behind a comment":    {"Cargo.toml": "# \"\na = " + strings.Repeat("[", 8_000_000)},
	"TOML lists behind a quote":      {"Cargo.toml": "b = '\"'\na = " + strings.Repeat("[", 8_000_000)},
	"JSON lists behind a comment":    {"package.json": "// \"\n" + strings.Repeat("[", 8_000_000)},
	"JSON lists behind a block":      {"package.json": "/* \" */" + strings.Repeat("[", 8_000_000)},
	"JSON of endless values":         {"package.json": "[" + strings.Repeat("1,", 4_000_000) + "1]"},
	"YAML of endless values":         {"pnpm-lock.yaml": strings.Repeat("a: 1\n", 1_600_000)},
	"YAML of endless flow values":    {"pnpm-lock.yaml": "[" + strings.Repeat("1,", 4_000_000) + "1]"},
	"XML of endless elements":        {"pom.xml": "<a>" + strings.Repeat("<b/>", 2_000_000) + "</a>"},
	"modules of endless lines":       {"go.mod": strings.Repeat("a\n", 4_000_000)},
	"modules of open brackets":       {"go.mod": strings.Repeat("(", 500_000)},
	"properties of endless lines":    {"gradle.properties": strings.Repeat("a=1\n", 2_000_000)},
	"rules of many globs":            {".wexo.yaml": "leave-out:\n" + strings.Repeat("  - '**/a/**/b/**/c/**/d/**/e/**/f/**/g'\n", 1_400), strings.Repeat("a/", 30) + ".node-version": "20\n"},
	"rules of one glob of many":      {".wexo.yaml": "leave-out: ['" + strings.Repeat("**/a/", 190) + "b']\n", strings.Repeat("a/", 39) + ".node-version": "20\n"},
	"rules of stars":                 {".wexo.yaml": "leave-out: ['" + strings.Repeat("*a", 400) + "b']\n", strings.Repeat("a", 200) + ".txt": "20\n"},
	"rules that select and select":   {".wexo.yaml": "claims: [{files: [a.json], tool: node, select: '$..*..*..*..*..*..*'}]\n", "a.json": strings.Repeat(`{"a":`, 60) + "1" + strings.Repeat("}", 60)},
	"rules of a filter in a filter":  {".wexo.yaml": "claims: [{files: [a.json], tool: node, select: '$..[?@..[?@..[?@..a]]]'}]\n", "a.json": strings.Repeat(`{"a":`, 60) + "1" + strings.Repeat("}", 60)},
	"rules of paths in paths":        {".wexo.yaml": "claims: [{files: [a.xml], tool: node, select: '//*//*//*//*//*//*'}]\n", "a.xml": strings.Repeat("<a>", 150) + "1" + strings.Repeat("</a>", 150)},
	"rules of paths that count":      {".wexo.yaml": "claims: [{files: [a.xml], tool: node, select: '//*[count(//*[count(//*) > 1]) > 1]'}]\n", "a.xml": "<r>" + strings.Repeat("<a/>", 10_000) + "</r>"},
	"rules that repeat and repeat":   {".wexo.yaml": "claims: [{files: [a.txt], tool: node, pattern: '(" + strings.Repeat("(?:(?:a{10}){10}){10}", 40) + ")'}]\n", "a.txt": strings.Repeat("a", 3_000_000)},
	"rules that look far each time":  {".wexo.yaml": "claims: [{files: [a.txt], tool: node, pattern: '(?s)(a)(?:.*b)?'}]\n", "a.txt": strings.Repeat("a", 3_000_000)},
	"a script that looks far":        {"CMakeLists.txt": strings.Repeat("cmake_minimum_required(VERSION 3.20\n", 200_000)},
	"ignored folders without end":    {".gitignore": strings.Repeat("build\n", 10_000), "a/build/x": "", "b/build/x": "", "c/build/x": ""},
	"HCL that computes":              {"main.tf": "terraform {\n required_version = file(\"/etc/passwd\")\n}\n"},
	"INI without sections":           {"setup.cfg": "= = =\n[\n]\n[options\npython_requires\n"},
	"properties without values":      {"gradle/wrapper/gradle-wrapper.properties": "=\n:\ndistributionUrl\ndistributionUrl=\n"},
	"a lock of many demands":         {"package-lock.json": manyDemands(20_000)},
	"a lock of odd demands":          {"package-lock.json": `{"packages": {"node_modules/a": {"engines": ["node"]}, "node_modules/b": {"engines": {"node": {}}}, "node_modules/c": 3, "node_modules/d": {"engines": {"node": "$$$"}}}}`},
	"a lock that is a list":          {"composer.lock": "[]", "Pipfile.lock": "[[]]", "pubspec.lock": "[]\n"},
	"XML attributes without end":     {".classpath": "<classpath " + strings.Repeat("a='b' ", 20_000) + "/>"},
	"XML in UTF-16 that lies":        {".idea/misc.xml": "\xff\xfe<\x00p"},
	"rules that multiply":            {".wexo.yaml": "claims: &a [{files: [x], tool: node}]\ntags: [" + strings.Repeat("[", 300) + "\n"},
	"rules for a tool of their own":  {".wexo.yaml": "claims:\n  - {files: [../../etc/passwd], tool: gardener}\n"},
	"rules that leave all out":       {".wexo.yaml": "leave-out: ['/', '', '**/..']\n"},
	"rules with a slow pattern":      {".wexo.yaml": "claims: [{files: [a.txt], tool: node, pattern: '((((a*)*)*)*)*b'}]\n", "a.txt": strings.Repeat("a", 50_000)},
	"a script of open brackets":      {"setup.py": strings.Repeat("(", 200_000), "mix.exs": strings.Repeat("[", 200_000), "rebar.config": strings.Repeat("{", 200_000)},
	"dot-folders in dot-folders":     {strings.Repeat(".a/", 50) + "node.json": `{"node": "20"}`},
	"a dot-folder of odd files":      {".odd/a.json": "{", ".odd/b.yaml": ": : :", ".odd/c.toml": "[", ".odd/d": "\x00", ".odd/e.json": `{"node": {"node": {"node": "20"}}}`},
	"a folder named like a file":     {"package.json/inner.txt": "x", ".python-version/inner.txt": "x"},
}

func deepMappings(n int) string {
	var b strings.Builder
	for i := range n {
		b.WriteString(strings.Repeat(" ", i) + "a:\n")
	}
	return b.String()
}

func manyDemands(n int) string {
	var b strings.Builder
	b.WriteString(`{"lockfileVersion": 3, "packages": {"": {}`)
	for i := range n {
		fmt.Fprintf(&b, `, "node_modules/p%d": {"version": "1.0.0", "engines": {"node": ">=%d.%d"}}`, i, 10+i%9, i%700)
	}
	return b.String() + "}}"
}

// TestThereAreManyHostileCases: the corpus is not thinned out by accident.
func TestThereAreManyHostileCases(t *testing.T) { assert.GreaterOrEqual(t, len(hostile), 125) }

func TestHostileFiles(t *testing.T) {
	r := newReader(t)
	for name, files := range hostile {
		t.Run(name, func(t *testing.T) {
			all := map[string]string{"good/.node-version": "22\n"}
			for file, content := range files {
				all[file] = content
			}
			got := r.Read(tree(all))
			found := false
			for _, c := range got.Claims {
				found = found || shown(c) == "pin node 22 @good/.node-version:1:1"
				assert.LessOrEqual(t, len(c.Raw), 64<<10)
				assert.Positive(t, c.Line)
				if c.Inside != nil {
					assert.True(t, fs.ValidPath(c.Inside.Path), "a path inside leads nowhere else")
				}
				for _, secret := range []string{"root:", "aaaaaaaaaa"} {
					assert.NotContains(t, c.Raw, secret)
				}
			}
			assert.True(t, found, "the good neighbour is read")
			for _, p := range got.Problems {
				assert.NotEmpty(t, p.Reason)
				assert.NotContains(t, p.Reason, reading.ErrFault.Error())
				assert.Less(t, len(p.Reason)+len(p.Raw), 1000, "a problem does not repeat the file")
			}
		})
	}
}

// TestFilesOfEndlessClaims: the first ones are kept, and that there are more is said once.
func TestFilesOfEndlessClaims(t *testing.T) {
	many := strings.Repeat("20, ", 30_000)
	steps := strings.Repeat("      - with: {node-version: '${{ matrix.version }}'}\n", 5_000)
	for name, file := range map[string]string{
		"values":     "jobs:\n  a:\n    strategy:\n      matrix:\n        node: [" + many + "22]\n",
		"references": "jobs:\n  a:\n    strategy:\n      matrix:\n        version: [" + many + "22]\n    steps:\n" + steps,
		"a block":    "node-version: |\n" + strings.Repeat("  20\n", 30_000),
	} {
		got := newReader(t).Read(tree(map[string]string{".github/workflows/a.yml": file}))
		assert.Len(t, got.Claims, reading.MaxClaims, name)
		require.Len(t, got.Problems, 1, name)
		assert.Equal(t, claim.Partial, got.Problems[0].Kind, name)
		assert.Contains(t, got.Problems[0].Reason, "after 10000 versions the rest is left out", name)
	}
}

// TestRulesTooLargeToRead are told of, not passed over.
func TestRulesTooLargeToRead(t *testing.T) {
	got := newReader(t).Read(tree(map[string]string{".wexo.yaml": endless("# rule #\n", 10_000), ".node-version": "22\n"}))
	require.Len(t, got.Problems, 1)
	assert.Equal(t, ".wexo.yaml", got.Problems[0].File)
	assert.Contains(t, got.Problems[0].Reason, "no more than 64 KB are read")
	assert.Len(t, got.Claims, 1)
}

// TestDemandsWithoutEnd: some are enough to tell that nothing satisfies them.
func TestDemandsWithoutEnd(t *testing.T) {
	packages := endless(`"node_modules/k#":{"engines":{"node":"1.2.# || 99.1.#"}},`, 30_000)
	got := newReader(t).Read(tree(map[string]string{"package-lock.json": `{"lockfileVersion":3,"packages":{` + packages + `"":{}}}`}))
	require.Len(t, got.Problems, 1)
	assert.Contains(t, got.Problems[0].Reason, "demand Node.js in more than 500 ways")
	var locked *claim.Locked
	for _, c := range got.Claims {
		if c.Tool == "node" {
			locked = c.Locked
		}
	}
	require.NotNil(t, locked)
	assert.Len(t, locked.By, 2, "two of them contradict each other")
}

// TestFilesOfEndlessProblems: the first ones are named, and that there are more is said once.
func TestFilesOfEndlessProblems(t *testing.T) {
	files := map[string]string{}
	for i := range reading.MaxProblems + 500 {
		files[fmt.Sprintf("bed%d/.node-version", i)] = ""
	}
	got := newReader(t).Read(tree(files))
	require.Len(t, got.Problems, reading.MaxProblems+1)
	assert.Contains(t, got.Problems[reading.MaxProblems].Reason, "the others are not named")
}

// TestStopping ends a reading where it stands.
func TestStopping(t *testing.T) {
	ctx, stop := context.WithCancelCause(t.Context())
	stop(errors.New("the garden closes"))
	got := newReader(t).ReadTree(ctx, tree(map[string]string{".node-version": "22\n", "web/.node-version": "24\n"}), reading.Options{})
	assert.Empty(t, got.Claims)
	assert.Equal(t, "the garden closes", got.Ended)
	require.Len(t, got.Problems, 1)
	assert.Contains(t, got.Problems[0].Reason, "the garden closes")
}

// faultyFS brings a fault to light when one file is opened.
type faultyFS struct{ fstest.MapFS }

func (f faultyFS) Open(name string) (fs.File, error) {
	if name == ".ruby-version" {
		panic("index out of range")
	}
	return f.MapFS.Open(name)
}

// TestAFaultCostsOneFile, not the survey; and it is told of.
func TestAFaultCostsOneFile(t *testing.T) {
	got := newReader(t).Read(faultyFS{tree(map[string]string{".node-version": "22\n", ".ruby-version": "3.3\n"})})
	assert.Len(t, got.Claims, 1)
	require.Len(t, got.Problems, 1)
	assert.Equal(t, ".ruby-version", got.Problems[0].File)
	assert.Contains(t, got.Problems[0].Reason, reading.ErrFault.Error()+": index out of range")
}

// TestDeepAndWideTrees: limits keep a strange tree from costing more than itself.
func TestDeepAndWideTrees(t *testing.T) {
	files := map[string]string{".node-version": "22\n", strings.Repeat("d/", 60) + "package.json": "{}"}
	for i := range 3000 {
		files[fmt.Sprintf("wide/f%d/.gitkeep", i)] = ""
	}
	got := newReader(t).Read(tree(files))
	assert.Len(t, got.Claims, 1)
	assert.Len(t, got.Problems, 1)
	assert.Contains(t, got.Problems[0].Reason, "nested more than 40 deep")
}

// errorFS fails for one folder and one file, as a disk with bad sectors does.
type errorFS struct{ fstest.MapFS }

func (e errorFS) ReadDir(name string) ([]fs.DirEntry, error) {
	if name == "bad" {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: fs.ErrPermission}
	}
	return e.MapFS.ReadDir(name)
}

func (e errorFS) Open(name string) (fs.File, error) {
	if name == "package.json" {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fmt.Errorf("input/output error")}
	}
	return e.MapFS.Open(name)
}

func TestUnreadableFoldersAndFiles(t *testing.T) {
	got := newReader(t).Read(errorFS{tree(map[string]string{"bad/.python-version": "3.12\n", "good/.python-version": "3.13\n", "package.json": "{}"})})
	var reasons []string
	for _, p := range got.Problems {
		reasons = append(reasons, p.File+": "+p.Reason)
	}
	assert.ElementsMatch(t, []string{"bad: this account may not read it", "package.json: input/output error"}, reasons)
	assert.Len(t, got.Claims, 1)
}

// endless repeats a text, each time with another number in place of #.
func endless(text string, n int) string {
	var b strings.Builder
	for i := range n {
		b.WriteString(strings.ReplaceAll(text, "#", strconv.Itoa(i)))
	}
	return b.String()
}
