package odb

import (
	"bufio"
	"fmt"
	"io"
	"slices"
)

// maxChain is how many deltas may stand on each other; git makes at most 4,095.
const maxChain = 4096

// spot is a place in a pack.
type spot struct {
	pack   *pack
	offset int64
}

// chain follows an object's deltas to the object that is whole: the last of the spots.
func (s *Store) chain(p *pack, offset int64) ([]spot, []entry, error) {
	var spots []spot
	var entries []entry
	for range maxChain {
		s.work += entrySteps
		e, err := p.entry(offset)
		if err != nil {
			return nil, nil, err
		}
		spots, entries = append(spots, spot{p, offset}), append(entries, e)
		switch e.kind {
		case offsetDelta:
			offset = e.base
		case nameDelta:
			next, at, err := s.find(e.name)
			if err != nil || next == nil {
				return nil, nil, fmt.Errorf("%w: its delta has no base", ErrDamaged)
			}
			p, offset = next, at
		default:
			return spots, entries, nil
		}
	}
	return nil, nil, fmt.Errorf("%w: its deltas have no end", ErrDamaged)
}

func (s *Store) statPacked(p *pack, offset int64) (Kind, int64, error) {
	spots, entries, err := s.chain(p, offset)
	if err != nil {
		return 0, 0, err
	}
	kind := entries[len(entries)-1].kind
	if len(spots) == 1 {
		return kind, entries[0].size, nil
	}
	content, err := s.packed(p, entries[0])
	if err != nil {
		return 0, 0, err
	}
	head := bufio.NewReaderSize(io.LimitReader(content, 20), 20)
	if _, err := uvarint(head); err != nil {
		return 0, 0, err
	}
	size, err := uvarint(head)
	return kind, size, err
}

func (s *Store) readPacked(p *pack, offset int64, limit int64) (Kind, []byte, error) {
	spots, entries, err := s.chain(p, offset)
	if err != nil {
		return 0, nil, err
	}
	if slices.ContainsFunc(spots, func(at spot) bool { return s.dear[at] }) {
		return 0, nil, ErrWork // whatever stands on that takes more still
	}
	begun := s.work
	last := len(spots) - 1
	kind := entries[last].kind
	var data []byte
	from := last
	for i := range spots { // the nearest base that is still held
		if held, ok := s.bases.get(spots[i]); ok {
			data, from = held, i-1
			break
		}
	}
	if data == nil {
		if data, err = s.inflated(spots[last].pack, entries[last], limit); err != nil {
			return 0, nil, err
		}
		s.bases.put(spots[last], data)
		from = last - 1
	}
	for i := from; i >= 0; i-- {
		delta, err := s.inflated(spots[i].pack, entries[i], limit)
		if err != nil {
			return 0, nil, err
		}
		if data, err = apply(data, delta, limit); err != nil {
			return 0, nil, err
		}
		if s.work += int64(len(data)) / copiedAStep; s.work-begun > maxWork {
			if s.dear == nil {
				s.dear = map[spot]bool{}
			}
			s.dear[spots[i]] = true
			return 0, nil, ErrWork
		}
		s.bases.put(spots[i], data)
	}
	if int64(len(data)) > limit {
		return 0, nil, ErrTooLarge
	}
	return kind, data, nil
}

// inflated reads what an entry holds.
func (s *Store) inflated(p *pack, e entry, limit int64) ([]byte, error) {
	if e.size > limit {
		return nil, ErrTooLarge
	}
	content, err := s.packed(p, e)
	if err != nil {
		return nil, err
	}
	s.work += e.size
	data := make([]byte, e.size)
	if _, err := io.ReadFull(content, data); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	return data, nil
}

// uvarint reads a size: seven bits a byte, the lowest first.
func uvarint(r io.ByteReader) (int64, error) {
	n := int64(0)
	for shift := 0; shift < 56; shift += 7 {
		c, err := r.ReadByte()
		if err != nil {
			return 0, ErrDamaged
		}
		if n |= int64(c&0x7f) << shift; c&0x80 == 0 {
			return n, nil
		}
	}
	return 0, ErrDamaged
}

// deltaReader reads a delta's bytes.
type deltaReader struct {
	rest []byte
}

func (d *deltaReader) ReadByte() (byte, error) {
	if len(d.rest) == 0 {
		return 0, ErrDamaged
	}
	c := d.rest[0]
	d.rest = d.rest[1:]
	return c, nil
}

// number reads the bytes of a number that the bits of a mask name.
func (d *deltaReader) number(mask byte, bytes int) (int, error) {
	n := 0
	for i := range bytes {
		if mask>>i&1 == 0 {
			continue
		}
		c, err := d.ReadByte()
		if err != nil {
			return 0, err
		}
		n |= int(c) << (8 * i)
	}
	return n, nil
}

// apply makes an object of its base and a delta: parts of the base, and bytes of its own.
func apply(base, delta []byte, limit int64) ([]byte, error) {
	d := &deltaReader{delta}
	was, err := uvarint(d)
	if err != nil || was != int64(len(base)) {
		return nil, ErrDamaged
	}
	size, err := uvarint(d)
	if err != nil {
		return nil, err
	}
	if size > limit {
		return nil, ErrTooLarge
	}
	out := make([]byte, 0, size)
	for len(d.rest) > 0 {
		op, _ := d.ReadByte()
		part := d.rest
		if op&0x80 == 0 {
			if op == 0 || int(op) > len(d.rest) {
				return nil, ErrDamaged
			}
			part, d.rest = d.rest[:op], d.rest[op:]
		} else {
			from, err := d.number(op, 4)
			if err != nil {
				return nil, err
			}
			length, err := d.number(op>>4&7, 3)
			if err != nil {
				return nil, err
			}
			if length == 0 {
				length = 1 << 16
			}
			if from+length > len(base) {
				return nil, ErrDamaged
			}
			part = base[from : from+length]
		}
		if len(out)+len(part) > cap(out) {
			return nil, ErrDamaged
		}
		out = append(out, part...)
	}
	if int64(len(out)) != size {
		return nil, ErrDamaged
	}
	return out, nil
}

// bases holds what deltas were made of lately: folders of one repository mostly stand on
// each other.
type bases struct {
	held  map[spot][]byte
	bytes int
}

const (
	maxBases = 8 << 20   // bytes held
	maxBase  = 256 << 10 // bytes of one
)

func (b *bases) get(at spot) ([]byte, bool) {
	data, ok := b.held[at]
	return data, ok
}

func (b *bases) put(at spot, data []byte) {
	if len(data) > maxBase {
		return
	}
	if b.bytes+len(data) > maxBases || b.held == nil {
		b.held, b.bytes = map[spot][]byte{}, 0
	}
	if _, known := b.held[at]; !known {
		b.held[at] = data
		b.bytes += len(data)
	}
}
