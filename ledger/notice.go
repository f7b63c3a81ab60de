package ledger

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"oldledger/core/housestyle"
	"oldledger/core/promise"
	"oldledger/ledger/records"
)

// Announcement is the wish to deprecate something. Ref is an API (berths), or a version of it (berths@1.2.0); Line widens
// a version to its line.
type Announcement struct {
	Ref        string
	Line       bool
	Operation  string // an operationId or "POST /bookings"
	Parameter  string // a parameter of the operation: "limit", or "query limit" where several places have one
	Header     string // a header of the operation's answers
	Field      string // "Vessel.length"
	Value      string // one that the parameter, header or field lists
	Since      string // a date; today when ""
	Sunset     string
	ReplacedBy string
	Reason     string
	Guide      string // the guide to follow: "1.2.0..2.0.0"
	Sooner     string // why the sunset may come sooner than the notice period allows; kept in the journal
}

// Deprecate records a notice and returns it.
func (l *Ledger) Deprecate(ctx context.Context, who Actor, a Announcement) (promise.Notice, error) {
	w := l.view(who)
	if err := l.may(who, Announce, apiOf(a.Ref)); err != nil {
		return promise.Notice{}, err
	}
	var n promise.Notice
	check := func(w view) (err error) {
		if n, err = w.notice(ctx, a); err != nil {
			return err
		}
		return w.inTime(ctx, n, a.Sooner)
	}
	err := w.prepared(ctx, apiOf(a.Ref), check, func(w view) error {
		err := check(w)
		if err != nil {
			return err
		}
		n.ID, err = w.addNotice(ctx, n)
		if err == nil && a.Sooner != "" {
			err = w.appendJournal(ctx, "notice.hurried", n.Subject(), map[string]string{"sunset": n.Sunset, "reason": a.Sooner})
		}
		return err
	})
	return n, err
}

// inTime refuses a notice whose sunset comes sooner after today than the notice period allows, unless somebody says why it may.
func (w view) inTime(ctx context.Context, n promise.Notice, sooner string) error {
	a, err := w.api(ctx, n.API)
	if err != nil {
		return err
	}
	if len(sooner) > maxReason {
		return refuse(Invalid, "a reason has at most %d characters", maxReason)
	}
	earliest := w.Today().AddDate(0, 0, a.NoticeDays).Format(time.DateOnly)
	if a.NoticeDays <= 0 || n.Sunset == "" || n.Sunset >= earliest || strings.TrimSpace(sooner) != "" {
		return nil
	}
	return refuse(Conflict, "what leaves %s is announced at least %d days before, and %s is sooner: %s at the earliest, or say why it may come sooner",
		a.Name, a.NoticeDays, n.Sunset, earliest)
}

// maxNoticeDays bounds a notice period.
const maxNoticeDays = housestyle.MaxNotice

// Amendment is the wish to change a notice. What is nil stays as it is.
type Amendment struct {
	Sunset     *string
	ReplacedBy *string
	Reason     *string
	Guide      *string
	Sooner     string // why the sunset may come sooner than the notice period allows
}

// Amend changes a notice: its readers see it in the feed, and the journal keeps what it said before.
func (l *Ledger) Amend(ctx context.Context, who Actor, id int64, a Amendment) (promise.Notice, error) {
	w := l.view(who)
	if err := mayAnywhere(who, Announce); err != nil {
		return promise.Notice{}, err
	}
	before, err := w.noticeCalled(ctx, "", id)
	if err != nil {
		return before, err
	}
	n := before
	err = w.act(ctx, before.API, func(w view) error {
		n, err = w.amend(ctx, before.API, id, a)
		return err
	})
	return n, err
}

// noticeCalled finds a notice by its number.
func (w view) noticeCalled(ctx context.Context, api string, id int64) (promise.Notice, error) {
	all, err := w.notices(ctx, api)
	if err != nil {
		return promise.Notice{}, err
	}
	i := slices.IndexFunc(all, func(n promise.Notice) bool { return n.ID == id })
	if i < 0 {
		return promise.Notice{}, refuse(NotFound, "there is no notice %d", id)
	}
	return all[i], nil
}

// amend changes a notice, in the transaction that reads it.
func (w view) amend(ctx context.Context, api string, id int64, a Amendment) (promise.Notice, error) {
	if err := w.may(w.who, Announce, api); err != nil {
		return promise.Notice{}, err
	}
	before, err := w.noticeCalled(ctx, api, id)
	if err != nil {
		return before, err
	}
	n := before
	for _, f := range []struct {
		into *string
		from *string
	}{{&n.Sunset, a.Sunset}, {&n.ReplacedBy, a.ReplacedBy}, {&n.Reason, a.Reason}, {&n.Guide, a.Guide}} {
		if f.from != nil {
			*f.into = strings.TrimSpace(*f.from)
		}
	}
	if n.Reason == "" || len(n.Reason) > maxReason {
		return n, refuse(Invalid, "a notice needs a reason of at most %d characters", maxReason)
	}
	if err := w.dates(&n); err != nil {
		return n, err
	}
	if err := w.guideOf(ctx, n); err != nil {
		return n, err
	}
	if n == before {
		return n, refuse(Invalid, "the notice says so already")
	}
	if n.Sunset != before.Sunset {
		if err := w.inTime(ctx, n, a.Sooner); err != nil {
			return n, err
		}
	}
	n.ChangedAt = w.stamp()
	if err := w.rows.ChangeNotice(ctx, noticeRow(n), noticeRow(before)); err != nil {
		return n, stale(err, n.Subject())
	}
	return n, w.appendJournal(ctx, "notice.changed", n.Subject(), map[string]string{
		"notice": strconv.FormatInt(n.ID, 10), "sunset": n.Sunset, "sunsetBefore": before.Sunset, "replacedBy": n.ReplacedBy, "reason": n.Reason,
		"guide": n.Guide, "sooner": a.Sooner,
	})
}

// addNotice keeps a notice, and the act of making it.
func (w view) addNotice(ctx context.Context, n promise.Notice) (int64, error) {
	n.MadeAt = w.stamp()
	id, err := w.rows.AddNotice(ctx, noticeRow(n))
	if err != nil {
		return 0, err
	}
	return id, w.appendJournal(ctx, "notice.made", n.Subject(), map[string]string{
		"notice": strconv.FormatInt(id, 10), "since": n.Since, "sunset": n.Sunset, "replacedBy": n.ReplacedBy, "reason": n.Reason,
	})
}

// declare makes the notices of a version that its description makes itself, for its line. What is announced already stays as it is.
func (w view) declare(ctx context.Context, v Version, d Description) error {
	declared, _ := promise.Declared(d.Contract) // recording refused what is wrong with them
	if len(declared) == 0 {
		return nil
	}
	made, err := w.notices(ctx, v.API)
	if err != nil {
		return err
	}
	for _, n := range declared {
		n.API, n.Line, n.MadeBy = v.API, v.Line, w.who.Name
		if n.Since == "" {
			n.Since = w.Today().Format(time.DateOnly)
		}
		if n.Reason == "" {
			n.Reason = "Its description says so."
		}
		announced := slices.ContainsFunc(made, func(m promise.Notice) bool {
			return m.SamePart(n) && m.Covers(v.Number, v.Line)
		})
		if announced {
			continue
		}
		if _, err := w.addNotice(ctx, n); err != nil {
			return err
		}
	}
	return nil
}

// notice checks an announcement against what is there.
func (w view) notice(ctx context.Context, a Announcement) (promise.Notice, error) {
	name, what, ofVersion := strings.Cut(a.Ref, "@")
	n := promise.Notice{
		API: name, Since: a.Since, Sunset: a.Sunset, ReplacedBy: a.ReplacedBy, Reason: strings.TrimSpace(a.Reason),
		Guide: strings.TrimSpace(a.Guide), MadeBy: w.who.Name,
	}
	v, err := w.readable(ctx, a.Ref)
	if err != nil {
		return n, err
	}
	d, err := w.describe(ctx, v)
	if err != nil {
		return n, err
	}
	if d.Version.State == Draft {
		return n, refuse(Conflict, "%s is a draft: nobody uses it yet, so change it instead", d.Version.Ref())
	}
	if ofVersion && what != "" {
		n.Version = d.Version.Number
	}
	if a.Line {
		n.Line, n.Version = d.Version.Line, ""
	}
	if n.Reason == "" || len(n.Reason) > maxReason {
		return n, refuse(Invalid, "a notice needs a reason of at most %d characters", maxReason)
	}
	if err := w.dates(&n); err != nil {
		return n, err
	}
	if err := part(&n, d, a); err != nil {
		return n, err
	}
	if err := w.guideOf(ctx, n); err != nil {
		return n, err
	}
	if n.ReplacedBy != "" && strings.Contains(n.ReplacedBy, "@") {
		if _, err := w.resolve(ctx, n.ReplacedBy); err != nil {
			return n, err
		}
	}
	return n, nil
}

func (l *Ledger) dates(n *promise.Notice) error {
	if n.Since == "" {
		n.Since = l.Today().Format(time.DateOnly)
	}
	for _, date := range []string{n.Since, n.Sunset} {
		if date == "" {
			continue
		}
		if _, err := time.Parse(time.DateOnly, date); err != nil {
			return refuse(Invalid, "%q is no date; write one such as 2027-03-01", date)
		}
	}
	if n.Sunset != "" && n.Sunset <= n.Since {
		return refuse(Invalid, "the sunset %s must come after %s, from when the notice holds", n.Sunset, n.Since)
	}
	return nil
}

// Notices lists the notices of an API that the actor may know of, or of all where the name is "": the next sunset first.
func (l *Ledger) Notices(ctx context.Context, who Actor, api string) ([]promise.Notice, error) {
	return l.view(who).notices(ctx, api)
}

func (w view) notices(ctx context.Context, api string) ([]promise.Notice, error) {
	all := []promise.Notice{}
	if api != "" {
		a, err := w.apiAsIs(ctx, api)
		return append(all, a.Notices...), err
	}
	apis, err := w.apis(ctx)
	if err != nil {
		return nil, err
	}
	for _, a := range apis {
		all = append(all, a.Notices...)
	}
	promise.SortNotices(all)
	return all, nil
}

func noticesOf(rows []records.Notice) []promise.Notice {
	all := make([]promise.Notice, len(rows))
	for i, n := range rows {
		all[i] = promise.Notice{
			ID: n.ID, API: n.API, Line: n.Line, Version: n.Version, Operation: n.Operation, Written: n.Written, Parameter: n.Parameter,
			Header: n.Header,
			Field:  n.Field, Value: n.Value, Since: n.Since, Sunset: n.Sunset, ReplacedBy: n.ReplacedBy, Reason: n.Reason, Guide: n.Guide,
			MadeBy: n.MadeBy,
			MadeAt: n.MadeAt, ChangedAt: n.ChangedAt,
		}
	}
	return all
}

func noticeRow(n promise.Notice) records.Notice {
	return records.Notice{
		ID: n.ID, API: n.API, Line: n.Line, Version: n.Version, Operation: n.Operation, Written: n.Written, Parameter: n.Parameter,
		Header: n.Header, Field: n.Field,
		Value: n.Value,
		Since: n.Since, Sunset: n.Sunset, ReplacedBy: n.ReplacedBy, Reason: n.Reason, Guide: n.Guide, MadeBy: n.MadeBy, MadeAt: n.MadeAt,
		ChangedAt: n.ChangedAt,
	}
}
