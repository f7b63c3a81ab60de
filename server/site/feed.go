package site

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gorilla/feeds"

	"oldledger/core/promise"
	"oldledger/ledger"
)

// toldOf are the APIs that a feed speaks of: one, or all where the name is "".
func (s *Site) toldOf(ctx context.Context, who ledger.Actor, name string) ([]ledger.API, error) {
	if name == "" {
		all, err := s.ledger.APIs(ctx, who)
		for i, a := range all {
			all[i] = settled(a)
		}
		return all, err
	}
	a, err := s.ledger.API(ctx, who, name)
	if err == nil && len(published(a)) == 0 {
		err = errNowhere
	}
	return []ledger.API{settled(a)}, err
}

// feed is what was published and announced, as Atom (RFC 4287): a version when it is published, a notice when it is made and again when
// it changes. It is that of a list of APIs where name is "".
func (s *Site) feed(ctx context.Context, who ledger.Actor, d display, name string) (page, error) {
	origin := s.originOf(who)
	apis, err := s.toldOf(ctx, who, name)
	if err != nil {
		return page{}, err
	}
	home := origin + "/reference/"
	f := &feeds.Feed{
		Title: firstOf(d.Title, s.house) + ": what is published and what leaves", Link: &feeds.Link{Href: origin + d.Base}, Id: origin + d.Base + "feed.atom",
	}
	if name != "" {
		f.Title, f.Link.Href, f.Id = apis[0].Title+": what is published and what leaves", home+name+"/", home+name+"/feed.atom"
	}
	for _, a := range apis {
		for _, v := range published(a) {
			at := home + a.Name + "/" + v.Number + "/"
			f.Add(&feeds.Item{
				Id: at, Title: fmt.Sprintf("%s %s is published", v.Title, v.Number), Link: &feeds.Link{Href: at + "changes"},
				Created: moment(v.PublishedAt), Updated: moment(v.PublishedAt), Author: &feeds.Author{Name: v.PublishedBy},
				Content: "Its reference says what it changed.",
			})
		}
		for _, n := range a.Notices {
			made, changed := moment(firstOf(n.MadeAt, n.Since)), moment(firstOf(n.ChangedAt, n.MadeAt, n.Since))
			f.Add(&feeds.Item{
				Id: fmt.Sprintf("%s%s/notices#notice-%d", home, a.Name, n.ID), Title: noticeTitle(n),
				Link:    &feeds.Link{Href: fmt.Sprintf("%s%s/notices#notice-%d", home, a.Name, n.ID)},
				Created: made, Updated: changed, Author: &feeds.Author{Name: n.MadeBy}, Content: noticeText(n),
			})
		}
	}
	f.Sort(func(x, y *feeds.Item) bool { return x.Updated.After(y.Updated) })
	if len(f.Items) > 0 {
		f.Updated = f.Items[0].Updated
	}
	if len(f.Items) > maxFeed {
		f.Items = f.Items[:maxFeed]
	}
	text, err := f.ToAtom()
	if err != nil {
		return page{}, err
	}
	return page{http.StatusOK, http.Header{"Content-Type": {"application/atom+xml; charset=utf-8"}}, []byte(text)}, nil
}

// maxFeed bounds the entries of a feed.
const maxFeed = 200

// moment reads a time or a date; a date is its first moment in UTC.
func moment(text string) time.Time {
	for _, layout := range []string{time.RFC3339, time.DateOnly} {
		if t, err := time.Parse(layout, text); err == nil {
			return t.UTC()
		}
	}
	return time.Time{}
}

func noticeTitle(n promise.Notice) string {
	if n.Sunset == "" {
		return n.Subject() + " is deprecated"
	}
	return n.Subject() + " leaves on " + day(n.Sunset)
}

func noticeText(n promise.Notice) string {
	parts := []string{"Deprecated since " + day(n.Since) + ".", n.Reason}
	if with := endWords(n); with != "" {
		parts = append(parts, "It leaves "+with+".")
	}
	if n.ReplacedBy != "" {
		parts = append(parts, "Now: "+n.ReplacedBy+".")
	}
	if from, to, ok := strings.Cut(n.Guide, ".."); ok {
		parts = append(parts, "The guide leads from "+from+" to "+to+".")
	}
	return strings.Join(parts, " ")
}

// sunsets are the days on which something leaves, as a calendar (RFC 5545): a whole day each, the same day wherever the reader is.
func (s *Site) sunsets(ctx context.Context, who ledger.Actor, d display, name string) (page, error) {
	origin := s.originOf(who)
	apis, err := s.toldOf(ctx, who, name)
	if err != nil {
		return page{}, err
	}
	c := ics.NewCalendarFor("Old Ledger")
	c.SetMethod(ics.MethodPublish)
	c.SetXWRCalName(firstOf(d.Title, s.house) + ": what leaves")
	if name != "" {
		c.SetXWRCalName(apis[0].Title + ": what leaves")
	}
	for _, a := range apis {
		if len(published(a)) == 0 {
			continue
		}
		for _, n := range a.Notices {
			if n.Sunset == "" {
				continue
			}
			e := c.AddEvent(fmt.Sprintf("notice-%d@%s", n.ID, strings.TrimPrefix(strings.TrimPrefix(origin, "https://"), "http://")))
			e.SetDtStampTime(moment(firstOf(n.ChangedAt, n.MadeAt, n.Since)))
			e.SetAllDayStartAt(moment(n.Sunset))
			e.SetAllDayEndAt(moment(n.Sunset).AddDate(0, 0, 1))
			e.SetSummary(n.Subject() + " leaves")
			e.SetDescription(noticeText(n))
			e.SetURL(fmt.Sprintf("%s/reference/%s/notices#notice-%d", origin, a.Name, n.ID))
			e.SetTimeTransparency(ics.TransparencyTransparent)
		}
	}
	return page{http.StatusOK, http.Header{"Content-Type": {"text/calendar; charset=utf-8"}}, []byte(c.Serialize())}, nil
}
