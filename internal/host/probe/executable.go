package probe

import (
	"bytes"
	"debug/elf"
	"debug/macho"
	"debug/pe"
	"encoding/binary"
	"io"
	"path"
	"regexp"
	"strings"
	"unicode/utf16"
)

// archOf is the architecture an executable is built for; empty where it does not tell.
func archOf(d disk, at string) string {
	f, err := d.open(at)
	if err != nil {
		return ""
	}
	defer f.Close()
	head := make([]byte, 4096)
	n, _ := io.ReadFull(f, head)
	head = head[:n]
	switch {
	case n > 20 && bytes.HasPrefix(head, []byte(elf.ELFMAG)):
		return elfArch(head)
	case n > 8 && binary.LittleEndian.Uint32(head) == macho.Magic64:
		return machoArch(macho.Cpu(binary.LittleEndian.Uint32(head[4:])))
	case n > 64 && bytes.HasPrefix(head, []byte("MZ")):
		at := int(binary.LittleEndian.Uint32(head[60:]))
		if at > 0 && at+6 < n && bytes.HasPrefix(head[at:], []byte("PE\x00\x00")) {
			return peArch(binary.LittleEndian.Uint16(head[at+4:]))
		}
	}
	return ""
}

func elfArch(head []byte) string {
	machine := binary.LittleEndian.Uint16(head[18:])
	if head[elf.EI_DATA] == byte(elf.ELFDATA2MSB) {
		machine = binary.BigEndian.Uint16(head[18:])
	}
	switch elf.Machine(machine) {
	case elf.EM_X86_64:
		return "amd64"
	case elf.EM_AARCH64:
		return "arm64"
	case elf.EM_386:
		return "386"
	case elf.EM_ARM:
		return "arm"
	case elf.EM_RISCV:
		return "riscv64"
	case elf.EM_PPC64:
		return "ppc64le"
	case elf.EM_S390:
		return "s390x"
	}
	return ""
}

func machoArch(cpu macho.Cpu) string {
	switch cpu {
	case macho.CpuAmd64:
		return "amd64"
	case macho.CpuArm64:
		return "arm64"
	}
	return ""
}

func peArch(machine uint16) string {
	switch machine {
	case pe.IMAGE_FILE_MACHINE_AMD64:
		return "amd64"
	case pe.IMAGE_FILE_MACHINE_ARM64:
		return "arm64"
	case pe.IMAGE_FILE_MACHINE_I386:
		return "386"
	}
	return ""
}

// maxResources is up to which size the resources of an executable are looked through, in bytes.
const maxResources = 4 << 20

var plainVersion = regexp.MustCompile(`^\d+\.\d+(?:\.\d+)?(?:\S*)?$`)

// resourceVersion is the product's version as the resources of a Windows executable tell it.
func resourceVersion(d disk, at string) string {
	file, err := d.open(at)
	if err != nil {
		return ""
	}
	defer file.Close()
	f, err := pe.NewFile(file)
	if err != nil {
		return ""
	}
	section := f.Section(".rsrc")
	if section == nil {
		return ""
	}
	data := make([]byte, min(int64(section.Size), maxResources))
	if _, err := section.ReadAt(data, 0); err != nil && err != io.EOF {
		return ""
	}
	text := resourceText(data, "ProductVersion")
	if !plainVersion.MatchString(text) {
		return ""
	}
	for strings.HasSuffix(text, ".0") && strings.Count(text, ".") > 2 {
		text = strings.TrimSuffix(text, ".0")
	}
	return text
}

// resourceText is the value of a text among resources: UTF-16, behind its name.
func resourceText(data []byte, name string) string {
	var key []byte
	for _, unit := range utf16.Encode([]rune(name + "\x00")) {
		key = binary.LittleEndian.AppendUint16(key, unit)
	}
	i := bytes.Index(data, key)
	if i < 0 {
		return ""
	}
	data = data[i+len(key):]
	var units []uint16
	for len(data) > 1 && len(units) < 64 {
		unit := binary.LittleEndian.Uint16(data)
		data = data[2:]
		if unit == 0 && len(units) > 0 {
			break
		}
		if unit != 0 {
			units = append(units, unit)
		}
	}
	return strings.TrimSpace(string(utf16.Decode(units)))
}

// libraries finds what an executable is linked with and is not on the machine, of the kind
// that Linux runs: its loader, or a library. It is read, and nothing is run.
func (p *probe) libraries(c *candidate) string {
	file, err := p.disk.open(c.path)
	if err != nil {
		return ""
	}
	defer file.Close()
	f, err := elf.NewFile(file)
	if err != nil {
		return ""
	}
	for _, prog := range f.Progs {
		if prog.Type != elf.PT_INTERP || prog.Filesz > 4096 {
			continue
		}
		name := make([]byte, prog.Filesz)
		if _, err := prog.ReadAt(name, 0); err != nil {
			return ""
		}
		loader := strings.TrimRight(string(name), "\x00")
		if _, err := p.disk.real(loader); err != nil && path.IsAbs(loader) {
			return "its loader " + loader + " is not there"
		}
	}
	needed, err := f.ImportedLibraries()
	if err != nil || len(needed) == 0 {
		return ""
	}
	dirs := p.libraryFolders(f, c.path)
	for _, name := range needed {
		if strings.Contains(name, "/") || p.inOne(dirs, name) {
			continue
		}
		return "the library " + name + " is not there"
	}
	return ""
}

// libraryFolders are where the loader looks for an executable's libraries.
func (p *probe) libraryFolders(f *elf.File, at string) []string {
	var out []string
	for _, tag := range []elf.DynTag{elf.DT_RPATH, elf.DT_RUNPATH} {
		texts, err := f.DynString(tag)
		if err != nil {
			continue
		}
		for _, text := range texts {
			for _, dir := range strings.Split(text, ":") {
				out = append(out, path.Clean(strings.NewReplacer("$ORIGIN", path.Dir(at), "${ORIGIN}", path.Dir(at)).Replace(dir)))
			}
		}
	}
	for _, dir := range strings.Split(p.env("LD_LIBRARY_PATH"), ":") {
		if dir != "" {
			out = append(out, dir)
		}
	}
	return append(out, p.systemLibraries()...)
}

// systemLibraries are the folders of the system's libraries, those of its configuration
// included.
func (p *probe) systemLibraries() []string {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.libs != nil {
		return p.libs
	}
	out := []string{"/lib", "/usr/lib", "/lib64", "/usr/lib64", "/usr/local/lib", "/usr/local/lib64", "/lib32", "/usr/lib32"}
	for _, above := range []string{"/lib", "/usr/lib", "/usr/local/lib"} {
		for _, e := range p.disk.list(above) {
			if strings.Contains(e.Name(), "-linux-") {
				out = append(out, path.Join(above, e.Name()))
			}
		}
	}
	for _, file := range append(p.glob("/etc/ld.so.conf.d/*.conf"), p.glob("/etc/ld-musl-*.path")...) {
		data, err := p.disk.head(file, maxEntry)
		if err != nil {
			continue
		}
		for _, line := range strings.FieldsFunc(string(data), func(r rune) bool { return r == '\n' || r == ':' }) {
			if line = strings.TrimSpace(line); strings.HasPrefix(line, "/") {
				out = append(out, line)
			}
		}
	}
	p.libs = out
	return out
}

func (p *probe) inOne(dirs []string, name string) bool {
	for _, dir := range dirs {
		if _, err := p.disk.real(path.Join(dir, name)); err == nil {
			return true
		}
	}
	return false
}
