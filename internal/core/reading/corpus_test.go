package reading_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// corpus is small files as they stand in repositories, with the claims they make. A
// file that makes none says so with an empty list.
var corpus = []struct {
	file, content string
	want          []string
}{
	// Gradle, in both languages and in the spellings of several years.
	{"build.gradle", "sourceCompatibility = 1.8\ntargetCompatibility = 1.8\n", []string{"bound java 1.8 @build.gradle:1:23", "bound java 1.8 @build.gradle:2:23"}},
	{"build.gradle", "sourceCompatibility '11'\n", []string{"bound java 11 @build.gradle:1:22"}},
	{"build.gradle", "sourceCompatibility JavaVersion.VERSION_11\n", []string{"bound java 11 @build.gradle:1:41"}},
	{"build.gradle", "sourceCompatibility = JavaVersion.toVersion(\"17\")\n", []string{"bound java 17 @build.gradle:1:46"}},
	{"build.gradle", "tasks.withType(JavaCompile) { options.release = 17 }\n", []string{"bound java 17 @build.gradle:1:49"}},
	{"build.gradle.kts", "tasks.compileJava { options.release.set(21) }\n", []string{"bound java 21 @build.gradle.kts:1:41"}},
	{"build.gradle.kts", "java.sourceCompatibility = JavaVersion.VERSION_17\n", []string{"bound java 17 @build.gradle.kts:1:48"}},
	{"build.gradle.kts", "kotlin { jvmToolchain(21) }\n", []string{"pin java 21 @build.gradle.kts:1:23"}},
	{"build.gradle.kts", "java {\n  toolchain {\n    languageVersion = JavaLanguageVersion.of(\"17\")\n  }\n}\n", []string{"pin java 17 @build.gradle.kts:3:47"}},
	{"gradle/sources.gradle", "java.toolchain.languageVersion = JavaLanguageVersion.of(17)\n", []string{"pin java 17 @gradle/sources.gradle:1:57"}},
	{"build.gradle.kts", "java {\n  toolchain {\n    vendor.set(JvmVendorSpec.ADOPTIUM)\n    languageVersion.set(JavaLanguageVersion.of(21))\n  }\n}\n", []string{"pin java 21 @build.gradle.kts:4:48"}},
	{"build.gradle.kts", "kotlin { jvmToolchain { languageVersion.set(JavaLanguageVersion.of(17)) } }\n", []string{"pin java 17 @build.gradle.kts:1:68"}},
	{"build.gradle.kts", "tasks.compileJava {\n  javaCompiler.set(javaToolchains.compilerFor {\n    languageVersion.set(JavaLanguageVersion.of(8))\n  })\n}\n", nil},
	{"Dockerfile-kiosk", "FROM node:22\n", []string{"setup node 22 @Dockerfile-kiosk:1:11"}},
	{"docker-compose.kiosk.yml", "services:\n  web:\n    image: node:22\n", []string{"setup node 22 @docker-compose.kiosk.yml:3:17"}},
	{"compose.override.yaml", "services: {web: {image: 'ruby:3.3'}}\n", []string{"setup ruby 3.3 @compose.override.yaml:1:31"}},
	{"ci.docker", "FROM golang:1.27\n", []string{"setup go 1.27 @ci.docker:1:13"}},
	{"build.gradle", "toolchain { languageVersion JavaLanguageVersion.of( 21 ) }\n", []string{"pin java 21 @build.gradle:1:53"}},
	{"build.gradle", "def s = \"languageVersion is // not JavaLanguageVersion.of(17)\"\n", nil},
	{"build.gradle", "description = 'sourceCompatibilityOf everything'\nversion = '17'\n", nil},

	// Maven.
	{"pom.xml", "<project><properties><maven.compiler.source>1.8</maven.compiler.source><maven.compiler.target>11</maven.compiler.target></properties></project>", []string{"bound java 11 @pom.xml:1:95"}},
	{"pom.xml", "<project>\n<properties>\n<java.version>\n  17\n</java.version>\n</properties></project>", []string{"bound java 17 @pom.xml:4:3"}},
	{"pom.xml", "<project><profiles><profile><build><plugins><plugin><configuration><rules><requireJavaVersion><version>[11,)</version></requireJavaVersion></rules></configuration></plugin></plugins></build></profile></profiles></project>", nil},
	{"pom.xml", "<project><build><pluginManagement><plugins><plugin><configuration><release>21</release></configuration></plugin></plugins></pluginManagement></build></project>", []string{"bound java 21 @pom.xml:1:76"}},
	{"pom.xml", "<project><!-- <properties><java.version>8</java.version></properties> --></project>", nil},
	{"pom.xml", "<project><dependencies><dependency><version>17</version></dependency></dependencies></project>", nil},
	{"pom.xml", "<project><properties><maven.compiler.release>${revision.java}</maven.compiler.release></properties></project>", []string{"bound java ${revision.java} @pom.xml:1:46"}},

	// package.json.
	{"package.json", `{"engines": {"node": 20}}`, []string{"bound node 20 @package.json:1:22"}},
	{"package.json", `{"engines": {"node": ""}}`, nil},
	{"package.json", `{"engines": {"npm": ">=10", "yarn": "please-use-npm"}}`, []string{"bound npm >=10 @package.json:1:22", "tested yarn please-use-npm @package.json:1:38"}},
	{"package.json", `{"packageManager": "yarn@4.1.0"}`, []string{"pin yarn 4.1.0 @package.json:1:26"}},
	{"package.json", `{"packageManager": "garden@1.0.0"}`, nil},
	{"package.json", `{"devEngines": {"runtime": {"name": "node", "version": ">=22"}}}`, []string{"bound node >=22 @package.json:1:57"}},
	{"package.json", `{"devEngines": {"runtime": {"name": "other", "version": ">=22"}}}`, nil},
	{"package.json", `{"dependencies": {"node": "20.1.0"}}`, nil},
	{"package.json", "\ufeff{\"engines\": {\"node\": \"20\"}}", []string{"bound node 20 @package.json:1:23"}},

	// pyproject.toml.
	{"pyproject.toml", "project = {name = \"x\", requires-python = '>=3.9'}\n", []string{"bound python >=3.9 @pyproject.toml:1:43"}},
	{"pyproject.toml", "project.requires-python = \"~=3.12\" # the newest\n", []string{"bound python ~=3.12 @pyproject.toml:1:28"}},
	{"pyproject.toml", "[build-system]\nrequires = [\"setuptools\"]\n[tool.x]\nrequires-python = \">=3\"\n", nil},

	// go.mod.
	{"go.mod", "module x\ngo 1.20\n", []string{"bound go 1.20 @go.mod:2:4"}},
	{"go.mod", "module x\n\ngo 1.22rc1 // soon\n", []string{"bound go 1.22rc1 @go.mod:3:4"}},
	{"go.mod", "module x\n\ngo 1.23.0\n\ntoolchain default\n", []string{"bound go 1.23.0 @go.mod:3:4"}},
	{"go.mod", "module x\n", nil},

	// Editor settings.
	{".vscode/settings.json", `{"python.pythonPath": "venv/bin/python"}`, []string{"wiring python venv/bin/python @.vscode/settings.json:1:24"}},
	{".vscode/settings.json", `{"go.goroot": "/usr/local/go", "go.alternateTools": {"go": "/opt/go/bin/go"}}`, []string{"wiring go /usr/local/go @.vscode/settings.json:1:16"}},
	{".vscode/settings.json", `{"java.configuration.runtimes": [{"name": "JavaSE-11", "path": "/a"}, {"name": "JavaSE-17", "path": "/b", "default": true}]}`, []string{"wiring java JavaSE-17 @.vscode/settings.json:1:81", "wiring java /b @.vscode/settings.json:1:102"}},
	{".vscode/settings.json", `{"terminal.integrated.env.linux": {"JAVA_HOME": "/usr/lib/jvm/17"}}`, []string{"wiring java /usr/lib/jvm/17 @.vscode/settings.json:1:50"}},
	{".vscode/settings.json", `{"editor.tabSize": 2}`, nil},
	{".vscode/extensions.json", `{"recommendations": []}`, nil},

	// Version files by shape.
	{".python-version", "3.12.4\n", []string{"pin python 3.12.4 @.python-version:1:1"}},
	{".python-version", "\n\n   3.12\t# why\n", []string{"pin python 3.12 @.python-version:3:4"}},
	{".python3-version", "3.12", []string{"pin python 3.12 @.python3-version:1:1"}},
	{".node_version", "20\n", []string{"pin node 20 @.node_version:1:1"}},
	{".java-version", "\"17\"\n", []string{"pin java 17 @.java-version:1:2"}},
	{".go-version", "go1.22.3\r\n", []string{"pin go go1.22.3 @.go-version:1:1"}},
	{".node-version", "// comment\nv22.1.0\n", []string{"pin node v22.1.0 @.node-version:2:1"}},
	{".node-version", "*\n", []string{"pin node * @.node-version:1:1"}},
	{".node-version", "22.x\n", []string{"pin node 22.x @.node-version:1:1"}},
	{".node-version", "system\n", []string{"pin node system @.node-version:1:1"}},
	{".beds", "golang 1.22.3\nnodejs lts/iron\n", []string{"pin go 1.22.3 @.beds:1:8", "pin node lts/iron @.beds:2:8"}},
	{".beds", "Python\t3.12\n", []string{"pin python 3.12 @.beds:1:8"}},
	{".beds", "java = 21.0.2-tem\n# node = 20\n", []string{"pin java 21.0.2-tem @.beds:1:8"}},
	{".beds", "python='3.12'\ncolour=green\n", []string{"pin python 3.12 @.beds:1:9"}},
	{".beds", "I like python 3.12 best\n", nil},
	{".beds", "python is a snake\n", nil},
	{".beds", "python 3.12\nand some prose that is no version at all\n", nil},
	{".beds", "go fish\njava coffee\n", nil},
	{".beds", "", nil},
}

func TestCorpus(t *testing.T) {
	r := newReader(t)
	for _, c := range corpus {
		t.Run(c.file+" "+c.content[:min(len(c.content), 30)], func(t *testing.T) {
			got := r.Read(tree(map[string]string{c.file: c.content}))
			var list []string
			for _, cl := range got.Claims {
				list = append(list, shown(cl))
			}
			assert.ElementsMatch(t, c.want, list)
			// The same below a folder, where nothing but the paths may change.
			below := r.Read(tree(map[string]string{"garden/shed/" + c.file: c.content}))
			assert.Len(t, below.Claims, len(got.Claims))
			for i, cl := range below.Claims {
				assert.Equal(t, "garden/shed", cl.Folder)
				assert.Equal(t, "garden/shed/"+got.Claims[i].File, cl.File)
			}
		})
	}
}
