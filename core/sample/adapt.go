package sample

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"text/template"
	"text/template/parse"
)

// maxAdapted bounds what an adapted language writes, in bytes.
const maxAdapted = 64 << 10

// Choose picks languages by their ids, in that order. An unknown id is an error that names the known ones.
func Choose(ids []string) ([]Language, error) {
	var all []Language
	for _, id := range ids {
		i := slices.IndexFunc(Languages, func(l Language) bool { return l.ID == id })
		if i < 0 {
			var known []string
			for _, l := range Languages {
				known = append(known, l.ID)
			}
			return nil, fmt.Errorf("there are no samples in %q; there are some in %s", id, strings.Join(known, ", "))
		}
		all = append(all, Languages[i])
	}
	return all, nil
}

// Adapt is a language as a team writes it: a template (text/template) that gets the Call as its dot, with .Code, the sample as the
// language writes it, and the functions json (a value as JSON over several lines) and quoted (a text in double quotes). The error says
// what is wrong with the template; it is tried on a call of every kind.
func Adapt(l Language, text string) (Language, error) {
	t, err := template.New(l.ID).Funcs(template.FuncMap{"quoted": quoted, "json": func(c adapted) string { return c.body() }}).Option(
		"missingkey=error").Parse(text)
	if err != nil {
		return l, fmt.Errorf("the template of %s: %w", l.Name, err)
	}
	if err := plainLoops(t.Root); err != nil {
		return l, fmt.Errorf("the template of %s: %w", l.Name, err)
	}
	write := func(c *Call) (string, error) {
		var w bounded
		err := t.Execute(&w, adapted{c, l.Write(c)})
		return strings.TrimRight(w.b.String(), "\n"), err
	}
	for _, c := range []*Call{{Method: "GET", Address: "https://api.saltmere.example/v1"}, everything} {
		if _, err := write(c); err != nil {
			return l, fmt.Errorf("the template of %s: %w", l.Name, err)
		}
	}
	return Language{l.ID, l.Name, l.Library, func(c *Call) string {
		out, err := write(c)
		if err != nil {
			return l.Write(c) // it was tried; what is so unlike all that was tried is written as usual
		}
		return out
	}}, nil
}

// everything is a call that has a part of every kind.
var everything = &Call{
	Method: "POST", Address: "https://api.saltmere.example/v1/bookings", Query: []Pair{{"from", "2027-03-01"}},
	Headers: []Pair{{"Accept", "application/json"}},
	Cookies: []Pair{{"quay", "north"}}, Credentials: []Credential{{Kind: Bearer}, {Kind: KeyInHeader, Name: "Harbour-Key"}},
	Type: "text/plain", Text: "ahoy",
	Form: []Pair{{"berth", "N-14"}}, Parts: []Part{{Name: "plan", File: "plan"}},
}

// adapted is what a template sees.
type adapted struct {
	*Call
	Code string
}

func (a adapted) body() string {
	if a.JSON != nil {
		return a.shown()
	}
	return a.Text
}

// bounded is a text that does not grow beyond its bound.
type bounded struct{ b strings.Builder }

func (w *bounded) Write(p []byte) (int, error) {
	if w.b.Len()+len(p) > maxAdapted {
		return 0, errors.New("it writes too much")
	}
	return w.b.Write(p)
}

// plainLoops refuses templates that loop over anything but the parts of a call, or call one another.
func plainLoops(n parse.Node) error {
	switch n := n.(type) {
	case *parse.ListNode:
		if n == nil {
			return nil
		}
		for _, inner := range n.Nodes {
			if err := plainLoops(inner); err != nil {
				return err
			}
		}
	case *parse.RangeNode:
		for _, c := range n.Pipe.Cmds {
			for _, arg := range c.Args {
				if _, field := arg.(*parse.FieldNode); !field {
					return errors.New("range takes a part of the call, such as .Headers")
				}
			}
		}
		return errors.Join(plainLoops(n.List), plainLoops(n.ElseList))
	case *parse.IfNode:
		return errors.Join(plainLoops(n.List), plainLoops(n.ElseList))
	case *parse.WithNode:
		return errors.Join(plainLoops(n.List), plainLoops(n.ElseList))
	case *parse.TemplateNode:
		return errors.New("a template does not call another")
	}
	return nil
}
