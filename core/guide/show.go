package guide

import (
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/value"
)

// spot is the place of a message that a change is about, read from the position of its witness or, without one, from where the change says
// that it is felt.
type spot struct {
	response bool
	status   string
	media    string
	in, name string // of a parameter
	header   string
}

func spotOf(at string) spot {
	at, header, _ := strings.Cut(strings.Replace(at, ", header ", " header ", 1), " header ")
	if i := strings.IndexByte(header, ','); i >= 0 {
		header = header[:i]
	}
	s := spot{header: header}
	at = strings.ReplaceAll(at, ", ", " ")
	words := strings.Fields(at)
	switch {
	case len(words) > 2 && words[1] == "parameter":
		s.in, s.name = words[0], words[2]
	case len(words) > 1 && words[0] == "response":
		s.response, s.status = true, words[1]
		if len(words) > 2 && strings.Contains(words[2], "/") {
			s.media = words[2]
		}
	case len(words) > 2 && words[0] == "request" && strings.Contains(words[2], "/"):
		s.media = words[2]
	}
	return s
}

// show gives a step its messages and, where the call itself is another, its code.
func (w *writer) show(s *Step) {
	ch := s.Change
	witness := ch.WitnessFor(compare.Backward)
	key, at := ch.Operation, ch.At
	if witness != nil && witness.Operation != "" {
		key, at = witness.Operation, witness.Position
	}
	if at == "request" || strings.HasPrefix(at, "request body") && !strings.Contains(at, "/") {
		at = ch.At // a witness without a body says less
	}
	from, to := w.old.Lookup(key), w.new.Lookup(key)
	switch {
	case key == "" && strings.HasPrefix(ch.Kind, "server."):
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
	switch place := spotOf(at); {
	case place.response:
		w.showAnswers(s, from, to, place, said)
	case place.name != "":
		w.showParameter(s, from, to, place, said)
	default:
		w.showRequests(s, from, to, place, said)
	}
	w.code(s)
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
func (w *writer) showRequests(s *Step, from, to *contract.Operation, at spot, body *value.Value) {
	old, now := mediaOf(from, at.media), mediaOf(to, at.media)
	who := strings.HasPrefix(s.Change.Kind, "security.")
	if from.Direction == contract.ProviderCalls {
		s.Before = w.request(w.old, from, focus{media: old})
		s.After = w.request(w.new, to, focus{media: now, body: body})
		return
	}
	s.Before = w.request(w.old, from, focus{media: old, body: body, who: who})
	if to == nil {
		return
	}
	f := focus{media: now, who: who}
	if s.Before != nil && s.Before.Value != nil && now != nil {
		f.body = w.carry(s.Before.Value, now, true)
	}
	s.After = w.request(w.new, to, f)
}

// showAnswers shows what comes back.
func (w *writer) showAnswers(s *Step, from, to *contract.Operation, at spot, body *value.Value) {
	clientSends := from.Direction == contract.ProviderCalls
	x, y := responseOf(from, at.status), responseOf(to, at.status)
	old, now := contentOf(x, at.media), contentOf(y, at.media)
	s.Before = w.answer(w.old, from, x, old, at.header, nil)
	if clientSends {
		body = nil
	}
	s.After = w.answer(w.new, to, y, now, at.header, body)
}

// showParameter shows a request with the parameter, under its name in each version.
func (w *writer) showParameter(s *Step, from, to *contract.Operation, at spot, v *value.Value) {
	was, is := at.name, at.name
	if r := s.Change.Renamed; r != nil {
		was, is = r.From, r.To
	}
	x := parameterOf(from, at.in, was)
	s.Before = w.request(w.old, from, focus{param: x, value: v})
	if to == nil {
		return
	}
	y := parameterOf(to, at.in, is)
	s.After = w.request(w.new, to, focus{param: y})
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
