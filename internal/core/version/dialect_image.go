package version

import (
	"errors"
	"strings"
)

// parseImageTag reads the tag of a container image: a version or the beginning of one,
// and labels, which bound nothing here. Digests and tags that name no version are told
// apart.
func parseImageTag(s Scheme, raw string) (Set, error) {
	tag := strings.TrimSpace(raw)
	if strings.HasPrefix(tag, "sha256:") || strings.ContainsAny(tag, "@:/") {
		return Set{}, errors.New("it is a digest or a reference, not a tag")
	}
	if tag == "" || len(tag) > 128 || !only(tag, "_.-") {
		return Set{}, errors.New("a tag is up to 128 letters, digits, points, hyphens and underscores")
	}
	l, err := Separate(s, tag)
	if err != nil {
		return Set{}, errors.New("the tag names no version")
	}
	if build, _ := cutDigits(strings.TrimPrefix(l.After, "_")); build != "" && l.After[0] == '_' { // tags have no +: 17.0.9_9
		if set, err := parsePlain(s, l.Number+"+"+build); err == nil {
			return set, nil
		}
	}
	return parsePlain(s, l.Number)
}
