package version

import (
	"errors"
	"strings"
)

// parseCMake reads cmake-minimum: the oldest version allowed, perhaps with the newest
// one that the project was written for behind three points, which bounds nothing.
func parseCMake(s Scheme, raw string) (Set, error) {
	low, high, both := strings.Cut(strings.TrimSpace(raw), "...")
	v, err := s.Parse(low)
	if err != nil {
		return Set{}, err
	}
	if !both {
		return AtLeast(v), nil
	}
	w, err := s.Parse(high)
	if err != nil {
		return Set{}, err
	}
	if w.Compare(v) < 0 {
		return Set{}, errors.New("the version after the points is older than the one before them")
	}
	return AtLeast(v), nil
}
