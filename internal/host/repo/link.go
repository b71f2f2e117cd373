package repo

import (
	_ "embed"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"
)

//go:embed links.yaml
var linksYAML []byte

// hosts are the kinds of hosts that are known, with where they show a file.
var hosts = sync.OnceValue(func() []struct{ Holds, At string } {
	var list []struct{ Holds, At string }
	if err := yaml.Unmarshal(linksYAML, &list); err != nil { // it is a part of the program
		panic(err)
	}
	return list
})

// FileLink is where the host of a repository shows its files at a commit, with {file} and
// {line} in place of these; empty where the repository has no address, or nobody knows how its
// host shows files. Templates of the user's are by globs of hosts, and win.
func FileLink(l Location, commit string, templates map[string]string) string {
	host, rest, ok := strings.Cut(origin(l), "/")
	if !ok || host == "" || rest == "" || commit == "" {
		return ""
	}
	var parts []string
	for part := range strings.SplitSeq(rest, "/") {
		parts = append(parts, url.PathEscape(part))
	}
	return strings.NewReplacer("{host}", host, "{path}", strings.Join(parts, "/"), "{commit}", url.PathEscape(commit)).Replace(linkOf(host, templates))
}

func linkOf(host string, templates map[string]string) string {
	for glob, template := range templates {
		if ok, err := path.Match(glob, host); ok && err == nil {
			return template
		}
	}
	at := slices.IndexFunc(hosts(), func(h struct{ Holds, At string }) bool { return strings.Contains(host, h.Holds) })
	if at < 0 {
		return ""
	}
	return hosts()[at].At
}
