package probe_test

import (
	"archive/zip"
	"bytes"
	"database/sql"
	"encoding/binary"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
	"golang.org/x/tools/txtar"

	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

// TestMachines lays out machines of many kinds and compares all that is found with what
// reading their files by hand finds.
func TestMachines(t *testing.T) {
	files, err := filepath.Glob("testdata/machines/*.txtar")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 16)
	for _, file := range files {
		name := strings.TrimSuffix(filepath.Base(file), ".txtar")
		t.Run(name, func(t *testing.T) {
			m, want := layMachine(t, file)
			m.Info.Name = name
			inv := take(t, m)
			require.NoError(t, inv.Check(), "what is found can be sent")
			assert.Equal(t, want, tellInventory(inv))
			seen := map[string]bool{}
			for _, in := range inv.Installations {
				key := in.Tool + in.Path + in.Version
				assert.False(t, seen[key], "%s is listed twice", in.Path)
				seen[key] = true
			}
			one := m
			one.Tools = []string{"java"}
			for _, in := range take(t, one).Installations {
				assert.Contains(t, []string{"java"}, in.Tool, "only what is asked for is looked for")
			}
		})
	}
}

// layMachine lays out a machine that an archive describes: its comment says what it is, and
// the file WANT what is to be found.
func layMachine(t *testing.T, file string) (m probe.Machine, want string) {
	t.Helper()
	archive, err := txtar.ParseFile(file)
	require.NoError(t, err)
	var head struct {
		OS, Arch, Home, Kind, Parent string
		Path                         []string
		Env                          map[string]string
	}
	require.NoError(t, yaml.Unmarshal(archive.Comment, &head))
	root := t.TempDir()
	for _, f := range archive.Files {
		if f.Name == "WANT" {
			want = string(f.Data)
			continue
		}
		layFile(t, filepath.Join(root, f.Name), f.Data)
	}
	return probe.Machine{Info: inventory.MachineInfo{OS: head.OS, Arch: head.Arch, Home: head.Home, Kind: head.Kind, Parent: head.Parent},
		Files: root, Path: head.Path, Env: head.Env, Now: time.Unix(0, 0).UTC()}, want
}

var early, late = time.Date(2024, 2, 1, 0, 0, 0, 0, time.UTC), time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)

// layFile writes a file whose first word may say what it is.
func layFile(t *testing.T, at string, data []byte) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
	words := strings.Fields(string(data))
	if len(words) == 0 {
		words = []string{""}
	}
	mode, changed := os.FileMode(0o644), early
	switch words[0] {
	case "->":
		require.NoError(t, os.Symlink(words[1], at))
		return
	case "exec":
		data, mode = []byte("\x7fELF stand-in"), 0o755
	case "late":
		data, mode, changed = []byte("\x7fELF stand-in"), 0o755, late
	case "says": // an executable that holds a text
		data, mode = []byte("\x7fELF stand-in\x00"+strings.Join(words[1:], " ")+"\x00"), 0o755
	case "later": // a text
		_, text, _ := strings.Cut(string(data), "\n")
		data, changed = []byte(text), late
	case "plain":
		data = []byte("\x7fELF stand-in")
	case "empty":
		data, mode = nil, 0o755
	case "elf":
		data, mode = elfFile(words[1], words[2:]), 0o755
	case "exe":
		data = peFile(strings.Join(words[1:], ""))
	case "jar":
		data = jarFile(t, words[1], strings.Join(words[2:], " "))
	case "rpms":
		layRPMs(t, at, data)
		return
	default:
		if bytes.HasPrefix(data, []byte("#!")) {
			mode = 0o755
		}
	}
	require.NoError(t, os.WriteFile(at, data, mode))
	require.NoError(t, os.Chtimes(at, changed, changed))
}

// layRPMs writes a database of packages, a line each: name, version and release, size, files.
func layRPMs(t *testing.T, at string, data []byte) {
	db, err := sql.Open("sqlite", at)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(`CREATE TABLE Packages (hnum INTEGER PRIMARY KEY AUTOINCREMENT, blob BLOB NOT NULL)`)
	require.NoError(t, err)
	for line := range strings.Lines(strings.TrimPrefix(string(data), "rpms\n")) {
		words := strings.Fields(line)
		version, release, _ := strings.Cut(words[1], "-")
		size, err := strconv.Atoi(words[2])
		require.NoError(t, err)
		var folders, names, folderOf []byte
		for i, file := range words[3:] {
			folders = append(folders, path.Dir(file)+"/\x00"...)
			names = append(names, path.Base(file)+"\x00"...)
			folderOf = binary.BigEndian.AppendUint32(folderOf, uint32(i))
		}
		_, err = db.Exec(`INSERT INTO Packages (blob) VALUES (?)`, rpmHeader([]rpmField{{1000, 6, 1, []byte(words[0] + "\x00")}, {1001, 6, 1, []byte(version + "\x00")},
			{1002, 6, 1, []byte(release + "\x00")}, {1009, 4, 1, binary.BigEndian.AppendUint32(nil, uint32(size))},
			{1116, 4, len(words) - 3, folderOf}, {1117, 8, len(words) - 3, names}, {1118, 8, len(words) - 3, folders}}))
		require.NoError(t, err)
	}
}

type rpmField struct {
	tag, kind, count int
	data             []byte
}

// rpmHeader is a package as RPM keeps it.
func rpmHeader(fields []rpmField) []byte {
	var table, values []byte
	for _, f := range fields {
		for _, n := range []int{f.tag, f.kind, len(values), f.count} {
			table = binary.BigEndian.AppendUint32(table, uint32(n))
		}
		values = append(values, f.data...)
	}
	head := binary.BigEndian.AppendUint32(nil, uint32(len(fields)))
	head = binary.BigEndian.AppendUint32(head, uint32(len(values)))
	return append(append(head, table...), values...)
}

func jarFile(t *testing.T, name, text string) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	f, err := w.Create(name)
	require.NoError(t, err)
	_, err = f.Write([]byte(text + "\n"))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return b.Bytes()
}

// elfFile is a program of Linux with a loader and libraries, and nothing in it to run.
func elfFile(loader string, libraries []string) []byte {
	const headers, base = 64 + 3*56, 0
	text := []byte(loader + "\x00")
	strtab := []byte{0}
	var dynamic []uint64
	for _, l := range libraries {
		dynamic = append(dynamic, 1, uint64(len(strtab)))
		strtab = append(strtab, l+"\x00"...)
	}
	atText := uint64(headers)
	atStrings := atText + uint64(len(text))
	atDynamic := (atStrings + uint64(len(strtab)) + 7) &^ 7
	dynamic = append(dynamic, 5, atStrings, 10, uint64(len(strtab)), 0, 0)
	atSections := atDynamic + uint64(len(dynamic)*8)
	var b bytes.Buffer
	put := func(values ...any) {
		for _, v := range values {
			_ = binary.Write(&b, binary.LittleEndian, v)
		}
	}
	b.WriteString("\x7fELF\x02\x01\x01" + strings.Repeat("\x00", 9))
	put(uint16(2), uint16(62), uint32(1), uint64(0), uint64(64), atSections, uint32(0), uint16(64), uint16(56), uint16(3), uint16(64), uint16(3), uint16(0))
	segment := func(kind uint32, at, size uint64) {
		put(kind, uint32(4), at, at, at, size, size, uint64(8))
	}
	segment(1, base, atSections)
	segment(3, atText, uint64(len(text)))
	segment(2, atDynamic, uint64(len(dynamic)*8))
	b.Write(text)
	b.Write(strtab)
	for uint64(b.Len()) < atDynamic {
		b.WriteByte(0)
	}
	put(dynamic)
	section := func(kind uint32, at, size uint64, link uint32, each uint64) {
		put(uint32(0), kind, uint64(0), at, at, size, link, uint32(0), uint64(1), each)
	}
	section(0, 0, 0, 0, 0)
	section(3, atStrings, uint64(len(strtab)), 0, 0)
	section(6, atDynamic, uint64(len(dynamic)*8), 1, 16)
	return b.Bytes()
}

// peFile is a program of Windows with a product's version among its resources.
func peFile(version string) []byte {
	var resources bytes.Buffer
	for _, text := range []string{"ProductVersion", version} {
		_ = binary.Write(&resources, binary.LittleEndian, append(utf16.Encode([]rune(text)), 0))
	}
	var b bytes.Buffer
	put := func(values ...any) {
		for _, v := range values {
			_ = binary.Write(&b, binary.LittleEndian, v)
		}
	}
	b.WriteString("MZ" + strings.Repeat("\x00", 58))
	put(uint32(64))
	b.WriteString("PE\x00\x00")
	put(uint16(0x8664), uint16(1), uint32(0), uint32(0), uint32(0), uint16(0), uint16(0))
	name := [8]byte{}
	copy(name[:], ".rsrc")
	at := uint32(b.Len() + 40)
	put(name, uint32(resources.Len()), at, uint32(resources.Len()), at, uint32(0), uint32(0), uint16(0), uint16(0), uint32(0))
	b.Write(resources.Bytes())
	return b.Bytes()
}

// tellInventory writes all that an inventory holds, a line for each thing.
func tellInventory(inv inventory.Inventory) string {
	var b strings.Builder
	for _, in := range inv.Installations {
		words := []string{in.Tool, cmpOr(in.Version, "-")}
		for _, w := range []string{in.Vendor, in.Variant, in.Package} {
			if w != "" {
				words = append(words, w)
			}
		}
		fmt.Fprintf(&b, "%s %s %s %s %s in %s", strings.Join(words, " "), in.Arch, in.Origin, in.Health, in.Path, in.Home)
		if in.Own != in.Home {
			b.WriteString("; alone " + in.Own)
		}
		if in.SystemPackage != "" {
			b.WriteString("; of " + in.SystemPackage)
		}
		tellParts(&b, in.Parts)
		for _, list := range []struct {
			name string
			of   map[string]string
		}{{"components", in.Components}, {"packages", in.Packages}} {
			var all []string
			for name, version := range list.of {
				all = append(all, name+" "+version)
			}
			if slices.Sort(all); len(all) > 0 {
				b.WriteString("; " + list.name + " " + strings.Join(all, ", "))
			}
		}
		if in.HealthReason != "" {
			b.WriteString("; " + in.HealthReason)
		}
		b.WriteByte('\n')
	}
	for _, p := range inv.FirstOnPath {
		fmt.Fprintf(&b, "path %s %s %s", p.Tool, p.Path, p.Version)
		if p.Shim {
			b.WriteString(" by proxy")
		}
		b.WriteByte('\n')
	}
	for _, d := range inv.Defaults {
		fmt.Fprintf(&b, "default %s %s from %s\n", d.Tool, d.Raw, d.Source)
	}
	for _, o := range inv.Overrides {
		fmt.Fprintf(&b, "override %s %s=%s\n", o.Tool, o.Variable, o.Raw)
	}
	tellAround(&b, inv)
	return b.String()
}

func tellParts(b *strings.Builder, parts map[string]bool) {
	var has, lacks []string
	for name, there := range parts {
		if there {
			has = append(has, name)
		} else {
			lacks = append(lacks, name)
		}
	}
	slices.Sort(has)
	slices.Sort(lacks)
	switch {
	case len(has) > 0 && len(lacks) > 0:
		fmt.Fprintf(b, "; has %s, not %s", strings.Join(has, " "), strings.Join(lacks, " "))
	case len(has) > 0:
		b.WriteString("; has " + strings.Join(has, " "))
	case len(lacks) > 0:
		b.WriteString("; not " + strings.Join(lacks, " "))
	}
}

func tellAround(b *strings.Builder, inv inventory.Inventory) {
	for _, p := range inv.Proxies {
		fmt.Fprintf(b, "proxy %s %s -> %s", p.Tool, p.Path, p.Picks)
		if p.Because != "" {
			b.WriteString(": " + p.Because)
		}
		b.WriteByte('\n')
		for _, f := range p.Folders {
			fmt.Fprintf(b, "  in %s %s %s, %s\n", f.Folder, f.Raw, f.Version, f.Source)
		}
	}
	for _, l := range inv.Startup {
		if l.File != "/etc/profile" {
			fmt.Fprintf(b, "startup %s=%s %s:%d\n", l.Variable, l.Value, l.File, l.Line)
		}
	}
	for _, w := range inv.Editors {
		fmt.Fprintf(b, "editor %s %s %s %s -> %s %s", w.Editor, w.Tool, w.Kind, w.Name, w.Path, w.Version)
		if w.Default {
			b.WriteString(" default")
		}
		fmt.Fprintf(b, " at %s:%d\n", w.Source, w.Line)
	}
	for _, f := range inv.SearchPath {
		if !f.There {
			b.WriteString("absent " + f.Folder + "\n")
		}
	}
}

func cmpOr(a, b string) string {
	if a == "" {
		return b
	}
	return a
}
