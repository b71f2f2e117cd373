package main

import (
	"archive/tar"
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// cloned is a clean clone of the repository, built as the README says.
func cloned(ctx context.Context, source string) (string, error) {
	dir, err := os.MkdirTemp("", "wexo-walk-")
	if err != nil {
		return "", err
	}
	at := filepath.Join(dir, "wexo")
	for _, c := range [][]string{{"git", "clone", "--quiet", source, at}, {"make", "-C", at, "build"}} {
		command := exec.CommandContext(ctx, c[0], c[1:]...)
		command.Stderr = os.Stderr
		if err := command.Run(); err != nil {
			return "", fmt.Errorf("%s: %w", strings.Join(c, " "), err)
		}
	}
	return at, nil
}

// layEstate lays out what every page's home begins with: the demo's repositories, under the
// names that pages use too, an inventory, an image, and some toolchains.
func layEstate(ctx context.Context, source string) (string, error) {
	dir, err := os.MkdirTemp("", "wexo-home-")
	if err != nil {
		return "", err
	}
	demo := filepath.Join(dir, "demo")
	lay := exec.CommandContext(ctx, filepath.Join(source, "bin", "wexo"), "demo", "--once", "--dir", demo)
	if out, err := lay.CombinedOutput(); err != nil {
		return "", fmt.Errorf("the demo cannot be laid out: %w\n%s", err, out)
	}
	home := filepath.Join(dir, "home")
	for from, to := range map[string]string{"repositories": "work", "repositories/plant-labels": "work/shop", "inventories/seed-agent.json": "agent.json", "inventories": "inventories", "wexo.yaml": "estate/wexo.yaml", "catalogue": "estate/catalogue"} {
		if err := copied(filepath.Join(demo, from), filepath.Join(home, to)); err != nil {
			return "", err
		}
	}
	files := map[string]string{
		"Makefile":                        "test:\n\t@echo tested\n",
		"work/garden/kiosk/.node-version": "24.11.1\n", "work/garden/kiosk/package.json": "{\"name\": \"kiosk\"}\n",
		"unpacked-image/etc/os-release": "ID=debian\n",
		"wexo.yaml":                     "horizon: 183\n",
		"service/wexo.yaml":             "survey-every: 12h\n",
		"trust/tools/dibber.yaml":       "tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\n",
	}
	for name, text := range files {
		if err := written(filepath.Join(home, name), []byte(text), 0o644); err != nil {
			return "", err
		}
	}
	program, err := os.ReadFile("/bin/true") // stands in for one: its version is told by the header beside it
	if err != nil {
		return "", err
	}
	at := filepath.Join(home, "toolchains", "node", "24.11.1")
	const header = "#define NODE_MAJOR_VERSION 24\n#define NODE_MINOR_VERSION 11\n#define NODE_PATCH_VERSION 1\n"
	if err := errors.Join(written(filepath.Join(at, "bin", "node"), program, 0o755), written(filepath.Join(at, "include", "node", "node_version.h"), []byte(header), 0o644)); err != nil {
		return "", err
	}
	image, err := imageFile()
	if err != nil {
		return "", err
	}
	for _, name := range []string{"image.tar", "kiosk-image.tar"} {
		if err := written(filepath.Join(home, name), image, 0o644); err != nil {
			return "", err
		}
	}
	return dir, nil
}

// homeOf is a copy of the estate's home, for one page.
func homeOf(estate string) (string, error) {
	home, err := os.MkdirTemp("", "wexo-home-")
	if err != nil {
		return "", err
	}
	return home, copied(filepath.Join(estate, "home"), home)
}

func copied(from, to string) error {
	info, err := os.Stat(from)
	if err != nil {
		return err
	}
	if info.IsDir() {
		return os.CopyFS(to, os.DirFS(from))
	}
	data, err := os.ReadFile(from)
	if err != nil {
		return err
	}
	return written(to, data, info.Mode())
}

func written(name string, data []byte, mode os.FileMode) error {
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return err
	}
	return os.WriteFile(name, data, mode)
}

// imageFile is a container image with one layer, as an archive.
func imageFile() ([]byte, error) {
	layer, err := archive([][2]string{{"etc/os-release", "ID=debian\n"}, {"opt/node/22.23.3/bin/node", "#!/bin/sh\n"},
		{"opt/node/22.23.3/include/node/node_version.h", "#define NODE_MAJOR_VERSION 22\n#define NODE_MINOR_VERSION 23\n#define NODE_PATCH_VERSION 3\n"}})
	if err != nil {
		return nil, err
	}
	return archive([][2]string{{"manifest.json", `[{"Config": "config.json", "RepoTags": ["kiosk:1"], "Layers": ["layer.tar"]}]`},
		{"config.json", `{"os": "linux", "architecture": "amd64", "config": {"Env": ["PATH=/opt/node/22.23.3/bin"]}}`}, {"layer.tar", string(layer)}})
}

func archive(files [][2]string) ([]byte, error) {
	var b bytes.Buffer
	t := tar.NewWriter(&b)
	for _, f := range files {
		if err := t.WriteHeader(&tar.Header{Name: f[0], Mode: 0o755, Size: int64(len(f[1])), Typeflag: tar.TypeReg}); err != nil {
			return nil, err
		}
		if _, err := t.Write([]byte(f[1])); err != nil {
			return nil, err
		}
	}
	return b.Bytes(), t.Close()
}

func goPath() string  { return fromGo("GOPATH") }
func goCache() string { return fromGo("GOCACHE") }

// fromGo is where Go keeps what it fetched and built, so that a page's home need not again.
func fromGo(name string) string {
	out, err := exec.Command("go", "env", name).Output()
	if err != nil {
		return ""
	}
	return strings.TrimSpace(string(out))
}
