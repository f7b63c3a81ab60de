package cli

import (
	"encoding/json"
	"fmt"

	"github.com/spf13/cobra"

	"oldledger/core/compare"
	"oldledger/core/shape"
)

func (a *app) compareCommand() *cobra.Command {
	var format, reading string
	var all bool
	cmd := &cobra.Command{
		Use:     "compare OLD NEW",
		GroupID: "look",
		Short:   "Say what a new version does to the clients of an old one",
		Long: `Compares two descriptions, files or versions in the ledger. Every breaking change comes with a message that shows it.

The exit status is 0 when yesterday's clients can call the new version, and 1 when something breaks for them.`,
		Example: "  oldledger compare berths-1.2.0.yaml berths-2.0.0.yaml\n  oldledger compare berths@1 draft.yaml --format json",
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			r, ok := shape.ParseReading(reading)
			if !ok {
				return usageError{fmt.Errorf("--reading is declared or exact, not %q", reading)}
			}
			if format != "text" && format != "json" {
				return usageError{fmt.Errorf("--format is text or json, not %q", format)}
			}
			old, new, err := a.describeBoth(cmd.Context(), args)
			if err != nil {
				return err
			}
			c := compare.Contracts(old.contract, new.contract, compare.Options{Reading: r})
			if format == "json" {
				err = a.json(c)
			} else {
				err = a.showComparison(c, comparisonText{all: all})
			}
			if err != nil {
				return err
			}
			if c.Backward == compare.Breaking {
				return errNo
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&format, "format", "text", "text or json")
	cmd.Flags().StringVar(&reading, "reading", "declared", "declared: senders send what they declare; exact: every instance of the schemas")
	cmd.Flags().BoolVar(&all, "all", false, "list safe and editorial changes, too")
	return cmd
}

// json prints a value as indented JSON.
func (a *app) json(v any) error {
	enc := json.NewEncoder(a.Out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(v)
}
