package scan

import (
	"errors"
	"fmt"

	"wexo/internal/core/document"
)

// ErrFault is a fault of Wexo itself, which a file brought to light.
var ErrFault = errors.New("reading it brought a fault of Wexo to light; please report it")

// Withheld is why something could not be had at all: damage, or access.
type Withheld struct{ error }

// Withhold is an error for what could not be had.
func Withhold(err error) Withheld { return Withheld{err} }

// TooLarge is a file beyond what is read of one.
type TooLarge struct{ Size, Limit int64 } // in bytes

func (e TooLarge) Error() string {
	has, most := document.Bytes(e.Size), document.Bytes(e.Limit)
	if has == most {
		has = fmt.Sprintf("%d bytes", e.Size)
	}
	return fmt.Sprintf("it has %s; no more than %s are read", has, most)
}
