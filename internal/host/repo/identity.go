package repo

import (
	"crypto/sha256"
	"encoding/hex"
	"net/url"
	"path"
	"path/filepath"
	"regexp"
	"strings"
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

var (
	remoteSection = regexp.MustCompile(`(?i)^\[remote "origin"\]`)
	remoteURL     = regexp.MustCompile(`(?i)^url\s*=\s*"?([^"#;]+?)"?\s*$`)
	hostColon     = regexp.MustCompile(`^(?:[^@/:]+@)?([^@/:]{2,}):([^/].*|/.*)$`) // user@host:path; a letter alone is a drive
)

// origin is where a git repository was cloned from; empty where that is not told, or told
// only from where it lies.
func origin(l Location) string {
	if l.Kind == Plain {
		return ""
	}
	at, err := Within(nil).refsOf(l)
	if err != nil {
		return ""
	}
	text, err := small(filepath.Join(at.common, "config"))
	if err != nil {
		return ""
	}
	inside := false
	for line := range strings.Lines(string(text)) {
		line = strings.TrimSpace(line)
		switch m := remoteURL.FindStringSubmatch(line); {
		case strings.HasPrefix(line, "["):
			inside = remoteSection.MatchString(line)
		case inside && m != nil:
			return sameAddress(m[1])
		}
	}
	return ""
}

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
