package contract

// Roots are the schemas from which all others of the contract can be reached, each once for every place where it stands.
func (c *Contract) Roots() []*Schema {
	var r roots
	r.list = append(r.list, c.Schemas...)
	for _, p := range c.Shared.Parameters {
		r.parameter(p.Parameter)
	}
	for _, h := range c.Shared.Headers {
		r.parameter(h.Parameter)
	}
	for _, b := range c.Shared.Bodies {
		r.media(b.Body.Content)
	}
	for _, named := range c.Shared.Responses {
		r.response(named.Response)
	}
	for _, op := range c.All() {
		for _, p := range op.Parameters {
			r.parameter(p)
		}
		if op.Body != nil {
			r.media(op.Body.Content)
		}
		for _, answer := range op.Responses {
			r.response(answer)
		}
	}
	return r.list
}

type roots struct{ list []*Schema }

func (r *roots) schema(s *Schema) {
	if s != nil {
		r.list = append(r.list, s)
	}
}

func (r *roots) parameter(p *Parameter) {
	r.schema(p.Schema)
	r.media(p.Content)
}

func (r *roots) response(answer *Response) {
	for _, h := range answer.Headers {
		r.parameter(h)
	}
	r.media(answer.Content)
}

func (r *roots) media(list []*Media) {
	for _, m := range list {
		r.schema(m.Schema)
		for _, e := range m.Encoding {
			for _, h := range e.Headers {
				r.parameter(h)
			}
		}
	}
}
