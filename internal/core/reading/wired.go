package reading

import (
	"io/fs"
	"path"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/scan"
)

// inside follows a wired path that lies in the repository: relative to its folder, or
// below the editor's workspace variable. It gives nil for paths that lead elsewhere.
func (p *pass) inside(folder, raw string) *claim.Inside {
	text := strings.ReplaceAll(raw, `\`, "/")
	for _, variable := range []string{"${workspaceFolder}", "${workspaceRoot}"} {
		if rest, ok := strings.CutPrefix(text, variable); ok {
			text = "./" + strings.TrimLeft(rest, "/")
		}
	}
	if text == "" || text[0] == '/' || text[0] == '~' || strings.HasPrefix(text, "${") || len(text) > 1 && text[1] == ':' {
		return nil
	}
	if !strings.Contains(text, "/") { // a bare command is looked up on PATH
		return nil
	}
	inner := path.Join(folder, text)
	if !fs.ValidPath(inner) {
		return nil
	}
	at := &claim.Inside{Path: inner}
	if _, err := fs.Stat(p.tree, inner); err == nil || isLink(p.tree, inner) {
		at.Exists = true
	}
	borrowed, ok := p.catalogue.Places().Borrowed()
	if !ok {
		return at
	}
	config := path.Join(path.Dir(path.Dir(inner)), borrowed.File)
	if data, err := p.readFile(config, scan.MaxShape); err == nil {
		if m := borrowed.Version.FindSubmatch(data); m != nil {
			at.Version, at.Exists = string(m[1]), true
		}
	}
	return at
}

// isLink tells whether the path is a link, wherever it leads.
func isLink(tree fs.FS, name string) bool {
	info, err := fs.Lstat(tree, name)
	return err == nil && info.Mode()&fs.ModeSymlink != 0
}
