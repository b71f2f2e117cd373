package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"strings"
)

// comments are what the sources of some packages say of their types' fields, by
// "package.Type.Field".
func comments(dirs ...string) (map[string]string, error) {
	out := map[string]string{}
	for _, dir := range dirs {
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		if err != nil {
			return nil, err
		}
		for _, name := range files {
			if strings.HasSuffix(name, "_test.go") {
				continue
			}
			data, err := os.ReadFile(name)
			if err != nil {
				return nil, err
			}
			file, err := parser.ParseFile(token.NewFileSet(), name, data, parser.ParseComments)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
			ast.Inspect(file, func(n ast.Node) bool {
				if spec, ok := n.(*ast.TypeSpec); ok {
					fieldsOf(spec, file.Name.Name+"."+spec.Name.Name, out)
				}
				return true
			})
		}
	}
	return out, nil
}

func fieldsOf(spec *ast.TypeSpec, under string, out map[string]string) {
	s, ok := spec.Type.(*ast.StructType)
	if !ok {
		return
	}
	for _, field := range s.Fields.List {
		text := field.Doc.Text()
		if text == "" {
			text = field.Comment.Text()
		}
		for _, name := range field.Names {
			out[under+"."+name.Name] = sentence(name.Name, text)
		}
	}
}

// sentence is a comment without the field's name at its beginning, on one line.
func sentence(name, text string) string {
	text = strings.Join(strings.Fields(text), " ")
	for _, begin := range []string{name + " is ", name + " are ", name + " says ", name + " tells "} {
		if rest, ok := strings.CutPrefix(text, begin); ok {
			return strings.TrimSuffix(rest, ".")
		}
	}
	return strings.TrimSuffix(text, ".")
}
