// Package edit turns wishes about a description into the least changes of its text: what is not touched stays byte for byte as its author
// wrote it, comments, order, anchors, quotes, line ends and layout included. It edits YAML (RAML, too) and JSON.
//
//	text, err := edit.Text(file, edit.Set("/info/title", value.Str("Berth Booking")), edit.Remove("/tags/0"))
//
// A wish names its place by a JSON Pointer (RFC 6901), as the text is when the wishes before it are fulfilled. What an alias shares stands
// where it was written: a wish that goes through an alias changes it there, for all who share it.
//
// Every change is proved: the new text is read, and must say what the wish makes of what the old one said. What cannot be changed without
// writing anew what its author wrote is refused.
package edit

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/source"
	"oldledger/core/value"
)

// Wish is one change at one place.
type Wish struct {
	act   act
	at    string // a JSON Pointer
	to    string // another one, or a key
	value *value.Value
}

type act int

const (
	set act = iota
	insert
	remove
	rename
	move
)

// Set has a place say v: what it says is replaced, and a member that an object has not is added to it, behind the others. Of objects and
// lists only what differs is touched.
func Set(at string, v *value.Value) Wish { return Wish{act: set, at: at, value: v} }

// Insert adds v at a place: a member that an object has not, behind the others; an item of a list before the one that stands there, and
// behind the last where the step is "-" (RFC 6902, section 4.1).
func Insert(at string, v *value.Value) Wish { return Wish{act: insert, at: at, value: v} }

// Remove takes a member or an item away, with its comments.
func Remove(at string) Wish { return Wish{act: remove, at: at} }

// Rename gives a member another key, at its place among the others.
func Rename(at, key string) Wish { return Wish{act: rename, at: at, to: key} }

// Move takes what stands at a place to another, as Insert adds it. The other place is that of the text without it.
func Move(from, to string) Wish { return Wish{act: move, at: from, to: to} }

// String says what is wished: "set /info/title".
func (w Wish) String() string {
	text := [...]string{"set", "insert", "remove", "rename", "move"}[w.act] + " " + w.at
	switch w.act {
	case rename, move:
		text += " to " + w.to
	}
	return text
}

// ErrPlace is that of a wish whose place is not there, or cannot take what is wished.
var ErrPlace = errors.New("the place does not take it")

// ErrLayout is that of a wish that would have to write anew what its author wrote in a way of their own.
var ErrLayout = errors.New("it cannot be changed without writing anew what stands around it")

// Change is a text in place of another: of the bytes from From to before To.
type Change struct {
	From, To int
	Text     string
}

// Text is the text of a file with all wishes fulfilled, one after the other. The errors are ErrPlace and ErrLayout, told with the wish.
func Text(f *source.File, wishes ...Wish) ([]byte, error) {
	changes, err := Changes(f, wishes...)
	if err != nil {
		return nil, err
	}
	return Apply(f.Text, changes), nil
}

// Changes are the least changes that fulfil all wishes, in the order of the text; they do not overlap. The errors are those of Text.
func Changes(f *source.File, wishes ...Wish) ([]Change, error) {
	if len(wishes) > 1 {
		if changes, now := together(f, wishes); now != nil {
			return changes, nil
		}
	}
	f0, all := f, pieces{{to: len(f.Text)}}
	for i, w := range wishes {
		now, err := fulfilled(f, w, i+1 < len(wishes), func(changes []Change) {
			for _, c := range slices.Backward(changes) {
				all = all.changed(c)
			}
		})
		if err != nil {
			return nil, fmt.Errorf("%s: %w", w, err)
		}
		f = now
	}
	return all.changes(len(f0.Text)), nil
}

// Apply is a text with changes that do not overlap and stand in its order.
func Apply(text []byte, changes []Change) []byte {
	var b []byte
	at := 0
	for _, c := range changes {
		b = append(append(b, text[at:c.From]...), c.Text...)
		at = c.To
	}
	return append(b, text[at:]...)
}

// together fulfils several wishes at once, which costs what one does; now is nil where they touch each other.
func together(f *source.File, wishes []Wish) (changes []Change, now *source.File) {
	wanted := &meaning{root: f.Root, changed: map[*source.Node]*container{}}
	l, err := open(f)
	if err != nil {
		return nil, nil
	}
	var all []Change
	for _, w := range wishes {
		if err := wanted.fulfil(w); err != nil {
			return nil, nil
		}
		ways, err := l.ways(w)
		if err != nil || len(ways) == 0 {
			return nil, nil
		}
		all = append(all, ways[0]...)
	}
	all = tidy(l.rescued(all, f.Root))
	if all == nil {
		return nil, nil
	}
	if now, err = source.Parse(f.Name, Apply(f.Text, all)); err != nil || !says(now.Root, wanted) {
		return nil, nil
	}
	return all, now
}

// fulfilled is the file with a wish fulfilled, in one step or in several; it is asked for where more of them follow.
func fulfilled(f *source.File, w Wish, more bool, take func([]Change)) (*source.File, error) {
	if steps := less(f.Root, w); steps != nil {
		if changes, now := together(f, steps); now != nil {
			take(changes)
			return now, nil
		}
		now, all := f, [][]Change(nil)
		err := error(nil)
		for _, step := range steps {
			var changes []Change
			if changes, now, err = fulfil(now, step, true); err != nil {
				break
			}
			all = append(all, changes)
		}
		if err == nil {
			for _, changes := range all {
				take(changes)
			}
			return now, nil
		}
	}
	changes, now, err := fulfil(f, w, more)
	if err == nil {
		take(changes)
		return now, nil
	}
	what := f.Root.Resolve(w.at)
	if w.act != move || !errors.Is(err, ErrLayout) || what == nil || includes(what) {
		return nil, err
	}
	for _, step := range []Wish{Remove(w.at), Insert(w.to, what.Value())} {
		if changes, f, err = fulfil(f, step, true); err != nil {
			return nil, err
		}
		take(changes)
	}
	return f, nil
}

// includes reports whether a node says something by a file, which a value does not.
func includes(n *source.Node) bool {
	return n.Include || slices.ContainsFunc(n.Members, func(m source.Member) bool { return includes(m.Value) }) ||
		slices.ContainsFunc(n.Items(), includes)
}

// fulfil gives the changes that fulfil a wish, and, where more follow, the file with them.
func fulfil(f *source.File, w Wish, more bool) ([]Change, *source.File, error) {
	wanted, err := meant(f.Root, w)
	if err != nil {
		return nil, nil, err
	}
	l, err := open(f)
	if err != nil {
		return nil, nil, err
	}
	ways, err := l.ways(w)
	if err != nil {
		return nil, nil, err
	}
	if l.short = w.value != nil && l.root != nil; l.short { // a comment that follows could become part of a text of several lines
		others, err := l.ways(w)
		if err != nil {
			return nil, nil, err
		}
		ways = append(ways, others...)
	}
	for _, way := range ways {
		changes := tidy(l.rescued(way, f.Root))
		if changes == nil {
			continue
		}
		if part := l.around(w.at, changes); part != nil && !more && part.says(f, changes, wanted) {
			return changes, nil, nil
		}
		now, err := source.Parse(f.Name, Apply(f.Text, changes))
		if err == nil && says(now.Root, wanted) {
			return changes, now, nil
		}
	}
	return nil, nil, ErrLayout
}

// tidy orders changes, and is nil where two of them overlap.
func tidy(changes []Change) []Change {
	changes = slices.DeleteFunc(changes, func(c Change) bool { return c.From == c.To && c.Text == "" })
	slices.SortStableFunc(changes, func(x, y Change) int { return x.From - y.From })
	for i := 1; i < len(changes); i++ {
		if changes[i].From < changes[i-1].To {
			return nil
		}
	}
	if changes == nil {
		changes = []Change{}
	}
	return changes
}

// pieces are a text as what it has of the first one, and of what was written since.
type pieces []piece

type piece struct {
	from, to int    // of the first text
	text     string // written since, where from and to are equal
	written  bool
}

func (p piece) size() int {
	if p.written {
		return len(p.text)
	}
	return p.to - p.from
}

// cut is the first bytes of a piece, and the others.
func (p piece) cut(at int) (piece, piece) {
	if p.written {
		return piece{text: p.text[:at], written: true}, piece{text: p.text[at:], written: true}
	}
	return piece{from: p.from, to: p.from + at}, piece{from: p.from + at, to: p.to}
}

// changed are the pieces with one change of the text that they make.
func (all pieces) changed(c Change) pieces {
	var out pieces
	add := func(p piece) {
		if p.size() > 0 {
			out = append(out, p)
		}
	}
	at, done := 0, false
	write := func() {
		if !done {
			add(piece{text: c.Text, written: true})
			done = true
		}
	}
	for _, p := range all {
		begin, end := at, at+p.size()
		at = end
		if begin < c.From {
			head, _ := p.cut(min(end, c.From) - begin)
			add(head)
		}
		if end >= c.From {
			write()
		}
		if end > c.To {
			_, tail := p.cut(max(begin, c.To) - begin)
			add(tail)
		}
	}
	write()
	return out
}

// changes are what makes the pieces of the first text, which has so many bytes.
func (all pieces) changes(size int) []Change {
	var out []Change
	at, text := 0, strings.Builder{}
	for _, p := range all {
		if p.written {
			text.WriteString(p.text)
			continue
		}
		if p.from != at || text.Len() > 0 {
			out = append(out, Change{at, p.from, text.String()})
			text.Reset()
		}
		at = p.to
	}
	if at < size || text.Len() > 0 {
		out = append(out, Change{at, size, text.String()})
	}
	return out
}
