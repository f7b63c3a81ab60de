package raml

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// The kinds of security scheme (RAML 1.0, Security Scheme Types). Others begin with x-.
var schemeTypes = []string{"OAuth 1.0", "OAuth 2.0", "Basic Authentication", "Digest Authentication", "Pass Through"}

// scheme reads a security scheme into the words of OpenAPI. What OpenAPI has no word for keeps its own: the type "OAuth 1.0", x-….
func (r *reader) scheme(name string, at *source.Node) *contract.SecurityScheme {
	if s, done := r.schemes[at]; done {
		return s
	}
	r.schemes[at] = nil
	n := r.holding(at, "SecurityScheme")
	if n == nil || n.Kind == source.Null || !r.is(n, source.Mapping) {
		return nil
	}
	r.keysOf(n, []string{"type", "displayName", "description", "describedBy", "settings", "usage", "uses"}, "a security scheme")
	kind := r.text(n, "type")
	s := &contract.SecurityScheme{Name: name, Description: r.text(n, "description"), Extensions: r.annotations(n, "SecurityScheme"), Node: at}
	if s.Description == "" {
		s.Description = r.text(n, "displayName")
	}
	described := r.field(n, "describedBy")
	if described != nil && described.Kind == source.Mapping {
		r.keysOf(described, []string{"headers", "queryParameters", "queryString", "responses", "description"}, "describedBy")
	}
	switch kind {
	case "Basic Authentication":
		s.Type, s.Scheme = "http", "basic"
	case "Digest Authentication":
		s.Type, s.Scheme = "http", "digest"
	case "OAuth 2.0":
		s.Type = "oauth2"
		r.flows(s, n)
	case "OAuth 1.0":
		s.Type, s.Scheme = "http", "OAuth" // its name in the registry of authentication schemes (RFC 5849)
		if settings := r.field(n, "settings"); settings != nil {
			s.Extensions = append(s.Extensions, contract.Extension{Name: "x-settings", Node: settings})
		}
	default:
		if kind != "Pass Through" && !strings.HasPrefix(kind, "x-") {
			r.report(n.Wrong(contract.SchemeBroken, "the security scheme %s has no known type %q; %s", name, kind,
				source.DidYouMean(kind, schemeTypes)))
			s.Type = contract.UnknownScheme
			break
		}
		key := r.keyIn(described)
		if key == nil {
			s.Type = "http"
			s.Scheme = strings.TrimPrefix(strings.ToLower(strings.ReplaceAll(kind, " ", "-")), "x-")
			break
		}
		s.Type, s.In, s.Parameter = "apiKey", key.In, key.Name
		if s.Description == "" {
			s.Description = key.Description
		}
	}
	r.schemes[at] = s
	return s
}

// keyIn is the one header or query parameter that a scheme says it is sent in, or nil.
func (r *reader) keyIn(described *source.Node) *contract.Parameter {
	all := append(r.parametersOf(described, "headers", "header"), r.parametersOf(described, "queryParameters", "query")...)
	if len(all) == 0 {
		return nil
	}
	return all[0]
}

var grants = map[string]string{
	"authorization_code": "authorizationCode", "implicit": "implicit", "password": "password", "client_credentials": "clientCredentials",
}

var oldGrants = map[string]string{"code": "authorizationCode", "token": "implicit", "owner": "password", "credentials": "clientCredentials"}

func (r *reader) flows(s *contract.SecurityScheme, n *source.Node) {
	settings := r.field(n, "settings")
	if settings == nil || !r.is(settings, source.Mapping) {
		r.report(n.Wrong(contract.SchemeBroken,
			"the security scheme %s needs settings: authorizationUri, accessTokenUri, authorizationGrants and scopes", s.Name))
		return
	}
	known := grants
	if r.old {
		known = oldGrants
	}
	var scopes []contract.Scope
	for _, w := range r.words(settings, "scopes") {
		scopes = append(scopes, contract.Scope{Name: w})
	}
	for _, it := range r.items(settings, "authorizationGrants") {
		name := known[it.Text]
		if name == "" {
			if !r.old && strings.Contains(it.Text, ":") {
				s.Extensions = append(s.Extensions, contract.Extension{Name: "x-grant", Node: it})
				continue // an extension grant is named by an address (RFC 6749, 4.5)
			}
			var words []string
			for k := range known {
				words = append(words, k)
			}
			slices.Sort(words)
			r.report(it.Wrong(contract.WordUnknown, "there is no grant %q; the grants are %s", it.Text, strings.Join(words, ", ")))
			continue
		}
		f := contract.Flow{Name: name, Scopes: scopes, Node: settings}
		if name == "authorizationCode" || name == "implicit" {
			f.AuthorizationURL = r.text(settings, "authorizationUri")
		}
		if name != "implicit" {
			f.TokenURL = r.text(settings, "accessTokenUri")
		}
		s.Flows = append(s.Flows, f)
	}
}

// secured reads alternatives: names of schemes, each with the scopes that it must grant, or null for none at all.
func (r *reader) secured(n *source.Node) []contract.Requirement {
	if n = r.val(n); n == nil || n.Kind == source.Null {
		return nil
	}
	list := []*source.Node{n}
	if n.Kind == source.Sequence {
		list = n.Items()
	}
	var all []contract.Requirement
	for _, it := range list {
		v := r.val(it)
		if v == nil || v.Kind == source.Null {
			all = append(all, contract.Requirement{Node: it})
			continue
		}
		a, ok := r.application(v, "security scheme")
		if !ok {
			continue
		}
		if a.name.Text == "null" {
			all = append(all, contract.Requirement{Node: it})
			continue
		}
		decl := r.find(securityList, a.name.Text, a.name)
		if decl == nil {
			r.missing(securityList, a.name.Text, a.name)
			s := r.undeclared[a.name.Text]
			if s == nil {
				s = &contract.SecurityScheme{Name: a.name.Text, Type: contract.UnknownScheme, Node: a.name}
				r.undeclared[a.name.Text] = s
			}
			all = append(all, contract.Requirement{Schemes: []contract.SchemeUse{{Scheme: s}}, Node: it})
			continue
		}
		s := r.scheme(a.name.Text[strings.LastIndexByte(a.name.Text, '.')+1:], decl)
		if s == nil {
			continue
		}
		all = append(all, contract.Requirement{Schemes: []contract.SchemeUse{{Scheme: s, Scopes: r.granted(s, a)}}, Node: it})
	}
	return all
}

// granted are the scopes that a use of a scheme asks for: some of those that the scheme knows.
func (r *reader) granted(s *contract.SecurityScheme, a applied) []string {
	scopes := a.args["scopes"]
	if scopes == nil {
		return nil
	}
	var known []string
	for _, f := range s.Flows {
		for _, sc := range f.Scopes {
			known = append(known, sc.Name)
		}
	}
	var all []string
	list := []*source.Node{scopes}
	if scopes.Kind == source.Sequence {
		list = scopes.Items()
	}
	for _, it := range list {
		if len(known) > 0 && !slices.Contains(known, it.Text) {
			r.report(it.Wrong(contract.ScopeUndeclared, "the security scheme %s has no scope %s; %s", s.Name, it.Text,
				source.DidYouMean(it.Text, known)))
		}
		all = append(all, it.Text)
	}
	return all
}

// describedBy adds to an operation what the schemes that secure it say of its messages: responses that it does not have itself,
// and parameters, other than the credential, which are optional where it may be called without the scheme.
func (r *reader) describedBy(op *contract.Operation) {
	for _, alternative := range op.Security {
		for _, use := range alternative.Schemes {
			n := r.field(r.val(use.Scheme.Node), "describedBy")
			if n == nil || n.Kind != source.Mapping {
				continue
			}
			for _, m := range r.members(n, "responses") {
				has := slices.ContainsFunc(op.Responses, func(x *contract.Response) bool { return x.Status == m.Key })
				if resp := r.response(m.Key, m); resp != nil && !has {
					op.Responses = append(op.Responses, resp)
				}
			}
			for _, p := range append(r.parametersOf(n, "headers", "header"), r.parametersOf(n, "queryParameters", "query")...) {
				if isCredential(p, use.Scheme) || slices.ContainsFunc(op.Parameters,
					func(x *contract.Parameter) bool { return x.In == p.In && x.Name == p.Name }) {
					continue
				}
				if len(op.Security) > 1 && p.Required {
					eased := *p
					eased.Required = false
					p = &eased
				}
				op.Parameters = append(op.Parameters, p)
			}
		}
	}
	slices.SortStableFunc(op.Responses, func(a, b *contract.Response) int { return strings.Compare(a.Status, b.Status) })
}

func isCredential(p *contract.Parameter, s *contract.SecurityScheme) bool {
	if s.Type == "apiKey" {
		return p.In == s.In && p.Name == s.Parameter
	}
	return p.In == "header" && strings.EqualFold(p.Name, "authorization") || p.In == "query" && p.Name == "access_token"
}
