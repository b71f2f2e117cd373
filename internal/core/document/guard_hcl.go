package document

import (
	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
)

// guardHCL counts what HCL's parser and evaluator recurse on, or go over again and again:
// whatever opens, operators and steps of one expression, parts of one template. Its
// scanner is linear and does not recurse.
func guardHCL(data []byte) error {
	if len(data) > maxHCL {
		return refuse(data, 0, "it has %s; no more than %s of HCL are read", Bytes(int64(len(data))), Bytes(maxHCL))
	}
	tokens, _ := hclsyntax.LexConfig(data, "", hcl.InitialPos)
	g := hclGuard{data: data, open: []hclLevel{{}}}
	for _, t := range tokens {
		if err := g.see(t); err != nil {
			return err
		}
	}
	return nil
}

// hclLevel is what was counted since something was opened.
type hclLevel struct {
	chain, parts, controls int
	joins                  bool // a line that ends does not end the expression
}

type hclGuard struct {
	data []byte
	open []hclLevel
}

func (g *hclGuard) see(t hclsyntax.Token) error {
	at := &g.open[len(g.open)-1]
	switch t.Type {
	case hclsyntax.TokenTemplateControl:
		if at.controls++; at.controls > maxControls {
			return refuse(g.data, t.Range.Start.Byte, "a template has more than %d conditions and loops", maxControls)
		}
		return g.opens(t)
	case hclsyntax.TokenOParen, hclsyntax.TokenOBrack, hclsyntax.TokenOBrace, hclsyntax.TokenOQuote, hclsyntax.TokenOHeredoc,
		hclsyntax.TokenTemplateInterp:
		at.chain++ // an index or a call is a step as well
		return g.opens(t)
	case hclsyntax.TokenCParen, hclsyntax.TokenCBrack, hclsyntax.TokenCBrace, hclsyntax.TokenCQuote, hclsyntax.TokenCHeredoc,
		hclsyntax.TokenTemplateSeqEnd:
		if len(g.open) > 1 {
			g.open = g.open[:len(g.open)-1]
		}
	case hclsyntax.TokenQuotedLit, hclsyntax.TokenStringLit:
		if at.parts++; at.parts > maxTemplate {
			return refuse(g.data, t.Range.Start.Byte, "a text has more than %d parts", maxTemplate)
		}
	case hclsyntax.TokenNewline:
		if !at.joins {
			at.chain = 0
		}
	case hclsyntax.TokenComma, hclsyntax.TokenEqual:
		at.chain = 0
	case hclsyntax.TokenIdent, hclsyntax.TokenNumberLit, hclsyntax.TokenComment, hclsyntax.TokenEOF:
	default:
		at.chain++
	}
	if at.chain > maxChain {
		return refuse(g.data, t.Range.Start.Byte, "an expression has more than %d operators and steps", maxChain)
	}
	return nil
}

func (g *hclGuard) opens(t hclsyntax.Token) error {
	if len(g.open) > maxNesting {
		return refuse(g.data, t.Range.Start.Byte, "brackets and texts are nested more than %d deep", maxNesting)
	}
	g.open = append(g.open, hclLevel{joins: t.Type != hclsyntax.TokenOBrace})
	return nil
}
