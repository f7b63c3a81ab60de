package reference

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/sample"
	"oldledger/core/value"
)

// sample shows an authored example that its schema admits, or a generated one.
func (m *maker) sample(one *contract.Media, clientSends bool) *Sample {
	v, authored := m.filler.Media(one, clientSends)
	if v == nil || !sample.Shown(one, authored) {
		return nil
	}
	return &Sample{Text: shown(v), Generated: !authored}
}

// maxSampled is how many alternatives of a message have a sample each.
const maxSampled = 60

// sampled is a message whose alternatives have a sample each.
func (m *maker) sampled(f *Field, mediaType string, clientSends bool) *Field {
	if len(f.Choices) < 2 || len(f.Choices) > maxSampled || !strings.Contains(mediaType, "json") {
		return f
	}
	with := *f
	with.Choices = slices.Clone(f.Choices)
	for i, c := range f.Choices {
		v, authored := m.filler.Media(&contract.Media{Type: mediaType, Schema: c.of}, clientSends)
		if v == nil {
			continue
		}
		choice := *c
		choice.Sample = &Sample{Text: shown(tagged(v, c)), Generated: !authored}
		with.Choices[i] = &choice
	}
	return &with
}

// tagged is a sample of a choice with a tag that means it.
func tagged(v *value.Value, choice *Field) *value.Value {
	property, _, _ := strings.Cut(choice.When, " is ")
	if len(choice.tags) == 0 || v.Kind != value.Object {
		return v
	}
	if said := v.Get(property); said != nil && said.Kind == value.String && slices.Contains(choice.tags, said.Text) {
		return v
	}
	tag := value.Member{Name: property, Value: value.Str(choice.tags[0])}
	members := slices.DeleteFunc(slices.Clone(v.Members), func(m value.Member) bool { return m.Name == property })
	return value.Obj(append([]value.Member{tag}, members...)...)
}

func shown(v *value.Value) string {
	if v.Kind == value.String {
		return v.Text
	}
	return v.Indented()
}

// code writes a call of the operation in each language.
func (m *maker) code(op *contract.Operation) (*sample.Call, []Code) {
	call, ok := sample.Make(op, m.filler)
	if !ok {
		return nil, nil
	}
	call.Choose(op, m.ctx.Choice)
	var all []Code
	languages := m.ctx.Languages
	if len(languages) == 0 {
		languages = sample.Languages
	}
	for _, l := range languages {
		all = append(all, Code{Language: l.ID, Name: l.Name, Library: l.Library, Text: l.Write(call)})
	}
	return call, all
}

// text is a plain value as it stands on the wire; a list is joined by commas.
func text(v *value.Value) string {
	switch v.Kind {
	case value.String:
		return v.Text
	case value.Array:
		parts := make([]string, len(v.Items))
		for i, it := range v.Items {
			parts[i] = text(it)
		}
		return strings.Join(parts, ",")
	}
	return v.String()
}
