//go:build !linux

package survey

import "time"

// Elsewhere a worker is bounded by what it counts itself, and by its parent.
func limitProcess() {}

func limitProcessor(time.Duration) {}
