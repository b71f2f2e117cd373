package claim

import (
	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"
)

// parseHCL reads blocks of attributes; a selector is the block types and the attribute,
// with dots between: terraform.required_version. Only literal texts are values.
func parseHCL(s source) (document, error) {
	file, problems := hclsyntax.ParseConfig(s.data, "", hcl.InitialPos)
	if problems.HasErrors() {
		at := problems[0].Subject
		if at == nil {
			return nil, &syntaxError{1, 1, "broken HCL: " + problems[0].Summary}
		}
		line, column := position(s.data, at.Start.Byte)
		return nil, &syntaxError{line, column, "broken HCL: " + problems[0].Summary}
	}
	d := keyedDocument{}
	if body, ok := file.Body.(*hclsyntax.Body); ok {
		d.addBody("", body)
	}
	return d, nil
}

func (d keyedDocument) addBody(prefix string, body *hclsyntax.Body) {
	for name, attribute := range body.Attributes {
		text, problems := attribute.Expr.Value(nil)
		if problems.HasErrors() || text.Type() != cty.String || !text.IsKnown() || text.IsNull() {
			continue
		}
		key, at := prefix+name, attribute.Expr.Range()
		d[key] = append(d[key], value{text: text.AsString(), offset: at.Start.Byte + 1, size: at.End.Byte - at.Start.Byte - 2, key: key})
	}
	for _, block := range body.Blocks {
		d.addBody(prefix+block.Type+".", block.Body)
	}
}
