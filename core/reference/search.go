package reference

import (
	"cmp"
	"iter"
	"net/url"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Index finds pages by words. It is made once for a document.
type Index struct {
	entries []Entry
	words   []string // all that occur, sorted
	where   [][]posting
}

// Entry is something that can be found.
type Entry struct {
	Kind  string // "operation", "parameter", "field", "schema", "page"
	Title string
	Where string // what it belongs to: "POST /bookings", "Vessel"
	Path  string // of its page, below the version's
	Text  string // what its author says of it
}

// Hit is an entry that was found. The better ones have the higher score.
type Hit struct {
	Entry
	Score int
}

type posting struct{ entry, weight int }

// What a word counts for, by where it stands.
const (
	inTitle = 30
	inWhere = 10
	inText  = 4
)

// Index gathers what a reader may look for: operations, what one sends, fields, schemas, and the words about them.
func (d *Document) Index() *Index {
	ix := indexing{at: map[string]int{}, texts: map[string][]int{}}
	ix.add(Entry{Kind: "page", Title: d.Title, Path: "/", Text: d.Description})
	for _, t := range d.Texts {
		ix.add(Entry{Kind: "page", Title: t.Title, Path: "/pages/" + t.Slug, Text: t.Content})
	}
	for _, g := range d.Groups {
		for _, op := range g.Operations {
			where := op.Method + " " + op.Path
			page := "/operations/" + url.PathEscape(op.Slug)
			ix.add(Entry{Kind: "operation", Title: op.Title, Where: where, Path: page, Text: op.Description})
			for _, ps := range op.Parameters {
				for _, f := range ps.Fields {
					ix.add(Entry{Kind: "parameter", Title: f.Name, Where: op.Title, Path: page + "#" + Anchor(ps.Place+"."+f.Name), Text: f.Description})
				}
			}
		}
	}
	for _, s := range d.Schemas {
		page := "/schemas/" + url.PathEscape(s.Name)
		if s.Schema == nil {
			continue
		}
		ix.add(Entry{Kind: "schema", Title: s.Name, Path: page, Text: s.Schema.Description})
		for _, f := range s.Schema.Fields {
			ix.add(Entry{Kind: "field", Title: f.Name, Where: s.Name, Path: page + "#" + Anchor(f.Name), Text: f.Description + " " + f.values()})
		}
	}
	return ix.done()
}

// values are the words about the values of a field.
func (f *Field) values() string {
	var words []string
	for _, e := range f.Enum {
		words = append(words, e.Value, e.Text)
	}
	return strings.Join(words, " ")
}

// Entries are all that can be found.
func (ix *Index) Entries() []Entry { return ix.entries }

// indexing is an index in the making.
type indexing struct {
	entries []Entry
	at      map[string]int // the number of a word
	words   []string       // by number
	where   [][]posting
	texts   map[string][]int // the numbers of the words in a text
}

func (ix *indexing) add(e Entry) {
	n := len(ix.entries)
	ix.entries = append(ix.entries, e)
	ix.text(e.Title, n, inTitle)
	ix.text(e.Where, n, inWhere)
	ix.text(e.Text, n, inText)
}

// text adds the words of a text; the weightier texts of an entry come first.
func (ix *indexing) text(text string, entry, weight int) {
	for _, i := range ix.numbers(text) {
		if all := ix.where[i]; len(all) == 0 || all[len(all)-1].entry != entry {
			ix.where[i] = append(all, posting{entry, weight})
		}
	}
}

// numbers are the numbers of the words in a text. Descriptions say many things more than once, and each is taken apart once.
func (ix *indexing) numbers(text string) []int {
	if known, done := ix.texts[text]; done {
		return known
	}
	var all []int
	for w := range Words(text) {
		i, known := ix.at[w]
		if !known {
			i = len(ix.words)
			ix.at[w] = i
			ix.words, ix.where = append(ix.words, w), append(ix.where, nil)
		}
		all = append(all, i)
	}
	slices.Sort(all)
	all = slices.Compact(all)
	ix.texts[text] = all
	return all
}

// done sorts the words.
func (ix *indexing) done() *Index {
	order := make([]int, len(ix.words))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return strings.Compare(ix.words[a], ix.words[b]) })
	sorted := &Index{entries: ix.entries}
	for _, i := range order {
		sorted.words, sorted.where = append(sorted.words, ix.words[i]), append(sorted.where, ix.where[i])
	}
	return sorted
}

// Words takes a text apart into words in lower case; lengthOverall is found as itself, as length and as overall.
func Words(text string) iter.Seq[string] {
	return func(yield func(string) bool) {
		for word := range strings.FieldsFuncSeq(text, notInWord) {
			if strings.IndexFunc(word, unicode.IsUpper) < 0 {
				if !yield(word) {
					return
				}
				continue
			}
			if !yield(strings.ToLower(word)) || !humps(word, yield) {
				return
			}
		}
	}
}

func notInWord(c rune) bool {
	if c < utf8.RuneSelf {
		return (c < 'a' || c > 'z') && (c < 'A' || c > 'Z') && (c < '0' || c > '9')
	}
	return !unicode.IsLetter(c) && !unicode.IsDigit(c)
}

// humps are the parts of a word that a capital within it begins.
func humps(word string, yield func(string) bool) bool {
	from := 0
	for i, c := range word {
		if i > from && unicode.IsUpper(c) && !unicode.IsUpper(rune(word[i-1])) {
			if !yield(strings.ToLower(word[from:i])) {
				return false
			}
			from = i
		}
	}
	return from == 0 || yield(strings.ToLower(word[from:]))
}

// maxQuery bounds the words of a question.
const maxQuery = 8

// Find lists what has all words of a question, or such as begin with them or are misspelt by a letter or two: the best first, at most
// limit. No words find nothing.
func (ix *Index) Find(question string, limit int) []Hit {
	asked := Asked(question)
	var scores []int // by entry; 0 for what lacks a word
	for i, w := range asked {
		found := ix.word(w)
		if i == 0 {
			scores = found
			continue
		}
		for entry, score := range scores {
			if found[entry] == 0 {
				scores[entry] = 0
			} else if score > 0 {
				scores[entry] += found[entry]
			}
		}
	}
	hits := best(ix.entries, scores, limit)
	slices.SortFunc(hits, Better)
	return hits[:min(limit, len(hits))]
}

// Asked are the words of a question, at most so many.
func Asked(question string) []string {
	asked := slices.Collect(Words(question))
	return asked[:min(len(asked), maxQuery)]
}

// Better orders hits: negative where a answers better than b.
func Better(a, b Hit) int {
	return cmp.Or(b.Score-a.Score, strings.Compare(a.Title, b.Title), strings.Compare(a.Path+a.Where, b.Path+b.Where))
}

// Score tells how well an entry answers the words that were asked for; 0 where it lacks one. An index gives the same.
func Score(asked []string, e Entry) int {
	sum := 0
	for _, w := range asked {
		most := 0
		for _, part := range []struct {
			text   string
			weight int
		}{{e.Title, inTitle}, {e.Where, inWhere}, {e.Text, inText}} {
			for word := range Words(part.text) {
				most = max(most, part.weight*Near(w, word))
			}
		}
		if most == 0 {
			return 0
		}
		sum += most
	}
	return sum
}

// best are the entries with the highest scores, at least as many as are asked for where there are so many: where several stand
// equal at the end, all of them.
func best(entries []Entry, scores []int, limit int) []Hit {
	var count []int // of entries, by score
	for _, s := range scores {
		for len(count) <= s {
			count = append(count, 0)
		}
		count[s]++
	}
	least := len(count)
	for n := 0; n < limit && least > 1; {
		least--
		n += count[least]
	}
	hits := []Hit{}
	for i, s := range scores {
		if s >= least && s > 0 {
			hits = append(hits, Hit{entries[i], s})
		}
	}
	return hits
}

// word scores the entries in which a word stands, or one that it begins or misspells.
func (ix *Index) word(asked string) []int {
	scores := make([]int, len(ix.entries))
	for i, w := range ix.words {
		nearness := Near(asked, w)
		if nearness == 0 {
			continue
		}
		for _, p := range ix.where[i] {
			scores[p.entry] = max(scores[p.entry], p.weight*nearness)
		}
	}
	return scores
}

// Near tells how well a word answers the one that was asked for: 8 the same, 6 it begins with it, 4 or 3 the same but for so many
// letters, 2 or 1 it begins with it but for so many, 0 not at all.
func Near(asked, word string) int {
	switch {
	case asked == word:
		return 8
	case strings.HasPrefix(word, asked):
		return 6
	}
	typos := 0
	switch n := len(asked); {
	case n >= 8:
		typos = 2
	case n >= 4:
		typos = 1
	}
	if typos == 0 || len(word) < len(asked)-typos || asked[0] != word[0] {
		return 0
	}
	for length := max(1, len(asked)-typos); length <= min(len(word), len(asked)+typos); length++ {
		if away := misspelt(asked, word[:length], typos); away <= typos && length == len(word) {
			return 5 - away
		} else if away <= typos {
			return 3 - away
		}
	}
	return 0
}

// misspelt counts the letters to add, drop, change or swap that make a into b; more than most are not counted.
func misspelt(a, b string, most int) int {
	if d := len(a) - len(b); d > most || -d > most {
		return most + 1
	}
	var before, row, next [64]int
	if len(b) >= len(row) {
		return most + 1
	}
	for j := range len(b) + 1 {
		row[j] = j
	}
	for i := 1; i <= len(a); i++ {
		next[0] = i
		least := next[0]
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			next[j] = min(row[j]+1, next[j-1]+1, row[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				next[j] = min(next[j], before[j-2]+1)
			}
			least = min(least, next[j])
		}
		if least > most {
			return most + 1
		}
		before, row = row, next
	}
	return row[len(b)]
}
