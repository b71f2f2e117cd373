package image

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"io"

	"github.com/klauspost/compress/zstd"
)

// maxWindow is how much a reader of Zstandard may hold, in bytes: what is compressed with a
// larger window was made for it.
const maxWindow = 128 << 20

// The first bytes of what is compressed.
var (
	gzipMagic = []byte{0x1f, 0x8b}
	zstdMagic = []byte{0x28, 0xb5, 0x2f, 0xfd}
)

// isCompressed reports whether a text that begins so is compressed in a way that is read.
func isCompressed(head []byte) bool {
	return bytes.HasPrefix(head, gzipMagic) || bytes.HasPrefix(head, zstdMagic)
}

// decompressed reads what is compressed with gzip or Zstandard, and anything else as it is.
func decompressed(from io.Reader) (io.ReadCloser, error) {
	buffered := bufio.NewReaderSize(from, 1<<16)
	head, _ := buffered.Peek(len(zstdMagic)) // fewer where there are no more
	switch {
	case bytes.HasPrefix(head, gzipMagic):
		return gzip.NewReader(buffered)
	case bytes.HasPrefix(head, zstdMagic):
		z, err := zstd.NewReader(buffered, zstd.WithDecoderMaxWindow(maxWindow), zstd.WithDecoderConcurrency(1))
		if err != nil {
			return nil, err
		}
		return z.IOReadCloser(), nil
	}
	return io.NopCloser(buffered), nil
}
