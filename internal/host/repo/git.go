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

// ask sends a command ("info" or "contents") and reads the header of the answer.
func (o *objects) ask(command, object string) (id, kind string, size int64, err error) {
	if _, err := fmt.Fprintf(o.in, "%s %s\n", command, object); err != nil {
		return "", "", 0, o.failed(err)
	}
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

func (o *objects) info(object string) (id, kind string, size int64, err error) {
	return o.ask("info", object)
}

// contents reads an object whole; ask its size first.
func (o *objects) contents(object string) (data []byte, kind string, err error) {
	_, kind, size, err := o.ask("contents", object)
	if err != nil {
		return nil, "", err
	}
	data = make([]byte, size+1) // with the line feed that ends it
	if _, err := io.ReadFull(o.out, data); err != nil {
		return nil, "", o.failed(err)
	}
	return data[:size], kind, nil
}
