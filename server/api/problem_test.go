package api

import (
	"errors"
	"fmt"
	"net/http"
	"testing"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/require"

	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/ledger"
)

// TestProblemOf tells each refusal in its own words, and nothing of what went wrong inside.
func TestProblemOf(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		err    error
		status int
		kind   string
		detail string
	}{
		{&ledger.Error{Fault: ledger.NotFound, Text: "no such thing"}, 404, ProblemBase + "not-found", "no such thing"},
		{fmt.Errorf("while reading: %w", &ledger.Error{Fault: ledger.Conflict, Text: "taken"}), 409, ProblemBase + "conflict", "taken"},
		{&ledger.Error{Fault: ledger.Invalid, Text: "wrong"}, 422, ProblemBase + "invalid", "wrong"},
		{&ledger.Error{Fault: ledger.Forbidden, Text: "no"}, 403, ProblemBase + "forbidden", "no"},
		{&ledger.Error{Fault: ledger.SignInFirst, Text: "who?"}, 401, ProblemBase + "sign-in-needed", "who?"},
		{
			&ledger.GateShut{Ref: "berths@1.2.0", Gate: promise.Gate{Promise: promise.Backward}}, 409, ProblemBase + "gate-shut",
			"berths@1.2.0 breaks the promise of its line, backward: ",
		},
		{&http.MaxBytesError{Limit: 33 << 20}, 413, ProblemBase + "too-large", "a request may have at most 33 MB"},
		{echo.ErrMethodNotAllowed, 405, "about:blank", echo.ErrMethodNotAllowed.Error()},
		{errors.New("password=secret in /var/lib"), 500, "about:blank", "something went wrong in the ledger; name the trace to whoever runs it"},
	} {
		p := problemOf(c.err)
		require.Equal(t, c.status, p.Status, c.err)
		require.Equal(t, c.kind, p.Type, c.err)
		require.Equal(t, c.detail, p.Detail)
	}
	p := problemOf(&ledger.Error{
		Fault: ledger.Unreadable, Text: "bad",
		Diagnostics: source.Diagnostics{{Range: source.Range{Place: source.Place{File: "a.yaml", Line: 3, Column: 1}}, Text: "what"}},
	})
	require.Equal(t, 3, p.Diagnostics[0].Line)
	require.Equal(t, "what", p.Diagnostics[0].Text)
}

// TestFaultsAreComplete gives every fault a status and a title.
func TestFaultsAreComplete(t *testing.T) {
	t.Parallel()
	for _, f := range []ledger.Fault{
		ledger.NotFound, ledger.Invalid, ledger.Unreadable, ledger.Conflict, ledger.Forbidden, ledger.SignInFirst,
		ledger.UnderWay, ledger.TooOften,
	} {
		require.NotZero(t, faults[f].status, f)
		require.NotEmpty(t, faults[f].title, f)
	}
}
