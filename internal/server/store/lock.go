package store

import "fmt"

// Taken is a data file that another service serves.
type Taken struct{ File string }

func (t *Taken) Error() string {
	return fmt.Sprintf("another service serves the data file %s; stop it first, or give this one a file of its own with --data", t.File)
}
