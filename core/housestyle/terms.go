package housestyle

import (
	"slices"
	"strings"

	"oldledger/core/promise"
	"oldledger/core/source"
)

// Terms are what a house asks of what is published. The zero Terms ask for nothing.
type Terms struct {
	Promise         promise.Promise // what lines promise whose API says nothing itself; "" where the house does not say
	Notice          int             // how many days what leaves is announced before; 0 where the house does not say
	Quiet           int             // how many days nobody calls what goes; 0 where the house does not say
	ByAnother       bool            // whether somebody else publishes a draft than who recorded it last
	Untouched       string          // whether a break that touches nobody goes "through" or is "asked" about; "" where the house does not say
	LeadsLetThrough bool            // whether leads alone let through what stands in the way
}

// term is one of them, as a style file has it.
type term struct {
	section, name, says string
	words               []string // that it may be; nil of a number of days
	set                 func(*Terms, string)
	days                func(*Terms) *int // where the number is kept
}

// MaxNotice bounds a notice period: ten years, in days.
const MaxNotice = 3650

// The keys of a style file that hold terms.
const (
	releasesKey = "releases"
	reviewKey   = "review"
)

var terms = []term{
	{
		releasesKey, "promise", "what lines promise whose API says nothing itself",
		[]string{string(promise.Backward), string(promise.BothWays), string(promise.None)},
		func(t *Terms, word string) { t.Promise = promise.Promise(word) }, nil,
	},
	{releasesKey, "notice", "how many days what leaves is announced before; of several styles the longest holds", nil, nil, func(t *Terms) *int { return &t.Notice }},
	{releasesKey, "quiet", "how many days nobody calls what goes; of several styles the longest holds", nil, nil, func(t *Terms) *int { return &t.Quiet }},
	{
		reviewKey, "publisher", "who publishes a draft: anyone who may, or another than who recorded it last",
		[]string{"anyone", "another"},
		func(t *Terms, word string) { t.ByAnother = t.ByAnother || word == "another" }, nil,
	},
	{
		reviewKey, "untouched", "whether a break goes through of which logs tell that it touches nobody, or a reason is asked for all the same",
		[]string{"through", "asked"},
		func(t *Terms, word string) {
			if t.Untouched == "" || word == "asked" {
				t.Untouched = word
			}
		}, nil,
	},
	{
		reviewKey, "exceptions", "who lets through what stands in the way, with a reason: publishers, or leads alone",
		[]string{"publishers", "leads"},
		func(t *Terms, word string) { t.LeadsLetThrough = t.LeadsLetThrough || word == "leads" }, nil,
	},
}

// TermsIn are the terms of a style file on those that it builds on, whatever else is wrong with the file. Only the promise of the file
// takes the place of another; of all else the stricter one holds, for who may write a style may not always take away what is asked.
func TermsIn(f *source.File, base Terms) Terms {
	r := &reading{style: &Style{Terms: base}}
	if f.Root.Kind == source.Mapping {
		r.terms(f.Root)
	}
	return r.style.Terms
}

// terms reads those sections of a style file that hold terms.
func (r *reading) terms(file *source.Node) {
	for _, section := range []string{releasesKey, reviewKey} {
		if n := file.Get(section); n != nil {
			r.termsOf(section, n)
		}
	}
}

func (r *reading) termsOf(section string, n *source.Node) {
	var names []string
	for _, t := range terms {
		if t.section == section {
			names = append(names, t.name)
		}
	}
	if !r.is(n, source.Mapping, section+" holds "+strings.Join(names, " and ")) {
		return
	}
	for _, m := range n.Members {
		i := slices.IndexFunc(terms, func(t term) bool { return t.section == section && t.name == m.Key })
		if i < 0 {
			r.unknown(m, names, section)
			continue
		}
		r.term(terms[i], m.Value)
	}
}

func (r *reading) term(t term, n *source.Node) {
	if t.words == nil {
		if num := n.Num(); num == nil || !num.IsInt() || num.Sign() < 0 || !num.Num().IsInt64() || num.Num().Int64() > MaxNotice {
			r.wrong(n.Wrong(StyleBroken, "%s is no number of days from 0 to %d; %s", t.name, MaxNotice, t.says))
			return
		}
		kept := t.days(&r.style.Terms)
		*kept = max(*kept, int(n.Num().Num().Int64()))
		return
	}
	if n.Kind != source.String || !slices.Contains(t.words, n.Text) {
		r.wrong(n.Wrong(StyleBroken, "%s is %s; it is one of %s", t.name, found(n), strings.Join(t.words, ", ")))
		return
	}
	t.set(&r.style.Terms, n.Text)
}

// found is what stands at a place, in a message.
func found(n *source.Node) string {
	if n.Kind == source.String {
		return `"` + n.Text + `"`
	}
	return n.Kind.String()
}

// Words say what the terms ask for, a sentence each.
func (t Terms) Words() []string {
	words := []string{}
	if t.ByAnother {
		words = append(words, "somebody else publishes a draft than who recorded it last")
	}
	if t.LeadsLetThrough {
		words = append(words, "leads alone let through what stands in the way")
	}
	return words
}
