package repo

import (
	"bytes"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"strings"
)

// Some repositories keep their refs in tables: files that are sorted and packed, the newer over the
// older, as gitformat-reftable describes. They are read here, as far as refs go.

const (
	// maxTables is how many tables a repository may have, and maxTabled how many bytes in all.
	maxTables = 1_000
	maxTabled = 64 << 20
	// maxTabledRefs is how many refs one table may have.
	maxTabledRefs = 2_000_000
)

var (
	errTables = errors.New("its tables of refs cannot be understood")
	// tableName is how git calls a table of refs.
	tableName = regexp.MustCompile(`^[0-9A-Za-z_-]+\.ref$`)
)

// tabled is what a table says of a ref: an object, or another ref; neither where it is gone.
type tabled struct{ id, leads string }

// inTables looks a ref up in the tables of a git folder.
func inTables(folder, name string) (tabled, error) {
	list, err := small(folder, "reftable/tables.list")
	if err != nil {
		return tabled{}, err
	}
	var found tabled
	total := 0
	for i, table := range strings.Fields(string(list)) {
		if !tableName.MatchString(table) || i == maxTables {
			return tabled{}, errTables
		}
		data, err := small(folder, "reftable/"+table)
		if err != nil {
			return tabled{}, err
		}
		if total += len(data); total > maxTabled {
			return tabled{}, fmt.Errorf("its tables of refs have more than %d MB", maxTabled>>20)
		}
		one, there, err := lookUp(data, name)
		if err != nil {
			return tabled{}, err
		}
		if there { // the newest counts
			found = one
		}
	}
	return found, nil
}

// lookUp finds a ref in a table.
func lookUp(data []byte, name string) (out tabled, there bool, err error) {
	const header = 24
	if len(data) < header || !bytes.HasPrefix(data, []byte("REFT")) {
		return out, false, errTables
	}
	size, begins := 20, header
	switch version := data[4]; {
	case version == 2 && len(data) >= header+4:
		begins = header + 4
		if string(data[header:begins]) == "s256" {
			size = 32
		}
	case version != 1:
		return out, false, errTables
	}
	aligned := int(uint24(data[5:]))
	for at, refs := 0, 0; begins+4 <= len(data) && data[begins] == 'r'; {
		length := int(uint24(data[begins+1:])) // of the block, with the table's header in the first
		if length < begins-at+4+5 || at+length > len(data) {
			return out, false, errTables
		}
		block := data[at : at+length]
		restarts := int(binary.BigEndian.Uint16(block[length-2:]))
		end := length - 2 - 3*restarts
		if end < begins-at+4 {
			return out, false, errTables
		}
		one, found, n, err := inBlock(block[begins-at+4:end], name, size)
		if found || err != nil {
			return one, found, err
		}
		if refs += n; refs > maxTabledRefs {
			return out, false, errTables
		}
		if at += length; aligned > 0 {
			at = (at + aligned - 1) / aligned * aligned
		}
		begins = at
	}
	return out, false, nil
}

func uint24(b []byte) uint32 { return uint32(b[0])<<16 | uint32(b[1])<<8 | uint32(b[2]) }

// inBlock finds a ref among the records of a block, and tells how many it looked at.
func inBlock(rest []byte, name string, size int) (out tabled, found bool, n int, err error) {
	var key []byte
	take := func(length int) []byte {
		if err != nil || length < 0 || length > len(rest) {
			err = errTables
			return nil
		}
		part := rest[:length]
		rest = rest[length:]
		return part
	}
	number := func() int {
		value, length := packedNumber(rest)
		if length == 0 {
			err = errTables
			return 0
		}
		take(length)
		return value
	}
	for len(rest) > 0 {
		kept, suffix := number(), number()
		if err != nil || kept > len(key) {
			return out, false, n, errTables
		}
		key = append(key[:kept:kept], take(suffix>>3)...)
		number() // when it was written
		one := tabled{}
		switch suffix & 7 {
		case 0: // it is gone
		case 1:
			one.id = hex.EncodeToString(take(size))
		case 2:
			one.id = hex.EncodeToString(take(size))
			take(size) // what the tag leads to
		case 3:
			one.leads = string(take(number()))
		default:
			return out, false, n, errTables
		}
		if err != nil {
			return out, false, n, err
		}
		if n++; string(key) == name {
			return one, true, n, nil
		}
	}
	return out, false, n, nil
}

// packedNumber reads a number as tables have it, and how many bytes it takes; 0 where it does not end.
func packedNumber(data []byte) (value, length int) {
	for i, b := range data {
		if i > 4 {
			return 0, 0
		}
		if i > 0 {
			value++
		}
		value = value<<7 | int(b&0x7f)
		if b&0x80 == 0 {
			return value, i + 1
		}
	}
	return 0, 0
}
