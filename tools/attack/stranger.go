package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

// day is the day that a stranger's configuration sets; it never takes effect.
const day = "2001-02-03"

// strangersTree is one repository with every file that Wexo reads for itself: configurations,
// catalogues, inventories, data, caches, toolchains with headers, start-up files, editors' tables.
// Whoever starts one of its programs leaves a witness.
func strangersTree(witness string) (files, programs map[string]string) {
	trap := "#!/usr/bin/perl\nopen F, '>>', '" + witness + "'; print F \"$0 @ARGV\\n\"; close F; print \"v" + canary + "\\n\";"
	parts := strings.Split(canary, ".")
	header := fmt.Sprintf("#define NODE_MAJOR_VERSION %s\n#define NODE_MINOR_VERSION %s\n#define NODE_PATCH_VERSION %s\n", parts[0], parts[1], parts[2])
	run := "tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\ninstallation:\n  executables: [env]\n  inside: [bin]\n  version:\n    - run: [sh, -c, 'id > " + witness + "; echo dibber 2.1.0']\n      pattern: 'dibber (\\S+)'\n"
	configuration := "catalogue: [.c]\ntrusted: true\nas-of: " + day + "\nseverities: {toolchain-missing: note, end-of-life: note}\ndata: wexo.db\nshow-lines: around\n"
	inventory := `{"format":"wexo.inventory/1","machine":{"name":"stranger","os":"linux"},"takenAt":"2026-11-16T08:00:00Z","installations":[{"tool":"node","version":"` + canary + `","path":"/x/bin/node","home":"/x"}]}`
	files = map[string]string{
		"wexo.yaml": configuration, ".config/wexo/wexo.yaml": configuration, "wexo.yml": configuration, ".c/tools/dibber.yaml": run, "catalogue/tools/dibber.yaml": run,
		"inventory.json": inventory, "inventories/stranger.json": inventory, ".cache/wexo/said.json": `{"x":{"words":"` + canary + `"}}`, ".cache/wexo/readings.db": "SQLite format 3\x00", "wexo.db": "SQLite format 3\x00",
		".node-version": canary + "\n", "package.json": `{"engines":{"node":">=22"}}`,
		"node/" + canary + "/include/node/node_version.h": header, "include/node/node_version.h": header, "versions/node/" + canary + "/include/node/node_version.h": header,
		"lib/jvm/" + canary + "/release": "JAVA_VERSION=\"" + canary + "\"\n", "toolchain/go/VERSION": "go" + canary + "\n",
		".bashrc": "export JAVA_HOME=$PWD/lib/jvm/" + canary + "\n", ".profile": "PATH=$PWD/bin:$PATH\n", ".envrc": "export NODE_VERSION=" + canary + "\n", ".tool-choice": "node " + canary + "\n",
		"options/jdk.table.xml": `<application><component name="ProjectJdkTable"><jdk version="2"><name value="x"/><type value="JavaSDK"/><homePath value="$USER_HOME$/lib/jvm/x"/></jdk></component></application>`,
		"default":               canary + "\n", "alias/default": canary + "\n", "settings.toml": "default = '" + canary + "'\n", ".vscode/settings.json": `{"python.defaultInterpreterPath": "bin/python3"}`,
	}
	programs = map[string]string{}
	for _, at := range []string{"node/" + canary + "/bin/node", "versions/node/" + canary + "/bin/node", "bin/node", "bin/python3", "bin/git", "lib/jvm/" + canary + "/bin/java", "toolchain/go/bin/go", "bin/env", "sh"} {
		programs[at] = trap
	}
	return files, programs
}

// placesOfAHome are where clones and unpacked archives come to lie in a home.
var placesOfAHome = []string{".worktrees/proj", ".local/share/evil", ".local/evil", ".evil", ".config/JetBrains/IdeaIC2026.2", ".cache/evil", "work/shop", "src/evil", "Downloads/evil", "Desktop/evil",
	"go/src/evil", "sdk/evil", "tools/evil", "node-v24.0.0", ".nodes/versions/node/evil"}

// placesOfASystem are those of a machine that is looked at from outside.
var placesOfASystem = []string{"opt/evil", "opt/node/evil", "srv/evil", "srv/repositories/evil", "usr/local/evil", "usr/lib/jvm/evil", "usr/local/lib/evil", "home/fern/evil", "home/fern/.evil", "root/.evil", "usr/share/evil"}

// waysToCome are how a stranger's tree comes to a place.
var waysToCome = map[string]func(origin, to string) error{
	"clone": func(origin, to string) error { return gitOnly(filepath.Dir(origin), "clone", "-q", origin, to) },
	"archive": func(origin, to string) error {
		return errors.Join(os.MkdirAll(to, 0o755), exec.Command("sh", "-c", `git -C "$1" archive HEAD | tar x -C "$2"`, "sh", origin, to).Run())
	},
	"archive with its git": func(origin, to string) error { return os.CopyFS(to, os.DirFS(origin)) },
	"work tree":            func(origin, to string) error { return gitOnly(origin, "worktree", "add", "-q", "--detach", to) },
	"submodule": func(origin, to string) error {
		outer := filepath.Dir(to)
		return errors.Join(os.MkdirAll(outer, 0o755), gitOnly(outer, "init", "-q"), gitOnly(outer, "-c", "protocol.file.allow=always", "submodule", "--quiet", "add", origin, filepath.Base(to)))
	},
}

// layStranger makes the repository that all others come from.
func layStranger(dir, witness string) error {
	files, programs := strangersTree(witness)
	if err := lay(dir, files); err != nil {
		return err
	}
	for name, text := range programs {
		at := filepath.Join(dir, name)
		if err := errors.Join(os.MkdirAll(filepath.Dir(at), 0o755), os.WriteFile(at, []byte(text), 0o755)); err != nil {
			return err
		}
	}
	return commit(dir)
}

// strangers puts one hostile repository into many places of a home, as clone and as archive, and
// runs every command from inside and outside: nothing of it is run, chosen or obeyed.
func strangers(ctx context.Context, a *arena) error {
	origin, witness := filepath.Join(a.dir, "origin"), filepath.Join(a.dir, "witness")
	if err := layStranger(origin, witness); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(a.seed, 25))
	for i, place := range placesOfAHome {
		ways := sortedNames(waysToCome)
		if a.short {
			if i%3 != int(a.seed)%3 {
				continue
			}
			ways = ways[random.IntN(len(ways)):][:1]
		}
		for _, way := range ways {
			home := filepath.Join(a.dir, "home-"+strings.ReplaceAll(way, " ", "-")+fmt.Sprint(i))
			at := filepath.Join(home, place)
			other := filepath.Join(home, "other")
			err := errors.Join(os.MkdirAll(filepath.Dir(at), 0o755), waysToCome[way](origin, at), lay(other, map[string]string{".node-version": "22\n"}), commit(other))
			if err != nil {
				return fmt.Errorf("%s in %s: %w", way, place, err)
			}
			for _, c := range []struct {
				from string
				args []string
			}{
				{at, []string{"survey", ".", "--output", "json"}}, {other, []string{"survey", at, "--output", "json"}}, {at, []string{"inventory", "--output", "json"}}, {home, []string{"inventory", "--output", "json"}},
				{at, []string{"needs"}}, {other, []string{"needs", other}}, {at, []string{"reconcile", "."}}, {at, []string{"with", ".", "--", "node", "--version"}}, {other, []string{"with", at, "--nearest", "--", "node", "--version"}},
				{other, []string{"with", other, "--nearest", "--", "node", "--version"}}, {at, []string{"trace", ".", "node"}}, {at, []string{"lines", "node"}}, {at, []string{"catalogue", "show", "node"}}, {at, []string{"catalogue", "check", ".c"}},
				{at, []string{"tokens", "recover"}}, {at, []string{"survey", "--worktree", "."}},
			} {
				r, err := a.in(ctx, home, c.from, c.args...)
				if err != nil {
					return err
				}
				where := fmt.Sprintf("%s as %s, %v", place, way, c.args)
				_, ran := os.Stat(witness)
				a.check(ran != nil, "%s: something of it ran", where)
				_ = os.Remove(witness)
				a.check(!strings.Contains(string(r.out)+r.errs, day) && !strings.Contains(string(r.out), "3 Feb 2001"), "%s: its day holds", where)
				a.check(!chosen(r.out), "%s: it is an installation: %.300s", where, r.out)
				a.check(!strings.Contains(string(r.out), "An owner's token"), "%s: its data file is opened", where)
			}
			if a.short {
				continue
			}
			if err := os.RemoveAll(home); err != nil {
				return err
			}
		}
	}
	return nil
}

func sortedNames[V any](m map[string]V) []string {
	var out []string
	for name := range m {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

// chosen reports whether an answer takes a stranger's toolchain for an installation.
func chosen(out []byte) bool {
	if !json.Valid(out) {
		return strings.Contains(string(out), "v"+canary+"\n")
	}
	var told struct {
		Installations []struct{ Version string }
		Defaults      []struct{ Raw string }
		Repositories  []struct {
			Folders []struct {
				Tools []struct {
					Resolutions []struct{ Version, State string }
				}
			}
		}
	}
	if json.Unmarshal(out, &told) != nil {
		return false
	}
	for _, in := range told.Installations {
		if in.Version == canary {
			return true
		}
	}
	for _, r := range told.Repositories {
		for _, f := range r.Folders {
			for _, t := range f.Tools {
				for _, one := range t.Resolutions {
					if one.Version == canary {
						return true
					}
				}
			}
		}
	}
	return false
}

// in runs the binary in a folder, with a home of its own.
func (a *arena) in(ctx context.Context, home, dir string, args ...string) (result, error) {
	cmd := exec.CommandContext(ctx, a.wexo, args...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "HOME="+home, "XDG_CONFIG_HOME="+filepath.Join(home, ".config-of-mine"), "XDG_CACHE_HOME="+filepath.Join(a.dir, "cache"), "WEXO_SERVER=", "WEXO_TOKEN=", "NO_COLOR=1")
	var out, errs strings.Builder
	cmd.Stdout, cmd.Stderr = &out, &errs
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		return result{}, err
	}
	return result{status: cmd.ProcessState.ExitCode(), out: []byte(out.String()), errs: errs.String()}, nil
}

// strangersRoots looks at machines from outside that hold the same tree: as folders and as
// images, with links that lead to what the host has and the machine has not.
func strangersRoots(ctx context.Context, a *arena) error {
	origin, witness := filepath.Join(a.dir, "origin"), filepath.Join(a.dir, "witness")
	host := filepath.Join(a.dir, "host")
	err := errors.Join(layStranger(origin, witness), lay(host, map[string]string{"choice": "node 97.1.0\n", ".node-version": "97.1.0\n", "jvm/release": "JAVA_VERSION=\"97.1.0\"\n", "jvm/bin/java": "x"}))
	if err != nil {
		return err
	}
	for _, way := range []string{"clone", "archive", "archive with its git"} {
		root := filepath.Join(a.dir, "root-"+strings.ReplaceAll(way, " ", "-"))
		for _, place := range placesOfASystem {
			at := filepath.Join(root, place)
			if err := errors.Join(os.MkdirAll(filepath.Dir(at), 0o755), waysToCome[way](origin, at)); err != nil {
				return fmt.Errorf("%s in %s: %w", way, place, err)
			}
		}
		err := lay(root, map[string]string{"etc/passwd": "root:x:0:0::/root:/bin/sh\nfern:x:1000:1000::/home/fern:/bin/sh\n", "opt/honest/20.1.0/include/node/node_version.h": "#define NODE_MAJOR_VERSION 20\n#define NODE_MINOR_VERSION 1\n#define NODE_PATCH_VERSION 0\n"})
		err = errors.Join(err, os.MkdirAll(filepath.Join(root, "opt/honest/20.1.0/bin"), 0o755), os.WriteFile(filepath.Join(root, "opt/honest/20.1.0/bin/node"), []byte("\x7fELF"), 0o755))
		for link, to := range map[string]string{"root/.tool-choice": host + "/choice", "root/.node-version": host + "/.node-version", "root/.bashrc": host + "/choice", "opt/java": host + "/jvm", "etc/environment": host + "/choice", "home/fern/.python-version": "../../../../host/.node-version", "usr/lib/jvm/java-97": host + "/jvm"} {
			at := filepath.Join(root, link)
			err = errors.Join(err, os.MkdirAll(filepath.Dir(at), 0o755), os.RemoveAll(at), os.Symlink(to, at))
		}
		if err != nil {
			return err
		}
		image := root + ".tar"
		if out, err := exec.CommandContext(ctx, "tar", "cf", image, "-C", root, ".").CombinedOutput(); err != nil {
			return fmt.Errorf("%w: %s", err, out)
		}
		for _, given := range []string{root, image} {
			r, err := a.in(ctx, a.dir, a.dir, "inventory", "--root", given, "--output", "json")
			if err != nil {
				return err
			}
			where := fmt.Sprintf("%s, %s", way, filepath.Base(given))
			a.check(r.status == 0, "%s: it ends with %d: %.200s", where, r.status, r.errs)
			a.check(!chosen(r.out), "%s: a stranger's toolchain is an installation: %.400s", where, r.out)
			a.check(!strings.Contains(string(r.out), "97.1.0"), "%s: what the host has is told of the machine", where)
			a.check(strings.Contains(string(r.out), `"20.1.0"`), "%s: what the machine has is not told any more", where)
		}
	}
	_, ran := os.Stat(witness)
	a.check(ran != nil && errors.Is(ran, fs.ErrNotExist), "something ran")
	return nil
}
