package document

import (
	"errors"
	"strings"

	"golang.org/x/mod/modfile"
)

// parseGoMod reads module and workspace files; a selector is go or toolchain.
func parseGoMod(s Source) (Document, error) {
	data := s.Data
	f, err := modfile.ParseLax("go.mod", data, nil)
	if err != nil {
		if work, workErr := modfile.ParseWork("go.work", data, nil); workErr == nil {
			return goModDocument(data, work.Syntax), nil
		}
		var list modfile.ErrorList
		if errors.As(err, &list) && len(list) > 0 {
			return nil, &SyntaxError{list[0].Pos.Line, max(list[0].Pos.LineRune, 1), list[0].Err.Error()}
		}
		return nil, &SyntaxError{1, 1, err.Error()}
	}
	return goModDocument(data, f.Syntax), nil
}

// goModDocument takes the lines as they stand: the lax parser, which bears new
// directives, leaves the toolchain line out.
func goModDocument(data []byte, syntax *modfile.FileSyntax) Document {
	d := keyed{}
	for _, stmt := range syntax.Stmt {
		line, ok := stmt.(*modfile.Line)
		if !ok || len(line.Token) != 2 || line.Token[0] != "go" && line.Token[0] != "toolchain" {
			continue
		}
		start := line.Start.Byte
		at := start + strings.Index(string(data[start:line.End.Byte]), line.Token[1])
		if line.Token[0] == "go" {
			at = start + len("go") + strings.Index(string(data[start+len("go"):line.End.Byte]), line.Token[1])
		}
		text := strings.TrimPrefix(line.Token[1], "go")
		d[line.Token[0]] = append(d[line.Token[0]], Value{Text: text, Offset: at + len(line.Token[1]) - len(text), Key: line.Token[0]})
	}
	return d
}
