package origin

import (
	"bytes"
	"encoding/binary"
	"errors"
	"io/fs"
	"path"
	"sort"
	"strings"
)

// maxIndex is the largest index of a git repository that is read, in bytes.
const maxIndex = 64 << 20

// errIndex is of an index that cannot be understood.
var errIndex = errors.New("its index cannot be understood")

// index is what a git repository tracks: paths, sorted. Those that end in a slash are folders
// that are tracked whole.
type index struct{ paths []string }

// tracks reports whether the repository tracks a file.
func (x *index) tracks(file string) bool {
	if x.has(file) {
		return true
	}
	for dir := path.Dir(file); dir != "."; dir = path.Dir(dir) {
		if x.has(dir+"/") || x.has(dir) { // a folder of a sparse index, or a submodule
			return true
		}
	}
	return false
}

func (x *index) has(name string) bool {
	i := sort.SearchStrings(x.paths, name)
	return i < len(x.paths) && x.paths[i] == name
}

// readIndex reads the index in a git folder; one that is not there tracks nothing.
func readIndex(files fs.FS, gitDir string) (*index, error) {
	data, err := readFile(files, path.Join(gitDir, "index"), maxIndex)
	if errors.Is(err, fs.ErrNotExist) {
		return &index{}, nil
	}
	if err != nil {
		return nil, err
	}
	out, shared, err := parseIndex(data)
	if err != nil {
		return nil, err
	}
	if shared != "" { // most of it stands in another file
		data, err := readFile(files, path.Join(gitDir, "sharedindex."+shared), maxIndex)
		if err != nil {
			return nil, errIndex
		}
		base, further, err := parseIndex(data)
		if err != nil || further != "" {
			return nil, errIndex
		}
		out.paths = append(out.paths, base.paths...) // what the newer part deletes counts as tracked still
	}
	sort.Strings(out.paths)
	return out, nil
}

const (
	indexHeader = 12
	// entryFixed is how long an entry is before its extended flags and its path.
	entryFixed = 62
	hashLength = 20
)

// parseIndex reads the paths of an index of git's versions 2 to 4, and the name of the shared
// index that it is a part of. Of a repository with longer hashes the entries are longer.
func parseIndex(data []byte) (out *index, shared string, err error) {
	for _, hash := range []int{hashLength, 32} {
		if out, shared, err = parseEntries(data, hash); err == nil {
			return out, shared, nil
		}
	}
	return nil, "", err
}

func parseEntries(data []byte, hash int) (*index, string, error) {
	if len(data) < indexHeader+hash || !bytes.HasPrefix(data, []byte("DIRC")) {
		return nil, "", errIndex
	}
	version, count := binary.BigEndian.Uint32(data[4:]), int(binary.BigEndian.Uint32(data[8:]))
	if version < 2 || version > 4 || count > len(data)/(entryFixed-hashLength) {
		return nil, "", errIndex
	}
	out := &index{paths: make([]string, 0, count)}
	body, before := data[indexHeader:len(data)-hash], ""
	for range count {
		name, size, ok := parseEntry(body, version, hash, before)
		if !ok {
			return nil, "", errIndex
		}
		out.paths = append(out.paths, name)
		body, before = body[size:], name
	}
	for len(body) >= 8 { // extensions
		name, size := string(body[:4]), int(binary.BigEndian.Uint32(body[4:]))
		if size < 0 || size > len(body)-8 || !isExtension(name) {
			return nil, "", errIndex
		}
		if name == "link" && size >= hash {
			return out, hex(body[8 : 8+hash]), nil
		}
		body = body[8+size:]
	}
	if len(body) > 0 {
		return nil, "", errIndex
	}
	return out, "", nil
}

func isExtension(name string) bool {
	return !strings.ContainsFunc(name, func(r rune) bool { return r < 'A' || r > 'Z' && r < 'a' || r > 'z' })
}

func hex(data []byte) string {
	const digits = "0123456789abcdef"
	out := make([]byte, 0, 2*len(data))
	for _, b := range data {
		out = append(out, digits[b>>4], digits[b&15])
	}
	return string(out)
}

// parseEntry is the path of the first entry, and how long the entry is.
func parseEntry(body []byte, version uint32, hash int, before string) (name string, size int, ok bool) {
	fixed := entryFixed - hashLength + hash
	if len(body) < fixed {
		return "", 0, false
	}
	mode := binary.BigEndian.Uint32(body[24:])
	flags := binary.BigEndian.Uint16(body[fixed-2:])
	if flags&0x4000 != 0 { // extended
		fixed += 2
	}
	if len(body) < fixed {
		return "", 0, false
	}
	rest, kept := body[fixed:], ""
	if version == 4 { // paths are written as what differs from the one before
		cut, n := offset(rest)
		if n == 0 || cut > len(before) {
			return "", 0, false
		}
		kept, rest, fixed = before[:len(before)-cut], rest[n:], fixed+n
	}
	end := bytes.IndexByte(rest, 0)
	if end < 0 {
		return "", 0, false
	}
	name, size = kept+string(rest[:end]), fixed+end+1
	if version < 4 { // filled up to eight bytes
		size = (fixed + end + 8) &^ 7
	}
	if size > len(body) {
		return "", 0, false
	}
	if mode&0o170000 == 0o040000 && !strings.HasSuffix(name, "/") {
		name += "/"
	}
	return name, size, true
}

// offset reads a number of git's packs, and how many bytes it takes; 0 where it does not end.
func offset(data []byte) (value, n int) {
	for i, b := range data {
		if i > 4 {
			return 0, 0
		}
		value = value<<7 | int(b&0x7f)
		if b&0x80 == 0 {
			return value, i + 1
		}
		value++
	}
	return 0, 0
}
