package housestyle

import (
	"iter"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/jinzhu/inflection"
)

// The ways in which a name of several words is written.
const (
	Camel  = "camel"  // berthLength
	Pascal = "pascal" // BerthLength
	Snake  = "snake"  // berth_length
	Kebab  = "kebab"  // berth-length
	Upper  = "upper"  // BERTH_LENGTH
	Train  = "train"  // Berth-Length
)

// Cases lists them.
var Cases = []string{Camel, Pascal, Snake, Kebab, Upper, Train}

// wordsOf splits a name into its words, in lower case: berthID, berth_id and Berth-Id are [berth id].
func wordsOf(name string) []string { return slices.Collect(eachWord(name)) }

// eachWord goes through the words of a name.
func eachWord(name string) iter.Seq[string] {
	return func(yield func(string) bool) {
		begin := -1 // of the word, -1 between two
		var before rune
		for i, r := range name {
			switch {
			case !unicode.IsLetter(r) && !unicode.IsDigit(r):
				if begin >= 0 && r != '\'' && r != '’' {
					if !yield(strings.ToLower(name[begin:i])) {
						return
					}
					begin = -1
				}
			case begin < 0:
				begin = i
			case unicode.IsUpper(r) && (unicode.IsLower(before) || unicode.IsDigit(before) || unicode.IsUpper(before) && smallFollows(name, i, r)):
				if !yield(strings.ToLower(name[begin:i])) {
					return
				}
				begin = i
			}
			before = r
		}
		if begin >= 0 {
			yield(strings.ToLower(name[begin:]))
		}
	}
}

// smallFollows reports whether a small letter follows the one at an offset.
func smallFollows(name string, at int, r rune) bool {
	next, _ := utf8.DecodeRuneInString(name[at+utf8.RuneLen(r):])
	return unicode.IsLower(next)
}

// bare is a name without the signs before it: _links is links.
func bare(name string) string { return strings.TrimLeft(name, "_$@") }

// isCase reports whether a name is written in one of the ways. Signs before the name do not count.
func isCase(name, way string) bool {
	name = bare(name)
	if name == "" {
		return true
	}
	switch way {
	case Camel:
		return isJoined(name, false)
	case Pascal:
		return isJoined(name, true)
	case Snake:
		return isSeparated(name, '_', unicode.IsLower, false)
	case Kebab:
		return isSeparated(name, '-', unicode.IsLower, false)
	case Upper:
		return isSeparated(name, '_', unicode.IsUpper, false)
	case Train:
		return isSeparated(name, '-', unicode.IsLetter, true)
	}
	return true
}

// isJoined reports whether a name is letters and digits, and begins with a letter that is large, or not.
func isJoined(name string, large bool) bool {
	for i, r := range name {
		if i == 0 && unicode.IsUpper(r) != large || !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			return false
		}
	}
	return true
}

// isSeparated reports whether a name is words of such letters, with one sign between two of them; each begins with a large letter if
// begins says so.
func isSeparated(name string, sign rune, letter func(rune) bool, begins bool) bool {
	first := true
	for _, r := range name {
		switch {
		case r == sign:
			if first {
				return false
			}
			first = true
			continue
		case unicode.IsDigit(r):
		case !letter(r), begins && first && !unicode.IsUpper(r):
			return false
		}
		first = false
	}
	return !first
}

// inCase writes a name in one of the ways.
func inCase(name, way string) string {
	words := wordsOf(name)
	signs := name[:len(name)-len(bare(name))]
	switch way {
	case Snake:
		return signs + strings.Join(words, "_")
	case Kebab:
		return signs + strings.Join(words, "-")
	case Upper:
		return signs + strings.ToUpper(strings.Join(words, "_"))
	case Train:
		for i, w := range words {
			words[i] = capital(w)
		}
		return signs + strings.Join(words, "-")
	case Camel, Pascal:
		for i, w := range words {
			if i > 0 || way == Pascal {
				words[i] = capital(w)
			}
		}
		return signs + strings.Join(words, "")
	}
	return name
}

// capital is a text that begins with a large letter.
func capital(text string) string {
	for i, r := range text {
		return text[:i] + string(unicode.ToUpper(r)) + text[i+len(string(r)):]
	}
	return text
}

// onlyCase is the one way in which a name can be written as it is; "" where several fit, or none.
func onlyCase(name string) string {
	found := ""
	for _, way := range Cases {
		if isCase(name, way) {
			if found != "" {
				return ""
			}
			found = way
		}
	}
	return found
}

// mass are English words of which there is no second one, and others whose plural is no other word.
var mass = []string{
	"access", "advice", "cargo", "data", "equipment", "evidence", "feedback", "health", "history", "information", "inventory", "media",
	"metadata", "news", "settings", "status", "stock", "traffic", "usage", "weather", "work",
}

// joints are words behind which the thing that a name names does not stand: codes of conduct are codes.
var joints = []string{"of", "by", "for", "from", "in", "on", "to", "with", "at"}

// head is the word of a name that says what it names: the last, or the one before the first joint; "" where there is none.
func head(name string) string {
	last := ""
	for w := range eachWord(name) {
		if last != "" && slices.Contains(joints, w) {
			return last
		}
		last = w
	}
	return last
}

// isPlural reports whether an English name may stand for several things.
func isPlural(name string) bool {
	word := head(name)
	if word == "" || slices.Contains(mass, word) || strings.IndexFunc(word, unicode.IsDigit) >= 0 || !isASCII(word) {
		return true
	}
	return strings.HasSuffix(word, "s") && !strings.HasSuffix(word, "ss") || inflection.Plural(word) == word
}

// isSingular reports whether an English name may stand for one thing.
func isSingular(name string) bool {
	word := head(name)
	return word == "" || slices.Contains(mass, word) || !isASCII(word) || len(word) < 4 || inflection.Singular(word) == word ||
		strings.HasSuffix(word, "ss") || strings.HasSuffix(word, "us") || strings.HasSuffix(word, "is")
}

// plural is a name for several things, in the way in which it was written.
func plural(name string) string {
	word := head(name)
	at := strings.LastIndex(strings.ToLower(name), word)
	if word == "" || at < 0 || !isASCII(word) || !isASCII(name) {
		return name
	}
	many := inflection.Plural(word)
	if strings.HasPrefix(many, word) {
		return name[:at+len(word)] + many[len(word):] + name[at+len(word):]
	}
	return name[:at] + many + name[at+len(word):]
}

func isASCII(text string) bool {
	return strings.IndexFunc(text, func(r rune) bool { return r > unicode.MaxASCII }) < 0
}

// empty are words that say nothing of a thing: those of grammar, and those of descriptions.
var empty = func() map[string]bool {
	words := map[string]bool{}
	for w := range strings.FieldsSeq(`a an the of for to this that these those is are be its it in on at by with and or as from which
		api array boolean date field flag float int integer item items list name names number object param parameter property
		response request result resource returns schema string text the type value values will your our data body payload info
		todo tbd tba fixme n/a na none unknown description summary title`) {
		words[w] = true
	}
	return words
}()

// saysMore reports whether a text says more of a thing than its name does.
func saysMore(text, name string) bool {
	of := map[string]bool{}
	for w := range eachWord(name) {
		of[stem(w)] = true
	}
	for w := range eachWord(text) {
		if !empty[w] && !of[stem(w)] {
			return true
		}
	}
	return false
}

// stem is a word without the ending of a plural: what is the same for berth and berths, quay and quays, entry and entries.
func stem(word string) string {
	if isASCII(word) && len(word) > 3 {
		if base, ok := strings.CutSuffix(word, "ies"); ok {
			return base + "y"
		}
		if base, ok := strings.CutSuffix(word, "es"); ok {
			return base
		}
		if !strings.HasSuffix(word, "ss") {
			word = strings.TrimSuffix(word, "s")
		}
		return strings.TrimSuffix(word, "e")
	}
	return word
}

// acts are verbs that say what the method of a call says already.
var acts = []string{
	"get", "fetch", "retrieve", "create", "insert", "update", "modify", "delete", "remove", "save", "edit", "add",
}

// isAct reports whether a step of a path begins with a verb that the method says already.
func isAct(step string) bool {
	words := wordsOf(step)
	return len(words) > 0 && slices.Contains(acts, words[0])
}
