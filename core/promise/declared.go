package promise

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// DeprecatedField is the extension, and the RAML annotation (deprecated), by which a description announces itself what leaves: an
// object with since and sunset (dates), instead, reason and guide ("1.2.0..2.0.0"); values names those of an enum that alone are meant. A
// text alone is the reason.
const DeprecatedField = contract.DeprecatedField

var declaredKeys = []string{"since", "sunset", "instead", "reason", "guide", "values"}

// Declared lists the notices that a description makes itself: of the API, of operations, their parameters and the headers of their
// answers, and of fields of named schemas. What is
// deprecated without a date or a reason is no notice, only marked. The diagnostics tell of wrong dates and unknown keys.
func Declared(c *contract.Contract) ([]Notice, source.Diagnostics) {
	d := &declaring{}
	d.take(Notice{}, c.Extensions)
	d.take(Notice{}, c.InfoExtensions)
	for _, op := range c.All() {
		d.take(Notice{Operation: op.Key(), Written: op.Written()}, op.Extensions)
		for _, p := range op.Parameters {
			d.take(Notice{Operation: op.Key(), Written: op.Written(), Parameter: p.In + " " + p.Name}, p.Extensions)
		}
		for _, r := range op.Responses {
			for _, h := range r.Headers {
				if n := (Notice{Operation: op.Key(), Written: op.Written(), Header: h.Name}); !d.has(n) { // several answers may have it
					d.take(n, h.Extensions)
				}
			}
		}
	}
	for _, s := range c.Schemas {
		for _, p := range s.Own() {
			d.take(Notice{Field: s.Name + "." + p.Name}, p.Schema.Extensions())
		}
	}
	return d.notices, d.diagnostics
}

// aPair is how a guide is named: by its two versions.
var aPair = regexp.MustCompile(`^[0-9A-Za-z][0-9A-Za-z.+-]*\.\.[0-9A-Za-z][0-9A-Za-z.+-]*$`)

type declaring struct {
	notices     []Notice
	diagnostics source.Diagnostics
}

func (d *declaring) take(n Notice, all []contract.Extension) {
	for _, e := range all {
		if e.Name != DeprecatedField || e.Node == nil {
			continue
		}
		var values []string
		switch e.Node.Kind {
		case source.String:
			n.Reason = strings.TrimSpace(e.Node.Text)
		case source.Mapping:
			values = d.fill(&n, e.Node)
		}
		if n.Reason == "" && n.Sunset == "" {
			continue
		}
		if values == nil {
			values = []string{""}
		}
		for _, v := range values {
			n.Value = v
			d.notices = append(d.notices, n)
		}
	}
}

func (d *declaring) wrong(n *source.Node, format string, args ...any) {
	d.diagnostics = append(d.diagnostics, n.Wrong(contract.DeprecationBroken, format, args...))
}

// has reports whether something was said of that part already.
func (d *declaring) has(n Notice) bool {
	return slices.ContainsFunc(d.notices, func(o Notice) bool { return o.Operation == n.Operation && o.Header == n.Header })
}

// fill reads the object; values are those of an enum that it names, nil for none.
func (d *declaring) fill(n *Notice, from *source.Node) (values []string) {
	for _, m := range from.Members {
		if !slices.Contains(declaredKeys, m.Key) {
			d.diagnostics = append(d.diagnostics, m.Value.KeyWrong(contract.DeprecationBroken, "a deprecation has no key %q; %s", m.Key,
				source.DidYouMean(m.Key, declaredKeys)))
			continue
		}
		text := strings.TrimSpace(m.Value.Text)
		switch m.Key {
		case "instead":
			n.ReplacedBy = text
		case "reason":
			n.Reason = text
		case "guide":
			if n.Guide = text; !aPair.MatchString(text) {
				d.wrong(m.Value, "%q names no guide; write two versions, such as 1.2.0..2.0.0", text)
				n.Guide = ""
			}
		case "values":
			for _, it := range m.Value.Items() {
				values = append(values, valueText(it))
			}
			if len(values) == 0 || n.Field+n.Parameter+n.Header == "" {
				d.wrong(m.Value, "values names nothing here; it lists some of the values of a field, a parameter or a header, such as [held]")
			}
		default:
			if _, err := time.Parse(time.DateOnly, text); err != nil {
				d.wrong(m.Value, "%s is %q; it is a date, such as 2027-03-01", m.Key, text)
				continue
			}
			if m.Key == "since" {
				n.Since = text
			} else {
				n.Sunset = text
			}
		}
	}
	if n.Since != "" && n.Sunset != "" && n.Sunset <= n.Since {
		d.wrong(from.Get("sunset"), "the sunset %s does not come after %s, from when the notice holds; write a later date", n.Sunset, n.Since)
		n.Sunset = ""
	}
	return values
}

// valueText is a listed value as notices name it: a text without its quotes.
func valueText(n *source.Node) string {
	if n.Kind == source.String {
		return n.Text
	}
	return n.Value().String()
}
