package contract

// Visitor is called with the parts of a contract that hold schemas: parameters and headers, and media types.
type Visitor struct {
	Parameter func(*Parameter)
	Media     func(*Media)
}

// Visit calls v with every parameter, header and media type, those that the description only shares among them, each wherever it stands.
func (c *Contract) Visit(v Visitor) {
	for _, p := range c.Shared.Parameters {
		v.parameter(p.Parameter)
	}
	for _, h := range c.Shared.Headers {
		v.parameter(h.Parameter)
	}
	for _, b := range c.Shared.Bodies {
		v.media(b.Body.Content)
	}
	for _, named := range c.Shared.Responses {
		v.response(named.Response)
	}
	for _, op := range c.All() {
		for _, p := range op.Parameters {
			v.parameter(p)
		}
		if op.Body != nil {
			v.media(op.Body.Content)
		}
		for _, answer := range op.Responses {
			v.response(answer)
		}
	}
}

func (v Visitor) parameter(p *Parameter) {
	v.Parameter(p)
	v.media(p.Content)
}

func (v Visitor) response(answer *Response) {
	v.media(answer.Content)
	for _, h := range answer.Headers {
		v.parameter(h)
	}
}

func (v Visitor) media(list []*Media) {
	for _, m := range list {
		v.Media(m)
		for _, e := range m.Encoding {
			for _, h := range e.Headers {
				v.parameter(h)
			}
		}
	}
}

// Roots are the schemas from which all others of the contract can be reached, each once for every place where it stands.
func (c *Contract) Roots() []*Schema {
	list := append([]*Schema(nil), c.Schemas...)
	add := func(s *Schema) {
		if s != nil {
			list = append(list, s)
		}
	}
	c.Visit(Visitor{Parameter: func(p *Parameter) { add(p.Schema) }, Media: func(m *Media) { add(m.Schema) }})
	return list
}
