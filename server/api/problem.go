package api

import (
	"encoding/json"
	"errors"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/server/trace"
	"oldledger/wire"
)

// ProblemBase is where the addresses of problem types begin.
const ProblemBase = "https://oldledger.example/problems/"

var faults = map[ledger.Fault]struct {
	status int
	title  string
}{
	ledger.NotFound:    {http.StatusNotFound, "Not found"},
	ledger.Invalid:     {http.StatusUnprocessableEntity, "The input is wrong"},
	ledger.Unreadable:  {http.StatusUnprocessableEntity, "The description cannot be read"},
	ledger.Conflict:    {http.StatusConflict, "The records do not allow it"},
	ledger.Forbidden:   {http.StatusForbidden, "Not allowed"},
	ledger.SignInFirst: {http.StatusUnauthorized, "Sign in first"},
	ledger.UnderWay:    {http.StatusConflict, "Under way"},
	ledger.TooOften:    {http.StatusTooManyRequests, "Too often"},
	ledger.Unavailable: {http.StatusServiceUnavailable, "Not now"},
}

// fail writes every error as a problem, with the trace under which the log tells why. What is not a refusal is told without its inside.
func (a *API) fail(c *echo.Context, err error) {
	p := problemOf(err)
	r := c.Request()
	request := trace.Of(r.Context())
	p.Trace, request.Err = request.ID, err // the line of the request tells it
	body, merr := json.Marshal(p)
	if merr != nil {
		a.log.Error("write problem", "trace", p.Trace, "error", merr)
		return
	}
	if p.Status == http.StatusUnauthorized {
		c.Response().Header().Set("WWW-Authenticate", `Bearer realm="ledger"`)
	}
	if r.Method == http.MethodHead {
		body = nil
	}
	if werr := c.Blob(p.Status, "application/problem+json", body); werr != nil {
		a.log.Info("client went away", "trace", p.Trace, "error", werr)
	}
}

func problemOf(err error) wire.Problem {
	var refused *ledger.Error
	var shut *ledger.GateShut
	var exposed *ledger.Exposed
	var mistaken *ledger.Mistaken
	var tooLarge *http.MaxBytesError
	var coded interface{ StatusCode() int }
	switch {
	case errors.As(err, &refused):
		f := faults[refused.Fault]
		p := wire.Problem{Type: ProblemBase + string(refused.Fault), Title: f.title, Status: f.status, Detail: refused.Text}
		p.Diagnostics = refused.Diagnostics
		return p
	case errors.As(err, &shut):
		return wire.Problem{
			Type: ProblemBase + "gate-shut", Title: "The gate is shut", Status: http.StatusConflict, Detail: shut.Error(),
			Gate: &shut.Gate,
		}
	case errors.As(err, &mistaken):
		return wire.Problem{
			Type: ProblemBase + "mistakes-found", Title: "The description has errors", Status: http.StatusConflict,
			Detail: mistaken.Error(), Mistakes: each(mistaken.Mistakes, toMistake),
		}
	case errors.As(err, &exposed):
		return wire.Problem{
			Type: ProblemBase + "credentials-found", Title: "It looks like a credential", Status: http.StatusConflict,
			Detail: exposed.Error(), Credentials: each(exposed.Credentials, toCredential),
		}
	case errors.As(err, &tooLarge):
		return wire.Problem{
			Type: ProblemBase + "too-large", Title: "Too large", Status: http.StatusRequestEntityTooLarge,
			Detail: "a request may have at most " + strconv.FormatInt(tooLarge.Limit>>20, 10) + " MB",
		}
	case errors.As(err, &coded) && coded.StatusCode() < http.StatusInternalServerError:
		return wire.Problem{Type: "about:blank", Title: http.StatusText(coded.StatusCode()), Status: coded.StatusCode(), Detail: err.Error()}
	}
	return wire.Problem{
		Type: "about:blank", Title: http.StatusText(http.StatusInternalServerError), Status: http.StatusInternalServerError,
		Detail: "something went wrong in the ledger; name the trace to whoever runs it",
	}
}
