package format

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/raml"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Converted is a description in another dialect, and what could not be carried over as it was: each with its place in the source.
type Converted struct {
	Document *value.Value
	Warnings source.Diagnostics
}

// Convert writes a description, of whatever format, as OpenAPI. Comparing it with its source finds nothing above editorial, but for what
// the warnings name. The error is that of Read.
func Convert(set *source.Set, to openapi.Target) (Converted, error) {
	c, err := Read(set)
	if err != nil {
		return Converted{}, err
	}
	return ConvertRead(set, c, to), nil
}

// Bundle writes a description as one OpenAPI file: the files of one bundled, RAML converted to OpenAPI 3.1. The error is that of Read, or
// what keeps the files apart.
func Bundle(set *source.Set) (*value.Value, error) {
	if !raml.Speaks(set.Entry) {
		return openapi.Bundle(set)
	}
	made, err := Convert(set, openapi.To31)
	return made.Document, err
}

// ConvertRead is Convert for a description that was read already.
func ConvertRead(set *source.Set, c *contract.Contract, to openapi.Target) Converted {
	whole, warnings := openapi.Write(c, to)
	warnings = append(warnings, lost(set, whole, warnings)...)
	return Converted{whole, warnings.Sorted(set.Entry.Name)}
}

// readerKeys are the keys whose values are said to readers, or kept for them: none of them may be lost without a word.
var readerKeys = []string{
	"title", "description", "summary", "displayName", "content", "example", "default", "usage", "termsOfService",
	"operationId",
}

// lost finds what the source tells readers and the result does not. Templates are told where they are used.
func lost(set *source.Set, whole *value.Value, known source.Diagnostics) source.Diagnostics {
	l := &losses{entry: set.Entry, kept: map[string]bool{}, known: map[string]bool{}}
	for _, p := range known {
		l.known[p.Place.String()] = true
	}
	l.keep(whole)
	for _, f := range set.Files() {
		if f == set.Entry || raml.Speaks(f) || f.Root.Kind == source.Mapping && !isData(f) {
			l.walk(f.Root, 0)
		}
	}
	return l.problems
}

// isData tells a file that holds an example or a JSON Schema from one that holds a part of the description.
func isData(f *source.File) bool {
	return strings.HasSuffix(strings.ToLower(f.Name), ".json") && f.Root.Get("openapi") == nil && f.Root.Get("swagger") == nil
}

type losses struct {
	kept     map[string]bool // the texts and values of the result
	known    map[string]bool
	entry    *source.File
	problems source.Diagnostics
}

func (l *losses) keep(v *value.Value) {
	switch v.Kind {
	case value.String:
		l.kept[strings.TrimSpace(v.Text)] = true
		for line := range strings.SplitSeq(v.Text, "\n") {
			l.kept[strings.TrimSpace(strings.TrimLeft(line, "# "))] = true
		}
	case value.Array:
		for _, it := range v.Items {
			l.keep(it)
		}
	case value.Object:
		for _, m := range v.Members {
			l.kept[m.Name] = true
			l.keep(m.Value)
		}
	}
	l.kept[v.Key()] = true
}

func (l *losses) walk(n *source.Node, depth int) {
	if depth > source.MaxDepth {
		return
	}
	for _, it := range n.Items() {
		l.walk(it, depth+1)
	}
	for _, m := range n.Members {
		switch {
		case slices.Contains([]string{"traits", "resourceTypes", "annotationTypes"}, m.Key) && raml.Speaks(n.File()):
			continue
		case slices.Contains(readerKeys, m.Key):
			l.said(m)
			if m.Key == "example" || m.Key == "default" {
				continue
			}
		case strings.HasPrefix(m.Key, "x-") || strings.HasPrefix(m.Key, "("):
			l.said(m)
			continue
		case m.Key == "examples" || m.Key == "enum":
			continue
		}
		l.walk(m.Value, depth+1)
	}
}

// said reports a member whose words stand nowhere in the result.
func (l *losses) said(m source.Member) {
	n := m.Value
	if above := n.Parent(); above != nil && (above.Step() == "responses" || above.Step() == "info" && n.File() != l.entry) {
		return // the key is a status; another file's title is not this description's
	}
	if n.Kind == source.Mapping && !strings.HasPrefix(m.Key, "x-") && !strings.HasPrefix(m.Key, "(") && m.Key != "example" &&
		m.Key != "default" {
		return // a property of that name
	}
	if n.Include || n.Kind == source.Null || n.Kind == source.String && strings.Contains(n.Text, "<<") {
		return
	}
	first, _, _ := strings.Cut(strings.TrimSpace(n.Text), "\n")
	if l.kept[n.Value().Key()] || n.Text != "" && (l.kept[strings.TrimSpace(n.Text)] ||
		l.kept[strings.TrimSpace(strings.TrimLeft(first, "# "))]) {
		return
	}
	if l.known[n.Place().String()] {
		return
	}
	l.problems = append(l.problems, n.KeyWrong(openapi.NotCarried, "%s is not carried over: %s", m.Key, clip(n)))
}

func clip(n *source.Node) string {
	text := strings.Join(strings.Fields(n.Value().String()), " ")
	if r := []rune(text); len(r) > 60 {
		text = string(r[:60]) + "…"
	}
	return text
}
