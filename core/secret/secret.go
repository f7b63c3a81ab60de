// Package secret finds what looks like a credential in the texts of a description: a private key, a password in an address, a token.
//
//	for _, f := range secret.Scan(file.Root) {
//		fmt.Println(f.Place, f.What, f.Shown)
//	}
//
// It reads every text but those that are no prose and no example: references, patterns, names of operations. What it shows of a finding
// is its beginning only. A finding's ID stays the same while the text does, wherever it moves in the description.
package secret

import (
	"crypto/sha256"
	"encoding/hex"
	"iter"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"oldledger/core/source"
)

// Random is what a finding is of which nothing tells but that it looks as tokens do.
const Random = "a random text, as tokens are"

// Finding is one text that looks like a credential.
type Finding struct {
	ID    string       `json:"id"`
	What  string       `json:"what"`  // "a private key", "a password in an address", …
	Shown string       `json:"shown"` // its first characters
	Place source.Place `json:"place"`
}

// Scan reads a tree of nodes. Findings come in the order of their places, each credential once.
func Scan(root *source.Node) []Finding {
	s := scan{seen: map[string]bool{}}
	s.node(root, "")
	return s.found
}

// ScanText reads a text that is no tree of nodes, line by line. A finding's place has no pointer.
func ScanText(file, text string) []Finding {
	s := scan{seen: map[string]bool{}}
	for i, line := range strings.Split(text, "\n") {
		for _, h := range inText("", line) {
			s.keep(source.Place{File: file, Line: i + 1, Column: 1}, h)
		}
	}
	return s.found
}

type scan struct {
	found []Finding
	seen  map[string]bool
}

// silent are the fields whose texts are read by programs alone.
var silent = []string{
	"$ref", "$id", "$schema", "$anchor", "pattern", "operationId", "operationRef", "tokenUrl", "authorizationUrl",
	"refreshUrl", "openIdConnectUrl",
}

func (s *scan) node(n *source.Node, name string) {
	switch n.Kind {
	case source.Mapping:
		for _, m := range n.Members {
			if !slices.Contains(silent, m.Key) {
				s.node(m.Value, m.Key)
			}
		}
	case source.Sequence:
		for _, it := range n.Items() {
			s.node(it, name)
		}
	case source.String:
		for _, h := range inText(name, n.Text) {
			s.add(n, h)
		}
	}
}

// hit is what was found in one text.
type hit struct{ what, text string }

func (s *scan) add(n *source.Node, h hit) { s.keep(n.Place(), h) }

func (s *scan) keep(at source.Place, h hit) {
	sum := sha256.Sum256([]byte(h.text))
	id := hex.EncodeToString(sum[:6])
	if !s.seen[id] {
		s.seen[id] = true
		s.found = append(s.found, Finding{id, h.what, masked(h.text), at})
	}
}

// masked shows so much of a credential that its owner knows it again.
func masked(text string) string {
	runes := []rune(text)
	return string(runes[:min(len(runes)/3, 6)]) + "…"
}

var (
	privateKey = regexp.MustCompile(`-----BEGIN [A-Z ]*PRIVATE KEY-----`)
	inAddress  = regexp.MustCompile(`[a-zA-Z][a-zA-Z0-9+.-]*://[^\s/@:]+:([^\s/@]+)@`)
	signed     = regexp.MustCompile(`\beyJ[A-Za-z0-9_-]{8,}\.eyJ[A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]{8,}`)
	bearer     = regexp.MustCompile(`(?i)\b(?:bearer|basic)\s+([A-Za-z0-9+/=_.~-]{16,})`)
	assigned   = regexp.MustCompile(
		`(?i)\b(?:password|passwd|passphrase|secret|token|api[-_ ]?key|access[-_ ]?key)["']?\s*[:=]\s*["']?([^\s"',;}]{8,})`)
	identifier = regexp.MustCompile(`^[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}$`)
)

// named are parts of the names beside which a credential may stand.
var named = []string{"passw", "passphrase", "secret", "token", "key"}

// assigns reports whether a name of a credential stands shortly before a colon or an equals sign.
func assigns(text string) bool {
	for at, rest := 0, text; ; {
		i := strings.IndexAny(rest, ":=")
		if i < 0 {
			return false
		}
		at += i + 1
		rest = rest[i+1:]
		before := strings.ToLower(text[max(0, at-24):at])
		if slices.ContainsFunc(named, func(n string) bool { return strings.Contains(before, n) }) {
			return true
		}
	}
}

// telling are the ends of names of fields that hold credentials, dashes and underscores left out.
var telling = []string{"password", "passwd", "passphrase", "secret", "token", "apikey", "accesskey", "privatekey"}

// tells reports whether a field of such a name holds a credential.
func tells(name string) bool {
	if len(name) < 5 || !slices.ContainsFunc(lastLetters, func(end string) bool { return strings.EqualFold(name[len(name)-3:], end) }) {
		return false
	}
	name = strings.ToLower(name)
	if strings.HasSuffix(name, "key") {
		name = strings.ReplaceAll(strings.ReplaceAll(name, "-", ""), "_", "")
	}
	return slices.ContainsFunc(telling, func(end string) bool { return strings.HasSuffix(name, end) })
}

// lastLetters are those of telling: most names end otherwise.
var lastLetters = []string{"ord", "swd", "ase", "ret", "ken", "key"}

// inText finds the credentials in a text. name is the field that holds it.
func inText(name, text string) []hit {
	t := glance(text)
	if !t.worth && !tells(name) {
		return nil
	}
	if loc := privateKey.FindStringIndex(text); loc != nil {
		return []hit{{"a private key", text[loc[0]:]}}
	}
	var hits []hit
	take := func(what string, re *regexp.Regexp, random bool) {
		for _, m := range re.FindAllStringSubmatch(text, -1) {
			found := m[len(m)-1]
			if !placeholder(found) && (!random || looksRandom(found)) {
				hits = append(hits, hit{what, found})
			}
		}
	}
	if _, after, found := strings.Cut(text, "://"); found && strings.Contains(after, "@") {
		take("a password in an address", inAddress, false)
	}
	if strings.Contains(text, "eyJ") {
		take("a signed token", signed, false)
	}
	if slices.ContainsFunc(signs[:4], func(sign string) bool { return strings.Contains(text, sign) }) {
		take("a credential for the header Authorization", bearer, true)
	}
	if assigns(text) {
		take("a credential beside its name", assigned, true)
	}
	if tells(name) && len(text) >= 8 && looksRandom(text) && !placeholder(text) {
		hits = append(hits, hit{"a value of a field called " + name, text})
	}
	if len(hits) == 0 && t.long {
		for w := range longWords(text) {
			if random(w) {
				hits = append(hits, hit{Random, w})
			}
		}
	}
	return hits
}

// signs are what stands in a text with a credential that has neither a colon nor an equals sign.
var signs = []string{"earer", "EARER", "asic", "ASIC", "-----BEGIN", "eyJ"}

// look is what a first pass over a text sees of it: most texts need no second.
type look struct{ worth, long bool }

func glance(text string) look {
	var l look
	run, digits := 0, 0
	for i := range len(text) {
		switch c := text[i]; {
		case c == ':' || c == '=':
			l.worth = true
			run++
		case c >= '0' && c <= '9':
			run, digits = run+1, digits+1
		case c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '+' || c == '/' || c == '_' || c == '-':
			run++
		default:
			run, digits = 0, 0
		}
		l.long = l.long || run >= longest && digits >= 2
	}
	l.worth = l.worth || l.long || slices.ContainsFunc(signs, func(sign string) bool { return strings.Contains(text, sign) })
	return l
}

// longest is from how many characters on a word is looked at as a token.
const longest = 24

// longWords are the long words of a text: letters, digits and the signs of base64.
func longWords(text string) iter.Seq[string] {
	return func(yield func(string) bool) {
		begin := 0
		for i := 0; i <= len(text); i++ {
			if i < len(text) && (class(text[i]) < 3 || strings.IndexByte("+/=_-", text[i]) >= 0) {
				continue
			}
			if i-begin >= longest && !yield(text[begin:i]) {
				return
			}
			begin = i + 1
		}
	}
}

// placeholder reports whether a text plainly stands for a credential and is none.
func placeholder(text string) bool {
	lower := strings.ToLower(text)
	for _, sign := range []string{
		"<", "{", "$", "*", "…", "...", "xxx", "your", "example", "changeme", "placeholder", "redacted", "secret-",
		"my-",
	} {
		if strings.Contains(lower, sign) {
			return true
		}
	}
	return false
}

// looksRandom reports whether a text is no word of a language: it has letters and digits mixed, or is very uneven.
func looksRandom(text string) bool {
	var letters, digits, others bool
	for _, c := range text {
		letters = letters || unicode.IsLetter(c)
		digits = digits || unicode.IsDigit(c)
		others = others || !unicode.IsLetter(c) && !unicode.IsDigit(c)
	}
	return letters && (digits || others) && entropy(text) > 2.5
}

// random reports whether a long word is as uneven as a token. Identifiers, words of prose and addresses are not.
func random(w string) bool {
	if identifier.MatchString(w) || placeholder(w) || strings.Count(w, "/") > 2 || strings.Count(w, "-") > 3 || strings.Count(w, "_") > 3 {
		return false
	}
	if u, err := url.Parse(w); err == nil && u.Scheme != "" {
		return false
	}
	hexadecimal := strings.Trim(w, "0123456789abcdefABCDEF") == ""
	changes := 0 // between digits, small and capital letters
	for i := 1; i < len(w); i++ {
		if class(w[i]) != class(w[i-1]) {
			changes++
		}
	}
	switch {
	case strings.Trim(w, "0123456789") == "":
		return false
	case hexadecimal:
		return len(w) >= 32 && entropy(w) > 3 && changes > len(w)/4
	}
	return entropy(w) > 3.8 && changes > len(w)/4 && strings.ContainsAny(w, "0123456789")
}

func class(c byte) int {
	switch {
	case c >= '0' && c <= '9':
		return 0
	case c >= 'a' && c <= 'z':
		return 1
	case c >= 'A' && c <= 'Z':
		return 2
	}
	return 3
}

// entropy is that of a text's characters, in bits each.
func entropy(text string) float64 {
	count := map[rune]float64{}
	n := 0.0
	for _, c := range text {
		count[c]++
		n++
	}
	sum := 0.0
	for _, k := range count {
		sum -= k / n * math.Log2(k/n)
	}
	return sum
}

// Holds reports whether a text looks like a credential, or holds one; name is the field in which it stands. What stands in a field that is
// named for credentials is one, whatever it looks like: what is recorded is no example.
func Holds(name, text string) bool {
	return text != "" && (tells(name) || len(inText(name, text)) > 0)
}
