package raml

import (
	"net/url"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// servers are the addresses of the API: its baseUri, once for each protocol (RAML 1.0, Base URI and Base URI Parameters, Protocols).
// at is where parameters may say more: the root, or, in RAML 0.8, a resource or method.
func (r *reader) servers(root, at *source.Node) []*contract.Server {
	base := r.text(root, "baseUri")
	if base == "" {
		return nil
	}
	n := root.Get("baseUri")
	if strings.Contains(base, "{version}") && r.version == "" {
		r.report(n.Wrong(contract.ServerBroken, "baseUri mentions {version}, and the description says no version"))
	}
	base = strings.ReplaceAll(base, "{version}", r.version)
	if _, err := url.Parse(strings.NewReplacer("{", "", "}", "").Replace(base)); err != nil {
		r.report(n.Wrong(contract.ServerBroken, "baseUri is no address: %v", err))
		return nil
	}
	declared := map[string]*source.Node{}
	for _, from := range []*source.Node{root, at} {
		for _, m := range r.members(from, "baseUriParameters") {
			declared[m.Key] = m.Value
		}
	}
	for _, m := range r.members(root, "uriParameters") { // the older name of the same, at the root of RAML 0.8
		if declared[m.Key] == nil {
			declared[m.Key] = m.Value
		}
	}
	names := contract.PathNames(base)
	var variables []contract.Variable
	for i, name := range names {
		if slices.Contains(names[:i], name) {
			continue
		}
		v := contract.Variable{Name: name}
		if d := declared[name]; d != nil {
			p := r.parameter(name, d, "path")
			s := p.Schema.Deref()
			v.Description = p.Description
			for _, e := range s.Enum {
				v.Enum = append(v.Enum, e.Text)
			}
			if s.Default != nil {
				v.Default = s.Default.Text
			} else if len(v.Enum) > 0 {
				v.Default = v.Enum[0]
			}
		}
		variables = append(variables, v)
	}
	for _, m := range r.members(root, "baseUriParameters") {
		if !slices.Contains(names, m.Key) && m.Key != "version" {
			r.report(m.Value.KeyWrong(contract.ParameterUnused, "baseUri has no parameter {%s}; %s", m.Key, source.DidYouMean(m.Key, names)))
		}
	}
	base = strings.TrimSuffix(base, "/")
	_, rest, found := strings.Cut(base, "://")
	protocols := r.protocols(root)
	if at != root && r.field(at, "protocols") != nil {
		protocols = r.protocols(at)
	}
	if !found || len(protocols) == 0 {
		return []*contract.Server{{URL: base, Variables: variables, Node: n}}
	}
	var all []*contract.Server
	for _, p := range protocols {
		all = append(all, &contract.Server{URL: p + "://" + rest, Variables: variables, Node: n})
	}
	return all
}

// protocols are the schemes of addresses, in lower case.
func (r *reader) protocols(n *source.Node) []string {
	var all []string
	for _, it := range r.items(n, "protocols") {
		p := strings.ToLower(it.Text)
		if p != "http" && p != "https" {
			r.report(it.Wrong(contract.WordUnknown, "a protocol is HTTP or HTTPS, not %q; %s", it.Text,
				source.DidYouMean(strings.ToUpper(it.Text), []string{"HTTP", "HTTPS"})))
			continue
		}
		if !slices.Contains(all, p) {
			all = append(all, p)
		}
	}
	return all
}
