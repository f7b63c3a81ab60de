package ledger

import (
	"cmp"
	"context"
	"slices"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/reliance"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// Relied is what a consumer says or shows that it relies on, as far as the actor may know of it.
type Relied struct {
	Consumer   string
	Text       string // as its file says it; "" for nothing
	APIs       []ReliedAPI
	Recordings []Recording
}

// ReliedAPI is that a consumer says what it relies on of an API.
type ReliedAPI struct {
	API        string
	Version    string // for which it was built; "" where it does not say
	Operations int
	SaidAt     string
	SaidBy     string
}

// Reliance is what a consumer says or shows that it relies on.
func (l *Ledger) Reliance(ctx context.Context, who Actor, consumer string) (Relied, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return Relied{}, err
	}
	w := l.view(who)
	row, _, err := w.knownConsumer(ctx, consumer)
	if err != nil {
		return Relied{}, err
	}
	out := Relied{Consumer: consumer, APIs: []ReliedAPI{}, Recordings: []Recording{}}
	rows, err := w.rows.Reliances(ctx, "", consumer)
	if err != nil {
		return out, err
	}
	whole := &reliance.Reliance{Consumer: consumer}
	for _, r := range rows {
		if !w.knowsReliance(row, r.API) {
			continue
		}
		need, err := needOf(r)
		if err != nil {
			return out, err
		}
		whole.Needs = append(whole.Needs, need)
		out.APIs = append(out.APIs, ReliedAPI{r.API, r.Version, len(need.Operations), r.SaidAt, r.SaidBy})
	}
	if len(whole.Needs) > 0 {
		out.Text = string(whole.Value().YAML())
	}
	out.Recordings, err = w.recordingsOf(ctx, row)
	return out, err
}

// knowsReliance reports whether the actor may know what a consumer relies on of an API: who keeps it, and who sees inside the API.
func (w view) knowsReliance(c records.Consumer, api string) bool {
	return w.keeps(c) || w.keeping(api).inside(w.who)
}

// needOf reads what a row says.
func needOf(r records.Reliance) (*reliance.Need, error) {
	f, err := source.Parse("reliance", []byte(r.Needs))
	if err != nil {
		return nil, err
	}
	read, err := reliance.Read(f)
	if err != nil {
		return nil, err
	}
	return read.Needs[0], nil
}

// Rely says what a consumer of the actor's relies on, by the text of its file, in place of what was said before. Every operation that it
// names must be there, in the version for which it says that it was built, or else in the newest.
func (l *Ledger) Rely(ctx context.Context, who Actor, consumer, text string) error {
	if err := l.may(who, KeepConsumer, ""); err != nil {
		return err
	}
	if len(text) > reliance.MaxBytes {
		return refuse(Invalid, "what a consumer relies on is said in at most %d KB", reliance.MaxBytes>>10)
	}
	f, err := source.Parse("reliance.yaml", []byte(text))
	if err != nil {
		return refuse(Invalid, "%v", err)
	}
	said, err := reliance.Read(f)
	if err != nil {
		return refuse(Invalid, "%v", err)
	}
	if said.Consumer != "" && said.Consumer != consumer {
		return refuse(Invalid, "the file speaks of %s, and not of %s", said.Consumer, consumer)
	}
	w := l.view(who)
	if _, err := w.kept(ctx, consumer); err != nil {
		return err
	}
	for _, n := range said.Needs {
		if err := w.resolveNeed(ctx, n); err != nil {
			return err
		}
	}
	return w.act(ctx, "", func(w view) error {
		w.quiet()
		if _, err := w.kept(ctx, consumer); err != nil {
			return err
		}
		return w.rely(ctx, consumer, said.Needs)
	})
}

// kept is a consumer of the actor's.
func (w view) kept(ctx context.Context, name string) (records.Consumer, error) {
	row, _, err := w.knownConsumer(ctx, name)
	if err == nil && !w.keeps(row) {
		err = refuse(Forbidden, "%s is not yours to change; %s may", name, keeperOf(row))
	}
	return row, err
}

// resolveNeed finds the operations that it names.
func (w view) resolveNeed(ctx context.Context, n *reliance.Need) error {
	ref := n.API + "@" + cmp.Or(n.Version, "latest")
	v, err := w.readable(ctx, ref)
	if err != nil {
		return err
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return err
	}
	if err := n.Resolve(c); err != nil {
		return refuse(Invalid, "%s: %v", v.Ref(), err)
	}
	return nil
}

// rely keeps what a consumer says, and forgets what it does not say any more.
func (w view) rely(ctx context.Context, consumer string, needs []*reliance.Need) error {
	rows, err := w.rows.Reliances(ctx, "", consumer)
	if err != nil {
		return err
	}
	subject := consumerSubject + consumer
	for _, r := range rows {
		if slices.ContainsFunc(needs, func(n *reliance.Need) bool { return n.API == r.API }) {
			continue
		}
		if err := w.rows.DropReliance(ctx, consumer, r.API); err != nil {
			return err
		}
		if err := w.appendJournal(ctx, "consumer.relies-no-more", subject, map[string]string{"api": r.API}); err != nil {
			return err
		}
	}
	for _, n := range needs {
		row := records.Reliance{
			Consumer: consumer, API: n.API, Version: n.Version, SaidAt: w.stamp(), SaidBy: w.who.Name,
			Needs: (&reliance.Reliance{Needs: []*reliance.Need{n}}).Value().String(),
		}
		if slices.ContainsFunc(rows, func(r records.Reliance) bool { return r.API == n.API && r.Needs == row.Needs }) {
			continue
		}
		if err := w.rows.PutReliance(ctx, row); err != nil {
			return err
		}
		detail := map[string]string{"api": n.API, "version": n.Version, "digest": relianceDigest(row)}
		if err := w.appendJournal(ctx, "consumer.relies", subject, detail); err != nil {
			return err
		}
	}
	return nil
}

func relianceDigest(r records.Reliance) string { return digest([]byte(r.Version+"\n"+r.Needs), nil) }

// needs are what consumers rely on of an API whose clients meet the changes from a version on: those that were built for it or an older one
// of its line, or do not say.
func (w view) needs(ctx context.Context, v Version) (map[string]*reliance.Need, error) {
	rows, err := w.rows.Reliances(ctx, v.API, "")
	if err != nil {
		return nil, err
	}
	needs := map[string]*reliance.Need{}
	for _, r := range rows {
		if !builtFor(r.Version, v) {
			continue
		}
		if needs[r.Consumer], err = needOf(r); err != nil {
			return nil, err
		}
	}
	if len(needs) == 0 {
		return needs, nil
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return nil, err
	}
	for _, n := range needs {
		n.Locate(c)
	}
	return needs, nil
}

// builtFor reports whether a client of a version, or a line, "" where nobody says, may be one of another version.
func builtFor(version string, v Version) bool {
	if version == "" {
		return true
	}
	n, err := contract.ParseVersion(version)
	return err == nil && contract.LineOf(n) == v.Line && !n.GreaterThan(v.number)
}

// breaksFor reports whether a change breaks a consumer although it is none for others.
func breaksFor(n *reliance.Need, ch *compare.Change) bool {
	return ch.Backward == compare.Hazard && n.Grade(ch) == compare.Breaking
}
