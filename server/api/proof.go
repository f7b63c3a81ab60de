package api

import (
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/wire"
)

func (a *API) checkpoint(c *echo.Context) error {
	var from int64
	if text := c.QueryParam("from"); text != "" {
		n, err := strconv.ParseInt(text, 10, 64)
		if err != nil || n < 0 {
			return &ledger.Error{Fault: ledger.Invalid, Text: "from is the number of entries of a checkpoint that was kept, not " + strconv.Quote(text)}
		}
		from = n
	}
	is, err := a.ledger.Checkpoint(c.Request().Context(), actor(c), from)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Checkpoint{Size: is.Size, Checkpoint: is.Signed, Key: is.Key, Proof: is.Grown})
}

func (a *API) proof(c *echo.Context) error {
	is, err := a.ledger.Proof(c.Request().Context(), actor(c), c.Param("ref"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, is)
}

// exportJournal sends the journal line by line: what goes wrong behind the first is seen by the lines that are missing.
func (a *API) exportJournal(c *echo.Context) error {
	w := c.Response()
	begun := &onceHeaded{ResponseWriter: w}
	return a.ledger.Export(c.Request().Context(), actor(c), begun)
}

// onceHeaded sets the kind of an answer with its first bytes, so that a refusal before them is one.
type onceHeaded struct {
	http.ResponseWriter
	begun bool
}

func (o *onceHeaded) Write(p []byte) (int, error) {
	if !o.begun {
		o.begun = true
		o.Header().Set("Content-Type", "application/jsonl")
		o.WriteHeader(http.StatusOK)
	}
	return o.ResponseWriter.Write(p)
}
