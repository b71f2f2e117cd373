package server

import (
	"net"
	"sync"
	"sync/atomic"
	"time"
)

// crowd is a listener that holds so many connections at a time. Where there are more, the one
// goes that has read and written nothing for the longest: who asks and does not read, or comes
// and says nothing, takes the place of nobody who does.
type crowd struct {
	net.Listener
	most int

	mu   sync.Mutex
	here map[*guest]struct{}
}

const (
	// mostGuests is how many connections are held at a time; each takes some tens of KB.
	mostGuests = 2_000
	// writeLimit is how long who asked may leave what is written unread.
	writeLimit = 30 * time.Second
)

func newCrowd(l net.Listener, most int) *crowd {
	return &crowd{Listener: l, most: most, here: map[*guest]struct{}{}}
}

// Accept waits for the next connection.
func (c *crowd) Accept() (net.Conn, error) {
	conn, err := c.Listener.Accept()
	if err != nil {
		return nil, err
	}
	g := &guest{Conn: conn, of: c}
	g.stirs()
	c.mu.Lock()
	c.here[g] = struct{}{}
	var idle *guest
	if len(c.here) > c.most {
		for other := range c.here {
			if other != g && (idle == nil || other.stirred.Load() < idle.stirred.Load()) {
				idle = other
			}
		}
	}
	if idle != nil {
		delete(c.here, idle)
	}
	c.mu.Unlock()
	if idle != nil {
		_ = idle.Conn.Close() // it said nothing, so nobody waits for it
	}
	return g, nil
}

// guest is a connection that is held.
type guest struct {
	net.Conn
	of      *crowd
	stirred atomic.Int64 // when it last read or wrote something, in nanoseconds since 1970
}

func (g *guest) stirs() { g.stirred.Store(time.Now().UnixNano()) }

// Read reads what was sent.
func (g *guest) Read(p []byte) (int, error) {
	n, err := g.Conn.Read(p)
	if n > 0 {
		g.stirs()
	}
	return n, err
}

// Write writes, and waits no longer than the limit for it to be read.
func (g *guest) Write(p []byte) (int, error) {
	if err := g.Conn.SetWriteDeadline(time.Now().Add(writeLimit)); err != nil {
		return 0, err
	}
	n, err := g.Conn.Write(p)
	if n > 0 {
		g.stirs()
	}
	return n, err
}

// Close ends the connection.
func (g *guest) Close() error {
	g.of.mu.Lock()
	delete(g.of.here, g)
	g.of.mu.Unlock()
	return g.Conn.Close()
}
