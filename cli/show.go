package cli

import (
	"fmt"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/wire"
)

// held is what show prints as JSON.
type held struct {
	Version    *wire.Version   `json:"version,omitempty"`
	Title      string          `json:"title"`
	Number     string          `json:"number"`
	Dialect    string          `json:"dialect"`
	Operations []heldOperation `json:"operations"`
	Schemas    []string        `json:"schemas"`
}

type heldOperation struct {
	Key        string `json:"key"`
	ID         string `json:"id,omitempty"`
	Summary    string `json:"summary,omitempty"`
	Deprecated bool   `json:"deprecated,omitempty"`
}

func summaryOf(d *description, v *wire.Version) held {
	h := held{
		Version: v, Title: d.contract.Title, Number: d.contract.Version, Dialect: d.contract.Dialect, Operations: []heldOperation{},
		Schemas: []string{},
	}
	for _, op := range d.contract.All() {
		h.Operations = append(h.Operations, heldOperation{op.Key(), op.ID, op.Summary, op.Deprecated})
	}
	for _, s := range d.contract.Schemas {
		h.Schemas = append(h.Schemas, s.Name)
	}
	return h
}

func (a *app) showDescription(d *description, v *wire.Version) error {
	s := a.style()
	var b strings.Builder
	c := d.contract
	fmt.Fprintf(&b, "%s   %s", s.bold(c.Title+" "+c.Version), s.soft(c.Dialect))
	if v != nil {
		state := v.State
		if n := len(v.Waivers); n > 0 {
			state += ", " + letThrough(n)
		}
		if v.Sunset != "" {
			state += ", leaves " + v.Sunset
		}
		fmt.Fprintf(&b, "   %s   %s", v.Ref(), state)
	}
	b.WriteString("\n")
	for _, server := range c.Servers {
		fmt.Fprintf(&b, "%s\n", s.soft(server.URL))
	}
	wide := 0
	for _, op := range c.All() {
		wide = max(wide, len(key(op)))
	}
	for _, op := range c.All() {
		note := ""
		if op.Deprecated {
			note = s.grade(compare.Hazard, "  ! deprecated")
		}
		summary := op.Summary
		if summary == "" {
			summary = op.ID
		}
		fmt.Fprintf(&b, "  %-*s  %s%s\n", wide, key(op), summary, note)
	}
	if len(c.Schemas) > 0 {
		names := make([]string, len(c.Schemas))
		for i, sc := range c.Schemas {
			names[i] = sc.Name
		}
		for i, line := range wrap("schemas: "+strings.Join(names, ", "), a.width()) {
			if i > 0 {
				line = "         " + line
			}
			fmt.Fprintln(&b, line)
		}
	}
	return printf(a, "%s", b.String())
}

// key is what a reader knows an operation by: path parameters keep their names.
func key(op *contract.Operation) string {
	if op.Webhook != "" {
		return op.Key()
	}
	return op.Method + " " + op.Path
}
