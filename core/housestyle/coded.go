package housestyle

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/secret"
	"oldledger/core/source"
)

// summaryOwn tells of operations that have one summary.
func summaryOwn(x *examination, r *Rule) {
	first := map[string]*element{}
	for _, e := range x.of("operation") {
		op := e.part.(*contract.Operation)
		key := strings.Join(wordsOf(op.Summary), " ")
		if key == "" || op.Webhook != "" {
			continue
		}
		other := first[key]
		if other == nil {
			first[key] = e
			continue
		}
		f := x.tell(r, e, r.placeAt(e, "summary"), e.called()+" has the summary of "+other.called(), "say what sets it apart")
		f.Also(r.placeAt(other, "summary"), other.called())
	}
}

func (r *Rule) placeAt(e *element, key string) *source.Node {
	if n := e.node.Get(e.x.keyOf(key)); n != nil {
		return n
	}
	return e.node
}

// most is the key that most have, the first of several; "" where fewer than two have it.
func most[T any](groups map[string][]T, order []string) string {
	best := ""
	for _, key := range order {
		if best == "" || len(groups[key]) > len(groups[best]) {
			best = key
		}
	}
	if len(groups[best]) < 2 {
		return ""
	}
	return best
}

// pagingOne tells of lists that are paged otherwise than most.
func pagingOne(x *examination, r *Rule) {
	words := x.house.part.(House).List("paging")
	groups := map[string][]*element{}
	var order []string
	for _, e := range x.of("operation") {
		op := e.part.(*contract.Operation)
		if op.Method != "GET" || listOfAnswer(op) == nil {
			continue
		}
		var names []string
		for _, p := range op.Parameters {
			if p.In == "query" && slices.ContainsFunc(wordsOf(p.Name), func(w string) bool { return slices.Contains(words, w) }) {
				names = append(names, p.Name)
			}
		}
		if len(names) == 0 {
			continue
		}
		slices.Sort(names)
		key := strings.Join(names, ", ")
		if groups[key] == nil {
			order = append(order, key)
		}
		groups[key] = append(groups[key], e)
	}
	usual := most(groups, order)
	if usual == "" {
		return
	}
	for _, key := range order {
		if key == usual || holdsAll(usual, key) || holdsAll(key, usual) {
			continue
		}
		for _, e := range groups[key] {
			x.say(r, e, e.node, e.called()+" is paged by "+key+", and most lists by "+usual, "page all lists by the same parameters")
		}
	}
}

// holdsAll reports whether all names of one list are in another.
func holdsAll(list, in string) bool {
	of := strings.Split(in, ", ")
	return !slices.ContainsFunc(strings.Split(list, ", "), func(n string) bool { return !slices.Contains(of, n) })
}

// shown is what looks like a credential, and where.
type shown struct {
	secret.Finding
	node *source.Node
}

// scan looks for credentials in all files.
func (x *examination) scan() []shown {
	var all []shown
	for _, f := range x.files {
		for _, s := range secret.Scan(f.Root) {
			n := f.Root.Resolve(s.Place.Pointer)
			if n == nil {
				n = f.Root
			}
			all = append(all, shown{s, n})
		}
	}
	return all
}

// credentialShown tells of texts that look like credentials.
func credentialShown(x *examination, r *Rule) {
	for _, s := range x.secrets() {
		f := x.tell(r, nil, s.node, "here stands "+s.What+": "+s.Shown, "take it away, and change it where it is in use")
		if s.What == secret.Random { // a digest is random, too
			f.Severity = min(f.Severity, source.Hint)
		}
	}
}

// proseKeys are those of texts for readers.
var proseKeys = []string{"title", "summary", "description", "displayName"}

// wordsOfHouse tells of words that the house writes otherwise.
func wordsOfHouse(x *examination, r *Rule) {
	words := x.house.part.(House).Words
	if len(words) == 0 {
		return
	}
	var visit func(n *source.Node, named bool)
	visit = func(n *source.Node, named bool) {
		for _, m := range n.Members {
			if m.Value == nil {
				continue
			}
			if !named && m.Value.Kind == source.String && slices.Contains(proseKeys, m.Key) {
				x.wordsIn(r, m.Value, words)
			}
			visit(m.Value, m.Key == "properties" || m.Key == "example" || m.Key == "examples" || m.Key == "default")
		}
		for _, it := range n.Items() {
			visit(it, false)
		}
	}
	for _, f := range x.files {
		visit(f.Root, false)
	}
}

func (x *examination) wordsIn(r *Rule, n *source.Node, words map[string]string) {
	text, found := n.Text, []string{}
	for _, word := range slices.Sorted(maps.Keys(words)) {
		if now := replaceWord(text, word, words[word]); now != text {
			text = now
			found = append(found, word)
		}
	}
	if len(found) == 0 {
		return
	}
	instead := make([]string, len(found))
	for i, w := range found {
		instead[i] = words[w]
	}
	f := x.tell(r, nil, n, "here stands "+strings.Join(found, ", "), "the house writes "+strings.Join(instead, ", "))
	f.owner = n.Parent()
	if n.Origin() == n && n.Parent() != nil {
		f.wishes = []wish{{wishSet, n.Parent(), n.Step(), valueOfText(text)}}
		f.title = "write " + strings.Join(instead, ", ")
	}
}

// replaceWord writes another word in the place of one, wherever it stands as a word of its own, and with a large letter where it has
// one.
func replaceWord(text, word, instead string) string {
	lower := strings.ToLower(text)
	if len(lower) != len(text) {
		return text
	}
	var b strings.Builder
	from := 0
	for {
		i := strings.Index(lower[from:], word)
		if i < 0 {
			b.WriteString(text[from:])
			return b.String()
		}
		at, end := from+i, from+i+len(word)
		if isWordByte(text, at-1) || isWordByte(text, end) || strings.EqualFold(text[at:end], instead) && text[at:end] == instead {
			b.WriteString(text[from:end])
			from = end
			continue
		}
		b.WriteString(text[from:at])
		if text[at:at+1] != lower[at:at+1] {
			b.WriteString(capital(instead))
		} else {
			b.WriteString(instead)
		}
		from = end
	}
}

func isWordByte(text string, at int) bool {
	if at < 0 || at >= len(text) {
		return false
	}
	c := text[at]
	return c == '_' || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= 0x80
}

// route is one path with what may be called there.
type route struct {
	e       *element
	steps   []string
	methods map[string]*contract.Operation
}

// maxPairs bounds how many pairs of paths are looked at.
const maxPairs = 3_000_000

// pathsCollide tells of paths of which one matches what another one names.
func pathsCollide(x *examination, r *Rule) {
	pairs := 0
	for _, list := range x.routes() {
		for i, a := range list {
			if x.ctx.Err() != nil {
				return
			}
			for _, b := range list[i+1:] {
				if pairs++; pairs > maxPairs {
					return
				}
				if !meet(a.steps, b.steps) {
					continue
				}
				for _, method := range slices.Sorted(maps.Keys(a.methods)) {
					if b.methods[method] == nil || !collide(a.steps, b.steps, a.methods[method], b.methods[method]) {
						continue
					}
					f := x.tell(r, a.e, a.e.node, method+" "+a.e.name+" is answered by "+b.e.name+", too", "give one of them a step of its own")
					f.Also(b.e.node, b.e.name)
					break
				}
			}
		}
	}
}

// routes are the paths in lists of those that may match one address: as many steps, and the same first one, where it is no parameter.
// In each those with fewer parameters come first.
func (x *examination) routes() [][]*route {
	elements := map[string]*element{}
	for _, e := range x.of("path") {
		if elements[e.name] == nil {
			elements[e.name] = e
		}
	}
	at := map[string]*route{}
	lists := map[string][]*route{}
	open := map[int][]*route{} // those that begin with a parameter, by their steps
	for _, op := range x.c.Operations {
		e := elements[op.Path]
		if e == nil || op.Webhook != "" {
			continue
		}
		if known := at[op.Path]; known != nil {
			known.methods[op.Method] = op
			continue
		}
		made := &route{e, stepsOf(op.Path), map[string]*contract.Operation{op.Method: op}}
		at[op.Path] = made
		switch {
		case len(made.steps) == 0:
		case strings.Contains(made.steps[0], "{"):
			open[len(made.steps)] = append(open[len(made.steps)], made)
		default:
			key := fmt.Sprintf("%d %s", len(made.steps), made.steps[0])
			lists[key] = append(lists[key], made)
		}
	}
	var all [][]*route
	for _, key := range slices.Sorted(maps.Keys(lists)) {
		list := slices.Concat(lists[key], open[len(lists[key][0].steps)])
		slices.SortStableFunc(list, func(a, b *route) int {
			return cmp.Compare(strings.Count(a.e.name, "{"), strings.Count(b.e.name, "{"))
		})
		all = append(all, list)
	}
	return all
}

// meet reports whether no step of two paths keeps them apart.
func meet(a, b []string) bool {
	for i := range a {
		if a[i] != b[i] && !strings.Contains(a[i], "{") && !strings.Contains(b[i], "{") {
			return false
		}
	}
	return true
}

// collide reports whether an address fits two paths that meet, and their parameters are not the same ones.
func collide(a, b []string, ofA, ofB *contract.Operation) bool {
	same := true
	for i := range a {
		switch openA, openB := strings.Contains(a[i], "{"), strings.Contains(b[i], "{"); {
		case openA == openB:
		case openA && !mayBe(ofA, a[i], b[i]), openB && !mayBe(ofB, b[i], a[i]):
			return false
		default:
			same = false
		}
	}
	return !same
}

// mayBe reports whether the parameter that is a step of a path can be a text.
func mayBe(op *contract.Operation, step, text string) bool {
	if !strings.HasPrefix(step, "{") || strings.IndexByte(step, '}') != len(step)-1 {
		return false // a step with something around the parameter: not looked into
	}
	for _, p := range op.Parameters {
		if p.In != "path" || p.Name != step[1:len(step)-1] {
			continue
		}
		s, _ := p.Payload()
		if s == nil {
			return true
		}
		for _, part := range s.Conjuncts() {
			if slices.Contains(part.Types, "integer") || slices.Contains(part.Types, "number") || part.Format == "uuid" || part.Format == "date" {
				return false
			}
			if part.HasEnum && !slices.ContainsFunc(part.Enum, func(n *source.Node) bool { return n != nil && n.Text == text }) {
				return false
			}
			if part.Pattern != nil && !mayMatch(*part.Pattern, text) {
				return false
			}
		}
	}
	return true
}
