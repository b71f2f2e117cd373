package reading_test

import (
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/tools/txtar"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
)

// fuzzFiles reads whatever stands in files of these names, beside a good one. Nothing may
// fail or hang, the good one must be read, and every claim must have a place in its file.
func fuzzFiles(f *testing.F, names ...string) {
	r := newReader(f)
	seeds, err := filepath.Glob("testdata/corpus/*.txt")
	if err != nil {
		f.Fatal(err)
	}
	for _, archive := range seeds {
		data, err := os.ReadFile(archive)
		if err != nil {
			f.Fatal(err)
		}
		for _, file := range txtar.Parse(data).Files {
			for _, name := range names {
				if path.Base(file.Name) == path.Base(name) || path.Ext(file.Name) == path.Ext(name) && path.Ext(name) != "" {
					f.Add(file.Data)
				}
			}
		}
	}
	f.Fuzz(func(t *testing.T, content []byte) {
		files := map[string]string{"good/.node-version": "22\n"}
		for _, name := range names {
			files[name] = string(content)
		}
		got := r.Read(tree(files))
		good := false
		for _, c := range got.Claims {
			good = good || c.File == "good/.node-version"
			if c.Line < 1 || c.Column < 1 || c.Line > strings.Count(string(content), "\n")+1 && c.File != "good/.node-version" && !utf16Mark(content) {
				t.Fatalf("%s has no place", detailed(c))
			}
		}
		for _, p := range got.Problems {
			if strings.Contains(p.Reason, reading.ErrFault.Error()) {
				t.Fatal(p.Reason)
			}
		}
		if !good {
			t.Fatal("the good neighbour was not read")
		}
	})
}

func utf16Mark(data []byte) bool {
	return len(data) > 1 && (data[0] == 0xff && data[1] == 0xfe || data[0] == 0xfe && data[1] == 0xff)
}

func FuzzJSON(f *testing.F) {
	fuzzFiles(f, "package.json", "package-lock.json", "composer.lock", ".vscode/settings.json", "a.code-workspace", "global.json")
}
func FuzzYAML(f *testing.F) { fuzzFiles(f, "pubspec.yaml", "pnpm-lock.yaml", "environment.yml") }
func FuzzTOML(f *testing.F) {
	fuzzFiles(f, "pyproject.toml", "Cargo.toml", "poetry.lock", "gradle/libs.versions.toml")
}
func FuzzXML(f *testing.F) {
	fuzzFiles(f, "pom.xml", "child/pom.xml", ".idea/misc.xml", ".classpath", "a.csproj")
}
func FuzzHCL(f *testing.F) { fuzzFiles(f, "main.tf") }
func FuzzINI(f *testing.F) { fuzzFiles(f, "setup.cfg") }
func FuzzProperties(f *testing.F) {
	fuzzFiles(f, "gradle.properties", "gradle/wrapper/gradle-wrapper.properties")
}
func FuzzGoMod(f *testing.F) { fuzzFiles(f, "go.mod", "go.work") }
func FuzzRaw(f *testing.F) {
	fuzzFiles(f, "Gemfile.lock", "yarn.lock", "Package.swift", "rust-toolchain")
}
func FuzzSlash(f *testing.F) { fuzzFiles(f, "build.gradle", "build.gradle.kts") }
func FuzzHash(f *testing.F) {
	fuzzFiles(f, "Gemfile", "setup.py", "mix.exs", "CMakeLists.txt", "a.gemspec")
}
func FuzzPercent(f *testing.F)   { fuzzFiles(f, "rebar.config") }
func FuzzContainer(f *testing.F) { fuzzFiles(f, "Dockerfile") }
func FuzzPipeline(f *testing.F) {
	fuzzFiles(f, ".github/workflows/a.yml", ".gitlab-ci.yml", ".travis.yml", "compose.yaml", "azure-pipelines.yml")
}
func FuzzDevelopment(f *testing.F) { fuzzFiles(f, ".devcontainer/devcontainer.json") }
func FuzzShape(f *testing.F) {
	fuzzFiles(f, ".pins", ".node-version", ".pins.json", ".pins.yaml", ".pins.toml", ".config/pins")
}

// FuzzRules: whatever stands in a file of rules, it is understood or refused with a place.
func FuzzRules(f *testing.F) {
	c, err := catalogue.Embedded()
	if err != nil {
		f.Fatal(err)
	}
	f.Add([]byte("claims:\n  - files: [ops/node.txt]\n    tool: node\nleave-out: [legacy/]\nplanned-end: 2027-05-01\n"))
	f.Add([]byte("repositories:\n  seed-*:\n    tags: [garden]\n    unpinned-is-fine: [{tool: node, folders: [docs]}]\n"))
	f.Fuzz(func(t *testing.T, content []byte) {
		_, _, problems := userrule.Parse(content, c, true)
		for _, p := range problems {
			if p.Line < 1 || p.Reason == "" {
				t.Fatalf("a problem without place or reason: %+v", p)
			}
		}
	})
}
