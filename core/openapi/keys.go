package openapi

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// since is from which to which version of OpenAPI an object has some keys.
type since struct {
	from, to dialect
	keys     string
}

// objects are the keys of each object of a description (OpenAPI 2.0 to 3.2.0, section "Schema" of each; schemas are in words.go).
// Those of path items are in pathItemKeys.
var objects = map[string][]since{
	"description": {
		{v20, v20, "swagger host basePath schemes consumes produces definitions parameters responses securityDefinitions"},
		{v30, v32, "openapi servers components"},
		{v31, v32, "webhooks jsonSchemaDialect"},
		{v32, v32, "$self"},
		{v20, v32, "info paths security tags externalDocs"},
	},
	"info":    {{v20, v32, "title description termsOfService contact license version"}, {v31, v32, "summary"}},
	"contact": {{v20, v32, "name url email"}},
	"license": {{v20, v32, "name url"}, {v31, v32, "identifier"}},
	"server":  {{v30, v32, "url description variables"}, {v32, v32, "name"}},
	"variable": {
		{v30, v32, "enum default description"},
	},
	"components": {
		{v30, v32, "schemas responses parameters examples requestBodies headers securitySchemes links callbacks"},
		{v31, v32, "pathItems"},
		{v32, v32, "mediaTypes"},
	},
	"tag":  {{v20, v32, "name description externalDocs"}, {v32, v32, "summary parent kind"}},
	"docs": {{v20, v32, "description url"}},
	"operation": {
		{v20, v32, "tags summary description externalDocs operationId parameters responses deprecated security"},
		{v20, v20, "consumes produces schemes"},
		{v30, v32, "requestBody callbacks servers"},
	},
	"parameter": {
		{v20, v32, "name in description required"},
		{v20, v20, "schema type format allowEmptyValue items collectionFormat default maximum exclusiveMaximum minimum exclusiveMinimum maxLength minLength pattern maxItems minItems uniqueItems enum multipleOf"},
		{v30, v32, "deprecated allowEmptyValue style explode allowReserved schema example examples content"},
	},
	"header": {
		{v20, v20, "description type format items collectionFormat default maximum exclusiveMaximum minimum exclusiveMinimum maxLength minLength pattern maxItems minItems uniqueItems enum multipleOf"},
		{v30, v32, "description required deprecated style explode schema example examples content allowEmptyValue allowReserved"},
	},
	"items of a parameter": {
		{v20, v20, "type format items collectionFormat default maximum exclusiveMaximum minimum exclusiveMinimum maxLength minLength pattern maxItems minItems uniqueItems enum multipleOf"},
	},
	"request body": {{v30, v32, "description content required"}},
	"media type":   {{v30, v32, "schema example examples encoding"}, {v32, v32, "itemSchema prefixEncoding itemEncoding"}},
	"encoding": {
		{v30, v32, "contentType headers style explode allowReserved"}, {v32, v32, "encoding prefixEncoding itemEncoding"},
	},
	"response": {{v20, v32, "description headers"}, {v20, v20, "schema examples"}, {v30, v32, "content links"}, {v32, v32, "summary"}},
	"example":  {{v30, v32, "summary description value externalValue"}, {v32, v32, "dataValue serializedValue"}},
	"link":     {{v30, v32, "operationRef operationId parameters requestBody description server"}},
	"security scheme": {
		{v20, v32, "type description name in"},
		{v20, v20, "flow authorizationUrl tokenUrl scopes"},
		{v30, v32, "scheme bearerFormat flows openIdConnectUrl"},
		{v32, v32, "oauth2MetadataUrl deprecated"},
	},
	"flow":          {{v30, v32, "authorizationUrl tokenUrl refreshUrl scopes"}, {v32, v32, "deviceAuthorizationUrl"}},
	"discriminator": {{v30, v32, "propertyName mapping"}, {v32, v32, "defaultMapping"}},
	"schema": {
		{v20, v32, "$ref title description default type enum multipleOf minimum maximum exclusiveMinimum exclusiveMaximum minLength maxLength pattern format"},
		{v20, v32, "minItems maxItems uniqueItems items properties required minProperties maxProperties additionalProperties allOf"},
		{v20, v32, "readOnly discriminator xml externalDocs example"},
		{v30, v32, "anyOf oneOf not writeOnly deprecated"},
		{v30, v30, "nullable"},
		{v31, v32, "const prefixItems contains minContains maxContains unevaluatedItems patternProperties propertyNames unevaluatedProperties"},
		{v31, v32, "dependentSchemas dependentRequired if then else examples contentEncoding contentMediaType contentSchema"},
		{v31, v32, "$schema $id $anchor $dynamicAnchor $dynamicRef $defs $comment $vocabulary"},
	},
}

// words are the keys of an object in a dialect; elsewhere, those that another dialect has, with its name.
type words struct {
	keys      []string
	elsewhere map[string]dialect
}

// vocabulary is known by object and dialect.
var vocabulary = func() map[string][v32 + 1]words {
	all := map[string][v32 + 1]words{}
	for object, groups := range objects {
		var of [v32 + 1]words
		for d := v20; d <= v32; d++ {
			k := words{elsewhere: map[string]dialect{}}
			for _, g := range groups {
				for _, key := range strings.Fields(g.keys) {
					switch {
					case d >= g.from && d <= g.to:
						k.keys = append(k.keys, key)
					case d < g.from:
						k.elsewhere[key] = g.from
					default:
						k.elsewhere[key] = g.to
					}
				}
			}
			slices.Sort(k.keys)
			of[d] = k
		}
		all[object] = of
	}
	return all
}()

var versionNames = [...]string{"2.0", "3.0", "3.1", "3.2"}

// keys tells of the keys of an object that its kind does not have. It may be asked of anything; what is told twice is one in the end.
func (r *reader) keys(n *source.Node, object string) {
	if n == nil || n.Kind != source.Mapping {
		return
	}
	d := r.dialectOf(n)
	of := vocabulary[object][d]
	for i := range n.Members {
		if key := n.Members[i].Key; !isExtension(key) && key != "$ref" {
			if _, has := slices.BinarySearch(of.keys, key); !has {
				r.report(r.unknownKey(n, n.Members[i], object, d))
			}
		}
	}
}

// unknownKey says what is wrong with a key that an object does not have.
func (r *reader) unknownKey(n *source.Node, m source.Member, object string, d dialect) *source.Diagnostic {
	of := vocabulary[object][d]
	a := article(object)
	if other, has := of.elsewhere[m.Key]; has {
		rule := contract.KeyOfOther
		if object == "schema" && groups[m.Key]&ofAnnotations != 0 || m.Key == "summary" || m.Key == "identifier" ||
			strings.HasPrefix(m.Key, "$") {
			rule = contract.KeyUnknown
		}
		return m.Value.KeyWrong(rule, "%s is a key of OpenAPI %s, and not of %s %s in %s, in which this is written; %s", m.Key,
			versionNames[other], a, object, versionNames[d], insteadOf(m.Key, d))
	}
	switch near := source.Nearest(m.Key, of.keys); {
	case near != "" && n.Get(near) != nil:
		return m.Value.KeyWrong(contract.KeyUnknown, "%s %s has no key %q; it looks like %s, which stands here already", a, object, m.Key,
			near).Also(n.Get(near), near)
	case near != "":
		return m.Value.KeyWrong(contract.KeyMisspelt, "%s %s has no key %q; did you mean %q?", a, object, m.Key, near).Rename(m.Value, near)
	}
	return m.Value.KeyWrong(contract.KeyUnknown, "%s %s has no key %q; a key of your own begins with x-", a, object, m.Key)
}

func article(noun string) string {
	if strings.IndexByte("aeio", noun[0]) >= 0 {
		return "an"
	}
	return "a"
}

// insteadOf says how a dialect says what a key says in another.
func insteadOf(key string, d dialect) string {
	switch {
	case key == "nullable":
		return `write type: [string, "null"], with the type that is meant`
	case key == "const":
		return "write enum with the one value"
	case key == "examples" && d == v30:
		return "write example"
	case key == "definitions":
		return "write it under components/schemas"
	case key == "consumes", key == "produces":
		return "write the media types under content"
	case key == "host", key == "basePath", key == "schemes":
		return "write servers"
	case key == "collectionFormat":
		return "write style and explode"
	case key == "patternProperties":
		return "write additionalProperties, which speaks of all other names"
	case key == "requestBody" && d == v20:
		return "write a parameter with in: body"
	case key == "content" && d == v20:
		return "write schema, and the media types under produces"
	case key == "servers" && d == v20:
		return "write host, basePath and schemes"
	case key == "components" && d == v20:
		return "write definitions"
	}
	return ""
}

// nearFix adds the fix that writes the nearest known word in the place of a value.
func (r *reader) nearFix(d *source.Diagnostic, n *source.Node, word string, known []string) *source.Diagnostic {
	if near := source.Nearest(word, known); near != "" {
		d.Rewrite(n, near)
	}
	return d
}
