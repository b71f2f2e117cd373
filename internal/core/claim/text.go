package claim

// textDocument is a build script read by pattern; comments are blanked first, so
// that offsets stay.
type textDocument struct{ data, code []byte }

func parseText(data []byte, _ selectors) (document, error) {
	return &textDocument{data, blankComments(data)}, nil
}

func (d *textDocument) find(string) []value { return nil }

// blankComments replaces // and /* */ comments outside quotes with spaces.
func blankComments(data []byte) []byte {
	out := append([]byte(nil), data...)
	var quote byte
	for i := 0; i < len(out); i++ {
		c := out[i]
		switch {
		case quote != 0:
			if c == '\\' {
				i++
			} else if c == quote || c == '\n' {
				quote = 0
			}
		case c == '"' || c == '\'':
			quote = c
		case c == '/' && i+1 < len(out) && out[i+1] == '/':
			for i < len(out) && out[i] != '\n' {
				out[i] = ' '
				i++
			}
		case c == '/' && i+1 < len(out) && out[i+1] == '*':
			i = blankBlock(out, i)
		}
	}
	return out
}

func blankBlock(out []byte, i int) int {
	for ; i < len(out); i++ {
		if out[i] == '*' && i+1 < len(out) && out[i+1] == '/' {
			out[i], out[i+1] = ' ', ' '
			return i + 1
		}
		if out[i] != '\n' {
			out[i] = ' '
		}
	}
	return i
}
