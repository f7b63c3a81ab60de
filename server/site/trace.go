package site

import (
	"context"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/core/source"
	"oldledger/ledger"
)

// trace is where a notice comes from: the version it speaks of, the page of the part, the change that marked it, and the line where the
// part stands in the description.
type trace struct {
	links []anchor
	Guide string // the address of the guide that the notice names, "" where readers see none
	Use   string // the address of the version that the notice names as the one to use instead, "" where it names none
}

func (t *trace) add(address, text string) {
	if address != "" {
		t.links = append(t.links, anchor{address, text})
	}
}

// traces finds where the notices of an API come from, by their ids. What readers may not see is not led to.
func (s *Site) traces(ctx context.Context, who ledger.Actor, a ledger.API, into map[int64]trace) error {
	if len(a.Notices) == 0 {
		return nil
	}
	versions := published(a)
	history, err := s.ledger.Past(ctx, who, a.Name)
	if err != nil {
		return err
	}
	replacements, err := s.replacements(ctx, who, a.Notices)
	if err != nil {
		return err
	}
	for _, n := range a.Notices {
		i := slices.IndexFunc(versions, func(v ledger.Version) bool { return n.Covers(v.Number, v.Line) })
		if i < 0 {
			continue
		}
		v := versions[i]
		base := "/reference/" + a.Name + "/" + v.Number
		t := trace{Guide: guidePath(a, n)}
		if use, known := replacements[n.ReplacedBy]; known {
			t.Use = "/reference/" + use.API + "/" + use.Number + "/"
		}
		d, err := s.ledger.Description(ctx, who, v.Ref())
		if err != nil {
			return err
		}
		files, err := s.ledger.Files(ctx, who, v.Ref())
		if err != nil {
			return err
		}
		page, node := part(d.Contract, n)
		t.add(base+page, "version "+v.Number)
		if marked, change := markedIn(history, n); visible(a, marked) {
			t.add("/reference/"+a.Name+"/"+marked+"/changes#"+change, "marked in "+marked)
		}
		if node != nil {
			at := node.Place()
			t.add(placesOf(base, files).to(&at), "line "+strconv.Itoa(at.Line))
		}
		into[n.ID] = t
	}
	return nil
}

// part is the page below a version that shows what a notice speaks of, and where that stands.
func part(c *contract.Contract, n promise.Notice) (page string, node *source.Node) {
	if n.Field != "" {
		schema, property, _ := strings.Cut(n.Field, ".")
		s := c.Schema(schema)
		if s == nil {
			return "/", nil
		}
		if p := s.Property(property); p != nil {
			return "/schemas/" + url.PathEscape(schema) + "#" + property, p.Node
		}
		return "/schemas/" + url.PathEscape(schema), s.Node
	}
	if op := c.Lookup(n.Operation); n.Operation != "" && op != nil {
		return "/operations/" + url.PathEscape(reference.Slug(op)), partOf(op, n)
	}
	return "/", nil
}

// partOf is where the part of an operation stands that a notice speaks of.
func partOf(op *contract.Operation, n promise.Notice) *source.Node {
	for _, p := range op.Parameters {
		if n.Parameter == p.In+" "+p.Name {
			return p.Node
		}
	}
	for _, r := range op.Responses {
		for _, h := range r.Headers {
			if n.Header != "" && strings.EqualFold(h.Name, n.Header) {
				return h.Node
			}
		}
	}
	return op.Node
}

// markedIn finds the version that first marks as deprecated what a notice speaks of, and the change there.
func markedIn(history []promise.Past, n promise.Notice) (version, change string) {
	for _, p := range history {
		if p.Changes == nil || n.Whole() {
			continue
		}
		if ch := n.MarkedBy(p.Changes); ch != nil {
			return p.Version, ch.ID
		}
	}
	return "", ""
}

// guidePath is the address of the guide that a notice names.
func guidePath(a ledger.API, n promise.Notice) string {
	from, to, ok := strings.Cut(n.Guide, "..")
	if !ok || !visible(a, from) || !visible(a, to) {
		return ""
	}
	return "/reference/" + a.Name + "/guides/" + n.Guide
}

// visible reports whether readers see a version.
func visible(a ledger.API, number string) bool {
	return slices.ContainsFunc(a.Versions, func(v ledger.Version) bool { return v.Number == number && v.Shown() })
}

// traced gives the table of notices its traces.
func (s *Site) traced(ctx context.Context, who ledger.Actor, apis ...ledger.API) (map[int64]trace, error) {
	all := map[int64]trace{}
	for _, a := range apis {
		if err := s.traces(ctx, who, a, all); err != nil {
			return nil, fmt.Errorf("trace the notices of %s: %w", a.Name, err)
		}
	}
	return all, nil
}
