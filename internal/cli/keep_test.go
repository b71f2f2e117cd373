package cli

import (
	"context"
	"errors"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
)

// TestKeep: what works is done once in its time, what fails sooner and then ever later, never
// at quite the same time as others, and not any more once it is ended.
func TestKeep(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		ctx, cancel := context.WithCancel(t.Context())
		fails := []bool{false, false, true, true, true, true, true, false, true, false}
		var times []time.Time
		var told []error
		keep(ctx, 5*time.Minute, func() error {
			n := len(times)
			times = append(times, time.Now())
			if n == len(fails)-1 {
				cancel()
			}
			if fails[n] {
				return errors.New("no service there")
			}
			return nil
		}, func(err error) { told = append(told, err) })

		assert.Len(t, told, 6, "each failure is told")
		exact := 0
		for i, want := range []time.Duration{5 * time.Minute, 5 * time.Minute, 30 * time.Second, time.Minute, 2 * time.Minute, 4 * time.Minute, 5 * time.Minute, 5 * time.Minute, 30 * time.Second} {
			got := times[i+1].Sub(times[i])
			assert.InDelta(t, want.Seconds(), got.Seconds(), want.Seconds()/10+1e-9, "wait %d", i)
			if got == want {
				exact++
			}
		}
		assert.Less(t, exact, 3, "the waits differ a little")
		assert.Len(t, times, len(fails))
	})
}
