package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
)

// waysOut lays repositories whose parts lead to a folder that is not allowed, and has a
// service survey them: nothing of that folder may be told.
func waysOut(ctx context.Context, a *arena) error {
	root, vault := filepath.Join(a.dir, "allowed"), filepath.Join(a.dir, "vault")
	secret := filepath.Join(vault, "secret")
	if err := lay(secret, map[string]string{".node-version": canary + "\n"}); err != nil {
		return err
	}
	if err := commit(secret); err != nil {
		return err
	}
	make := func(name string, after func(dir string) error) error {
		dir := filepath.Join(root, name)
		if err := lay(dir, map[string]string{".node-version": "22\n"}); err != nil {
			return err
		}
		if err := commit(dir); err != nil {
			return err
		}
		return after(dir)
	}
	replaced := func(dir, with string) error {
		return errors.Join(os.RemoveAll(dir), os.Symlink(with, dir))
	}
	head, err := git(secret, "rev-parse", "HEAD")
	if err != nil {
		return err
	}
	to := func(dir string, parts ...string) error { // the repository's own parts lead to the other's, and its HEAD to the other's commit
		var errs []error
		for _, part := range parts {
			at := filepath.Join(dir, ".git", part)
			errs = append(errs, os.MkdirAll(filepath.Dir(at), 0o755), replaced(at, filepath.Join(secret, ".git", part)))
		}
		return errors.Join(append(errs, os.WriteFile(filepath.Join(dir, ".git/HEAD"), []byte(head+"\n"), 0o644))...)
	}
	fanOut := func() (parts []string) {
		found, _ := filepath.Glob(filepath.Join(secret, ".git/objects/??"))
		for _, at := range found {
			parts = append(parts, "objects/"+filepath.Base(at))
		}
		return parts
	}
	including := func(section string) func(dir string) error {
		return func(dir string) error {
			return errors.Join(lay(dir, map[string]string{".git/config": "[core]\n\trepositoryformatversion = 0\n" + strings.ReplaceAll(section, "FILE", secret+"/.node-version")}),
				os.WriteFile(filepath.Join(dir, ".git/HEAD"), []byte("ref: refs/heads/.invalid\n"), 0o644))
		}
	}
	ways := map[string]func(dir string) error{
		"each folder of objects": func(dir string) error { return to(dir, fanOut()...) },
		"folders and heads":      func(dir string) error { return to(dir, append(fanOut(), "refs/heads")...) },
		"a folder of packs": func(dir string) error {
			return errors.Join(gitOnly(secret, "repack", "-aq"), to(dir, "objects/pack"))
		},
		"heads": func(dir string) error {
			return errors.Join(to(dir, "refs/heads"), os.WriteFile(dir+"/.git/HEAD", []byte("ref: refs/heads/main\n"), 0o644))
		},
		"a head's file": func(dir string) error {
			return errors.Join(to(dir, "refs/heads/main"), os.WriteFile(dir+"/.git/HEAD", []byte("ref: refs/heads/main\n"), 0o644))
		},
		"one object":                func(dir string) error { return to(dir, fanOut()[0], "objects/info") },
		"included":                  including("[include]\n\tpath = FILE\n"),
		"included where it lies":    including("[includeIf \"gitdir:/\"]\n\tpath = FILE\n"),
		"included on a branch":      including("[includeIf \"onbranch:**\"]\n\tpath = FILE\n"),
		"included by its extension": including("[extensions]\n\trefstorage = reftable\n[include]\n\tpath = FILE\n"),
		"tables that lead out": func(dir string) error {
			return errors.Join(lay(dir, map[string]string{".git/config": "[core]\n\trepositoryformatversion = 1\n[extensions]\n\trefstorage = reftable\n", ".git/reftable/tables.list": "../../../../vault/secret/.node-version\n", ".git/HEAD": "ref: refs/heads/.invalid\n"}))
		},
		"a git file": func(dir string) error {
			return errors.Join(os.RemoveAll(dir+"/.git"), os.WriteFile(dir+"/.git", []byte("gitdir: "+secret+"/.git\n"), 0o644))
		},
		"a git link":  func(dir string) error { return replaced(dir+"/.git", secret+"/.git") },
		"objects":     func(dir string) error { return replaced(dir+"/.git/objects", secret+"/.git/objects") },
		"refs":        func(dir string) error { return replaced(dir+"/.git/refs", secret+"/.git/refs") },
		"a commondir": func(dir string) error { return lay(dir, map[string]string{".git/commondir": secret + "/.git\n"}) },
		"alternates": func(dir string) error {
			return lay(dir, map[string]string{".git/objects/info/alternates": secret + "/.git/objects\n"})
		},
		"climbing": func(dir string) error {
			return lay(dir, map[string]string{".git/commondir": "../../../vault/secret/.git\n"})
		},
		"a packed ref": func(dir string) error { return replaced(dir+"/.git/packed-refs", secret+"/.git/HEAD") },
		"a head":       func(dir string) error { return replaced(dir+"/.git/HEAD", secret+"/.git/HEAD") },
		"an empty git": func(dir string) error { return errors.Join(os.RemoveAll(dir+"/.git"), os.Mkdir(dir+"/.git", 0o755)) },
		"a config": func(dir string) error {
			return lay(dir, map[string]string{".git/config": "[include]\n\tpath = " + secret + "/.git/config\n[core]\n\tworktree = " + secret + "\n\tfsmonitor = touch " + a.dir + "/ran\n\tsshCommand = touch " + a.dir + "/ran\n"})
		},
		"a file's link": func(dir string) error {
			return errors.Join(replaced(dir+"/.node-version", secret+"/.node-version"), gitOnly(dir, "commit", "-qam", "x"))
		},
	}
	for name, after := range ways {
		if err := make(name, after); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	if err := make("itself", func(string) error { return nil }); err != nil {
		return err
	}
	s, err := a.serve(ctx, "--roots", root)
	if err != nil {
		return err
	}
	defer s.stop()
	status, text, err := s.call("POST", "/api/repositories", s.owner, `{"path": "`+root+`"}`)
	if err != nil {
		return err
	}
	a.check(status == 201, "adding the repositories answers %d: %s", status, text)
	if err := replaced(filepath.Join(root, "itself"), secret); err != nil {
		return err
	}
	for range 2 { // once anew, once remembered
		if err := s.survey(ctx); err != nil {
			return err
		}
		_, text, err = s.call("GET", "/api/claims?limit=1000", s.owner, "")
		if err != nil {
			return err
		}
		a.check(!strings.Contains(text, canary), "claims of a folder that is not allowed are told")
		a.check(strings.Contains(text, "22"), "what is allowed is read")
	}
	for _, path := range []string{secret, root + "/../vault", root + "/itself", "/", "/etc", "", "."} {
		status, text, err := s.call("POST", "/api/repositories", s.owner, `{"path": "`+path+`"}`)
		if err != nil {
			return err
		}
		a.check(status == 400 || status == 403, "adding %q answers %d: %s", path, status, text)
	}
	_, ran := os.Stat(filepath.Join(a.dir, "ran"))
	a.check(ran != nil, "a repository's configuration was run")
	return nil
}

func gitOnly(dir string, args ...string) error {
	_, err := git(dir, args...)
	return err
}

// gates surveys what cannot be read: none of it may end with 0.
func gates(ctx context.Context, a *arena) error {
	spoil := map[string]func(git string) error{
		"no objects": func(git string) error { return os.RemoveAll(git + "/objects") },
		"objects empty": func(git string) error {
			return errors.Join(os.RemoveAll(git+"/objects"), os.MkdirAll(git+"/objects/pack", 0o755))
		},
		"no HEAD":       func(git string) error { return os.Remove(git + "/HEAD") },
		"a bad HEAD":    func(git string) error { return os.WriteFile(git+"/HEAD", []byte("ref: refs/heads/../../x\n"), 0o644) },
		"a lost HEAD":   func(git string) error { return os.WriteFile(git+"/HEAD", []byte(strings.Repeat("ab", 20)+"\n"), 0o644) },
		"HEAD a pipe":   func(git string) error { return errors.Join(os.Remove(git+"/HEAD"), syscall.Mkfifo(git+"/HEAD", 0o644)) },
		"HEAD a folder": func(git string) error { return errors.Join(os.Remove(git+"/HEAD"), os.Mkdir(git+"/HEAD", 0o755)) },
		"git empty":     func(git string) error { return errors.Join(os.RemoveAll(git), os.Mkdir(git, 0o755)) },
		"git nowhere": func(git string) error {
			return errors.Join(os.RemoveAll(git), os.WriteFile(git, []byte("gitdir: /no/where\n"), 0o644))
		},
		"git a pipe":   func(git string) error { return errors.Join(os.RemoveAll(git), syscall.Mkfifo(git, 0o644)) },
		"git a device": func(git string) error { return errors.Join(os.RemoveAll(git), os.Symlink("/dev/zero", git)) },
		"packs of junk": func(git string) error {
			return errors.Join(lay(git, map[string]string{"objects/pack/pack-0.idx": "junk", "objects/pack/pack-0.pack": "junk"}))
		},
	}
	dir := filepath.Join(a.dir, "spoilt")
	for name, by := range spoil {
		at := filepath.Join(dir, name)
		if err := lay(at, map[string]string{"readme.txt": "ferns\n"}); err != nil {
			return err
		}
		if err := errors.Join(commit(at), by(filepath.Join(at, ".git"))); err != nil {
			return err
		}
		r, _, err := a.survey(ctx, at)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		a.check(r.status == 3, "%s: it ends with %d", name, r.status)
		a.check(r.took.Seconds() < 15, "%s: it took %s", name, r.took)
	}
	good := filepath.Join(a.dir, "good")
	if err := errors.Join(lay(good, map[string]string{".node-version": "22\n"}), commit(good)); err != nil {
		return err
	}
	for _, ref := range []string{"none", "HEAD~5", "refs/heads/none", "-x", "--upload-pack=x", "HEAD:./x", "@{-1}", ":/x", "^{/x}", "a\nb", strings.Repeat("a", 5000), "HEAD^{tree}"} {
		r, _, err := a.survey(ctx, "--ref="+ref, good)
		if err != nil {
			return err
		}
		a.check(r.status == 3, "the ref %.40q ends with %d", ref, r.status)
	}
	r, _, err := a.survey(ctx, dir)
	if err != nil {
		return err
	}
	a.check(r.status == 3 && strings.Contains(r.errs, "could not be read"), "a folder of them ends with %d: %.200s", r.status, r.errs)
	r, _, err = a.survey(ctx, "--strict", dir)
	if err != nil {
		return err
	}
	a.check(r.status == 3, "with --strict it ends with %d", r.status)
	return nil
}

// outputs runs commands whose output is full, closed, or goes to one who does not read on.
func outputs(ctx context.Context, a *arena) error {
	good := filepath.Join(a.dir, "good")
	if err := errors.Join(lay(good, map[string]string{".node-version": "22\n"}), commit(good)); err != nil {
		return err
	}
	for _, args := range [][]string{{"survey", "--fail-on", "never", good}, {"survey", "--output", "json", "--fail-on", "never", good}, {"trace", good, "node"}, {"inventory"}, {"lines"}, {"order", "semver", "1.0.0"}, {"--help"}} {
		for name, open := range map[string]func() (*os.File, error){
			"/dev/full": func() (*os.File, error) { return os.OpenFile("/dev/full", os.O_WRONLY, 0) },
			"a closed pipe": func() (*os.File, error) {
				r, w, err := os.Pipe()
				if err == nil {
					err = r.Close()
				}
				return w, err
			},
		} {
			out, err := open()
			if err != nil {
				return err
			}
			cmd := exec.CommandContext(ctx, a.wexo, args...)
			cmd.Env = append(os.Environ(), "XDG_CACHE_HOME="+filepath.Join(a.dir, "cache"))
			cmd.Stdout = out
			var said strings.Builder
			cmd.Stderr = &said
			if err := cmd.Run(); cmd.ProcessState == nil {
				return err
			}
			out.Close()
			a.check(cmd.ProcessState.ExitCode() == 3, "%v to %s ends with %d", args, name, cmd.ProcessState.ExitCode())
			a.check(!strings.Contains(said.String(), "goroutine"), "%v to %s leaves a trace", args, name)
		}
	}
	return nil
}
