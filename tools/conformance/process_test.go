package conformance

import (
	"bytes"
	"embed"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"

	hashicorp "github.com/hashicorp/go-version"
	goversion "go/version"
	xsemver "golang.org/x/mod/semver"
)

//go:embed references
var sources embed.FS

// program answers through a command that reads all questions and writes all answers;
// prepare gives the command, with the references' sources in dir.
func program(prepare func(dir string) (*exec.Cmd, error)) func([]question) ([]string, error) {
	return func(questions []question) ([]string, error) {
		dir, err := os.MkdirTemp("", "conformance")
		if err != nil {
			return nil, err
		}
		defer os.RemoveAll(dir)
		if err := os.CopyFS(dir, sources); err != nil {
			return nil, err
		}
		cmd, err := prepare(filepath.Join(dir, "references"))
		if err != nil {
			return nil, err
		}
		var in, problems bytes.Buffer
		for _, q := range questions {
			fmt.Fprintf(&in, "%s\t%s\t%s\n", q.kind, q.x, q.y)
		}
		cmd.Stdin, cmd.Stderr = &in, &problems
		out, err := cmd.Output()
		if err != nil {
			return nil, fmt.Errorf("%s: %w: %s", cmd.Args[0], err, problems.String())
		}
		return strings.Split(strings.TrimSuffix(string(out), "\n"), "\n"), nil
	}
}

// script answers through an interpreter and one of the references' sources.
func script(command string, arguments ...string) func([]question) ([]string, error) {
	return program(func(dir string) (*exec.Cmd, error) {
		cmd := exec.Command(command, arguments...)
		cmd.Dir = dir
		return cmd, nil
	})
}

// npm answers with the library that npm itself runs on.
var npm = program(func(dir string) (*exec.Cmd, error) {
	found, err := exec.LookPath("npm")
	if err != nil {
		return nil, err
	}
	real, err := filepath.EvalSymlinks(found)
	if err != nil {
		return nil, err
	}
	return exec.Command("node", filepath.Join(dir, "npm.js"), real), nil
})

// cargo compiles Debian's copy of the library that Cargo runs on.
var cargo = program(func(dir string) (*exec.Cmd, error) {
	found, err := filepath.Glob("/usr/share/cargo/registry/semver-1.*/src/lib.rs")
	if err != nil || len(found) == 0 {
		return nil, fmt.Errorf("Debian's package librust-semver-dev is not installed")
	}
	for _, arguments := range [][]string{
		{"--edition", "2018", "-O", "--crate-name", "semver", "--crate-type", "rlib", "--cap-lints", "allow", "--cfg", `feature="std"`, "--out-dir", dir, found[0]},
		{"--edition", "2018", "-O", "--extern", "semver=" + filepath.Join(dir, "libsemver.rlib"), "-o", filepath.Join(dir, "cargo"), filepath.Join(dir, "cargo.rs")},
	} {
		if out, err := exec.Command("rustc", arguments...).CombinedOutput(); err != nil {
			return nil, fmt.Errorf("rustc: %w: %s", err, out)
		}
	}
	return exec.Command(filepath.Join(dir, "cargo")), nil
})

// each answers question by question, on every processor.
func each(answer func(q question) string) func([]question) ([]string, error) {
	return func(questions []question) ([]string, error) {
		answers := make([]string, len(questions))
		var wait sync.WaitGroup
		const workers = 4
		for w := range workers {
			wait.Go(func() {
				for i := w; i < len(questions); i += workers {
					answers[i] = answer(questions[i])
				}
			})
		}
		wait.Wait()
		return answers, nil
	}
}

// dpkg asks Debian's own command.
var dpkg = each(func(q question) string {
	for _, try := range []struct{ relation, means string }{{"lt", "-1"}, {"gt", "1"}} {
		err := exec.Command("dpkg", "--compare-versions", q.x, try.relation, q.y).Run()
		if err == nil {
			return try.means
		}
		if exit, ok := err.(*exec.ExitError); !ok || exit.ExitCode() != 1 {
			return "error"
		}
	}
	return "0"
})

// goOrder asks Go's own package.
var goOrder = each(func(q question) string {
	a, b := "go"+strings.TrimPrefix(q.x, "go"), "go"+strings.TrimPrefix(q.y, "go")
	if !goversion.IsValid(a) || !goversion.IsValid(b) {
		return "error"
	}
	return fmt.Sprint(goversion.Compare(a, b))
})

// modules asks the package that the go command compares modules with.
var modules = each(func(q question) string {
	a, b := "v"+strings.TrimPrefix(q.x, "v"), "v"+strings.TrimPrefix(q.y, "v")
	if !xsemver.IsValid(a) || !xsemver.IsValid(b) {
		return "error"
	}
	return fmt.Sprint(xsemver.Compare(a, b))
})

// terraform asks the library that Terraform reads constraints with.
var terraform = each(func(q question) string {
	v, err := hashicorp.NewVersion(q.y)
	if err != nil {
		return "error"
	}
	constraints, err := hashicorp.NewConstraint(q.x)
	if err != nil {
		return "error"
	}
	return fmt.Sprint(constraints.Check(v))
})
