package claim_test

import (
	"fmt"
	"io/fs"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
)

// hostile are files that want to hurt the reader. Each stands beside a good one, which
// must still be read; none may yield a claim from its own folder that its text does not make.
var hostile = map[string]map[string]string{
	"deep JSON objects":              {"package.json": strings.Repeat(`{"a":`, 50_000) + "1" + strings.Repeat("}", 50_000)},
	"deep JSON lists":                {"package.json": strings.Repeat("[", 1_000_000)},
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
	"go.mod in one endless line":     {"go.mod": "module " + strings.Repeat("x", 1_000_000)},
	"go.mod without a module":        {"go.mod": "go 1.22\n"},
	"go.mod with an unknown word":    {"go.mod": "module x\n\nwater daily\n"},
	"Gradle with endless quotes":     {"build.gradle": strings.Repeat(`"`, 100_000)},
	"Gradle with open comment":       {"build.gradle": "/* java { languageVersion = JavaLanguageVersion.of(17) }"},
	"Gradle of huge numbers":         {"build.gradle": "languageVersion = JavaLanguageVersion.of(" + strings.Repeat("9", 5000) + ")"},
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
	"a folder named like a file":     {"package.json/inner.txt": "x", ".python-version/inner.txt": "x"},
}

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
				assert.Less(t, len(p.Reason)+len(p.Raw), 1000, "a problem does not repeat the file")
			}
		})
	}
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
