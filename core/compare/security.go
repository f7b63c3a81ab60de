package compare

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/contract"
)

// security judges the credentials that an operation accepts: each old alternative must still open the door.
func (c *comparer) security(m match) {
	if m.old.Direction == contract.ProviderCalls {
		return
	}
	k := c.credentials(m.old.Security, m.new.Security)
	for _, both := range k.schemes {
		c.scheme(m.key(), both[0], both[1])
	}
	// An operation that only inherits shares its edit with all that do.
	own := func(op *contract.Operation) bool { return op.Node.Get("security") != nil }
	inherited := !own(m.old) && !own(m.new) && (c.old.Node.Get("security") != nil || c.new.Node.Get("security") != nil)
	oldNode, newNode := keyOf(m.old.Node, "security"), keyOf(m.new.Node, "security")
	who := m.new.Name()
	if inherited {
		oldNode, newNode, who = keyOf(c.old.Node, "security"), keyOf(c.new.Node, "security"), "the API"
	}
	refusedOld, refusedNew, unclear := k.refusedOld, k.refusedNew, k.unclear
	if refusedOld == nil && refusedNew == nil && !k.open {
		return
	}
	key := m.key()
	f := &finding{
		operation: key, at: Location{Part: PartSecurity}, reach: []string{key}, old: oldNode, new: newNode, backward: Safe,
		forward: Safe,
	}
	f.kind, f.title = "security.widened", fmt.Sprintf("%s accepts more: %s", who, shortened(k.newText))
	f.why = "what was accepted is still accepted; after a rollback the new way in is refused"
	if unclear != "" {
		f.undecided, f.forward, f.why = true, Hazard, unclear
	}
	if k.open {
		f.backward = Hazard
	}
	if refusedNew != nil && unclear == "" {
		f.forward = Breaking
		f.witnesses = append(f.witnesses, &Witness{Direction: Forward, Operation: key, Position: "security"})
	}
	if refusedOld != nil {
		f.kind, f.backward = "security.narrowed", Breaking
		f.title = fmt.Sprintf("%s asks for %s, was %s", who, shortened(k.newText), shortened(k.oldText))
		f.why = "a caller with " + refusedOld.text() + " is turned away"
		if unclear != "" {
			f.backward, f.why = Hazard, unclear
			c.add(f, f.kind+k.oldText+k.newText)
			return
		}
		f.witnesses = append(f.witnesses, &Witness{Direction: Backward, Operation: key, Position: "security"})
		f.advice = ways("go on accepting the old credentials", "accept the new beside the old", "announce until when the old are accepted",
			"turn them away when nobody uses them any more")
	}
	c.add(f, f.kind+k.oldText+k.newText)
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

// credentials is how the ways in of two operations differ.
type credentials struct {
	schemes                [][2]*contract.SecurityScheme // of one name on both sides, where they differ
	refusedOld, refusedNew alternative                   // the first of the ways in that the other side refuses; nil for none
	unclear                string                        // why that decides nothing
	open                   bool                          // whether the search for it ended before it was through
	oldText, newText       string
}

// requirements are two lists of ways in; operations that inherit theirs have the same.
type requirements struct {
	old, new           *contract.Requirement
	oldCount, newCount int
}

func requirementsOf(old, new []contract.Requirement) requirements {
	r := requirements{oldCount: len(old), newCount: len(new)}
	if len(old) > 0 {
		r.old = &old[0]
	}
	if len(new) > 0 {
		r.new = &new[0]
	}
	return r
}

// credentials compares two lists of ways in, once for each two.
func (c *comparer) credentials(old, new []contract.Requirement) *credentials {
	key := requirementsOf(old, new)
	if known := c.ways[key]; known != nil {
		return known
	}
	a, b := alternatives(old), alternatives(new)
	k := &credentials{schemes: differing(old, new), oldText: alternativesText(a), newText: alternativesText(b)}
	if !slices.EqualFunc(a, b, func(x, y alternative) bool { return x.key() == y.key() }) || len(k.schemes) > 0 {
		k.refusedOld, k.refusedNew = unmet(c.budget, a, b), unmet(c.budget, b, a)
		k.unclear = unclearCredentials(a, b)
		if k.open = c.budget.Over(); k.open {
			k.unclear = "there are more ways in than can be held against each other"
		}
	}
	if c.ways == nil {
		c.ways = map[requirements]*credentials{}
	}
	c.ways[key] = k
	return k
}

// unmet is the first alternative of a that satisfies none of b: a caller who brings exactly it is refused. nil where there is none, or
// the budget ended before.
func unmet(budget *budget.Budget, a, b []alternative) alternative {
	said := map[string]bool{}
	by := map[string][]alternative{} // the name, and the form on the wire, of what they ask for first
	for _, need := range b {
		if len(need) == 0 {
			return nil // whoever comes is let in
		}
		said[need.key()] = true
		first := need[0].Scheme
		for _, k := range []string{"name " + first.Name, "form " + wireForm(first)} {
			by[k] = append(by[k], need)
		}
	}
	for _, have := range a {
		if said[have.key()] {
			continue
		}
		met := slices.ContainsFunc(have, func(u contract.SchemeUse) bool {
			for _, k := range []string{"name " + u.Scheme.Name, "form " + wireForm(u.Scheme)} {
				for _, need := range by[k] {
					if !budget.Step(30*len(need)) || have.satisfies(need) {
						return true
					}
				}
			}
			return false
		})
		if budget.Over() {
			return nil
		}
		if !met {
			if have == nil {
				return alternative{}
			}
			return have
		}
	}
	return nil
}

// LostCredentials is the first alternative of one operation's security that no alternative of another accepts: a caller who brings
// exactly that is turned away there. ok is false where there is none.
func LostCredentials(b *budget.Budget, from, to *contract.Operation) (lost contract.Requirement, ok bool) {
	have := unmet(b, alternatives(from.Security), alternatives(to.Security))
	return contract.Requirement{Schemes: have}, have != nil
}

// maxWays is how much of a list of ways in a title holds, in characters.
const maxWays = 400

func shortened(text string) string {
	if len(text) <= maxWays {
		return text
	}
	cut := strings.LastIndex(text[:maxWays], " or ")
	if cut < 0 {
		return strings.ToValidUTF8(text[:maxWays], "") + "…"
	}
	return fmt.Sprintf("%s or %d more", text[:cut], strings.Count(text[cut:], " or "))
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

// key tells an alternative from every other one, whatever its schemes are called.
func (a alternative) key() string {
	var key strings.Builder
	for _, u := range a {
		fmt.Fprintf(&key, "%q %q ", u.Scheme.Name, u.Scopes)
	}
	return key.String()
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

// differing are the schemes that two lists of ways in use under one name, where they are not the same.
func differing(old, new []contract.Requirement) [][2]*contract.SecurityScheme {
	uses := func(list []contract.Requirement) map[string]*contract.SecurityScheme {
		found := map[string]*contract.SecurityScheme{}
		for _, r := range list {
			for _, u := range r.Schemes {
				found[u.Scheme.Name] = u.Scheme
			}
		}
		return found
	}
	a, b := uses(old), uses(new)
	var both [][2]*contract.SecurityScheme
	for _, name := range slices.Sorted(maps.Keys(a)) {
		x, y := a[name], b[name]
		if y == nil {
			continue
		}
		flows := slices.EqualFunc(x.Flows, y.Flows, func(f, g contract.Flow) bool {
			return f.Name == g.Name && f.AuthorizationURL == g.AuthorizationURL && f.TokenURL == g.TokenURL && f.RefreshURL == g.RefreshURL
		})
		if wireForm(x) != wireForm(y) || x.Description != y.Description || x.BearerFormat != y.BearerFormat || !flows {
			both = append(both, [2]*contract.SecurityScheme{x, y})
		}
	}
	return both
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
