package view

import (
	"bytes"
	"compress/gzip"
	"errors"
	"sync"
)

// Encoded is an answer that is the same for everybody who asks for it, made once.
type Encoded struct {
	once  sync.Once
	plain []byte
	small []byte // compressed
	err   error
}

// Get gives the answer, which encode makes the first time.
func (e *Encoded) Get(encode func() ([]byte, error)) (plain, compressed []byte, err error) {
	e.once.Do(func() {
		if e.plain, e.err = encode(); e.err != nil {
			return
		}
		var b bytes.Buffer
		w := gzip.NewWriter(&b)
		_, err := w.Write(e.plain)
		e.err = errors.Join(err, w.Close())
		e.small = b.Bytes()
	})
	return e.plain, e.small, e.err
}

// EncodedMatrix is the matrix as it is sent.
func (v *View) EncodedMatrix() *Encoded { return &v.encoded }
