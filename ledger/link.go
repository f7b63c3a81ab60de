package ledger

import (
	"context"
	"slices"
	"time"

	"oldledger/ledger/records"
)

// Link lets whoever has it, and its password, read what is published of an API that is open to those who do.
type Link struct {
	ID     string // names it without giving it away
	API    string
	Label  string // for whom it is
	Path   string // below the service's address; told once, "" in a list
	MadeBy string
	MadeAt string
	EndsAt string
	Ended  bool
}

// LinkWish is what somebody wants a link for.
type LinkWish struct {
	Label    string
	Password string // "" to have one made
	Days     int    // until it ends; 0 for 90
}

const (
	usualReaderDays = 90
	maxReaderDays   = 400
	rememberedDays  = 30 // how long a browser remembers that the password was given
)

// MakeLink makes a link to an API. It is told once with its password, of which only a hash is kept.
func (l *Ledger) MakeLink(ctx context.Context, who Actor, api string, wish LinkWish) (link Link, password string, err error) {
	if err := l.may(who, SetAudience, api); err != nil {
		return Link{}, "", err
	}
	if !called(wish.Label) {
		return Link{}, "", refuse(Invalid, "a link needs a label of at most %d characters that says for whom it is", maxFull)
	}
	if wish.Days < 0 || wish.Days > maxReaderDays {
		return Link{}, "", refuse(Invalid, "a link lasts 1 to %d days, not %d", maxReaderDays, wish.Days)
	}
	days := wish.Days
	if days == 0 {
		days = usualReaderDays
	}
	if password = wish.Password; password == "" {
		if password, err = l.secret(12); err != nil {
			return Link{}, "", err
		}
	}
	hash, err := l.hashed(ctx, password)
	if err != nil {
		return Link{}, "", err
	}
	key, err := l.secret(24)
	if err != nil {
		return Link{}, "", err
	}
	row := records.Link{
		Hash: linkHash(key), API: api, Label: wish.Label, Password: hash, MadeAt: l.stamp(), MadeBy: who.Name,
		EndsAt: l.Today().AddDate(0, 0, days).Format(time.RFC3339),
	}
	err = l.store.Write(ctx, func(r records.Rows) error {
		w := l.view(who).in(r)
		if err := w.sees(ctx, api); err != nil {
			return err
		}
		if err := r.AddLink(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "link.made", api, map[string]string{"link": row.Hash[:linkID], "label": row.Label, "ends": row.EndsAt})
	})
	if err != nil {
		return Link{}, "", err
	}
	link = l.linkOf(row)
	link.Path = "/open/" + key + "/"
	return link, password, nil
}

func (l *Ledger) linkOf(row records.Link) Link {
	return Link{
		ID: row.Hash[:linkID], API: row.API, Label: row.Label, MadeBy: row.MadeBy, MadeAt: row.MadeAt, EndsAt: row.EndsAt,
		Ended: row.EndsAt <= l.stamp(),
	}
}

// Links are those that lead to an API, the newest first, also those that ended.
func (l *Ledger) Links(ctx context.Context, who Actor, api string) ([]Link, error) {
	if err := l.may(who, SetAudience, api); err != nil {
		return nil, err
	}
	w := l.view(who)
	if err := w.sees(ctx, api); err != nil {
		return nil, err
	}
	rows, err := w.rows.Links(ctx, api)
	links := make([]Link, len(rows))
	for i, row := range rows {
		links[i] = l.linkOf(row)
	}
	return links, err
}

// WithdrawLink ends a link, by its id: whoever gave its password reads nothing there any more.
func (l *Ledger) WithdrawLink(ctx context.Context, who Actor, api, id string) error {
	if err := l.may(who, SetAudience, api); err != nil {
		return err
	}
	return l.store.Write(ctx, func(r records.Rows) error {
		w := l.view(who).in(r)
		if err := w.sees(ctx, api); err != nil {
			return err
		}
		rows, err := r.Links(ctx, api)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(rows, func(row records.Link) bool { return row.Hash[:linkID] == id })
		if i < 0 {
			return refuse(NotFound, "%s has no link %s", api, id)
		}
		if err := r.DropLink(ctx, rows[i].Hash); err != nil {
			return err
		}
		return w.appendJournal(ctx, "link.withdrawn", api, map[string]string{"link": id, "label": rows[i].Label})
	})
}

// Linked reports whether there is a link of a key that holds, whoever asks.
func (l *Ledger) Linked(ctx context.Context, key string) error {
	_, err := l.linked(ctx, key)
	return err
}

func (l *Ledger) linked(ctx context.Context, key string) (records.Link, error) {
	row, err := l.store.Read().Link(ctx, linkHash(key))
	if err == nil && (row.EndsAt <= l.stamp() || !slices.Contains(l.keeping(row.API).Published, LinkHolder)) {
		err = records.ErrNotFound
	}
	return row, notFound(err, "There is nothing at this address; a link may have ended.")
}

// OpenLink checks the password of a link, for somebody at a network address. opening is what a browser remembers of it, until ends.
func (l *Ledger) OpenLink(ctx context.Context, key, password, address string) (api, opening string, ends time.Time, err error) {
	link, err := l.linked(ctx, key)
	if err != nil {
		return "", "", ends, err
	}
	match, err := l.matches(ctx, password, link.Password)
	if err != nil {
		return "", "", ends, err
	}
	act, detail := "link.opened", map[string]string{"link": link.Hash[:linkID], "label": link.Label, "from": address}
	if !match {
		act = "link.refused"
	}
	if opening, err = l.secret(24); err != nil {
		return "", "", ends, err
	}
	ends = l.Today().AddDate(0, 0, rememberedDays)
	err = l.store.Write(ctx, func(r records.Rows) error {
		if match {
			row := records.Opening{Hash: linkHash(opening), Link: link.Hash, EndsAt: ends.Format(time.RFC3339)}
			if err := r.AddOpening(ctx, row, l.stamp()); err != nil {
				return err
			}
		}
		return l.view(Nobody).in(r).appendJournal(ctx, act, link.API, detail)
	})
	if err == nil && !match {
		err = refuse(SignInFirst, "This is not the password of this link.")
	}
	return link.API, opening, ends, err
}

// Opened are the APIs that a browser reads by what it remembers of links; what it remembers of one that ended is worth nothing.
func (l *Ledger) Opened(ctx context.Context, openings []string) ([]string, error) {
	var apis []string
	for _, opening := range openings {
		link, err := l.store.Read().Opened(ctx, linkHash(opening), l.stamp())
		if isNotFound(err) {
			continue
		}
		if err != nil {
			return nil, err
		}
		apis = append(apis, link.API)
	}
	return apis, nil
}
