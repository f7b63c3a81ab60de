package housestyle

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/source"
)

var operationFacts = []fact{
	{
		"name", isText, "what a reader calls it: its summary, its id, or its method and path",
		part(func(o *contract.Operation, _ *element) ref.Val { return text(o.Name()) }),
	},
	calledFact,
	{"id", isText, "its operationId", part(func(o *contract.Operation, _ *element) ref.Val { return text(o.ID) })},
	{"method", isText, "its method, in capitals", part(func(o *contract.Operation, _ *element) ref.Val { return text(o.Method) })},
	{"path", isText, "its path, as written", part(func(o *contract.Operation, _ *element) ref.Val { return text(o.Path) })},
	{"summary", isText, "what it does, in a line", part(func(o *contract.Operation, _ *element) ref.Val { return text(o.Summary) })},
	{"description", isText, "what it does", part(func(o *contract.Operation, _ *element) ref.Val { return text(o.Description) })},
	{"groups", isTexts, "the names of its groups", part(func(o *contract.Operation, _ *element) ref.Val { return texts(o.Tags) })},
	{
		"webhook", isFlag, "whether the API calls it, and not the client: webhooks and callbacks",
		part(func(o *contract.Operation, _ *element) ref.Val { return flag(o.Webhook != "") }),
	},
	{
		"parameters", listOf("parameter"), "its parameters, those of its path among them",
		part(func(o *contract.Operation, e *element) ref.Val {
			list := make([]*element, len(o.Parameters))
			for i, p := range o.Parameters {
				list[i] = e.x.parameter("parameter", p, e, sent)
			}
			return elements(list)
		}),
	},
	{
		"body", kindType("body"), "the body of its request; `has(operation.body)` asks for one",
		part(func(o *contract.Operation, e *element) ref.Val {
			if o.Body == nil {
				return nil
			}
			return e.x.make("body", o.Body.Node, "", o.Body, e)
		}),
	},
	{"responses", listOf("response"), "its answers", part(func(o *contract.Operation, e *element) ref.Val {
		list := make([]*element, len(o.Responses))
		for i, r := range o.Responses {
			list[i] = e.x.make("response", r.Node, r.Status, r, e)
		}
		return elements(list)
	})},
	{"statuses", isTexts, "the statuses of its answers", part(func(o *contract.Operation, _ *element) ref.Val {
		list := make([]string, len(o.Responses))
		for i, r := range o.Responses {
			list[i] = r.Status
		}
		return texts(list)
	})},
	{"asks", isTexts, "the names of the security schemes that may be asked for", part(func(o *contract.Operation, _ *element) ref.Val {
		var list []string
		for _, r := range o.Security {
			for _, s := range r.Schemes {
				list = append(list, s.Scheme.Name)
			}
		}
		return texts(list)
	})},
	{"secured", isFlag, "whether nobody may call it without proving who they are", part(func(o *contract.Operation, _ *element) ref.Val {
		return flag(isSecured(o))
	})},
	{"says", isTexts, "the keys that its author wrote", part(func(o *contract.Operation, _ *element) ref.Val { return texts(keysOf(o.Node)) })},
	{"lists", isFlag, "whether its answer is a list, or holds one as its main part", part(func(o *contract.Operation, _ *element) ref.Val {
		return flag(o.Method == "GET" && listOfAnswer(o) != nil)
	})},
	{"deprecated", isFlag, "whether it is deprecated", part(func(o *contract.Operation, _ *element) ref.Val { return flag(o.Deprecated) })},
	sunsetFact, insteadFact,
	extensionFact(func(e *element) []contract.Extension { return extensionsOf(e) }),
}

// isSecured reports whether nobody may call an operation without proving who they are.
func isSecured(o *contract.Operation) bool {
	return len(o.Security) > 0 && !slices.ContainsFunc(o.Security, func(r contract.Requirement) bool { return len(r.Schemes) == 0 })
}

func keysOf(n *source.Node) []string {
	if n == nil {
		return nil
	}
	keys := make([]string, len(n.Members))
	for i, m := range n.Members {
		keys[i] = m.Key
	}
	return keys
}

// sunsetFact and insteadFact tell what x-ledger-deprecated announces, or a notice beside the description.
var (
	sunsetFact = fact{"sunset", isText, "the day on which it leaves, as x-ledger-deprecated says it, or a notice", func(e *element) ref.Val {
		return text(announced(e, "sunset", func(n promise.Notice) string { return n.Sunset }))
	}}
	insteadFact = fact{"instead", isText, "what to use instead, as x-ledger-deprecated says it, or a notice", func(e *element) ref.Val {
		return text(announced(e, "instead", func(n promise.Notice) string { return n.ReplacedBy }))
	}}
)

func announced(e *element, key string, of func(promise.Notice) string) string {
	for _, x := range extensionsOf(e) {
		if x.Name == contract.DeprecatedField && x.Node != nil {
			if n := x.Node.Get(key); n != nil {
				return strings.TrimSpace(n.Text)
			}
		}
	}
	for _, n := range e.x.options.Notices {
		if said := of(n); said != "" && speaksOf(n, e) {
			return said
		}
	}
	return ""
}

// speaksOf reports whether a notice speaks of an element, or of a whole around it.
func speaksOf(n promise.Notice, e *element) bool {
	if n.Whole() {
		return true
	}
	if o, is := e.part.(*contract.Operation); is && e.kind.name == "operation" {
		return n.OfOperation(o.Key())
	}
	return e.owner != nil && n.OfField(e.owner.Name, e.name)
}

// listOfAnswer is the list that an operation answers with: its answer, or the one list of an object that holds little else. nil where
// there is none.
func listOfAnswer(o *contract.Operation) *contract.Schema {
	for _, r := range o.Responses {
		if !strings.HasPrefix(r.Status, "2") {
			continue
		}
		for _, m := range r.Content {
			if m.Schema == nil || !isJSON(m.Type) {
				continue
			}
			var list *contract.Schema
			fields, lists := 0, 0
			for _, p := range m.Schema.Conjuncts() {
				if p.Items != nil || slices.Contains(p.Types, "array") {
					return p
				}
				fields += len(p.Properties)
				for _, f := range p.Properties {
					for _, inner := range f.Schema.Conjuncts() {
						if inner.Items != nil {
							list = inner
							lists++
						}
					}
				}
			}
			if lists == 1 && fields <= 4 {
				return list
			}
		}
	}
	return nil
}
