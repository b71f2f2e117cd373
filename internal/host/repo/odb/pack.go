package odb

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
)

// pack is a pack with its index (version 2): 256 counts by first byte, names in order,
// checksums, and places in the pack.
type pack struct {
	index  *os.File
	data   *os.File
	end    int64 // of the objects in the pack
	size   int   // bytes of a name
	count  int64
	counts [256]uint32
	whole  []byte // the index, where it is small
	base   int64  // where names begin
}

// smallIndex is up to which size an index is read whole, in bytes.
const smallIndex = 256 << 10

var errIndex = errors.New("its index is of another version than 2, or damaged; git gc makes it anew")

func openPack(root *os.Root, path string, size int) (*pack, error) {
	index, indexSize, err := openRegular(root, path+".idx")
	if err != nil {
		return nil, err
	}
	data, dataSize, err := openRegular(root, path+".pack")
	if err != nil {
		return nil, errors.Join(err, index.Close())
	}
	p := &pack{index: index, data: data, end: dataSize - int64(size), size: size}
	if err := p.readHead(indexSize); err != nil {
		return nil, errors.Join(err, p.close())
	}
	return p, nil
}

func (p *pack) close() error { return errors.Join(p.index.Close(), p.data.Close()) }

func (p *pack) readHead(indexSize int64) error {
	const head = 8 + 256*4
	if indexSize <= smallIndex {
		p.whole = make([]byte, indexSize)
		if _, err := p.index.ReadAt(p.whole, 0); err != nil {
			return err
		}
	}
	var buffer [head]byte
	if err := p.at(buffer[:], 0); err != nil {
		return errIndex
	}
	if !bytes.Equal(buffer[:8], []byte("\xfftOc\x00\x00\x00\x02")) {
		return errIndex
	}
	for i := range p.counts {
		p.counts[i] = binary.BigEndian.Uint32(buffer[8+4*i:])
		if i > 0 && p.counts[i] < p.counts[i-1] {
			return errIndex
		}
	}
	p.base, p.count = head, int64(p.counts[255])
	if head+p.count*int64(p.size+8) > indexSize {
		return errIndex
	}
	return nil
}

// at reads a part of the index.
func (p *pack) at(to []byte, offset int64) error {
	if p.whole != nil {
		if offset < 0 || offset+int64(len(to)) > int64(len(p.whole)) {
			return errIndex
		}
		copy(to, p.whole[offset:])
		return nil
	}
	_, err := p.index.ReadAt(to, offset)
	return err
}

// offset is where an object stands in the pack.
func (p *pack) offset(id ID) (int64, bool, error) {
	from, to := int64(0), int64(p.counts[id[0]])
	if id[0] > 0 {
		from = int64(p.counts[id[0]-1])
	}
	var name [32]byte
	for from < to {
		middle := (from + to) / 2
		if err := p.at(name[:p.size], p.base+middle*int64(p.size)); err != nil {
			return 0, false, err
		}
		switch order := bytes.Compare([]byte(id), name[:p.size]); {
		case order < 0:
			to = middle
		case order > 0:
			from = middle + 1
		default:
			offset, err := p.place(middle)
			return offset, true, err
		}
	}
	return 0, false, nil
}

// beginning adds the objects whose names begin so, in hexadecimal: two, where there are more.
func (p *pack) beginning(short string, to map[ID]bool) error {
	first, err := strconv.ParseUint(short[:2], 16, 8)
	if err != nil {
		return ErrMissing
	}
	from := int64(0)
	if first > 0 {
		from = int64(p.counts[first-1])
	}
	var name [32]byte
	for i := from; i < int64(p.counts[first]) && len(to) < 2; i++ {
		if err := p.at(name[:p.size], p.base+i*int64(p.size)); err != nil {
			return err
		}
		if id := ID(name[:p.size]); strings.HasPrefix(id.String(), short) {
			to[id] = true
		}
	}
	return nil
}

// place is where the n-th object stands: 31 bits, or a row of a further table.
func (p *pack) place(n int64) (int64, error) {
	places := p.base + p.count*int64(p.size+4)
	var short [4]byte
	if err := p.at(short[:], places+4*n); err != nil {
		return 0, err
	}
	offset := int64(binary.BigEndian.Uint32(short[:]))
	if offset>>31 == 0 {
		return offset, nil
	}
	var long [8]byte
	if err := p.at(long[:], places+4*p.count+8*(offset&(1<<31-1))); err != nil {
		return 0, err
	}
	return int64(binary.BigEndian.Uint64(long[:])), nil
}

// entry is the head of an object in a pack.
type entry struct {
	kind Kind
	size int64 // of what is packed: the object, or the delta
	data int64 // where the packed bytes begin
	base int64 // of a delta by offset, where its base stands
	name ID    // of a delta by name, its base
}

// entry reads the head of the object at an offset.
func (p *pack) entry(offset int64) (entry, error) {
	var buffer [64]byte
	if offset < 12 || offset >= p.end {
		return entry{}, ErrDamaged
	}
	n, err := p.data.ReadAt(buffer[:], offset)
	if err != nil && !errors.Is(err, io.EOF) {
		return entry{}, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	head := buffer[:n]
	if len(head) == 0 {
		return entry{}, ErrDamaged
	}
	e := entry{kind: Kind(head[0] >> 4 & 7), size: int64(head[0] & 15)}
	at := 1
	for shift := 4; head[at-1]&0x80 != 0; shift += 7 {
		if at == len(head) || shift > 53 {
			return entry{}, ErrDamaged
		}
		e.size |= int64(head[at]&0x7f) << shift
		at++
	}
	switch e.kind {
	case Commit, Tree, Blob, Tag:
	case nameDelta:
		if at+p.size > len(head) {
			return entry{}, ErrDamaged
		}
		e.name = ID(head[at : at+p.size])
		at += p.size
	case offsetDelta:
		back := int64(0)
		for i := 0; ; i++ {
			if at == len(head) || i > 8 {
				return entry{}, ErrDamaged
			}
			c := head[at]
			at++
			if back = back<<7 | int64(c&0x7f); c&0x80 == 0 {
				break
			}
			back++
		}
		if e.base = offset - back; back <= 0 || e.base < 12 {
			return entry{}, ErrDamaged
		}
	default:
		return entry{}, ErrDamaged
	}
	e.data = offset + int64(at)
	return e, nil
}

// packed gives the inflated bytes of an entry.
func (s *Store) packed(p *pack, e entry) (io.Reader, error) {
	return s.inflate.from(io.NewSectionReader(p.data, e.data, p.end-e.data))
}
