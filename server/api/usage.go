package api

import (
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"oldledger/core/usage"
	"oldledger/ledger"
	"oldledger/wire"
)

// maxLog bounds a log, in bytes as it is sent.
const maxLog = 8 << 30

// isLog reports whether a request sends a log, which may be large and is read as it comes.
func isLog(r *http.Request) bool { return r.Method == http.MethodPost && r.URL.Path == "/api/v1/logs" }

func toConsumer(c ledger.Consumer) wire.Consumer {
	return wire.Consumer{
		Name: c.Name, Title: c.Title, Note: c.Note, Team: c.Team, Person: c.Person, Contacts: c.Contacts, MadeAt: c.MadeAt, MadeBy: c.MadeBy,
		Mine:    c.Mine,
		KnownBy: each(c.Signs, func(s ledger.Sign) wire.Sign { return wire.Sign{Team: s.Team, Kind: string(s.Kind), Value: s.Value} }),
		Uses:    each(c.Uses, func(u ledger.ConsumerUse) wire.ConsumerUse { return wire.ConsumerUse(u) }),
	}
}

func (a *API) consumers(c *echo.Context) error {
	after, limit, err := page(c, 100)
	if err != nil {
		return err
	}
	asked := ledger.ConsumersQuestion{Find: c.QueryParam("find"), After: after, Limit: limit}
	all, more, err := a.ledger.Consumers(c.Request().Context(), actor(c), asked)
	if err != nil {
		return err
	}
	if more {
		next(c, all[len(all)-1].Name)
	}
	return c.JSON(http.StatusOK, listOf(all, toConsumer))
}

func (a *API) consumer(c *echo.Context) error {
	one, err := a.ledger.Consumer(c.Request().Context(), actor(c), c.Param("consumer"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toConsumer(one))
}

// setConsumer makes a consumer, or changes one.
func (a *API) setConsumer(c *echo.Context) error {
	var in wire.ConsumerWish
	if err := decode(c, &in); err != nil {
		return err
	}
	return noContent(c, a.ledger.PutConsumer(c.Request().Context(), actor(c), c.Param("consumer"), ledger.ConsumerWish(in)))
}

func (a *API) dropConsumer(c *echo.Context) error {
	return noContent(c, a.ledger.DropConsumer(c.Request().Context(), actor(c), c.Param("consumer")))
}

func (a *API) setSigns(c *echo.Context) error {
	var in wire.Signs
	if err := decode(c, &in); err != nil {
		return err
	}
	signs := each(in.KnownBy, func(s wire.Sign) ledger.Sign {
		return ledger.Sign{Team: in.Team, Kind: usage.Kind(s.Kind), Value: s.Value}
	})
	return noContent(c, a.ledger.SetSigns(c.Request().Context(), actor(c), c.Param("consumer"), in.Team, signs))
}

func toLog(l ledger.AddedLog) wire.Log {
	return wire.Log{
		ID: l.ID, Name: l.Name, AddedAt: l.AddedAt, AddedBy: l.AddedBy, APIs: l.APIs, Bytes: l.Bytes, Lines: l.Lines, Repeated: l.Repeated,
		Calls: l.Calls, Unmatched: l.Unmatched, Bad: l.Bad, FirstDay: l.FirstDay, LastDay: l.LastDay,
	}
}

func toUnmatched(u usage.Unmatched) wire.Unmatched {
	return wire.Unmatched{Why: string(u.Why), API: u.API, Method: u.Method, Path: u.Path, Calls: u.Calls}
}

func (a *API) logs(c *echo.Context) error {
	all, err := a.ledger.Logs(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, toLog))
}

// addLog counts the calls of a log that is sent.
func (a *API) addLog(c *echo.Context) error {
	q := c.QueryParams()
	added, err := a.ledger.AddLog(c.Request().Context(), actor(c), ledger.LogWish{
		Name: q.Get("name"), APIs: q["of"], Mapping: q.Get("mapping"), Text: patient{c.Request().Body, http.NewResponseController(c.Response())},
	})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.AddedLog{
		Log: toLog(added), Elsewhere: added.Elsewhere, Odd: each(added.Odd, toUnmatched),
		Counted: each(added.Of, func(n ledger.CountedAPI) wire.CountedAPI { return wire.CountedAPI(n) }),
		Torn: each(added.Torn, func(b usage.Bad) wire.BadLines {
			such := each(b.Examples, func(e usage.Example) wire.BadLine { return wire.BadLine(e) })
			return wire.BadLines{Why: b.Why, Lines: b.Lines, Examples: such}
		}),
	})
}

// patient reads a body for as long as something comes.
type patient struct {
	body io.Reader
	conn *http.ResponseController
}

// How long nothing may come, and how long an answer may take once all has come.
const (
	silence   = time.Minute
	answering = 5 * time.Minute
)

func (p patient) Read(into []byte) (int, error) {
	now := time.Now()
	if err := p.conn.SetReadDeadline(now.Add(silence)); err != nil {
		return 0, err
	}
	if err := p.conn.SetWriteDeadline(now.Add(answering)); err != nil {
		return 0, err
	}
	return p.body.Read(into)
}

func (a *API) unmatched(c *echo.Context) error {
	all, err := a.ledger.Unmatched(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, func(u ledger.UnmatchedCalls) wire.Unmatched {
		to := toUnmatched(u.Unmatched)
		to.LastDay = u.LastDay
		return to
	}))
}

func toSpan(s ledger.DaySpan) wire.DaySpan { return wire.DaySpan(s) }

// use tells how often an API is called.
func (a *API) use(c *echo.Context) error {
	q := c.QueryParams()
	use, err := a.ledger.Use(c.Request().Context(), actor(c), ledger.UseQuestion{
		API: c.Param("api"), From: q.Get("from"), Until: q.Get("until"), By: ledger.UseBy(q.Get("by")), Version: q.Get("version"),
		Consumer: q.Get("consumer"), Operation: q.Get("operation"),
	})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Use{
		API: use.API, From: use.From, Until: use.Until, By: string(use.By), Calls: use.Calls, Failed: use.Failed, Unknown: use.Unknown,
		Days: use.Days, Covered: use.Covered, Missing: each(use.Missing, toSpan),
		Series: each(use.Series, func(s ledger.UseSeries) wire.UseSeries { return wire.UseSeries(s) }),
	})
}

func toEvidence(e ledger.Evidence) wire.Evidence {
	return wire.Evidence{
		From: e.From, Until: e.Until, Days: e.Days, Covered: e.Covered, Missing: each(e.Missing, toSpan), Calls: e.Calls, Unknown: e.Unknown,
	}
}

func toUser(u ledger.User) wire.User { return wire.User(u) }

// impact tells whom the changes from one version to another touch.
func (a *API) impact(c *echo.Context) error {
	o, err := options(c)
	if err != nil {
		return err
	}
	i, err := a.ledger.Impact(c.Request().Context(), actor(c), c.QueryParam("old"), c.QueryParam("new"), o)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Impact{
		Old: i.Old, New: i.New, Evidence: toEvidence(i.Evidence), Team: i.Team, Named: i.Named, Users: each(i.Users, toUser), Hidden: i.Hidden,
		Changes: each(i.Changes, func(t ledger.TouchingChange) wire.TouchingChange {
			return wire.TouchingChange{
				ID: t.ID, Kind: t.Kind, Backward: t.Backward, Forward: t.Forward, At: t.At, Title: t.Title, Users: t.Users,
				Unknown: t.Unknown, Hidden: t.Hidden, Calls: t.Calls, LastDay: t.LastDay, Says: t.Says(i.Evidence),
				Relies: t.Relies, Breaks: t.Breaks, Spared: t.Spared, Others: t.Others,
			}
		}),
	})
}

// ready tells whether something may go.
func (a *API) ready(c *echo.Context) error {
	r, err := a.ledger.MayGo(c.Request().Context(), actor(c), strings.TrimSpace(c.QueryParam("of")))
	if err != nil {
		return err
	}
	messages := map[string]string{}
	for _, u := range r.Users {
		if u.Consumer != "" {
			messages[u.Consumer] = r.Message(u, a.guideAt(r.API, r.Guide))
		}
	}
	return c.JSON(http.StatusOK, wire.Readiness{
		Subject: r.Subject, Title: r.Title, API: r.API, Versions: r.Versions, Notice: r.Notice, Sunset: r.Sunset, Guide: r.Guide, Quiet: r.Quiet,
		May: r.May, Reasons: each(r.Reasons, func(x ledger.Reason) wire.ReadyReason { return wire.ReadyReason(x) }), Messages: messages,
		Evidence: toEvidence(r.Evidence), Users: each(r.Users, toUser), Reliant: r.Reliant, Moved: each(r.Moved, toUser),
		From: r.From, Curve: r.Curve, Ends: r.Ends, EndsBy: r.EndsBy,
	})
}

// guideAt is where readers find a guide, such as 1.2.0..2.0.0; "" for none.
func (a *API) guideAt(api, guide string) string {
	if guide == "" {
		return ""
	}
	return strings.TrimSuffix(a.public.String(), "/") + "/reference/" + api + "/guides/" + guide
}

// overview is what a lead looks at once a month.
func (a *API) overview(c *echo.Context) error {
	o, err := a.ledger.Overview(c.Request().Context(), actor(c), c.QueryParam("from"), c.QueryParam("until"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, o)
}
