package document

import "bytes"

// parseCMake reads a file of CMake's language. What stands in brackets, [[ ]] or [=[ ]=], and
// in quoted texts of several lines is text for others to read, and no code.
func parseCMake(s Source) (Document, error) {
	return &Script{Source: s, code: blankCMake(s.Data)}, nil
}

func blankCMake(data []byte) []byte {
	out := bytes.Clone(data)
	for i := 0; i < len(out); i++ {
		switch out[i] {
		case '\\':
			i++
		case '#':
			if end := bracketed(out, i+1); end > 0 {
				i = blankTo(out, i, end)
				continue
			}
			for i < len(out) && out[i] != '\n' {
				out[i] = ' '
				i++
			}
		case '[':
			if end := bracketed(out, i); end > 0 {
				i = blankTo(out, i, end)
			}
		case '"':
			i = blankQuoted(out, i)
		}
	}
	return out
}

// bracketed is the end of a bracket argument that begins at i; 0 where none does.
func bracketed(data []byte, i int) int {
	if i >= len(data) || data[i] != '[' {
		return 0
	}
	signs := 0
	for i+1+signs < len(data) && data[i+1+signs] == '=' {
		signs++
	}
	if i+1+signs >= len(data) || data[i+1+signs] != '[' {
		return 0
	}
	mark := append(append([]byte{']'}, bytes.Repeat([]byte{'='}, signs)...), ']')
	from := i + 2 + signs
	at := bytes.Index(data[from:], mark)
	if at < 0 {
		return len(data)
	}
	return from + at + len(mark)
}

// blankQuoted passes a quoted text, and blanks it where it has several lines. It gives the
// place of the closing quote.
func blankQuoted(data []byte, i int) int {
	for end := i + 1; end < len(data); end++ {
		switch data[end] {
		case '\\':
			end++
		case '"':
			if bytes.IndexByte(data[i:end], '\n') >= 0 {
				blankTo(data, i+1, end)
			}
			return end
		}
	}
	return len(data)
}

// blankTo blanks what stands before an end, and gives the last place of it.
func blankTo(data []byte, i, end int) int {
	for ; i < end; i++ {
		if data[i] != '\n' {
			data[i] = ' '
		}
	}
	return end - 1
}
