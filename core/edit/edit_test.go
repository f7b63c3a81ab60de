package edit_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/edit"
	"oldledger/core/source"
	"oldledger/core/value"
)

// drawn is a text that an author could have written, drawn at random.
type drawn struct {
	*rand.Rand
	eol   string
	step  int
	flush bool
}

func (d *drawn) one(texts ...string) string { return texts[d.IntN(len(texts))] }

func (d *drawn) scalar() *value.Value {
	switch d.IntN(8) {
	case 0:
		return value.NullValue
	case 1:
		return value.Bool(d.IntN(2) == 0)
	case 2:
		v, _ := value.Parse([]byte(d.one("0", "-3", "1.50", "2e3", "90071992547409931")))
		return v
	case 3:
		return value.Str(d.one("two\nlines\n", "three\n\nlines", " led\nby a space", "ends\n\n", "tab\tin", "true", "012", "null", "~", "", "a: b", "a #b", "- x", "é ü", "it's", `say "so"`, "x, y]", "#c", "&a", "*a", "!t", "%p", "@q", "`r", "a:", "?", "-", "2026-11-27", "0x1F", "a\\b", "name?", "| x", "> y", "\u00a0", "{x}"))
	}
	return value.Str(d.one("berth", "Book a berth", "booked by hand", "north quay", "v1", "a-b_c", "/berths/{berth}", "x/y"))
}

func (d *drawn) value(depth int) *value.Value {
	n := d.IntN(5)
	switch k := d.IntN(6); {
	case depth == 0 || k < 2:
		return d.scalar()
	case k < 4:
		v := &value.Value{Kind: value.Object}
		for range n {
			if name := d.key(); v.Get(name) == nil {
				v.Members = append(v.Members, value.Member{Name: name, Value: d.value(depth - 1)})
			}
		}
		return v
	}
	v := &value.Value{Kind: value.Array}
	for range n {
		v.Items = append(v.Items, d.value(depth-1))
	}
	return v
}

func (d *drawn) key() string {
	return d.one("title", "version", "paths", "/berths/{berth}", "get", "200", "a b", "x-note", "on", "null", "it's", "q?", "tags", "name", "ü", "deep", "k1", "k2", "k3", "", "a#b", "a: b")
}

// yaml writes a value as a block at an indent; the first line follows what stands before it.
func (d *drawn) yaml(v *value.Value, indent int, flow bool) string {
	if empty := v.Kind >= value.Array && len(v.Items)+len(v.Members) == 0; flow || empty || d.IntN(6) == 0 && v.Kind >= value.Array {
		return " " + d.flow(v, indent+1)
	}
	pad := strings.Repeat(" ", indent)
	var b strings.Builder
	comment := func() {
		switch d.IntN(8) {
		case 0:
			b.WriteString(pad + "# a word on what follows" + d.eol)
		case 1:
			b.WriteString(d.eol)
		case 2:
			b.WriteString(strings.Repeat(" ", d.IntN(4)) + "# elsewhere" + d.eol)
		}
	}
	behind := func() string { return d.one("", "", "", " # why", "  ") }
	switch v.Kind {
	case value.Object:
		b.WriteString(behind() + d.eol)
		for _, m := range v.Members {
			comment()
			b.WriteString(pad + d.quote(m.Name, true) + ":")
			below := indent + d.step
			if m.Value.Kind == value.Array && d.flush {
				below = indent
			}
			b.WriteString(d.yaml(m.Value, below, false))
		}
		return b.String()
	case value.Array:
		b.WriteString(behind() + d.eol)
		for _, item := range v.Items {
			comment()
			b.WriteString(pad + "-")
			below := d.yaml(item, indent+2, false)
			// The first member may stand beside the dash, where no comment does.
			first, _ := strings.CutPrefix(below, d.eol+pad+"  ")
			if item.Kind == value.Object && len(first) < len(below) && first[0] != '#' && first[0] != ' ' && d.IntN(2) == 0 {
				b.WriteString(" " + strings.TrimLeft(below[len(d.eol):], " "))
			} else {
				b.WriteString(below)
			}
		}
		return b.String()
	}
	if v.Kind == value.Null && d.IntN(3) == 0 {
		return behind() + d.eol
	}
	text := v.Text
	body := strings.TrimSuffix(text, "\n")
	lines := strings.Contains(body, "\n") && !strings.HasSuffix(body, "\n") && !strings.HasPrefix(body, " ")
	if v.Kind == value.String && lines && d.eol == "\n" && d.IntN(2) == 0 {
		head := " |-"
		if body != text {
			head = d.one(" |", " | # why", fmt.Sprintf(" |%d", 2))
			if strings.HasSuffix(head, "2") {
				pad = strings.Repeat(" ", max(indent-d.step, 0)+2)
				if indent == 0 || d.flush || d.step != 2 {
					head = " |"
					pad = strings.Repeat(" ", indent+1)
				}
			}
		}
		if head == " |-" || head == " |" || strings.HasPrefix(head, " | ") {
			pad = strings.Repeat(" ", indent+1)
		}
		b.WriteString(head + d.eol)
		for line := range strings.SplitSeq(body, "\n") {
			if line != "" {
				line = pad + line
			}
			b.WriteString(line + d.eol)
		}
		return b.String()
	}
	return " " + d.word(v, false, indent) + behind() + d.eol
}

func (d *drawn) word(v *value.Value, flow bool, indent int) string {
	switch v.Kind {
	case value.String:
		text := d.quote(v.Text, flow)
		if !flow && text == "booked by hand" && d.IntN(2) == 0 {
			return "booked by" + d.eol + strings.Repeat(" ", indent+2) + "hand"
		}
		return text
	case value.Null:
		return d.one("null", "~", "Null")
	}
	return v.String()
}

func (d *drawn) quote(text string, narrow bool) string {
	plain := text != "" && !strings.ContainsAny(text, ":#&*!%@`\"'\\,[]{}|>\n\t?\u00a0") && !strings.HasPrefix(text, "-") && !strings.HasPrefix(text, "~") &&
		!slices.Contains([]string{"true", "null", "012", "on", "0x1F", "200", "2026-11-27"}, text) && strings.TrimSpace(text) == text
	switch {
	case plain && d.IntN(3) > 0:
		return text
	case !strings.ContainsAny(text, "\n\t\u00a0") && d.IntN(2) == 0:
		return "'" + strings.ReplaceAll(text, "'", "''") + "'"
	}
	return value.Str(text).String()
}

func (d *drawn) flow(v *value.Value, indent int) string {
	open, shut, gap := "{", "}", d.one("", "", " ")
	if d.IntN(4) == 0 {
		gap = d.eol + strings.Repeat(" ", indent+1)
	}
	var parts []string
	switch v.Kind {
	case value.Array:
		open, shut = "[", "]"
		for _, item := range v.Items {
			parts = append(parts, d.inFlow(item, indent))
		}
	case value.Object:
		for _, m := range v.Members {
			parts = append(parts, d.quote(m.Name, true)+": "+d.inFlow(m.Value, indent))
		}
	default:
		return d.word(v, true, indent) + d.eol
	}
	text := open + gap + strings.Join(parts, ","+d.one(" ", "  ", d.eol+strings.Repeat(" ", indent+1))) + d.one("", "", gap) + shut
	return text + d.one("", " # end") + d.eol
}

func (d *drawn) inFlow(v *value.Value, indent int) string {
	if v.Kind < value.Array {
		return d.word(v, true, indent)
	}
	text := strings.TrimSuffix(strings.TrimSuffix(d.flow(v, indent), d.eol), " # end")
	return text
}

// json writes a value as an author of JSON could.
func (d *drawn) json(v *value.Value, indent string) string {
	if d.step == 0 || v.Kind < value.Array {
		return d.one(v.String(), v.Spaced())
	}
	below := indent + strings.Repeat(" ", d.step)
	var parts []string
	for _, m := range v.Members {
		parts = append(parts, value.Str(m.Name).String()+d.one(": ", ":", " : ")+d.json(m.Value, below))
	}
	for _, item := range v.Items {
		parts = append(parts, d.json(item, below))
	}
	open, shut := "{", "}"
	if v.Kind == value.Array {
		open, shut = "[", "]"
	}
	if len(parts) == 0 {
		return open + d.one("", " ") + shut
	}
	return open + d.eol + below + strings.Join(parts, ","+d.eol+below) + d.eol + indent + shut
}

// places are all pointers of a value.
func places(v *value.Value, at string, all []string) []string {
	all = append(all, at)
	for _, m := range v.Members {
		all = places(m.Value, at+"/"+source.EscapeStep(m.Name), all)
	}
	for i, item := range v.Items {
		all = places(item, fmt.Sprintf("%s/%d", at, i), all)
	}
	return all
}

// put is a value with another at a place, or without what is there where to is nil. It knows nothing of texts.
func put(v *value.Value, steps []string, to *value.Value, insert bool) *value.Value {
	if len(steps) == 0 {
		return to
	}
	out := *v
	if v.Kind == value.Array {
		i := len(v.Items)
		if steps[0] != "-" {
			fmt.Sscan(steps[0], &i)
		}
		out.Items = slices.Clone(v.Items)
		switch {
		case len(steps) > 1:
			out.Items[i] = put(v.Items[i], steps[1:], to, insert)
		case to == nil:
			out.Items = slices.Delete(out.Items, i, i+1)
		case insert:
			out.Items = slices.Insert(out.Items, i, to)
		default:
			out.Items[i] = to
		}
		return &out
	}
	name := strings.ReplaceAll(strings.ReplaceAll(steps[0], "~1", "/"), "~0", "~")
	out.Members = slices.Clone(v.Members)
	i := slices.IndexFunc(out.Members, func(m value.Member) bool { return m.Name == name })
	switch {
	case len(steps) > 1:
		out.Members[i].Value = put(out.Members[i].Value, steps[1:], to, insert)
	case to == nil:
		out.Members = slices.Delete(out.Members, i, i+1)
	case i < 0:
		out.Members = append(out.Members, value.Member{Name: name, Value: to})
	default:
		out.Members[i].Value = to
	}
	return &out
}

// get is what stands at a place.
func get(v *value.Value, pointer string) *value.Value {
	if pointer == "" {
		return v
	}
	for _, step := range stepsOf(pointer) {
		if v.Kind == value.Array {
			i := 0
			fmt.Sscan(step, &i)
			v = v.Items[i]
		} else {
			v = v.Get(strings.ReplaceAll(strings.ReplaceAll(step, "~1", "/"), "~0", "~"))
		}
	}
	return v
}

func stepsOf(pointer string) []string { return strings.Split(pointer, "/")[1:] }

// wish draws one for a value, and what it makes of it.
func (d *drawn) wish(v *value.Value) (edit.Wish, *value.Value) {
	all := places(v, "", nil)[1:]
	for {
		at := all[d.IntN(len(all))]
		there := get(v, at)
		fresh := d.value(d.IntN(3))
		parent := at[:strings.LastIndexByte(at, '/')]
		switch d.IntN(6) {
		case 0:
			return edit.Remove(at), put(v, stepsOf(at), nil, false)
		case 1, 2:
			return edit.Set(at, fresh), put(v, stepsOf(at), fresh, false)
		case 3:
			if there.Kind < value.Array {
				continue
			}
			step := "fresh-" + d.one("one", "two words", "/x", "it's")
			if there.Get(step) != nil {
				continue
			}
			if there.Kind == value.Array {
				step = d.one("-", fmt.Sprint(d.IntN(len(there.Items)+1)))
			}
			at += "/" + source.EscapeStep(step)
			return edit.Insert(at, fresh), put(v, stepsOf(at), fresh, true)
		case 4:
			if get(v, parent).Kind != value.Object {
				continue
			}
			name := "named-" + d.one("one", "two words", "/x", "it's")
			if get(v, parent).Get(name) != nil {
				continue
			}
			without := put(v, stepsOf(at), nil, false)
			return edit.Rename(at, name), put(without, stepsOf(parent+"/"+source.EscapeStep(name)), there, true)
		default:
			without := put(v, stepsOf(at), nil, false)
			others := places(without, "", nil)
			to := others[d.IntN(len(others))]
			switch get(without, to).Kind {
			case value.Array:
				to += "/-"
			case value.Object:
				if get(without, to).Get("moved") != nil {
					continue
				}
				to += "/moved"
			default:
				continue
			}
			return edit.Move(at, to), put(without, stepsOf(to), there, true)
		}
	}
}

// TestEdits draws texts and a few wishes for each: the new text says what the wishes make of what the old one said, and is the old one but
// for the changes.
func TestEdits(t *testing.T) {
	t.Parallel()
	refused, done := 0, 0
	for seed := range uint64(20_000) {
		d := &drawn{rand.New(rand.NewPCG(seed, 7)), "\n", 2, seed%3 == 0}
		if seed%5 == 0 {
			d.eol = "\r\n"
		}
		if seed%7 == 0 {
			d.step = 4
		}
		v := d.value(4)
		if v.Kind < value.Array || len(v.Members)+len(v.Items) == 0 {
			continue
		}
		name, text := "a.yaml", strings.TrimLeft(d.yaml(v, 0, false), "\r\n ")
		if seed%4 == 0 {
			d.step = int(seed/4) % 3 * 2
			name, text = "a.json", d.json(v, "")+d.one("", d.eol)
		}
		f, err := source.Parse(name, []byte(text))
		if err != nil {
			continue
		}
		if !f.Root.Value().Equal(v) {
			v = f.Root.Value() // what the drawer wrote reads otherwise
		}
		if len(v.Members)+len(v.Items) == 0 {
			continue
		}
		var wish []edit.Wish
		want := v
		for range 1 + max(0, d.IntN(6)-3) {
			if len(want.Members)+len(want.Items) == 0 {
				break
			}
			var one edit.Wish
			one, want = d.wish(want)
			wish = append(wish, one)
		}
		changes, err := edit.Changes(f, wish...)
		if errors.Is(err, edit.ErrLayout) {
			if refused++; refused < 12 {
				t.Logf("seed %d: %v\n%s", seed, err, text)
			}
			continue
		}
		require.NoError(t, err, "seed %d: %s\n%s", seed, wish, text)
		done++
		now := edit.Apply([]byte(text), changes)
		got, err := source.Parse(name, now)
		require.NoError(t, err, "seed %d: %s\n%s\n%s", seed, wish, text, now)
		require.True(t, got.Root.Value().Equal(want), "seed %d: %s\n%s\n%s", seed, wish, text, now)
	}
	t.Logf("%d done, %d refused", done, refused)
	require.Greater(t, done, 10_000)
	require.Less(t, refused, done/500, "hardly anything is refused")
}
