package main

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// TestEverySystem checks the program as the compilers of other systems would. Of what others
// wrote the declarations are enough, which takes seconds instead of minutes.
func TestEverySystem(t *testing.T) {
	root, err := filepath.Abs("../..")
	require.NoError(t, err)
	for _, system := range []string{"windows", "darwin"} {
		t.Run(system, func(t *testing.T) {
			loaded, err := packages.Load(&packages.Config{
				Mode: packages.NeedName | packages.NeedFiles | packages.NeedImports | packages.NeedDeps | packages.NeedTypes | packages.NeedSyntax | packages.NeedTypesInfo | packages.NeedTypesSizes | packages.NeedModule,
				Env:  append(os.Environ(), "GOOS="+system, "CGO_ENABLED=0"),
				ParseFile: func(files *token.FileSet, name string, source []byte) (*ast.File, error) {
					file, err := parser.ParseFile(files, name, source, parser.SkipObjectResolution)
					if file != nil && !strings.HasPrefix(name, root) {
						for _, d := range file.Decls {
							if f, ok := d.(*ast.FuncDecl); ok {
								f.Body = nil
							}
						}
					}
					return file, err
				},
			}, ".")
			require.NoError(t, err)
			own := 0
			packages.Visit(loaded, nil, func(p *packages.Package) {
				if p.Module == nil || !p.Module.Main {
					return
				}
				own++
				for _, e := range p.Errors {
					assert.Fail(t, "it does not compile", "%s", e)
				}
			})
			assert.Greater(t, own, 20)
		})
	}
}
