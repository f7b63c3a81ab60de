package reliance

import (
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/value"
)

// Touch is how a change meets what a consumer relies on.
type Touch uint8

// The ways, the least first.
const (
	Apart  Touch = iota // nothing of it
	Called              // an operation that the consumer calls, and no part of it that anybody named
	Relied              // a part that the consumer sends or reads
)

// Touch tells how a change meets what the consumer relies on.
func (n *Need) Touch(ch *compare.Change) Touch {
	touch := Apart
	for _, o := range n.Operations {
		key := o.Key()
		switch {
		case ch.Operation == key:
			touch = max(touch, o.touch(ch))
			if ch.Old != nil && ch.Old.Component != "" { // it may be felt elsewhere in the operation, too
				touch = max(touch, o.touchShared(ch))
			}
		case slices.Contains(ch.Reach, key):
			touch = max(touch, o.touchShared(ch))
		case ch.Operation == "" && len(ch.Reach) == 0:
			touch = max(touch, Called)
		}
	}
	return touch
}

// Grade is what a change means for the consumer: a hazard on a part that it relies on breaks it, and what it neither sends nor reads does
// not.
func (n *Need) Grade(ch *compare.Change) compare.Grade {
	switch n.Touch(ch) {
	case Relied:
		if ch.Backward == compare.Hazard {
			return compare.Breaking
		}
		return ch.Backward
	case Called:
		return ch.Backward
	}
	return min(ch.Backward, compare.Safe)
}

// touch tells how a change that reaches the operation meets it.
func (o *Operation) touch(ch *compare.Change) Touch {
	at := ch.Location
	switch at.Part {
	case compare.PartParameter:
		switch {
		case o.All || slices.ContainsFunc(o.Sends, func(f Field) bool { return named(f.Way[0], at, ch) && !spared(f, ch) }):
			return Relied
		case demands(ch.Kind) || at.In == "path":
			return Called
		}
		return Apart
	case compare.PartRequest:
		return o.touchBody(ch)
	case compare.PartResponse:
		if at.Header != "" || at.Link != "" {
			if o.All {
				return Relied
			}
			return Called
		}
		fields := o.Of(at.Status)
		if at.Status == "default" { // it may stand for either
			fields = slices.Concat(o.Reads, o.Errors)
		}
		if touch := o.meets(ch, fields); touch == Relied || len(at.Fields) > 0 {
			return touch
		}
	}
	return Called // the operation, or the answer, as a whole
}

// touchShared tells it of a change that is told at another operation, and is felt here, too: a schema or a parameter that both share.
func (o *Operation) touchShared(ch *compare.Change) Touch {
	if ch.Location.Part != compare.PartRequest && ch.Location.Part != compare.PartResponse || len(ch.Location.Fields) == 0 {
		return o.touch(ch)
	}
	if o.All {
		return Relied
	}
	if ch.Old == nil {
		return Called
	}
	touch := Apart
	for _, fields := range [][]Field{o.Body, o.Reads, o.Errors} {
		for _, f := range fields {
			switch {
			case f.places == nil:
				touch = Called // nobody knows where it stands
			case f.places.hold(ch.Old) && !spared(f, ch):
				return Relied
			}
		}
	}
	if ch.Location.Part == compare.PartRequest && (len(o.Body) == 0 || demands(ch.Kind)) {
		return Called
	}
	return touch
}

// named reports whether a name is that of the parameter that changed, now or before.
func named(name string, at compare.Location, ch *compare.Change) bool {
	if ch.Renamed != nil && name == ch.Renamed.From {
		return true
	}
	return name == at.Name || at.In == "header" && strings.EqualFold(name, at.Name)
}

// spared reports whether a change takes listed values away of which the consumer sends none.
func spared(f Field, ch *compare.Change) bool {
	if len(f.Values) == 0 || len(ch.Left) == 0 || !slices.Equal(f.Way, ch.Location.Fields) && ch.Location.Part != compare.PartParameter {
		return false
	}
	return !slices.ContainsFunc(f.Values, func(v *value.Value) bool {
		return slices.Contains(ch.Left, v.String()) || v.Kind == value.String && slices.Contains(ch.Left, v.Text)
	})
}

// demands reports whether a change concerns those who do not send what it is about.
func demands(kind string) bool { return strings.Contains(kind, "required") }

func (o *Operation) touchBody(ch *compare.Change) Touch {
	fields := slices.DeleteFunc(slices.Clone(o.Body), func(f Field) bool { return spared(f, ch) })
	touch := o.meets(ch, fields)
	if touch == Apart && (len(o.Body) == 0 || demands(ch.Kind)) {
		return Called // nobody said what it sends
	}
	return touch
}

// meets reports whether a change is about one of the fields, or about what one of them is in.
func (o *Operation) meets(ch *compare.Change, fields []Field) Touch {
	if o.All {
		return Relied
	}
	way := ch.Location.Fields
	ways := [][]string{way}
	if ch.Renamed != nil && len(way) > 0 {
		ways = append(ways, append(slices.Clone(way[:len(way)-1]), ch.Renamed.From))
	}
	for _, f := range fields {
		for _, w := range ways {
			if overlap(f.Way, w) {
				return Relied
			}
		}
	}
	return Apart
}
