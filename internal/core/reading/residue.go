package reading

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/scan"
)

// foldersFormat is the format of rules whose claims are the names of folders.
const foldersFormat = "folders"

// residues reads what a build left in a folder that is skipped otherwise. Only a working
// tree holds such things.
func (p *pass) residues(folder, name string) {
	if !p.WorkingTree {
		return
	}
	entered := []string{}
	for _, use := range p.Reader.residues {
		for _, pattern := range use.Rule.Files {
			first, rest, ok := strings.Cut(pattern, "/")
			switch {
			case !ok || first != name:
			case use.Rule.Format == foldersFormat:
				p.folderNames(folder, use)
			case !slices.Contains(entered, rest):
				entered = append(entered, rest)
				p.residue(folder, rest)
			}
		}
	}
	for _, left := range p.catalogue.Places().Left { // an environment or build by whatever name
		if !slices.Contains(entered, left.File) {
			p.residue(folder, left.File)
		}
	}
}

// residue reads one file that a build left behind, where it is there.
func (p *pass) residue(folder, rest string) {
	if !p.WorkingTree {
		return
	}
	file := path.Join(folder, rest)
	if info, err := fs.Lstat(p.tree, file); err != nil || !info.Mode().IsRegular() {
		return
	}
	rules := slices.DeleteFunc(p.catalogue.RulesFor(file), func(f catalogue.Found) bool { return f.Rule == nil || claim.Role(f.Rule.Role) != claim.Residue })
	if len(rules) == 0 {
		return
	}
	data, err := p.readFile(file, scan.MaxKnown)
	if err != nil {
		return
	}
	s := p.guarded(file, claim.Above(folder), func(s *scanning) { p.scanKnown(s, data, rules) })
	for i := range s.Claims { // a residue in a folder by any name speaks for the folder above
		if s.Claims[i].Folder == folder {
			s.Claims[i].Folder = claim.Above(folder)
		}
	}
	p.keep(scanned{file, claim.Above(folder), s})
}

// folderNames makes claims of the names of the folders inside a folder.
func (p *pass) folderNames(folder string, use catalogue.Use) {
	entries, err := fs.ReadDir(p.tree, folder)
	if err != nil {
		return
	}
	s := &scan.Said{}
	for _, e := range entries {
		if m := use.Rule.Pattern.FindStringSubmatch(e.Name()); e.IsDir() && m != nil {
			s.Claims = append(s.Claims, claim.Claim{Tool: use.Tool.Name, Role: claim.Residue, Raw: m[1], Dialect: use.Rule.Dialect, Folder: claim.Above(folder),
				File: path.Join(folder, e.Name()), Recognised: claim.Standard, Certainty: claim.High, Why: "the folder's name is the version"})
		}
	}
	p.keep(scanned{folder, claim.Above(folder), s})
}
