package housestyle

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"cel.dev/cel-go/common/types"

	"oldledger/core/compare"
	"oldledger/core/jsonpath"
	"oldledger/core/source"
)

// Limits of a style file.
const (
	maxRules    = 300
	maxExamples = 40
)

// Read reads a style file: the rules of base, as the file changes them, and those of its own. The error is source.Diagnostics: all
// that is wrong with the file.
func Read(f *source.File, base *Style) (*Style, error) {
	r := &reading{style: &Style{
		Name: base.Name, Says: base.Says, House: base.House, Grading: maps.Clone(base.Grading), Terms: base.Terms,
		Rules: slices.Clone(base.Rules),
	}}
	r.file(f.Root)
	if len(r.found) > 0 {
		return nil, r.found.Sorted(f.Name)
	}
	r.style.sorted()
	return r.style, nil
}

// reading reads one style file.
type reading struct {
	style *Style
	group string // of the rules of a file that comes with the ledger
	trust bool
	found source.Diagnostics
}

var (
	fileKeys = []string{"house-style", "says", "house", "grading", releasesKey, reviewKey, "change", "rules"}
	ruleKeys = []string{"about", "where", "must", "says", "right", "at", "weight", "why", "fix", "with", "good", "bad"}
	weights  = []string{"off", "hint", "warning", "error"}
)

func (r *reading) wrong(d *source.Diagnostic) { r.found = append(r.found, d) }

func (r *reading) is(n *source.Node, k source.Kind, right string) bool {
	if n.Kind == k {
		return true
	}
	r.wrong(n.Wrong(StyleBroken, "here stands %s; "+strings.ReplaceAll(right, "%", "%%"), n.Kind))
	return false
}

func (r *reading) unknown(m source.Member, known []string, what string) {
	right := cmp.Or(strings.TrimPrefix(source.DidYouMean(m.Key, known), "; "), "it may have "+strings.Join(known, ", "))
	r.wrong(m.Value.KeyWrong(StyleBroken, "%s has no key %q; %s", what, m.Key, right))
}

// text is a text that must not be empty.
func (r *reading) text(n *source.Node, right string) string {
	if n.Kind != source.String || strings.TrimSpace(n.Text) == "" {
		r.wrong(n.Wrong(StyleBroken, "here stands no text; "+strings.ReplaceAll(right, "%", "%%")))
		return ""
	}
	return strings.TrimSpace(n.Text)
}

// texts is a list of texts; one text alone is a list, too.
func (r *reading) texts(n *source.Node, right string) []string {
	if n.Kind == source.String {
		return []string{n.Text}
	}
	if !r.is(n, source.Sequence, right) {
		return nil
	}
	var list []string
	for _, it := range n.Items() {
		if it.Kind != source.String {
			r.wrong(it.Wrong(StyleBroken, "here stands %s, and no text; "+strings.ReplaceAll(right, "%", "%%"), it.Kind))
			continue
		}
		list = append(list, it.Text)
	}
	return list
}

func (r *reading) file(n *source.Node) {
	if !r.is(n, source.Mapping, "a style file says house-style: its name, and then house, change and rules") {
		return
	}
	if n.Get("house-style") == nil {
		r.wrong(n.Wrong(StyleBroken, "the file does not say that it is a house style; write house-style: and its name"))
	}
	for _, m := range n.Members {
		switch m.Key {
		case "house-style":
			r.style.Name = r.text(m.Value, "house-style is the name of the style")
		case "says":
			r.style.Says = r.text(m.Value, "says is what the style is for, in Markdown")
		case "house":
			r.style.House = r.style.House.with(r.readHouse(m.Value))
		case "grading":
			r.grading(m.Value)
		case releasesKey, reviewKey, "change", "rules":
		default:
			r.unknown(m, fileKeys, "a style file")
		}
	}
	r.terms(n)
	if rules := n.Get("rules"); rules != nil {
		r.rules(rules)
	}
	if change := n.Get("change"); change != nil {
		r.changes(change)
	}
}

// grading reads which hazards of comparisons count as breaking. false says that they do not, after all.
func (r *reading) grading(n *source.Node) {
	if !r.is(n, source.Mapping, "grading holds kinds of change and reasons, such as parameter.removed: who asks for something means it") {
		return
	}
	if r.style.Grading == nil {
		r.style.Grading = map[string]string{}
	}
	for _, m := range n.Members {
		switch _, known := compare.FindKind(m.Key); {
		case !known:
			r.wrong(m.Value.KeyWrong(StyleBroken, "there is no kind of change %q; oldledger kinds lists them", m.Key))
		case m.Value.Kind == source.Boolean && !m.Value.Bool:
			delete(r.style.Grading, m.Key)
		default:
			r.style.Grading[m.Key] = r.text(m.Value, "write the reason, or false where a hazard is one after all")
		}
	}
}

// changes switches rules on and off, and makes them softer or harder.
func (r *reading) changes(n *source.Node) {
	if !r.is(n, source.Mapping, "change holds rules, such as field-told: {weight: error, because: our partners read it}") {
		return
	}
	for _, m := range n.Members {
		rule := r.style.Rule(m.Key)
		if rule == nil {
			r.wrong(m.Value.KeyWrong(StyleBroken, "there is no rule %q; %s", m.Key,
				cmp.Or(strings.TrimPrefix(source.DidYouMean(m.Key, r.style.Names()), "; "), "oldledger rules lists them")))
			continue
		}
		if !r.is(m.Value, source.Mapping, "write a weight and a reason, such as {weight: off, because: our gateway does it}") {
			continue
		}
		changed := *rule
		for _, c := range m.Value.Members {
			switch c.Key {
			case "weight":
				r.weight(&changed, c.Value)
			case "because":
				changed.Because = r.text(c.Value, "because is the reason for the change")
			default:
				r.unknown(c, []string{"weight", "because"}, "a change of a rule")
			}
		}
		for _, needed := range [][2]string{{"weight", "off, hint, warning or error"}, {"because", "the reason"}} {
			if key := needed[0]; m.Value.Get(key) == nil {
				r.wrong(m.Value.KeyWrong(StyleBroken, "the change of %s has no %s; write %s: %s", m.Key, key, key, needed[1]))
			}
		}
		r.style.with(&changed)
	}
}

func (r *reading) weight(rule *Rule, n *source.Node) {
	word := n.Text
	if n.Kind == source.Boolean && !n.Bool { // off, as YAML 1.1 reads it
		word = "off"
	}
	if !slices.Contains(weights, word) {
		r.wrong(n.Wrong(StyleBroken, "%q is no weight; it is one of %s", n.Text, strings.Join(weights, ", ")))
		return
	}
	rule.Off = word == "off"
	if !rule.Off {
		if err := rule.Weight.UnmarshalText([]byte(word)); err != nil {
			r.wrong(n.Wrong(StyleBroken, "%s", err))
		}
	}
}

func (r *reading) rules(n *source.Node) {
	if !r.is(n, source.Mapping, "rules holds rules by their names") {
		return
	}
	if len(n.Members) > maxRules {
		r.wrong(n.KeyWrong(StyleBroken, "the file has more than %d rules; make several styles", maxRules))
		return
	}
	for _, m := range n.Members {
		if !r.trust && !isCase(m.Key, Kebab) {
			r.wrong(m.Value.KeyWrong(StyleBroken, "%q is no name of a rule; write %s", m.Key, cmp.Or(inCase(m.Key, Kebab), "words with dashes between them")))
			continue
		}
		if old := r.style.Rule(m.Key); old != nil && !old.Own && !r.trust {
			r.wrong(m.Value.KeyWrong(StyleBroken, "there is a rule %q already; give yours another name, or write it under change", m.Key))
			continue
		}
		if slices.Contains(append(slices.Clone(Groups), Ownership), m.Key) {
			r.wrong(m.Value.KeyWrong(StyleBroken, "%q is the name of a group of rules; give the rule another one", m.Key))
			continue
		}
		if !r.is(m.Value, source.Mapping, "a rule says about, must and says") {
			continue
		}
		if rule := r.rule(m.Key, m.Value); rule != nil {
			r.style.with(rule)
		}
	}
}

// rule reads one rule; nil where something is wrong with it.
func (r *reading) rule(name string, n *source.Node) *Rule {
	before := len(r.found)
	rule := &Rule{Name: name, Group: cmp.Or(r.group, Ownership), Weight: source.Warning, Own: !r.trust, trust: r.trust}
	k := r.about(rule, n)
	coded := coded[name]
	if !r.trust {
		coded = nil
	}
	for _, m := range n.Members {
		r.ruleKey(rule, k, m)
	}
	if coded != nil {
		rule.judge = coded
	}
	for _, key := range []string{"must", "says"} {
		if n.Get(key) == nil && (coded == nil || key == "says") {
			r.wrong(n.KeyWrong(StyleBroken, "the rule %s has no %s; write %s", name, key, map[string]string{
				"must": "must: what holds where nothing is wrong, such as must: operation.summary != ''",
				"says": "says: what is wrong, such as says: '{operation.called} has no summary'",
			}[key]))
		}
	}
	if len(r.found) > before {
		return nil
	}
	rule.ofKind = k
	if rule.judge == nil && rule.path == nil {
		rule.plan()
	}
	return rule
}

// about reads of what a rule speaks.
func (r *reading) about(rule *Rule, n *source.Node) *kind {
	about := n.Get("about")
	if about == nil {
		r.wrong(n.KeyWrong(StyleBroken, "the rule %s does not say of what it speaks; write about: and one of %s", rule.Name,
			strings.Join(kindNames, ", ")))
		return kindOf("node")
	}
	rule.About = r.text(about, "about is the kind of elements, or a JSONPath")
	if strings.HasPrefix(rule.About, "$") {
		path, err := jsonpath.Parse(rule.About)
		if err != nil {
			r.wrong(about.Wrong(StyleBroken, "%q is no JSONPath: %s", rule.About, err))
			return kindOf("node")
		}
		rule.path = &pathQuery{path}
		return kindOf("node")
	}
	k := kindOf(rule.About)
	if k == nil || rule.About == "node" {
		right := cmp.Or(strings.TrimPrefix(source.DidYouMean(rule.About, kindNames), "; "), "it is one of "+strings.Join(kindNames[:len(kindNames)-1], ", ")+
			", or a JSONPath such as $.info")
		if rule.About != "" {
			r.wrong(about.Wrong(StyleBroken, "rules cannot be about %q; %s", rule.About, right))
		}
		return kindOf("node")
	}
	return k
}

func (r *reading) ruleKey(rule *Rule, k *kind, m source.Member) {
	n := m.Value
	switch m.Key {
	case "about":
	case "where":
		rule.Where = n.Text
		rule.where = r.condition(n, k, isFlag)
	case "must":
		rule.Must = n.Text
		rule.must = r.condition(n, k, isFlag)
	case "says":
		rule.Says = n.Text
		if rule.says = r.phrase(n, k); rule.says == nil {
			rule.Says = ""
		}
	case "right":
		rule.Right = n.Text
		rule.right = r.phrase(n, k)
	case "at":
		rule.at = r.text(n, "at is a key of the element")
	case "weight":
		r.weight(rule, n)
	case "why":
		rule.Why = r.text(n, "why is the reason for the rule, in Markdown")
	case "fix":
		rule.mend = r.mending(n, k)
	case "with":
		rule.With = r.readHouse(n)
	case "good":
		rule.Good = r.examples(n)
	case "bad":
		rule.Bad = r.examples(n)
	default:
		r.unknown(m, ruleKeys, "a rule")
	}
}

func (r *reading) examples(n *source.Node) []Example {
	const right = "examples are descriptions, or parts of them, each as a text: - |"
	if n.Kind == source.String {
		return []Example{{strings.TrimSpace(n.Text) + "\n", n}}
	}
	if !r.is(n, source.Sequence, right) {
		return nil
	}
	if len(n.Items()) > maxExamples {
		r.wrong(n.KeyWrong(StyleBroken, "there are more than %d examples; keep those that teach", maxExamples))
		return nil
	}
	var list []Example
	for _, it := range n.Items() {
		if r.text(it, right) != "" {
			list = append(list, Example{strings.TrimSpace(it.Text) + "\n", it})
		}
	}
	return list
}

// condition reads a condition; nil where something is wrong with it.
func (r *reading) condition(n *source.Node, k *kind, is *types.Type) *condition {
	if n.Kind == source.Boolean || n.Kind == source.Number {
		n = n.WithText(n.Value().String())
	}
	if n.Kind != source.String || strings.TrimSpace(n.Text) == "" {
		r.wrong(n.Wrong(StyleBroken, "here stands %s, and no condition; write one such as %s.name != ''", n.Kind, k.name))
		return nil
	}
	c, fault := compile(n.Text, k, is, r.trust)
	if fault != nil {
		r.faultAt(n, fault)
		return nil
	}
	return c
}

func (r *reading) phrase(n *source.Node, k *kind) *phrase {
	if r.text(n, "a text with values in it, such as '{field.name} is not told'") == "" {
		return nil
	}
	p, fault := phraseOf(n.Text, k, r.trust)
	if fault != nil {
		r.faultAt(n, fault)
		return nil
	}
	return p
}

// faultAt tells a fault in a condition at its place in the file, where that can be told: in a text of one line.
func (r *reading) faultAt(n *source.Node, fault *conditionFault) {
	d := n.Wrong(StyleBroken, "%s; %s", fault.text, fault.right)
	if at := n.ValueRange(); at.Line == at.EndLine && fault.line == 1 {
		from, _ := n.File().Bytes(at)
		if quoted := strings.IndexByte(`'"`, n.File().Text[from]) >= 0; quoted {
			fault.column++
		}
		d.Column = min(d.Column+fault.column, at.EndColumn)
	}
	r.wrong(d)
}
