package ledger

import (
	"context"
	"slices"
	"strings"

	"oldledger/core/reliance"
	"oldledger/ledger/records"
)

// ConsumerGuide is the guide from a version that a consumer calls to another one, narrowed to what it calls, with the steps that it has
// done.
type ConsumerGuide struct {
	API   string
	Old   string // numbers
	New   string
	Uses  []string // the operations that it calls, of the line of the old version: "GET /berths/{}"
	Steps []ConsumerStep

	Spared int // steps that those operations ask for, and that are about nothing that the consumer says that it relies on
}

// ConsumerStep is one thing that the consumer must do.
type ConsumerStep struct {
	ID     string // of the change that it is about
	Title  string
	DoneAt string // "" where it is not done
	DoneBy string
	Relied bool // whether the consumer says that it relies on what it is about
}

// ConsumerGuides are the guides that notices have those follow who call what leaves, for a consumer of the actor's or one that calls
// APIs of their teams.
func (l *Ledger) ConsumerGuides(ctx context.Context, who Actor, consumer string) ([]ConsumerGuide, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	row, uses, err := w.knownConsumer(ctx, consumer)
	if err != nil {
		return nil, err
	}
	ticks, err := w.rows.Ticks(ctx, consumer)
	if err != nil {
		return nil, err
	}
	apis := []string{}
	for _, u := range uses {
		if (w.keeps(row) || w.keeping(u.API).inside(who)) && !slices.Contains(apis, u.API) {
			apis = append(apis, u.API)
		}
	}
	slices.Sort(apis)
	guides := []ConsumerGuide{}
	for _, name := range apis {
		a, err := w.api(ctx, name)
		if err != nil {
			return nil, err
		}
		for _, n := range a.Notices {
			old, fresh, ok := strings.Cut(n.Guide, "..")
			same := func(g ConsumerGuide) bool { return g.API == name && g.Old == old && g.New == fresh }
			if !ok || n.Sunset == "" || slices.ContainsFunc(guides, same) {
				continue
			}
			g, err := w.consumerGuide(ctx, consumer, ConsumerGuide{API: name, Old: old, New: fresh}, ticks)
			if err != nil {
				return nil, err
			}
			if len(g.Uses) > 0 {
				guides = append(guides, g)
			}
		}
	}
	return guides, nil
}

// consumerGuide fills a guide in.
func (w view) consumerGuide(ctx context.Context, consumer string, g ConsumerGuide, ticks []records.Tick) (ConsumerGuide, error) {
	v, err := w.readable(ctx, g.API+"@"+g.Old)
	if err != nil {
		return g, err
	}
	s, err := w.spanOf("", "")
	if err != nil {
		return g, err
	}
	cells, err := w.cellsOf(ctx, v, s)
	if err != nil {
		return g, err
	}
	g.Uses, g.Steps = []string{}, []ConsumerStep{}
	for _, c := range cells {
		if key := calledKey(c.operation); c.consumer == consumer && !slices.Contains(g.Uses, key) {
			g.Uses = append(g.Uses, key)
		}
	}
	slices.Sort(g.Uses)
	if len(g.Uses) == 0 {
		return g, nil
	}
	made, err := w.Guide(ctx, w.who, g.API+"@"+g.Old, g.API+"@"+g.New)
	if err != nil {
		return g, err
	}
	needs, err := w.needs(ctx, v)
	if err != nil {
		return g, err
	}
	need := needs[consumer]
	steps := slices.Clone(made.Must)
	for _, step := range made.Check {
		if need != nil && breaksFor(need, step.Change) {
			steps = append(steps, step)
		}
	}
	for _, step := range steps {
		reach := append([]string{step.Change.Operation}, step.Change.Reach...)
		if !slices.ContainsFunc(reach, func(key string) bool { return slices.Contains(g.Uses, key) }) {
			continue
		}
		if need != nil && need.Touch(step.Change) == reliance.Apart {
			g.Spared++
			continue
		}
		one := ConsumerStep{ID: step.Change.ID, Title: step.Title, Relied: need != nil && need.Touch(step.Change) == reliance.Relied}
		for _, t := range ticks {
			if t.API == g.API && t.Pair == g.Old+".."+g.New && t.Step == one.ID {
				one.DoneAt, one.DoneBy = t.DoneAt, t.DoneBy
			}
		}
		g.Steps = append(g.Steps, one)
	}
	return g, nil
}

// Tick says that a consumer of the actor's has done a step of a guide, or that it has not.
type Tick struct {
	API, Old, New, Step string
	Done                bool
}

// SetTick says so.
func (l *Ledger) SetTick(ctx context.Context, who Actor, consumer string, t Tick) error {
	if err := l.may(who, KeepConsumer, ""); err != nil {
		return err
	}
	guides, err := l.ConsumerGuides(ctx, who, consumer)
	if err != nil {
		return err
	}
	known := slices.ContainsFunc(guides, func(g ConsumerGuide) bool {
		is := func(s ConsumerStep) bool { return s.ID == t.Step }
		return g.API == t.API && g.Old == t.Old && g.New == t.New && slices.ContainsFunc(g.Steps, is)
	})
	if !known {
		return refuse(NotFound, "the guide of %s from %s to %s has no such step for %s", t.API, t.Old, t.New, consumer)
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		row, err := w.rows.Consumer(ctx, consumer)
		if err != nil {
			return notFound(err, "there is no consumer called %s", consumer)
		}
		if !w.keeps(row) {
			return refuse(Forbidden, "what %s has done, %s says", consumer, keeperOf(row))
		}
		tick := records.Tick{Consumer: consumer, API: t.API, Pair: t.Old + ".." + t.New, Step: t.Step, DoneAt: w.stamp(), DoneBy: who.Name}
		act, keep := "consumer.step-done", w.rows.PutTick
		if !t.Done {
			act, keep = "consumer.step-undone", w.rows.DropTick
		}
		if err := keep(ctx, tick); err != nil {
			return err
		}
		return w.appendJournal(ctx, act, consumerSubject+consumer, map[string]string{"api": t.API, "guide": tick.Pair, "step": t.Step})
	})
}
