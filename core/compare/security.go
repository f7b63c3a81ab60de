package compare

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/contract"
)

// security judges the credentials that an operation accepts: each old alternative must still open the door.
func (c *comparer) security(m match) {
	if m.old.Direction == contract.ProviderCalls {
		return
	}
	a, b := alternatives(m.old.Security), alternatives(m.new.Security)
	c.schemes(m)
	// An operation that only inherits shares its edit with all that do.
	own := func(op *contract.Operation) bool { return op.Node.Get("security") != nil }
	inherited := !own(m.old) && !own(m.new) && (c.old.Node.Get("security") != nil || c.new.Node.Get("security") != nil)
	oldNode, newNode := keyOf(m.old.Node, "security"), keyOf(m.new.Node, "security")
	who := m.new.Name()
	if inherited {
		oldNode, newNode, who = keyOf(c.old.Node, "security"), keyOf(c.new.Node, "security"), "the API"
	}
	refusedOld, refusedNew := unmet(a, b), unmet(b, a)
	if len(refusedOld) == 0 && len(refusedNew) == 0 {
		return
	}
	key := m.key()
	f := &finding{
		operation: key, at: Location{Part: PartSecurity}, reach: []string{key}, old: oldNode, new: newNode, backward: Safe,
		forward: Safe,
	}
	f.kind, f.title = "security.widened", fmt.Sprintf("%s accepts more: %s", who, alternativesText(b))
	f.why = "what was accepted is still accepted; after a rollback the new way in is refused"
	unclear := unclearCredentials(a, b)
	if unclear != "" {
		f.undecided, f.forward, f.why = true, Hazard, unclear
	}
	if len(refusedNew) > 0 && unclear == "" {
		f.forward = Breaking
		f.witnesses = append(f.witnesses, &Witness{Direction: Forward, Operation: key, Position: "security"})
	}
	if len(refusedOld) > 0 {
		f.kind, f.backward = "security.narrowed", Breaking
		f.title = fmt.Sprintf("%s asks for %s, was %s", who, alternativesText(b), alternativesText(a))
		f.why = "a caller with " + refusedOld[0].text() + " is turned away"
		if unclear != "" {
			f.backward, f.why = Hazard, unclear
			c.add(f, f.kind+alternativesText(a)+alternativesText(b))
			return
		}
		f.witnesses = append(f.witnesses, &Witness{Direction: Backward, Operation: key, Position: "security"})
		f.advice = ways("go on accepting the old credentials", "accept the new beside the old", "announce until when the old are accepted",
			"turn them away when nobody uses them any more")
	}
	c.add(f, f.kind+alternativesText(a)+alternativesText(b))
}

// alternative is one accepted set of credentials: scheme by scheme, with the scopes that it must carry.
type alternative []contract.SchemeUse

// alternatives lists what is accepted; no list at all accepts a caller without credentials.
func alternatives(reqs []contract.Requirement) []alternative {
	if len(reqs) == 0 {
		return []alternative{{}}
	}
	all := make([]alternative, len(reqs))
	for i, r := range reqs {
		all[i] = r.Schemes
	}
	return all
}

// unmet are the alternatives of a that satisfy none of b: a caller who brings exactly them is refused.
func unmet(a, b []alternative) []alternative {
	var out []alternative
	for _, have := range a {
		if !slices.ContainsFunc(b, have.satisfies) {
			out = append(out, have)
		}
	}
	return out
}

// LostCredentials are the alternatives of one operation's security that no alternative of another accepts: a caller who brings exactly
// those is turned away there.
func LostCredentials(from, to *contract.Operation) []contract.Requirement {
	var lost []contract.Requirement
	for _, have := range unmet(alternatives(from.Security), alternatives(to.Security)) {
		lost = append(lost, contract.Requirement{Schemes: have})
	}
	return lost
}

// satisfies reports whether credentials for a are enough for need.
func (a alternative) satisfies(need alternative) bool {
	for _, n := range need {
		ok := slices.ContainsFunc(a, func(h contract.SchemeUse) bool {
			if !sameCredential(h.Scheme, n.Scheme) {
				return false
			}
			for _, scope := range n.Scopes {
				if !slices.Contains(h.Scopes, scope) {
					return false
				}
			}
			return true
		})
		if !ok {
			return false
		}
	}
	return true
}

func (a alternative) text() string {
	if len(a) == 0 {
		return "no credentials"
	}
	parts := make([]string, len(a))
	for i, u := range a {
		parts[i] = u.Scheme.Name
		if len(u.Scopes) > 0 {
			parts[i] += " (" + strings.Join(u.Scopes, ", ") + ")"
		}
	}
	return strings.Join(parts, " with ")
}

func alternativesText(list []alternative) string {
	parts := make([]string, len(list))
	for i, a := range list {
		parts[i] = a.text()
	}
	return strings.Join(parts, " or ")
}

// sameCredential reports whether two schemes are called the same or are the same thing on the wire. A scheme of one name whose
// wire form changed is one change of its own, so it counts as the same here.
func sameCredential(a, b *contract.SecurityScheme) bool {
	return a.Name == b.Name || wireForm(a) == wireForm(b)
}

// unclearCredentials says of schemes that stand on one side only and of which nobody knows how they work that they decide nothing; "" where
// there are none.
func unclearCredentials(a, b []alternative) string {
	names := func(list []alternative) map[string]*contract.SecurityScheme {
		found := map[string]*contract.SecurityScheme{}
		for _, alt := range list {
			for _, u := range alt {
				found[u.Scheme.Name] = u.Scheme
			}
		}
		return found
	}
	x, y := names(a), names(b)
	for _, side := range []struct {
		own, other map[string]*contract.SecurityScheme
	}{{x, y}, {y, x}} {
		for _, name := range slices.Sorted(maps.Keys(side.own)) {
			if side.own[name].Type == contract.UnknownScheme && side.other[name] == nil {
				return "how " + name + " works is not described, so nobody can tell whether the same credentials open the door"
			}
		}
	}
	return ""
}

// wireForm is where and how a credential travels.
func wireForm(s *contract.SecurityScheme) string {
	switch s.Type {
	case "apiKey":
		name := s.Parameter
		if s.In == "header" {
			name = strings.ToLower(name)
		}
		return "key in " + s.In + " " + name
	case "http":
		return "http " + strings.ToLower(s.Scheme)
	}
	if s.Type == contract.UnknownScheme {
		return "nobody knows how (" + s.Name + ")"
	}
	return s.Type + " " + s.OpenIDURL
}

// schemes compares the schemes that an operation uses under one name in both versions.
func (c *comparer) schemes(m match) {
	uses := func(op *contract.Operation) map[string]*contract.SecurityScheme {
		found := map[string]*contract.SecurityScheme{}
		for _, r := range op.Security {
			for _, u := range r.Schemes {
				found[u.Scheme.Name] = u.Scheme
			}
		}
		return found
	}
	a, b := uses(m.old), uses(m.new)
	names := make([]string, 0, len(a))
	for name := range a {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if b[name] != nil {
			c.scheme(m.key(), a[name], b[name])
		}
	}
}

func (c *comparer) scheme(key string, x, y *contract.SecurityScheme) {
	note := func(kind, flow, title, why string, grade Grade) {
		f := &finding{
			kind: kind, backward: grade, forward: grade, operation: key, at: Location{Part: PartSecurity, Name: y.Name}, reach: []string{key},
			title: title, why: why, old: x.Node, new: y.Node,
		}
		if grade == Breaking {
			for _, d := range []Direction{Backward, Forward} {
				f.witnesses = append(f.witnesses, &Witness{Direction: d, Operation: key, Position: "security"})
			}
		}
		c.add(f, flow)
	}
	if wireForm(x) != wireForm(y) && (x.Type == contract.UnknownScheme || y.Type == contract.UnknownScheme) {
		f := &finding{
			kind: "security.credential-moved", backward: Hazard, forward: Hazard, undecided: true, operation: key,
			at: Location{Part: PartSecurity, Name: y.Name}, reach: []string{key},
			title: fmt.Sprintf("%s is described on one side only", y.Name),
			why:   "how it works on the other side cannot be known, so nobody can tell whether the same credentials open the door", old: x.Node,
			new: y.Node,
		}
		c.add(f, "")
	} else if wireForm(x) != wireForm(y) {
		note("security.credential-moved", "", fmt.Sprintf("%s travels as %s, was %s", y.Name, wireForm(y), wireForm(x)),
			"callers who send it the old way are turned away", Breaking)
	}
	if x.Description != y.Description || x.BearerFormat != y.BearerFormat {
		note("security.wording-changed", "", "the description of "+y.Name+" has changed", "", Editorial)
	}
	for _, f := range x.Flows {
		for _, g := range y.Flows {
			if f.Name == g.Name && (f.AuthorizationURL != g.AuthorizationURL || f.TokenURL != g.TokenURL || f.RefreshURL != g.RefreshURL) {
				note("security.flow-address-changed", f.Name, fmt.Sprintf("the %s flow of %s has another address", f.Name, y.Name),
					"callers that hold the old address no longer get tokens once it stops answering", Hazard)
			}
		}
	}
}
