package repo

import (
	"encoding/binary"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"strings"
	"sync"

	"golang.org/x/sys/unix"
)

// folderFS is a folder on disk that nothing leads out of. Files are opened through an
// os.Root. So could folders be listed; but a root opens every folder on the way and asks
// for the state of every entry, which takes longer than all the rest of reading.
type folderFS struct {
	rootFS
	root *os.Root
	dir  *os.File
}

// rootFS is what the file system of an os.Root offers.
type rootFS interface {
	fs.StatFS
	fs.ReadFileFS
	fs.ReadDirFS
	fs.ReadLinkFS
}

func folderOf(root *os.Root) (fs.FS, io.Closer, error) {
	through, ok := root.FS().(rootFS)
	dir, err := root.Open(".")
	if !ok || err != nil {
		return root.FS(), root, err
	}
	f := &folderFS{through, root, dir}
	return f, f, nil
}

// Close frees the folder.
func (f *folderFS) Close() error { return errors.Join(f.dir.Close(), f.root.Close()) }

// beneath is how a folder is opened: no link on the way may lead out of the root.
var beneath = unix.OpenHow{Flags: unix.O_RDONLY | unix.O_DIRECTORY | unix.O_CLOEXEC, Resolve: unix.RESOLVE_BENEATH | unix.RESOLVE_NO_MAGICLINKS}

// ReadDir lists a folder, sorted by name. Where the system cannot say, the root does.
func (f *folderFS) ReadDir(name string) ([]fs.DirEntry, error) {
	if !fs.ValidPath(name) {
		return f.rootFS.ReadDir(name)
	}
	how := beneath
	folder, err := unix.Openat2(int(f.dir.Fd()), name, &how)
	if err != nil {
		return f.rootFS.ReadDir(name)
	}
	defer unix.Close(folder)
	entries, err := f.list(folder, name)
	if err != nil {
		return f.rootFS.ReadDir(name)
	}
	sortEntries(entries)
	return entries, nil
}

var buffers = sync.Pool{New: func() any { return new([32 << 10]byte) }}

func (f *folderFS) list(folder int, name string) ([]fs.DirEntry, error) {
	buffer := buffers.Get().(*[32 << 10]byte)
	defer buffers.Put(buffer)
	var found []listed
	for {
		n, err := unix.Getdents(folder, buffer[:])
		if errors.Is(err, unix.EINTR) {
			continue
		}
		if err != nil || n == 0 {
			return entriesOf(found), err
		}
		text := string(buffer[:n]) // the names are parts of it
		for at := 0; at < n; {
			size := int(binary.NativeEndian.Uint16(buffer[at+direntSize:]))
			base, _, _ := strings.Cut(text[at+direntName:at+size], "\x00")
			kind, known := kinds[buffer[at+direntKind]]
			at += size
			if base == "." || base == ".." {
				continue
			}
			if !known {
				return nil, errUnknownKind
			}
			found = append(found, listed{f, name, base, kind})
		}
	}
}

func entriesOf(found []listed) []fs.DirEntry {
	out := make([]fs.DirEntry, len(found))
	for i := range found {
		out[i] = &found[i]
	}
	return out
}

// Where the parts of a directory entry stand, in bytes.
const (
	direntSize = 16
	direntKind = 18
	direntName = 19
)

// errUnknownKind is a file system that does not say in its listings what is a folder.
var errUnknownKind = errors.New("the kind of an entry is unknown")

var kinds = map[byte]fs.FileMode{
	unix.DT_REG: 0, unix.DT_DIR: fs.ModeDir, unix.DT_LNK: fs.ModeSymlink, unix.DT_FIFO: fs.ModeNamedPipe,
	unix.DT_SOCK: fs.ModeSocket, unix.DT_BLK: fs.ModeDevice, unix.DT_CHR: fs.ModeDevice | fs.ModeCharDevice,
}

// listed is an entry of a folder.
type listed struct {
	fs       *folderFS
	in, name string
	kind     fs.FileMode
}

func (e *listed) Name() string               { return e.name }
func (e *listed) IsDir() bool                { return e.kind.IsDir() }
func (e *listed) Type() fs.FileMode          { return e.kind }
func (e *listed) Info() (fs.FileInfo, error) { return e.fs.Lstat(path.Join(e.in, e.name)) }
