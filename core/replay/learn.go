package replay

import (
	"slices"
	"strconv"

	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/reliance"
	"oldledger/core/value"
)

// Learner finds in exchanges what a consumer sends, and which parts of answers it was given. What it does not read of them, somebody has to
// take out: nobody sees that from outside.
type Learner struct {
	side  *side
	calls []*learnt
}

// learnt is what was seen of one operation.
type learnt struct {
	op                  *contract.Operation
	sends               []reliance.Field
	body, reads, errors *fields
}

// fields are those that were seen, in the order in which they were.
type fields struct {
	ways  [][]string
	stood map[string]*stood
	given map[string]int // how often what a field is in was there
}

// stood is how often a field was there with a value, and which ones of those that its schema lists.
type stood struct {
	times  int
	values []*value.Value
}

// NewLearner begins to learn what is relied on of a version: the one that answered.
func NewLearner(version *contract.Contract) *Learner { return &Learner{side: newSide(version)} }

// Knows reports whether an exchange is a call of the version.
func (l *Learner) Knows(e *exchange.Exchange) bool { return l.side.find(e, match{}).op != nil }

// Carriers are the names of the headers, cookies and parameters in which the version has credentials sent.
func (l *Learner) Carriers() []string {
	var names []string
	for _, s := range l.side.version.Schemes {
		if s.Parameter != "" {
			names = append(names, s.Parameter)
		}
	}
	return names
}

// Take learns from an exchange; one that is no call of the version is left out.
func (l *Learner) Take(e *exchange.Exchange) {
	at := l.side.find(e, match{})
	if at.op == nil {
		return
	}
	i := slices.IndexFunc(l.calls, func(c *learnt) bool { return c.op == at.op })
	if i < 0 {
		i = len(l.calls)
		l.calls = append(l.calls, &learnt{op: at.op, body: newFields(), reads: newFields(), errors: newFields()})
	}
	l.calls[i].take(e, at)
}

// Need is what was learnt; only operations that were called are in it.
func (l *Learner) Need(api, version string) *reliance.Need {
	n := &reliance.Need{API: api, Version: version}
	for _, c := range l.calls {
		n.Operations = append(n.Operations, &reliance.Operation{
			Name: c.op.Written(), Sends: c.sends, Body: c.body.found(), Reads: c.reads.found(), Errors: c.errors.found(),
		})
	}
	return n
}

func (c *learnt) take(e *exchange.Exchange, at match) {
	w := writtenIn(e, at)
	for _, p := range c.op.Parameters {
		v, there, known := w.value(p)
		if !there || p.In == "path" {
			continue
		}
		i := slices.IndexFunc(c.sends, func(f reliance.Field) bool { return f.Way[0] == p.Name })
		if i < 0 {
			i = len(c.sends)
			c.sends = append(c.sends, reliance.Field{Way: []string{p.Name}})
		}
		if schema, _ := p.Payload(); known && listed(schema) {
			c.sends[i].Values = with(c.sends[i].Values, v)
		}
	}
	if exchange.IsJSON(e.Request.Type) {
		var schema *contract.Schema
		if c.op.Body != nil {
			if m := mediaFor(c.op.Body.Content, e.Request.Type); m != nil {
				schema = m.Schema
			}
		}
		c.body.take(e.Request.Body, schema)
	}
	if !exchange.IsJSON(e.Answer.Type) || e.Status == 0 {
		return
	}
	if text := strconv.Itoa(e.Status); text[0] < '4' {
		c.reads.take(e.Answer.Body, nil)
	} else {
		c.errors.take(e.Answer.Body, nil)
	}
}

func newFields() *fields { return &fields{stood: map[string]*stood{}, given: map[string]int{}} }

// maxLearnt bounds the fields of a body.
const maxLearnt = 1_000

// take learns from a body; where its schema is given, the values that are sent of those that it lists.
func (f *fields) take(body []byte, schema *contract.Schema) {
	if v, err := value.Parse(body); err == nil {
		f.walk(v, nil, schema)
	}
}

// listed reports whether a schema lists its values.
func listed(s *contract.Schema) bool {
	return slices.ContainsFunc(s.Conjuncts(), func(p *contract.Schema) bool { return p.HasEnum })
}

// with is a list with a value, once.
func with(all []*value.Value, v *value.Value) []*value.Value {
	if slices.ContainsFunc(all, v.Equal) {
		return all
	}
	return append(all, v)
}

func (f *fields) walk(v *value.Value, way []string, schema *contract.Schema) {
	switch v.Kind {
	case value.Array:
		for _, it := range v.Items {
			f.walk(it, append(slices.Clone(way), "[]"), itemsOf(schema))
		}
	case value.Object:
		f.given[reliance.WayText(way)]++
		for _, m := range v.Members {
			below := append(slices.Clone(way), m.Name)
			text := reliance.WayText(below)
			if f.stood[text] == nil {
				if len(f.ways) >= maxLearnt {
					continue
				}
				f.stood[text] = &stood{}
				f.ways = append(f.ways, below)
			}
			own := propertyOf(schema, m.Name)
			if m.Value.Kind != value.Null {
				f.stood[text].times++
			}
			if own != nil && listed(own) {
				f.stood[text].values = with(f.stood[text].values, m.Value)
			}
			f.walk(m.Value, below, own)
		}
	}
}

// found are the fields that hold no other ones; one that was missing or null somewhere is optional.
func (f *fields) found() []reliance.Field {
	var all []reliance.Field
	for _, way := range f.ways {
		inner := slices.ContainsFunc(f.ways, func(other []string) bool {
			return len(other) > len(way) && slices.Equal(other[:len(way)], way)
		})
		if inner {
			continue
		}
		optional := false
		for i, step := range way {
			if step != "[]" {
				optional = optional || f.stood[reliance.WayText(way[:i+1])].times < f.given[reliance.WayText(way[:i])]
			}
		}
		all = append(all, reliance.Field{Way: way, Optional: optional, Values: f.stood[reliance.WayText(way)].values})
	}
	return all
}

func itemsOf(s *contract.Schema) *contract.Schema {
	for _, p := range s.Conjuncts() {
		if p.Items != nil {
			return p.Items
		}
	}
	return nil
}
