package openapi

import (
	"maps"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

var schemeTypes = []string{"apiKey", "http", "mutualTLS", "oauth2", "openIdConnect"}

func (r *reader) scheme(name string, n *source.Node) *contract.SecurityScheme {
	n = r.object(n, "securitySchemes")
	if n == nil {
		return nil
	}
	r.keys(n, "security scheme")
	s := &contract.SecurityScheme{
		Name: name, Type: r.text(n, "type"), Description: r.text(n, "description"),
		In: r.text(n, "in"), Parameter: r.text(n, "name"),
		Scheme: r.text(n, "scheme"), BearerFormat: r.text(n, "bearerFormat"), OpenIDURL: r.text(n, "openIdConnectUrl"), Extensions: extensions(n),
		Node: n,
	}
	if r.dialectOf(n) == v20 {
		return r.schemeTwo(s, n)
	}
	switch {
	case s.Type == "":
		r.report(n.Wrong(contract.SchemeBroken, "the security scheme %s has no type; write one of %s", name, orList(schemeTypes)))
		return unknownScheme(name, n)
	case !slices.Contains(schemeTypes, s.Type):
		at := n.Get("type")
		r.report(r.nearFix(at.Wrong(contract.SchemeBroken, "the security scheme %s has no known type %q; %s", name, s.Type,
			source.DidYouMean(s.Type, schemeTypes)), at, s.Type, schemeTypes))
		return unknownScheme(name, n)
	case s.Type == "apiKey" && (s.In == "" || s.Parameter == ""):
		r.report(n.Wrong(contract.SchemeBroken,
			"the security scheme %s does not say where the key is sent, and under which name; write in and name", name))
		return unknownScheme(name, n)
	case s.Type == "apiKey" && !slices.Contains(keyPlaces, s.In):
		r.keyPlace(s, n, keyPlaces)
		return unknownScheme(name, n)
	case s.Type == "http" && s.Scheme == "":
		r.report(n.Wrong(contract.SchemeBroken,
			"the security scheme %s does not say how the credential is written; write scheme, such as bearer or basic", name))
		return unknownScheme(name, n)
	}
	for _, f := range r.members(n, "flows") {
		if isExtension(f.Key) || !r.is(f.Value, source.Mapping) {
			continue
		}
		r.keys(f.Value, "flow")
		flow := contract.Flow{
			Name: f.Key, AuthorizationURL: r.text(f.Value, "authorizationUrl"), TokenURL: r.text(f.Value, "tokenUrl"),
			RefreshURL: r.text(f.Value, "refreshUrl"), DeviceURL: r.text(f.Value, "deviceAuthorizationUrl"), Node: f.Value,
		}
		flow.Scopes = r.scopes(f.Value)
		s.Flows = append(s.Flows, flow)
	}
	return s
}

// maxSuggested is among how many names one is looked for that was meant.
const maxSuggested = 200

// keyPlaces are where the key of a scheme can be sent (OpenAPI 3.x, Security Scheme Object); 2.0 has no cookies.
var keyPlaces = []string{"query", "header", "cookie"}

func (r *reader) keyPlace(s *contract.SecurityScheme, n *source.Node, places []string) {
	at := n.Get("in")
	r.report(r.nearFix(at.Wrong(contract.SchemeBroken, "the security scheme %s cannot be sent in %q; %s", s.Name, s.In,
		source.DidYouMean(s.In, places)), at, s.In, places))
}

// schemeAt finds a scheme that a requirement names by its address (OpenAPI 3.2.0, Security Requirement Object).
func (r *reader) schemeAt(it *source.Node, m source.Member) *contract.SecurityScheme {
	ref := it.Named(m.Key)
	before := len(r.diagnostics)
	n := r.target(ref)
	if n == nil {
		for _, d := range r.diagnostics[before:] {
			d.Demote(contract.SchemeUndeclared)
		}
		return r.undeclaredScheme(m.Key, ref)
	}
	r.note(ref, n, "securitySchemes")
	s := r.scheme(n.Step(), n)
	if s != nil {
		r.schemes[m.Key] = s
	}
	return s
}

// unknownScheme is a scheme of which nobody knows how it works: equal to itself by its name.
func unknownScheme(name string, n *source.Node) *contract.SecurityScheme {
	return &contract.SecurityScheme{Name: name, Type: contract.UnknownScheme, Node: n}
}

// undeclaredScheme is the scheme of a name that is not declared, one for all that use it.
func (r *reader) undeclaredScheme(name string, at *source.Node) *contract.SecurityScheme {
	s := r.undeclared[name]
	if s == nil {
		s = unknownScheme(name, at)
		r.undeclared[name] = s
	}
	return s
}

func (r *reader) scopes(n *source.Node) []contract.Scope {
	var all []contract.Scope
	for _, m := range r.members(n, "scopes") {
		all = append(all, contract.Scope{Name: m.Key, Description: m.Value.Text})
	}
	return all
}

// security reads a list of alternatives.
func (r *reader) security(n *source.Node) []contract.Requirement {
	if n == nil || !r.is(n, source.Sequence) {
		return nil
	}
	var all []contract.Requirement
	for _, it := range n.Items() {
		if !r.is(it, source.Mapping) {
			continue
		}
		req := contract.Requirement{Node: it}
		for _, m := range it.Members {
			s := r.schemes[m.Key]
			if s == nil && r.dialectOf(it) == v32 && strings.ContainsAny(m.Key, "#/") {
				if s = r.schemeAt(it, m); s == nil {
					continue // it said why
				}
			}
			if s == nil {
				key := it.Named(m.Key)
				var known []string
				if len(r.schemes) <= maxSuggested {
					known = slices.Sorted(maps.Keys(r.schemes))
				}
				where := "components"
				if r.dialect == v20 {
					where = "securityDefinitions"
				}
				d := m.Value.KeyWrong(contract.SchemeUndeclared, "the security scheme %s is not declared under %s; %s", m.Key, where,
					source.DidYouMean(m.Key, known))
				if near := source.Nearest(m.Key, known); near != "" {
					d.Rename(m.Value, near)
				}
				r.report(d)
				s = r.undeclaredScheme(m.Key, key)
			}
			r.declaredScopes(s, m.Value)
			req.Schemes = append(req.Schemes, contract.SchemeUse{Scheme: s, Scopes: r.words(it, m.Key)})
		}
		all = append(all, req)
	}
	return all
}

// declaredScopes tells of scopes that no flow of their scheme declares, where its flows declare any.
func (r *reader) declaredScopes(s *contract.SecurityScheme, asked *source.Node) {
	if s.Type != "oauth2" || len(asked.Items()) == 0 {
		return
	}
	declared := r.declared[s]
	if declared == nil {
		declared = map[string]bool{}
		for _, f := range s.Flows {
			for _, scope := range f.Scopes {
				declared[scope.Name] = true
			}
		}
		r.declared[s] = declared
	}
	if len(declared) == 0 {
		return
	}
	for _, it := range asked.Items() {
		if it.Kind == source.String && !declared[it.Text] {
			var known []string // for a word that was meant, where they are not too many to be looked through each time
			if len(declared) <= maxSuggested {
				known = slices.Sorted(maps.Keys(declared))
			}
			r.report(r.nearFix(it.Wrong(contract.ScopeUndeclared, "the security scheme %s has no scope %s; %s", s.Name, it.Text,
				source.DidYouMean(it.Text, known)), it, it.Text, known))
		}
	}
}
