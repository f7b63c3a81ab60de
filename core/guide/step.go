package guide

import (
	"cmp"
	"fmt"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/value"
	"oldledger/core/versioning"
)

// costOfPart is what making and copying one part of a message takes, in steps of the budget.
const costOfPart = 60

// writer makes the steps of one guide.
type writer struct {
	budget     *budget.Budget
	bare       int // steps without messages
	old, new   *contract.Contract
	space      *shape.Space
	fill       map[*contract.Contract]*sample.Filler
	choice     map[*contract.Contract]versioning.Choice
	comparison *compare.Comparison
	ctx        Context
	moved      map[string]string // keys of operations that moved, old to new
	origins    map[string][]Origin
	fieldNames map[string]string // see newNames
}

func newWriter(b *budget.Budget, old, new *contract.Contract, c *compare.Comparison, ctx Context) *writer {
	space := shape.NewSpace(shape.Declared, b)
	w := &writer{
		budget: b, old: old, new: new, space: space, comparison: c, ctx: ctx, moved: map[string]string{},
		fill: map[*contract.Contract]*sample.Filler{
			old: sample.NewFiller(space, sample.Sided(old)),
			new: sample.NewFiller(space, sample.Sided(new)),
		},
		choice: map[*contract.Contract]versioning.Choice{old: ctx.Old, new: ctx.New},
	}
	for _, ch := range c.Changes {
		if ch.Moved != nil {
			w.moved[ch.Moved.From] = ch.Moved.To
		}
	}
	w.origins = origins(ctx.History, old.Version)
	return w
}

// step is what is to be done about a change, with messages.
func (w *writer) step(ch *compare.Change) Step {
	s := w.mention(ch)
	if w.budget.Over() {
		w.bare++
		return s
	}
	w.show(&s)
	for _, m := range []*Message{s.Before, s.After} {
		if m != nil && m.Value != nil {
			w.budget.Step(costOfPart * w.space.Parts(m.Value))
		}
	}
	return s
}

// mention is a change in a list.
func (w *writer) mention(ch *compare.Change) Step {
	s := Step{
		Change: ch, Title: sentence(ch.Title), Text: w.advice(ch), Place: ch.Component(), Operations: w.names(ch.Reach),
		Group: w.group(ch), Came: w.came(ch),
	}
	if w.ctx.History != nil || w.ctx.Notices != nil { // of two files nobody knows what was announced
		s.Removal = promise.Announce(ch, w.ctx.Notices, w.ctx.Today)
	}
	return s
}

// wayBack is a change that fails on the way back, with a message that the old version, or who was built for the new one, refuses.
func (w *writer) wayBack(ch *compare.Change) Step {
	s := w.mention(ch)
	s.Text = ""
	if m := ch.WitnessFor(compare.Forward); m != nil && m.Message() != "" {
		s.Text = sentence(m.Refuser) + " refuses"
		s.Before = &Message{Operation: m.Operation, Head: m.Message()}
	}
	return s
}

// successor is the operation that takes the place of an old one in the new version, or nil.
func (w *writer) successor(from *contract.Operation) *contract.Operation {
	key := from.Key()
	if to, ok := w.moved[key]; ok {
		return w.new.Lookup(to)
	}
	if to, ok := w.moved[from.Owner]; ok && from.Owner != "" { // a callback of one that moved
		return w.new.Lookup(strings.Replace(key, from.Owner, to, 1))
	}
	return w.new.Lookup(key)
}

// find is the operation of that key, in the new version or else in the old one.
func (w *writer) find(key string) *contract.Operation {
	if op := w.new.Lookup(key); op != nil {
		return op
	}
	if to, ok := w.moved[key]; ok {
		return w.new.Lookup(to)
	}
	return w.old.Lookup(key)
}

// names turns operation keys into what readers call them.
func (w *writer) names(keys []string) []string {
	names := make([]string, 0, len(keys))
	for _, key := range keys {
		if op := w.find(key); op != nil {
			key = op.Name()
		}
		names = append(names, key)
	}
	return names
}

// written is an operation as its author wrote it, by its key.
func (w *writer) written(key string) string { return w.comparison.Written([]string{key})[0] }

// group is the tag that all operations of a change share.
func (w *writer) group(ch *compare.Change) string {
	group := ""
	for i, key := range ch.Reach {
		op := w.find(key)
		if op == nil || len(op.Tags) == 0 || i > 0 && op.Tags[0] != group {
			return ""
		}
		group = op.Tags[0]
	}
	return group
}

// renames are the new names that a change brings.
func (w *writer) renames(ch *compare.Change) []Rename {
	where := ch.Component()
	if where == "" {
		where = strings.Join(w.names([]string{ch.Operation}), "")
	}
	switch {
	case ch.Renamed != nil:
		return []Rename{{ch.ID, where, ch.Renamed.From, ch.Renamed.To}}
	case ch.Moved != nil:
		return []Rename{{ch.ID, "address", w.written(ch.Moved.From), w.written(ch.Moved.To)}}
	}
	if a := promise.Announce(ch, w.ctx.Notices, w.ctx.Today); a != nil && a.Notice != nil && a.Notice.ReplacedBy != "" &&
		a.Notice.Field != "" {
		_, name, _ := strings.Cut(a.Notice.Field, ".")
		return []Rename{{ch.ID, where, name, a.Notice.ReplacedBy}}
	}
	return nil
}

// advice says what a client's developer does about a change.
func (w *writer) advice(ch *compare.Change) string {
	kind := ch.Kind[strings.IndexByte(ch.Kind, '.')+1:]
	answers := strings.HasPrefix(ch.Kind, "response.") || strings.HasPrefix(ch.Kind, "header.") // what the reader receives
	if op := w.find(ch.Operation); op != nil && op.Direction == contract.ProviderCalls {
		answers = !answers
	}
	switch {
	case ch.Kind == "value.renamed" || strings.HasSuffix(kind, "value.renamed"):
		return fmt.Sprintf("Know the value %s where you knew %s.", ch.Renamed.To, ch.Renamed.From)
	case ch.Renamed != nil && answers:
		return fmt.Sprintf("Read %s where you read %s.", ch.Renamed.To, ch.Renamed.From)
	case ch.Renamed != nil:
		return fmt.Sprintf("Write %s where you wrote %s, in requests, and read it where it comes back.", ch.Renamed.To, ch.Renamed.From)
	case ch.Moved != nil:
		return fmt.Sprintf("Call %s instead of %s.", w.written(ch.Moved.To), w.written(ch.Moved.From))
	case ch.Kind == "operation.removed":
		return "Stop calling it: nothing answers there any more." + w.instead(ch)
	case ch.Kind == "server.base-path-changed":
		return "Change the base address that your client is configured with; " + ch.Title + "."
	case ch.Kind == "security.narrowed":
		return fmt.Sprintf("Prove who you are in the new way: %s.", ch.Why)
	case strings.HasSuffix(kind, "default-changed") && !answers:
		return w.oldBehaviour(ch)
	case strings.HasSuffix(kind, "discriminator-mapping-changed") && ch.Was != nil && ch.Is != nil && ch.Was.Text != ch.Is.Text:
		return fmt.Sprintf("Write %s where you wrote %s, and read it so.", ch.Is.Text, ch.Was.Text)
	case kind == "enum-changed" && ch.Backward == compare.Breaking:
		return fmt.Sprintf("Send only what is listed now, and treat a value of %s that you do not know as unknown: %s.", w.subject(ch), ch.Why)
	case answers && kind == "enum-widened":
		return fmt.Sprintf("Treat a value of %s that you do not know as unknown, and go on: %s.", w.subject(ch), ch.Why)
	case answers && kind == "null-admitted":
		return fmt.Sprintf("Take null for %s as a value that is not there: %s.", w.subject(ch), ch.Why)
	case answers && kind == "property.now-optional", answers && ch.Kind == "header.now-optional":
		return fmt.Sprintf("Go on where %s is missing: %s.", w.subject(ch), ch.Why)
	case !answers && strings.HasPrefix(kind, "alternatives-") && ch.Backward == compare.Breaking:
		return fmt.Sprintf("Send it no longer, and leave aside what you do not know: %s.", ch.Why)
	case answers && kind == "alternatives-widened":
		return fmt.Sprintf("Leave aside an alternative of %s that you do not know: %s.", w.subject(ch), ch.Why)
	case answers && strings.HasSuffix(kind, "-widened") && ch.Backward >= compare.Hazard:
		return fmt.Sprintf("Be ready to read more than before: %s.", ch.Why)
	case kind == "status-added" && ch.Backward >= compare.Hazard:
		return fmt.Sprintf("Treat a status that you do not know by its class: %s.", ch.Why)
	case !answers && (strings.HasSuffix(kind, "required-added") || strings.HasSuffix(kind, "now-required")):
		return "Send it with every request: " + ch.Why + "."
	case kind == "media-type-removed" && answers:
		return "Read the new media type: " + ch.Why + "."
	case kind == "media-type-changed" && answers:
		return "Accept and read the new media type: the " + ch.Title + "."
	case kind == "media-type-changed":
		return "Send the new media type: the " + ch.Title + "."
	case kind == "property.removed" && answers:
		return "Read it no longer: " + ch.Why + "." + w.instead(ch)
	case !answers && strings.HasSuffix(kind, "narrowed") && !strings.HasPrefix(ch.Kind, "security."):
		return "Send only what the new version takes: " + ch.Why + "."
	case strings.HasPrefix(kind, "type-") && ch.Backward == compare.Breaking && answers:
		return fmt.Sprintf("Read %s as it comes now: %s.", w.subject(ch), ch.Why)
	case !answers && ch.Backward == compare.Breaking && (strings.HasPrefix(kind, "type-") || kind == "null-removed" ||
		strings.HasSuffix(kind, "serialization-changed")):
		return fmt.Sprintf("Write %s as the new version reads it: %s.", w.subject(ch), ch.Why)
	case strings.HasSuffix(kind, "removed") && ch.Backward >= compare.Hazard:
		return sentence(ch.Why) + "." + w.instead(ch)
	case ch.Backward >= compare.Hazard:
		return sentence(ch.Why) + "."
	case strings.HasSuffix(kind, "added"):
		return "New; nothing to do unless you want it."
	}
	return "Nothing to do."
}

// oldBehaviour says how to keep what a changed default did.
func (w *writer) oldBehaviour(ch *compare.Change) string {
	if ch.Was == nil {
		return fmt.Sprintf("Send %s if you rely on what it was where you left it out: %s.", w.subject(ch), ch.Why)
	}
	return fmt.Sprintf("Send %s=%s to keep the old behaviour: %s.", w.subject(ch), plainValue(ch.Was), ch.Why)
}

// plainValue is a value in a sentence: a text without its quotes.
func plainValue(v *value.Value) string {
	if v.Kind == value.String {
		return v.Text
	}
	return v.Spaced()
}

// subject is the field, parameter or header that a change is about.
func (w *writer) subject(ch *compare.Change) string {
	at := ch.Location
	for i := len(at.Fields) - 1; i >= 0; i-- {
		if f := at.Fields[i]; f != "[]" && f != "*" {
			return f
		}
	}
	return cmp.Or(at.Header, at.Name, "the answer")
}

// instead says what a notice names as the replacement.
func (w *writer) instead(ch *compare.Change) string {
	a := promise.Announce(ch, w.ctx.Notices, w.ctx.Today)
	if a == nil || a.Notice == nil || a.Notice.ReplacedBy == "" {
		return ""
	}
	return " " + a.Notice.ReplacedBy + " takes its place."
}

func sentence(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	// Names such as length or lengthOverall keep their case.
	first, _, _ := strings.Cut(s, " ")
	switch first {
	case "a", "an", "the", "what", "all", "clients", "whether", "it", "everything", "less", "nobody", "callers", "receivers", "response",
		"programs":
		return strings.ToUpper(string(r[:1])) + string(r[1:])
	}
	return s
}
