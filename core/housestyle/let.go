package housestyle

import (
	"cmp"
	"fmt"
	"strings"

	"oldledger/core/source"
)

// LetStandField is the extension by which an author lets findings stand at an element: an object of rules and reasons. In RAML it is
// the annotation (ledger-let-stand).
const LetStandField = "x-ledger-let-stand"

// exception is one rule at one element whose findings may stand.
type exception struct {
	owner  *source.Node
	node   *source.Node // of the reason
	rule   string
	reason string
	used   bool
}

// lets takes down what may stand at an element.
func (x *examination) lets(e *element) {
	if e.kind.name == "value" {
		return
	}
	for _, ext := range extensionsOf(e) {
		if ext.Name != LetStandField || ext.Node == nil {
			continue
		}
		if !x.first(ext.Node, asOther) {
			continue
		}
		if ext.Node.Kind != source.Mapping {
			x.letWrong(ext.Node, "%s is %s; write the rule and the reason, such as {summary-there: the harbour office names it}", LetStandField,
				ext.Node.Kind)
			continue
		}
		for _, m := range ext.Node.Members {
			x.exception(e, m)
		}
	}
}

func (x *examination) exception(e *element, m source.Member) {
	r := x.style.Rule(m.Key)
	switch {
	case r == nil:
		right := cmp.Or(source.DidYouMean(m.Key, x.style.Names()), "oldledger rules lists those of the house style")
		x.letWrong(m.Value, "there is no rule %q; %s", m.Key, strings.TrimPrefix(right, "; "))
	case m.Value.Kind != source.String || strings.TrimSpace(m.Value.Text) == "":
		x.letWrong(m.Value, "nobody says why %s may be broken here; write the reason behind it", m.Key)
	default:
		reason := strings.TrimSpace(m.Value.Text)
		x.stands = append(x.stands, &exception{owner: e.node.Origin(), node: m.Value, rule: m.Key, reason: reason})
	}
}

func (x *examination) letWrong(n *source.Node, format string, args ...any) {
	x.found = append(x.found, &Finding{Diagnostic: n.KeyWrong(LetStandBroken, format, args...), node: n})
}

// letStand lets findings stand for the reasons that their authors gave, and tells of exceptions that are not needed.
func (x *examination) letStand(o Options) {
	if len(x.stands) == 0 {
		return
	}
	type key struct {
		owner *source.Node
		rule  string
	}
	known := map[key]*exception{}
	for _, ex := range x.stands {
		known[key{ex.owner, ex.rule}] = ex
	}
	for _, f := range x.found {
		for n := f.node; n != nil; n = n.Parent() {
			if ex := known[key{n.Origin(), f.Rule}]; ex != nil {
				f.Let, ex.used = ex.reason, true
				break
			}
			if n == f.owner {
				break
			}
		}
	}
	for _, ex := range x.stands {
		if ex.used || !x.judged[ex.rule] || x.failed[ex.rule] || x.ctx.Err() != nil {
			continue
		}
		d := ex.node.KeyWrong(LetStandStale, "%s finds nothing here any more; take the exception away", ex.rule)
		f := &Finding{Diagnostic: d, node: ex.node, title: fmt.Sprintf("take the exception from %s away", ex.rule)}
		list := ex.node.Parent()
		if len(list.Members) == 1 {
			f.wishes = []wish{{kind: wishRemove, node: list}}
		} else {
			f.wishes = []wish{{kind: wishRemove, node: ex.node}}
		}
		x.found = append(x.found, f)
	}
}
