package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
)

// What is taken in of what a command is pointed at, in bytes.
const (
	maxConfig    = 1 << 20
	maxInventory = 5 << 20 // as the service takes it
)

// readGiven reads a file that a command was given, which may be a pipe that nothing is ever
// written to or a device that never ends.
func readGiven(ctx context.Context, name string, most int64) ([]byte, error) {
	type outcome struct {
		data []byte
		err  error
	}
	read := make(chan outcome, 1)
	go func() { // may wait for ever; it ends with the program
		data, err := readAtMost(name, most)
		read <- outcome{data, err}
	}()
	select {
	case got := <-read:
		if got.err != nil {
			return nil, usage("%v", got.err)
		}
		return got.data, nil
	case <-ctx.Done():
		return nil, failed("stopped while %s was read", name)
	}
}

func readAtMost(name string, most int64) ([]byte, error) {
	f, err := os.Open(name)
	var path *fs.PathError
	if errors.As(err, &path) {
		return nil, fmt.Errorf("%s: %w", name, path.Err)
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, most+1))
	switch {
	case errors.As(err, &path):
		return nil, fmt.Errorf("%s: %w", name, path.Err)
	case err != nil:
		return nil, fmt.Errorf("%s: %w", name, err)
	case int64(len(data)) > most:
		return nil, fmt.Errorf("%s: it is larger than %d MB, and so not what is expected here", name, most>>20)
	}
	return data, nil
}
