package housestyle

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// part is what the contract holds of an element.
func part[T any](f func(T, *element) ref.Val) func(*element) ref.Val {
	return func(e *element) ref.Val { return f(e.part.(T), e) }
}

var nameFact = fact{"name", isText, "its name", func(e *element) ref.Val { return text(e.name) }}

// calledFact is that of all elements.
var calledFact = fact{"called", isText, "how a message names it: `the field berthId`", func(e *element) ref.Val { return text(e.called()) }}

var apiFacts = []fact{
	{"name", isText, "its short name in the ledger", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.Name) })},
	calledFact,
	{"title", isText, "its title", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.Title) })},
	{"summary", isText, "what it is, in a line", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.Summary) })},
	{"description", isText, "what it says of itself", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.About()) })},
	{"version", isText, "its version, as written", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.Version) })},
	{"dialect", isText, "how it is written: `openapi-3.1`, `raml-1.0`", part(func(c *contract.Contract, _ *element) ref.Val {
		return text(c.Dialect)
	})},
	{"contact", isText, "how to reach who answers for it: an address, or a name", part(func(c *contract.Contract, _ *element) ref.Val {
		for _, s := range []string{c.Contact.Email, c.Contact.URL, c.Contact.Name} {
			if s != "" {
				return types.String(s)
			}
		}
		return nil
	})},
	{"license", isText, "under what it may be used", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.License.Name) })},
	{"terms", isText, "where its terms stand", part(func(c *contract.Contract, _ *element) ref.Val { return text(c.Terms) })},
	{"servers", listOf("server"), "its addresses", func(e *element) ref.Val { return e.x.listed("server") }},
	{"groups", listOf("group"), "its groups", func(e *element) ref.Val { return e.x.listed("group") }},
	{"paths", listOf("path"), "its paths", func(e *element) ref.Val { return e.x.listed("path") }},
	{"operations", listOf("operation"), "its operations, webhooks and callbacks among them", func(e *element) ref.Val {
		return e.x.listed("operation")
	}},
	{"types", listOf("type"), "its named schemas", func(e *element) ref.Val { return e.x.listed("type") }},
	{"schemes", listOf("scheme"), "its security schemes", func(e *element) ref.Val { return e.x.listed("scheme") }},
	{"secured", isFlag, "whether one of its operations asks who calls", func(e *element) ref.Val {
		return flag(slices.ContainsFunc(e.x.c.Operations, isSecured))
	}},
	extensionFact(func(e *element) []contract.Extension { return extensionsOf(e) }),
}

var serverFacts = []fact{
	{"url", isText, "the address, its variables in braces", func(e *element) ref.Val { return text(e.name) }},
	{
		"protocol", isText, "`https` of `https://api.saltmere.example/v2`; nothing of an address without one",
		func(e *element) ref.Val {
			before, _, found := strings.Cut(e.name, "://")
			if !found {
				return nil
			}
			return text(strings.ToLower(before))
		},
	},
	{"host", isText, "`api.saltmere.example` of `https://api.saltmere.example/v2`", func(e *element) ref.Val { return text(hostOf(e.name)) }},
	{"basePath", isText, "`/v2` of `https://api.saltmere.example/v2`", func(e *element) ref.Val {
		_, after, found := strings.Cut(e.name, "://")
		if !found {
			after = e.name
		}
		if i := strings.IndexByte(after, '/'); i >= 0 {
			return text(after[i:])
		}
		return nil
	}},
	{"description", isText, "what it is for", part(func(s *contract.Server, _ *element) ref.Val { return text(s.Description) })},
}

// hostOf is the host of an address, without its port.
func hostOf(address string) string {
	_, after, found := strings.Cut(address, "://")
	if !found {
		return ""
	}
	host, _, _ := strings.Cut(after, "/")
	if i := strings.LastIndexByte(host, ':'); i > 0 && !strings.HasSuffix(host, "]") && !strings.Contains(host[i:], "}") {
		host = host[:i]
	}
	return strings.ToLower(host)
}

var groupFacts = []fact{
	nameFact, calledFact,
	{"description", isText, "what belongs to it", part(func(t *contract.Tag, _ *element) ref.Val { return text(t.Description) })},
	{"used", isFlag, "whether an operation belongs to it", func(e *element) ref.Val { return flag(e.x.grouped()[e.name]) }},
}

var schemeFacts = []fact{
	nameFact, calledFact,
	{"kind", isText, "`apiKey`, `http`, `mutualTLS`, `oauth2` or `openIdConnect`", part(func(s *contract.SecurityScheme, _ *element) ref.Val {
		return text(s.Type)
	})},
	{"scheme", isText, "of the kind `http`: `basic`, `bearer`, …", part(func(s *contract.SecurityScheme, _ *element) ref.Val {
		return text(strings.ToLower(s.Scheme))
	})},
	{"location", isText, "of the kind `apiKey`: `header`, `query` or `cookie`", part(func(s *contract.SecurityScheme, _ *element) ref.Val {
		return text(s.In)
	})},
	{"description", isText, "how one gets in", part(func(s *contract.SecurityScheme, _ *element) ref.Val { return text(s.Description) })},
	{"scopes", listOf("scope"), "the permissions that it grants", part(func(s *contract.SecurityScheme, e *element) ref.Val {
		return elements(e.x.scopesOf(s, e))
	})},
	{"used", isFlag, "whether an operation asks for it", part(func(s *contract.SecurityScheme, e *element) ref.Val {
		return flag(e.x.asked()[s.Name])
	})},
}

var scopeFacts = []fact{
	nameFact, calledFact,
	{"description", isText, "what it permits", part(func(s contract.Scope, _ *element) ref.Val { return text(s.Description) })},
	{"scheme", isText, "the name of its security scheme", func(e *element) ref.Val { return text(e.of.name) }},
}

var pathFacts = []fact{
	nameFact, calledFact,
	{"steps", isTexts, "what stands between its slashes", func(e *element) ref.Val { return texts(stepsOf(e.name)) }},
	{"collections", isTexts, "the steps that a parameter follows: `berths` of `/berths/{berth}`", func(e *element) ref.Val {
		return texts(collectionsOf(e.name))
	}},
	{"parameters", isTexts, "the names in its braces", func(e *element) ref.Val { return texts(contract.PathNames(e.name)) }},
	{"operations", listOf("operation"), "what may be called there", func(e *element) ref.Val {
		var list []*element
		for _, op := range e.x.of("operation") {
			if o := op.part.(*contract.Operation); o.PathNode == e.node && o.Webhook == "" {
				list = append(list, op)
			}
		}
		return elements(list)
	}},
}

// stepsOf are what stands between the slashes of a path.
func stepsOf(path string) []string {
	return slices.DeleteFunc(strings.Split(strings.Split(path, "?")[0], "/"), func(s string) bool { return s == "" })
}

// collectionsOf are the steps of a path that a parameter follows.
func collectionsOf(path string) []string {
	var found []string
	steps := stepsOf(path)
	for i, step := range steps {
		if i+1 < len(steps) && strings.HasPrefix(steps[i+1], "{") && strings.HasSuffix(steps[i+1], "}") && !strings.Contains(step, "{") {
			found = append(found, step)
		}
	}
	return found
}

var bodyFacts = []fact{
	calledFact,
	{"description", isText, "what it is", part(func(b *contract.Body, _ *element) ref.Val { return text(b.Description) })},
	{"required", isFlag, "whether it must be there", part(func(b *contract.Body, _ *element) ref.Val { return flag(b.Required) })},
	{"contents", listOf("content"), "its media types", part(func(b *contract.Body, e *element) ref.Val {
		return elements(e.x.contents(b.Content, e, sent))
	})},
	extensionFact(func(e *element) []contract.Extension { return extensionsOf(e) }),
}

var responseFacts = []fact{
	calledFact,
	{"status", isText, "`200`, `4XX` or `default`", func(e *element) ref.Val { return text(e.name) }},
	{"description", isText, "what it says", part(func(r *contract.Response, _ *element) ref.Val { return text(r.Description) })},
	{"ok", isFlag, "whether it stands for success: 2XX", func(e *element) ref.Val { return flag(strings.HasPrefix(e.name, "2")) }},
	{"failed", isFlag, "whether it stands for a failure: 4XX, 5XX, default", func(e *element) ref.Val { return flag(isFailure(e.name)) }},
	{"media", isTexts, "the media types of its contents", part(func(r *contract.Response, _ *element) ref.Val {
		list := make([]string, len(r.Content))
		for i, m := range r.Content {
			list[i] = m.Type
		}
		return texts(list)
	})},
	{"headers", listOf("header"), "its headers", part(func(r *contract.Response, e *element) ref.Val {
		var list []*element
		for _, h := range r.Headers {
			list = append(list, e.x.parameter("header", h, e, received))
		}
		return elements(list)
	})},
	{"contents", listOf("content"), "its media types", part(func(r *contract.Response, e *element) ref.Val {
		return elements(e.x.contents(r.Content, e, received))
	})},
	extensionFact(func(e *element) []contract.Extension { return extensionsOf(e) }),
}

func isFailure(status string) bool {
	return strings.HasPrefix(status, "4") || strings.HasPrefix(status, "5") || status == "default"
}

var contentFacts = []fact{
	{"media", isText, "its media type, as written", func(e *element) ref.Val { return text(e.name) }},
	calledFact,
	{"json", isFlag, "whether it is JSON", func(e *element) ref.Val { return flag(isJSON(e.name)) }},
	{"status", isText, "the status of the answer in which it stands; nothing in a request", func(e *element) ref.Val {
		if e.of == nil || e.of.kind.name != "response" {
			return nil
		}
		return text(e.of.name)
	}},
	{"schema", types.NewObjectType("schema"), "what it holds; `has(content.schema)` asks whether it is said", func(e *element) ref.Val {
		if e.schema == nil {
			return nil
		}
		return e.x.schemaElement(e.schema, e, "", e.ways)
	}},
	{"examples", isWhole, "how many examples its author wrote, those of its schema among them", part(func(m *contract.Media, e *element) ref.Val {
		return types.Int(len(m.Examples) + examplesOf(e.schema))
	})},
	{
		"exampled", isFlag, "whether an example stands for all of it: one of its own, of its schema, or of each of its fields",
		part(func(m *contract.Media, e *element) ref.Val {
			return flag(len(m.Examples) > 0 || isExampled(e.schema, 0))
		}),
	},
	{"sent", isFlag, "whether clients send it", func(e *element) ref.Val { return flag(e.ways&sent != 0) }},
	{"received", isFlag, "whether clients receive it", func(e *element) ref.Val { return flag(e.ways&received != 0) }},
	extensionFact(func(e *element) []contract.Extension { return extensionsOf(e) }),
}

func isJSON(media string) bool {
	kind, _, _ := strings.Cut(strings.ToLower(media), ";")
	kind = strings.TrimSpace(kind)
	return kind == "application/json" || strings.HasSuffix(kind, "+json")
}

// examplesOf counts what a schema's authors wrote as examples of it as a whole.
func examplesOf(s *contract.Schema) int {
	if s == nil {
		return 0
	}
	n := 0
	for _, p := range s.Conjuncts() {
		n += len(p.Examples())
	}
	return n
}

// maxExampleDepth bounds how deep examples are looked for.
const maxExampleDepth = 6

// isExampled reports whether a schema or all parts of it have an example, a list of values, or a value that needs none.
func isExampled(s *contract.Schema, depth int) bool {
	if s == nil || depth > maxExampleDepth {
		return false
	}
	fields := 0
	for _, p := range s.Conjuncts() {
		if len(p.Examples()) > 0 || p.HasEnum || p.Const != nil || slices.Contains(p.Types, "boolean") || p.Format == "date" ||
			p.Format == "date-time" || p.Format == "uuid" || p.Default != nil {
			return true
		}
		if p.Items != nil && isExampled(p.Items, depth+1) {
			return true
		}
		for _, f := range p.Properties {
			if !isExampled(f.Schema, depth+1) {
				return false
			}
			fields++
		}
	}
	return fields > 0
}

var choiceFacts = []fact{
	nameFact, calledFact,
	{"siblings", isWhole, "how many values the list has", func(e *element) ref.Val { return types.Int(len(e.schema.Enum)) }},
	{"sent", isFlag, "whether clients send it", func(e *element) ref.Val { return flag(e.ways&sent != 0) }},
	{"received", isFlag, "whether clients receive it", func(e *element) ref.Val { return flag(e.ways&received != 0) }},
	{"description", isText, "what the list says of itself", func(e *element) ref.Val { return text(e.of.described()) }},
}

var nodeFacts = []fact{
	{"name", isText, "its key, or its index in a list", func(e *element) ref.Val { return text(e.name) }},
	{"pointer", isText, "where it stands, as a JSON Pointer", func(e *element) ref.Val { return types.String(e.node.Pointer()) }},
	{"value", isAny, "what stands there", func(e *element) ref.Val { return nodeValue(e.node) }},
	{"parent", types.NewObjectType("node"), "what it stands in; `has(node.parent)` asks whether it is not the whole", func(e *element) ref.Val {
		if e.node.Parent() == nil {
			return nil
		}
		return e.x.node(e.node.Parent())
	}},
}

// extensionsOf are the extension fields of an element; in RAML, its annotations.
func extensionsOf(e *element) []contract.Extension {
	switch p := e.part.(type) {
	case *contract.Contract:
		return slices.Concat(p.Extensions, p.InfoExtensions)
	case *contract.Operation:
		return p.Extensions
	case *contract.Parameter:
		return p.Extensions
	case *contract.Body:
		return p.Extensions
	case *contract.Response:
		return p.Extensions
	case *contract.Media:
		return p.Extensions
	case *contract.SecurityScheme:
		return p.Extensions
	}
	if e.schema != nil {
		return e.schema.Extensions()
	}
	return written(e.node)
}

// written are the extension fields that stand in a node.
func written(n *source.Node) []contract.Extension {
	var list []contract.Extension
	if n == nil {
		return nil
	}
	for _, m := range n.Members {
		if strings.HasPrefix(m.Key, "x-") {
			list = append(list, contract.Extension{Name: m.Key, Node: m.Value})
		}
	}
	return list
}
