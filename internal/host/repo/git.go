package repo

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strconv"
	"strings"
)

// objects is one git process that answers for objects by name. It runs no hook, no
// filter, no file-system monitor and no transport, and reads no configuration but the
// repository's own.
type objects struct {
	command *exec.Cmd
	in      io.WriteCloser
	out     *bufio.Reader
	stderr  bytes.Buffer
}

func startObjects(ctx context.Context, dir string) (*objects, error) {
	o := &objects{command: exec.CommandContext(ctx, "git",
		"-c", "core.fsmonitor=false", "-c", "core.hooksPath="+os.DevNull, "-c", "safe.directory=*",
		"-C", dir, "cat-file", "--batch-command")}
	o.command.Env = []string{
		"PATH=" + os.Getenv("PATH"), "HOME=" + os.DevNull, "LC_ALL=C",
		"GIT_CONFIG_NOSYSTEM=1", "GIT_CONFIG_GLOBAL=" + os.DevNull, "GIT_TERMINAL_PROMPT=0",
		"GIT_OPTIONAL_LOCKS=0", "GIT_NO_LAZY_FETCH=1", "GIT_ALLOW_PROTOCOL=none", "GIT_NO_REPLACE_OBJECTS=1",
	}
	o.command.Stderr = &o.stderr
	var err error
	if o.in, err = o.command.StdinPipe(); err != nil {
		return nil, err
	}
	out, err := o.command.StdoutPipe()
	if err != nil {
		return nil, err
	}
	o.out = bufio.NewReaderSize(out, 64<<10)
	if err := o.command.Start(); err != nil {
		return nil, fmt.Errorf("git cannot be started; install it and see that it is on PATH: %w", err)
	}
	return o, nil
}

func (o *objects) close() error {
	closed := o.in.Close()
	_, drained := io.Copy(io.Discard, o.out)
	return errors.Join(closed, drained, o.command.Wait())
}

var errMissing = errors.New("git does not have the object")

// info tells an object's name, kind and size in bytes.
func (o *objects) info(object string) (id, kind string, size int64, err error) {
	if _, err := fmt.Fprintf(o.in, "info %s\n", object); err != nil {
		return "", "", 0, o.failed(err)
	}
	return o.header()
}

func (o *objects) header() (id, kind string, size int64, err error) {
	header, err := o.out.ReadString('\n')
	if err != nil {
		return "", "", 0, o.failed(err)
	}
	fields := strings.Fields(header)
	if len(fields) != 3 {
		return "", "", 0, fmt.Errorf("%w: %s", errMissing, strings.TrimSpace(header))
	}
	size, err = strconv.ParseInt(fields[2], 10, 64)
	return fields[0], fields[1], size, err
}

// batch is how many objects are asked for before the first answer is read. Their
// requests fit into a pipe, so neither side waits for the other.
const batch = 48

// several reads up to batch objects in one go; those that cannot be read are left out.
func (o *objects) several(ids []string) (map[string][]byte, error) {
	var requests strings.Builder
	for _, id := range ids {
		requests.WriteString("contents " + id + "\n")
	}
	if _, err := io.WriteString(o.in, requests.String()); err != nil {
		return nil, o.failed(err)
	}
	out := make(map[string][]byte, len(ids))
	for range ids {
		id, _, data, err := o.answer()
		switch {
		case errors.Is(err, errMissing):
		case err != nil:
			return nil, err
		default:
			out[id] = data
		}
	}
	return out, nil
}

func (o *objects) failed(err error) error {
	o.in.Close()
	io.Copy(io.Discard, o.out)
	o.command.Wait()
	if text := strings.TrimSpace(o.stderr.String()); text != "" {
		first, _, _ := strings.Cut(text, "\n")
		return fmt.Errorf("git says: %s", strings.TrimPrefix(first, "fatal: "))
	}
	return fmt.Errorf("git stopped: %w", err)
}

// contents reads an object whole; ask its size first.
func (o *objects) contents(object string) (data []byte, kind string, err error) {
	if _, err := fmt.Fprintf(o.in, "contents %s\n", object); err != nil {
		return nil, "", o.failed(err)
	}
	_, kind, data, err = o.answer()
	return data, kind, err
}

// answer reads one whole object that was asked for.
func (o *objects) answer() (id, kind string, data []byte, err error) {
	id, kind, size, err := o.header()
	if err != nil {
		return "", "", nil, err
	}
	data = make([]byte, size+1) // with the line feed that ends it
	if _, err := io.ReadFull(o.out, data); err != nil {
		return "", "", nil, o.failed(err)
	}
	return id, kind, data[:size], nil
}
