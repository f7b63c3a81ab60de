package housestyle

import (
	"encoding/json"
	"slices"
	"strings"
)

// Schema is the JSON Schema (2020-12) of style files, for completion in editors.
func Schema() string {
	type object = map[string]any
	text := func(says string) object { return object{"type": "string", "minLength": 1, "description": says} }
	texts := func(says string) object {
		return object{"description": says, "oneOf": []any{object{"type": "string"}, object{"type": "array", "items": object{"type": "string"}}}}
	}
	condition := func(says string) object { return object{"type": []string{"string", "boolean"}, "description": says} }
	weight := object{"enum": []any{"off", "hint", "warning", "error", false}, "description": "how much a finding weighs"}
	house := object{}
	for _, s := range settings {
		switch s.kind {
		case isWay:
			house[s.name] = object{"enum": append(slices.Clone(s.words), "most"), "description": s.says}
		case isCount:
			house[s.name] = object{"type": "integer", "minimum": 1, "maximum": 1_000_000, "default": s.count, "description": s.says}
		case isList:
			house[s.name] = texts(s.says)
		case isWords:
			house[s.name] = object{"type": "object", "additionalProperties": object{"type": "string", "minLength": 1}, "description": s.says}
		}
	}
	abouts := make([]string, 0, len(kinds))
	var kindWords []string
	for _, k := range kinds {
		if k.name != "node" {
			abouts = append(abouts, k.name)
			kindWords = append(kindWords, k.name+": "+k.says)
		}
	}
	houseSchema := object{"type": "object", "additionalProperties": false, "properties": house, "description": "what the company settles for all rules"}
	rule := object{
		"type": "object", "additionalProperties": false, "required": []string{"about", "must", "says"},
		"properties": object{
			"about": object{
				"description": "of what the rule speaks: " + strings.Join(kindWords, "; ") + "; or a JSONPath (RFC 9535) over the text",
				"anyOf":       []any{object{"enum": abouts}, object{"type": "string", "pattern": `^\$`}},
			},
			"where":  condition("which of them are meant: a condition (CEL); all where it is not there"),
			"must":   condition("what holds where nothing is wrong: a condition (CEL)"),
			"says":   text("what is wrong, with values in braces: {field.name}"),
			"right":  text("what would be right, with values in braces"),
			"at":     text("the key of the element at which a finding stands, such as summary"),
			"weight": weight,
			"why":    text("the reason for the rule, in Markdown"),
			"fix": object{
				"type": "object", "additionalProperties": false, "required": []string{"says"}, "description": "how a finding is mended without a thought",
				"properties": object{
					"says":   text("what the fix does"),
					"set":    object{"type": "object", "additionalProperties": condition("the value: a condition"), "description": "keys of the element and their values"},
					"remove": texts("keys of the element that are taken away; . is the element itself"),
					"rename": condition("the new key of the element"),
				},
			},
			"with": houseSchema,
			"good": texts("descriptions, or parts of them, in which the rule finds nothing"),
			"bad":  texts("descriptions, or parts of them, in which the rule finds something"),
		},
	}
	schema := object{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "House style",
		"type": "object", "additionalProperties": false, "required": []string{"house-style"},
		"properties": object{
			"house-style": text("the name of the style"),
			"says":        text("what the style is for, in Markdown"),
			"house":       houseSchema,
			"grading": object{
				"type": "object", "description": "kinds of change whose hazards count as breaking at the gate, each with the reason",
				"additionalProperties": object{"type": []string{"string", "boolean"}},
			},
			releasesKey: termsSchema(releasesKey, "what this house asks of what is published"),
			reviewKey:   termsSchema(reviewKey, "who looks at what is published"),
			"change": object{
				"type": "object", "description": "rules that weigh more, less or nothing here, each with the reason",
				"propertyNames": object{"pattern": "^[a-z0-9-]+$"},
				"additionalProperties": object{
					"type": "object", "additionalProperties": false, "required": []string{"weight", "because"},
					"properties": object{"weight": weight, "because": text("the reason")},
				},
			},
			"rules": object{
				"type": "object", "maxProperties": maxRules, "propertyNames": object{"pattern": "^[a-z0-9]+(-[a-z0-9]+)*$"},
				"additionalProperties": rule, "description": "rules of your own, by their names",
			},
		},
	}
	out, err := json.MarshalIndent(schema, "", "  ")
	if err != nil {
		panic(err) // maps, lists and texts
	}
	return string(out)
}

// termsSchema is the JSON Schema of a section of terms.
func termsSchema(section, says string) map[string]any {
	properties := map[string]any{}
	for _, t := range terms {
		if t.section != section {
			continue
		}
		is := map[string]any{"description": t.says, "enum": t.words}
		if t.words == nil {
			is = map[string]any{"description": t.says, "type": "integer", "minimum": 0, "maximum": MaxNotice}
		}
		properties[t.name] = is
	}
	return map[string]any{"type": "object", "additionalProperties": false, "description": says, "properties": properties}
}

// Plain is what a rule says, for a list of rules: the questions in its braces by what they ask for.
func Plain(says string) string {
	var b strings.Builder
	for rest := says; ; {
		open := strings.IndexByte(rest, '{')
		if open < 0 {
			b.WriteString(strings.ReplaceAll(rest, "}}", "}"))
			return b.String()
		}
		b.WriteString(strings.ReplaceAll(rest[:open], "}}", "}"))
		if strings.HasPrefix(rest[open:], "{{") {
			b.WriteByte('{')
			rest = rest[open+2:]
			continue
		}
		end := closing(rest[open:])
		if end < 0 {
			b.WriteString(rest[open:])
			return b.String()
		}
		b.WriteString(plainQuestion(rest[open+1 : open+end]))
		rest = rest[open+end+1:]
	}
}

// plainQuestion is a short name for what a condition asks.
func plainQuestion(question string) string {
	of, fact, dotted := strings.Cut(question, ".")
	if dotted && kindNamed(of) != nil && isCase(fact, Camel) {
		if fact == "called" {
			return "the " + of
		}
		return "‹" + fact + "›"
	}
	return "…"
}
