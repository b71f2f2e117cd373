package cli

import (
	"context"
	"crypto/tls"
	"net"
	"os"
	"slices"
	"strings"
)

// secured reads the certificate; nil where none is given, which is enough only as long as
// nobody outside this machine can listen.
func (c config) secured(ctx context.Context) (*tls.Config, error) {
	if c.Cert == "" {
		host, _, err := net.SplitHostPort(c.Listen)
		if err != nil {
			return nil, usage("listen: %v", err)
		}
		if !isLoopback(host) && !c.Plain {
			return nil, usage("%s can be reached from other machines, and tokens would pass in the clear: give --tls-cert and --tls-key, or --insecure where something in front encrypts", c.Listen)
		}
		return nil, nil
	}
	var key []byte
	var pair tls.Certificate
	cert, err := readGiven(ctx, c.Cert, maxConfig)
	if err == nil {
		key, err = readGiven(ctx, c.Key, maxConfig)
	}
	if err == nil {
		pair, err = tls.X509KeyPair(cert, key)
	}
	if err != nil {
		return nil, usage("tls-cert and tls-key: %v", err)
	}
	return &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}}, nil
}

func isLoopback(host string) bool {
	if strings.EqualFold(host, "localhost") {
		return true
	}
	ip := net.ParseIP(host)
	return ip != nil && ip.IsLoopback()
}

// names are the host names by which the service is spoken to: what it listens on, what its
// certificate says, this machine's own names, and those that are configured.
func (c config) names(secured *tls.Config, at net.Addr) []string {
	names := slices.Clone(c.Names)
	host, _, err := net.SplitHostPort(at.String())
	if err != nil {
		host = at.String()
	}
	ip := net.ParseIP(host)
	if ip == nil || ip.IsLoopback() || ip.IsUnspecified() {
		names = append(names, "localhost", "127.0.0.1", "::1")
	}
	if ip != nil && !ip.IsLoopback() {
		if name, err := os.Hostname(); err == nil {
			names = append(names, name)
		}
	}
	if ip != nil && ip.IsUnspecified() {
		if list, err := net.InterfaceAddrs(); err == nil {
			for _, one := range list {
				if network, ok := one.(*net.IPNet); ok {
					names = append(names, network.IP.String())
				}
			}
		}
	}
	if given, _, err := net.SplitHostPort(c.Listen); err == nil && given != "" {
		names = append(names, given)
	}
	names = append(names, host)
	if secured != nil && secured.Certificates[0].Leaf != nil {
		leaf := secured.Certificates[0].Leaf
		names = append(names, leaf.DNSNames...)
		for _, one := range leaf.IPAddresses {
			names = append(names, one.String())
		}
	}
	for i := range names {
		names[i] = strings.ToLower(strings.TrimSpace(names[i]))
	}
	slices.Sort(names)
	return slices.Compact(names)
}

// base is how the service's address is written in a link.
func (c config) base(secured *tls.Config, at net.Addr) string {
	if secured != nil {
		return "https://" + at.String()
	}
	return "http://" + at.String()
}
