package claim

import (
	"errors"
	"strings"

	"golang.org/x/mod/modfile"
)

// goModDocument is the go and toolchain lines of a module file.
type goModDocument map[string][]value

func parseGoMod(data []byte, _ selectors) (document, error) {
	f, err := modfile.ParseLax("go.mod", data, nil)
	if err != nil {
		var list modfile.ErrorList
		if errors.As(err, &list) && len(list) > 0 {
			return nil, &syntaxError{list[0].Pos.Line, max(list[0].Pos.LineRune, 1), list[0].Err.Error()}
		}
		return nil, &syntaxError{1, 1, err.Error()}
	}
	d := goModDocument{}
	if f.Go != nil {
		d.add("go", f.Go.Version, f.Go.Syntax)
	}
	for _, stmt := range f.Syntax.Stmt { // the lax parser, which bears new directives, leaves this one out
		if line, ok := stmt.(*modfile.Line); ok && len(line.Token) == 2 && line.Token[0] == "toolchain" {
			d.add("toolchain", strings.TrimPrefix(line.Token[1], "go"), line)
		}
	}
	return d, nil
}

func (d goModDocument) add(key, text string, line *modfile.Line) {
	column := line.Start.LineRune
	if len(line.Token) > 1 { // the value, which is the second token outside a block
		column += len(line.Token[0]) + 1
		if strings.HasPrefix(line.Token[1], "go") {
			column += len("go")
		}
	}
	d[key] = append(d[key], value{text, line.Start.Line, column})
}

func (d goModDocument) find(selector string) []value { return d[selector] }
