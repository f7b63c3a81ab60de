package guide

import (
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// show gives a step its messages and, where the call itself is another, its code. Messages that do not tell what the step is about are left
// out.
func (w *writer) show(s *Step) {
	ch := s.Change
	witness := ch.WitnessFor(compare.Backward)
	key, at := ch.Operation, ch.Location
	if witness != nil && witness.Operation != "" {
		key = witness.Operation
		if named := compare.ParsePosition(witness.Position); named.Part != compare.PartOperation &&
			(named.Part != compare.PartRequest || named.MediaType != "") {
			named.Fields = at.Fields
			at = named
		}
	}
	from, to := w.old.Lookup(key), w.new.Lookup(key)
	switch {
	case key == "" && at.Part == compare.PartServers:
		from = example(w.old)
		if from != nil {
			to = w.successor(from)
		}
	case from != nil:
		to = w.successor(from)
	case to != nil:
		from = w.predecessor(to)
	}
	if from == nil {
		return
	}
	var said *value.Value
	if witness != nil {
		said = witness.Value
	}
	switch {
	case strings.HasSuffix(ch.Kind, "default-changed"):
		w.showDefault(s, from, to, at)
	case at.Part == compare.PartServers:
		w.showServers(s, from, to)
	case strings.HasSuffix(ch.Kind, "flow-address-changed"):
		return // where tokens come from stands in no call
	case at.Part == compare.PartSecurity:
		w.showCredentials(s, from, to)
	case at.Part == compare.PartResponse:
		w.showAnswers(s, from, to, at, said)
	case at.Part == compare.PartParameter:
		w.showParameter(s, from, to, at, said)
	default:
		w.showRequests(s, from, to, at, said)
	}
	if strings.Contains(ch.Kind, ".alternatives-") && at.Part != compare.PartResponse {
		s.After = nil // another alternative is no way on
	}
	w.code(s)
	if !s.telling() {
		s.Before, s.After, s.Code = nil, nil, nil
	}
}

// example is an operation that stands for all.
func example(c *contract.Contract) *contract.Operation {
	for _, op := range c.Operations {
		if op.Method == "GET" && !op.Deprecated {
			return op
		}
	}
	if len(c.Operations) == 0 {
		return nil
	}
	return c.Operations[0]
}

// predecessor is the operation of the old version whose place an operation took, or nil.
func (w *writer) predecessor(to *contract.Operation) *contract.Operation {
	for old, now := range w.moved {
		if now == to.Key() {
			return w.old.Lookup(old)
		}
	}
	return w.old.Lookup(to.Key())
}

// showRequests shows what a client sends: before, the witness, which the old version takes and the new one does not; after, as much of the
// same as the new version takes. What the API sends goes the other way round: there the witness comes from the new version.
func (w *writer) showRequests(s *Step, from, to *contract.Operation, at compare.Location, body *value.Value) {
	old, now := mediaOf(from, at.MediaType), mediaOf(to, at.MediaType)
	if from.Direction == contract.ProviderCalls {
		s.Before = w.request(w.old, from, focus{media: old, body: w.about(w.old, old, at, false, nil)})
		s.After = w.request(w.new, to, focus{media: now, body: w.about(w.new, now, at, false, body)})
		return
	}
	if body == nil && s.Change.Was != nil { // a tag: what the old version calls it
		body = w.tagged(old, at.Fields, s.Change.Was)
	}
	unset := strings.HasSuffix(s.Change.Kind, "body-now-required")
	s.Before = w.request(w.old, from, focus{media: old, body: w.about(w.old, old, at, true, body), bare: unset})
	if to == nil {
		return
	}
	f := focus{media: now}
	if s.Before != nil && s.Before.Value != nil && now != nil {
		was := s.Before.Value
		if s.Change.Was != nil && s.Change.Is != nil {
			was = set(was, at.Fields, s.Change.Is)
		}
		if f.body = w.migrate(was, now, true); fieldIn(was, at.Fields) == nil && fieldIn(f.body, at.Fields) == nil {
			f.body = w.holding(now, at.Fields, w.space.Any(), true) // what must be there now
		}
	}
	if f.body == nil && !unset {
		f.body = w.about(w.new, now, at, true, nil)
	}
	s.After = w.request(w.new, to, f)
}

// about is a value of a media type that holds the field of a location, where the sample does not: said, where that is not nil; nil leaves
// it to the sample.
func (w *writer) about(in *contract.Contract, m *contract.Media, at compare.Location, clientSends bool, said *value.Value) *value.Value {
	if said != nil || m == nil || len(at.Fields) == 0 {
		return said
	}
	if sampled, _ := w.fill[in].Media(m, clientSends); sampled == nil || fieldIn(sampled, at.Fields) != nil {
		return nil
	}
	return w.holding(m, at.Fields, w.space.Any(), clientSends)
}

// showAnswers shows what comes back.
func (w *writer) showAnswers(s *Step, from, to *contract.Operation, at compare.Location, body *value.Value) {
	clientSends := from.Direction == contract.ProviderCalls
	x, y := responseOf(from, at.Status), responseOf(to, at.Status)
	old, now := contentOf(x, at.MediaType), contentOf(y, at.MediaType)
	if clientSends {
		body = nil
	}
	if at.Header != "" {
		s.Before = w.answer(w.old, from, x, old, at.Header, nil)
		if strings.HasSuffix(s.Change.Kind, "now-optional") {
			at.Header = ""
		}
		s.After = w.answer(w.new, to, y, now, at.Header, body)
		return
	}
	s.Before = w.answer(w.old, from, x, old, "", w.about(w.old, old, at, clientSends, nil))
	body = w.about(w.new, now, at, clientSends, body)
	if s.Before != nil && s.Before.Value != nil && now != nil && len(at.Fields) > 0 {
		if like := w.like(s.Before.Value, body, at.Fields, now, clientSends); like != nil {
			body = like
		}
	}
	s.After = w.answer(w.new, to, y, now, "", body)
}

// like is an answer of the new version that differs from the old one in nothing but the field in question, which is as in body; nil where
// there is no such answer.
func (w *writer) like(before, body *value.Value, fields []string, now *contract.Media, clientSends bool) *value.Value {
	if body == nil {
		return nil
	}
	carried := w.migrate(before, now, clientSends)
	if carried == nil {
		return nil
	}
	made := set(carried, fields, fieldIn(body, fields))
	if !w.fits(made, now, clientSends) || (fieldIn(made, fields) == nil) != (fieldIn(body, fields) == nil) {
		return nil
	}
	return made
}

// showParameter shows a request with the parameter, under its name in each version; without it before it must be sent.
func (w *writer) showParameter(s *Step, from, to *contract.Operation, at compare.Location, v *value.Value) {
	was, is := at.Name, at.Name
	if r := s.Change.Renamed; r != nil {
		was, is = r.From, r.To
	}
	x := parameterOf(from, at.In, was)
	s.Before = w.request(w.old, from, focus{param: x, value: v, unset: strings.HasSuffix(s.Change.Kind, ".now-required")})
	if to == nil {
		return
	}
	y := parameterOf(to, at.In, is)
	if y == nil || v == nil || !w.takes(y, v) {
		v = nil
	}
	s.After = w.request(w.new, to, focus{param: y, value: v})
}

// takes reports whether a parameter admits a value.
func (w *writer) takes(p *contract.Parameter, v *value.Value) bool {
	schema, _ := p.Payload()
	holds, known := w.space.Contains(w.space.Lower(schema, shape.Role{Sends: true, Request: true}), v)
	return holds && known
}

// showDefault shows a request that leaves a value to its default, and one that says what the default was: the old behaviour.
func (w *writer) showDefault(s *Step, from, to *contract.Operation, at compare.Location) {
	was := s.Change.Was
	if was == nil || to == nil || from.Direction == contract.ProviderCalls {
		return
	}
	if at.Part == compare.PartParameter {
		s.Before = w.request(w.old, from, focus{param: parameterOf(from, at.In, at.Name), unset: true})
		s.After = w.request(w.new, to, focus{param: parameterOf(to, at.In, at.Name), value: was})
		return
	}
	old, now := mediaOf(from, at.MediaType), mediaOf(to, at.MediaType)
	full := w.holding(old, at.Fields, w.space.Only(was), true)
	if full == nil || now == nil {
		return
	}
	less := set(full, at.Fields, nil)
	more := w.migrate(full, now, true)
	if !w.fits(less, old, true) || more == nil || fieldIn(more, at.Fields) == nil {
		return
	}
	s.Before = w.request(w.old, from, focus{media: old, body: less})
	s.After = w.request(w.new, to, focus{media: now, body: more})
}

// showServers shows a call at the address that is lost, and at one that answers.
func (w *writer) showServers(s *Step, from, to *contract.Operation) {
	s.Before, s.After = w.request(w.old, from, focus{}), w.request(w.new, to, focus{})
	if was := s.Change.Was; s.Before != nil && s.After != nil && was != nil && strings.Contains(was.Text, "://") {
		s.Before.Head = from.Method + " " + was.Text + strings.TrimPrefix(s.Before.call.Address, sample.Server(from))
		s.Before.call.Address = was.Text + strings.TrimPrefix(s.Before.call.Address, sample.Server(from))
		s.After.Head = to.Method + " " + s.After.call.Address
	}
}

// showCredentials shows a call with credentials that are turned away now, and with those that are asked for.
func (w *writer) showCredentials(s *Step, from, to *contract.Operation) {
	if to == nil {
		return
	}
	lost, ok := compare.LostCredentials(w.budget, from, to)
	if !ok && len(from.Security) > 0 {
		lost = from.Security[0]
	}
	s.Before = w.request(w.old, from, focus{who: []contract.Requirement{lost}})
	asked := to.Security
	if len(asked) == 0 {
		asked = []contract.Requirement{{}}
	}
	f := focus{who: asked[:1]}
	if now := mediaOf(to, ""); s.Before != nil && s.Before.Value != nil && now != nil {
		f.media, f.body = now, w.migrate(s.Before.Value, now, true)
	}
	s.After = w.request(w.new, to, f)
}

func mediaOf(op *contract.Operation, mediaType string) *contract.Media {
	if op == nil || op.Body == nil {
		return nil
	}
	return pick(op.Body.Content, mediaType)
}

func contentOf(r *contract.Response, mediaType string) *contract.Media {
	if r == nil {
		return nil
	}
	return pick(r.Content, mediaType)
}

// pick is the content of a media type, or what a sample would take.
func pick(content []*contract.Media, mediaType string) *contract.Media {
	for _, m := range content {
		if m.Type == mediaType {
			return m
		}
	}
	for _, m := range content {
		if strings.Contains(m.Type, "json") {
			return m
		}
	}
	if len(content) == 0 {
		return nil
	}
	return content[0]
}

// responseOf is the response of a status: its own, else its class's, else the default.
func responseOf(op *contract.Operation, status string) *contract.Response {
	if op == nil {
		return nil
	}
	for _, wanted := range []string{status, status[:1] + "XX", "default"} {
		for _, r := range op.Responses {
			if strings.EqualFold(r.Status, wanted) {
				return r
			}
		}
	}
	return nil
}

func parameterOf(op *contract.Operation, in, name string) *contract.Parameter {
	for _, p := range op.Parameters {
		if p.In == in && (p.Name == name || in == "header" && strings.EqualFold(p.Name, name)) {
			return p
		}
	}
	return nil
}

// code writes the call before and after in each language, where it is another.
func (w *writer) code(s *Step) {
	if s.Before == nil || s.Before.call == nil {
		return
	}
	for _, l := range w.ctx.Languages {
		c := Code{Language: l.ID, Name: l.Name, Before: l.Write(s.Before.call)}
		if s.After != nil && s.After.call != nil {
			c.After = l.Write(s.After.call)
		}
		if c.Before != c.After {
			s.Code = append(s.Code, c)
		}
	}
}
