// Package image unpacks container images as they are kept in files: an archive or folder of
// layers, in the form that engines save or in the open layout, or an archive of a whole
// root. Nothing of an image is run, and nothing is written outside the folder it goes to.
package image

import (
	"archive/tar"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
)

// Image is what an image says of itself.
type Image struct {
	Name string // empty where none is written there
	OS   string
	Arch string
	Env  map[string]string
	Path []string // its PATH; nil where it has none
	User string
}

// ErrNone is of what is no image.
var ErrNone = errors.New("it is no container image: neither an archive or folder of layers, nor the archive of a root")

// maxDocument is up to which size descriptions are read, in bytes.
const maxDocument = 4 << 20

// Is reports whether a file or folder looks like an image: a file that is an archive, or a
// folder with a description of layers.
func Is(at string) bool {
	info, err := os.Stat(at)
	switch {
	case err != nil:
		return false
	case info.IsDir():
		return exists(filepath.Join(at, "manifest.json")) && !exists(filepath.Join(at, "usr")) || exists(filepath.Join(at, "oci-layout"))
	}
	return info.Mode().IsRegular()
}

func exists(at string) bool {
	_, err := os.Lstat(at)
	return err == nil
}

// Unpack writes the root of an image into an empty folder.
func Unpack(ctx context.Context, at, into string) (Image, error) {
	room := &allowance{dir: into, packed: -1, free: freeOn}
	if info, err := os.Stat(at); err == nil && !info.IsDir() {
		room.packed = info.Size()
	}
	s, err := open(ctx, at, room)
	if err != nil {
		return Image{}, err
	}
	defer s.close()
	w, err := newWriter(ctx, into, room)
	if err != nil {
		return Image{}, err
	}
	defer w.close()
	switch {
	case s.has("oci-layout") || s.has("index.json"):
		return s.open(w)
	case s.has("manifest.json"):
		return s.saved(w)
	case s.has("usr") || s.has("etc") || s.has("bin"):
		return s.root(w)
	}
	return Image{}, ErrNone
}

// source is where the parts of an image lie: in a folder, or in an archive whose entries
// are found by their places.
type source struct {
	ctx     context.Context
	dir     *os.Root
	file    *os.File
	entries map[string]place
	folders map[string]bool
	temp    string
	room    *allowance
}

// place is where an entry of an archive lies.
type place struct{ at, size int64 }

func open(ctx context.Context, at string, room *allowance) (*source, error) {
	info, err := os.Stat(at)
	if err != nil {
		return nil, err
	}
	s := &source{ctx: ctx, room: room, entries: map[string]place{}, folders: map[string]bool{}}
	if info.IsDir() {
		s.dir, err = os.OpenRoot(at)
		return s, err
	}
	if s.file, err = os.Open(at); err != nil {
		return nil, err
	}
	if err := s.index(); err != nil {
		s.close()
		return nil, err
	}
	return s, nil
}

func (s *source) close() {
	if s.dir != nil {
		_ = s.dir.Close()
	}
	if s.file != nil {
		_ = s.file.Close()
	}
	if s.temp != "" {
		_ = os.Remove(s.temp)
	}
}

// maxEntries is how many entries an archive may have.
const maxEntries = 2_000_000

// index finds the entries of an archive. One that is compressed is unpacked to a file first.
func (s *source) index() error {
	head := make([]byte, len(zstdMagic))
	if _, err := io.ReadFull(s.file, head); err != nil {
		return ErrNone
	}
	if _, err := s.file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	if isCompressed(head) {
		if err := s.inflate(); err != nil {
			return err
		}
	}
	archive := tar.NewReader(s.file)
	for n := 0; ; n++ {
		h, err := archive.Next()
		switch {
		case errors.Is(err, io.EOF):
			return nil
		case err != nil && n == 0:
			return ErrNone
		case err != nil:
			return fmt.Errorf("the archive is damaged: %w", err)
		case n > maxEntries:
			return fmt.Errorf("the archive has more than %d entries", maxEntries)
		case s.ctx.Err() != nil:
			return s.ctx.Err()
		}
		at, err := s.file.Seek(0, io.SeekCurrent)
		if err != nil {
			return err
		}
		name := path.Clean("/" + h.Name)[1:]
		first, _, _ := strings.Cut(name, "/")
		s.folders[first] = true
		if h.Typeflag == tar.TypeReg {
			s.entries[name] = place{at, h.Size}
		}
		if h.Typeflag == tar.TypeSymlink { // engines save a layer once, and links to it
			s.entries[name] = s.entries[path.Join(path.Dir(name), h.Linkname)]
		}
	}
}

func (s *source) inflate() error {
	z, err := decompressed(s.file)
	if err != nil {
		return ErrNone
	}
	defer z.Close()
	temp, err := os.CreateTemp("", "wexo-image-")
	if err != nil {
		return err
	}
	s.temp = temp.Name()
	_, err = io.Copy(s.room.writer(temp), reader{s.ctx, z})
	_ = s.file.Close()
	s.file = temp
	if err != nil {
		return fmt.Errorf("the archive cannot be unpacked: %w", err)
	}
	_, err = temp.Seek(0, io.SeekStart)
	return err
}

// reader ends with its context.
type reader struct {
	ctx context.Context
	io.Reader
}

func (r reader) Read(p []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	return r.Reader.Read(p)
}

func (s *source) has(name string) bool {
	if s.dir != nil {
		_, err := s.dir.Lstat(name)
		return err == nil
	}
	_, there := s.entries[name]
	return there || s.folders[name]
}

// part opens one part.
func (s *source) part(name string) (io.ReadCloser, error) {
	name = path.Clean("/" + name)[1:]
	if s.dir != nil {
		f, err := s.dir.Open(filepath.FromSlash(name))
		if err != nil {
			return nil, fmt.Errorf("%s is missing", name)
		}
		return f, nil
	}
	at, there := s.entries[name]
	if !there {
		return nil, fmt.Errorf("%s is missing", name)
	}
	return io.NopCloser(io.NewSectionReader(s.file, at.at, at.size)), nil
}

func (s *source) document(name string, into any) error {
	f, err := s.part(name)
	if err != nil {
		return err
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, maxDocument))
	if err != nil {
		return err
	}
	if err := json.Unmarshal(data, into); err != nil {
		return fmt.Errorf("%s cannot be understood: %w", name, err)
	}
	return nil
}

// config is what an image is started with.
type config struct {
	Architecture string `json:"architecture"`
	OS           string `json:"os"`
	Config       struct {
		Env  []string `json:"Env"`
		User string   `json:"User"`
	} `json:"config"`
}

func (c config) image(name string) Image {
	out := Image{Name: name, OS: c.OS, Arch: c.Architecture, Env: map[string]string{}, User: c.Config.User}
	for _, pair := range c.Config.Env {
		key, value, _ := strings.Cut(pair, "=")
		out.Env[key] = value
	}
	if at, ok := out.Env["PATH"]; ok {
		out.Path = strings.Split(at, ":")
	}
	return out
}

// saved unpacks the form in which engines save images.
func (s *source) saved(w *writer) (Image, error) {
	var all []struct {
		Config   string
		RepoTags []string
		Layers   []string
	}
	if err := s.document("manifest.json", &all); err != nil {
		return Image{}, err
	}
	if len(all) == 0 {
		return Image{}, ErrNone
	}
	if len(all) > 1 {
		return Image{}, fmt.Errorf("it holds %d images; save one of them alone", len(all))
	}
	var c config
	if err := s.document(all[0].Config, &c); err != nil {
		return Image{}, err
	}
	for _, layer := range all[0].Layers {
		if err := s.layer(w, layer); err != nil {
			return Image{}, err
		}
	}
	name := ""
	if len(all[0].RepoTags) > 0 {
		name = all[0].RepoTags[0]
	}
	return c.image(name), nil
}

// described is a reference of the open layout.
type described struct {
	MediaType string `json:"mediaType"`
	Digest    string `json:"digest"`
	Platform  *struct {
		Architecture string `json:"architecture"`
		OS           string `json:"os"`
	} `json:"platform"`
	Annotations map[string]string `json:"annotations"`
}

// blob is the part that a digest names.
func (d described) blob() (string, error) {
	algorithm, sum, ok := strings.Cut(d.Digest, ":")
	if !ok || strings.ContainsAny(d.Digest, "/\\.") {
		return "", fmt.Errorf("%q is no digest", d.Digest)
	}
	return path.Join("blobs", algorithm, sum), nil
}

// open unpacks the open layout: of several platforms the one of this machine, or the first.
func (s *source) open(w *writer) (Image, error) {
	name, at := "", "index.json"
	for deep := 0; deep < 4; deep++ {
		var m struct {
			Manifests []described `json:"manifests"`
			Config    *described  `json:"config"`
			Layers    []described `json:"layers"`
		}
		if err := s.document(at, &m); err != nil {
			return Image{}, err
		}
		if m.Config != nil {
			return s.manifest(w, *m.Config, m.Layers, name)
		}
		list := slices.DeleteFunc(m.Manifests, func(d described) bool { return d.Platform != nil && d.Platform.OS == "unknown" })
		if len(list) == 0 {
			return Image{}, ErrNone
		}
		one := list[0]
		for _, d := range list {
			if d.Platform != nil && d.Platform.Architecture == runtime.GOARCH {
				one = d
				break
			}
		}
		for _, key := range []string{"io.containerd.image.name", "org.opencontainers.image.ref.name"} {
			if name == "" {
				name = one.Annotations[key]
			}
		}
		var err error
		if at, err = one.blob(); err != nil {
			return Image{}, err
		}
	}
	return Image{}, ErrNone
}

func (s *source) manifest(w *writer, about described, layers []described, name string) (Image, error) {
	var c config
	at, err := about.blob()
	if err == nil {
		err = s.document(at, &c)
	}
	for _, layer := range layers {
		if err == nil {
			if at, err = layer.blob(); err == nil {
				err = s.layer(w, at)
			}
		}
	}
	return c.image(name), err
}

// layer unpacks one layer over those before it.
func (s *source) layer(w *writer, name string) error {
	f, err := s.part(name)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := w.layer(f); err != nil {
		return fmt.Errorf("layer %s: %w", name, err)
	}
	return nil
}

// root unpacks the archive of a whole root.
func (s *source) root(w *writer) (Image, error) {
	if _, err := s.file.Seek(0, io.SeekStart); err != nil {
		return Image{}, err
	}
	return Image{Env: map[string]string{}}, w.layer(s.file)
}
