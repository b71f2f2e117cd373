package repo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"time"
)

// gitLimit is how long git may take to follow a ref.
const gitLimit = 5 * time.Second

// askGit has git look up a ref that is kept in tables. It is given a repository of Wexo's own
// making, with copies of the tables and nothing else: no configuration, object, hook or link of
// the repository's reaches it. It does not outlive this process.
func askGit(ctx context.Context, at layout, name string) (string, error) {
	if !isRef(name) {
		return "", errNoRef
	}
	own, err := os.MkdirTemp("", "wexo-refs-")
	if err != nil {
		return "", fmt.Errorf("there is no place for its refs: %w", err)
	}
	defer os.RemoveAll(own)
	if err := at.copyTables(own); err != nil {
		return "", err
	}
	ctx, cancel := context.WithTimeout(ctx, gitLimit)
	defer cancel()
	cmd := exec.CommandContext(ctx, "git", "--git-dir="+own, "--bare", "rev-parse", "--verify", "--quiet", "--end-of-options", name)
	cmd.Dir = own
	cmd.WaitDelay = time.Second
	cmd.Env = []string{
		"PATH=" + os.Getenv("PATH"), "HOME=" + os.DevNull, "LC_ALL=C",
		"GIT_DIR=" + own, "GIT_CEILING_DIRECTORIES=" + own,
		"GIT_CONFIG_NOSYSTEM=1", "GIT_CONFIG_GLOBAL=" + os.DevNull, "GIT_TERMINAL_PROMPT=0",
		"GIT_OPTIONAL_LOCKS=0", "GIT_NO_LAZY_FETCH=1", "GIT_ALLOW_PROTOCOL=none", "GIT_NO_REPLACE_OBJECTS=1",
	}
	var out, problem bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &problem
	err = Tied(cmd, func() {})
	id := strings.TrimSpace(out.String())
	switch {
	case ctx.Err() != nil:
		return "", fmt.Errorf("git did not follow %q within %s", name, gitLimit)
	case errors.Is(err, exec.ErrNotFound):
		return "", fmt.Errorf("its refs are kept in tables, which only git reads, and git cannot be started; install it and see that it is on PATH")
	case err != nil && problem.Len() > 0:
		return "", errors.New("its refs are kept in tables that git cannot read; a newer git may (2.45 and later do)")
	case err != nil:
		return "", errNoRef
	case !objectName.MatchString(id):
		return "", fmt.Errorf("git leads from %q to nothing that it names", name)
	}
	return id, nil
}

const (
	// maxTables is how many tables of refs are copied, and maxTabled of how many bytes in all.
	maxTables = 1_000
	maxTabled = 64 << 20
)

// copyTables lays out a repository that has the refs and no more.
func (at layout) copyTables(own string) error {
	format := "sha1"
	if at.nameSize() == 32 {
		format = "sha256"
	}
	files := map[string][]byte{
		"config": []byte("[core]\n\trepositoryformatversion = 1\n\tbare = true\n[extensions]\n\trefstorage = reftable\n\tobjectformat = " + format + "\n"),
		"HEAD":   []byte("ref: refs/heads/.invalid\n"),
	}
	list, err := small(at.common, "reftable/tables.list")
	if err != nil {
		return err
	}
	files["reftable/tables.list"] = list
	total := 0
	for name := range strings.FieldsSeq(string(list)) {
		if !tableName.MatchString(name) || len(files) > maxTables {
			return errors.New("its tables of refs cannot be understood")
		}
		data, err := small(at.common, "reftable/"+name)
		if err != nil {
			return err
		}
		if total += len(data); total > maxTabled {
			return fmt.Errorf("its tables of refs have more than %d MB", maxTabled>>20)
		}
		files["reftable/"+name] = data
	}
	for _, dir := range []string{"objects", "refs", "reftable"} {
		if err := os.Mkdir(filepath.Join(own, dir), 0o700); err != nil {
			return fmt.Errorf("there is no place for its refs: %w", err)
		}
	}
	for name, data := range files {
		if err := os.WriteFile(filepath.Join(own, filepath.FromSlash(name)), data, 0o600); err != nil {
			return fmt.Errorf("there is no place for its refs: %w", err)
		}
	}
	return nil
}

// tableName is how git calls a table of refs.
var tableName = regexp.MustCompile(`^[0-9A-Za-zx_-]+\.ref$`)
