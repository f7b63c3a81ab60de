package raml

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"github.com/jinzhu/inflection"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// arguments are the values of a template's parameters, by their names (RAML 1.0, Resource Type and Trait Parameters).
type arguments map[string]*source.Node

var mention = regexp.MustCompile(`<<\s*([^<>|]+?)\s*((?:\|\s*![A-Za-z]+\s*)*)>>`)

// functions change the text of an argument.
var functions = map[string]func(string) string{
	"!singularize":         inflection.Singular,
	"!pluralize":           inflection.Plural,
	"!uppercase":           strings.ToUpper,
	"!lowercase":           strings.ToLower,
	"!lowercamelcase":      func(s string) string { return camel(s, false) },
	"!uppercamelcase":      func(s string) string { return camel(s, true) },
	"!lowerunderscorecase": func(s string) string { return strings.ToLower(strings.Join(wordsIn(s), "_")) },
	"!upperunderscorecase": func(s string) string { return strings.ToUpper(strings.Join(wordsIn(s), "_")) },
	"!lowerhyphencase":     func(s string) string { return strings.ToLower(strings.Join(wordsIn(s), "-")) },
	"!upperhyphencase":     func(s string) string { return strings.ToUpper(strings.Join(wordsIn(s), "-")) },
}

// wordsIn takes a name apart: at hyphens, underscores, spaces, and where a capital begins a word.
func wordsIn(s string) []string {
	var words []string
	var word []rune
	end := func() {
		if len(word) > 0 {
			words, word = append(words, string(word)), nil
		}
	}
	letters := []rune(s)
	for i, c := range letters {
		switch {
		case !unicode.IsLetter(c) && !unicode.IsDigit(c):
			end()
			continue
		case unicode.IsUpper(c) && i > 0 && !unicode.IsUpper(letters[i-1]):
			end()
		}
		word = append(word, c)
	}
	end()
	return words
}

func camel(s string, upper bool) string {
	var b strings.Builder
	for i, w := range wordsIn(s) {
		head, rest := w[:1], w[1:]
		if i == 0 && !upper {
			head = strings.ToLower(head)
		} else {
			head = strings.ToUpper(head)
		}
		b.WriteString(head + rest)
	}
	return b.String()
}

// instance is a template with its arguments set in. Where nothing is to be set in, it is the template itself, so that what many
// use stays one; equal arguments make equal instances.
func (r *reader) instance(n *source.Node, args arguments) *source.Node {
	n = r.val(n)
	names := r.mentioned(n, 0)
	if len(names) == 0 {
		return n
	}
	key := strings.Builder{}
	key.WriteString(n.File().Name + "\x00" + n.Pointer())
	for _, name := range names {
		key.WriteString("\x00" + name + "\x00")
		if a := args[name]; a != nil {
			key.WriteString(a.Value().Key())
		}
	}
	if known := r.made[key.String()]; known != nil {
		return known
	}
	made := r.filled(n, args, 0)
	r.made[key.String()] = made
	return made
}

// mentioned lists the parameters that a tree mentions, sorted.
func (r *reader) mentioned(n *source.Node, depth int) []string {
	n = r.val(n)
	if n == nil || depth > source.MaxDepth {
		return nil
	}
	if known, done := r.params[n]; done {
		return known
	}
	r.params[n] = nil
	var all []string
	in := func(text string) {
		if strings.Contains(text, "<<") {
			for _, m := range mention.FindAllStringSubmatch(text, -1) {
				all = append(all, m[1])
			}
		}
	}
	switch n.Kind {
	case source.String:
		in(n.Text)
	case source.Sequence:
		for _, it := range n.Items() {
			all = append(all, r.mentioned(it, depth+1)...)
		}
	case source.Mapping:
		for _, m := range n.Members {
			in(m.Key)
			all = append(all, r.mentioned(m.Value, depth+1)...)
		}
	}
	slices.Sort(all)
	all = slices.Compact(all)
	r.params[n] = all
	return all
}

func (r *reader) filled(n *source.Node, args arguments, depth int) *source.Node {
	v := r.val(n)
	if v == nil || len(r.mentioned(v, depth)) == 0 || !r.grow(v, 1) {
		return n
	}
	switch v.Kind {
	case source.String:
		return r.setText(v, args)
	case source.Sequence:
		var items []*source.Node
		for _, it := range v.Items() {
			items = append(items, r.filled(it, args, depth+1))
		}
		return v.WithItems(items)
	case source.Mapping:
		members := make([]source.Member, 0, len(v.Members))
		for _, m := range v.Members {
			key := m.Key
			if strings.Contains(key, "<<") {
				key = r.setText(v.Named(key), args).Text
			}
			if twice := slices.ContainsFunc(members, func(o source.Member) bool { return o.Key == key }); twice {
				r.report(m.Value.KeyWrong(contract.TemplateBroken, "with its arguments set in, the key %q stands twice in this object", key))
				continue
			}
			members = append(members, source.Member{Key: key, Value: r.filled(m.Value, args, depth+1), KeyLine: m.KeyLine, KeyColumn: m.KeyColumn})
		}
		return v.With(members)
	}
	return v
}

// setText sets arguments into a text. A text that is a parameter and nothing else becomes the argument, number or text as it is.
func (r *reader) setText(n *source.Node, args arguments) *source.Node {
	if m := mention.FindStringSubmatch(n.Text); m != nil && m[0] == strings.TrimSpace(n.Text) && m[2] == "" {
		a := r.argument(n, m[1], args)
		if a == nil {
			return n
		}
		made := n.WithValue(a)
		r.argumentOf[made] = a
		return made
	}
	var last *source.Node
	text := mention.ReplaceAllStringFunc(n.Text, func(found string) string {
		m := mention.FindStringSubmatch(found)
		a := r.argument(n, m[1], args)
		if a == nil {
			return ""
		}
		if a.Kind == source.Mapping || a.Kind == source.Sequence {
			r.report(n.Wrong(contract.TemplateBroken, "the argument %s is %s and cannot stand inside a text", m[1], a.Kind))
			return ""
		}
		last = a
		return r.changed(n, a.Text, m[2])
	})
	if len(text) > maxText {
		r.report(n.Wrong(contract.TooMuch, "with its arguments set in, this text has more than %d characters", maxText))
		text = ""
	}
	made := n.WithText(text)
	if last != nil {
		r.argumentOf[made] = last
	}
	return made
}

func (r *reader) argument(n *source.Node, name string, args arguments) *source.Node {
	if a := args[name]; a != nil {
		return a
	}
	var known []string
	for k := range args {
		known = append(known, k)
	}
	slices.Sort(known)
	r.report(n.Wrong(contract.TemplateBroken, "the parameter <<%s>> is given no value; %s", name, source.DidYouMean(name, known)))
	return nil
}

// changed applies the functions that follow a parameter's name.
func (r *reader) changed(n *source.Node, text, names string) string {
	for name := range strings.SplitSeq(names, "|") {
		name = strings.TrimSpace(name)
		if name == "" {
			continue
		}
		f := functions[name]
		if f == nil || r.old && name != "!singularize" && name != "!pluralize" {
			known := []string{"!singularize", "!pluralize"}
			if !r.old {
				for k := range functions {
					known = append(known, k)
				}
				slices.Sort(known)
			}
			r.report(n.Wrong(contract.TemplateBroken, "there is no function %s; %s", name, source.DidYouMean(name, known)))
			continue
		}
		text = f(text)
	}
	return text
}

// applied is one mention of a template: its name, and the arguments that it is given.
type applied struct {
	name *source.Node
	args arguments
}

// application reads a mention of a template: a name, or a map from the name to its arguments.
func (r *reader) application(n *source.Node, what string) (applied, bool) {
	n = r.val(n)
	switch {
	case n == nil || n.Kind == source.Null:
		return applied{}, false
	case n.Kind == source.String:
		return applied{name: n}, true
	case n.Kind == source.Mapping && len(n.Members) == 1:
		a := applied{name: n.Named(n.Members[0].Key), args: arguments{}}
		if given := r.argumentOf[n]; given != nil {
			r.argumentOf[a.name] = given
		}
		v := r.val(n.Members[0].Value)
		if v == nil || v.Kind == source.Null {
			return a, true
		}
		if !r.is(v, source.Mapping) {
			return applied{}, false
		}
		for _, m := range v.Members {
			a.args[m.Key] = r.plain(m.Value)
		}
		return a, true
	}
	r.report(n.Wrong(contract.TemplateBroken, "a %s is named by its name, or by a map from its name to its arguments", what))
	return applied{}, false
}

// with are the arguments, with those that a template is always given.
func (a applied) with(reserved arguments) arguments {
	all := arguments{}
	for k, v := range a.args {
		all[k] = v
	}
	for k, v := range reserved {
		all[k] = v
	}
	return all
}

// unused reports arguments that the template does not mention.
func (r *reader) unused(a applied, template *source.Node) {
	known := r.mentioned(template, 0)
	for name, v := range a.args {
		if !slices.Contains(known, name) && v != nil {
			r.report(v.KeyWrong(contract.ParameterUnused, "%s has no parameter %s; %s", a.name.Text, name, source.DidYouMean(name, known)))
		}
	}
}
