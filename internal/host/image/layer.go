package image

import (
	"archive/tar"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

const (
	// mostKept is how much of most files is written, in bytes; the rest of a larger one is a
	// hole of the same length. Nobody looks further into one.
	mostKept = 16 << 20
	// mostWhole is how much is written of what is looked through: executables, and files in
	// which a system keeps its packages.
	mostWhole = 512 << 20
)

// writer writes layers over each other below a folder that nothing leads out of.
type writer struct {
	ctx     context.Context
	root    *os.Root
	room    *allowance
	entries int
}

func newWriter(ctx context.Context, into string, room *allowance) (*writer, error) {
	root, err := os.OpenRoot(into)
	if err != nil {
		return nil, err
	}
	return &writer{ctx: ctx, root: root, room: room}, nil
}

func (w *writer) close() { _ = w.root.Close() }

// Files that say what a layer takes away of those below it: one file, or all of a folder.
const (
	whiteout = ".wh."
	opaque   = ".wh..wh..opq"
)

// layer writes one layer, which may be compressed.
func (w *writer) layer(from io.Reader) error {
	unpacked, err := decompressed(reader{w.ctx, from})
	if err != nil {
		return fmt.Errorf("it is damaged: %w", err)
	}
	defer unpacked.Close()
	archive := tar.NewReader(unpacked)
	own := map[string]bool{} // what this layer has brought
	for {
		h, err := archive.Next()
		switch {
		case errors.Is(err, io.EOF):
			return nil
		case err != nil:
			return fmt.Errorf("it is damaged: %w", err)
		}
		if w.entries++; w.entries > maxEntries {
			return fmt.Errorf("it has more than %d entries", maxEntries)
		}
		if err := w.entry(h, archive, own); err != nil {
			return err
		}
	}
}

// entry writes one entry. What cannot be written where it should is left out: it costs
// itself alone.
func (w *writer) entry(h *tar.Header, content io.Reader, own map[string]bool) error {
	name := path.Clean("/" + h.Name)[1:]
	if name == "" {
		return nil
	}
	dir, err := w.folder(path.Dir("/" + name))
	if err != nil {
		return nil
	}
	base := path.Base(name)
	at := path.Join(dir, base)
	switch {
	case base == opaque:
		w.clear(dir, own)
		return nil
	case strings.HasPrefix(base, whiteout):
		_ = w.root.RemoveAll(local(path.Join(dir, strings.TrimPrefix(base, whiteout))))
		return nil
	}
	own[at] = true
	mode := fs.FileMode(h.Mode).Perm()
	switch h.Typeflag {
	case tar.TypeDir:
		w.makeFolder(at)
	case tar.TypeSymlink:
		_ = w.root.RemoveAll(local(at))
		_ = w.root.Symlink(h.Linkname, local(at))
	case tar.TypeLink:
		target := path.Clean("/" + h.Linkname)
		if above, err := w.folder(path.Dir(target)); err == nil {
			_ = w.root.RemoveAll(local(at))
			_ = w.root.Link(local(path.Join(above, path.Base(target))), local(at))
		}
	case tar.TypeReg:
		return w.file(at, mode, h.Size, h.ModTime, content)
	}
	return nil
}

// makeFolder makes a folder, in place of a file that was there; a link to one stays.
func (w *writer) makeFolder(at string) {
	info, err := w.root.Lstat(local(at))
	if err == nil && (info.IsDir() || info.Mode()&fs.ModeSymlink != 0) {
		return
	}
	if err == nil {
		_ = w.root.RemoveAll(local(at))
	}
	_ = w.root.Mkdir(local(at), 0o755)
}

func (w *writer) file(at string, mode fs.FileMode, size int64, changed time.Time, content io.Reader) error {
	_ = w.root.RemoveAll(local(at))
	f, err := w.root.OpenFile(local(at), os.O_CREATE|os.O_WRONLY|os.O_EXCL, mode|0o600)
	if err != nil {
		return nil
	}
	defer f.Close()
	most := int64(mostKept)
	if keepsPackages(at) || mode&0o111 != 0 {
		most = mostWhole
	}
	n, err := io.Copy(w.room.writer(f), io.LimitReader(content, most))
	if err != nil {
		return fmt.Errorf("%s cannot be written: %w", at, err)
	}
	if size > n {
		if err := f.Truncate(size); err != nil {
			return fmt.Errorf("%s cannot be written: %w", at, err)
		}
	}
	_ = w.root.Chtimes(local(at), changed, changed)
	return nil
}

// keepsPackages reports whether a file lies where a system keeps its packages: those are
// read whole.
func keepsPackages(at string) bool {
	return slices.ContainsFunc([]string{"/var/lib/dpkg/", "/var/lib/rpm/", "/usr/lib/sysimage/rpm/", "/lib/apk/db/", "/usr/lib/apk/db/"}, func(dir string) bool { return strings.HasPrefix(at, dir) })
}

// clear takes away what lower layers have in a folder.
func (w *writer) clear(dir string, own map[string]bool) {
	f, err := w.root.Open(local(dir))
	if err != nil {
		return
	}
	names, _ := f.Readdirnames(-1)
	_ = f.Close()
	for _, name := range names {
		if at := path.Join(dir, name); !own[at] {
			_ = w.root.RemoveAll(local(at))
		}
	}
}

// local is a path of the image as the root takes it.
func local(at string) string {
	at = strings.TrimPrefix(path.Clean(at), "/")
	if at == "" {
		return "."
	}
	return filepath.FromSlash(at)
}

// folder finds a folder of the image, with its links followed as the image itself would, and
// makes what is missing of it.
func (w *writer) folder(at string) (string, error) {
	done, rest := "/", strings.Split(strings.Trim(path.Clean(at), "/"), "/")
	for hops := 0; len(rest) > 0; {
		part := rest[0]
		rest = rest[1:]
		switch part {
		case "", ".":
			continue
		case "..":
			done = path.Dir(done)
			continue
		}
		next := path.Join(done, part)
		info, err := w.root.Lstat(local(next))
		switch {
		case errors.Is(err, fs.ErrNotExist):
			if err := w.root.Mkdir(local(next), 0o755); err != nil {
				return "", err
			}
			done = next
		case err != nil:
			return "", err
		case info.Mode()&fs.ModeSymlink != 0:
			if hops++; hops > 40 {
				return "", errors.New("links lead in a circle")
			}
			target, err := w.root.Readlink(local(next))
			if err != nil {
				return "", err
			}
			if strings.HasPrefix(target, "/") {
				done = "/"
			}
			rest = append(strings.Split(target, "/"), rest...)
		case info.IsDir():
			done = next
		default:
			return "", errors.New("a file stands where a folder should")
		}
	}
	return done, nil
}
