package cli

import (
	"context"
	"errors"
	"net"
	"time"
	"wexo/internal/survey"

	"github.com/spf13/cobra"

	"wexo/console"
	"wexo/internal/server"
	"wexo/internal/terminal"
)

func newServe(s Streams) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Run the service: API, console and surveys",
		Long: "Runs the API, the console and the survey worker in one process, with one SQLite file. It\n" +
			"answers on this machine only unless --listen says otherwise. Options may also stand in\n" +
			"wexo.yaml or in WEXO_* variables.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := readConfig(cmd)
			if err != nil {
				return err
			}
			service, err := openService(cmd.Context(), s, c)
			if err != nil {
				return err
			}
			listener, err := listen(s, c.Listen, false)
			if err != nil {
				service.Store.Close()
				return err
			}
			if err := firstSteps(cmd.Context(), s, service, "http://"+listener.Addr().String()); err != nil {
				return err
			}
			return serve(cmd.Context(), service, listener)
		},
	}
	configFlags(cmd)
	return cmd
}

func serve(ctx context.Context, service *server.Service, listener net.Listener) error {
	if err := service.Serve(ctx, listener); err != nil {
		return failed("%v", err)
	}
	return nil
}

func openService(ctx context.Context, s Streams, c config) (*server.Service, error) {
	catalogue, reader, err := knowledge()
	if err != nil {
		return nil, err
	}
	day, err := c.day()
	if err != nil {
		return nil, err
	}
	log, err := c.logger(s)
	if err != nil {
		return nil, err
	}
	rules, text, err := readRules(catalogue, c.File, false)
	if err != nil {
		return nil, err
	}
	memory, err := survey.OpenMemory(c.Data+".readings", build(), catalogue, text)
	if err != nil {
		log.Warn("every survey reads every repository anew", "reason", err)
	}
	readers, err := workers(text)
	if err != nil {
		return nil, errors.Join(err, memory.Close())
	}
	service, err := server.Open(ctx, server.Options{Rules: rules, Memory: memory, Workers: readers, Data: c.Data, Roots: c.Roots, AsOf: day, Version: Version,
		Catalogue: catalogue, Reader: reader, Console: console.Files(), Log: log})
	if err != nil {
		return nil, failed("%v", errors.Join(err, memory.Close()))
	}
	return service, nil
}

// linkLife is how long a one-time sign-in link may be used.
const linkLife = 24 * time.Hour

// signInLink makes a one-time link that signs the console in as owner.
func signInLink(ctx context.Context, service *server.Service, base string) (string, error) {
	code, err := service.Store.CreateCode(ctx, "first sign-in", "owner", service.Clock().Add(linkLife))
	if err != nil {
		return "", failed("%v", err)
	}
	return base + "/sign-in?code=" + code, nil
}

// firstSteps prints an owner's token and a sign-in link where no token was ever made.
func firstSteps(ctx context.Context, s Streams, service *server.Service, base string) error {
	tokens, err := service.Store.Tokens(ctx)
	if err != nil || len(tokens) > 0 {
		return err
	}
	_, secret, err := service.Store.CreateToken(ctx, "first owner", "owner", service.Clock())
	if err != nil {
		return failed("%v", err)
	}
	link, err := signInLink(ctx, service, base)
	if err != nil {
		return err
	}
	_ = terminal.Printf(s.Out, "An owner's token, shown once: %s\nSign in to the console, once:  %s\n", secret, link)
	return nil
}
