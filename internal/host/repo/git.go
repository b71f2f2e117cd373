package repo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// gitLimit is how long git may take to follow a ref.
const gitLimit = 5 * time.Second

// askGit has git follow a ref that is an expression, or kept in a way that only git reads.
// It is told its folders, so it looks for none; it runs no hook, no filter, no file-system
// monitor and no transport, and reads no configuration but the repository's own. It does
// not outlive this process.
func askGit(ctx context.Context, at layout, name string) (string, error) {
	if strings.HasPrefix(name, "-") || strings.ContainsAny(name, "\n\r\x00") {
		return "", fmt.Errorf("%q is no ref", name)
	}
	for _, file := range []string{"config", "config.worktree", "packed-refs", "shallow"} { // git would wait for a pipe
		for _, folder := range []string{at.git, at.common} {
			if _, err := small(filepath.Join(folder, file)); err != nil {
				return "", err
			}
		}
	}
	ctx, cancel := context.WithTimeout(ctx, gitLimit)
	defer cancel()
	cmd := exec.CommandContext(ctx, "git", "-c", "core.fsmonitor=false", "-c", "core.hooksPath="+os.DevNull, "-c", "safe.directory=*",
		"--git-dir="+at.git, "--bare", "rev-parse", "--verify", "--quiet", "--end-of-options", name+"^{commit}")
	cmd.Dir = at.git
	cmd.WaitDelay = time.Second
	cmd.Env = []string{
		"PATH=" + os.Getenv("PATH"), "HOME=" + os.DevNull, "LC_ALL=C",
		"GIT_DIR=" + at.git, "GIT_COMMON_DIR=" + at.common, "GIT_CEILING_DIRECTORIES=" + at.git,
		"GIT_CONFIG_NOSYSTEM=1", "GIT_CONFIG_GLOBAL=" + os.DevNull, "GIT_TERMINAL_PROMPT=0",
		"GIT_OPTIONAL_LOCKS=0", "GIT_NO_LAZY_FETCH=1", "GIT_ALLOW_PROTOCOL=none", "GIT_NO_REPLACE_OBJECTS=1",
	}
	var out, problem bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &problem
	err := Tied(cmd, func() {})
	id := strings.TrimSpace(out.String())
	switch {
	case ctx.Err() != nil:
		return "", fmt.Errorf("git did not follow %q within %s", name, gitLimit)
	case errors.Is(err, exec.ErrNotFound):
		return "", fmt.Errorf("only git can follow %q, and git cannot be started; install it and see that it is on PATH", name)
	case err != nil && problem.Len() > 0:
		first, _, _ := strings.Cut(strings.TrimSpace(problem.String()), "\n")
		return "", fmt.Errorf("git says: %s", strings.TrimPrefix(first, "fatal: "))
	case err != nil:
		return "", errNoRef
	case !objectName.MatchString(id):
		return "", fmt.Errorf("git leads from %q to nothing that it names", name)
	}
	return id, nil
}
