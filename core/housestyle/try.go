package housestyle

import (
	"context"
	"fmt"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/source"
)

// Trial is what a rule found in one of its examples.
type Trial struct {
	Rule    string
	Bad     bool // whether it should have found something
	Example Example
	Found   Findings
	Err     error // why the example cannot be read
}

// OK reports whether the rule says of its example what it should.
func (t Trial) OK() bool { return t.Err == nil && t.Bad == (len(t.Found) > 0) }

// Said is what the rule says of the example, where it is not what it should.
func (t Trial) Said() string {
	switch {
	case t.Err != nil:
		return "an example cannot be judged: " + t.Err.Error()
	case t.Bad:
		return "it finds nothing in a bad example"
	}
	return "it finds in a good example: " + t.Found[0].Message()
}

// TryOwn judges the examples of all rules of the house's own, each by its rule. What their questions cost together is limited, as in
// one description.
func (s *Style) TryOwn(ctx context.Context) ([]Trial, error) {
	var all []Trial
	spent := uint64(0)
	for _, r := range s.Rules {
		if !r.Own {
			continue
		}
		trials, err := s.tryAll(ctx, r, &spent)
		if err != nil {
			return nil, err
		}
		all = append(all, trials...)
	}
	return all, nil
}

// Try judges the examples of a rule by it: the bad ones first.
func (s *Style) Try(ctx context.Context, r *Rule) ([]Trial, error) {
	return s.tryAll(ctx, r, new(uint64))
}

func (s *Style) tryAll(ctx context.Context, r *Rule, spent *uint64) ([]Trial, error) {
	var trials []Trial
	for _, list := range []struct {
		bad      bool
		examples []Example
	}{{true, r.Bad}, {false, r.Good}} {
		for _, e := range list.examples {
			t := Trial{Rule: r.Name, Bad: list.bad, Example: e}
			t.Found, t.Err = s.try(ctx, r, e.Text, spent)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			trials = append(trials, t)
		}
	}
	return trials, nil
}

func (s *Style) try(ctx context.Context, r *Rule, text string, spent *uint64) (Findings, error) {
	texts := strings.Split(text, exampleBreak)
	c, err := readExample(texts[len(texts)-1])
	if err != nil {
		return nil, err
	}
	o := Options{spent: spent}
	for i, before := range texts[:len(texts)-1] {
		b, err := readExample(before)
		if err != nil {
			return nil, err
		}
		words := VocabularyOf(ctx, fmt.Sprintf("another API %d", i+1), b)
		if o.Company != nil {
			words = o.Company.With(words)
		}
		o.Base, o.Live, o.Company = b, append(o.Live, b.Version), &words
	}
	on := *r
	on.Off = false
	found, err := Check(ctx, c, &Style{House: s.House.with(r.With), Rules: []*Rule{&on}}, o)
	if err != nil {
		return nil, err
	}
	for _, f := range found {
		if f.Rule == RuleFailed.Name {
			return nil, f.Diagnostic
		}
	}
	return found, nil
}

// exampleBreak stands between the descriptions of an example that has several: the last is judged; those before it are versions before
// it, and other APIs of the company.
const exampleBreak = "\n---\n"

func readExample(text string) (*contract.Contract, error) {
	f, err := ParseExample(text)
	if err != nil {
		return nil, err
	}
	return format.Read(source.SetOf(f))
}

// ParseExample reads an example: what it lacks of a description is filled in behind it.
func ParseExample(text string) (*source.File, error) {
	if strings.HasPrefix(text, "#%RAML") {
		return source.Parse("example.raml", []byte(text))
	}
	f, err := source.Parse("example.yaml", []byte(text))
	if err != nil {
		return nil, err
	}
	if f.Root.Kind != source.Mapping {
		return nil, f.Root.Wrong(StyleBroken, "the example is %s; write keys of a description, such as paths:", f.Root.Kind)
	}
	lacks := map[string]string{"openapi": "3.1.0", "info": `{"title": "Example of a Harbour", "version": "1.0.0"}`, "paths": "{}"}
	if f.Root.Get("swagger") != nil {
		delete(lacks, "openapi")
	}
	var more []string
	for _, key := range []string{"openapi", "info", "paths"} {
		if filler, ok := lacks[key]; ok && f.Root.Get(key) == nil {
			if f.JSON() && key == "openapi" {
				filler = `"` + filler + `"`
			}
			more = append(more, fmt.Sprintf(`"%s": %s`, key, filler))
		}
	}
	if len(more) == 0 {
		return f, nil
	}
	if !f.JSON() {
		return source.Parse("example.yaml", []byte(strings.TrimRight(text, "\n")+"\n"+strings.Join(more, "\n")+"\n"))
	}
	open := strings.IndexByte(text, '{')
	if len(f.Root.Members) > 0 {
		more = append(more, "")
	}
	return source.Parse("example.json", []byte(text[:open+1]+strings.Join(more, ",")+text[open+1:]))
}
