package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
)

// makeEstate makes the repositories, unless an earlier run did. Each is a made-up garden
// service with one or two tools, nested folders and ordinary files.
func makeEstate(dir string, repositories, files int) error {
	if _, err := os.Stat(dir + ".made"); err == nil {
		return nil
	}
	if err := os.RemoveAll(dir); err != nil {
		return err
	}
	fmt.Fprintf(os.Stderr, "Making %d repositories of %d files in %s.\n", repositories, files, dir)
	var wait sync.WaitGroup
	numbers := make(chan int)
	problems := make(chan error, repositories)
	for range 4 {
		wait.Go(func() {
			for n := range numbers {
				if err := makeRepository(filepath.Join(dir, fmt.Sprintf("bed-%04d", n)), n, files); err != nil {
					problems <- err
				}
			}
		})
	}
	for n := range repositories {
		numbers <- n
	}
	close(numbers)
	wait.Wait()
	close(problems)
	if err := <-problems; err != nil {
		return err
	}
	return os.WriteFile(dir+".made", nil, 0o644)
}

func makeRepository(dir string, n, count int) error {
	files := claims(n)
	for i := 0; len(files) < count; i++ {
		name := fmt.Sprintf("src/bed%d/row%d/plant%d.txt", i%5, i%9, i)
		files[name] = strings.Repeat(fmt.Sprintf("plant %d of bed %d\n", i, n), 20)
	}
	for name, content := range files {
		at := filepath.Join(dir, filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(at, []byte(content), 0o644); err != nil {
			return err
		}
	}
	for _, args := range [][]string{{"init", "-q"}, {"add", "-A"}, {"-c", "user.name=bench", "-c", "user.email=bench@trust.invalid", "commit", "-qm", "bed"}, {"gc", "-q"}} {
		cmd := exec.Command("git", append([]string{"-C", dir}, args...)...)
		if out, err := cmd.CombinedOutput(); err != nil {
			return fmt.Errorf("git %s: %w: %s", args[0], err, out)
		}
	}
	return nil
}

// claims are the files that say something of versions, different from repository to repository.
func claims(n int) map[string]string {
	files := map[string]string{"README.md": "# Bed\n", ".gitignore": "node_modules\n*.log\n", ".editorconfig": "root = true\n[*]\nindent_size = 2\n"}
	switch n % 4 {
	case 0:
		files["package.json"] = fmt.Sprintf("{\n  \"name\": \"bed-%d\",\n  \"engines\": {\"node\": \">=%d\"}\n}\n", n, 18+n%3*2)
		files["package-lock.json"] = lock(n)
		files[".node-version"] = fmt.Sprintf("%d\n", 20+n%3*2)
		files["web/package.json"] = "{\"name\": \"web\", \"engines\": {\"node\": \"^20 || >=22\"}}\n"
	case 1:
		files["pyproject.toml"] = fmt.Sprintf("[project]\nname = \"bed-%d\"\nrequires-python = \">=3.%d\"\n", n, 9+n%4)
		files[".python-version"] = fmt.Sprintf("3.%d\n", 9+n%5)
		files[".vscode/settings.json"] = "{\n  // editor\n  \"python.defaultInterpreterPath\": \"${workspaceFolder}/.venv/bin/python\",\n}\n"
	case 2:
		files["go.mod"] = fmt.Sprintf("module garden.trust/bed%d\n\ngo 1.%d.0\n", n, 24+n%4)
	default:
		files["pom.xml"] = fmt.Sprintf("<project><modelVersion>4.0.0</modelVersion><properties><maven.compiler.release>%d</maven.compiler.release></properties></project>\n", 17+n%2*4)
		files[".toolchain"] = fmt.Sprintf("java %d\n", 17+n%2*4)
	}
	files["Dockerfile"] = fmt.Sprintf("ARG BASE=%d\nFROM node:${BASE}-alpine AS web\nFROM python:3.%d-slim\n", 20+n%2*2, 10+n%4)
	files[".github/workflows/test.yml"] = "on: push\njobs:\n  test:\n    strategy:\n      matrix:\n        node: [20, 22]\n    steps:\n      - uses: actions/setup-node@v4\n        with:\n          node-version: ${{ matrix.node }}\n"
	return files
}

// lock is a lock file of many dependencies, as package managers write them.
func lock(n int) string {
	var b strings.Builder
	b.WriteString("{\n  \"name\": \"bed\",\n  \"lockfileVersion\": 3,\n  \"packages\": {\n    \"\": {\"name\": \"bed\"}")
	for i := range 150 {
		fmt.Fprintf(&b, ",\n    \"node_modules/plant-%d\": {\n      \"version\": \"%d.%d.0\",\n      \"integrity\": \"sha512-%064d\",\n      \"engines\": {\n        \"node\": \">=%d\"\n      }\n    }", i, i%9, n%7, i*n, 10+i%3*2)
	}
	return b.String() + "\n  }\n}\n"
}
