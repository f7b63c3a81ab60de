package reference

import (
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/promise"
)

// Margin is what stands beside an item: since when it exists, what changed, and when it leaves.
type Margin struct {
	Since   string  // a version's number
	Changed []Event // the newest first
	Notice  *promise.Notice
	Values  []promise.Notice // of listed values of the item
}

// Leaving reports whether a notice announces that the item leaves.
func (mg Margin) Leaving() bool { return mg.Notice != nil }

// Event is a change of an item in a version.
type Event struct {
	Number string // the version that brought it
	ID     string // of the change
	Title  string
	Grade  compare.Grade // for those who call the API already
}

// chronicle tells of each item when it came and what changed, from the history.
type chronicle struct {
	first  string   // the number of the oldest version
	items  []*items // by version, oldest first; nil for a history of one
	events map[string][]Event
	number []string
}

func tell(history []Past) *chronicle {
	ch := &chronicle{events: map[string][]Event{}}
	if len(history) > 0 {
		ch.first = history[0].Number
	}
	if len(history) < 2 {
		return ch
	}
	for _, p := range history {
		t := itemsOf(p.Contract)
		ch.items, ch.number = append(ch.items, t), append(ch.number, p.Number)
		if p.Changes == nil {
			continue
		}
		for _, c := range p.Changes.Changes {
			if c.New == nil || c.Backward == compare.Editorial && !strings.HasSuffix(c.Kind, ".deprecated") {
				continue
			}
			for _, item := range t.of(c.New.Place) {
				ch.events[item] = append(ch.events[item], Event{p.Number, c.ID, c.Title, c.Backward})
			}
		}
	}
	return ch
}

// since is the oldest version from which on every version has the item.
func (ch *chronicle) since(item string) string {
	if ch.items == nil {
		return ch.first
	}
	number := ""
	for i := len(ch.items) - 1; i >= 0 && ch.items[i].known[item]; i-- {
		number = ch.number[i]
	}
	return number
}

// margin is that of an item.
func (m *maker) margin(item string) Margin {
	if m.story == nil {
		return Margin{}
	}
	mg := Margin{Since: m.story.since(item)}
	for _, n := range m.ctx.Notices {
		if !n.Covers(m.ctx.Number, m.ctx.Line) || !m.speaksOf(n, item) {
			continue
		}
		if n.Value != "" {
			mg.Values = append(mg.Values, n)
		} else {
			mg.Notice = &n
		}
	}
	for _, e := range slices.Backward(m.story.events[item]) {
		came, told := e.Number == mg.Since, e.Grade == compare.Editorial && mg.Notice != nil
		if !came && !told { // what came with the item is no change of it, and of its end the notice tells
			mg.Changed = append(mg.Changed, e)
		}
	}
	return mg
}

// speaksOf reports whether a notice speaks of an item, or of a value that it lists.
func (m *maker) speaksOf(n promise.Notice, item string) bool {
	if n.Header == "" {
		return m.spoken(n) == item
	}
	of, ok := strings.CutPrefix(item, n.Operation+step+"status"+step)
	_, name, header := strings.Cut(of, step)
	return ok && header && strings.EqualFold(name, n.Header)
}

// spoken is the item that a notice speaks of, "" for a version as a whole.
func (m *maker) spoken(n promise.Notice) string {
	if n.Field != "" {
		schema, property, _ := strings.Cut(n.Field, ".")
		return fieldItem(schemaItem(schema), property)
	}
	if n.Parameter != "" {
		in, name, _ := strings.Cut(n.Parameter, " ")
		if in == "path" {
			name = "{}" + name
		}
		return parameterItem(n.Operation, in, name)
	}
	return n.Operation
}
