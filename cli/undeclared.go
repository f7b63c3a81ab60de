package cli

import (
	"context"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/compare"
)

func undeclaredFlag(cmd *cobra.Command, to *string) {
	cmd.Flags().StringVar(to, "undeclared", "",
		"what the server does with fields of requests that it does not declare: ignored or refused (default: as the ledger says of the API; ignored)")
}

func parseUndeclared(text string) (compare.Undeclared, error) {
	if text == "" {
		return compare.Untold, nil
	}
	u, ok := compare.ParseUndeclared(text)
	if !ok {
		return u, usageError{fmt.Errorf("--undeclared is ignored or refused, not %q", text)}
	}
	return u, nil
}

// undeclaredOf is what was said, or else what the ledger says of the API of the last reference among descriptions.
func (a *app) undeclaredOf(ctx context.Context, said compare.Undeclared, args []string) (compare.Undeclared, error) {
	if said != compare.Untold {
		return said, nil
	}
	ref := ""
	for _, arg := range args {
		if a.isReference(arg) {
			ref = arg
		}
	}
	if ref == "" {
		return said, nil
	}
	c, err := a.client()
	if err != nil {
		return said, err
	}
	name, _, _ := strings.Cut(ref, "@")
	api, err := c.API(ctx, name)
	if err != nil {
		return said, refused(err)
	}
	told, _ := compare.ParseUndeclared(api.Undeclared)
	return told, nil
}
