package odb

import (
	"bufio"
	"compress/zlib"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"strconv"
	"strings"
)

// inflater reads what zlib packed, over and over with the same memory.
type inflater struct {
	buffer *bufio.Reader
	reader io.ReadCloser
}

func (z *inflater) from(r io.Reader) (io.Reader, error) {
	if z.buffer == nil {
		z.buffer = bufio.NewReaderSize(r, 4096)
	} else {
		z.buffer.Reset(r)
	}
	var err error
	if z.reader == nil {
		z.reader, err = zlib.NewReader(z.buffer)
	} else {
		err = z.reader.(zlib.Resetter).Reset(z.buffer, nil)
	}
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	return z.reader, nil
}

// longestHeader is longer than any header of a loose object, in bytes.
const longestHeader = 32

// loose calls do with what a loose object's header says, and its content.
func (s *Store) loose(id ID, do func(Kind, int64, io.Reader) error) error {
	name := id.String()
	if len(id) != s.size {
		return ErrMissing
	}
	for _, root := range s.folders {
		f, _, err := openRegular(root, filepath.Join(name[:2], name[2:]))
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return err
		}
		defer f.Close()
		content, err := s.inflate.from(f)
		if err != nil {
			return err
		}
		kind, size, err := looseHeader(content)
		if err != nil {
			return err
		}
		return do(kind, size, content)
	}
	return ErrMissing
}

// looseHeader reads "kind size" and the zero byte behind it.
func looseHeader(r io.Reader) (Kind, int64, error) {
	var header []byte
	one := make([]byte, 1)
	for len(header) < longestHeader {
		if _, err := io.ReadFull(r, one); err != nil {
			return 0, 0, fmt.Errorf("%w: %w", ErrDamaged, err)
		}
		if one[0] == 0 {
			word, number, _ := strings.Cut(string(header), " ")
			size, err := strconv.ParseInt(number, 10, 64)
			if kind := kindNames[word]; kind != 0 && err == nil && size >= 0 {
				return kind, size, nil
			}
			break
		}
		header = append(header, one[0])
	}
	return 0, 0, ErrDamaged
}
