package cli

import (
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/knadh/koanf/providers/confmap"
	"github.com/knadh/koanf/providers/env/v2"
	"github.com/knadh/koanf/providers/posflag"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/policy"
	"wexo/internal/core/userrule"
	"wexo/internal/terminal"
)

// config is what the user configured: flag over WEXO_* variable over wexo.yaml. The
// service's own keys stand in the same file as rules and decisions.
type config struct {
	Listen    string            `koanf:"listen"`
	Data      string            `koanf:"data"`
	Roots     []string          `koanf:"roots"`
	AsOf      string            `koanf:"as-of"`
	Log       string            `koanf:"log"`
	Names     []string          `koanf:"names"`
	Cert      string            `koanf:"tls-cert"`
	Key       string            `koanf:"tls-key"`
	Plain     bool              `koanf:"insecure"`
	Every     string            `koanf:"survey-every"`
	Show      string            `koanf:"show-lines"`
	Links     map[string]string `koanf:"-"`
	Rules     userrule.Rules    `koanf:"-"`
	Policy    policy.Policy     `koanf:"-"`
	dataNamed bool              // something says where the data file is
	text      []byte            // of the file, for the processes that read
	file      string
	from      func(key string) string
}

// configKeys are the keys of wexo.yaml that are neither rules nor decisions, with what
// their values are.
var configKeys = map[string]string{"listen": "a text", "data": "a text", "as-of": "a date such as 2026-11-16", "log": "debug, info, warn or error", "tls-cert": "a text", "tls-key": "a text",
	"roots": "a list of texts", "names": "a list of texts", catalogueKey: "a list of folders", trustedKey: "true or false", "show-lines": "claim or around", "insecure": "true or false", "survey-every": "a time such as 6h", linksKey: "a mapping from host names to where they show a file"}

// linksKey is the key that says where hosts of repositories show a file.
const linksKey = "file-links"

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
	f.String("survey-every", "", "survey all repositories once in this `time` (6h); left out, only when somebody asks")
	f.String("show-lines", "claim", "show of files the `line` of a claim alone, all but its value and key masked (claim), or to leads and owners those around it without secrets (around)")
	f.Bool("insecure", false, "listen beyond this machine without encryption: whoever is on the way reads tokens")
}

// readConfig reads the configuration of any command. Mistakes in the file are told with
// their lines.
func readConfig(cmd *cobra.Command, k known, name string, text []byte) (config, error) {
	var out config
	err := variables()
	if err != nil {
		return out, err
	}
	values := map[string]any{}
	if out.Rules, out.Policy, err = parseConfig(k.Catalogue, text, name, values); err != nil {
		return out, err
	}
	out.Links, _ = values[linksKey].(map[string]string)
	delete(values, linksKey) // its keys hold dots
	merged := koanf.New(".")
	err = merged.Load(confmap.Provider(values, ""), nil)
	if err == nil {
		err = merged.Load(env.Provider(".", env.Opt{Prefix: "WEXO_", TransformFunc: configVariable}), nil)
	}
	if err == nil {
		err = merged.Load(posflag.Provider(cmd.Flags(), ".", merged), nil)
	}
	if err == nil {
		err = merged.Unmarshal("", &out)
	}
	if err != nil {
		return out, usage("configuration: %v", err)
	}
	out.file = name
	out.dataNamed = isSet("WEXO_DATA") || cmd.Flag("data") != nil && cmd.Flag("data").Changed || keyNode(text, "data") != nil
	out.from = func(key string) string { return said(cmd, name, text, key) }
	return out, nil
}

// said is where the value of a key comes from, for messages: an option, a variable, or a line
// of the configuration.
func said(cmd *cobra.Command, file string, text []byte, key string) string {
	if flag := cmd.Flag(key); flag != nil && flag.Changed {
		return "--" + key
	}
	if variable := "WEXO_" + strings.ToUpper(strings.ReplaceAll(key, "-", "_")); isSet(variable) {
		return variable
	}
	if n := keyNode(text, key); n != nil {
		return fmt.Sprintf("%s:%d: %s", file, n.Line, key)
	}
	return "--" + key
}

// variables refuses what variables say that is of another kind than their keys hold.
func variables() error {
	for _, key := range slices.Sorted(maps.Keys(configKeys)) {
		variable := "WEXO_" + strings.ToUpper(strings.ReplaceAll(key, "-", "_"))
		value, set := os.LookupEnv(variable)
		if set && key == "insecure" {
			if _, err := strconv.ParseBool(value); err != nil {
				return usage("%s should be %s, and it is %q", variable, configKeys[key], value)
			}
		}
	}
	return nil
}

func isSet(variable string) bool {
	_, set := os.LookupEnv(variable)
	return set
}

// configVariable is the key and value that a WEXO_* variable stands for.
func configVariable(variable, value string) (string, any) {
	key := strings.ReplaceAll(strings.ToLower(strings.TrimPrefix(variable, "WEXO_")), "_", "-")
	switch {
	case configKeys[key] == "":
		return "", nil
	case key == "roots" || key == "names" || key == catalogueKey:
		return key, strings.Split(value, ",")
	}
	return key, value
}

// parseConfig reads wexo.yaml: rules, decisions, and the other keys into values.
func parseConfig(c *catalogue.Catalogue, text []byte, file string, values map[string]any) (userrule.Rules, policy.Policy, error) {
	var others []userrule.Other
	for _, key := range slices.Sorted(maps.Keys(configKeys)) {
		others = append(others, userrule.Other{Key: key, Read: func(v *yaml.Node) string {
			value, ok := configValue(key, v)
			if !ok {
				return configKeys[key]
			}
			values[key] = value
			return ""
		}})
	}
	rules, decided, problems := userrule.Parse(text, c, true, others...)
	for _, s := range append([]policy.Named{{Settings: decided.Settings}}, decided.Repositories...) {
		for _, w := range s.Severities {
			if _, known := assess.ClassNamed(w.Class); !known {
				problems = append(problems, userrule.Problem{Line: w.Line, Reason: fmt.Sprintf("severities should name classes of findings, and %q is none; known are %s", w.Class, strings.Join(assess.ClassNames(), ", "))})
			}
		}
	}
	if len(problems) == 0 {
		return rules, decided, nil
	}
	slices.SortStableFunc(problems, func(a, b userrule.Problem) int { return a.Line - b.Line })
	var lines []string
	for _, p := range problems {
		lines = append(lines, fmt.Sprintf("%s:%d: %s", file, p.Line, p.Reason))
	}
	return rules, decided, usage("%s", terminal.Lines(lines))
}

// configValue is what a key's value says; false where it is of another kind.
func configValue(key string, v *yaml.Node) (any, bool) {
	switch {
	case key == linksKey:
		var links map[string]string
		err := v.Decode(&links)
		for _, at := range links {
			if !strings.HasPrefix(at, "https://") || !strings.Contains(at, "{file}") {
				return nil, false
			}
		}
		return links, err == nil && v.Kind == yaml.MappingNode
	case key == "insecure" || key == trustedKey:
		var yes bool
		err := v.Decode(&yes)
		return yes, err == nil && v.Kind == yaml.ScalarNode
	case key == "roots" || key == "names" || key == catalogueKey:
		var list []string
		if v.Kind == yaml.ScalarNode && v.Tag != "!!null" {
			return []string{v.Value}, true
		}
		err := v.Decode(&list)
		return list, err == nil && v.Kind == yaml.SequenceNode
	case v.Kind != yaml.ScalarNode || v.Tag == "!!null":
		return nil, false
	case key == "as-of":
		_, err := time.Parse(time.DateOnly, v.Value)
		return v.Value, err == nil
	}
	return v.Value, true
}

// check refuses what an empty variable or a comma too many would turn into more than was
// meant: an empty root is the current folder, an empty address every interface.
func (c config) check() error {
	for key, list := range map[string][]string{"roots": c.Roots, "names": c.Names} {
		for _, one := range list {
			if strings.TrimSpace(one) == "" {
				return usage("%s holds an empty entry; name a folder each, or leave it out", c.from(key))
			}
		}
	}
	if _, _, err := net.SplitHostPort(c.Listen); err != nil {
		return usage("%s is %q; it should be an address and a port, such as 127.0.0.1:8420", c.from("listen"), c.Listen)
	}
	if (c.Cert == "") != (c.Key == "") {
		return usage("tls-cert and tls-key go together, and only %s is given", c.from(map[bool]string{true: "tls-key", false: "tls-cert"}[c.Cert == ""]))
	}
	if err := oneOf(c.from("show-lines"), c.Show, "claim", "around"); err != nil {
		return err
	}
	if c.Data == "" {
		return usage("%s is empty; name the SQLite file", c.from("data"))
	}
	if dir := filepath.Dir(c.Data); !isFolder(dir) {
		return usage("%s: there is no folder %s to keep the data in; make it first", c.from("data"), dir)
	}
	return c.ownData()
}

// leastEvery is how often surveys may be made at most: they are meant for hours.
const leastEvery = time.Minute

// every is how often repositories are surveyed; 0 where nothing is said.
func (c config) every() (time.Duration, error) {
	if c.Every == "" {
		return 0, nil
	}
	d, err := time.ParseDuration(c.Every)
	if err != nil || d < leastEvery {
		return 0, usage("%s should be a time such as 30m or 6h, a minute at least, and it is %q", c.from("survey-every"), c.Every)
	}
	return d, nil
}

// fixed is the day that is configured; zero where verdicts are of today.
func (c config) fixed() (time.Time, error) {
	if c.AsOf == "" {
		return time.Time{}, nil
	}
	return c.day()
}

// day is the day of verdicts: the one that is configured, or today.
func (c config) day() (time.Time, error) { return dayOf(c.from("as-of"), c.AsOf) }

func (c config) logger(s Streams) (*slog.Logger, error) {
	var level slog.Level
	if err := level.UnmarshalText([]byte(c.Log)); err != nil {
		return nil, oneOf(c.from("log"), c.Log, "debug", "info", "warn", "error")
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
			return nil, failed("cannot listen on %s: %s", address, bound(err))
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

// bound is why an address cannot be listened on, without the call that failed.
func bound(err error) string {
	var refused *os.SyscallError
	var address *net.AddrError
	switch {
	case errors.As(err, &refused):
		return refused.Err.Error()
	case errors.As(err, &address):
		return address.Err
	}
	return err.Error()
}

// serverOptions finds the service a client command speaks to.
func serverOptions(server, token string) (string, string, error) {
	from := "--server"
	if server == "" {
		server, from = os.Getenv("WEXO_SERVER"), "WEXO_SERVER"
	}
	if token == "" {
		token = os.Getenv("WEXO_TOKEN")
	}
	if server == "" {
		return "", "", usage("which service? Give --server URL or set WEXO_SERVER")
	}
	at, err := url.Parse(server)
	if err != nil || at.Scheme != "http" && at.Scheme != "https" || at.Host == "" {
		return "", "", usage("%s is %q, which is no service's address; one looks like http://127.0.0.1:8420", from, server)
	}
	if token == "" {
		return "", "", usage("the service wants a token: give --token or set WEXO_TOKEN")
	}
	return strings.TrimRight(server, "/"), token, nil
}
