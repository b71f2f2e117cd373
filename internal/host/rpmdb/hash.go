package rpmdb

import "encoding/binary"

// A hash of Berkeley DB is pages of one size. The first describes the file, the others begin
// with 26 bytes of their own: pages of entries, where keys and values alternate, and pages
// over which a long value goes on. Numbers are as the machine that wrote it has them.
const (
	hashMagic    = 0x061561
	atMagic      = 12 // in the first page
	atPageSize   = 20
	pageHead     = 26
	atNext       = 16 // in every page
	atCount      = 20
	atFree       = 22 // of a page that goes on: how many bytes it holds
	atKind       = 25
	pageUnsorted = 2
	pageOn       = 7
	pageHash     = 13
	entryHere    = 1
	entryOn      = 3
)

// hash is such a file.
type hash struct {
	*content
	order    binary.ByteOrder
	pageSize int64
}

// orderOf is the order of bytes in which a file's first page says that it is a hash.
func orderOf(head []byte) binary.ByteOrder {
	switch {
	case len(head) < atPageSize+4:
		return nil
	case binary.LittleEndian.Uint32(head[atMagic:]) == hashMagic:
		return binary.LittleEndian
	case binary.BigEndian.Uint32(head[atMagic:]) == hashMagic:
		return binary.BigEndian
	}
	return nil
}

func isHash(head []byte) bool { return orderOf(head) != nil }

func readHash(file *content, take func([]byte) error) error {
	head, ok := file.part(0, atPageSize+4)
	if !ok || !isHash(head) {
		return errTorn
	}
	h := hash{file, orderOf(head), 0}
	h.pageSize = int64(h.order.Uint32(head[atPageSize:]))
	if h.pageSize < 512 || h.pageSize > 1<<16 {
		return errTorn
	}
	for number := int64(1); (number+1)*h.pageSize <= h.size; number++ {
		page, ok := h.page(number)
		if !ok || page[atKind] != pageHash && page[atKind] != pageUnsorted {
			continue
		}
		for _, value := range h.values(page) {
			if err := take(value); err != nil {
				return err
			}
		}
	}
	return nil
}

func (h hash) page(number int64) ([]byte, bool) {
	return h.part(number*h.pageSize, h.pageSize)
}

// values are those of a page of entries. Each lies before the one that was put there
// earlier, from the page's end on.
func (h hash) values(page []byte) (out [][]byte) {
	count := int(h.order.Uint16(page[atCount:]))
	if pageHead+2*count > len(page) {
		return nil
	}
	offset := func(i int) int { return int(h.order.Uint16(page[pageHead+2*i:])) }
	for i := 1; i < count; i += 2 {
		at, end := offset(i), offset(i-1)
		if at < pageHead || at >= end || end > len(page) {
			continue
		}
		entry := page[at:end]
		switch {
		case entry[0] == entryHere:
			out = append(out, entry[1:])
		case entry[0] == entryOn && len(entry) >= 12:
			if value, ok := h.long(int64(h.order.Uint32(entry[4:])), int64(h.order.Uint32(entry[8:]))); ok {
				out = append(out, value)
			}
		}
	}
	return out
}

// long is a value of so many bytes that begins on a page of its own.
func (h hash) long(number, length int64) ([]byte, bool) {
	if length > maxHeader || length > h.size {
		return nil, false
	}
	value := make([]byte, 0, length)
	for int64(len(value)) < length {
		page, ok := h.page(number)
		if !ok || page[atKind] != pageOn {
			return nil, false
		}
		held := int64(h.order.Uint16(page[atFree:]))
		if held == 0 || pageHead+held > h.pageSize {
			return nil, false
		}
		value = append(value, page[pageHead:pageHead+held]...)
		number = int64(h.order.Uint32(page[atNext:]))
	}
	return value[:length], true
}
