package edit

import (
	"strings"

	"oldledger/core/source"
)

// part is a part of a text which holds all that changes, and around which all else says the same whatever it says: a value of JSON, whose
// grammar knows no context; or a member of a block on lines of its own, which ends where a line is indented no further than its key (YAML
// 1.2.2, section 6.1). So it is enough to read the part.
type part struct {
	from, to int
	pointer  string
	key      string // of the member; "" for a value of JSON
	value    bool
}

// least is from how many bytes on a text is not read as a whole.
var least = 32 << 10

// around is the innermost part that holds some changes at a place; nil where the whole text is to be read: it is short, or has aliases, by
// which one place speaks of another.
func (l *layout) around(at string, changes []Change) *part {
	if len(l.text) < least || len(changes) == 0 || len(l.anchors()) > 0 {
		return nil
	}
	first, last := changes[0].From, changes[len(changes)-1].To
	b, err := l.boxAt(l.root, l.space(l.bom()), -1)
	var found *part
	steps := strings.Split(at, "/")
	for i := 1; i < len(steps)-1 && err == nil; i++ {
		k := b.at(unescape(steps[i]))
		if k < 0 || b.flow && l.root != nil {
			break
		}
		e := b.entries[k]
		if l.root == nil && e.value <= first && last <= e.end {
			found = &part{from: e.value, to: e.end, pointer: strings.Join(steps[:i+1], "/"), value: true}
		}
		from, to := l.lineStart(e.start), l.nextLine(e.end)
		if !b.list && !b.flow && l.first(e.start) && from <= first && last <= l.lineEnd(e.end) {
			found = &part{from, to, strings.Join(steps[:i+1], "/"), e.key, false}
		}
		b, err = l.boxAt(e.node, e.value, e.after)
	}
	return found
}

// says reports whether the part says what is meant, with the changes.
func (p *part) says(f *source.File, changes []Change, m *meaning) bool {
	inside := make([]Change, len(changes))
	for i, c := range changes {
		inside[i] = Change{c.From - p.from, c.To - p.from, c.Text}
	}
	name := f.Name
	if p.value {
		name = "part.json"
	}
	now, err := source.Parse(name, Apply(f.Text[p.from:p.to], inside))
	old := f.Root.Resolve(p.pointer)
	if err != nil || old == nil {
		return false
	}
	if p.value {
		return m.same(now.Root, held{old: old})
	}
	return now.Root.Kind == source.Mapping && len(now.Root.Members) == 1 && now.Root.Members[0].Key == p.key &&
		m.same(now.Root.Members[0].Value, held{old: old})
}
