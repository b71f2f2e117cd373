package reading_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/reading"
)

func newReader(t testing.TB) *reading.Reader {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	r, err := reading.New(c)
	require.NoError(t, err)
	return r
}

func tree(files map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for name, content := range files {
		out[name] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
	}
	return out
}

// shown is a claim in one line: role tool raw @file:line:column.
func shown(c claim.Claim) string {
	return fmt.Sprintf("%s %s %s @%s:%d:%d", c.Role, c.Tool, c.Raw, c.File, c.Line, c.Column)
}

func TestClaims(t *testing.T) {
	for name, c := range map[string]struct {
		files map[string]string
		want  []string
	}{
		"version file": {
			map[string]string{".python-version": "# the team's\n 3.12.4 \n3.11\n"},
			[]string{"pin python 3.12.4 @.python-version:2:2"},
		},
		"version file by another name of the tool": {
			map[string]string{".nodejs-version": "v20.11.1\r\n", ".golang-version": "1.22\n", ".jdk-version": "temurin-21\n"},
			[]string{"pin go 1.22 @.golang-version:1:1", "pin java temurin-21 @.jdk-version:1:1", "pin node v20.11.1 @.nodejs-version:1:1"},
		},
		"byte order mark": {
			map[string]string{".node-version": "\ufeff22\n"},
			[]string{"pin node 22 @.node-version:1:1"},
		},
		"names of lines": {
			map[string]string{"a/.node-version": "lts/hydrogen\n", "b/.node-version": "lts-iron\n", "c/.node-version": "Jod\n", "d/.node-version": "lts/*\n", "e/.node-version": "latest\n"},
			[]string{"pin node lts/hydrogen @a/.node-version:1:1", "pin node lts-iron @b/.node-version:1:1", "pin node Jod @c/.node-version:1:1", "pin node lts/* @d/.node-version:1:1", "pin node latest @e/.node-version:1:1"},
		},
		"lines of tool and version, whatever the file is called": {
			map[string]string{".pins": "# garden\npython 3.13.1 3.12.7\nnodejs   24 # kiosk\n\njava temurin-21.0.2+13\n"},
			[]string{"pin python 3.13.1 @.pins:2:8", "pin node 24 @.pins:3:10", "pin java temurin-21.0.2+13 @.pins:5:6"},
		},
		"lines of tool=version": {
			map[string]string{".beds": "java=17.0.2-tem\nnode = \"20\"\n"},
			[]string{"pin java 17.0.2-tem @.beds:1:6", "pin node 20 @.beds:2:9"},
		},
		"a nameless file takes the tool of the manifest beside it": {
			map[string]string{".gardenrc": "v18.17.0\n", "package.json": "{}"},
			[]string{"pin node v18.17.0 @.gardenrc:1:1"},
		},
		"a nameless file with the tool in its name": {
			map[string]string{".noderc": "x", ".node-pin": "20.1.0\n"},
			[]string{"pin node 20.1.0 @.node-pin:1:1"},
		},
		"package.json": {
			map[string]string{"package.json": "{\n  \"engines\": {\n    \"node\": \">=20.9 <23\",\n    \"pnpm\": \"^9\"\n  },\n  \"packageManager\": \"pnpm@9.1.0+sha512.abc\"\n}\n"},
			[]string{"bound node >=20.9 <23 @package.json:3:14", "pin pnpm 9.1.0 @package.json:6:27", "bound pnpm ^9 @package.json:4:14"},
		},
		"pyproject.toml": {
			map[string]string{"pyproject.toml": "[project]\nname = \"x\"\nrequires-python = \">=3.9,<4\"\n"},
			[]string{"bound python >=3.9,<4 @pyproject.toml:3:20"},
		},
		"go.mod": {
			map[string]string{"go.mod": "module garden.trust/x\n\ngo 1.22.0\n\ntoolchain go1.22.3\n"},
			[]string{"pin go 1.22.3 @go.mod:5:13", "bound go 1.22.0 @go.mod:3:4"},
		},
		"pom.xml, release before source, properties resolved": {
			map[string]string{"pom.xml": "<project xmlns=\"x\">\n <properties>\n  <jdk.level>21</jdk.level>\n  <maven.compiler.source>8</maven.compiler.source>\n  <maven.compiler.release>${jdk.level}</maven.compiler.release>\n </properties>\n</project>\n"},
			[]string{"bound java 21 @pom.xml:5:27"},
		},
		"pom.xml, plugin configuration": {
			map[string]string{"pom.xml": "<project><build><plugins><plugin><configuration>\n<source>1.8</source>\n<target>1.8</target>\n</configuration></plugin></plugins></build></project>"},
			[]string{"bound java 1.8 @pom.xml:3:9"},
		},
		"Gradle, both languages, comments left out": {
			map[string]string{
				"a/build.gradle":     "// languageVersion = JavaLanguageVersion.of(11)\njava {\n  toolchain {\n    languageVersion = JavaLanguageVersion.of(17)\n  }\n}\n",
				"b/build.gradle.kts": "java { toolchain { languageVersion.set(JavaLanguageVersion.of(21)) } }\n/* jvmToolchain(8) */\n",
				"c/build.gradle":     "sourceCompatibility = JavaVersion.VERSION_1_8\n",
			},
			[]string{"pin java 17 @a/build.gradle:4:46", "pin java 21 @b/build.gradle.kts:1:63", "bound java 1_8 @c/build.gradle:1:43"},
		},
		"editor settings with comments and trailing commas": {
			map[string]string{".vscode/settings.json": "{\n  // which one\n  \"python.defaultInterpreterPath\": \"${workspaceFolder}/.venv/bin/python\",\n  \"java.configuration.runtimes\": [{\"name\": \"JavaSE-17\", \"path\": \"/opt/jdk\", \"default\": true},],\n}\n"},
			[]string{"wiring java JavaSE-17 @.vscode/settings.json:4:45", "wiring java /opt/jdk @.vscode/settings.json:4:66", "wiring python ${workspaceFolder}/.venv/bin/python @.vscode/settings.json:3:37"},
		},
		"installed and built folders are left out": {
			map[string]string{"node_modules/a/package.json": `{"engines":{"node":">=1"}}`, "vendor/.node-version": "1", "target/pom.xml": "<", "web/package.json": `{"engines":{"node":"20"}}`},
			[]string{"bound node 20 @web/package.json:1:21"},
		},
	} {
		t.Run(name, func(t *testing.T) {
			got := newReader(t).Read(tree(c.files))
			var list []string
			for _, cl := range got.Claims {
				list = append(list, shown(cl))
			}
			assert.ElementsMatch(t, c.want, list)
		})
	}
}

// TestOrdinaryFilesAreNoVersionFiles: what merely lies about is not taken for a pin.
func TestOrdinaryFilesAreNoVersionFiles(t *testing.T) {
	got := newReader(t).Read(tree(map[string]string{
		".gitignore":       "node_modules\n*.log\nbuild/\n",
		".gitattributes":   "* text=auto\n*.png binary\n",
		".editorconfig":    "root = true\n\n[*]\nindent_size = 2\nmax_line_length = 100\n",
		".dockerignore":    ".git\n",
		".npmrc":           "save-exact=true\nengine-strict=true\n",
		".eslintrc":        "{\"extends\": \"recommended\", \"rules\": {\"indent\": [2, 4]}}\n",
		".flake8":          "[flake8]\nmax-line-length = 100\npython_requires = 3\n",
		".prettierrc":      "tabWidth: 2\nsemi: false\n",
		".browserslist":    "> 0.5%\nlast 2 versions\nnot dead\n",
		".env.example":     "PORT=8080\nDATABASE=gardens\nLEVEL=3\n",
		".mailmap":         "Garden Trust <garden@trust.invalid>\n",
		".htaccess":        "Options -Indexes\n",
		".version":         "1.4.2\n",
		"CHANGELOG.md":     "1.2.3\n",
		"docs/.python.txt": "no version\n",
	}))
	assert.Empty(t, got.Claims)
	for _, p := range got.Problems {
		assert.Equal(t, ".version", p.File, "only the bare version is worth a note: %s", p.Reason)
	}
	assert.Len(t, got.Problems, 1)
}

func TestProblems(t *testing.T) {
	big := strings.Repeat("3", 200<<10)
	for name, c := range map[string]struct {
		files map[string]string
		kind  claim.ProblemKind
		line  int
		says  string
	}{
		"broken JSON":                 {map[string]string{"package.json": "{\n  \"a\": 1\n  \"b\": 2\n}"}, claim.Unreadable, 3, "broken JSON"},
		"broken TOML":                 {map[string]string{"pyproject.toml": "[project]\nname = \n"}, claim.Unreadable, 2, "broken TOML"},
		"broken XML":                  {map[string]string{"pom.xml": "<project>\n<a></b>\n"}, claim.Unreadable, 2, "broken XML"},
		"broken go.mod":               {map[string]string{"go.mod": "module x\n\ngo one\n"}, claim.Unreadable, 3, "invalid go version"},
		"binary version file":         {map[string]string{".python-version": "3.1\x002\x7f"}, claim.Unreadable, 1, "binary"},
		"invalid UTF-8":               {map[string]string{".python-version": "3.12\n\xff\xfe"}, claim.Unreadable, 2, "UTF-8"},
		"empty version file":          {map[string]string{".node-version": "# nothing\n"}, claim.Unreadable, 0, "empty"},
		"no version in it":            {map[string]string{".python-version": "three\n"}, claim.Unreadable, 1, "none"},
		"too large":                   {map[string]string{".python-version": big}, claim.Unreadable, 0, "200 KB"},
		"nested too deep":             {map[string]string{"package.json": strings.Repeat("[", 100_000)}, claim.Unreadable, 1, "nested"},
		"a tool nobody knows":         {map[string]string{".zig-version": "0.14.1\n"}, claim.Unclaimed, 1, "pins zig"},
		"a line of a tool unknown":    {map[string]string{".pins": "python 3.12\nzig 0.14.1\n"}, claim.Unclaimed, 2, "pins zig"},
		"only tools nobody knows":     {map[string]string{".pins": "# beds\nzig 0.14.1\nabacus v2.0.1\n"}, claim.Unclaimed, 2, "knows none of the names"},
		"a bare version, two tools":   {map[string]string{".pin": "21.0.2\n", "package.json": "{}", "pom.xml": "<project/>"}, claim.Unclaimed, 1, "Java or Node.js"},
		"a bare version, no manifest": {map[string]string{".pin": "21.0.2\n"}, claim.Unclaimed, 1, "no manifest beside it"},
	} {
		t.Run(name, func(t *testing.T) {
			files := map[string]string{"good/.node-version": "22\n"}
			for k, v := range c.files {
				files[k] = v
			}
			got := newReader(t).Read(tree(files))
			require.Len(t, got.Problems, 1)
			p := got.Problems[0]
			assert.Equal(t, c.kind, p.Kind)
			assert.Equal(t, c.line, p.Line)
			assert.Contains(t, p.Reason, c.says)
			var list []string
			for _, cl := range got.Claims {
				list = append(list, shown(cl))
			}
			assert.Contains(t, list, "pin node 22 @good/.node-version:1:1", "the neighbour is still read")
		})
	}
}

func TestWiredPathsIntoTheRepository(t *testing.T) {
	got := newReader(t).Read(tree(map[string]string{
		"svc/.vscode/settings.json": `{"python.defaultInterpreterPath": "${workspaceFolder}/.venv/bin/python"}`,
		"svc/.venv/pyvenv.cfg":      "home = /opt/python/3.11.2/bin\nversion = 3.11.2\n",
		"bad/.vscode/settings.json": `{"python.defaultInterpreterPath": "./.venv/bin/python"}`,
		"out/.vscode/settings.json": `{"python.defaultInterpreterPath": "../../../etc/python"}`,
		"cmd/.vscode/settings.json": `{"python.defaultInterpreterPath": "python3"}`,
	}))
	inside := map[string]*claim.Inside{}
	for _, c := range got.Claims {
		inside[c.Folder] = c.Inside
	}
	assert.Equal(t, &claim.Inside{Path: "svc/.venv/bin/python", Exists: true, Version: "3.11.2"}, inside["svc"])
	assert.Equal(t, &claim.Inside{Path: "bad/.venv/bin/python"}, inside["bad"])
	assert.Nil(t, inside["out"])
	assert.Nil(t, inside["cmd"])
}
