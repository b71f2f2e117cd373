package probe_test

import (
	"encoding/binary"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
)

func proxyOf(inv inventory.Inventory, tool string) (inventory.Proxy, bool) {
	for _, p := range inv.Proxies {
		if p.Tool == tool {
			return p, true
		}
	}
	return inventory.Proxy{}, false
}

// TestStubsFollowTheMachine: a variable beats what the system would take, and a stub with
// nothing behind it is no toolchain.
func TestStubsFollowTheMachine(t *testing.T) {
	m, _ := layMachine(t, "testdata/machines/macbook-stubs.txtar")
	older := "/Library/Java/JavaVirtualMachines/temurin-17.jdk/Contents/Home"
	m.Env = map[string]string{"JAVA_HOME": older}
	java, ok := proxyOf(take(t, m), "java")
	require.True(t, ok)
	assert.Equal(t, older, java.Picks)
	assert.Equal(t, "the variable JAVA_HOME", java.Because)

	m.Bare = true
	java, _ = proxyOf(take(t, m), "java")
	assert.Equal(t, "21.0.5", java.Version, "as if no variable chose")

	for _, dir := range []string{"Library/Java", "Users/fern/Library/Java", "Library/Developer"} {
		require.NoError(t, os.RemoveAll(filepath.Join(m.Files, dir)))
	}
	inv := take(t, m)
	assert.Empty(t, inv.Proxies)
	assert.Empty(t, inv.FirstOnPath)
	assert.Empty(t, inv.Installations, "and the stubs themselves are none")
	assert.Empty(t, inv.SearchPath)
}

// TestStubsInACircle: one that leads to itself has nothing behind it.
func TestStubsInACircle(t *testing.T) {
	m, _ := layMachine(t, "testdata/machines/macbook-stubs.txtar")
	at := filepath.Join(m.Files, "Library/Developer/CommandLineTools/usr/bin/python3")
	require.NoError(t, os.Remove(at))
	require.NoError(t, os.Symlink("/usr/bin/python3", at))
	_, ok := proxyOf(take(t, m), "python")
	assert.False(t, ok)
}

// TestProcessors reads for which processor an executable is, of every system.
func TestProcessors(t *testing.T) {
	elf := func(order binary.ByteOrder, machine uint16) []byte {
		head := append([]byte("\x7fELF\x02\x01"), make([]byte, 58)...)
		if order == binary.BigEndian {
			head[5] = 2
		}
		order.PutUint16(head[18:], machine)
		return head
	}
	macho := func(cpu uint32) []byte {
		head := make([]byte, 32)
		binary.LittleEndian.PutUint32(head, 0xfeedfacf)
		binary.LittleEndian.PutUint32(head[4:], cpu)
		return head
	}
	pe := func(machine uint16) []byte {
		head := append([]byte("MZ"), make([]byte, 126)...)
		head[60] = 64
		copy(head[64:], "PE\x00\x00")
		binary.LittleEndian.PutUint16(head[68:], machine)
		return head
	}
	for name, c := range map[string]struct {
		head []byte
		want string
	}{
		"linux amd64": {elf(binary.LittleEndian, 62), "amd64"}, "linux arm64": {elf(binary.LittleEndian, 183), "arm64"}, "linux 386": {elf(binary.LittleEndian, 3), "386"},
		"linux arm": {elf(binary.LittleEndian, 40), "arm"}, "linux riscv": {elf(binary.LittleEndian, 243), "riscv64"}, "linux s390x": {elf(binary.BigEndian, 22), "s390x"},
		"mac arm64": {macho(0x0100000c), "arm64"}, "mac amd64": {macho(0x01000007), "amd64"},
		"windows amd64": {pe(0x8664), "amd64"}, "windows arm64": {pe(0xaa64), "arm64"}, "windows 386": {pe(0x14c), "386"},
		"a script": {[]byte("#!/bin/sh\n"), "mips"}, "cut off": {[]byte("\x7fELF"), "mips"},
	} {
		m, _ := layMachine(t, "testdata/machines/pointed-at.txtar")
		m.Info.Arch = "mips" // which is told where the executable does not
		java := filepath.Join(m.Files, "var/data/jdk-21/bin/java")
		require.NoError(t, os.WriteFile(java, c.head, 0o755))
		for _, in := range take(t, m).Installations {
			if in.Tool == "java" {
				assert.Equal(t, c.want, in.Arch, name)
			}
		}
	}
}

// TestAProxyLeavesTheChoice to what stands behind it on PATH, where its setting says so.
func TestAProxyLeavesTheChoice(t *testing.T) {
	m, _ := layMachine(t, "testdata/machines/script-proxies.txtar")
	layFile(t, filepath.Join(m.Files, "usr/bin/python3"), []byte("exec"))
	layFile(t, filepath.Join(m.Files, "usr/lib/python3.11/os.py"), nil)
	layFile(t, filepath.Join(m.Files, "usr/include/python3.11/patchlevel.h"), []byte("#define PY_VERSION \"3.11.2\"\n"))
	require.NoError(t, os.WriteFile(filepath.Join(m.Files, "home/fern/.shed/version"), []byte("system\n"), 0o644))
	m.Path = []string{"/home/fern/.shed/shims", "/usr/bin"}
	python, ok := proxyOf(take(t, m), "python")
	require.True(t, ok)
	assert.Equal(t, "/usr", python.Picks)
	assert.Equal(t, "3.11.2", python.Version)
	assert.Equal(t, "system, ~/.shed/version", python.Because)
}
