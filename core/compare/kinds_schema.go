package compare

// ranged are the ways in which a set of values can change.
var ranged = map[string]string{
	"-narrowed":  "less is admitted than before",
	"-widened":   "all that was admitted still is",
	"-changed":   "other values are admitted than before, or the same with another meaning",
	"-respelled": "the same values, written in another way",
}

// schemaKinds are the kinds about schemas, wherever they stand.
func schemaKinds() []Kind {
	var all []Kind
	add := func(name string, request, response Directions, meaning, old, new string) {
		all = append(all, Kind{
			Name: name, Group: "values", Places: schemaPlaces, Request: request, Response: &response, Meaning: meaning,
			Frame: InSchema, Old: old, New: new,
		})
	}
	// A set of values that one keyword draws: the smaller, a larger one, one that is neither, and another spelling of the smaller;
	// "" where there is no example.
	sets := func(stem, about, small, large, other, respelled string) {
		pair := func(old, new string) (string, string) {
			if old == "" || new == "" {
				return "", ""
			}
			return old, new
		}
		row := func(suffix string, request, response Directions, from, to string) {
			old, new := pair(from, to)
			add(stem+suffix, request, response, about+": "+ranged[suffix], old, new)
		}
		row("-narrowed", breaks, allows, large, small)
		row("-widened", allows, breaks, small, large)
		row("-changed", both, both, small, other)
		row("-respelled", words, words, small, respelled)
	}
	of := func(name, schema string) string { return "{type: object, properties: {" + name + ": " + schema + "}}" }

	add("keyword-unclear", risks, risks, "a keyword is a mistake whose meaning cannot be known, on one side or on both",
		"{type: string, minLength: [3]}", "{type: string, minLength: 3}")
	sets("type", "type", "{type: integer}", "{type: number}", "{type: string}", "")
	add("null-admitted", allows, breaks, "null may stand where it could not", "{type: string}", `{type: [string, "null"]}`)
	add("null-removed", breaks, allows, "null may no longer stand there", `{type: [string, "null"]}`, "{type: string}")
	sets("enum", "listed values", "{type: string, enum: [north, south]}", "{type: string, enum: [north, south, east]}",
		"{type: string, enum: [north, west]}", "{type: string, enum: [north, south, 7]}")
	add("value.renamed", both, both, "a listed value goes by another name", "{enum: [in_port, left]}", "{enum: [in-port, left]}")
	sets("range", "range of numbers", "{type: number, maximum: 5}", "{type: number, maximum: 9}", "{type: number, minimum: 1, maximum: 6}",
		"{type: number, maximum: 5.0, exclusiveMaximum: 6}")
	sets("multiple", "steps of numbers", "{type: integer, multipleOf: 4}", "{type: integer, multipleOf: 2}", "{type: integer, multipleOf: 6}",
		"")
	sets("length", "length of text", "{type: string, maxLength: 5}", "{type: string, maxLength: 9}",
		"{type: string, minLength: 2, maxLength: 7}", "")
	sets("pattern", "text", `{type: string, pattern: "^a+$"}`, `{type: string, pattern: "^a*$"}`, `{type: string, pattern: "^a?b$"}`,
		`{type: string, pattern: "^aa*$"}`)
	sets("format", "format of text", "{type: string, format: date}", "{type: string}", "{type: string, format: uuid}", "")
	sets("content-encoding", "encoding of text", "{type: string, contentEncoding: base64}", "{type: string}", "", "")
	add("content-changed", risks, risks, "the text is the same kind of string, and means something else inside",
		"{type: string, contentMediaType: text/csv}", "{type: string, contentMediaType: text/html}")
	sets("item-count", "length of lists", "{type: array, maxItems: 5}", "{type: array, maxItems: 9}",
		"{type: array, minItems: 2, maxItems: 7}", "")
	sets("uniqueness", "repetitions in lists", "{type: array, uniqueItems: true}", "{type: array}", "", "")
	sets("items", "items of lists", "{type: array, items: {type: string}}", "{type: array}", "", "")
	sets("contains", "what a list contains", "{type: array, contains: {const: 1}}", "{type: array}", "{type: array, contains: {const: 2}}", "")

	add("property.added", newRisks, newRisks, "a new property; nobody has to know it", "{type: object}", of("note", "{type: string}"))
	add("property.required-added", breakRisks, allows, "a message without it is refused, or it always comes", "{type: object}",
		"{type: object, required: [note], properties: {note: {type: string}}}")
	add("property.removed", oldRisks, oldRisks, "data that gets lost although nothing is refused", of("note", "{type: string}"),
		"{type: object}")
	add("property.renamed", risks, risks, "its value is sent where nobody reads it", of("length", "{type: number}"),
		of("lengthOverall", "{type: number}"))
	add("property.now-required", breaks, allows, "it must be there now", of("note", "{type: string}"),
		"{type: object, required: [note], properties: {note: {type: string}}}")
	add("property.now-optional", allows, breaks, "it may be missing now",
		"{type: object, required: [note], properties: {note: {type: string}}}", of("note", "{type: string}"))
	sets("rest", "properties that no list names", "{type: object, additionalProperties: {type: string}}",
		"{type: object, additionalProperties: true}", "", "")
	sets("size", "number of properties", "{type: object, additionalProperties: true, maxProperties: 5}",
		"{type: object, additionalProperties: true, maxProperties: 9}", "", "")
	sets("names", "names of properties", "{type: object, additionalProperties: true, propertyNames: {maxLength: 5}}",
		"{type: object, additionalProperties: true}", "", "")
	sets("dependencies", "what must stand together", "{type: object, properties: {a: {}, b: {}}, dependentRequired: {a: [b]}}",
		"{type: object, properties: {a: {}, b: {}}}", "", "")
	sets("pattern-properties", "properties by a pattern",
		`{type: object, additionalProperties: true, patternProperties: {"^x": {type: string}}}`, "{type: object, additionalProperties: true}", "",
		"")
	sets("unevaluated", "what no branch speaks of",
		"{type: object, anyOf: [{properties: {a: {}}}, {required: [b]}], unevaluatedProperties: {type: integer}}",
		"{type: object, anyOf: [{properties: {a: {}}}, {required: [b]}], unevaluatedProperties: {type: number}}", "", "")
	sets("alternatives", "alternatives", "{oneOf: [{type: string}, {type: boolean}]}",
		"{oneOf: [{type: string}, {type: boolean}, {type: number}]}", "", "")
	sets("exclusion", "what is ruled out", "{type: string, not: {const: a}}", "{type: string}", "", "")
	sets("condition", "what holds under a condition", "{type: string, if: {maxLength: 3}, then: {minLength: 2}}", "{type: string}", "", "")
	add("discriminator-changed", risks, risks, "programs that choose by the old property choose wrongly",
		"{discriminator: {propertyName: kind}, type: object, properties: {kind: {}, sort: {}}}",
		"{discriminator: {propertyName: sort}, type: object, properties: {kind: {}, sort: {}}}")
	add("discriminator-mapping-changed", risks, risks, "programs that choose by this value choose wrongly",
		"{discriminator: {propertyName: kind, mapping: {a: Sail}}, type: object, properties: {kind: {}}}",
		"{discriminator: {propertyName: kind, mapping: {a: Motor}}, type: object, properties: {kind: {}}}")
	add("discriminator-mapping-removed", oldRisks, oldRisks, "programs that choose by this value choose wrongly",
		"{discriminator: {propertyName: kind, mapping: {a: Motor}}, type: object, properties: {kind: {}}}",
		"{discriminator: {propertyName: kind}, type: object, properties: {kind: {}}}")
	add("discriminator-mapping-added", newRisks, newRisks, "another value names an alternative",
		"{discriminator: {propertyName: kind}, type: object, properties: {kind: {}}}",
		"{discriminator: {propertyName: kind, mapping: {a: Motor}}, type: object, properties: {kind: {}}}")
	add("default-changed", risks, words, "what the server fills in when nothing is sent; in an answer it changes nothing on the wire",
		"{type: integer, default: 10}", "{type: integer, default: 20}")
	add("access-changed", oldRisks, words, "in which direction a property travels", of("id", "{type: string}"),
		of("id", "{type: string, readOnly: true}"))
	add("deprecated", words, words, "it works as before, and is announced to leave", of("note", "{type: string}"),
		of("note", "{type: string, deprecated: true}"))
	add("undeprecated", words, words, "it stays", of("note", "{type: string, deprecated: true}"), of("note", "{type: string}"))
	add("wording-changed", words, words, "only wording changed", "{type: string, description: Old.}", "{type: string, description: New.}")
	add("extension-changed", words, words, "extension fields do not stand on the wire", "{type: string, x-team: quayside}",
		"{type: string, x-team: navigation}")
	add("xml-changed", words, words, "how a value is written in XML: a hazard where messages are XML", "{type: string, xml: {name: note}}",
		"{type: string, xml: {name: remark}}")
	add("schema-changed", both, both, "other messages are admitted than before, for no single reason", "", "")
	add("schema-respelled", words, words, "the same values, written in another way", "{oneOf: [{type: string}, {type: integer}]}",
		"{anyOf: [{type: integer}, {type: string}]}")
	schema := row("values", InDescription)
	return append(all,
		schema("schema.added", allows, "a shared schema that nobody has to use", "components: {schemas: {Berth: {type: object}}}",
			"components: {schemas: {Berth: {type: object}, Quay: {type: object}}}"),
		schema("schema.removed", breaks, "descriptions that refer to it lead nowhere",
			"components: {schemas: {Berth: {type: object}, Quay: {type: object}}}", "components: {schemas: {Berth: {type: object}}}"),
	)
}
