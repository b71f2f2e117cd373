package probe

import (
	"bytes"
	"errors"
	"io"

	"wexo/internal/core/catalogue"
)

const (
	// maxSearched is how much of an executable is searched for what it says of itself, in bytes.
	maxSearched = 512 << 20
	// searchedAtOnce is how much is searched at a time, and mostMatched how long a match and
	// what stands around it may be.
	searchedAtOnce, mostMatched = 1 << 20, 256
)

// searched is what an executable's own bytes say that a pattern is of. It is remembered like
// what executables say when they are run.
func (p *probe) searched(c *candidate, pattern catalogue.Pattern) string {
	if c.broken != "" {
		return ""
	}
	at := p.disk.on(c.path)
	question := []string{"", pattern.String()} // no executable is run with that
	if said, ok := p.machine.Said.of(at, question); ok {
		return said
	}
	f, err := p.disk.open(c.path)
	if err != nil {
		return ""
	}
	defer f.Close()
	found, err := search(io.LimitReader(f, maxSearched), pattern)
	if err == nil {
		p.machine.Said.keep(at, question, found)
	}
	return found
}

// search is the first match of a pattern, which begins with plain text: that is looked for
// first, since it is found much faster.
func search(from io.Reader, pattern catalogue.Pattern) (string, error) {
	plain, _ := pattern.LiteralPrefix()
	buffer := make([]byte, 0, searchedAtOnce+mostMatched)
	for {
		n, err := io.ReadFull(from, buffer[len(buffer):searchedAtOnce+mostMatched])
		buffer = buffer[:len(buffer)+n]
		last := err != nil
		for rest := buffer; ; {
			at := bytes.Index(rest, []byte(plain))
			if at < 0 || !last && len(rest)-at < mostMatched {
				break // what is cut off is looked at with what follows
			}
			around := rest[at:min(len(rest), at+mostMatched)]
			if found := joinedBytes(pattern, around); found != "" {
				return found, nil
			}
			rest = rest[at+len(plain):]
		}
		switch {
		case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
			return "", nil
		case err != nil:
			return "", err
		}
		kept := copy(buffer, buffer[len(buffer)-mostMatched:])
		buffer = buffer[:kept]
	}
}

// joinedBytes is what a pattern takes from the beginning of some bytes.
func joinedBytes(pattern catalogue.Pattern, text []byte) string {
	if at := pattern.FindIndex(text); at == nil || at[0] != 0 {
		return ""
	}
	return joined(pattern, string(text))
}
