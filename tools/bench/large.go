package main

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"time"

	"wexo/internal/core/inventory"
)

// The large estate is one of a lead who looks after thousands of repositories: many small
// ones, a fifth with several folders, versions in every spelling.

// palette is what machines have of a tool, and what repositories ask for.
type palette struct {
	tool     string
	versions []string
}

var palettes = []palette{
	{"node", []string{"16.20.2", "18.20.8", "20.11.1", "20.19.5", "22.11.0", "22.23.3", "24.11.1", "24.21.0", "26.1.0"}},
	{"python", []string{"3.8.18", "3.9.18", "3.10.14", "3.11.9", "3.12.4", "3.12.7", "3.13.1", "3.14.0"}},
	{"java", []string{"8.0.402+6", "11.0.25+9", "17.0.15+6", "21.0.8+9", "25.0.1+8"}},
	{"go", []string{"1.24.9", "1.25.5", "1.26.8", "1.27.4"}},
	{"ruby", []string{"3.1.6", "3.2.6", "3.3.6", "3.4.1"}},
	{"php", []string{"8.1.31", "8.2.26", "8.3.14", "8.4.1"}},
	{"rust", []string{"1.80.1", "1.85.0", "1.90.0"}},
	{"maven", []string{"3.8.8", "3.9.9"}},
}

// largeMachines are fifty machines or so: laptops with a home of their own, build agents
// that are much alike, and images.
func largeMachines(n int) []inventory.Inventory {
	r := rand.New(rand.NewPCG(1, 2))
	var out []inventory.Inventory
	for i := range n {
		kind := []string{"laptop", "laptop", "build-agent", "build-agent", "image"}[i%5]
		inv := inventory.Inventory{Format: inventory.Format, TakenAt: time.Date(2026, 11, 16, 8, 0, 0, 0, time.UTC),
			Machine: inventory.MachineInfo{Name: fmt.Sprintf("%s-%02d", map[string]string{"laptop": "desk", "build-agent": "agent", "image": "image"}[kind], i), OS: "linux", Arch: "amd64", Kind: kind, Home: fmt.Sprintf("/home/gardener%02d", i)}}
		root := "/opt"
		if kind == "laptop" {
			root = inv.Machine.Home + "/.local"
		}
		for _, p := range palettes {
			first := ""
			for v, version := range p.versions {
				has := r.IntN(3) > 0
				if kind != "laptop" { // agents and images come in four makes
					has = (i/5%4+v)%3 > 0
				}
				if !has {
					continue
				}
				home := root + "/" + p.tool + "/" + version
				inv.Installations = append(inv.Installations, inventory.Installation{Tool: p.tool, Version: version, Path: home + "/bin/" + p.tool, Home: home,
					Origin: "versioned-root", Health: "good", Arch: "amd64", Components: map[string]string{}, Packages: map[string]string{}})
				if first == "" || r.IntN(2) == 0 {
					first = version
				}
			}
			if first != "" {
				inv.FirstOnPath = append(inv.FirstOnPath, inventory.OnPath{Tool: p.tool, Path: root + "/" + p.tool + "/" + first + "/bin/" + p.tool, Version: first})
			}
		}
		if kind == "laptop" && i%3 == 0 {
			inv.Overrides = append(inv.Overrides, inventory.Override{Tool: "java", Variable: "JAVA_HOME", Raw: root + "/java/17.0.15+6"})
			inv.Defaults = append(inv.Defaults, inventory.Default{Tool: "python", Raw: "3.12", Source: "~/.python-version"})
		}
		out = append(out, inv)
	}
	return out
}

// largeRepository are the files of one repository.
func largeRepository(n int) map[string]string {
	r := rand.New(rand.NewPCG(uint64(n), 7))
	files := map[string]string{"README.md": "# Bed\n"}
	folders := []string{""}
	if n%5 == 0 {
		for i := range 2 + r.IntN(3) {
			folders = append(folders, fmt.Sprintf("part-%d/", i))
		}
	}
	for _, at := range folders {
		largeFolder(r, at, files)
	}
	if n%7 == 0 {
		files[".vscode/settings.json"] = fmt.Sprintf("{\"python.defaultInterpreterPath\": \"/opt/python/3.%d.%d/bin/python\"}\n", 8+r.IntN(6), r.IntN(9))
	}
	return files
}

func largeFolder(r *rand.Rand, at string, files map[string]string) {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	exact := func(p palette) string {
		v := p.versions[r.IntN(len(p.versions))]
		if r.IntN(3) == 0 { // another patch than any machine has
			parts := strings.Split(strings.SplitN(v, "+", 2)[0], ".")
			parts[len(parts)-1] = fmt.Sprint(r.IntN(60))
			return strings.Join(parts, ".")
		}
		return v
	}
	line := func(v string) string {
		parts := strings.Split(v, ".")
		return strings.Join(parts[:max(1, len(parts)-1)], ".")
	}
	switch r.IntN(8) {
	case 0, 1, 2:
		low, high := 14+r.IntN(11), 0
		high = low + 1 + r.IntN(8)
		files[at+"package.json"] = fmt.Sprintf("{\n  \"name\": \"bed\",\n  \"engines\": {\"node\": \"%s\"}\n}\n",
			pick(fmt.Sprintf(">=%d.%d", low, r.IntN(20)), fmt.Sprintf("^%d.%d.%d || >=%d", low, r.IntN(20), r.IntN(9), high), fmt.Sprintf(">=%d <%d", low, high), fmt.Sprint(low, ".x")))
		if r.IntN(3) > 0 {
			v := exact(palettes[0])
			files[at+".node-version"] = pick(v, strings.SplitN(v, ".", 2)[0], "v"+v, "lts/*", line(v)) + "\n"
		}
		if r.IntN(3) == 0 {
			files[at+"package-lock.json"] = lock(r.IntN(40))
		}
	case 3, 4:
		files[at+"pyproject.toml"] = fmt.Sprintf("[project]\nname = \"bed\"\nrequires-python = \"%s\"\n", pick(fmt.Sprintf(">=3.%d", 7+r.IntN(7)), fmt.Sprintf(">=3.%d.%d,<3.%d", 7+r.IntN(5), r.IntN(12), 13+r.IntN(3)), fmt.Sprintf("~=3.%d", 8+r.IntN(5))))
		if r.IntN(3) > 0 {
			v := exact(palettes[1])
			files[at+".python-version"] = pick(v, line(v)) + "\n"
		}
	case 5:
		files[at+"go.mod"] = fmt.Sprintf("module garden.trust/bed\n\ngo 1.%d.%d\n", 20+r.IntN(8), r.IntN(12))
	case 6:
		files[at+"pom.xml"] = fmt.Sprintf("<project><modelVersion>4.0.0</modelVersion><properties><maven.compiler.release>%s</maven.compiler.release></properties></project>\n", pick("8", "11", "17", "21", "25"))
		if r.IntN(2) == 0 {
			files[at+".java-version"] = pick("8", "11", "17", "21", "temurin-17", "zulu-21", exact(palettes[2])) + "\n"
		}
	default:
		p := palettes[4+r.IntN(3)]
		files[at+".toolchain"] = fmt.Sprintf("%s %s\n", p.tool, pick(exact(p), line(exact(p))))
		switch p.tool {
		case "ruby":
			files[at+"Gemfile"] = fmt.Sprintf("ruby '%s'\n", pick(fmt.Sprintf(">= 3.%d.%d", r.IntN(4), r.IntN(9)), fmt.Sprintf("~> 3.%d", r.IntN(5))))
		case "php":
			files[at+"composer.json"] = fmt.Sprintf("{\"require\": {\"php\": \"%s\"}}\n", pick(fmt.Sprintf("^8.%d.%d", r.IntN(5), r.IntN(20)), fmt.Sprintf(">=8.%d", r.IntN(5))))
		case "rust":
			files[at+"Cargo.toml"] = fmt.Sprintf("[package]\nname = \"bed\"\nversion = \"0.1.0\"\nrust-version = \"1.%d.%d\"\n", 60+r.IntN(31), r.IntN(2))
		}
	}
	if r.IntN(3) == 0 {
		files[at+"Dockerfile"] = pick(
			fmt.Sprintf("FROM node:%d-alpine AS web\nFROM python:3.%d-slim\n", 16+r.IntN(6)*2, 8+r.IntN(6)),
			fmt.Sprintf("FROM node:%d.%d.%d-bookworm\n", 16+r.IntN(6)*2, r.IntN(22), r.IntN(4)))
	}
}

// made marks an estate that is laid out; it changes with what is.
const made = "made-2"

// makeLarge lays the estate out as plain folders, unless an earlier run did.
func makeLarge(dir string, repositories, machines int) (inventories []string, err error) {
	for i, inv := range largeMachines(machines) {
		data, err := json.Marshal(inv)
		if err != nil {
			return nil, err
		}
		file := filepath.Join(dir, "machines", fmt.Sprintf("%02d.json", i))
		if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
			return nil, err
		}
		if err := os.WriteFile(file, data, 0o644); err != nil {
			return nil, err
		}
		inventories = append(inventories, file)
	}
	if _, err := os.Stat(filepath.Join(dir, made)); err == nil {
		return inventories, nil
	}
	if err := os.RemoveAll(filepath.Join(dir, "repositories")); err != nil {
		return nil, err
	}
	fmt.Fprintf(os.Stderr, "Making %d repositories in %s.\n", repositories, dir)
	for n := range repositories {
		for name, content := range largeRepository(n) {
			at := filepath.Join(dir, "repositories", fmt.Sprintf("bed-%04d", n), filepath.FromSlash(name))
			if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
				return nil, err
			}
			if err := os.WriteFile(at, []byte(content), 0o644); err != nil {
				return nil, err
			}
		}
	}
	return inventories, os.WriteFile(filepath.Join(dir, made), nil, 0o644)
}
