// Package guide turns a comparison into what a developer reads: a migration guide from one version to another.
//
//	g, err := guide.Make(ctx, old, new, comparison, guide.Context{API: "berths", Today: today})
//	mine := g.For([]string{"POST /bookings"})
//	text := mine.Markdown()
//
// A guide goes in the order in which a developer works: what stops working, with messages and code before and after; a table of new
// names; what may wait, and until when; what may change its meaning and wants a test; what is new; the way back. Every step names the
// change it comes from, and the version in which that came. The messages are what authors show, witnesses of the comparison, or made by
// package shape: those before are what the old version allows, those after what the new one does. Notices are those of package promise.
package guide

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oldledger/core/budget"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/sample"
	"oldledger/core/versioning"
)

// Format names the JSON form of a Guide.
const Format = "oldledger.guide/1"

// Guide is the way from one version of an API to another.
type Guide struct {
	Format     string         `json:"format"`
	API        string         `json:"api"`
	Title      string         `json:"title"`
	From       string         `json:"from"`
	To         string         `json:"to"`
	Between    bool           `json:"between"` // whether versions lie between: then steps say in which their changes came
	Verdict    string         `json:"verdict"`
	Until      string         `json:"until,omitempty"` // the date on which the old version leaves, where one is announced
	Intro      *Text          `json:"intro,omitempty"` // written by an author
	Must       []Step         `json:"must"`            // without these, calls fail
	Renames    []Rename       `json:"renames"`
	Wait       []Wait         `json:"wait"`     // what still works in the new version, and leaves later
	Check      []Step         `json:"check"`    // calls go on, and may mean something else
	Adopt      []Step         `json:"adopt"`    // new and worth a look
	Plans      []promise.Plan `json:"plans"`    // where each expand and contract stands
	Rollback   []Step         `json:"rollback"` // what fails on the way back: who refuses, and, as Before, what
	Back       string         `json:"back"`     // whether one may go back, in a sentence
	Wordings   int            `json:"wordings"` // changes that only concern readers
	End        *Text          `json:"end,omitempty"`
	Operations []Operation    `json:"operations"`     // those that the guide concerns
	Mine       []string       `json:"mine,omitempty"` // of those, the ones that it was narrowed to
	Gone       []Text         `json:"gone,omitempty"` // what authors wrote to changes that are no longer there
	// of what breaks, in the order to weigh them, while the new version can still be changed
	WaysOut []string `json:"waysOut,omitempty"`

	keys map[string]string // of all operations of the old version, by what people call them
}

// Operation is one that a guide concerns.
type Operation struct {
	Key   string `json:"key"` // of the old version, where it has it: "POST /bookings"
	ID    string `json:"id,omitempty"`
	Name  string `json:"name"` // as readers call it
	Steps int    `json:"steps"`
}

// Step is one thing to do or to know.
type Step struct {
	Change     *compare.Change       `json:"change"`
	Title      string                `json:"title"`
	Text       string                `json:"text"`
	Place      string                `json:"place,omitempty"` // the shared component in which the change was made
	Operations []string              `json:"operations"`      // the names of the operations it concerns
	Group      string                `json:"group"`           // the tag that they share, "" where they share none
	Came       []Origin              `json:"came"`            // where the change came, by versions in between
	Removal    *promise.Announcement `json:"removal,omitempty"`
	Before     *Message              `json:"before,omitempty"`
	After      *Message              `json:"after,omitempty"`
	Code       []Code                `json:"code,omitempty"` // the call before and after, where it is another
	Words      *Text                 `json:"words,omitempty"`
}

// Origin is a change between two neighbours.
type Origin struct {
	Version string `json:"version"` // that brought it
	Change  string `json:"change"`  // its id there
}

// Code is a call in one language.
type Code struct {
	Language string `json:"language"`
	Name     string `json:"name"`
	Before   string `json:"before"`
	After    string `json:"after,omitempty"`
}

// Rename is one row of the table of new names.
type Rename struct {
	Change string `json:"change,omitempty"` // its id; "" where a notice says it
	Where  string `json:"where"`
	From   string `json:"from"`
	To     string `json:"to"`
}

// Text is what an author wrote into a guide, as Markdown.
type Text struct {
	Anchor string `json:"anchor"` // Intro, End, or the id of a change
	Title  string `json:"title"`  // that of the step when it was written
	Text   string `json:"text"`
	MadeBy string `json:"madeBy"`
	MadeAt string `json:"madeAt"`
}

// The anchors of texts that belong to no step.
const (
	Intro = "intro"
	End   = "end"
)

// Context is what is known of an API beside two of its versions. Its zero value is that of two files.
type Context struct {
	API       string
	History   []promise.Past // of the versions up to the new one, the oldest first
	Notices   []promise.Notice
	Line      string // of the old version
	NewLine   string
	Today     time.Time
	Texts     []Text
	Languages []sample.Language // of the code; none for no code
	Open      bool              // whether the new version can still be changed: a file, or a draft
	Old, New  versioning.Choice // how callers choose the versions
}

// Make writes the guide for a comparison of old and new. When ctx ends, so does the making, with its error. Messages that the budget does
// not suffice for are left out, and the guide says so.
func Make(ctx context.Context, old, new *contract.Contract, c *compare.Comparison, known Context) (*Guide, error) {
	g := &Guide{
		Format: Format, API: known.API, Title: new.Title, From: old.Version, To: new.Version,
		Must: []Step{}, Check: []Step{}, Adopt: []Step{}, Renames: []Rename{}, Wait: []Wait{}, Plans: []promise.Plan{}, Rollback: []Step{},
		Operations: []Operation{},
	}
	w := newWriter(budget.New(ctx, budget.For(old.Size+new.Size)), old, new, c, known)
	g.Between = between(known.History, old.Version)
	for _, ch := range c.Changes {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		switch ch.Backward {
		case compare.Breaking:
			g.Must = append(g.Must, w.step(ch))
		case compare.Hazard:
			g.Check = append(g.Check, w.step(ch))
		case compare.Safe:
			g.Adopt = append(g.Adopt, w.mention(ch))
		default:
			g.Wordings++
		}
		g.Renames = append(g.Renames, w.renames(ch)...)
		if ch.Forward == compare.Breaking {
			g.Rollback = append(g.Rollback, w.wayBack(ch))
		}
	}
	g.Back = wayBack(c)
	slices.SortStableFunc(g.Must, byTurn)
	slices.SortStableFunc(g.Check, byTurn)
	g.Wait = w.waits()
	g.Plans = w.plans()
	g.until(known)
	g.Operations = w.concerned(g)
	g.keys = w.keys()
	g.place(known.Texts)
	if known.Open {
		g.WaysOut = c.WaysOut
	}
	g.Verdict = g.verdict()
	if w.bare > 0 {
		g.Verdict += fmt.Sprintf(" It is so long that %s without messages.", count(w.bare, "one step stands", "steps stand"))
	}
	return g, nil
}

// Copy is the guide with lists of its own: its steps may be changed, what they point at may not.
func (g *Guide) Copy() *Guide {
	c := *g
	for _, list := range []*[]Step{&c.Must, &c.Check, &c.Adopt, &c.Rollback} {
		*list = slices.Clone(*list)
	}
	return &c
}

// wayBack says whether clients of the new version work on the old one: forward compatibility (docs/design/compatibility.md, One question).
func wayBack(c *compare.Comparison) string {
	switch {
	case c.Forward == compare.Breaking:
		return fmt.Sprintf("A client of %[2]s fails on %[1]s, because of the changes below. Before you roll back, take its clients back first, or keep both versions up.",
			c.Old.Version, c.New.Version)
	case c.Forward == compare.Hazard:
		return fmt.Sprintf("A client of %[2]s goes on working on %[1]s, and may mean something else there: test it before you roll back.",
			c.Old.Version, c.New.Version)
	}
	return fmt.Sprintf("A client of %[2]s works on %[1]s as it is: you may roll back.", c.Old.Version, c.New.Version)
}

// until finds the date on which the old version leaves as a whole.
func (g *Guide) until(ctx Context) {
	for _, n := range ctx.Notices {
		if n.Whole() && n.Sunset != "" && n.Covers(g.From, ctx.Line) && !n.Covers(g.To, ctx.NewLine) && (g.Until == "" || n.Sunset < g.Until) {
			g.Until = n.Sunset
		}
	}
}

// place gives each text its place; what has none any more is gone.
func (g *Guide) place(texts []Text) {
	steps := map[string][]*Step{}
	for _, list := range []([]Step){g.Must, g.Check, g.Adopt} {
		for i := range list {
			s := &list[i]
			steps[s.Change.ID] = append(steps[s.Change.ID], s)
			steps[s.Title] = append(steps[s.Title], s) // the change may have moved within its file: then its title finds it
		}
	}
	for _, t := range texts {
		at := steps[t.Anchor]
		if at == nil {
			at = formerly(t.Anchor, g.Must, g.Check, g.Adopt)
		}
		if at == nil {
			at = steps[t.Title]
		}
		switch {
		case t.Anchor == Intro:
			g.Intro = &t
		case t.Anchor == End:
			g.End = &t
		case len(at) != 1 || at[0].Words != nil:
			g.Gone = append(g.Gone, t)
		default:
			at[0].Words = &t
		}
	}
}

// formerly are the steps whose changes had an id in an earlier build.
func formerly(id string, lists ...[]Step) []*Step {
	for _, list := range lists {
		for i := range list {
			if list[i].Change.HasID(id) {
				return []*Step{&list[i]}
			}
		}
	}
	return nil
}

// Anchored is the title of the step at an anchor, and whether the guide has it.
func (g *Guide) Anchored(anchor string) (title string, there bool) {
	switch anchor {
	case Intro:
		return "the introduction", true
	case End:
		return "the end", true
	}
	for _, list := range [][]Step{g.Must, g.Check, g.Adopt} {
		for _, s := range list {
			if s.Change.ID == anchor {
				return s.Title, true
			}
		}
	}
	for _, t := range g.Gone {
		if t.Anchor == anchor {
			return t.Title, false
		}
	}
	return "", false
}

func (g *Guide) verdict() string {
	text := fmt.Sprintf("A client of %s works on %s as it is.", g.From, g.To)
	switch {
	case len(g.Must) > 0:
		text = fmt.Sprintf("A client of %s fails on %s until it follows %s.", g.From, g.To, count(len(g.Must), "one step", "steps"))
	case len(g.Check) > 0:
		text = fmt.Sprintf("A client of %s goes on working on %s; test %s.", g.From, g.To, count(len(g.Check), "one point", "points"))
	}
	if g.Until != "" {
		text += fmt.Sprintf(" %s is there until %s.", g.From, g.Until)
	}
	return text
}

func count(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// turn is when in his work a developer comes to a change: the address first, then who he is, what he calls, what he sends, what he reads.
func turn(ch *compare.Change) int {
	order := []string{"server.", "security.", "operation.", "callback.", "webhook.", "parameter.", "request.", "response.", "header."}
	return slices.IndexFunc(order, func(room string) bool { return strings.HasPrefix(ch.Kind, room) })
}

func byTurn(a, b Step) int { return turn(a.Change) - turn(b.Change) }
