package version

// parseMinimum reads go-minimum, the go line of a module: a version that is the oldest
// one allowed.
func parseMinimum(s Scheme, raw string) (Set, error) {
	v, err := s.Parse(raw)
	if err != nil {
		return Set{}, err
	}
	return AtLeast(v), nil
}
