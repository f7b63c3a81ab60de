// Package guide turns a comparison into what a developer reads: a migration guide from one version to another.
//
//	g := guide.Make("berths", old, new, comparison)
//	text := g.Markdown()
//
// A guide goes in the order in which a developer works: what stops working, with messages before and after; a table
// of new names; what may change its meaning and wants a test; what is new. Every step names the change it comes from.
// The messages are made by package shape: those before are what the old version allows, those after what the new one does.
package guide

import (
	"fmt"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// Guide is the way from one version of an API to another.
type Guide struct {
	API      string   `json:"api"`
	Title    string   `json:"title"`
	From     string   `json:"from"`
	To       string   `json:"to"`
	Verdict  string   `json:"verdict"`
	Must     []Step   `json:"must"`  // without these, calls fail
	Check    []Step   `json:"check"` // calls go on, and may mean something else
	Adopt    []Step   `json:"adopt"` // new and worth a look
	Renames  []Rename `json:"renames"`
	Rollback []string `json:"rollback"` // what fails on the way back
	Wordings int      `json:"wordings"` // changes that only concern readers
}

// Step is one thing to do or to know.
type Step struct {
	Change     *compare.Change `json:"change"`
	Title      string          `json:"title"`
	Text       string          `json:"text"`
	Operations []string        `json:"operations"` // the names of the operations it concerns
	Before     *Message        `json:"before,omitempty"`
	After      *Message        `json:"after,omitempty"`
}

// Message is a request or a response as it is written.
type Message struct {
	Head  string       `json:"head"` // "POST /v1/berths/N-14/bookings", or "201"
	Value *value.Value `json:"value,omitempty"`
}

// Text is the message as one reads it: its head, a blank line, its body.
func (m *Message) Text() string {
	if m.Value == nil {
		return m.Head
	}
	return m.Head + "\n\n" + m.Value.Indented()
}

// Rename is one row of the table of new names.
type Rename struct {
	Where string `json:"where"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// Make writes the guide for a comparison of old and new.
func Make(api string, old, new *contract.Contract, c *compare.Comparison) *Guide {
	g := &Guide{
		API: api, Title: new.Title, From: old.Version, To: new.Version,
		Must: []Step{}, Check: []Step{}, Adopt: []Step{}, Renames: []Rename{}, Rollback: []string{},
	}
	w := writer{old: old, new: new, space: shape.NewSpace(shape.Declared), comparison: c}
	for _, ch := range c.Changes {
		switch ch.Backward {
		case compare.Breaking:
			g.Must = append(g.Must, w.step(ch))
		case compare.Hazard:
			g.Check = append(g.Check, w.step(ch))
		case compare.Safe:
			g.Adopt = append(g.Adopt, w.step(ch))
		default:
			g.Wordings++
		}
		if ch.Renamed != nil {
			g.Renames = append(g.Renames, Rename{Where: where(ch), From: ch.Renamed.From, To: ch.Renamed.To})
		}
		if ch.Moved != nil {
			g.Renames = append(g.Renames, Rename{Where: "address", From: ch.Moved.From, To: ch.Moved.To})
		}
		if ch.Forward == compare.Breaking {
			g.Rollback = append(g.Rollback, ch.Title)
		}
	}
	g.Verdict = g.verdict()
	return g
}

func (g *Guide) verdict() string {
	switch {
	case len(g.Must) > 0:
		return fmt.Sprintf("A client of %s fails on %s until it follows %s.", g.From, g.To, steps(len(g.Must)))
	case len(g.Check) > 0:
		return fmt.Sprintf("A client of %s goes on working on %s; test %s.", g.From, g.To, points(len(g.Check)))
	}
	return fmt.Sprintf("A client of %s works on %s as it is.", g.From, g.To)
}

func steps(n int) string {
	if n == 1 {
		return "one step"
	}
	return fmt.Sprintf("%d steps", n)
}

func points(n int) string {
	if n == 1 {
		return "one point"
	}
	return fmt.Sprintf("%d points", n)
}

func where(ch *compare.Change) string {
	if name := ch.Component(); name != "" {
		return name
	}
	return ch.Operation
}

// writer makes the steps of one guide.
type writer struct {
	old, new   *contract.Contract
	space      *shape.Space
	comparison *compare.Comparison
}

func (w writer) step(ch *compare.Change) Step {
	s := Step{Change: ch, Title: sentence(ch.Title), Text: w.advice(ch), Operations: w.names(ch.Reach)}
	if ch.Backward != compare.Breaking && ch.Backward != compare.Hazard {
		return s
	}
	key := ch.Operation
	witness := ch.WitnessFor(compare.Backward)
	if witness != nil && witness.Operation != "" {
		key = witness.Operation
	}
	from := w.old.Lookup(key)
	if from == nil {
		return s
	}
	to := w.successor(from)
	if witness != nil && strings.HasPrefix(witness.Position, "response") {
		s.Before, s.After = w.answer(from, witness.Position), w.answer(to, witness.Position)
		return s
	}
	s.Before = w.request(from, nil)
	if witness != nil && strings.HasPrefix(witness.Position, "request body") && from.Direction == contract.ClientCalls {
		s.Before = w.request(from, witness.Value)
	}
	if to != nil {
		s.After = w.request(to, nil)
	}
	return s
}

// successor is the operation that takes the place of an old one in the new version, or nil.
func (w writer) successor(from *contract.Operation) *contract.Operation {
	for _, ch := range w.comparison.Changes {
		if ch.Moved != nil && ch.Moved.From == from.Key() {
			return w.new.Lookup(ch.Moved.To)
		}
	}
	return w.new.Lookup(from.Key())
}

// names turns operation keys into what readers call them.
func (w writer) names(keys []string) []string {
	names := make([]string, 0, len(keys))
	for _, key := range keys {
		op := w.new.Lookup(key)
		if op == nil {
			op = w.old.Lookup(key)
		}
		if op == nil {
			names = append(names, key)
			continue
		}
		names = append(names, op.Name())
	}
	return names
}

// advice says what a client's developer does about a change.
func (w writer) advice(ch *compare.Change) string {
	kind := ch.Kind[strings.IndexByte(ch.Kind, '.')+1:]
	switch {
	case ch.Renamed != nil && (strings.HasPrefix(ch.Kind, "response") || strings.HasPrefix(ch.Kind, "header")):
		return fmt.Sprintf("Read %s where you read %s.", ch.Renamed.To, ch.Renamed.From)
	case ch.Renamed != nil:
		return fmt.Sprintf("Write %s where you wrote %s, in requests, and read it where it comes back.", ch.Renamed.To, ch.Renamed.From)
	case ch.Moved != nil:
		return fmt.Sprintf("Call %s instead of %s.", ch.Moved.To, ch.Moved.From)
	case ch.Kind == "operation.removed":
		return "Stop calling it: nothing answers there any more."
	case ch.Kind == "server.base-path-changed":
		return "Change the base address that your client is configured with; " + ch.Title + "."
	case strings.HasSuffix(kind, "required-added"), strings.HasSuffix(kind, "became-required"):
		return "Send it with every request: " + ch.Why + "."
	case strings.HasSuffix(kind, "media-type-removed") && strings.HasPrefix(ch.Kind, "response"):
		return "Read the new media type: " + ch.Why + "."
	case kind == "media-type-changed" && strings.HasPrefix(ch.Kind, "response"):
		return "Accept and read the new media type: the " + ch.Title + "."
	case kind == "media-type-changed":
		return "Send the new media type: the " + ch.Title + "."
	case strings.HasPrefix(ch.Kind, "request.") && strings.HasSuffix(kind, "narrowed"):
		return "Send only what the new version takes: " + ch.Why + "."
	case ch.Backward >= compare.Hazard:
		return sentence(ch.Why) + "."
	case strings.HasSuffix(kind, "added"):
		return "New; nothing to do unless you want it."
	}
	return "Nothing to do."
}

func sentence(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	// Names such as length or lengthOverall keep their case.
	first, _, _ := strings.Cut(s, " ")
	switch first {
	case "a", "an", "the", "what", "all", "clients", "whether", "it", "everything", "less", "nobody", "callers", "receivers", "response", "programs":
		return strings.ToUpper(string(r[:1])) + string(r[1:])
	}
	return s
}
