package claim

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"strings"
)

// xmlDocument maps element paths to their texts.
type xmlDocument map[string][]value

// parseXML reads XML; a selector is a path of element names from the root
// (/project/properties/java.version). References ${name} are replaced from the
// properties of the same file.
func parseXML(data []byte, _ selectors) (document, error) {
	d := xmlDocument{}
	decoder := xml.NewDecoder(bytes.NewReader(data))
	decoder.CharsetReader = func(_ string, input io.Reader) (io.Reader, error) { return input, nil }
	var path []string
	for {
		start := int(decoder.InputOffset())
		token, err := decoder.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, xmlError(decoder, err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			if path = append(path, t.Name.Local); len(path) > maxNesting {
				return nil, xmlError(decoder, errors.New("elements are nested too deep"))
			}
		case xml.EndElement:
			path = path[:len(path)-1]
		case xml.CharData:
			d.add(data, "/"+strings.Join(path, "/"), string(t), start)
		}
	}
	d.resolve()
	return d, nil
}

func xmlError(d *xml.Decoder, err error) error {
	line, column := d.InputPos()
	reason := err.Error()
	var syntax *xml.SyntaxError
	if errors.As(err, &syntax) {
		reason = syntax.Msg
	}
	return &syntaxError{line, column, "broken XML: " + reason}
}

func (d xmlDocument) add(data []byte, path, text string, offset int) {
	trimmed := strings.TrimSpace(text)
	if trimmed == "" {
		return
	}
	line, column := position(data, offset+strings.Index(text, trimmed))
	d[path] = append(d[path], value{trimmed, line, column})
}

var reference = regexp.MustCompile(`\$\{([^}]+)\}`)

// resolve replaces references, at most eight deep; a value keeps its own place.
func (d xmlDocument) resolve() {
	for path, values := range d {
		for i := range values {
			for range 8 {
				text := reference.ReplaceAllStringFunc(values[i].text, d.property)
				if text == values[i].text || len(text) > 1024 {
					break
				}
				values[i].text = text
			}
		}
		d[path] = values
	}
}

func (d xmlDocument) property(ref string) string {
	name := ref[2 : len(ref)-1]
	if found := d["/project/properties/"+name]; len(found) > 0 {
		return found[len(found)-1].text
	}
	return ref
}

func (d xmlDocument) find(selector string) []value { return d[selector] }
