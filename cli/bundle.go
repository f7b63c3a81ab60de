package cli

import (
	"github.com/spf13/cobra"

	"oldledger/core/format"
)

func (a *app) bundleCommand() *cobra.Command {
	var output string
	cmd := &cobra.Command{
		Use: "bundle FILE", GroupID: "look", Short: "Write a description of several files as one", Args: cobra.ExactArgs(1),
		Long: `Writes one description that holds all that FILE refers to. What stood in other files stands under components, by the names that
readers know; a comparison of the files with their bundle finds nothing. RAML is converted to OpenAPI 3.1.`,
		Example: "  oldledger bundle berths/berths.yaml -o berths.yaml\n  oldledger bundle berths@draft",
	}
	cmd.Flags().StringVarP(&output, "output", "o", "", "file to write (default: standard output); .json writes JSON")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		d, err := a.describe(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		whole, err := format.Bundle(d.set)
		if err != nil {
			return err
		}
		return a.write(whole, output)
	}
	return cmd
}
