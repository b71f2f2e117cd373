package survey

import (
	"math"
	"runtime"
	"runtime/debug"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestGarbageIsNotHeld: where the collector is late, what nobody holds any more ends no reading.
func TestGarbageIsNotHeld(t *testing.T) {
	runtime.GC()
	defer debug.SetGCPercent(debug.SetGCPercent(-1))
	defer debug.SetMemoryLimit(debug.SetMemoryLimit(math.MaxInt64))
	limit := memory("/gc/heap/live:bytes") + 50<<20
	for range 10 {
		runtime.KeepAlive(make([]byte, 10<<20))
	}
	assert.Greater(t, memory("/memory/classes/heap/objects:bytes"), limit, "there is garbage")
	assert.False(t, holdsOver(limit))

	held := make([]byte, 100<<20)
	assert.True(t, holdsOver(limit))
	runtime.KeepAlive(held)
}
