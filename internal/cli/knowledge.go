package cli

import (
	"bytes"
	"context"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/terminal"
)

// known is what is known of tools and of what goes together, with a reader made for it.
type known struct {
	*rule.Book
	reader *reading.Reader
}

// held is where the context of a command carries what is known already.
type held struct{}

// Holding is a context for a program that runs many commands: they need not learn anew what comes
// with Wexo, and read in this process instead of in others.
func Holding(ctx context.Context) (context.Context, error) {
	k, err := knowledge()
	return context.WithValue(ctx, held{}, k), err
}

// heldBy is what a context holds.
func heldBy(ctx context.Context) (known, bool) {
	k, ok := ctx.Value(held{}).(known)
	return k, ok
}

// knowledge is what is known without a configuration.
func knowledge() (known, error) { return knowledgeOf(nil) }

// knowledgeOf is what is known with the user's catalogue folders.
func knowledgeOf(folders []fs.FS) (known, error) {
	c, r, err := readingKnowledge(folders)
	if err != nil {
		return known{}, err
	}
	book, err := rule.Load(c, withShipped(folders)...)
	if err != nil {
		return known{}, mistakes(err)
	}
	return known{book, r}, nil
}

// readingKnowledge is what those need who read and do not judge.
func readingKnowledge(folders []fs.FS) (*catalogue.Catalogue, *reading.Reader, error) {
	c, err := catalogue.Load(withShipped(folders)...)
	if err != nil {
		return nil, nil, mistakes(err)
	}
	r, err := reading.New(c)
	if err != nil {
		return nil, nil, mistakes(err)
	}
	return c, r, nil
}

// mistakes are those of catalogue folders, a line each.
func mistakes(err error) error { return usage("%s", terminal.Lines(each(err))) }

func withShipped(folders []fs.FS) []fs.FS { return append([]fs.FS{catalogue.Shipped()}, folders...) }

// catalogueDirs are the user's catalogue folders. Those of a trusted configuration may ask
// tools for their versions with any arguments.
func catalogueDirs(folders []string, trusted bool) ([]fs.FS, error) {
	var dirs []fs.FS
	for _, folder := range folders {
		if !isFolder(folder) {
			return nil, usage("catalogue: there is no folder %s", folder)
		}
		dirs = append(dirs, catalogue.Folder{FS: os.DirFS(folder), Name: folder, Trusted: trusted})
	}
	return dirs, nil
}

// configured is the configuration of a command, and what is known by it. Surveyed are the
// folders that the command is pointed at: nothing in them configures it.
func configured(cmd *cobra.Command, surveyed ...string) (known, config, error) {
	file, err := configOf(cmd, surveyed)
	if err != nil {
		return known{}, config{}, err
	}
	name, text := file.name, file.text
	folders, problem := catalogueFolders(text, filepath.Dir(name))
	if problem != nil {
		return known{}, config{}, usage("%s:%d: catalogue should be a list of folders", name, problem.Line)
	}
	if flag := cmd.Flag("catalogue"); flag != nil && flag.Changed {
		folders = splitList(flag.Value.String())
	} else if value := os.Getenv("WEXO_CATALOGUE"); value != "" {
		folders = strings.Split(value, ",")
	}
	for _, folder := range folders {
		if !isFolder(folder) {
			return known{}, config{}, usage("%s: there is no folder %s", said(cmd, name, text, catalogueKey), folder)
		}
	}
	dirs, err := catalogueDirs(folders, file.trusted())
	if err != nil {
		return known{}, config{}, err
	}
	k, there := heldBy(cmd.Context())
	if !there || len(dirs) > 0 {
		if k, err = knowledgeOf(dirs); err != nil {
			return k, config{}, err
		}
	}
	c, err := readConfig(cmd, k, name, text)
	if err == nil {
		err = k.adopted(c, name, text)
	}
	c.text = withFolders(text, folders)
	return k, c, err
}

func splitList(text string) []string {
	return strings.FieldsFunc(strings.Trim(text, "[]"), func(r rune) bool { return r == ',' })
}

// likeConfig is what somebody may call the configuration who means wexo.yaml.
const likeConfig = "wexo.yml"

// catalogueKey is the key of wexo.yaml that names folders laid out like the catalogue.
const catalogueKey = "catalogue"

// trustedKey is the key of wexo.yaml that lets the tools of catalogue folders be asked for their
// versions with any arguments. It counts in a configuration that an option or variable names.
const trustedKey = "trusted"

func (f configFile) trusted() bool {
	n := keyNode(f.text, trustedKey)
	return f.named && n != nil && n.Value == "true"
}

// catalogueFolders are those that a configuration names, from the folder that it stands in.
// Where the file is broken, whoever reads all of it tells.
func catalogueFolders(text []byte, dir string) ([]string, *yaml.Node) {
	n := keyNode(text, catalogueKey)
	if n == nil {
		return nil, nil
	}
	items := []*yaml.Node{n}
	if n.Kind == yaml.SequenceNode {
		items = n.Content
	}
	var out []string
	for _, item := range items {
		if item.Kind != yaml.ScalarNode || item.Value == "" {
			return nil, item
		}
		folder := item.Value
		if !filepath.IsAbs(folder) {
			folder = filepath.Join(dir, folder)
		}
		out = append(out, folder)
	}
	return out, nil
}

// keyNode is the value of a key of the configuration; nil where there is none.
func keyNode(text []byte, key string) *yaml.Node {
	var doc yaml.Node
	if yaml.NewDecoder(bytes.NewReader(text)).Decode(&doc) != nil || len(doc.Content) == 0 || doc.Content[0].Kind != yaml.MappingNode {
		return nil
	}
	list := doc.Content[0].Content
	for i := 0; i+1 < len(list); i += 2 {
		if list[i].Value == key {
			return list[i+1]
		}
	}
	return nil
}

// withFolders is a configuration for the processes that read: its folders are those that were
// found, wherever they are read from.
func withFolders(text []byte, folders []string) []byte {
	var doc yaml.Node
	if len(folders) == 0 {
		return text
	}
	err := yaml.NewDecoder(bytes.NewReader(text)).Decode(&doc)
	if len(doc.Content) == 0 {
		doc = yaml.Node{Kind: yaml.DocumentNode, Content: []*yaml.Node{{Kind: yaml.MappingNode}}}
	} else if err != nil || doc.Content[0].Kind != yaml.MappingNode {
		return text
	}
	value := &yaml.Node{Kind: yaml.SequenceNode}
	for _, folder := range folders {
		abs, err := filepath.Abs(folder)
		if err != nil {
			return text
		}
		value.Content = append(value.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: abs})
	}
	root := doc.Content[0]
	for i := 0; i+1 < len(root.Content); i += 2 {
		if root.Content[i].Value == catalogueKey {
			root.Content = append(root.Content[:i:i], root.Content[i+2:]...)
			break
		}
	}
	root.Content = append(root.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: catalogueKey}, value)
	out, err := yaml.Marshal(&doc)
	if err != nil {
		return text
	}
	return out
}

// lineOf is the first line that holds a word; 0 where none does.
func lineOf(text []byte, word string) int {
	before, _, found := bytes.Cut(text, []byte(word))
	if !found {
		return 0
	}
	return 1 + bytes.Count(before, []byte("\n"))
}

// adopted refuses baselines that nobody describes.
func (k known) adopted(c config, file string, text []byte) error {
	for _, s := range append([]policy.Named{{Settings: c.Policy.Settings}}, c.Policy.Repositories...) {
		for _, name := range s.Baselines {
			if _, there := k.Baseline(name); !there {
				return usage("%s:%d: %v", file, lineOf(text, "baselines"), k.ErrBaseline(name))
			}
		}
	}
	return nil
}
