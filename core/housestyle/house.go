package housestyle

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/source"
)

// House is what a company settles once for the rules that ask for it. The zero House settles nothing.
type House struct {
	Ways   map[string]string // how names are written, by what they are of: "fields" → Camel; what is not settled follows most of a description
	Counts map[string]int    // limits, by their names
	Words  map[string]string // words and how the house writes them: "harbor" → "harbour"
	Lists  map[string][]string
}

// setting is one of them.
type setting struct {
	name  string
	says  string
	words []string // those that it may be
	count int      // of a limit: as it comes
	list  []string // of a list: as it comes
	way   string   // of a way: as it comes; "" for that of most
	kind  settingKind
}

type settingKind uint8

const (
	isWay settingKind = iota
	isCount
	isList
	isWords
)

var settings = []setting{
	{name: "fields", says: "how the names of fields are written", kind: isWay, words: Cases},
	{name: "parameters", says: "how the names of parameters of queries are written", kind: isWay, words: Cases},
	{name: "pathParameters", says: "how the names in the braces of paths are written", kind: isWay, words: Cases},
	{name: "headers", says: "how the names of headers are written", kind: isWay, words: Cases, way: Train},
	{name: "paths", says: "how the steps of paths are written", kind: isWay, words: Cases},
	{name: "operations", says: "how operationIds are written", kind: isWay, words: Cases},
	{name: "types", says: "how the names of types are written", kind: isWay, words: Cases},
	{name: "values", says: "how listed values (enum) are written", kind: isWay, words: Cases},
	{name: "longest", says: "how many characters a summary has at most", kind: isCount, count: 80},
	{name: "steps", says: "how many steps a path has at most", kind: isCount, count: 8},
	{name: "lines", says: "how many lines of an API are alive at once at most", kind: isCount, count: 2},
	{name: "paging", says: "the parameters by which lists are paged; one of them is enough", kind: isList, list: []string{
		"cursor", "page", "limit", "offset", "after", "before", "size", "top", "skip",
	}},
	{name: "money", says: "words of fields that hold amounts of money", kind: isList, list: []string{
		"price", "amount", "fee", "dues", "total", "cost", "charge", "balance",
	}},
	{name: "plainHosts", says: "hosts that may be reached without encryption", kind: isList, list: []string{"localhost", "127.0.0.1", "[::1]"}},
	{name: "words", says: "words that texts must not use, each with the one of the house", kind: isWords},
}

var settingNames = func() []string {
	names := make([]string, len(settings))
	for i, s := range settings {
		names[i] = s.name
	}
	return names
}()

// houseKind is the type of the variable house.
var houseKind = func() *kind {
	k := &kind{name: "house", says: "what the company settled", celType: types.NewObjectType("house"), named: map[string]*fact{}}
	for _, s := range settings {
		f := fact{name: s.name, says: s.says}
		switch s.kind {
		case isWay:
			f.is, f.get = isText, func(e *element) ref.Val { return text(e.x.wayOf(s.name)) }
		case isCount:
			f.is, f.get = isWhole, func(e *element) ref.Val { return types.Int(e.part.(House).Count(s.name)) }
		case isList:
			f.is, f.get = isTexts, func(e *element) ref.Val { return texts(e.part.(House).List(s.name)) }
		case isWords:
			f.is, f.get = isTexts, func(e *element) ref.Val { return texts(slices.Sorted(maps.Keys(e.part.(House).Words))) }
		}
		k.facts = append(k.facts, f)
	}
	for i, f := range k.facts {
		k.named[f.name] = &k.facts[i]
	}
	return k
}()

// Count is a limit.
func (h House) Count(name string) int {
	if n, ok := h.Counts[name]; ok {
		return n
	}
	return settings[slices.Index(settingNames, name)].count
}

// List is a list of words.
func (h House) List(name string) []string {
	if l, ok := h.Lists[name]; ok {
		return l
	}
	return settings[slices.Index(settingNames, name)].list
}

// with is a house in which another one settles what it settles.
func (h House) with(o House) House {
	return House{merged(h.Ways, o.Ways), merged(h.Counts, o.Counts), merged(h.Words, o.Words), merged(h.Lists, o.Lists)}
}

func merged[V any](a, b map[string]V) map[string]V {
	all := map[string]V{}
	maps.Copy(all, a)
	maps.Copy(all, b)
	return all
}

// readHouse reads what a style file settles.
func (r *reading) readHouse(n *source.Node) House {
	h := House{map[string]string{}, map[string]int{}, map[string]string{}, map[string][]string{}}
	if !r.is(n, source.Mapping, "house holds what the company settles, such as fields: camel") {
		return h
	}
	for _, m := range n.Members {
		i := slices.Index(settingNames, m.Key)
		if i < 0 {
			r.wrong(m.Value.KeyWrong(StyleBroken, "the house has no setting %q; %s", m.Key,
				cmp.Or(source.DidYouMean(m.Key, settingNames), "it has "+strings.Join(settingNames, ", "))))
			continue
		}
		r.setting(h, settings[i], m.Value)
	}
	return h
}

func (r *reading) setting(h House, s setting, n *source.Node) {
	switch s.kind {
	case isWay:
		if n.Kind != source.String || !slices.Contains(s.words, n.Text) && n.Text != "most" {
			r.wrong(n.Wrong(StyleBroken, "%s is %q; it is one of %s, or most: the way in which most are written", s.name, n.Text,
				strings.Join(s.words, ", ")))
			return
		}
		h.Ways[s.name] = n.Text
	case isCount:
		if num := n.Num(); num == nil || !num.IsInt() || num.Sign() <= 0 || !num.Num().IsInt64() || num.Num().Int64() > 1_000_000 {
			r.wrong(n.Wrong(StyleBroken, "%s is no whole number from 1; %s", s.name, s.says))
			return
		}
		h.Counts[s.name] = int(n.Num().Num().Int64())
	case isList:
		h.Lists[s.name] = r.texts(n, fmt.Sprintf("%s is a list of words: %s", s.name, s.says))
	case isWords:
		if !r.is(n, source.Mapping, "words holds words and how the house writes them, such as harbor: harbour") {
			return
		}
		for _, m := range n.Members {
			if m.Value.Kind != source.String || m.Value.Text == "" || len(wordsOf(m.Key)) == 0 {
				r.wrong(m.Value.Wrong(StyleBroken, "what the house writes for %q is no word; write one, such as harbor: harbour", m.Key))
				continue
			}
			h.Words[strings.ToLower(m.Key)] = m.Value.Text
		}
	}
}
