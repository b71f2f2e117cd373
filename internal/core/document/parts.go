package document

// Parts are the places that a selector leads to in a document, each as a document in which
// selectors begin there.
func Parts(doc Document, selector string) []Document {
	var out []Document
	switch d := doc.(type) {
	case *Tree:
		for _, n := range d.Nodes(selector) {
			out = append(out, &Tree{Root: n, Source: d.Source})
		}
	case *XML:
		s := d.Selectors[selector]
		if s == nil {
			return nil
		}
		for i := s.xpath.Select(&cursor{d.root, d.Budget}); i.MoveNext(); {
			out = append(out, &XML{i.Current().(*cursor).at, d.Source})
		}
	}
	return out
}
