package cli_test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"io"
	"math/big"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
)

// TestConfigurationsThatOpenTooMuch are refused with a word on what to write.
func TestConfigurationsThatOpenTooMuch(t *testing.T) {
	dir := t.TempDir()
	data := filepath.Join(dir, "wexo.db")
	write := func(text string) string {
		at := filepath.Join(dir, "wexo.yaml")
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
		return at
	}
	for _, c := range []struct {
		variable, value, config string
		args                    []string
		says                    string
	}{
		{says: "listen is \"\"", args: []string{"--listen", ""}},
		{says: "WEXO_LISTEN is \"\"", variable: "WEXO_LISTEN", value: ""},
		{says: "can be reached from other machines", args: []string{"--listen", ":0"}},
		{says: "can be reached from other machines", args: []string{"--listen", "0.0.0.0:0"}},
		{says: "can be reached from other machines", args: []string{"--listen", "[::]:0"}},
		{says: "can be reached from other machines", config: "listen: '0.0.0.0:0'\n"},
		{says: "tls-cert and tls-key go together", args: []string{"--tls-cert", "x.pem"}},
		{says: "tls-cert and tls-key: ", args: []string{"--tls-cert", "x.pem", "--tls-key", "y.pem"}},
		{says: "WEXO_ROOTS holds an empty entry", variable: "WEXO_ROOTS", value: ""},
		{says: "WEXO_ROOTS holds an empty entry", variable: "WEXO_ROOTS", value: dir + ","},
		{says: "wexo.yaml:1: roots holds an empty entry", config: "roots: ['']\n"},
		{says: "--roots holds an empty entry", args: []string{"--roots", dir + ","}},
		{says: "WEXO_NAMES holds an empty entry", variable: "WEXO_NAMES", value: " "},
		{says: "--data: there is no folder", args: []string{"--data", filepath.Join(dir, "no", "folder", "wexo.db")}},
		{says: "wexo.yaml:2: log should be debug, info, warn or error", config: "horizon: 90\nlog: loud\n"},
		{says: "wexo.yaml:1: survey-every should be a time such as 30m or 6h", config: "survey-every: daily\n"},
		{says: "--survey-every should be a time", args: []string{"--survey-every", "3s"}},
		{says: "WEXO_AS_OF should be a date such as 2026-11-16", variable: "WEXO_AS_OF", value: "soon"},
		{says: "wexo.yaml:1: as-of should be a date such as 2026-11-16", config: "as-of: soon\n"},
		{says: "wexo.yaml:1: listen is", config: "listen: here\n"},
	} {
		t.Run(c.says, func(t *testing.T) {
			if c.variable != "" {
				t.Setenv(c.variable, c.value)
			}
			args := append([]string{"serve", "--config", write(c.config), "--data", data}, c.args...)
			status, out, errs := wexo(t, args...)
			assert.Equal(t, 2, status, errs)
			assert.Contains(t, errs, c.says)
			assert.Empty(t, out)
		})
	}
}

// certificate makes one for a name, and gives the files.
func certificate(t *testing.T, name string) (cert, key string, pool *x509.CertPool) {
	t.Helper()
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{SerialNumber: big.NewInt(1), DNSNames: []string{name}, NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IsCA: true, BasicConstraintsValid: true}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &private.PublicKey, private)
	require.NoError(t, err)
	encoded, err := x509.MarshalECPrivateKey(private)
	require.NoError(t, err)
	dir := t.TempDir()
	cert, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	public := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})
	require.NoError(t, os.WriteFile(cert, public, 0o600))
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: encoded}), 0o600))
	pool = x509.NewCertPool()
	pool.AppendCertsFromPEM(public)
	return cert, key, pool
}

// serving starts a service and gives its sign-in link and what stops it.
func serving(t *testing.T, args ...string) (token, link string, stop func()) {
	t.Helper()
	out, logged := &lines{more: make(chan struct{}, 1)}, &lines{more: make(chan struct{}, 1)}
	done := make(chan int, 1)
	go func() {
		done <- cli.Run(append([]string{"serve", "--listen", "127.0.0.1:0"}, args...), cli.Streams{In: strings.NewReader(""), Out: out, Err: logged})
	}()
	token = out.after(t, "An owner's token, shown once: ")
	link = out.after(t, "Sign in to the console, once:  ")
	return token, link, func() {
		require.NoError(t, syscall.Kill(os.Getpid(), syscall.SIGTERM))
		assert.Equal(t, 0, <-done)
	}
}

func TestEncryptedServing(t *testing.T) {
	cert, key, pool := certificate(t, "wexo.trust.invalid")
	_, link, stop := serving(t, "--data", filepath.Join(t.TempDir(), "wexo.db"), "--tls-cert", cert, "--tls-key", key)
	defer stop()
	base, code, _ := strings.Cut(link, "/sign-in?code=")
	require.True(t, strings.HasPrefix(base, "https://127.0.0.1:"), link)
	c := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool, ServerName: "wexo.trust.invalid"}}}
	defer c.CloseIdleConnections()
	q, err := http.NewRequest("POST", base+"/api/session", strings.NewReader(`{"code": "`+code+`"}`))
	require.NoError(t, err)
	q.Header.Set("Content-Type", "application/json")
	q.Host = "wexo.trust.invalid"
	response, err := c.Do(q)
	require.NoError(t, err)
	defer response.Body.Close()
	body, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	require.Equal(t, 200, response.StatusCode, string(body))
	assert.Contains(t, response.Header.Get("Set-Cookie"), "; Secure")
}

// TestTheFirstOwner is shown until somebody has used what was shown, and a way back is
// left when nobody has it any more.
func TestTheFirstOwner(t *testing.T) {
	data := filepath.Join(t.TempDir(), "wexo.db")
	status := cli.Run([]string{"serve", "--listen", "127.0.0.1:0", "--data", data}, cli.Streams{In: strings.NewReader(""), Out: &failing{0, syscall.ENOSPC}, Err: io.Discard})
	assert.Equal(t, 3, status, "a token that nobody sees is no start")
	unseen, _, stop := serving(t, "--data", data)
	stop()
	token, link, stop := serving(t, "--data", data)
	assert.NotEqual(t, unseen, token, "shown again, since the first was never used")
	url, _, _ := strings.Cut(link, "/sign-in")
	t.Setenv("WEXO_SERVER", url)
	status, _, _ = wexo(t, "tokens", "list", "--token", unseen)
	assert.Equal(t, 3, status)
	status, out, errs := wexo(t, "tokens", "list", "--token", token)
	require.Equal(t, 0, status, errs)
	assert.Contains(t, out, "first owner")
	status, _, errs = wexo(t, "tokens", "remove", "3", "--token", token)
	assert.Equal(t, 3, status)
	assert.Contains(t, errs, "last owner's token")
	status, _, errs = wexo(t, "serve", "--listen", "127.0.0.1:0", "--data", data)
	assert.Equal(t, 3, status)
	assert.Contains(t, errs, "another service serves the data file")
	status, out, errs = wexo(t, "sessions", "list", "--token", token)
	require.Equal(t, 0, status, errs)
	assert.Contains(t, out, "BEGUN WITH")

	status, out, errs = wexo(t, "tokens", "recover", "--data", data)
	require.Equal(t, 0, status, errs)
	recovered := strings.TrimSpace(strings.TrimPrefix(out, "An owner's token, shown once: "))
	status, out, _ = wexo(t, "tokens", "list", "--token", recovered)
	assert.Equal(t, 0, status, "it works while the service runs")
	assert.Contains(t, out, "recovered owner")
	status, _, errs = wexo(t, "tokens", "remove", "3", "--token", recovered)
	assert.Equal(t, 0, status, errs)
	status, made, errs := wexo(t, "tokens", "add", "agent", "--role", "collector", "--machine", "agent-1", "--token", recovered)
	require.Equal(t, 0, status, errs)
	t.Setenv("WEXO_TOKEN", strings.TrimSpace(made))
	inventory := filepath.Join(t.TempDir(), "agent.json")
	require.NoError(t, os.WriteFile(inventory, []byte(`{"format": "wexo.inventory/1", "machine": {"name": "agent-2"}, "installations": [], "takenAt": "2026-11-16T08:00:00Z"}`), 0o644))
	status, _, errs = wexo(t, "machines", "send", inventory)
	assert.Equal(t, 3, status)
	assert.Contains(t, errs, "This token speaks for agent-1")
	status, _, errs = wexo(t, "machines", "send", "--name", "agent-1", inventory)
	assert.Equal(t, 0, status, errs)
	status, _, errs = wexo(t, "machines", "remove", "agent-1", "--token", recovered)
	assert.Equal(t, 0, status, errs)
	stop()
	status, _, errs = wexo(t, "tokens", "recover", "--data", filepath.Join(t.TempDir(), "none.db"))
	assert.Equal(t, 2, status)
	assert.Contains(t, errs, "there is no data file")
}

// TestWaitingForInputEnds when it is asked to.
func TestWaitingForInputEnds(t *testing.T) {
	in, hold := io.Pipe()
	defer hold.Close()
	done := make(chan int, 1)
	out := &lines{more: make(chan struct{}, 1)}
	go func() {
		done <- cli.Run([]string{"order", "--stdin"}, cli.Streams{In: in, Out: out, Err: io.Discard})
	}()
	_, err := io.WriteString(hold, `{"scheme": "semver", "a": "1.0.0", "b": "2.0.0"}`+"\n")
	require.NoError(t, err)
	assert.Equal(t, "-1}", out.after(t, `{"order":`))
	require.NoError(t, syscall.Kill(os.Getpid(), syscall.SIGINT))
	assert.Equal(t, 3, <-done)
}
