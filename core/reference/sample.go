package reference

import (
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

func shown(v *value.Value) string {
	if v.Kind == value.String {
		return v.Text
	}
	return v.Indented()
}

// code writes a call of the operation in each language.
func (m *maker) code(op *contract.Operation) []Code {
	call, ok := sample.Make(op, m.filler)
	if !ok {
		return nil
	}
	var all []Code
	languages := m.ctx.Languages
	if len(languages) == 0 {
		languages = sample.Languages
	}
	for _, l := range languages {
		all = append(all, Code{Language: l.ID, Name: l.Name, Library: l.Library, Text: l.Write(call)})
	}
	return all
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
