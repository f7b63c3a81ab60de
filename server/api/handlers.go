package api

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/core/report"
	"oldledger/core/shape"
	"oldledger/ledger"
	"oldledger/wire"
)

// decode reads a JSON body and refuses fields that nobody knows.
func decode(c *echo.Context, into any) error {
	dec := json.NewDecoder(c.Request().Body)
	dec.DisallowUnknownFields()
	if err := dec.Decode(into); err != nil {
		return &ledger.Error{Fault: ledger.Invalid, Text: "the body is not the JSON object that this address takes: " + err.Error()}
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return &ledger.Error{Fault: ledger.Invalid, Text: "something follows the JSON object of the body"}
	}
	return nil
}

func (a *API) signOut(c *echo.Context) error {
	if err := a.sessions.Destroy(c.Request().Context()); err != nil {
		return err
	}
	a.unmark(c)
	return c.NoContent(http.StatusNoContent)
}

func (a *API) me(c *echo.Context) error {
	who := actor(c)
	if who.Seeing() != "" {
		return a.meSeeing(c, who)
	}
	if who.Name == "" {
		return &ledger.Error{Fault: ledger.SignInFirst, Text: "nobody is signed in"}
	}
	return c.JSON(http.StatusOK, toMe(who))
}

// waiting answers what waits for whoever asks.
func (a *API) waiting(c *echo.Context) error {
	w, err := a.ledger.Waiting(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Waiting{
		Drafts: each(w.Drafts, func(d ledger.WaitingDraft) wire.WaitingDraft {
			return wire.WaitingDraft{Version: toVersion(d.Version), Mine: d.Mine, Open: d.Open, Why: d.Why}
		}),
		Notices: w.Notices,
		Asked:   each(w.Asked, toRequest),
	})
}

func (a *API) makeToken(c *echo.Context) error {
	var in wire.TokenWish
	if err := decode(c, &in); err != nil {
		return err
	}
	token, err := a.ledger.MakeToken(c.Request().Context(), actor(c), ledger.TokenWish{
		Label: in.Label, Teams: in.Teams, Days: in.Days, Scopes: each(in.Scopes, func(s string) ledger.Scope { return ledger.Scope(s) }),
	})
	if err != nil {
		return err
	}
	c.Set(contextSecret, true)
	return c.JSON(http.StatusCreated, wire.Token{Token: token})
}

func (a *API) apis(c *echo.Context) error {
	list, err := a.ledger.APIs(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	after, limit, err := page(c, 100)
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(api ledger.API) bool { return api.Name <= after })
	if len(list) > limit {
		list = list[:limit]
		next(c, list[limit-1].Name)
	}
	return c.JSON(http.StatusOK, listOf(list, func(api ledger.API) wire.API { return toAPI(api, actor(c)) }))
}

// page reads cursor and limit of a list.
func page(c *echo.Context, limit int) (after string, n int, err error) {
	if text := c.QueryParam("limit"); text != "" {
		if n, err = strconv.Atoi(text); err != nil || n < 1 || n > 1000 {
			return "", 0, &ledger.Error{Fault: ledger.Invalid, Text: "limit is a whole number from 1 to 1000"}
		}
		limit = n
	}
	return c.QueryParam("cursor"), limit, nil
}

// next links the page that begins behind the cursor (RFC 8288).
func next(c *echo.Context, cursor string) {
	u := *c.Request().URL
	q := u.Query()
	q.Set("cursor", cursor)
	u.RawQuery = q.Encode()
	c.Response().Header().Set("Link", fmt.Sprintf("<%s>; rel=\"next\"", u.RequestURI()))
}

func (a *API) api(c *echo.Context) error {
	api, err := a.ledger.API(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toAPI(api, actor(c)))
}

// lineup answers which version of an API can replace which.
func (a *API) lineup(c *echo.Context) error {
	l, err := a.ledger.Lineup(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, l)
}

func (a *API) history(c *echo.Context) error {
	h, err := a.ledger.History(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(h, toRelease))
}

func (a *API) record(c *echo.Context) error {
	s, err := submission(c)
	if err != nil {
		return err
	}
	rec, err := a.ledger.Record(c.Request().Context(), actor(c), s)
	if err != nil {
		return err
	}
	status := http.StatusCreated
	if rec.Outcome != "new" {
		status = http.StatusOK
	}
	c.Response().Header().Set("ETag", `"`+rec.Version.Digest+`"`)
	return c.JSON(status, toRecorded(rec))
}

func (a *API) dryRun(c *echo.Context) error {
	s, err := submission(c)
	if err != nil {
		return err
	}
	rec, err := a.ledger.DryRun(c.Request().Context(), actor(c), s)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toRecorded(rec))
}

func ref(c *echo.Context) string {
	if r, err := url.PathUnescape(c.Param("ref")); err == nil {
		return r
	}
	return c.Param("ref")
}

func (a *API) version(c *echo.Context) error {
	v, err := a.ledger.Version(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	c.Response().Header().Set("ETag", `"`+v.Digest+`"`)
	return c.JSON(http.StatusOK, toVersion(v))
}

// discard takes a draft away.
func (a *API) discard(c *echo.Context) error {
	if err := a.ledger.Discard(c.Request().Context(), actor(c), ref(c)); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// discardAPI takes an API away that has drafts at most.
func (a *API) discardAPI(c *echo.Context) error {
	if err := a.ledger.DiscardAPI(c.Request().Context(), actor(c), c.Param("api")); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (a *API) text(c *echo.Context) error {
	v, text, err := a.ledger.Bundled(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("ETag", `"`+v.Digest+`"`)
	h.Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(v.File))
	kind := "application/yaml"
	if strings.HasSuffix(v.File, ".json") {
		kind = "application/json"
	}
	return c.Blob(http.StatusOK, kind, text)
}

// files answers a version's files as they were recorded, the entry first.
func (a *API) files(c *echo.Context) error {
	files, err := a.ledger.Files(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, each(files, toFile))
}

// revisions answers what was recorded of a version, the newest first.
func (a *API) revisions(c *echo.Context) error {
	list, err := a.ledger.Revisions(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(list, toRevision))
}

func (a *API) gate(c *echo.Context) error {
	care, err := a.ledger.PublishCheck(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toPublishCheck(care))
}

func (a *API) publish(c *echo.Context) error {
	var in wire.Publication
	if err := decode(c, &in); err != nil {
		return err
	}
	v, err := a.ledger.Publish(c.Request().Context(), actor(c), ref(c),
		each(in.Waivers, func(w wire.Waive) ledger.Waive { return ledger.Waive(w) }),
		each(in.Allowed, func(a wire.Exception) ledger.Exception { return ledger.Exception(a) })...)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toVersion(v))
}

func (a *API) notices(c *echo.Context) error {
	list, err := a.ledger.Notices(c.Request().Context(), actor(c), c.QueryParam("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Items[promise.Notice]{Items: list})
}

func (a *API) deprecate(c *echo.Context) error {
	var in wire.Announcement
	if err := decode(c, &in); err != nil {
		return err
	}
	n, err := a.ledger.Deprecate(c.Request().Context(), actor(c), ledger.Announcement(in))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, n)
}

// options are those of a comparison, as a request has them.
func options(c *echo.Context) (o compare.Options, err error) {
	var ok bool
	if o.Reading, ok = shape.ParseReading(cmp.Or(c.QueryParam("reading"), "declared")); !ok {
		return o, &ledger.Error{Fault: ledger.Invalid, Text: "reading is declared or exact"}
	}
	if said := c.QueryParam("undeclared"); said != "" {
		o.Undeclared, ok = compare.ParseUndeclared(said)
	}
	if !ok {
		return o, &ledger.Error{Fault: ledger.Invalid, Text: "undeclared is ignored or refused"}
	}
	return o, nil
}

func (a *API) compare(c *echo.Context) error {
	o, err := options(c)
	if err != nil {
		return err
	}
	result, err := a.ledger.Compare(c.Request().Context(), actor(c), c.QueryParam("old"), c.QueryParam("new"), o)
	if err != nil {
		return err
	}
	removed, err := a.ledger.Removals(c.Request().Context(), actor(c), c.QueryParam("old"), result)
	if err != nil {
		return err
	}
	if result, err = a.ledger.WithDiagnostics(c.Request().Context(), actor(c), c.QueryParam("old"), c.QueryParam("new"), result); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Comparison{Comparison: result, Verdict: report.Verdict(result), Removed: removed})
}

func (a *API) journal(c *echo.Context) error {
	cursor, limit, err := page(c, 100)
	if err != nil {
		return err
	}
	var from int64
	if cursor != "" {
		if from, err = strconv.ParseInt(cursor, 10, 64); err != nil || from < 0 {
			return &ledger.Error{Fault: ledger.Invalid, Text: "the cursor of the journal is the number of an entry"}
		}
	}
	read := a.ledger.Journal
	switch order := c.QueryParam("order"); order {
	case "", "oldest":
	case "newest":
		read = a.ledger.Newest
	default:
		return &ledger.Error{Fault: ledger.Invalid, Text: "order is oldest or newest, not " + order}
	}
	asked := ledger.Question{
		Actor: c.QueryParam("actor"), API: c.QueryParam("api"), Act: c.QueryParam("act"), From: c.QueryParam("from"), Until: c.QueryParam("until"),
	}
	entries, err := read(c.Request().Context(), actor(c), asked, from, limit)
	if err != nil {
		return err
	}
	if len(entries) == limit {
		next(c, strconv.FormatInt(entries[limit-1].Seq, 10))
	}
	return c.JSON(http.StatusOK, listOf(entries, toEntry))
}

func (a *API) verify(c *echo.Context) error {
	v, err := a.ledger.VerifyJournal(c.Request().Context(), actor(c), c.QueryParam("head"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Verification(v))
}
