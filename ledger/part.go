package ledger

import (
	"context"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/source"
)

// part finds the part of a version that an announcement speaks of, and enters it in the notice.
func part(n *promise.Notice, d Description, a Announcement) error {
	if a.Operation != "" && a.Field != "" {
		return refuse(Invalid, "a notice speaks of an operation or of a field, not of both")
	}
	if a.Operation == "" && a.Parameter+a.Header != "" {
		return refuse(Invalid, "a parameter or a header belongs to an operation: say which")
	}
	if a.Parameter != "" && a.Header != "" {
		return refuse(Invalid, "a notice speaks of a parameter or of a response header, not of both")
	}
	var schema *contract.Schema
	var err error
	switch {
	case a.Operation != "":
		op := d.Contract.Lookup(a.Operation)
		if op == nil {
			return refuse(Invalid, "%s has no operation %s%s", d.Version.Ref(), a.Operation,
				source.DidYouMean(a.Operation, operationNames(d.Contract)))
		}
		n.Operation, n.Written = op.Key(), op.Written()
		switch {
		case a.Parameter != "":
			n.Parameter, schema, err = parameterIn(d, op, a.Parameter)
		case a.Header != "":
			n.Header, schema, err = headerIn(d, op, a.Header)
		}
	case a.Field != "":
		n.Field, schema, err = fieldIn(d, a.Field)
	}
	if err != nil || a.Value == "" {
		return err
	}
	n.Value, err = valueIn(schema, a.Value)
	return err
}

// guideOf refuses a guide that there is not.
func (w view) guideOf(ctx context.Context, n promise.Notice) error {
	if n.Guide == "" {
		return nil
	}
	old, new, ok := strings.Cut(n.Guide, "..")
	if !ok {
		return refuse(Invalid, "a guide is written as two versions of the API, such as 1.2.0..2.0.0, not %q", n.Guide)
	}
	for _, number := range []string{old, new} {
		if _, err := w.resolve(ctx, n.API+"@"+number); err != nil {
			return err
		}
	}
	return nil
}

// headerIn finds a header that one of the operation's answers has.
func headerIn(d Description, op *contract.Operation, wanted string) (string, *contract.Schema, error) {
	var names []string
	for _, r := range op.Responses {
		for _, h := range r.Headers {
			if strings.EqualFold(h.Name, wanted) {
				schema, _ := h.Payload()
				return h.Name, schema, nil
			}
			names = append(names, h.Name)
		}
	}
	return "", nil, refuse(Invalid, "the answers to %s of %s have no header %s%s", op.Key(), d.Version.Ref(), wanted,
		source.DidYouMean(wanted, names))
}

// valueIn finds a value that a schema, or that of its items, lists.
func valueIn(schema *contract.Schema, wanted string) (string, error) {
	var known []string
	for s := schema.Deref(); s != nil; s = s.Items.Deref() {
		listed := s.Enum
		if s.Const != nil {
			listed = append(listed[:len(listed):len(listed)], s.Const)
		}
		for _, n := range listed {
			v := n.Value()
			text := v.String()
			if n.Kind == source.String {
				text = n.Text
			}
			if text == wanted {
				return wanted, nil
			}
			known = append(known, text)
		}
	}
	if known == nil {
		return "", refuse(Invalid, "a value is one of those that a parameter, a header or a field lists, and nothing is listed there")
	}
	return "", refuse(Invalid, "%s is none of the values listed there: %s%s", wanted, strings.Join(known, ", "),
		source.DidYouMean(wanted, known))
}

func operationNames(c *contract.Contract) []string {
	var names []string
	for _, op := range c.All() {
		names = append(names, op.Key())
		if op.ID != "" {
			names = append(names, op.ID)
		}
	}
	return names
}

// parameterIn finds a parameter by its name, or by its place and name.
func parameterIn(d Description, op *contract.Operation, wanted string) (string, *contract.Schema, error) {
	var found, names []string
	var schema *contract.Schema
	for _, p := range op.Parameters {
		names = append(names, p.Name)
		if placed := p.In + " " + p.Name; p.Name == wanted || placed == wanted {
			found = append(found, placed)
			schema, _ = p.Payload()
		}
	}
	switch len(found) {
	case 1:
		return found[0], schema, nil
	case 0:
		return "", nil, refuse(Invalid, "%s of %s has no parameter %s%s", op.Key(), d.Version.Ref(), wanted, source.DidYouMean(wanted, names))
	}
	return "", nil, refuse(Invalid, "%s of %s has %s: say which", op.Key(), d.Version.Ref(), strings.Join(found, " and "))
}

// fieldIn finds a field written as schema and property.
func fieldIn(d Description, field string) (string, *contract.Schema, error) {
	schema, property, ok := strings.Cut(field, ".")
	if !ok {
		return "", nil, refuse(Invalid, "a field is written as schema and property, such as Vessel.length, not %q", field)
	}
	s := d.Contract.Schema(schema)
	if s == nil {
		var names []string
		for _, o := range d.Contract.Schemas {
			names = append(names, o.Name)
		}
		return "", nil, refuse(Invalid, "%s has no schema %s%s", d.Version.Ref(), schema, source.DidYouMean(schema, names))
	}
	if s.OwnProperty(property) == nil {
		var names []string
		for _, p := range s.Own() {
			names = append(names, p.Name)
		}
		return "", nil, refuse(Invalid, "%s of %s has no field %s%s", schema, d.Version.Ref(), property, source.DidYouMean(property, names))
	}
	return field, s.OwnProperty(property), nil
}
