package ledger

import (
	"context"
	"fmt"
	"maps"
	"strings"

	"oldledger/ledger/records"
)

// dropStyles enters that the styles of a team or an API went with it.
func (a *account) dropStyles(of StyleScope) {
	maps.DeleteFunc(a.styles, func(key, _ string) bool { return strings.HasPrefix(key, of.stored()+" ") })
}

func (a *account) againstStyles(ctx context.Context, r records.Rows) (string, error) {
	newest, err := r.NewestStyles(ctx)
	if err != nil {
		return "", err
	}
	is := map[string]string{}
	for _, n := range newest {
		rows, err := r.Styles(ctx, n.Scope)
		if err != nil {
			return "", err
		}
		for _, row := range rows {
			is[fmt.Sprintf("%s %d", row.Scope, row.Version)] = digest([]byte(row.Text), nil)
		}
	}
	for key, said := range a.styles {
		if is[key] != said {
			return fmt.Sprintf("the house style %q is not what the journal says", key), nil
		}
		delete(is, key)
	}
	for key := range is {
		return fmt.Sprintf("the house style %q is not in the journal", key), nil
	}
	return "", nil
}
