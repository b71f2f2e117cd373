package cli

import (
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/knadh/koanf/parsers/yaml"
	"github.com/knadh/koanf/providers/env/v2"
	"github.com/knadh/koanf/providers/posflag"
	"github.com/knadh/koanf/providers/rawbytes"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/cobra"

	"wexo/internal/core/claim"
	"wexo/internal/terminal"
)

// config is the service's configuration: flag over WEXO_* variable over wexo.yaml.
type config struct {
	Listen string   `koanf:"listen"`
	Data   string   `koanf:"data"`
	Roots  []string `koanf:"roots"`
	AsOf   string   `koanf:"as-of"`
	Log    string   `koanf:"log"`
	Names  []string `koanf:"names"`
	Cert   string   `koanf:"tls-cert"`
	Key    string   `koanf:"tls-key"`
	Plain  bool     `koanf:"insecure"`
	File   string   `koanf:"-"` // where it was read from; rules stand there too
	text   []byte   // what stands there
}

// configKeys are the keys that wexo.yaml may hold.
var configKeys = map[string]bool{"listen": true, "data": true, "roots": true, "as-of": true, "log": true, "names": true, "tls-cert": true, "tls-key": true, "insecure": true}

func configFlags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.String("listen", "127.0.0.1:8420", "answer on this `address`")
	f.String("data", "wexo.db", "keep data in this SQLite `file`")
	f.StringSlice("roots", nil, "allow repositories below these `folders` to be added")
	f.String("as-of", "", "judge as of this fixed `date` instead of today")
	f.String("log", "info", "log at this `level`: debug, info, warn or error")
	f.StringSlice("names", nil, "also answer to these host `names`, beside those that are listened on")
	f.String("tls-cert", "", "serve HTTPS with the certificate in this PEM `file`")
	f.String("tls-key", "", "the certificate's key, in this PEM `file`")
	f.Bool("insecure", false, "listen beyond this machine without encryption: whoever is on the way reads tokens")
	f.String("config", "wexo.yaml", "read the configuration from this `file`")
}

// readConfig reads the configuration for a command that has configFlags.
func readConfig(cmd *cobra.Command) (config, error) {
	var c config
	k := koanf.New(".")
	name, err := cmd.Flags().GetString("config")
	if err != nil {
		return c, err
	}
	text, err := configText(cmd.Context(), name, cmd.Flags().Changed("config"))
	if err != nil {
		return c, err
	}
	if err := k.Load(rawbytes.Provider(text), yaml.Parser()); err != nil {
		return c, usage("%s: %v", name, err)
	}
	for key := range k.Raw() {
		if !configKeys[key] && !slices.Contains(claim.EstateKeys, key) {
			return c, usage("%s: unknown key %q; known are %s, and for rules %s", name, key, strings.Join(slices.Sorted(maps.Keys(configKeys)), ", "), strings.Join(claim.EstateKeys, ", "))
		}
	}
	if day, isDate := k.Get("as-of").(time.Time); isDate { // YAML reads an unquoted date as one
		if err := k.Set("as-of", day.Format(time.DateOnly)); err != nil {
			return c, usage("configuration: %v", err)
		}
	}
	err = k.Load(env.Provider(".", env.Opt{Prefix: "WEXO_", TransformFunc: func(key, value string) (string, any) {
		key = strings.ReplaceAll(strings.ToLower(strings.TrimPrefix(key, "WEXO_")), "_", "-")
		if !configKeys[key] {
			return "", nil
		}
		if key == "roots" || key == "names" {
			return key, strings.Split(value, ",")
		}
		return key, value
	}}), nil)
	if err == nil {
		err = k.Load(posflag.Provider(cmd.Flags(), ".", k), nil)
	}
	if err == nil {
		err = k.Unmarshal("", &c)
	}
	if err != nil {
		return c, usage("configuration: %v", err)
	}
	c.File, c.text = name, text
	return c, c.check()
}

// check refuses what an empty variable or a comma too many would turn into more than was
// meant: an empty root is the current folder, an empty address every interface.
func (c config) check() error {
	for key, list := range map[string][]string{"roots": c.Roots, "names": c.Names} {
		for _, one := range list {
			if strings.TrimSpace(one) == "" {
				return usage("%s holds an empty entry; name a folder each, or leave the key out", key)
			}
		}
	}
	if _, _, err := net.SplitHostPort(c.Listen); err != nil {
		return usage("listen is %q; it should be an address and a port, such as 127.0.0.1:8420", c.Listen)
	}
	if (c.Cert == "") != (c.Key == "") {
		return usage("tls-cert and tls-key go together")
	}
	if c.Data == "" {
		return usage("data is empty; name the SQLite file")
	}
	if dir := filepath.Dir(c.Data); !isFolder(dir) {
		return usage("there is no folder %s to keep the data in; make it first", dir)
	}
	return nil
}

func (c config) day() (time.Time, error) {
	if c.AsOf == "" {
		return time.Time{}, nil
	}
	return dayOf(c.AsOf)
}

func (c config) logger(s Streams) (*slog.Logger, error) {
	var level slog.Level
	if err := level.UnmarshalText([]byte(c.Log)); err != nil {
		return nil, usage("log level %q: use debug, info, warn or error", c.Log)
	}
	return slog.New(slog.NewTextHandler(s.Err, &slog.HandlerOptions{Level: level})), nil
}

// listen opens the address; where its port is taken, it says so and takes the next free one.
func listen(s Streams, address string, next bool) (net.Listener, error) {
	if address == "" {
		return nil, usage("the address to listen on is empty, which would mean every one this machine has")
	}
	l, err := net.Listen("tcp", address)
	if err == nil || !errors.Is(err, syscall.EADDRINUSE) {
		if err != nil {
			return nil, failed("cannot listen on %s: %v", address, err)
		}
		return l, nil
	}
	host, port, splitErr := net.SplitHostPort(address)
	number, numberErr := net.LookupPort("tcp", port)
	if splitErr != nil || numberErr != nil || !next {
		return nil, failed("%s is taken by another program; choose another address with --listen", address)
	}
	for n := number + 1; n < number+50 && n < 65536; n++ {
		if l, err := net.Listen("tcp", net.JoinHostPort(host, fmt.Sprint(n))); err == nil {
			_ = terminal.Printf(s.Err, "Port %d is taken by another program; using %d.\n", number, n)
			return l, nil
		}
	}
	return nil, failed("ports %d to %d are all taken; choose another address with --listen", number, number+50)
}

// serverOptions finds the service a client command speaks to.
func serverOptions(server, token string) (string, string, error) {
	if server == "" {
		server = os.Getenv("WEXO_SERVER")
	}
	if token == "" {
		token = os.Getenv("WEXO_TOKEN")
	}
	if server == "" {
		return "", "", usage("which service? Give --server URL or set WEXO_SERVER")
	}
	if token == "" {
		return "", "", usage("the service wants a token: give --token or set WEXO_TOKEN")
	}
	return strings.TrimRight(server, "/"), token, nil
}
