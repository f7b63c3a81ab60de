package housestyle

import (
	"fmt"
	"strings"

	"cel.dev/cel-go/common/types"
)

// headings are those of the groups.
var headings = map[string]string{
	"readers": "What readers miss", "consistent": "What is said in more than one way", "safe": "What is not safe",
	"lasting": "What will hold the API back", Ownership: "Of the house's own",
}

// Markdown is the page of the manual on the rules of a style: each with its weight, its reason, and an example that breaks and one
// that keeps it.
func (s *Style) Markdown() string {
	var b strings.Builder
	b.WriteString(`# The rules

By these rules ` + "`oldledger check`" + `, the console and the gate judge descriptions, beside the [mistakes](mistakes.md) that readers tell. Each has a
weight as it comes; [a style of your own](housestyle.md#a-style-of-your-own) makes it heavier, lighter or switches it off, with the reason. What an example
leaves out of a description does not matter.

This page is made by ` + "`oldledger rules --format markdown`" + `; a test holds every example against its rule.
`)
	group := ""
	for _, r := range s.Rules {
		if r.Group != group {
			group = r.Group
			fmt.Fprintf(&b, "\n## %s\n", headings[group])
		}
		r.markdown(&b)
	}
	return b.String()
}

func (r *Rule) markdown(b *strings.Builder) {
	weight := r.Weight.String()
	if r.Off {
		weight = "off"
	}
	fmt.Fprintf(b, "\n### `%s`\n\nAs %s: %s.", r.Name, article(weight), Plain(r.Says))
	if r.mend != nil || r.Name == "copy-of-type" || r.Name == "words-of-house" {
		b.WriteString(" `--fix` mends it.")
	}
	if r.Because != "" {
		fmt.Fprintf(b, " Because %s", r.Because)
	}
	fmt.Fprintf(b, "\n\n%s\n", strings.Join(strings.Fields(r.Why), " "))
	for i, list := range [][]Example{r.Bad, r.Good} {
		if len(list) > 0 {
			fmt.Fprintf(b, "\n```yaml\n# %s\n%s```\n", [...]string{"breaks it", "keeps it"}[i], list[0].Text)
		}
	}
}

// LanguageMarkdown is the page of the manual on the language of rules: what they may be about, and what conditions may ask.
func LanguageMarkdown() string {
	var b strings.Builder
	b.WriteString(`# What a rule may ask

A rule is ` + "`about`" + ` one kind of element, and its conditions ask for facts of it, by its name: ` + "`field.name`" + `. What is not said is an empty text,
` + "`false`, `0`" + ` or an empty list; ` + "`has(field.description)`" + ` asks whether it is said. Beside the element there are ` + "`api`" + `, the description as a whole,
and ` + "`house`" + `, what the house settles. Conditions are written in CEL, the Common Expression Language.

This page is made by ` + "`oldledger style language`" + `.
`)
	for _, k := range kinds {
		fmt.Fprintf(&b, "\n## About `%s`\n\n%s.\n\n| fact | is | |\n|---|---|---|\n", k.name, capital(k.says))
		for _, f := range k.facts {
			fmt.Fprintf(&b, "| `%s` | %s | %s |\n", f.name, factWords(f.is), f.says)
		}
	}
	b.WriteString("\n## `house`\n\nWhat a style file settles under `house:`.\n\n| setting | is | as it comes |\n|---|---|---|\n")
	for _, s := range settings {
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", s.name, s.says, s.asItComes())
	}
	b.WriteString("\n## Functions\n\nBeside those of CEL itself, such as `size()`, `contains(…)`, `startsWith(…)`, `matches(…)`, `all(…)`, `exists(…)`, `filter(…)` and `map(…)`:\n\n| call | gives |\n|---|---|\n")
	for _, f := range library {
		fmt.Fprintf(&b, "| `%s` | %s |\n", f.Call, f.Says)
	}
	return b.String()
}

func (s setting) asItComes() string {
	switch s.kind {
	case isCount:
		return fmt.Sprint(s.count)
	case isList:
		return "`" + strings.Join(s.list, "`, `") + "`"
	case isWords:
		return "none"
	}
	if s.way != "" {
		return "`" + s.way + "`"
	}
	return "as most are"
}

func factWords(t *types.Type) string {
	switch {
	case t == isAnies:
		return "a list"
	case t == isAny:
		return "any value"
	case t.Kind() == types.ListKind && t.Parameters()[0].Kind() == types.StructKind:
		return fmt.Sprintf("a list of [%s](#about-%[1]s)", t.Parameters()[0].TypeName())
	case t.Kind() == types.ListKind:
		return "a list of texts"
	case t.Kind() == types.StructKind:
		return fmt.Sprintf("[%s](#about-%[1]s)", t.TypeName())
	case t == isWhole:
		return "a whole number"
	}
	return typeWords(t)
}
