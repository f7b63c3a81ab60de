package compare

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// Part is what of an API a change is about.
type Part string

// The parts. A kind begins with its part, but for headers, which begin with "header".
const (
	PartDescription Part = "description" // what it says of itself as a whole
	PartServers     Part = "servers"
	PartSecurity    Part = "security"
	PartOperation   Part = "operation"
	PartParameter   Part = "parameter"
	PartRequest     Part = "request"
	PartResponse    Part = "response"
	PartSchema      Part = "schema" // of a description that only shares components
)

// Location says where a change is felt, below its operation. What does not apply is "".
type Location struct {
	Part      Part   `json:"part"`
	Status    string `json:"status,omitempty"` // of a response, as its author wrote it: "200", "4XX", "default"
	MediaType string `json:"mediaType,omitempty"`
	In        string `json:"in,omitempty"`     // of a parameter: path, query, header or cookie
	Name      string `json:"name,omitempty"`   // of a parameter, a security scheme or a schema
	Header    string `json:"header,omitempty"` // of a response or of a part of a form
	Link      string `json:"link,omitempty"`
	Heir      string `json:"heir,omitempty"` // the schema that is meant where its base stands
	// the way from the value to its part: names of properties, "[]" for an item, "*" for a property without a name of its own
	Fields []string `json:"fields,omitempty"`
}

// String says it in the words that a reader knows: "request body, application/json, stay.nights".
func (l Location) String() string {
	words := []string{l.base()}
	add := func(text, before string) {
		if text != "" {
			words = append(words, before+text)
		}
	}
	add(l.MediaType, "")
	add(l.Heir, "as ")
	add(fieldsText(l.Fields), "")
	add(l.Header, "header ")
	add(l.Link, "link ")
	return joinWords(words...)
}

// base is the whole of which the rest is a part: "request body", "response 200".
func (l Location) base() string {
	switch l.Part {
	case PartRequest:
		return "request body"
	case PartResponse:
		return "response " + l.Status
	case PartParameter:
		return l.In + " parameter " + l.Name
	case PartSecurity:
		if l.Name != "" {
			return "security scheme " + l.Name
		}
		return "security"
	case PartSchema:
		return "schema " + l.Name
	case PartServers, PartDescription:
		return string(l.Part)
	}
	return ""
}

// position is the form of a witness (docs/design/compatibility.md, Comparisons as data): "response 200 application/json".
func (l Location) position() string {
	words := []string{l.base()}
	if l.MediaType != "" {
		words = append(words, l.MediaType)
	}
	if l.Header != "" {
		words = append(append(words, l.Fields...), "header "+l.Header)
	}
	return strings.Join(words, " ")
}

// ParsePosition reads the position of a witness. What is about an operation as a whole has the part PartOperation.
func ParsePosition(position string) Location {
	position, header, _ := strings.Cut(position, " header ")
	words := strings.Fields(position)
	l := Location{Part: PartOperation, Header: header}
	rest := 0
	switch {
	case len(words) > 2 && words[1] == "parameter":
		return Location{Part: PartParameter, In: words[0], Name: strings.Join(words[2:], " ")}
	case len(words) > 1 && words[0] == "response":
		l.Part, l.Status, rest = PartResponse, words[1], 2
	case len(words) > 1 && words[0] == "request":
		l.Part, rest = PartRequest, 2
	case position == "security":
		l.Part = PartSecurity
	case position == "server":
		l.Part = PartServers
	}
	switch {
	case rest == 0 || rest >= len(words):
	case header == "":
		l.MediaType = strings.Join(words[rest:], " ") // it may have parameters
	default:
		l.MediaType, l.Fields = words[rest], words[rest+1:]
	}
	return l
}

// kindPrefix is what the kinds of changes there begin with.
func (l Location) kindPrefix() string {
	if l.Header != "" {
		return "header"
	}
	return string(l.Part)
}

// in is the location of one content of a body.
func (l Location) in(mediaType string) Location {
	l.MediaType = mediaType
	return l
}

// header is the location of a header beside a body, or beside a part of one.
func (l Location) header(name string) Location {
	l.Header = name
	return l
}

// below is the location of a part of a value.
func (l Location) below(fields ...string) Location {
	l.Fields = append(slices.Clone(l.Fields), fields...)
	return l
}

// parameterAt is the location of a parameter.
func parameterAt(p *contract.Parameter) Location {
	return Location{Part: PartParameter, In: p.In, Name: p.Name}
}

// fieldsOf are the fields on a way.
func fieldsOf(way []step) []string {
	var fields []string
	for _, s := range way {
		switch s.kind {
		case stepProperty:
			fields = append(fields, s.name)
		case stepItem, stepPrefix:
			fields = append(fields, "[]")
		case stepRest:
			fields = append(fields, "*")
		}
	}
	return fields
}

// fieldsText writes fields as one reads them: "stay.nights", "items[].price".
func fieldsText(fields []string) string {
	text := ""
	for _, f := range fields {
		if text != "" && f != "[]" {
			text += "."
		}
		text += f
	}
	return text
}

// FieldsText writes fields as one reads them, or what stands for none of them.
func FieldsText(fields []string, none string) string { return cmp.Or(fieldsText(fields), none) }

// Place is where something stands in a file, and in which part that is shared under a name.
type Place struct {
	source.Place
	Component string   `json:"component,omitempty"` // the name of the nearest named part around it
	Fields    []string `json:"fields,omitempty"`    // the way from that to it, as in a Location; what is no field ends it

	within string // the pointer, with the name of the part in the place of where that stands; "" where there is none
}

// In is the place in its file; nil for none.
func (p *Place) In() *source.Place {
	if p == nil {
		return nil
	}
	return &p.Place
}

// Is reports whether the place is that of a field of a named schema, or of what is said about the field: "Vessel.length".
func (p *Place) Is(field string) bool {
	if p == nil || p.Component == "" {
		return false
	}
	fields := p.Fields
	for len(fields) > 1 && fields[len(fields)-1] == "[]" { // the values of a list
		fields = fields[:len(fields)-1]
	}
	return len(fields) == 1 && p.Component+"."+fields[0] == field
}

// components are the names of what a version shares, by where it stands.
type components map[nodeKey]string

type nodeKey struct{ file, pointer string }

func componentsOf(c *contract.Contract) components {
	all := components{}
	for _, s := range c.Schemas {
		if s.Node != nil && s.Name != "" {
			p := s.Node.Place()
			all[nodeKey{p.File, p.Pointer}] = s.Name
		}
	}
	return all
}

// place finds the named part around a node, nil for none.
func (all components) place(n *source.Node) *Place {
	if n == nil {
		return nil
	}
	at := &Place{Place: n.Place()}
	for end := len(at.Pointer); end >= 0; end = strings.LastIndexByte(at.Pointer[:end], '/') {
		if name, known := all[nodeKey{at.File, at.Pointer[:end]}]; known {
			below := at.Pointer[end:]
			at.Component, at.within = name, name+below
			if below != "" {
				at.Fields = fieldsBelow(strings.Split(below[1:], "/"))
			}
			return at
		}
		if end == 0 {
			break
		}
	}
	if rest, is := strings.CutPrefix(at.Pointer, "/components/"); is {
		if kind, name, more := strings.Cut(rest, "/"); more && kind != "" {
			name, _, _ = strings.Cut(name, "/")
			at.Component, at.within = unescaped.Replace(name), rest
		}
	}
	return at
}

// fieldsBelow reads the fields from the steps of a pointer below a schema.
func fieldsBelow(steps []string) []string {
	var fields []string
	for i := 0; i < len(steps); i++ {
		more := i+1 < len(steps)
		switch steps[i] {
		case "properties":
			if !more {
				return fields
			}
			i++
			fields = append(fields, strings.TrimSuffix(unescaped.Replace(steps[i]), "?")) // RAML marks there what may be left out
		case "items":
			fields = append(fields, "[]")
			if more {
				if _, err := strconv.Atoi(steps[i+1]); err == nil { // JSON Schema until 2019-09: one schema for each position
					i++
				}
			}
		case "prefixItems":
			fields = append(fields, "[]")
			i++
		case "allOf", "anyOf", "oneOf":
			i++
		case "additionalProperties", "patternProperties":
			fields = append(fields, "*")
			if steps[i] == "patternProperties" {
				i++
			}
		default:
			return fields
		}
	}
	return fields
}

// unescaped undoes what a pointer writes otherwise (RFC 6901, section 4).
var unescaped = strings.NewReplacer("~1", "/", "~0", "~")
