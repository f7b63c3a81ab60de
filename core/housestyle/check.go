package housestyle

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/budget"
	"oldledger/core/check"
	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/core/value"
)

// The rules of style files themselves, and of what they find.
var (
	StyleBroken = source.Rule{
		Name: "style-broken", Severity: source.Error, Refused: true,
		Means: "A style file with a mistake is not used.",
	}
	RuleFailed = source.Rule{
		Name: "rule-failed", Severity: source.Warning,
		Means: "A rule could not be judged somewhere, and is not judged there; all others are.",
	}
	LetStandStale = source.Rule{
		Name: "let-stand-stale", Severity: source.Warning,
		Means: "An exception whose rule finds nothing at its place any more.",
	}
	LetStandBroken = source.Rule{
		Name: "let-stand-broken", Severity: source.Error,
		Means: "An exception without a reason, or of a rule that is not there, lets nothing stand.",
	}
)

// Options are how a description is judged. The zero Options judge by all rules that are on.
type Options struct {
	Only  []string       // the names of rules or groups that alone are judged; none: all
	Skip  []string       // the names of rules or groups that are not
	Files []*source.File // those in which JSONPaths look; none: the file of the description

	// What is known beside the description; the rules that ask for it find nothing without.
	Base    *contract.Contract // the version before
	Live    []string           // the numbers of the API's versions that are alive
	Company *Vocabulary        // how the APIs of the company name their fields
	API     string             // by which name it is among them
	Notices []promise.Notice   // what was announced of the version beside its description

	spent *uint64 // what questions cost before; nil for nothing
}

// Finding is one thing that breaks a rule.
type Finding struct {
	*source.Diagnostic
	Let string // why it may stand, where its author says so

	wishes []wish
	title  string
	needs  *source.Node // what must stay for the fix to be one
	node   *source.Node // where it stands
	owner  *source.Node // the element, whose exceptions count
}

// Findings are all that was found, in the order of the files.
type Findings []*Finding

// Diagnostics are the findings that do not stand for a reason.
func (fs Findings) Diagnostics() source.Diagnostics {
	list := make(source.Diagnostics, 0, len(fs))
	for _, f := range fs {
		if f.Let == "" {
			list = append(list, f.Diagnostic)
		}
	}
	return list
}

// WellFormed is the group of what readers tell: the rules of package check.
const WellFormed = "well-formed"

// Examine tells what is wrong with a description and what breaks the rules of a style, together. When ctx ends, it gives what was
// found by then, and the error of ctx.
func Examine(ctx context.Context, c *contract.Contract, style *Style, o Options) (Findings, error) {
	reading := meanwhile(func() source.Diagnostics {
		wrong, _ := check.Contract(ctx, c) // its error is that of ctx, which is asked for below
		return wrong
	})
	found, err := Check(ctx, c, style, o)
	wrong := slices.DeleteFunc(reading(), func(d *source.Diagnostic) bool { return !o.wants(&Rule{Name: d.Rule, Group: WellFormed}) })
	return found.With(wrong, c.Node.File().Name), cmp.Or(err, ctx.Err())
}

// With are the findings and some diagnostics of the same files, in their order, that of the entry first.
func (fs Findings) With(all source.Diagnostics, entry string) Findings {
	both := slices.Clone(fs)
	for _, d := range all {
		both = append(both, &Finding{Diagnostic: d})
	}
	return both.sorted(entry)
}

// newExamination prepares the examination of a description.
func newExamination(ctx context.Context, c *contract.Contract, style *Style, files []*source.File) *examination {
	x := &examination{
		ctx: ctx, c: c, files: files, style: style, lists: map[string][]*element{}, asLists: map[string]ref.Val{},
		ways: make(map[*contract.Schema]ways, c.Size/6), seen: make(map[*source.Node]visited, c.Size/4), values: map[*source.File]*value.Value{},
		failed: map[string]bool{}, judged: map[string]bool{}, fields: map[string][]*element{},
	}
	if x.files == nil {
		x.files = []*source.File{c.Node.File()}
	}
	x.house = &element{x: x, kind: houseKind, part: style.House}
	x.direct()
	x.list()
	return x
}

// Check judges a description by a style. When ctx ends, it gives what was found by then, and the error of ctx.
func Check(ctx context.Context, c *contract.Contract, style *Style, o Options) (Findings, error) {
	x := newExamination(ctx, c, style, o.Files)
	x.options = o
	if o.spent != nil {
		x.spent = *o.spent
		defer func() { *o.spent = x.spent }()
	}
	by := map[*kind]*bench{}
	for _, r := range style.Rules {
		if r.Off || !o.wants(r) {
			continue
		}
		x.judged[r.Name] = true
		switch {
		case r.judge != nil, r.path != nil:
		default:
			if by[r.ofKind] == nil {
				by[r.ofKind] = newBench()
			}
			by[r.ofKind].add(r)
		}
	}
	x.choices = by[kindOf("value")] != nil
	if slices.ContainsFunc(classed, func(name string) bool { return x.judged[name] }) {
		x.classes = meanwhile(func() *class.Classes { return class.New(budget.New(ctx, budget.For(c.Size)), c.Roots(), c.Heirs()) })
	}
	if x.judged["credential-shown"] {
		x.secrets = meanwhile(x.scan)
	}
	if slices.ContainsFunc(style.Rules, func(r *Rule) bool { return x.judged[r.Name] && r.Group == "consistent" }) {
		x.most = meanwhile(x.count)
	}
	collects := slices.ContainsFunc(style.Rules, func(r *Rule) bool { return x.judged[r.Name] && r.judge != nil })
	judging, judged := x.judging(by)
	x.walk(func(e *element) {
		x.lets(e)
		if collects {
			x.collect(e)
		}
		if by[e.kind] != nil {
			judging(e)
		}
	})
	judged()
	for _, r := range style.Rules {
		if !x.judged[r.Name] || ctx.Err() != nil {
			continue
		}
		switch {
		case r.judge != nil:
			r.judge(x, r)
		case r.path != nil:
			x.paths(r)
		}
	}
	x.letStand(o)
	return x.found.sorted(c.Node.File().Name), ctx.Err()
}

// judging judges elements beside the walk that meets them, in its order. It gives whom to hand them to, and what waits for the last.
func (x *examination) judging(by map[*kind]*bench) (hand func(*element), wait func()) {
	const together = 256
	handed := make(chan []*element, 64)
	done := meanwhile(func() struct{} {
		defer func() {
			for range handed { // whoever hands them waits for nobody, whatever goes wrong here
			}
		}()
		for some := range handed {
			for _, e := range some {
				if x.ctx.Err() != nil {
					return struct{}{}
				}
				by[e.kind].judge(x, e)
			}
		}
		return struct{}{}
	})
	some := make([]*element, 0, together)
	return func(e *element) {
			if some = append(some, e); len(some) == together {
				handed <- some
				some = make([]*element, 0, together)
			}
		}, func() {
			handed <- some
			close(handed)
			done()
		}
}

// collect keeps the elements that rules look at together.
func (x *examination) collect(e *element) {
	switch e.kind.name {
	case "field":
		x.fields[e.name] = append(x.fields[e.name], e)
	case "schema":
		if len(e.schema.Properties) > 1 {
			x.objects = append(x.objects, e)
		}
	case "response":
		if isFailure(e.name) {
			x.failures = append(x.failures, e)
		}
	}
}

// wants reports whether a rule is to be judged.
func (o Options) wants(r *Rule) bool {
	named := func(list []string) bool { return slices.Contains(list, r.Name) || slices.Contains(list, r.Group) }
	return (len(o.Only) == 0 || named(o.Only)) && !named(o.Skip)
}

// sorted are the findings in the order of their places, those of the description's own file first, each once.
func (fs Findings) sorted(entry string) Findings {
	slices.SortStableFunc(fs, func(a, b *Finding) int {
		if (a.File == entry) != (b.File == entry) {
			if a.File == entry {
				return -1
			}
			return 1
		}
		return cmp.Or(strings.Compare(a.File, b.File), a.Line-b.Line, a.Column-b.Column, strings.Compare(a.Rule, b.Rule),
			strings.Compare(a.Text, b.Text))
	})
	return slices.CompactFunc(fs, func(a, b *Finding) bool {
		return a.Place == b.Place && a.Rule == b.Rule && a.Text == b.Text
	})
}

// tell makes a finding of a rule.
func (x *examination) tell(r *Rule, e *element, at *source.Node, wrong, right string) *Finding {
	rule := source.Rule{Name: r.Name, Severity: r.Weight}
	d := at.KeyWrong(rule, "%s; %s", wrong, right)
	f := &Finding{Diagnostic: d, node: at}
	if e != nil {
		if f.owner = e.node; e.kind.name == "value" {
			f.owner = e.of.node
		}
	}
	x.found = append(x.found, f)
	return f
}

// say is tell, where nothing is added to the finding.
func (x *examination) say(r *Rule, e *element, at *source.Node, wrong, right string) {
	_ = x.tell(r, e, at, wrong, right)
}

// keeps asks the rule's conditions.
func (r *Rule) keeps(in *scope) (bool, error) {
	if r.where != nil {
		meant, err := r.where.holds(in)
		if err != nil || !meant {
			return true, err
		}
	}
	return r.must.holds(in)
}

// broken tells that an element breaks the rule.
func (r *Rule) broken(x *examination, e *element) {
	in := &scope{e}
	wrong, err := r.says.of(in)
	right := ""
	if err == nil && r.right != nil {
		right, err = r.right.of(in)
	}
	if err != nil {
		x.fail(r, e, err)
		return
	}
	f := x.tell(r, e, r.place(e), wrong, right)
	if r.mend != nil {
		r.mend.wishes(x, r, e, f)
	}
}

// place is where a finding about an element stands: at the key that the rule names, where it is there.
func (r *Rule) place(e *element) *source.Node {
	if r.at != "" {
		if n := e.node.Get(e.x.keyOf(r.at)); n != nil {
			return n
		}
	}
	return e.node
}

// ramlKeys are the keys of RAML for what OpenAPI calls otherwise.
var ramlKeys = map[string]string{"summary": "displayName"}

// keyOf is a key of OpenAPI as the description's dialect has it.
func (x *examination) keyOf(key string) string {
	if other := ramlKeys[key]; other != "" && strings.HasPrefix(x.c.Dialect, "raml") {
		return other
	}
	return key
}

// fail tells that a rule could not be judged somewhere, once a rule.
func (x *examination) fail(r *Rule, e *element, err error) {
	if x.failed[r.Name] {
		return
	}
	x.failed[r.Name] = true
	d := e.node.KeyWrong(RuleFailed, "the rule %s could not be judged at %s: %s; mend the rule, or say in its where which it means", r.Name,
		e.called(), err)
	x.found = append(x.found, &Finding{Diagnostic: d, node: e.node})
}

var _ ref.Val = (*element)(nil)
