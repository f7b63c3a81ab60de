package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/value"
)

func (a *app) convertCommand() *cobra.Command {
	var to, output string
	cmd := &cobra.Command{
		Use: "convert FILE", GroupID: "look", Short: "Write a description in another dialect", Args: cobra.ExactArgs(1),
		Long: `Writes a RAML or OpenAPI description as OpenAPI, one file, with its names, words, examples and annotations. Comparing the two finds
nothing above editorial. What the other dialect has no words for is listed on standard error, each with its place; nothing is
dropped in silence.`,
		Example: "  oldledger convert tides/tides.raml -o tides.yaml\n  oldledger convert --to openapi-3.0 dues@1.1.0",
	}
	cmd.Flags().StringVar(&to, "to", string(openapi.To31), "dialect to write: "+targets())
	cmd.Flags().StringVarP(&output, "output", "o", "", "file to write (default: standard output); .json writes JSON")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if !slices.Contains(openapi.Targets, openapi.Target(to)) {
			return usageError{fmt.Errorf("--to is %s, not %q", targets(), to)}
		}
		d, err := a.describe(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		made := format.ConvertRead(d.set, d.contract, openapi.Target(to))
		if err := a.write(made.Document, output); err != nil {
			return err
		}
		for _, w := range made.Warnings {
			fmt.Fprintln(a.Err, w)
		}
		return nil
	}
	return cmd
}

func targets() string {
	words := make([]string, len(openapi.Targets))
	for i, t := range openapi.Targets {
		words[i] = string(t)
	}
	return strings.Join(words, " or ")
}

// write writes a description to a file or to standard output, as JSON where the file's name says so.
func (a *app) write(whole *value.Value, output string) error {
	text := string(whole.YAML())
	if strings.EqualFold(filepath.Ext(output), ".json") {
		text = whole.Indented() + "\n"
	}
	return a.save(text, output)
}

// save writes a text to a file, and says so, or to standard output where none is named.
func (a *app) save(text, output string) error {
	if output == "" {
		return printf(a, "%s", text)
	}
	if err := os.WriteFile(a.path(output), []byte(text), 0o644); err != nil {
		return notRead(output, err)
	}
	_, err := fmt.Fprintf(a.Err, "%s is written\n", output)
	return err
}
