package replay

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/reliance"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// wayKey names a way in the answers under a schema.
type wayKey struct {
	schema *contract.Schema
	way    string
}

// promised is what a version promises of a part of its answers.
type promised struct {
	described, known bool
	missing          []gap // where it may not be there, or null
}

// gap is a step of a way that an answer may lack.
type gap struct {
	step    int
	witness *value.Value
}

// promises asks of every operation that the consumer relies on, recorded or not, whether the version has it and promises what is read of
// it.
func (r *Replay) promises() {
	if r.options.Need == nil {
		return
	}
	for _, need := range r.options.Need.Operations {
		op := r.now(need)
		if op == nil {
			r.gone(need)
			continue
		}
		if need.All {
			continue
		}
		for _, res := range op.Responses {
			if r.concerns(op, res) {
				r.promise(op, res, need.Of(res.Status))
			}
		}
	}
}

// now is the operation of the version that is one that the consumer relies on; nil where there is none.
func (r *Replay) now(need *reliance.Operation) *contract.Operation {
	for op, was := range r.was {
		if was.Key() == need.Key() {
			return op
		}
	}
	if op := r.side.version.Lookup(need.Name); op != nil {
		return op
	}
	return r.side.version.Lookup(need.Key())
}

// gone tells of an operation that the consumer relies on and that is not there, where no exchange showed it.
func (r *Replay) gone(need *reliance.Operation) {
	told := func(f *Finding) bool { return f.Kind == Route && f.Operation == need.Name }
	if slices.ContainsFunc(r.found, told) {
		return
	}
	r.tell(&Finding{
		Kind: Route, Grade: compare.Breaking, Operation: need.Name, Title: "it is relied on, and is not there", Exchanges: []int{},
		Location: compare.Location{Part: compare.PartOperation},
	})
}

// concerns reports whether answers of a status are among those that a consumer meets: those that were recorded, or, where none was, all;
// and whether nothing worse is told of them as a whole.
func (r *Replay) concerns(op *contract.Operation, res *contract.Response) bool {
	recorded := r.statuses[op]
	if len(recorded) == 0 {
		return true
	}
	return slices.ContainsFunc(recorded, func(status int) bool {
		return responseFor(op, status) == res && !slices.ContainsFunc(r.found, func(f *Finding) bool {
			return f.Kind == Answer && f.Operation == op.Written() && f.Location.Status == strconv.Itoa(status) && len(f.Location.Fields) == 0
		})
	})
}

// promise asks for each field whether it is there in all answers.
func (r *Replay) promise(op *contract.Operation, res *contract.Response, fields []reliance.Field) {
	for _, m := range res.Content {
		if m.Schema == nil || !exchange.IsJSON(m.Type) {
			continue
		}
		at := compare.Location{Part: compare.PartResponse, Status: res.Status, MediaType: m.Type}
		before := r.before(op, res, m)
		for _, f := range fields {
			at.Fields = f.Way
			r.promiseOf(op, at, m.Schema, before, f)
		}
	}
}

// before is the schema of the same answers in the version of the recording; nil where there are none, or nobody knows that version.
func (r *Replay) before(op *contract.Operation, res *contract.Response, m *contract.Media) *contract.Schema {
	was := r.was[op]
	if was == nil && r.recorded != nil {
		was = r.recorded.version.Lookup(op.Key())
	}
	if was == nil {
		return nil
	}
	for _, old := range was.Responses {
		if !strings.EqualFold(old.Status, res.Status) {
			continue
		}
		if like := mediaFor(old.Content, m.Type); like != nil {
			return like.Schema
		}
	}
	return nil
}

func (r *Replay) promiseOf(op *contract.Operation, at compare.Location, schema, before *contract.Schema, f reliance.Field) {
	is := r.side.promiseAt(schema, f.Way)
	was := promised{}
	if before != nil {
		was = r.recorded.promiseAt(before, f.Way)
	}
	tell := func(grade compare.Grade, way []string, title string, witness *value.Value, aspect string) {
		at.Fields = way
		out := &Finding{
			Kind: Promise, Grade: grade, Operation: op.Written(), Location: at, Title: title, Exchanges: []int{}, aspect: aspect,
			of: ownerOf(schema, way),
		}
		if witness != nil {
			out.Message = fmt.Sprintf("%s → %s\n%s", op.Written(), at.Status, witness.Spaced())
		}
		r.tell(out)
	}
	name := reliance.WayText(f.Way)
	switch {
	case !is.known || before != nil && !was.known:
		r.tell(&Finding{
			Kind: NotLooked, Grade: compare.Hazard, Undecided: true, Operation: op.Written(), Location: at, Exchanges: []int{},
			Title: "whether " + name + " is still promised could not be decided",
		})
		return
	case !is.described && before != nil && !was.described:
		if !f.Optional {
			tell(compare.Hazard, f.Way, name+" is described nowhere; so it was in "+r.recorded.version.Version, nil, nowhere)
		}
		return
	case !is.described:
		if !r.toldOf(op, f.Way) {
			tell(compare.Breaking, f.Way, name+" is described nowhere", nil, nowhere)
		}
		return
	}
	for _, g := range is.missing {
		way := f.Way[:g.step+1]
		part := reliance.WayText(way)
		switch {
		case f.Optional:
		case before == nil:
			tell(compare.Hazard, way, part+" may be missing or null", g.witness, "missing")
		case !was.described || slices.ContainsFunc(was.missing, func(old gap) bool { return old.step == g.step }):
		default:
			tell(compare.Breaking, way, part+" may now be missing or null", g.witness, "missing")
		}
	}
	r.values(schema, before, f, tell)
}

// toldOf reports whether a recorded answer showed already that a field is described nowhere.
func (r *Replay) toldOf(op *contract.Operation, way []string) bool {
	return slices.ContainsFunc(r.found, func(f *Finding) bool {
		return f.Kind == Answer && (f.Operation == op.Written() || slices.Contains(f.Also, op.Written())) && f.aspect == nowhere &&
			f.Location.Fields[len(f.Location.Fields)-1] == way[len(way)-1]
	})
}

// values asks whether a field may have values that the consumer does not know.
func (r *Replay) values(
	schema, before *contract.Schema, f reliance.Field, tell func(compare.Grade, []string, string, *value.Value, string),
) {
	if len(f.Values) == 0 {
		return
	}
	witness := r.side.other(schema, f)
	if witness == nil {
		return
	}
	grade, when := compare.Breaking, "may be"
	if before != nil {
		if when = "may now be"; r.recorded.other(before, f) != nil {
			grade, when = compare.Hazard, "may be, as before,"
		}
	}
	tell(grade, f.Way, reliance.WayText(f.Way)+" "+when+" what the consumer does not know", witness, "values")
}

// other is an answer in which a field has a value that the consumer does not know; nil where there is none.
func (s *side) other(schema *contract.Schema, f reliance.Field) *value.Value {
	known := make([]shape.Shape, 0, len(f.Values)+1)
	for _, v := range f.Values {
		known = append(known, s.space.Not(s.space.Only(v)))
	}
	if !slices.ContainsFunc(f.Values, func(v *value.Value) bool { return v.Kind == value.Null }) {
		known = append(known, s.space.Not(s.space.Only(value.NullValue))) // that it may be null is told apart
	}
	return s.space.Find(s.space.Lower(schema, shape.Role{Sends: true}), s.nested(f.Way, s.space.All(known...))).Witness
}

// promiseAt is what a version promises of a part of its answers, asked once.
func (s *side) promiseAt(schema *contract.Schema, way []string) promised {
	key := wayKey{schema, reliance.WayText(way)}
	if p, there := s.promised[key]; there {
		return p
	}
	set := s.space.Lower(schema, shape.Role{Sends: true})
	p := promised{known: true}
	v := s.space.Find(set, s.nested(way, s.space.Any()))
	p.described, p.known = v.Answer == shape.Refuted, v.Answer != shape.Undecided
	for i, step := range way {
		if step == "[]" || step == "*" || !p.described {
			continue
		}
		there := s.space.InProperty(step, s.space.Not(s.space.Only(value.NullValue)))
		lacks := s.space.Find(set, s.nested(way[:i], s.space.All(s.kind("object"), s.space.Not(there))))
		switch lacks.Answer {
		case shape.Refuted:
			p.missing = append(p.missing, gap{i, lacks.Witness})
		case shape.Undecided:
			p.known = false
		}
	}
	s.promised[key] = p
	return p
}
