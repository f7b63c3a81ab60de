// Package reliance says what a consumer relies on: the operations that it calls, and of these the parameters that it sends and the parts of
// answers that it reads.
//
//	r, err := reliance.Read(file)
//	for _, n := range r.Needs {
//		n.Touch(change) // whether a change of that API meets what it relies on
//	}
//
// It is declared in a file (docs/manual/reliance.md, The file), or learnt from recorded exchanges (core/replay).
package reliance

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Reliance is what one consumer relies on.
type Reliance struct {
	Consumer string // "" where the file does not say
	Needs    []*Need
}

// Need is what a consumer relies on of one API.
type Need struct {
	API        string // its short name: "berths"
	Version    string // for which the consumer was built: a version or a line; "" where it does not say
	Operations []*Operation
	Node       *source.Node // nil where it was learnt
}

// Ref is the API with its version: "berths@1.2.0".
func (n *Need) Ref() string {
	if n.Version == "" {
		return n.API
	}
	return n.API + "@" + n.Version
}

// Operation is what a consumer relies on of one operation.
type Operation struct {
	Name   string  // as its author wrote it, or its id: "GET /berths/{berth}"
	All    bool    // nobody said which parts: all count
	Sends  []Field // parameters: each way is the name of one
	Body   []Field // of the request
	Reads  []Field // of answers that tell of success
	Errors []Field // of the other answers
	Node   *source.Node

	key string // by what stands on the wire
}

// Key is the operation by what stands on the wire: "GET /berths/{}".
func (o *Operation) Key() string {
	if o.key != "" {
		return o.key
	}
	method, path, _ := strings.Cut(o.Name, " ")
	return strings.ToUpper(method) + " " + contract.WirePath(path)
}

// Of are the fields that are read of answers of a status: "200", "4XX", "default".
func (o *Operation) Of(status string) []Field {
	if strings.HasPrefix(status, "2") || strings.HasPrefix(status, "3") || strings.HasPrefix(status, "1") {
		return o.Reads
	}
	return o.Errors
}

// Field is a part of a body.
type Field struct {
	Way      []string       // names of properties, "[]" for an item of a list, "*" for a property of any name
	Values   []*value.Value // the only ones that the consumer sends, or knows; none for any
	Optional bool           // read where it is there, and not null
	Node     *source.Node

	places *places // nil where nobody knows
}

// String is the field as one reads it: "items[].price", with a ? where it is optional.
func (f Field) String() string {
	if f.Optional {
		return WayText(f.Way) + "?"
	}
	return WayText(f.Way)
}

// WayText writes a way as ParseWay reads it.
func WayText(way []string) string {
	text := ""
	for _, step := range way {
		switch {
		case step == "[]":
			text += step
			continue
		case text != "":
			text += "."
		}
		text += escaped.Replace(step)
	}
	return text
}

var escaped = strings.NewReplacer(`\`, `\\`, ".", `\.`, "[", `\[`, "?", `\?`)

// ParseWay reads a way: "stay.nights", "items[].price", "prices.*.amount"; a backslash stands before a dot, a bracket or a question mark
// that belongs to a name. ok is false where it is none.
func ParseWay(text string) (way []string, ok bool) {
	for {
		var step string
		if rest, is := strings.CutPrefix(text, "[]"); is {
			step, text = "[]", rest
		} else {
			step, text = parseName(text)
		}
		if step == "" || len(way) == maxWay {
			return nil, false
		}
		way = append(way, step)
		switch {
		case text == "":
			return way, true
		case text[0] == '.':
			if text = text[1:]; strings.HasPrefix(text, "[") {
				return nil, false
			}
		case text[0] != '[':
			return nil, false
		}
	}
}

// parseName reads a name up to the dot or the bracket that ends it.
func parseName(text string) (name, rest string) {
	var b strings.Builder
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == '\\' && i+1 < len(text):
			i++
			b.WriteByte(text[i])
		case c == '.' || c == '[' || c == '?':
			return b.String(), text[i:]
		default:
			b.WriteByte(c)
		}
	}
	return b.String(), ""
}

// maxWay bounds how deep a way leads.
const maxWay = 40

// overlap reports whether one of two ways leads to a part of what the other one leads to.
func overlap(a, b []string) bool {
	for i := range min(len(a), len(b)) {
		if a[i] != b[i] && a[i] != "*" && b[i] != "*" {
			return false
		}
	}
	return true
}
