package catalogue_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
)

// TestSpellings: what texts of pipelines stand for, and that others stand for themselves.
func TestSpellings(t *testing.T) {
	for _, c := range []struct{ tool, text, means string }{
		{"python", "310", "3.10"},
		{"python", "39-x64", "3.9"},
		{"python", "3.10", ""},
		{"python", "1310", ""},
		{"ruby", "32-x64", "3.2"},
		{"go", "1.21", ""},
	} {
		means, dialect, ok := tool(t, c.tool).Spelled(c.text)
		assert.Equal(t, c.means, means, "%s %s", c.tool, c.text)
		assert.Equal(t, c.means != "", ok, "%s %s", c.tool, c.text)
		if ok {
			assert.Equal(t, "plain", dialect)
		}
	}
}

// TestStepsAndInputs: steps and keys are found in either case, and name one tool each.
func TestStepsAndInputs(t *testing.T) {
	c := embedded(t)
	for name, want := range map[string]string{"setup-python": "python", "Setup-Python": "python", "JavaToolInstaller": "java"} {
		steps := c.StepsNamed(name)
		require.NotEmpty(t, steps, name)
		assert.Equal(t, want, steps[0].Tool.Name, name)
		assert.NotEmpty(t, steps[0].Input, name)
	}
	assert.Empty(t, c.StepsNamed("setup-garden"))
	for _, key := range []string{"GOTOOLCHAIN", "gotoolchain"} {
		found, known := c.ToolOfInput(key)
		require.True(t, known, key)
		assert.Equal(t, "go", found.Name, key)
	}
	_, known := c.ToolOfInput("garden-version")
	assert.False(t, known)
}

// TestImagesNamed: a version in an image's own name, and names that only look like one.
func TestImagesNamed(t *testing.T) {
	for base, want := range map[string]string{"openjdk-17": "java", "gcc8": "gcc", "llvm-11": "clang", "build-python3.12": "python", "nodejs-20": "node"} {
		found := embedded(t).ImagesNamed(base)
		require.Len(t, found, 1, base)
		assert.Equal(t, want, found[0].Tool.Name, base)
	}
	for _, base := range []string{"gcc", "clang60", "gcc80", "python", "openjdk", "beds-17"} {
		assert.Empty(t, embedded(t).ImagesNamed(base), base)
	}
}

func TestCovers(t *testing.T) {
	patterns := []string{"go.mod", "*.lock", ".github/**/a.yml"}
	for path, want := range map[string]bool{
		"go.mod": true, "beds/go.mod": true, "yarn.lock": true, "a/b/c.lock": true, ".github/x/y/a.yml": true,
		"go.mods": false, "lock": false, "a.yml": false, "": false,
	} {
		assert.Equal(t, want, catalogue.Covers(patterns, path), path)
	}
	assert.False(t, catalogue.Covers(nil, "go.mod"))
}

// TestUnsaid: lines that name a tool beside a version and speak of something else.
func TestUnsaid(t *testing.T) {
	unsaid := embedded(t).Places().Unsaid
	for _, line := range []string{
		`name: Node 18`, `node-18:`, `"tomli; python_version<'3.11'",`, `Programming Language :: Python :: 3`,
		`if: matrix.java == '8'`, `echo "needs python 3.12"`, `'garden.beds:gradle:1.2.3'`, `"garden/beds-php": "^1.4",`, `<jdk>1.8</jdk>`, `node 127.0.0.1`,
	} {
		assert.False(t, unsaid.Says([]byte(line)), line)
	}
	for _, line := range []string{`install-python 3.12`, `PYTHON_VERSION 3.12`, `python_version = "3.10"`, `image: node-18`, `go_version = "1.15.5",`} {
		assert.True(t, unsaid.Says([]byte(line)), line)
	}
}
