package replay

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/reliance"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// answer finds what of a recorded answer a version would not give.
func (r *Replay) answer(s *side, e *exchange.Exchange, at match, need *reliance.Operation) []*Finding {
	if e.Status == 0 || e.Status == 304 { // that is between a client and its cache
		return nil
	}
	g := &given{asked: &asked{side: s, e: e, op: at.op}, need: need}
	g.status()
	if s == r.side {
		if !slices.Contains(r.statuses[at.op], e.Status) {
			r.statuses[at.op] = append(r.statuses[at.op], e.Status)
		}
	}
	return g.found
}

// given is an answer that is held against those that an operation gives.
type given struct {
	*asked
	need *reliance.Operation // nil where nobody said what is read
}

// responseFor is what an operation describes for a status (OpenAPI 3.1.1, Responses Object); nil where it does not.
func responseFor(op *contract.Operation, status int) *contract.Response {
	text := strconv.Itoa(status)
	for _, like := range []string{text, text[:1] + "XX", "default"} {
		for _, res := range op.Responses {
			if strings.EqualFold(res.Status, like) {
				return res
			}
		}
	}
	return nil
}

func (g *given) status() {
	at := compare.Location{Part: compare.PartResponse, Status: strconv.Itoa(g.e.Status)}
	head := fmt.Sprintf("%s → %d", g.line(), g.e.Status)
	res := responseFor(g.op, g.e.Status)
	if res == nil {
		grade := compare.Breaking
		if g.e.Status >= 300 {
			grade = compare.Hazard // whatever stands before it may lead on, or fail
		}
		g.tell(Answer, grade, at, fmt.Sprintf("no answer %d is described", g.e.Status), head)
		return
	}
	body := g.e.Answer
	if body.Body == nil && !body.Left || g.e.Method == "HEAD" {
		return
	}
	if len(res.Content) == 0 {
		if g.reads() {
			g.tell(Answer, compare.Hazard, at, fmt.Sprintf("no body is described for %d", g.e.Status), head)
		}
		return
	}
	m := mediaFor(res.Content, body.Type)
	if m == nil {
		g.tell(Answer, compare.Breaking, at, "answers as "+exchange.Base(body.Type)+" are not given", head)
		return
	}
	at.MediaType = m.Type
	if m.Schema == nil || !g.reads() {
		return
	}
	if !exchange.IsJSON(body.Type) || body.Left {
		g.tell(NotLooked, compare.Hazard, at, "answers as "+exchange.Base(body.Type)+" are not looked into", "")
		return
	}
	v, err := value.Parse(body.Body)
	if err != nil {
		g.tell(Answer, compare.Hazard, at, "the recorded answer is no JSON", head)
		return
	}
	if said := g.fields(); said != nil {
		v = project(v, said)
	}
	g.fit(at, m, v, head)
}

// reads reports whether something of the answer is read.
func (g *given) reads() bool {
	return g.need == nil || g.need.All || len(g.need.Of(strconv.Itoa(g.e.Status))) > 0
}

// fields are those that are read; nil where nobody said.
func (g *given) fields() []reliance.Field {
	if g.need == nil || g.need.All {
		return nil
	}
	return g.need.Of(strconv.Itoa(g.e.Status))
}

// project is a value without what is not read.
func project(v *value.Value, fields []reliance.Field) *value.Value {
	ways := make([][]string, len(fields))
	for i, f := range fields {
		ways[i] = f.Way
	}
	return projected(v, ways)
}

func projected(v *value.Value, ways [][]string) *value.Value {
	below := func(step string) [][]string {
		var rest [][]string
		for _, w := range ways {
			if len(w) > 0 && (w[0] == step || w[0] == "*" && step != "[]") {
				rest = append(rest, w[1:])
			}
		}
		return rest
	}
	if slices.ContainsFunc(ways, func(w []string) bool { return len(w) == 0 }) {
		return v
	}
	switch v.Kind {
	case value.Array:
		out := value.Arr()
		if rest := below("[]"); rest != nil {
			for _, it := range v.Items {
				out.Items = append(out.Items, projected(it, rest))
			}
		}
		return out
	case value.Object:
		out := value.Obj()
		for _, m := range v.Members {
			if rest := below(m.Name); rest != nil {
				out.Members = append(out.Members, value.Member{Name: m.Name, Value: projected(m.Value, rest)})
			}
		}
		return out
	}
	return v
}

// maxSlices bounds how many parts of answers are looked at one by one, for each place.
const maxSlices = 5_000

// maxWrong is of how many parts of one answer is told what is wrong.
const maxWrong = 500

// shown is a value as it may be shown, made when it is.
func shown(v *value.Value) func() *value.Value {
	return sync.OnceValue(func() *value.Value { return exchange.MaskedValue(v) })
}

// fitKey names what was asked of the answers under a schema.
type fitKey struct {
	schema *contract.Schema
	says   string
}

// fit asks whether an answer may say what the recorded one says: all at once where it can, else item by item and part by part.
func (g *given) fit(at compare.Location, m *contract.Media, v *value.Value, head string) {
	set := g.space.Lower(m.Schema, shape.Role{Sends: true})
	p := plain{given: g, root: m.Schema}
	fits := p.fits(m.Schema, v, nil)
	whole := shown(v)
	for _, way := range p.absent {
		at.Fields = way
		g.found = append(g.found, g.nowhere(at, m.Schema, whole, head))
	}
	if at.Fields = nil; fits {
		return
	}
	if holds, known := g.space.Contains(set, v); holds && known {
		return
	}
	all := slicesOf(v)
	before := len(g.found)
	if len(all) > maxSlices {
		g.tell(NotLooked, compare.Hazard, at, fmt.Sprintf("of %d items only %d were looked into", len(all), maxSlices), "")
		all = all[:maxSlices]
	}
	for _, slice := range all {
		if len(g.found)-before >= maxWrong {
			g.tell(NotLooked, compare.Hazard, at, "so much of the answer is wrong that the rest was not looked into", "")
			return
		}
		ok, known := g.may(m.Schema, set, slice.Key(), func() shape.Shape { return g.like(slice, false) })
		switch {
		case !known:
			g.tell(NotLooked, compare.Hazard, at, "whether the answer still fits could not be decided", head)
			return
		case !ok && !g.parts(at, m.Schema, set, slice, nil, shown(slice), head):
			g.tell(Answer, compare.Breaking, at, "no such answer is given", head+"\n"+whole().Spaced())
		}
	}
}

// may reports whether some answer says something.
func (g *given) may(schema *contract.Schema, set shape.Shape, says string, what func() shape.Shape) (ok, known bool) {
	key := fitKey{schema, says}
	if is, there := g.fits[key]; there {
		return is, true
	}
	v := g.space.Find(set, what())
	if v.Answer == shape.Undecided {
		return false, false
	}
	g.fits[key] = v.Answer == shape.Refuted
	return g.fits[key], true
}

// parts tells which parts of a value, of an answer as a whole, no answer may hold; false where each of them may stand in one.
func (g *given) parts(
	at compare.Location, schema *contract.Schema, set shape.Shape, v *value.Value, way []string, whole func() *value.Value, head string,
) bool {
	found := false
	switch {
	case v.Kind == value.Object && len(v.Members) > 0:
		for _, m := range v.Members {
			found = g.parts(at, schema, set, m.Value, append(slices.Clone(way), m.Name), whole, head) || found
		}
		if found {
			return true
		}
	case v.Kind == value.Array && len(v.Items) > 0:
		return g.parts(at, schema, set, v.Items[0], append(slices.Clone(way), "[]"), whole, head)
	}
	text := reliance.WayText(way)
	ok, known := g.may(schema, set, text+"\x00"+v.Key(), func() shape.Shape { return g.nested(way, g.like(v, false)) })
	if ok || !known {
		return false
	}
	at.Fields = way
	anything, known := g.may(schema, set, text+"\x00", func() shape.Shape { return g.nested(way, g.space.Any()) })
	if known && !anything {
		g.absent[fitKey{schema, text}] = true
		g.found = append(g.found, g.nowhere(at, schema, whole, head))
		return true
	}
	f := g.wrong(at, schema, whole, head)
	f.Title = fmt.Sprintf("%s is never %s", compare.FieldsText(way, "the answer"), shortly(exchange.MaskedValue(v)))
	if of := schemaAt(schema, way); of != nil {
		f.Title += ": it is " + check.Admitted(of)
		if listed(of) {
			f.aspect = v.Key()
		}
	}
	kind := v.Kind.String()
	if alike, known := g.may(schema, set, text+"\x00"+kind, func() shape.Shape { return g.nested(way, g.kind(kind)) }); known && alike {
		f.Grade = compare.Hazard // the client can read what comes in its place
	}
	g.found = append(g.found, f)
	return true
}

// wrong begins a finding about a part of an answer.
func (g *given) wrong(at compare.Location, schema *contract.Schema, whole func() *value.Value, head string) *Finding {
	return &Finding{
		Kind: Answer, Grade: compare.Breaking, Operation: g.op.Written(), Location: at, of: ownerOf(schema, at.Fields),
		Message: head + "\n" + projected(whole(), [][]string{at.Fields}).Spaced(),
	}
}

// nowhere is that no answer has a part.
func (g *given) nowhere(at compare.Location, schema *contract.Schema, whole func() *value.Value, head string) *Finding {
	f := g.wrong(at, schema, whole, head)
	f.Title, f.aspect = compare.FieldsText(at.Fields, "the answer")+" is described nowhere", nowhere
	if g.fields() == nil {
		f.Grade = compare.Hazard // nobody said that it is read, and it may never have been described
	}
	return f
}

// nowhere is the aspect of a part of an answer that is described nowhere.
const nowhere = "nowhere"

// shortly is a value in a few characters.
func shortly(v *value.Value) string {
	const most = 40
	text := []rune(v.Spaced())
	if len(text) > most {
		return string(text[:most]) + "…"
	}
	return string(text)
}

// schemaAt is the schema at the end of a way, nil where there is no one.
func schemaAt(s *contract.Schema, way []string) *contract.Schema {
	for _, step := range way {
		if step == "[]" {
			s = itemsOf(s)
		} else {
			s = propertyOf(s, step)
		}
	}
	return s
}

// ownerOf is the schema that holds the last field of a way, however it is reached; nil where there is no one.
func ownerOf(s *contract.Schema, way []string) *contract.Schema {
	if len(way) == 0 {
		return nil
	}
	return schemaAt(s, way[:len(way)-1]).Deref()
}

// nested is the set of values that hold one of a set at the end of a way.
func (s *side) nested(way []string, set shape.Shape) shape.Shape {
	for _, step := range slices.Backward(way) {
		switch step {
		case "[]":
			set = s.space.InItemFrom(0, set)
		case "*":
			set = s.space.InSomeProperty(nil, set)
		default:
			set = s.space.InProperty(step, set)
		}
	}
	return set
}

// slicesOf takes a value apart into values with at most one item in each list, so that each of its parts stands in one of them. It is as
// many as its longest list has items, and not as many as there are ways to choose them.
func slicesOf(v *value.Value) []*value.Value {
	switch v.Kind {
	case value.Array:
		var all []*value.Value
		seen := map[string]bool{}
		for _, it := range v.Items {
			for _, s := range slicesOf(it) {
				if key := s.Key(); !seen[key] {
					seen[key] = true
					all = append(all, value.Arr(s))
				}
			}
		}
		if all == nil {
			return []*value.Value{v}
		}
		return all
	case value.Object:
		parts := make([][]*value.Value, len(v.Members))
		most := 1
		for i, m := range v.Members {
			parts[i] = slicesOf(m.Value)
			most = max(most, len(parts[i]))
		}
		if most == 1 && len(v.Members) == 0 {
			return []*value.Value{v}
		}
		all := make([]*value.Value, most)
		for k := range all {
			out := value.Obj()
			for i, m := range v.Members {
				out.Members = append(out.Members, value.Member{Name: m.Name, Value: parts[i][min(k, len(parts[i])-1)]})
			}
			all[k] = out
		}
		return all
	}
	return []*value.Value{v}
}
