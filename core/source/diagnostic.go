package source

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// Severity tells how much a Diagnostic weighs. Greater is worse.
type Severity uint8

// A Hint can wait; a Warning is likely a mistake and changes nothing that is compared; an Error means that what was written has another
// meaning than its author can have wanted, or none.
const (
	Hint Severity = iota
	Warning
	Error
)

var severityNames = [...]string{"hint", "warning", "error"}

func (s Severity) String() string { return severityNames[s] }

// MarshalText writes the severity's name.
func (s Severity) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// UnmarshalText reads a severity's name.
func (s *Severity) UnmarshalText(text []byte) error {
	i := slices.Index(severityNames[:], string(text))
	if i < 0 {
		return fmt.Errorf("%q is no severity; they are error, warning and hint", text)
	}
	*s = Severity(i)
	return nil
}

// Rule names one kind of Diagnostic.
type Rule struct {
	Name     string // stable, such as key-unknown
	Severity Severity
	Refused  bool   // whether a description with it cannot be read at all
	Means    string // what is read instead
}

// The rules of texts and sets. All of them refuse: what breaks them is no tree, or not whole.
var (
	Syntax     = Rule{"syntax", Error, true, "The text is neither YAML 1.2 nor JSON; nothing of it can be read."}
	KeyTwice   = Rule{"key-twice", Error, true, "A key stands twice in one object, and nobody can tell which is meant."}
	TooLarge   = Rule{"too-large", Error, true, "The text is beyond a limit of size, depth or number."}
	NoFile     = Rule{"file-missing", Error, true, "A file that the description refers to is not in its folder."}
	OutsideSet = Rule{"file-outside", Error, true, "A reference leads out of the folder of the description; nothing outside it is read."}
)

// Range is where something stands in a text: from its first character to the end of its last. Lines and columns count from 1, columns in
// code points.
type Range struct {
	Place
	EndLine   int `json:"endLine"`
	EndColumn int `json:"endColumn"` // of the character behind the last
}

// Diagnostic is something wrong with a description.
type Diagnostic struct {
	Rule     string   `json:"rule"`
	Severity Severity `json:"severity"`
	Range
	Text    string    `json:"text"`            // what is wrong
	Right   string    `json:"right,omitempty"` // what would be right
	Related []Related `json:"related,omitempty"`
	Fix     *Fix      `json:"fix,omitempty"`

	refused bool
}

// Related is another place that has to do with a Diagnostic.
type Related struct {
	Range
	Text string `json:"text"` // what stands there
}

// Fix is a mend that needs no thought: edits of the texts, which do not overlap.
type Fix struct {
	Title string `json:"title"`
	Edits []Edit `json:"edits"`
}

// Edit puts a text in the place of a range.
type Edit struct {
	Range
	Text string `json:"text"`
}

// Message is what is wrong and what would be right, in one line.
func (d *Diagnostic) Message() string {
	if d.Right == "" {
		return d.Text
	}
	return d.Text + "; " + d.Right
}

func (d *Diagnostic) Error() string { return d.Place.String() + ": " + d.Message() }

// Refused reports whether the description cannot be read because of it.
func (d *Diagnostic) Refused() bool { return d.refused }

// Demote gives the diagnostic another rule: what refuses a description in one place may be left out in another.
func (d *Diagnostic) Demote(rule Rule) {
	d.Rule, d.Severity, d.refused = rule.Name, rule.Severity, rule.Refused
}

// Also names another place that has to do with the diagnostic, and what stands there.
func (d *Diagnostic) Also(n *Node, text string) *Diagnostic {
	d.Related = append(d.Related, Related{n.KeyRange(), text})
	return d
}

// diagnose makes a diagnostic. format says what is wrong and, behind a semicolon, what would be right.
func diagnose(rule Rule, at Range, format string, args []any) *Diagnostic {
	args = slices.Clone(args)
	for i, a := range args {
		switch a := a.(type) {
		case string:
			args[i] = legible(a)
		case fmt.Stringer:
			args[i] = legible(a.String())
		case error:
			args[i] = legible(a.Error())
		}
	}
	wrong, right, _ := strings.Cut(format, "; ")
	verbs := strings.Count(strings.ReplaceAll(wrong, "%%", ""), "%")
	d := &Diagnostic{Rule: rule.Name, Severity: rule.Severity, refused: rule.Refused, Range: at}
	d.Text = fmt.Sprintf(wrong, args[:verbs]...)
	d.Right = strings.TrimPrefix(fmt.Sprintf(right, args[verbs:]...), "; ")
	return d
}

// maxLegible is how much of a text of the description a message repeats.
const maxLegible = 200

// legible is a text of the description as a message repeats it: not too long, and without characters that move a terminal.
func legible(text string) string {
	if len(text) > maxLegible {
		text = strings.ToValidUTF8(text[:maxLegible], "") + "…"
	}
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return unicode.ReplacementChar
		}
		return r
	}, text)
}

// MaxTold is how many diagnostics are told of one description; TooMany says that there are more.
const MaxTold = 5_000

// TooMany is the rule of descriptions with more mistakes than anybody reads.
var TooMany = Rule{"too-many", Error, false, "What is wrong beyond the first five thousand mistakes is not told."}

// Bounded are the first of the diagnostics, with one that says that there are more where there are. root is where that one stands.
func (ds Diagnostics) Bounded(root *Node) Diagnostics {
	if len(ds) <= MaxTold {
		return ds
	}
	more := root.Wrong(TooMany, "%d more mistakes are not told; mend those that are", len(ds)-MaxTold)
	return append(slices.Clone(ds[:MaxTold]), more)
}

// Diagnostics are all that is wrong with an input. As an error it reads one line each.
type Diagnostics []*Diagnostic

func (ds Diagnostics) Error() string {
	shown := ds[:min(len(ds), maxTold)]
	lines := make([]string, len(shown), len(shown)+1)
	for i, d := range shown {
		lines[i] = d.Error()
	}
	if more := len(ds) - len(shown); more > 0 {
		lines = append(lines, fmt.Sprintf("and %d more", more))
	}
	return strings.Join(lines, "\n")
}

// maxTold is how many diagnostics an error tells: more would hide the first.
const maxTold = 50

// Count is how many there are of a severity.
func (ds Diagnostics) Count(s Severity) int {
	n := 0
	for _, d := range ds {
		if d.Severity == s {
			n++
		}
	}
	return n
}

// Worst are the diagnostics by severity, the errors first, otherwise in their order.
func (ds Diagnostics) Worst() Diagnostics {
	all := slices.Clone(ds)
	slices.SortStableFunc(all, func(a, b *Diagnostic) int { return cmp.Compare(b.Severity, a.Severity) })
	return all
}

// Refusing are those for which the description cannot be read.
func (ds Diagnostics) Refusing() Diagnostics {
	var all Diagnostics
	for _, d := range ds {
		if d.refused {
			all = append(all, d)
		}
	}
	return all
}

// Sorted are the diagnostics in the order of their places, those of the entry's file first, each once.
func (ds Diagnostics) Sorted(entry string) Diagnostics {
	all := slices.Clone(ds)
	slices.SortStableFunc(all, func(a, b *Diagnostic) int {
		if a.File != b.File {
			switch entry {
			case a.File:
				return -1
			case b.File:
				return 1
			}
			return cmp.Compare(a.File, b.File)
		}
		return cmp.Or(cmp.Compare(a.Line, b.Line), cmp.Compare(a.Column, b.Column))
	})
	return slices.CompactFunc(all, func(a, b *Diagnostic) bool {
		return a.Rule == b.Rule && a.Range == b.Range && a.Text == b.Text
	})
}

// Wrong makes a diagnostic of the node's value. format says what is wrong and, behind a semicolon, what would be right.
func (n *Node) Wrong(rule Rule, format string, args ...any) *Diagnostic {
	return diagnose(rule, n.ValueRange(), format, args)
}

// KeyWrong makes a diagnostic of the node's key.
func (n *Node) KeyWrong(rule Rule, format string, args ...any) *Diagnostic {
	return diagnose(rule, n.KeyRange(), format, args)
}

// Rename adds the fix that writes another key in the place of the node's own.
func (d *Diagnostic) Rename(n *Node, key string) *Diagnostic {
	return d.mend(n.KeyRange(), n.File(), key)
}

// Rewrite adds the fix that writes another text in the place of the node's value, in the quotes that stand there.
func (d *Diagnostic) Rewrite(n *Node, text string) *Diagnostic {
	return d.mend(n.ValueRange(), n.File(), text)
}

func (d *Diagnostic) mend(at Range, f *File, text string) *Diagnostic {
	if quote := f.runeAt(at.Line, at.Column); quote == '"' || quote == '\'' {
		text = string(quote) + text + string(quote)
	}
	d.Fix = &Fix{Title: "write " + text, Edits: []Edit{{at, text}}}
	return d
}

// Replace adds the fix that writes a text in the place of the node's value, as it is.
func (d *Diagnostic) Replace(n *Node, text string) *Diagnostic {
	d.Fix = &Fix{Title: "write " + text, Edits: []Edit{{n.ValueRange(), text}}}
	return d
}

// Tally is how many diagnostics there are, and the worst of them.
type Tally struct {
	Errors   int         `json:"errors"`
	Warnings int         `json:"warnings"`
	Hints    int         `json:"hints"`
	Worst    Diagnostics `json:"worst"` // errors before warnings before hints, at most MaxWorst
}

// MaxWorst is how many diagnostics a Tally shows.
const MaxWorst = 20

// Tally counts the diagnostics.
func (ds Diagnostics) Tally() Tally {
	worst := append(Diagnostics{}, ds.Worst()...)
	return Tally{ds.Count(Error), ds.Count(Warning), ds.Count(Hint), worst[:min(len(worst), MaxWorst)]}
}

// MarshalJSON writes the tally with its counts in words, as "text".
func (t Tally) MarshalJSON() ([]byte, error) {
	type fields Tally
	return json.Marshal(struct {
		fields
		Text string `json:"text"`
	}{fields(t), t.String()})
}

// All is how many there are.
func (t Tally) All() int { return t.Errors + t.Warnings + t.Hints }

// String says how many there are of each severity: "2 errors, 1 hint"; "" where there are none.
func (t Tally) String() string {
	var parts []string
	for _, of := range []struct {
		n    int
		noun string
	}{{t.Errors, "error"}, {t.Warnings, "warning"}, {t.Hints, "hint"}} {
		switch of.n {
		case 0:
		case 1:
			parts = append(parts, "1 "+of.noun)
		default:
			parts = append(parts, fmt.Sprintf("%d %ss", of.n, of.noun))
		}
	}
	return strings.Join(parts, ", ")
}
