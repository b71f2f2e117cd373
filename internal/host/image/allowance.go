package image

import (
	"fmt"
	"io"
)

const (
	// maxUnpacked is how much one image may take unpacked, in bytes; little is kept of large
	// files, so that images of many times that fit.
	maxUnpacked = 4 << 30
	// mostTimes is how many times its own size an image may take unpacked, once it takes more than
	// plainUnpacked: what people build has been packed to a third, and a trap to a thousandth.
	mostTimes     = 50
	plainUnpacked = 64 << 20
	// leftFree is how much of the disk stays free, in bytes. It is looked at whenever so much more
	// was written as lookEvery says.
	leftFree  = 1 << 30
	lookEvery = 32 << 20
)

// allowance is what unpacking one image may still write.
type allowance struct {
	dir    string
	packed int64 // the size of the image's file; below zero where it is a folder of files
	spent  int64
	looked int64
	free   func(dir string) (uint64, bool)
}

// spend takes bytes before they are written.
func (a *allowance) spend(n int) error {
	a.spent += int64(n)
	switch {
	case a.spent > maxUnpacked:
		return fmt.Errorf("it takes more than %d GB unpacked", maxUnpacked>>30)
	case a.packed >= 0 && a.spent > plainUnpacked && a.spent/mostTimes > a.packed:
		return fmt.Errorf("it takes more than %d times its size unpacked, as no image does that somebody built", mostTimes)
	}
	if a.spent-a.looked < lookEvery {
		return nil
	}
	a.looked = a.spent
	if left, known := a.free(a.dir); known && left < leftFree {
		return fmt.Errorf("the disk has less than %d GB left where it is unpacked (%s); set TMPDIR to a folder with more room", leftFree>>30, a.dir)
	}
	return nil
}

// writer is a writer that spends what it writes.
func (a *allowance) writer(to io.Writer) io.Writer { return spending{a, to} }

type spending struct {
	of *allowance
	to io.Writer
}

func (s spending) Write(p []byte) (int, error) {
	if err := s.of.spend(len(p)); err != nil {
		return 0, err
	}
	return s.to.Write(p)
}
