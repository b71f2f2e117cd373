package api

import (
	"net"
	"net/http"
	"sync"
	"time"
)

// throttle slows down those who try to sign in with what they do not have: so many
// failures an address and minute. Its zero value is ready.
type throttle struct {
	mu       sync.Mutex
	failures map[string]failed
}

// failed is how often an address failed since a time.
type failed struct {
	since time.Time
	times int
}

const (
	maxFailures  = 10
	failureTime  = time.Minute
	maxAddresses = 10_000
)

// address is where a request comes from, without the port. In IPv6 a caller has a whole
// network of addresses, so the network counts.
func address(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	if ip := net.ParseIP(host); ip != nil && ip.To4() == nil {
		return ip.Mask(net.CIDRMask(64, 128)).String()
	}
	return host
}

// wait is how long an address has to wait before it may try again; 0 where it may.
func (t *throttle) wait(from string, now time.Time) time.Duration {
	t.mu.Lock()
	defer t.mu.Unlock()
	f := t.failures[from]
	if left := f.since.Add(failureTime).Sub(now); f.times >= maxFailures && left > 0 {
		return left
	}
	return 0
}

// fail counts a failure.
func (t *throttle) fail(from string, now time.Time) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.failures == nil || len(t.failures) >= maxAddresses {
		t.sweep(now)
	}
	f := t.failures[from]
	if now.Sub(f.since) >= failureTime || f.since.After(now) {
		f = failed{since: now}
	}
	f.times++
	t.failures[from] = f
}

// sweep forgets who failed long ago, and all where that is not enough.
func (t *throttle) sweep(now time.Time) {
	kept := map[string]failed{}
	for from, f := range t.failures {
		if now.Sub(f.since) < failureTime {
			kept[from] = f
		}
	}
	if len(kept) >= maxAddresses {
		kept = map[string]failed{}
	}
	t.failures = kept
}
