package reference

import (
	"cmp"
	"iter"
	"net/url"
	"slices"
	"strconv"
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
	Says  string // the sentence of the entry's text that answers the question, where its title and its place alone do not
}

type posting struct{ entry, weight int }

// What a word counts for, by where it stands.
const (
	inTitle = 30
	inWhere = 10
	inText  = 4
)

// A score says first where all the words of the question stand, then what kind of thing the entry is, and at last how near the words are.
const (
	points = 2048 // more than the words of a question can count for
	kinds  = 4
)

// kindScore orders what stands in the same place: operations before schemas before what is inside of them before pages.
func kindScore(kind string) int {
	switch kind {
	case "operation":
		return 3
	case "schema":
		return 2
	case "parameter", "field":
		return 1
	}
	return 0
}

// wordScore is how well one word answers: above all by where it stands, unless it is only like the one that was asked for.
func wordScore(weight, nearness int) int {
	tier := 0
	switch {
	case nearness < begun:
	case weight == inTitle:
		tier = 3
	case weight == inWhere:
		tier = 2
	default:
		tier = 1
	}
	return tier*points + weight*nearness
}

// with is the score of an entry by one word more: it stands no better than its worst word.
func with(score, word int) int {
	return min(score/points, word/points)*points + score%points + word%points
}

// ofKind is the score of an entry by its words and its kind.
func ofKind(score int, kind string) int {
	return (score/points*kinds+kindScore(kind))*points + score%points
}

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
					ix.add(Entry{
						Kind: "parameter", Title: f.Name, Where: op.Title, Path: page + "#" + Anchor(ps.Place+"."+f.Name),
						Text: joinParagraphs(f.Description, f.values()),
					})
				}
			}
			if op.Body != nil {
				ix.media(op.Body.Media, op.Title, page, "body")
			}
			for _, r := range op.Responses {
				ix.media(r.Media, op.Title+", "+r.Status, page, r.Status)
			}
		}
	}
	for _, s := range d.Schemas {
		page := "/schemas/" + url.PathEscape(s.Name)
		if s.Schema == nil {
			continue
		}
		ix.add(Entry{Kind: "schema", Title: s.Name, Path: page, Text: s.Schema.Description})
		ix.inside(s.Schema, s.Name, page, "", 0)
	}
	return ix.done()
}

// media adds the fields of messages that have no page of their own.
func (ix *indexing) media(all []MediaSection, where, page, at string) {
	for i, m := range all {
		if m.Schema == nil || m.Schema.Schema != "" || m.Schema.Items != "" {
			continue
		}
		below := at
		if i > 0 {
			below += "." + strconv.Itoa(i+1)
		}
		ix.inside(m.Schema, where, page, below, 0)
	}
}

// maxIndexed is how deep inside a message fields are found.
const maxIndexed = 6

// inside adds the fields of a message, and those of its alternatives, down to schemas that have pages of their own.
func (ix *indexing) inside(of *Field, where, page, at string, depth int) {
	if depth == maxIndexed {
		return
	}
	for _, f := range of.Fields {
		at := at + "." + f.Name
		ix.add(Entry{Kind: "field", Title: f.Name, Where: where, Path: page + "#" + Anchor(at), Text: joinParagraphs(f.Description, f.values())})
		if f.Schema == "" && f.Items == "" {
			ix.inside(f, where+"."+f.Name, page, at, depth+1)
		}
	}
	for i, choice := range of.Choices {
		if choice.Schema == "" {
			ix.inside(choice, where, page, at+"."+strconv.Itoa(i+1), depth+1)
		}
	}
}

// values are the words about the values of a field.
func (f *Field) values() string {
	var words []string
	for _, e := range f.Enum {
		words = append(words, strings.TrimSpace(e.Value+" "+e.Text))
	}
	return strings.Join(words, "\n\n")
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
				scores[entry] = with(score, found[entry])
			}
		}
	}
	for entry, score := range scores {
		if score > 0 {
			scores[entry] = ofKind(score, ix.entries[entry].Kind)
		}
	}
	hits := best(ix.entries, scores, limit)
	slices.SortFunc(hits, Better)
	hits = hits[:min(limit, len(hits))]
	for i := range hits {
		hits[i].Says = Says(asked, hits[i].Entry)
	}
	return hits
}

// Asked are the words of a question, at most so many.
func Asked(question string) []string {
	asked := slices.Collect(Words(question))
	return asked[:min(len(asked), maxQuery)]
}

// Better orders hits: negative where a answers better than b.
func Better(a, b Hit) int {
	return cmp.Or(b.Score-a.Score, strings.Compare(a.Title, b.Title), strings.Compare(a.Where, b.Where), strings.Compare(a.Path, b.Path))
}

// Score tells how well an entry answers the words that were asked for; 0 where it lacks one. An index gives the same.
func Score(asked []string, e Entry) int {
	score := 0
	for i, w := range asked {
		most := 0
		for _, part := range []struct {
			text   string
			weight int
		}{{e.Title, inTitle}, {e.Where, inWhere}, {e.Text, inText}} {
			for word := range Words(part.text) {
				if nearness := Near(w, word); nearness > 0 {
					most = max(most, wordScore(part.weight, nearness))
				}
			}
		}
		switch {
		case most == 0:
			return 0
		case i == 0:
			score = most
		default:
			score = with(score, most)
		}
	}
	return ofKind(score, e.Kind)
}

// Says is the sentence of an entry's text in which most of those words stand that its title and its place do not have; "" where they have
// them all, or none stands there.
func Says(asked []string, e Entry) string {
	missing := slices.Clone(asked)
	for _, text := range []string{e.Title, e.Where} {
		missing = slices.DeleteFunc(missing, func(w string) bool { return answers(w, text) })
	}
	said, most := "", 0
	for sentence := range sentences(e.Text) {
		n := 0
		for _, w := range missing {
			if answers(w, sentence) {
				n++
			}
		}
		if n > most {
			said, most = sentence, n
		}
	}
	return said
}

// answers reports whether a word, or one that it begins, stands in a text.
func answers(word, text string) bool {
	for w := range Words(text) {
		if strings.HasPrefix(w, word) {
			return true
		}
	}
	return false
}

// sentences are those of a text, one after the other: each ends with its mark, or where a line is left empty or a list goes on.
func sentences(text string) iter.Seq[string] {
	return func(yield func(string) bool) {
		from := 0
		for i, c := range text {
			var end int
			switch {
			case (c == '.' || c == '!' || c == '?') && strings.ContainsAny(text[i+1:min(i+2, len(text))], " \n"):
				end = i + 1
			case c == '\n' && strings.ContainsAny(text[i+1:min(i+2, len(text))], "\n-*#|"):
				end = i
			default:
				continue
			}
			if sentence := strings.TrimSpace(text[from:end]); sentence != "" && !yield(sentence) {
				return
			}
			from = end
		}
		if sentence := strings.TrimSpace(text[from:]); sentence != "" {
			yield(sentence)
		}
	}
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
			hits = append(hits, Hit{Entry: entries[i], Score: s})
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
			scores[p.entry] = max(scores[p.entry], wordScore(p.weight, nearness))
		}
	}
	return scores
}

// begun is the Near of a word that begins with the one that was asked for.
const begun = 6

// Near tells how well a word answers the one that was asked for: 8 the same, 6 it begins with it, 4 or 3 the same but for so many
// letters, 2 or 1 it begins with it but for so many, 0 not at all.
func Near(asked, word string) int {
	switch {
	case asked == word:
		return 8
	case strings.HasPrefix(word, asked):
		return begun
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
