package source

import "strings"

// Expecting reads small files whose form is our own, and gathers all that is wrong with them; no more than MaxTold.
type Expecting struct{ Wrong Diagnostics }

// Tell adds what is wrong.
func (e *Expecting) Tell(d *Diagnostic) {
	if len(e.Wrong) < MaxTold {
		e.Wrong = append(e.Wrong, d)
	}
}

// Unknown tells of a key of an object that is none of those that it may have; n is what stands under it.
func (e *Expecting) Unknown(n *Node, key string, known ...string) {
	e.Tell(n.KeyWrong(Syntax, "nothing is called %s here%s", key, DidYouMean(key, known)))
}

// Text is a text that says something. what says in words what it is: "the address of a ledger".
func (e *Expecting) Text(n *Node, what string) string {
	if n.Kind != String || strings.TrimSpace(n.Text) == "" {
		e.Tell(n.Wrong(Syntax, "here stands %s; it must be %s", n.Kind, what))
		return ""
	}
	return n.Text
}

// Entries are the members of an object, at most limit; nothing has none.
func (e *Expecting) Entries(n *Node, what string, limit int) []Member {
	switch {
	case n.Kind == Null:
		return nil
	case n.Kind != Mapping:
		e.Tell(n.Wrong(Syntax, "here stands %s; it must be %s", n.Kind, what))
		return nil
	case len(n.Members) > limit:
		e.Tell(n.Wrong(TooLarge, "it holds %d entries; at most %d are read", len(n.Members), limit))
		return nil
	}
	return n.Members
}
