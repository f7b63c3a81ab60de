package ledger

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// AudienceWish is the wish to open something to others than before. What is nil stays as it is.
type AudienceWish struct {
	Part      string    // "operation bookBerth", "group Dues"; "" for the whole API
	Published *Audience // who may read it; of a part, of those who read the API
	Drafts    *Audience // who may read its drafts; a part has none of its own
	AsLedger  bool      // from now on as the ledger says of every API; of a part, as its API
	Reason    string    // for the journal; may be ""
}

// SetAudience says who may read an API, a part of it or, where api is "", every API of which nothing else is said. It holds from the next
// request on.
func (l *Ledger) SetAudience(ctx context.Context, who Actor, api string, wish AudienceWish) error {
	if err := l.may(who, SetAudience, api); err != nil {
		return err
	}
	part, err := PartOf(wish.Part)
	if err == nil {
		err = wish.check(api, part)
	}
	if err != nil {
		return err
	}
	err = l.view(who).act(ctx, api, func(w view) error {
		if api != "" {
			if part, err = w.partOfAPI(ctx, api, part, wish.AsLedger); err != nil {
				return err
			}
		}
		if err := w.teamsIn(ctx, wish.Published, wish.Drafts); err != nil {
			return err
		}
		if err := w.putAudience(ctx, api, part, wish); err != nil {
			return err
		}
		return w.forgetNamed(ctx, api)
	})
	if err == nil {
		l.refresh() // what names it is made anew from the next request on, too
	}
	return err
}

func (wish AudienceWish) check(api string, part Part) error {
	switch {
	case wish.AsLedger && (wish.Published != nil || wish.Drafts != nil):
		return refuse(Invalid, "say who may read it, or that it is as the ledger says; not both")
	case !wish.AsLedger && wish.Published == nil && wish.Drafts == nil:
		return refuse(Invalid, "say who may read what is published, or drafts")
	case wish.AsLedger && api == "":
		return refuse(Invalid, "what the ledger says cannot be as the ledger says; say who may read")
	case part != Part{} && api == "":
		return refuse(Invalid, "a part belongs to an API: say of which")
	case part != Part{} && wish.Drafts != nil:
		return refuse(Invalid, "who reads the drafts of an API reads what of them is for them; a part has no audience of its drafts")
	case wish.Drafts != nil && slices.Contains(*wish.Drafts, Everyone):
		return refuse(Invalid, "drafts are for those who are signed in, at most; publish the version, or show a preview of it")
	case api == "" && wish.Published != nil && slices.Contains(*wish.Published, LinkHolder):
		return refuse(Invalid, "a link leads to one API: say of which")
	case len(wish.Reason) > maxReason:
		return refuse(Invalid, "a reason has at most %d characters", maxReason)
	}
	return nil
}

// partOfAPI is a part of an API that the actor knows of, as it is kept: an operation by its method and path. One that no version has is
// refused, unless it is taken away.
func (w view) partOfAPI(ctx context.Context, api string, part Part, drop bool) (Part, error) {
	a, err := w.api(ctx, api)
	if err != nil || part == (Part{}) {
		return part, err
	}
	if drop && slices.ContainsFunc(a.Audiences.Parts, func(p PartAudience) bool { return p.Part.key() == part.key() }) {
		return part, nil
	}
	var names []string
	for _, v := range slices.Backward(a.Versions) {
		if v.State == Retired {
			continue
		}
		c, err := w.contract(ctx, v)
		if err != nil {
			return part, err
		}
		if found, there := partIn(c, part); there {
			return found, nil
		}
		if names == nil {
			names = partNames(c, part)
		}
	}
	return part, refuse(Invalid, "%s has no %s%s", api, part, source.DidYouMean(part.Operation+part.Group, names))
}

// partIn finds a part in a version, an operation by its key or its id.
func partIn(c *contract.Contract, part Part) (Part, bool) {
	if part.Operation != "" {
		op := c.Lookup(part.Operation)
		if op == nil || op.Owner != "" {
			return part, false
		}
		return Part{Operation: op.Written()}, true
	}
	return part, slices.ContainsFunc(c.All(), func(op *contract.Operation) bool { return slices.Contains(op.Tags, part.Group) })
}

// reopened are the parts for fewer that the version before had and this one has not: what took their place would be for all its readers.
// Publishing says so before it is too late.
func (w view) reopened(ctx context.Context, v Version) (source.Diagnostics, error) {
	w = w.whole()
	parts := w.keeping(v.API).Parts
	if len(parts) == 0 || v.State != Draft {
		return nil, nil
	}
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return nil, err
	}
	base := predecessor(a, v)
	if base == nil {
		return nil, nil
	}
	before, err := w.contract(ctx, *base)
	if err != nil {
		return nil, err
	}
	now, err := w.contract(ctx, v)
	if err != nil {
		return nil, err
	}
	var all source.Diagnostics
	for _, p := range parts {
		_, was := partIn(before, p.Part)
		if _, is := partIn(now, p.Part); was && !is {
			all = append(all, &source.Diagnostic{
				Rule: "for-fewer", Severity: source.Error, Range: now.Node.ValueRange(),
				Text:  fmt.Sprintf("the %s of %s is for fewer readers than the API, and is not here: what took its place is for all of them", p.Part, base.Number),
				Right: "say who reads what took its place, or let this through",
			})
		}
	}
	return all, nil
}

// partNames are the names of the parts of the same kind that a version has.
func partNames(c *contract.Contract, part Part) []string {
	if part.Operation != "" {
		return operationNames(c)
	}
	var names []string
	for _, op := range c.All() {
		names = append(names, op.Tags...)
	}
	return names
}

// teamsIn refuses audiences with teams that there are not.
func (w view) teamsIn(ctx context.Context, audiences ...*Audience) error {
	for _, a := range audiences {
		if a == nil {
			continue
		}
		for _, g := range *a {
			if team := g.Team(); team != "" {
				if err := w.isTeam(ctx, team); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// putAudience keeps what is wished, and enters it in the journal with what was before.
func (w view) putAudience(ctx context.Context, api string, part Part, wish AudienceWish) error {
	rows, err := w.rows.AudiencesOf(ctx, api)
	if err != nil {
		return err
	}
	row := records.Audience{API: api, Part: part.String()}
	if i := slices.IndexFunc(rows, func(r records.Audience) bool { return storedPart(r.Part).key() == part.key() }); i >= 0 {
		row = rows[i]
	}
	detail := map[string]string{"part": row.Part, "publishedBefore": row.Published, "draftsBefore": row.Drafts, "reason": wish.Reason}
	if wish.AsLedger {
		row.Published, row.Drafts = "", ""
		err = w.rows.DropAudience(ctx, api, row.Part)
	} else {
		for to, from := range map[*string]*Audience{&row.Published: wish.Published, &row.Drafts: wish.Drafts} {
			if from != nil {
				*to = from.stored()
			}
		}
		err = w.rows.PutAudience(ctx, row)
	}
	if err != nil {
		return err
	}
	detail["published"], detail["drafts"] = row.Published, row.Drafts
	return w.appendJournal(ctx, "audience.set", subjectOf(api), detail)
}

// forgetNamed has all be made anew that was made of APIs whose notices name one: who may read that has changed. What can be found in it is
// made anew, too.
func (w view) forgetNamed(ctx context.Context, api string) error {
	if api == "" {
		return w.openCards(ctx)
	}
	if err := w.rows.DropCards(ctx, api); err != nil {
		return err
	}
	notices, err := w.rows.Notices(ctx, "")
	if err != nil {
		return err
	}
	named := map[string]bool{api: true}
	for _, n := range notices {
		if name, _, _ := strings.Cut(n.ReplacedBy, "@"); name == api && !named[n.API] {
			named[n.API] = true
			if err := w.rows.Advance(ctx, n.API, true); err != nil {
				return err
			}
		}
	}
	return nil
}

// openCards says of all cards to whom they are open by now.
func (w view) openCards(ctx context.Context) error {
	apis, err := w.rows.APIs(ctx)
	if err != nil {
		return err
	}
	audiences, err := w.rows.Audiences(ctx)
	if err != nil {
		return err
	}
	of := map[string][]records.Audience{}
	for _, a := range audiences {
		of[a.API] = append(of[a.API], a)
	}
	for _, a := range apis {
		if err := w.rows.OpenCards(ctx, a.Name, keptBy(a.Name, a.Team, of[a.Name], of[""]).opens); err != nil {
			return err
		}
	}
	return nil
}

// openTookOver is the act by which a ledger says to whom an earlier version of it was open.
const openTookOver = "audience.taken-over"

// takeOverAudience enters in the journal, once, that an earlier version of the ledger was open to everyone.
func (l *Ledger) takeOverAudience(ctx context.Context) error {
	r := l.store.Read()
	done, err := r.FindActs(ctx, records.Question{Act: "audience"}, 0, false, 1)
	if err != nil || len(done) > 0 {
		return err
	}
	rows, err := r.AudiencesOf(ctx, "")
	if err != nil || len(rows) == 0 {
		return err
	}
	return l.view(Itself).act(ctx, "", func(w view) error {
		w.quiet()
		return w.appendJournal(ctx, openTookOver, subjectOf(""), map[string]string{"published": rows[0].Published, "drafts": rows[0].Drafts})
	})
}

// readBy names what is open to a team, of whose name another one could make use later; "" for nothing.
func (w view) readBy(ctx context.Context, team string) (string, error) {
	rows, err := w.rows.Audiences(ctx)
	if err != nil {
		return "", err
	}
	for _, row := range rows {
		if slices.Contains(append(storedAudience(row.Published), storedAudience(row.Drafts)...), OfTeam(team)) {
			return cmp.Or(row.API, "every API of which nothing else is said"), nil
		}
	}
	shelves, err := w.rows.Shelves(ctx)
	if err != nil {
		return "", err
	}
	for _, s := range shelves {
		if slices.Contains(storedAudience(s.Audience), OfTeam(team)) {
			return "the shelf " + s.Name, nil
		}
	}
	return "", nil
}
