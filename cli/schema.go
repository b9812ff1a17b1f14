package cli

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/near"
	"tovrel/schema"
	"tovrel/trouble"
)

func newSchemaCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "schema NAME", Short: "Print the JSON Schema of a file or an output", Args: usage(cobra.ExactArgs(1)),
		ValidArgs: schema.Names(),
		Long:      "The schemas: " + strings.Join(schema.Names(), ", ") + ".",
		RunE: func(_ *cobra.Command, args []string) error {
			s, err := schema.Of(args[0])
			if err != nil {
				return err
			}
			if s == nil {
				return trouble.New(trouble.Usage, "there is no schema %q; %s", args[0], near.Hint(args[0], schema.Names()))
			}
			b, err := json.MarshalIndent(s, "", "  ")
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(a.Out, "%s\n", b)
			return err
		},
	}
}
