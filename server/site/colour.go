package site

import (
	"context"
	"io"
	"strings"

	"github.com/a-h/templ"

	"oldledger/core/sample"
)

// inks are the classes of what is set in an ink of its own, by its kind.
var inks = map[sample.TokenKind]string{sample.Keyword: "k", sample.String: "s", sample.Number: "i", sample.Comment: "r"}

// coloured is a program, or a message, in the inks of its parts. The colours say nothing that the text does not.
func coloured(syntax, program string) templ.Component {
	return templ.ComponentFunc(func(_ context.Context, w io.Writer) error {
		var b strings.Builder
		b.Grow(len(program) * 3 / 2)
		for kind, text := range sample.Tokens(syntax, program) {
			if kind == sample.Text {
				b.WriteString(templ.EscapeString(text))
				continue
			}
			b.WriteString(`<span class="`)
			b.WriteString(inks[kind])
			b.WriteString(`">`)
			b.WriteString(templ.EscapeString(text))
			b.WriteString(`</span>`)
		}
		_, err := io.WriteString(w, b.String())
		return err
	})
}

// syntaxOf is that of messages of a media type, "" where they have none that is known.
func syntaxOf(mediaType string) string {
	if strings.Contains(mediaType, "json") {
		return "json"
	}
	return ""
}
