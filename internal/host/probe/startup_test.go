package probe

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// TestStartupFiles reads what shells are told: PATH as it becomes, an ellipsis standing for
// the usual one, and the variables that matter to a tool.
func TestStartupFiles(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for name, s := range map[string]struct {
		files map[string]string
		path  string
		vars  string
	}{
		"none":                      {nil, "…", ""},
		"before and behind":         {map[string]string{".bashrc": "export PATH=$HOME/a:$PATH\nPATH=\"${PATH}:/b\"\n"}, "~/a:…:/b", ""},
		"in its place":              {map[string]string{".bashrc": "PATH=/only:/usr/bin\n"}, "/only:/usr/bin", ""},
		"added to":                  {map[string]string{".zshrc": "PATH+=:/b\n"}, "…:/b", ""},
		"an array":                  {map[string]string{".zshrc": "path=(~/a /b $path)\n"}, "~/a:/b:…", ""},
		"an array, added to":        {map[string]string{".zshrc": "path+=(/b)\n"}, "…:/b", ""},
		"variables of its own":      {map[string]string{".profile": "SHED=/opt/shed\nexport PATH=\"$SHED/bin:$PATH\" # for all\n"}, "/opt/shed/bin:…", ""},
		"a variable of a tool":      {map[string]string{".profile": "export JAVA_HOME='/opt/jdk'\nPATH=$JAVA_HOME/bin:$PATH; export PATH\n"}, "/opt/jdk/bin:…", "JAVA_HOME=/opt/jdk at ~/.profile:1"},
		"what would have to be run": {map[string]string{".bashrc": "PATH=$(shed where)/bin:$PATH\nexport JAVA_HOME=`shed java`\n"}, "…", ""},
		"nobody set it":             {map[string]string{".bashrc": "PATH=$NOWHERE/bin:$PATH\n"}, "…", ""},
		"a remark":                  {map[string]string{".bashrc": "# PATH=/a:$PATH\n"}, "…", ""},
		"the first of two branches": {map[string]string{".bashrc": "if true; then\n  PATH=/a:$PATH\nelse\n  PATH=/b:$PATH\nfi\nPATH=/c:$PATH\n"}, "/c:/a:…", ""},
		"what it names":             {map[string]string{".bashrc": "[ -f ~/.more ] && . ~/.more\nsource \"$HOME/.again\"\n", ".more": "PATH=/more:$PATH\n", ".again": ". ~/.again\nPATH=/again:$PATH\n"}, "/again:/more:…", ""},
		"twice the same":            {map[string]string{".profile": "PATH=/a:$PATH\n", ".bashrc": "PATH=/a:$PATH\n"}, "/a:…", ""},
		"to the front again":        {map[string]string{".bashrc": "PATH=/a:/b:$PATH\nPATH=/b:$PATH\n"}, "/b:/a:…", ""},
		"behind, and there already": {map[string]string{".bashrc": "PATH=/a:$PATH\nPATH=$PATH:/a\n"}, "/a:…", ""},
		"folders that are none":     {map[string]string{".bashrc": "PATH=.:bin:/a:$PATH\n"}, "/a:…", ""},
		"fish":                      {map[string]string{".config/fish/config.fish": "set -gx PATH ~/a $PATH\nset -x JAVA_HOME /opt/jdk\nfish_add_path /b\nfish_add_path --append /c\n"}, "/b:~/a:…:/c", "JAVA_HOME=/opt/jdk at ~/.config/fish/config.fish:2"},
		"fish, folders of the user": {map[string]string{".config/fish/conf.d/shed.fish": "set -U fish_user_paths ~/a /b\n"}, "~/a:/b:…", ""},
		"lists of folders":          {map[string]string{"/etc/paths": "/opt/site/bin\nnothing\n", "/etc/paths.d/shed": "/opt/shed/bin\n"}, "…:/opt/site/bin:/opt/shed/bin", ""},
		"the system's before the user's": {map[string]string{"/etc/profile": "PATH=/site:$PATH\n", "/etc/profile.d/shed.sh": "PATH=/shed:$PATH\n", ".bashrc": "PATH=/mine:$PATH\n"},
			"/mine:/shed:/site:…", ""},
		"one that names itself in a circle": {map[string]string{".bashrc": ". ~/.more\nPATH=/a:$PATH\n", ".more": ". ~/.bashrc\nPATH=/b:$PATH\n"}, "/a:/b:…", ""},
	} {
		root := t.TempDir()
		for file, text := range s.files {
			if !strings.HasPrefix(file, "/") {
				file = "/home/fern/" + file
			}
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(root, file)), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(root, file), []byte(text), 0o644))
		}
		p := newProbe(c, Machine{Info: inventory.MachineInfo{OS: "linux", Home: "/home/fern"}, Files: root})
		p.readStartup()
		got := strings.ReplaceAll(strings.Join(p.path, ":"), strings.Join(usualPath, ":"), "…")
		assert.Equal(t, s.path, strings.ReplaceAll(got, "/home/fern/", "~/"), name)
		var vars []string
		for _, l := range p.startup {
			if l.Variable != "PATH" {
				vars = append(vars, fmt.Sprintf("%s=%s at %s:%d", l.Variable, l.Value, p.short(l.File), l.Line))
			}
			assert.NotEmpty(t, l.Raw, name)
		}
		assert.Equal(t, s.vars, strings.Join(vars, "; "), name)
	}
}

// TestStartupFilesHaveLimits: what is long, deep or much is not read for ever.
func TestStartupFilesHaveLimits(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	root := t.TempDir()
	home := filepath.Join(root, "home", "fern")
	require.NoError(t, os.MkdirAll(home, 0o755))
	for i := range 10 {
		text := fmt.Sprintf(". ~/.deep%d\nPATH=/deep%d:$PATH\n", i+1, i)
		require.NoError(t, os.WriteFile(filepath.Join(home, fmt.Sprintf(".deep%d", i)), []byte(text), 0o644))
	}
	var many strings.Builder
	many.WriteString(". ~/.deep0\n")
	for i := range 3000 {
		fmt.Fprintf(&many, "PATH=/m%d:$PATH\n", i)
	}
	require.NoError(t, os.WriteFile(filepath.Join(home, ".bashrc"), []byte(many.String()), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(home, ".profile"), []byte("PATH=/"+strings.Repeat("x", 3000)+":$PATH\nJAVA_HOME=/opt/\x01jdk\n"), 0o644))
	p := newProbe(c, Machine{Info: inventory.MachineInfo{OS: "linux", Home: "/home/fern"}, Files: root})
	p.readStartup()
	assert.LessOrEqual(t, len(p.startup), mostStartupLines)
	assert.Contains(t, p.path, "/deep2")
	assert.NotContains(t, p.path, "/deep5", "files that name files that name files")
	for _, l := range p.startup {
		assert.Less(t, len(l.Raw), 2_000)
		assert.NotContains(t, l.Value, "\x01")
	}
}
