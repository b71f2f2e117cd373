package server

import (
	"io"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestACrowd: where there are more than may be, who said nothing for longest goes, and whoever
// comes is answered.
func TestACrowd(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	c := newCrowd(l, 10)
	h := &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = io.WriteString(w, "here") })}
	go func() { _ = h.Serve(c) }()
	defer h.Close()
	var silent []net.Conn
	for range 30 {
		conn, err := net.Dial("tcp", l.Addr().String())
		require.NoError(t, err)
		silent = append(silent, conn)
		defer conn.Close()
	}
	kept := &http.Client{Timeout: 5 * time.Second}
	for range 20 {
		response, err := kept.Get("http://" + l.Addr().String())
		require.NoError(t, err)
		text, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		require.NoError(t, response.Body.Close())
		assert.Equal(t, "here", string(text))
	}
	require.NoError(t, silent[0].SetReadDeadline(time.Now().Add(5*time.Second)))
	_, err = silent[0].Read(make([]byte, 1))
	assert.ErrorIs(t, err, io.EOF, "the first that said nothing has gone")
	c.mu.Lock()
	defer c.mu.Unlock()
	assert.LessOrEqual(t, len(c.here), 10)
}

// TestWhoDoesNotRead is waited for no longer than the limit.
func TestWhoDoesNotRead(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	c := newCrowd(l, 10)
	defer c.Close()
	go func() {
		conn, err := net.Dial("tcp", l.Addr().String())
		if err == nil {
			defer conn.Close()
			<-t.Context().Done()
		}
	}()
	conn, err := c.Accept()
	require.NoError(t, err)
	g := conn.(*guest)
	limit := time.Now().Add(time.Second)
	g.Conn = deadlines{g.Conn, &limit}
	for err == nil {
		_, err = g.Write(make([]byte, 1<<20))
	}
	var late net.Error
	require.ErrorAs(t, err, &late)
	assert.True(t, late.Timeout())
	require.NoError(t, g.Close())
	assert.Empty(t, c.here)
}

// deadlines is a connection whose deadline is another one than it is told.
type deadlines struct {
	net.Conn
	at *time.Time
}

func (d deadlines) SetWriteDeadline(time.Time) error { return d.Conn.SetWriteDeadline(*d.at) }
