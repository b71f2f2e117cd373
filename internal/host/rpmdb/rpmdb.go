// Package rpmdb reads what the RPM package manager keeps of what is installed. It keeps it
// in one of three kinds of files: an SQLite database, a table of slots of its own, and, on
// systems that are some years old, a hash of Berkeley DB. All are read as they lie there:
// nothing is written beside them, and no program is started.
package rpmdb

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"time"
)

// Package is a package that is installed.
type Package struct {
	Name    string
	Version string   // without epoch and release
	Release string   // what the packagers count
	Size    int64    // of its files, in bytes
	Files   []string // those in the folders that were asked for
}

// Limits of a database; a large desktop has some 4,000 packages of 30 KB each.
const (
	maxPackages = 50_000
	maxHeader   = 64 << 20 // bytes of what is kept of one package
	maxTime     = 10 * time.Second
)

// ErrUnknown is of a file that is none of the three kinds.
var ErrUnknown = errors.New("it is no database of packages")

// errTorn is of a file that does not hold what it says.
var errTorn = errors.New("it is damaged")

// Read reads the packages of a database. Of their files it gives those in a folder that
// "in" asks for. A package that is kept wrongly is left out; what was read up to an error is
// given with it.
func Read(ctx context.Context, file string, in func(folder string) bool) ([]Package, error) {
	info, err := os.Stat(file)
	switch {
	case err != nil:
		return nil, err
	case !info.Mode().IsRegular(): // a pipe would be waited for
		return nil, ErrUnknown
	}
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	head := make([]byte, 32)
	if _, err := f.ReadAt(head, 0); err != nil {
		return nil, ErrUnknown
	}
	ctx, cancel := context.WithTimeout(ctx, maxTime)
	defer cancel()
	var out []Package
	take := func(header []byte) error {
		if one, ok := parse(header, in); ok {
			out = append(out, one)
		}
		if len(out) > maxPackages {
			return fmt.Errorf("it has more than %d packages", maxPackages)
		}
		return ctx.Err()
	}
	switch {
	case string(head[:16]) == "SQLite format 3\x00":
		err = readSQLite(ctx, file, take)
	case string(head[:4]) == slotsMagic:
		err = readSlots(contentOf(f, info.Size()), take)
	case isHash(head):
		err = readHash(contentOf(f, info.Size()), take)
	default:
		err = ErrUnknown
	}
	return out, err
}

// content is what a file holds. All that is read of it is little more than it is long: what
// points to the same bytes again and again is not followed for ever.
type content struct {
	from       io.ReaderAt
	size, left int64
}

func contentOf(from io.ReaderAt, size int64) *content {
	return &content{from, size, 4*size + 1<<20}
}

// part reads so many bytes at an offset, none where they are not there.
func (c *content) part(at, length int64) ([]byte, bool) {
	if at < 0 || length < 0 || length > maxHeader || at > c.size-length || length > c.left {
		return nil, false
	}
	c.left -= length
	data := make([]byte, length)
	_, err := c.from.ReadAt(data, at)
	return data, err == nil
}

// The fields of a header that are read, and the kinds of their values.
const (
	tagName, tagVersion, tagRelease         = 1000, 1001, 1002
	tagSize, tagLongSize                    = 1009, 5009
	tagFolderOf, tagFileNames, tagFolders   = 1116, 1117, 1118
	kindNumber, kindLong, kindText, kindAll = 4, 5, 6, 8
)

// header is what is kept of one package: a table of fields, and their values behind it. All
// numbers in it are big-endian.
type header struct {
	fields map[uint32][3]uint32 // kind, offset and count by tag
	values []byte
}

// parse reads a header.
func parse(data []byte, in func(folder string) bool) (Package, bool) {
	if len(data) < 8 {
		return Package{}, false
	}
	fields, length := uint64(binary.BigEndian.Uint32(data)), uint64(binary.BigEndian.Uint32(data[4:]))
	if 8+16*fields+length > uint64(len(data)) {
		return Package{}, false
	}
	h := header{fields: map[uint32][3]uint32{}, values: data[8+16*fields:][:length]}
	for i := range fields {
		entry := data[8+16*i:]
		switch tag := binary.BigEndian.Uint32(entry); tag {
		case tagName, tagVersion, tagRelease, tagSize, tagLongSize, tagFolderOf, tagFileNames, tagFolders:
			h.fields[tag] = [3]uint32{binary.BigEndian.Uint32(entry[4:]), binary.BigEndian.Uint32(entry[8:]), binary.BigEndian.Uint32(entry[12:])}
		}
	}
	one := Package{Name: h.text(tagName), Version: h.text(tagVersion), Release: h.text(tagRelease), Files: h.files(in)}
	if sizes := h.numbers(tagLongSize); len(sizes) > 0 {
		one.Size = sizes[0]
	} else if sizes := h.numbers(tagSize); len(sizes) > 0 {
		one.Size = sizes[0]
	}
	return one, one.Name != "" && one.Version != ""
}

// text is the value of a field with one text.
func (h header) text(tag uint32) string {
	f, ok := h.fields[tag]
	if !ok || f[0] != kindText {
		return ""
	}
	text, _ := h.cString(f[1])
	return text
}

// cString is the text at an offset, and where it ends.
func (h header) cString(at uint32) (string, uint32) {
	for end := at; end < uint32(len(h.values)); end++ {
		if h.values[end] == 0 {
			return string(h.values[at:end]), end + 1
		}
	}
	return "", uint32(len(h.values))
}

// numbers are the values of a field.
func (h header) numbers(tag uint32) []int64 {
	f, ok := h.fields[tag]
	width := map[uint32]uint64{kindNumber: 4, kindLong: 8}[f[0]]
	if !ok || width == 0 || uint64(f[1])+width*uint64(f[2]) > uint64(len(h.values)) {
		return nil
	}
	out := make([]int64, f[2])
	for i := range out {
		at := h.values[uint64(f[1])+width*uint64(i):]
		if width == 8 {
			out[i] = int64(binary.BigEndian.Uint64(at))
		} else {
			out[i] = int64(binary.BigEndian.Uint32(at))
		}
	}
	return out
}

// files are the package's files in folders that are asked for. A header has the names of
// its folders once, and for each file its own name and the number of its folder.
func (h header) files(in func(folder string) bool) (out []string) {
	asked := map[int64]string{}
	f := h.fields[tagFolders]
	for i, at := int64(0), f[1]; i < int64(f[2]) && f[0] == kindAll && at < uint32(len(h.values)); i++ {
		var folder string
		if folder, at = h.cString(at); in(folder) {
			asked[i] = folder
		}
	}
	if len(asked) == 0 {
		return nil
	}
	folders := h.numbers(tagFolderOf)
	f = h.fields[tagFileNames]
	if f[0] != kindAll {
		return nil
	}
	at := f[1]
	for i := 0; i < len(folders) && i < int(f[2]) && at < uint32(len(h.values)); i++ {
		var name string
		name, at = h.cString(at)
		if folder, ok := asked[folders[i]]; ok && name != "" {
			out = append(out, folder+name)
		}
	}
	return out
}
