package raml

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// oldMedium reads a media type of RAML 0.8: a schema in another language or by name, or the parameters of a form (RAML 0.8, Body).
func (r *reader) oldMedium(m *contract.Media, n, v *source.Node) {
	if !r.is(v, source.Mapping) {
		return
	}
	r.keysOf(v, []string{"schema", "formParameters", "example", "description"}, "a media type")
	m.Examples = r.examplesOf(v)
	form := v.Get("formParameters")
	if sn := v.Get("schema"); sn != nil {
		if form != nil {
			r.report(form.KeyWrong(contract.BodyTwice, "schema and formParameters exclude each other; keep one of them"))
		}
		m.Schema = r.oldSchema(sn)
		return
	}
	if form == nil {
		return
	}
	if !strings.HasPrefix(m.Type, "application/x-www-form-urlencoded") && !strings.HasPrefix(m.Type, "multipart/") {
		r.report(form.KeyWrong(contract.KeyUnknown,
			"formParameters belong to application/x-www-form-urlencoded or multipart/form-data, not to %s", m.Type))
	}
	s := &contract.Schema{Node: v, Types: []string{"object"}}
	for _, p := range r.members(v, "formParameters") {
		name, optional := r.optional(p.Key, p.Value, "form")
		s.Properties = append(s.Properties, contract.Property{Name: name, Schema: r.typ(p.Value, asString)})
		if !optional {
			s.Required = append(s.Required, name)
		}
	}
	m.Schema = s
}

// oldSchema reads a schema in place, or one that the description declares under schemas.
func (r *reader) oldSchema(n *source.Node) *contract.Schema {
	v := r.val(n)
	if v != nil && v.Kind == source.String && !isForeign(v) {
		name := strings.TrimSpace(v.Text)
		decl := r.find(typeList, name, n)
		if decl == nil {
			own, _ := r.known(typeList, n)
			r.report(n.Wrong(contract.TypeUnknown, "the schema %q is not declared under schemas; %s", name, source.DidYouMean(name, own)))
			return nil
		}
		return &contract.Schema{Node: n, Ref: r.typ(decl, asString)}
	}
	return r.typ(n, asString)
}
