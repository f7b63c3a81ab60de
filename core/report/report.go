// Package report writes comparisons for those who read them elsewhere: Markdown for a review, HTML for a mail or an archive, SARIF
// 2.1.0 for code hosts, JUnit XML for build servers. What goes in is a Comparison or a Lineup of package compare, perhaps with
// changes selected; what comes out is text.
package report

import (
	"cmp"
	"fmt"
	"strings"

	"oldledger/core/compare"
)

// Options say how a comparison is told.
type Options struct {
	Direction compare.Direction // whose grade comes first; a change is graded by it
	Either    bool              // the worse of both directions counts
	Notes     map[string]string // what else is known of changes, by their ids: how a removal was announced
}

func (o Options) grade(ch *compare.Change) compare.Grade {
	return compare.Selection{Direction: o.Direction, Either: o.Either}.Of(ch)
}

// Witnesses are the messages that show a change best: those in the direction that counts, or in the other where both do. One that is felt
// by those who send and by those who receive may have two.
func (o Options) Witnesses(ch *compare.Change) []*compare.Witness {
	d := o.Direction
	if ch.WitnessFor(d) == nil && o.Either && ch.Witness != nil {
		d = ch.Witness.Direction
	}
	var shown []*compare.Witness
	for _, w := range ch.All() {
		if w.Value == nil && strings.HasSuffix(ch.Kind, "media-type-removed") && strings.HasPrefix(w.Position, "response") {
			continue // what fails is the wish for it, and no answer
		}
		if w.Direction == d && ch.Grade(d) == compare.Breaking && w.Message() != "" {
			shown = append(shown, w)
		}
	}
	return shown
}

// WaysOutHead stands above the ways out of what breaks.
const WaysOutHead = "Ways out, in the order to weigh them"

// Verdict says in one line what happens to whom.
func Verdict(c *compare.Comparison) string {
	var parts []string
	switch {
	case len(c.Changes) == 0 && c.Old.Dialect != c.New.Dialect && c.Backward == compare.Editorial && c.Forward == compare.Editorial:
		return "each can stand in for the other · the same on the wire"
	case len(c.Changes) == 0 && c.Backward == compare.Editorial && c.Forward == compare.Editorial:
		return "nothing changed"
	case c.Backward < compare.Hazard && c.Forward < compare.Hazard:
		parts = append(parts, "each can stand in for the other")
	default:
		clients := map[compare.Grade]string{
			compare.Breaking: "clients of " + c.Old.Version + " will fail",
			compare.Hazard:   "clients of " + c.Old.Version + " go on, with hazards",
		}[c.Backward]
		if clients == "" {
			clients = "clients of " + c.Old.Version + " go on"
		}
		rollback := map[compare.Grade]string{compare.Breaking: "a rollback will fail", compare.Hazard: "a rollback has hazards"}[c.Forward]
		if rollback == "" {
			rollback = "a rollback is safe"
		}
		parts = append(parts, clients, rollback)
	}
	if c.Recommended != nil {
		parts = append(parts, "next version "+c.Recommended.Version)
	}
	return strings.Join(parts, " · ")
}

var dialect = strings.NewReplacer("raml-", "RAML ", "openapi-", "OpenAPI ")

// Proof says why two versions can stand in for each other, "" where they cannot, or where nothing is to be said.
func Proof(c *compare.Comparison) string {
	if c.Backward >= compare.Hazard || c.Forward >= compare.Hazard || c.Compared.Operations == 0 || len(c.Changes) == 0 &&
		c.Old.Dialect == c.New.Dialect {
		return ""
	}
	text := fmt.Sprintf("decided both ways for %s with %s: what either side sends, the other takes",
		Count(c.Compared.Operations, "operation"), Count(c.Compared.Payloads, "parameter and body"))
	text = strings.NewReplacer("parameter and bodys", "parameters and bodies", "parameter and bodies", "parameters and bodies").Replace(text)
	if c.Old.Dialect != c.New.Dialect {
		text = fmt.Sprintf("written in %s, then in %s; %s", dialect.Replace(c.Old.Dialect), dialect.Replace(c.New.Dialect), text)
	}
	return text
}

// Title names the two versions: "Berth Booking 1.1.0 → 2.0.0".
func Title(c *compare.Comparison) string {
	title := c.New.Title
	if title == "" {
		title = c.Old.Title
	}
	return fmt.Sprintf("%s %s → %s", title, c.Old.Version, c.New.Version)
}

// Where names the shared component and how many operations feel a change, or the one operation.
func Where(ch *compare.Change) string {
	switch name := ch.Component(); {
	case name != "" && len(ch.Reach) > 0:
		return name + ", in " + Count(len(ch.Reach), "operation")
	case name != "":
		return name
	case len(ch.Reach) == 0:
		return ch.At
	case len(ch.Reach) == 1:
		return cmp.Or(ch.Written, ch.Reach[0])
	}
	return fmt.Sprintf("%s and %d more", cmp.Or(ch.Written, ch.Reach[0]), len(ch.Reach)-1)
}

// Count says how many: "1 change", "4 changes".
func Count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// Tally counts the changes of each grade: "3 breaking, 1 hazard".
func Tally(c compare.Counts) string {
	var parts []string
	for _, g := range compare.Grades {
		if n := c.Of(g); n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, g))
		}
	}
	return strings.Join(parts, ", ")
}

// Few lists the first words of a list and counts the rest: "a, b and 4 more".
func Few(words []string, most int) string {
	if len(words) <= most {
		return strings.Join(words, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(words[:most], ", "), len(words)-most)
}

// Group is a run of changes of one grade.
type Group struct {
	Grade   compare.Grade
	Changes []*compare.Change
}

// Groups sorts changes by their grades, the worst first; within a grade, changes of one place stand together in the order in
// which the places are first met.
func (o Options) Groups(c *compare.Comparison) []Group {
	var groups []Group
	for _, g := range compare.Grades {
		var places []string
		byPlace := map[string][]*compare.Change{}
		for _, ch := range c.Changes {
			if o.grade(ch) != g {
				continue
			}
			where := Where(ch)
			if byPlace[where] == nil {
				places = append(places, where)
			}
			byPlace[where] = append(byPlace[where], ch)
		}
		var changes []*compare.Change
		for _, p := range places {
			changes = append(changes, byPlace[p]...)
		}
		if len(changes) > 0 {
			groups = append(groups, Group{g, changes})
		}
	}
	return groups
}
