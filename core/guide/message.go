package guide

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/value"
	"oldledger/core/versioning"
)

// Message is a request or a response as it is written.
type Message struct {
	Operation string       `json:"operation"`        // its key
	Status    string       `json:"status,omitempty"` // of a response, as its description has it: "200", "4XX"
	Type      string       `json:"type,omitempty"`   // the media type of the body
	Head      string       `json:"head"`             // "POST /v1/berths/N-14/bookings", or "GET /v1/quays → 200, application/json"
	Lines     []string     `json:"lines,omitempty"`  // the headers that the step is about
	Value     *value.Value `json:"value,omitempty"`  // the body

	call *sample.Call // a request that clients make
}

// Text is the message as one reads it: its head, its headers, a blank line, its body.
func (m *Message) Text() string {
	text := strings.Join(append([]string{m.Head}, m.Lines...), "\n")
	switch {
	case m.Value == nil:
		return text
	case m.Value.Kind == value.String && !strings.Contains(m.Type, "json"):
		return text + "\n\n" + m.Value.Text
	}
	return text + "\n\n" + m.Value.Indented()
}

// focus is the part of a message that a step is about.
type focus struct {
	media *contract.Media // of the body; nil: the one that a sample takes
	body  *value.Value    // nil: a sample
	param *contract.Parameter
	value *value.Value           // of the parameter; nil: a sample
	who   []contract.Requirement // the credentials that it is about
	bare  bool                   // without a body
	unset bool                   // without the parameter
}

// values fill a call with a focus.
type values struct {
	*sample.Filler
	focus
}

func (v values) Parameter(p *contract.Parameter) *value.Value {
	if v.param != nil && v.value != nil && p.In == v.param.In && p.Name == v.param.Name {
		return v.value
	}
	return v.Filler.Parameter(p)
}

func (v values) Body(m *contract.Media) *value.Value {
	if v.body != nil {
		return v.body
	}
	return v.Filler.Body(m)
}

// request writes a request of the operation in its version.
func (w *writer) request(in *contract.Contract, op *contract.Operation, f focus) *Message {
	if op == nil {
		return nil
	}
	if op.Direction == contract.ProviderCalls {
		return w.event(in, op, f)
	}
	call, ok := sample.Make(f.narrowed(op), values{w.fill[in], f})
	if !ok {
		return nil
	}
	choice := w.choice[in]
	call.Choose(op, choice)
	m := &Message{Operation: op.Key(), Type: call.Type, Head: op.Method + " " + path(call.URL()), call: call}
	if choice.Scheme.By == versioning.Header {
		m.Lines = append(m.Lines, choice.Scheme.Name+": "+choice.Written())
	}
	if f.param != nil && !f.unset {
		for _, h := range call.Headers {
			if f.param.In == "header" && strings.EqualFold(h.Name, f.param.Name) {
				m.Lines = append(m.Lines, h.Name+": "+h.Value)
			}
		}
		for _, c := range call.Cookies {
			if f.param.In == "cookie" {
				m.Lines = append(m.Lines, "Cookie: "+c.Name+"="+c.Value)
			}
		}
	}
	if f.who != nil {
		for _, c := range call.Credentials {
			m.Lines = append(m.Lines, credential(c))
		}
	}
	m.Value = f.body
	if one := sent(f.narrowed(op), call.Type); m.Value == nil && one != nil && !f.bare {
		m.Value = w.fill[in].Body(one)
	}
	return m
}

// credential is the line of a request that proves who calls; the value is the reader's own.
func credential(c sample.Credential) string {
	line := "Authorization: Bearer …"
	switch c.Kind {
	case sample.Basic:
		line = "Authorization: Basic …"
	case sample.KeyInHeader:
		line = c.Name + ": …"
	case sample.KeyInCookie:
		line = "Cookie: " + c.Name + "=…"
	case sample.KeyInQuery:
		line = "with ?" + c.Name + "=…"
	}
	if len(c.Scopes) > 0 {
		line += " (for " + strings.Join(c.Scopes, ", ") + ")"
	}
	return line
}

// narrowed is the operation as the focus has it: with the parameter sent, and the body in that media type.
func (f focus) narrowed(op *contract.Operation) *contract.Operation {
	n := *op
	if f.param != nil {
		n.Parameters = nil
		for _, p := range op.Parameters {
			if p.In == f.param.In && p.Name == f.param.Name {
				q := *p
				q.Required = !f.unset
				p = &q
			}
			n.Parameters = append(n.Parameters, p)
		}
	}
	if f.who != nil {
		n.Security = f.who
	}
	if f.bare {
		n.Body = nil
	}
	if f.media != nil && n.Body != nil {
		b := *op.Body
		b.Content = []*contract.Media{f.media}
		n.Body = &b
	}
	return &n
}

// sent is the content that a request of that media type carries.
func sent(op *contract.Operation, mediaType string) *contract.Media {
	if op.Body == nil {
		return nil
	}
	for _, m := range op.Body.Content {
		if m.Type == mediaType {
			return m
		}
	}
	return nil
}

// event writes what the API sends to a webhook or callback.
func (w *writer) event(in *contract.Contract, op *contract.Operation, f focus) *Message {
	m := &Message{Operation: op.Key(), Head: op.Method + " to your address, " + op.Webhook}
	media := f.media
	if media == nil && op.Body != nil && len(op.Body.Content) > 0 {
		media = op.Body.Content[0]
	}
	if media != nil {
		m.Type, m.Value = media.Type, f.body
		if m.Value == nil {
			m.Value, _ = w.fill[in].Media(media, false)
		}
	}
	return m
}

// answer writes a response. media nil is the first that there is; header is one that the step is about; said is the value of that or of the
// body, nil for a sample.
func (w *writer) answer(in *contract.Contract, op *contract.Operation, r *contract.Response, media *contract.Media, header string,
	said *value.Value,
) *Message {
	if op == nil || r == nil {
		return nil
	}
	m := &Message{Operation: op.Key(), Status: r.Status}
	head := op.Method + " to your address, " + op.Webhook
	if call, ok := sample.Make(op, values{Filler: w.fill[in]}); ok {
		head = op.Method + " " + path(call.URL())
	}
	m.Head = head + " → " + r.Status
	for _, h := range r.Headers {
		if header != "" && strings.EqualFold(h.Name, header) {
			if said == nil {
				said = w.fill[in].Parameter(h)
			}
			if said != nil {
				m.Lines = append(m.Lines, h.Name+": "+sample.HeaderText(said, h.Explode))
			}
		}
	}
	if media == nil && len(r.Content) > 0 {
		media = r.Content[0]
	}
	if media == nil {
		return m
	}
	m.Type = media.Type
	m.Head += ", " + media.Type
	if header == "" {
		m.Value = said
	}
	if m.Value == nil {
		m.Value, _ = w.fill[in].Media(media, op.Direction == contract.ProviderCalls)
	}
	return m
}

// path is an address without its host.
func path(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return address
	}
	return u.RequestURI()
}
