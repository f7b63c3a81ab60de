package api

import (
	"oldledger/core/compare"
	"oldledger/core/report"
	"oldledger/ledger"
	"oldledger/wire"
)

// What the ledger knows, as it travels. A conversion between structs holds as long as both have the same fields: what changes on one side
// alone does not build.

// each maps a list; what is empty travels as an empty list.
func each[A, B any](all []A, to func(A) B) []B {
	mapped := make([]B, len(all))
	for i, a := range all {
		mapped[i] = to(a)
	}
	return mapped
}

func listOf[A, B any](all []A, to func(A) B) wire.Items[B] {
	return wire.Items[B]{Items: each(all, to)}
}

func toPerson(p ledger.Person) wire.Person {
	to := wire.Person{Name: p.Name, Full: p.Full, Role: string(p.Role)}
	for team, role := range p.Teams {
		if to.Teams == nil {
			to.Teams = map[string]string{}
		}
		to.Teams[team] = string(role)
	}
	return to
}

// toMe is the person who asks, with what they may do.
func toMe(who ledger.Actor) wire.Person {
	to := toPerson(who.Person)
	to.May = who.MayDoSomewhere()
	return to
}

func toTeam(t ledger.Team, who ledger.Actor) wire.Team {
	return wire.Team{
		Name: t.Name, APIs: t.APIs, Offers: t.Offers, May: who.MayDo(t.Name),
		Members: each(t.Members, func(m ledger.Member) wire.Member {
			return wire.Member{Name: m.Name, Full: m.Full, Role: string(m.Role)}
		}),
	}
}

func toVersion(v ledger.Version) wire.Version {
	return wire.Version{
		API: v.API, Number: v.Number, Text: v.Text, Line: v.Line, State: string(v.State), Title: v.Title, Dialect: v.Dialect, File: v.File,
		Digest:     v.Digest,
		RecordedAt: v.RecordedAt, RecordedBy: v.RecordedBy, Message: v.Message, Origin: wire.Origin(v.Origin),
		PublishedAt: v.PublishedAt, PublishedBy: v.PublishedBy, RetiredAt: v.RetiredAt, Sunset: v.Sunset, Overdue: v.Overdue,
		Waivers: waiversOf(v.Waivers),
	}
}

func toAPI(a ledger.API, who ledger.Actor) wire.API {
	to := wire.API{
		Name: a.Name, Title: a.Title, Team: a.Team, Promise: a.Promise, LinePromises: a.LinePromises, NoticeDays: a.NoticeDays,
		Versions: each(a.Versions, toVersion), Notices: orEmpty(a.Notices), Offered: a.Offered, Versioning: a.Versioning.String(),
		Undeclared: undeclared(a.Undeclared),
	}
	if who.Name != "" {
		to.May = who.MayDo(a.Team)
	}
	if a.Audiences.Published != nil {
		audience := toAudience(a.Audiences)
		to.Audience, to.Switcher, to.Own, to.Review = &audience, a.Switcher, toOwn(a.Own), a.Terms.Words()
		for i, v := range a.Versions {
			to.Versions[i].ReadBy = a.ReadBy(v)
		}
	}
	return to
}

// undeclared is what a server does with what is not declared, "" where nobody said.
func undeclared(u compare.Undeclared) string {
	if u == compare.Untold {
		return ""
	}
	return u.String()
}

func toCalling(c ledger.Calling) wire.Calling {
	return wire.Calling{
		Versioning: c.Scheme.String(), Undeclared: undeclared(c.Undeclared),
		Versions: each(c.Versions, func(v ledger.CalledVersion) wire.CalledVersion {
			return wire.CalledVersion{Ref: v.Ref, Says: v.Says, Usual: v.Usual, Faults: orEmpty(v.Faults), Clashes: orEmpty(v.Clashes)}
		}),
	}
}

func toOwn(o ledger.Own) *wire.Own {
	own := &wire.Own{Promise: o.Promise}
	if o.NoticeDays >= 0 {
		own.NoticeDays = &o.NoticeDays
	}
	return own
}

// orEmpty is a list that travels as one even where it is empty.
func orEmpty[T any](all []T) []T {
	if all == nil {
		return []T{}
	}
	return all
}

func toRevision(r ledger.Revision) wire.Revision {
	return wire.Revision{
		Version: r.Version, Digest: r.Digest, Title: r.Title, RecordedAt: r.RecordedAt, RecordedBy: r.RecordedBy, Message: r.Message,
		Origin: wire.Origin(r.Origin), Current: r.Current,
	}
}

func toFile(f ledger.File) wire.File { return wire.File(f) }

func toRecorded(r ledger.Recorded) wire.Recorded {
	to := wire.Recorded{Version: toVersion(r.Version), Outcome: r.Outcome, Changes: r.Changes, Gate: r.Gate, Diagnostics: r.Diagnostics}
	if r.Changes != nil {
		to.Verdict = report.Verdict(r.Changes)
	}
	if r.Base != nil {
		base := toVersion(*r.Base)
		to.Base = &base
	}
	return to
}

// waiversOf leaves out a list without any.
func waiversOf(all []ledger.Waiver) []wire.Waiver {
	if len(all) == 0 {
		return nil
	}
	return each(all, toWaiver)
}

func toWaiver(w ledger.Waiver) wire.Waiver { return wire.Waiver(w) }

func toRelease(r ledger.Release) wire.Release {
	return wire.Release{
		Version: toVersion(r.Version), Before: r.Before, Changes: r.Changes, Notices: r.Notices,
		Waivers: each(r.Waivers, toWaiver), Removed: r.Removed,
	}
}

func toCredential(c ledger.Credential) wire.Credential { return wire.Credential(c) }
func toMistake(m ledger.Mistake) wire.Mistake          { return wire.Mistake(m) }

func toPublishCheck(c ledger.PublishCheck) wire.PublishCheck {
	return wire.PublishCheck{
		Gate: c.Gate, Credentials: each(c.Credentials, toCredential), Mistakes: each(c.Mistakes, toMistake),
		Diagnostics: c.Diagnostics, Unmet: c.Unmet,
	}
}

func toOverlay(o ledger.Overlay) wire.Overlay { return wire.Overlay(o) }
func toPicture(p ledger.Picture) wire.Picture {
	api := p.API
	if api == "" {
		api = house
	}
	return wire.Picture{Name: p.Name, Size: p.Size, Address: "/reference/" + api + "/pictures/" + p.Name, MadeBy: p.MadeBy, MadeAt: p.MadeAt}
}

func toHeader(h ledger.GatewayHeader) wire.GatewayHeader { return wire.GatewayHeader(h) }
func toEntry(e ledger.Entry) wire.Entry                  { return wire.Entry(e) }

func toLooks(k ledger.Looks) wire.Looks {
	return wire.Looks{
		Accent: k.Accent, AccentDark: k.AccentDark, Font: k.Font, Logo: k.Logo, Landing: k.Landing, Footer: k.Footer, Parents: k.Parents,
		Unlisted: k.Unlisted, MadeBy: k.MadeBy, MadeAt: k.MadeAt,
		Languages: languages(k.Languages, func(l ledger.LanguageOfSamples) wire.LanguageOfSamples { return wire.LanguageOfSamples(l) }),
	}
}

func fromLooks(k wire.Looks) ledger.Looks {
	return ledger.Looks{
		Accent: k.Accent, AccentDark: k.AccentDark, Font: k.Font, Logo: k.Logo, Landing: k.Landing, Footer: k.Footer, Parents: k.Parents,
		Unlisted: k.Unlisted, MadeBy: k.MadeBy, MadeAt: k.MadeAt,
		Languages: languages(k.Languages, func(l wire.LanguageOfSamples) ledger.LanguageOfSamples { return ledger.LanguageOfSamples(l) }),
	}
}

// languages maps a list that may be missing.
func languages[A, B any](all []A, to func(A) B) []B {
	if all == nil {
		return nil
	}
	return each(all, to)
}
