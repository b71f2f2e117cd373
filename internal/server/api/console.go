package api

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
)

// console serves the built console: its files, each compressed once and not for everybody who
// asks, and its one document on its pages.
type console struct {
	files fs.FS
	mu    sync.Mutex
	kept  map[string]*asset
}

// asset is a file of the console as it is sent.
type asset struct{ plain, small []byte }

// least is from which size on a file is compressed, in bytes.
const least = 1024

// consolePages are the pages of the console; those with a slash at the end are one for each name.
var consolePages = []string{"/", "/matrix", "/findings", "/machines", "/compare", "/words", "/sign-in", "/repositories/", "/machines/"}

// isPage reports whether a path is one of the console's pages.
func isPage(at string) bool {
	return slices.ContainsFunc(consolePages, func(page string) bool {
		rest, below := strings.CutPrefix(at, page)
		return at == page && (page == "/" || !strings.HasSuffix(page, "/")) || below && page != "/" && strings.HasSuffix(page, "/") && rest != ""
	})
}

// serve answers a path that is no call. What is neither a file nor a page is not found; a
// browser is shown so by the console itself.
func (f *console) serve(c *echo.Context) error {
	name := strings.TrimPrefix(c.Request().URL.Path, "/")
	if a := f.asset(name); a != nil && name != frontPage {
		if strings.HasPrefix(name, "assets/") {
			c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		}
		return a.send(c, name, http.StatusOK)
	}
	status := http.StatusOK
	if !isPage(c.Request().URL.Path) {
		if status = http.StatusNotFound; !strings.Contains(c.Request().Header.Get("Accept"), "text/html") || strings.HasPrefix(name, "assets/") {
			return problem(status, "There is no such file or page.")
		}
	}
	page := f.asset(frontPage)
	if page == nil {
		return problem(http.StatusNotFound, "This binary was built without the console; build it with: make build")
	}
	c.Response().Header().Set("Cache-Control", "no-cache")
	return page.send(c, frontPage, status)
}

// frontPage is the console's one document.
const frontPage = "index.html"

// asset is a file of the console, compressed the first time that somebody asks for it; nil
// where there is none.
func (f *console) asset(name string) *asset {
	if !fs.ValidPath(name) || name == "." {
		return nil
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if a, known := f.kept[name]; known {
		return a
	}
	info, err := fs.Stat(f.files, name)
	if err != nil || info.IsDir() {
		return nil // what is not there is not remembered: there are many names
	}
	data, err := fs.ReadFile(f.files, name)
	if err != nil {
		return nil
	}
	a := &asset{plain: data}
	if len(data) >= least {
		a.small = compressed(data)
	}
	f.kept[name] = a
	return a
}

// compressed is a text as it is sent; nil where that makes nothing smaller.
func compressed(data []byte) []byte {
	var b bytes.Buffer
	w, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
	if err == nil {
		_, err = w.Write(data)
	}
	if err != nil || w.Close() != nil || b.Len() >= len(data) {
		return nil
	}
	return b.Bytes()
}

// send sends a file, whole or as much of it as is asked for.
func (a *asset) send(c *echo.Context, name string, status int) error {
	h := c.Response().Header()
	if kind := mime.TypeByExtension(path.Ext(name)); kind != "" {
		h.Set("Content-Type", kind)
	}
	h.Add("Vary", "Accept-Encoding")
	data := a.plain
	if a.small != nil && strings.Contains(c.Request().Header.Get("Accept-Encoding"), "gzip") {
		h.Set("Content-Encoding", "gzip")
		data = a.small
	}
	if status != http.StatusOK {
		return c.Blob(status, h.Get("Content-Type"), data)
	}
	http.ServeContent(c.Response(), c.Request(), name, time.Time{}, bytes.NewReader(data))
	return nil
}
