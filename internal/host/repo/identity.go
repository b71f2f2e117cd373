package repo

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"net/url"
	"path"
	"path/filepath"
	"regexp"
	"strings"

	"github.com/go-git/gcfg"
)

// Identity is what a repository is, whatever it is called here and whichever others lie
// beside it: where it was cloned from, or else where it lies. Clones of one repository are
// the same one, on whatever machine.
func Identity(l Location) string {
	what := "path " + filepath.ToSlash(l.Path)
	if from := origin(l); from != "" {
		what = "origin " + from
	}
	sum := sha256.Sum256([]byte(what))
	return hex.EncodeToString(sum[:10])
}

// origin is where a git repository was cloned from; empty where that is not told, or told
// only from where it lies. Where its configuration cannot be read whole, what stands before
// the mistake holds.
func origin(l Location) string {
	if l.Kind == Plain {
		return ""
	}
	at, err := Within(nil).refsOf(l)
	if err != nil {
		return ""
	}
	text, err := small(at.common, "config")
	if err != nil {
		return ""
	}
	address := "" // the last one counts, as for git
	_ = gcfg.ReadWithCallback(bytes.NewReader(text), func(section, name, key, value string, _ bool) error {
		if strings.EqualFold(section, "remote") && name == "origin" && strings.EqualFold(key, "url") {
			address = value
		}
		return nil
	})
	return sameAddress(address)
}

var hostColon = regexp.MustCompile(`^(?:[^@/:]+@)?([^@/:]{2,}):([^/].*|/.*)$`) // user@host:path; a letter alone is a drive

// sameAddress is an address without what differs between ways to the same repository:
// protocol, user, port and ending.
func sameAddress(text string) string {
	if m := hostColon.FindStringSubmatch(text); m != nil && !strings.Contains(text, "://") {
		text = "ssh://" + m[1] + "/" + strings.TrimPrefix(m[2], "/")
	}
	u, err := url.Parse(text)
	if err != nil {
		return ""
	}
	where := strings.TrimSuffix(path.Clean("/"+u.Path), ".git")
	switch {
	case u.Host != "":
		return strings.ToLower(u.Hostname()) + where
	case filepath.IsAbs(text) || u.Scheme == "file":
		return where
	}
	return "" // a relative one leads elsewhere from every place
}
