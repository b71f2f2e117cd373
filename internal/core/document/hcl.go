package document

import (
	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"
)

// parseHCL reads blocks of attributes; a selector is the block types and the attribute,
// with dots between: terraform.required_version. Only literal texts are values.
func parseHCL(s Source) (Document, error) {
	file, problems := hclsyntax.ParseConfig(s.Data, "", hcl.InitialPos)
	if problems.HasErrors() {
		at := problems[0].Subject
		if at == nil {
			return nil, &SyntaxError{1, 1, "broken HCL: " + problems[0].Summary}
		}
		line, column := position(s.Data, at.Start.Byte)
		return nil, &SyntaxError{line, column, "broken HCL: " + problems[0].Summary}
	}
	d := keyed{}
	if body, ok := file.Body.(*hclsyntax.Body); ok {
		d.addBody("", body)
	}
	return d, nil
}

func (d keyed) addBody(prefix string, body *hclsyntax.Body) {
	for name, attribute := range body.Attributes {
		text, problems := attribute.Expr.Value(nil)
		if problems.HasErrors() || text.Type() != cty.String || !text.IsKnown() || text.IsNull() {
			continue
		}
		key, at := prefix+name, attribute.Expr.Range()
		d[key] = append(d[key], Value{Text: text.AsString(), Offset: at.Start.Byte + 1, Size: at.End.Byte - at.Start.Byte - 2, Key: key})
	}
	for _, block := range body.Blocks {
		d.addBody(prefix+block.Type+".", block.Body)
	}
}
