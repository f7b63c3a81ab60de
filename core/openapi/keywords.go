package openapi

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// group is a set of keywords that are read together. Most schemas speak of one or two.
type group uint16

const (
	ofAnnotations group = 1 << iota
	ofTypes
	ofNumbers
	ofStrings
	ofArrays
	ofObjects
	ofCompositions
	newer     // came with OpenAPI 3.1
	withRules // says something only in some dialects
)

var groups = func() map[string]group {
	all := map[string]group{}
	for g, keywords := range map[group][]string{
		ofAnnotations: {
			"title", "description", "default", "example", "examples", "readOnly", "writeOnly", "deprecated", "contentEncoding",
			"contentMediaType", "externalDocs", "xml",
		},
		ofTypes:   {"type", "nullable", "enum", "const"},
		ofNumbers: {"multipleOf", "minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum"},
		ofStrings: {"minLength", "maxLength", "pattern", "format"},
		ofArrays: {
			"minItems", "maxItems", "uniqueItems", "items", "prefixItems", "contains", "minContains", "maxContains",
			"unevaluatedItems",
		},
		ofObjects: {
			"properties", "required", "minProperties", "maxProperties", "additionalProperties", "patternProperties", "propertyNames",
			"unevaluatedProperties", "dependentSchemas", "dependentRequired",
		},
		ofCompositions: {"allOf", "anyOf", "oneOf", "not", "if", "then", "else", "discriminator", "$dynamicRef"},
	} {
		for _, k := range keywords {
			all[k] = g
		}
	}
	before := vocabulary["schema"][v30].keys
	for k := range all {
		if _, has := slices.BinarySearch(before, k); !has {
			all[k] |= newer
		}
	}
	for _, k := range []string{"nullable", "writeOnly", "deprecated"} {
		all[k] |= withRules
	}
	return all
}()

// groupsOf tells of which groups keywords are there, and of keywords that do not exist.
func (r *reader) groupsOf(n *source.Node, s *contract.Schema) group {
	var said group
	old := r.dialectOf(n).before31()
	for i := range n.Members {
		key := n.Members[i].Key
		g := groups[key]
		said |= g
		switch {
		case g == 0 && isExtension(key):
			said |= ofAnnotations
		case g&(newer|withRules) == 0 && g != 0:
		case g == 0 || old && g&newer != 0:
			if s.Unsupported() == nil { // other rules have other keywords
				r.strange(n, n.Members[i])
			}
		case key == "nullable" && r.dialectOf(n) != v30:
			r.nullable(n, n.Members[i])
		case key == "writeOnly" || key == "deprecated":
			if r.dialectOf(n) == v20 {
				r.strange(n, n.Members[i])
			}
		}
	}
	return said
}

// strange tells of a key that may be no keyword of the schema's dialect.
func (r *reader) strange(n *source.Node, m source.Member) {
	d := r.dialectOf(n)
	if _, has := slices.BinarySearch(vocabulary["schema"][d].keys, m.Key); has || r.alone && slices.Contains(legacy, m.Key) {
		return
	}
	if m.Key == "$ref" || d >= v31 && slices.Contains(legacy, m.Key) {
		return
	}
	r.report(r.unknownKey(n, m, "schema", d))
}

// legacy are keywords of earlier JSON Schemas that say nothing of values by themselves.
var legacy = []string{"definitions", "id", "$recursiveAnchor"}

// nullable tells of nullable where it says nothing.
func (r *reader) nullable(n *source.Node, m source.Member) {
	d := m.Value.KeyWrong(contract.NullableIgnored, "nullable is a key of OpenAPI 3.0 and says nothing in %s; write %s",
		versionNames[r.dialectOf(n)], typeWithNull(n, r.dialectOf(n)))
	if m.Value.Kind == source.Boolean && !m.Value.Bool {
		d.Severity, d.Right = source.Warning, "take it out"
	}
	r.report(d)
}

func typeWithNull(n *source.Node, d dialect) string {
	if d == v20 {
		return "x-nullable, or OpenAPI 3.0"
	}
	if t := n.Get("type"); t != nil && t.Kind == source.String {
		return `type: [` + t.Text + `, "null"]`
	}
	return `anyOf with {type: "null"}`
}

// siblings tells of what stands beside a $ref that makes it say nothing.
func (r *reader) siblings(n *source.Node) {
	var words, rules []source.Member
	for _, m := range n.Members {
		switch {
		case m.Key == "$ref" || isExtension(m.Key):
		case groups[m.Key]&ofAnnotations != 0 || m.Key == "summary":
			words = append(words, m)
		default:
			rules = append(rules, m)
		}
	}
	tell := func(rule source.Rule, ms []source.Member) {
		if len(ms) == 0 {
			return
		}
		keys := make([]string, len(ms))
		for i, m := range ms {
			keys[i] = m.Key
		}
		verb := "says"
		if len(ms) > 1 {
			verb = "say"
		}
		r.report(ms[0].Value.KeyWrong(rule, "beside $ref, %s %s nothing in OpenAPI %s; put the reference into allOf, and the rest beside that",
			strings.Join(keys, ", "), verb, versionNames[r.dialectOf(n)]))
	}
	tell(contract.WordsIgnored, words)
	tell(contract.KeyIgnored, rules)
}
