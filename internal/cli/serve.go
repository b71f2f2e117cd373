package cli

import (
	"context"
	"crypto/tls"
	"errors"
	"log/slog"
	"net"
	"os"
	"runtime/debug"
	"time"

	"github.com/spf13/cobra"

	"wexo/console"
	"wexo/internal/server"
	"wexo/internal/survey"
	"wexo/internal/terminal"
)

func newServe(s Streams) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Run the service: API, console and surveys",
		Long: "Runs the API, the console and the survey worker in one process, with one SQLite file. It\n" +
			"answers on this machine only unless --listen says otherwise. Options may also stand in\n" +
			"wexo.yaml or in WEXO_* variables.",
		Example: "  wexo serve --roots ~/work   # until stopped\n  wexo serve --config service/wexo.yaml --survey-every 6h   # until stopped",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			k, c, err := configured(cmd)
			if err == nil {
				err = c.check()
			}
			if err != nil {
				return err
			}
			secured, err := c.secured(cmd.Context())
			if err != nil {
				return err
			}
			set, err := c.settle(s)
			if err != nil {
				return err
			}
			listener, err := listen(s, c.Listen, false)
			if err != nil {
				return err
			}
			service, err := openService(cmd.Context(), c, k, set, secured, listener.Addr())
			if err != nil {
				return errors.Join(err, listener.Close())
			}
			if err := firstSteps(cmd.Context(), s, service, c.base(secured, listener.Addr())); err != nil {
				return errors.Join(err, listener.Close(), service.Close())
			}
			return serve(cmd.Context(), service, listener)
		},
	}
	configFlags(cmd)
	return cmd
}

func serve(ctx context.Context, service *server.Service, listener net.Listener) error {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(90) // it holds much for long, other than a survey
	}
	if err := service.Serve(ctx, listener); err != nil {
		return failed("%v", err)
	}
	return nil
}

// settled are the options of a service that are checked before anything is bound or opened.
type settled struct {
	day   time.Time
	every time.Duration
	log   *slog.Logger
}

func (c config) settle(s Streams) (out settled, err error) {
	if out.day, err = c.fixed(); err != nil {
		return out, err
	}
	if out.log, err = c.logger(s); err != nil {
		return out, err
	}
	out.every, err = c.every()
	return out, err
}

func openService(ctx context.Context, c config, k known, set settled, secured *tls.Config, at net.Addr) (*server.Service, error) {
	memory := func() *survey.Memory {
		m, err := survey.OpenMemory(c.Data+".readings", build(), k.Catalogue, c.Rules)
		if err != nil {
			set.log.Warn("every survey reads every repository anew", "reason", err)
		}
		return m
	}
	readers, err := workers(c.text)
	if err != nil {
		return nil, err
	}
	service, err := server.Open(ctx, server.Options{Rules: c.Rules, Policy: c.Policy, Memory: memory, Workers: readers, Data: c.Data, Roots: c.Roots, Names: c.names(secured, at), TLS: secured, AsOf: set.day, Version: Version,
		Book: k.Book, Reader: k.reader, Console: console.Files(), Log: set.log, Every: set.every, FileLinks: c.Links, Around: c.Show == "around"})
	if err != nil {
		return nil, failed("%v", err)
	}
	return service, nil
}

// linkLife is how long a one-time sign-in link may be used.
const linkLife = 24 * time.Hour

// signInLink makes a one-time link that signs the console in as owner. Its session ends with
// the token that it stands for, if it stands for one.
func signInLink(ctx context.Context, service *server.Service, token int64, base string) (string, error) {
	code, err := service.Store.CreateCode(ctx, token, "first sign-in", "owner", service.Clock().Add(linkLife))
	if err != nil {
		return "", failed("%v", err)
	}
	return base + "/sign-in?code=" + code, nil
}

// firstOwner is the name of the token that a service makes at its first start.
const firstOwner = "first owner"

// firstSteps prints an owner's token and a sign-in link where no owner ever was: at the
// first start, and again where what an earlier one printed, or could not print, was never
// used.
func firstSteps(ctx context.Context, s Streams, service *server.Service, base string) error {
	id, secret, made, err := service.Store.NewOwner(ctx, firstOwner, service.Clock())
	if err != nil {
		return failed("%v", err)
	}
	if !made {
		return nil
	}
	link, err := signInLink(ctx, service, id, base)
	if err != nil {
		return err
	}
	if err := terminal.Printf(s.Out, "An owner's token, shown once: %s\nSign in to the console, once:  %s\n", secret, link); err != nil {
		return failed("the owner's token cannot be shown, so the service does not start: %v", err)
	}
	return nil
}
