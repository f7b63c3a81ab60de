package compare

import (
	"crypto/sha256"
	"encoding/hex"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// fingerprint names what changed by its kind, its place and what stood and stands there: another limit is another change. Neither the words
// in which it is told, nor the line on which it stands, nor the order of operations and parameters count.
func (f *finding) fingerprint(ch *Change) string {
	parts := []string{f.kind}
	for _, side := range []struct {
		n  *source.Node
		at *Place
	}{{f.old, ch.Old}, {f.new, ch.New}} {
		if side.n == nil {
			parts = append(parts, "-")
			continue
		}
		parts = append(parts, side.at.address(f.at), saidAt(side.n))
	}
	if f.old == nil && f.new == nil {
		parts = append(parts, f.operation)
	}
	return digest(append(parts, f.detail))
}

func digest(parts []string) string {
	sum := sha256.Sum256([]byte(strings.Join(parts, "\n")))
	return hex.EncodeToString(sum[:6])
}

// address is the place as it is said whatever stands around it: below the named part that holds it, or in its operation.
func (p *Place) address(at Location) string {
	if p.within != "" {
		return p.within
	}
	pointer := p.Pointer
	if rest, is := strings.CutPrefix(pointer, "/paths/"); is {
		path, below, _ := strings.Cut(rest, "/")
		pointer = "/paths/" + source.EscapeStep(contract.WirePath(unescaped.Replace(path))) + "/" + below
	}
	if at.Part == PartParameter { // known by its name, not by where it stands in the list
		pointer = numberedParameter.ReplaceAllLiteralString(pointer, "/parameters/"+at.In+" "+at.Name)
	}
	return pointer
}

var numberedParameter = regexp.MustCompile(`/parameters/\d+`)

// saidAt is what stands at a place that holds a value or a list of values, "" for what holds more.
func saidAt(n *source.Node) string {
	scalar := func(n *source.Node) bool { return n.Kind != source.Sequence && n.Kind != source.Mapping }
	if scalar(n) || n.Kind == source.Sequence && !slices.ContainsFunc(n.Items(), func(item *source.Node) bool { return !scalar(item) }) {
		return n.Value().Key()
	}
	return ""
}

// HasID reports whether an id names the change: its own, or the one that it had before ids were made of kind and place. What was kept under
// such an id, a waiver or a text, is still about the change.
func (c *Change) HasID(id string) bool { return id == c.ID || slices.Contains(c.formerly(), id) }

// formerly are the ids that earlier builds gave the change: with its title, by its former kind, and with no place for what went or came.
func (c *Change) formerly() []string {
	kinds := []string{c.Kind}
	for now, was := range formerKinds {
		if former, is := strings.CutSuffix(c.Kind, now); is {
			kinds = append(kinds, former+was)
		}
	}
	places := [][2]*Place{{c.Old, c.New}, {c.Old, nil}, {nil, c.New}}
	var all []string
	for _, kind := range kinds {
		for _, sides := range places {
			parts := []string{kind}
			for _, p := range sides {
				if p == nil {
					parts = append(parts, "-")
				} else {
					parts = append(parts, p.Pointer)
				}
			}
			if sides == [2]*Place{} {
				parts = append(parts, c.Operation)
			}
			all = append(all, digest(append(parts, c.Title)))
		}
	}
	return all
}

// formerKinds are how kinds ended in earlier builds, by how they end now.
var formerKinds = map[string]string{"now-required": "became-required", "now-optional": "became-optional"}
