package cli

import (
	"github.com/spf13/cobra"
	"wexo/internal/core/catalogue"
)

func surveyOnServer(cmd *cobra.Command, s Streams, server, token string, args []string) error {
	return nil
}
func traceOnServer(cmd *cobra.Command, s Streams, server, token, repository string, tool *catalogue.Tool, c *catalogue.Catalogue, output string) error {
	return nil
}
