package site

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"oldledger/ledger"
)

// faces are what each font makes of the tokens.
var faces = map[string]string{
	"plex":   `--serif: var(--sans);`,
	"system": `--serif: Georgia, "Times New Roman", serif; --sans: system-ui, sans-serif; --mono: ui-monospace, monospace;`,
}

// looks is the style sheet of an API's own looks; an empty one where it has none.
func (s *Site) looks(ctx context.Context, who ledger.Actor, api string) (page, error) {
	k, err := s.ledger.Looks(ctx, who, api)
	if err != nil {
		return page{}, err
	}
	return page{http.StatusOK, http.Header{"Content-Type": {"text/css; charset=utf-8"}}, []byte(styles(k))}, nil
}

func styles(k ledger.Looks) string {
	var b strings.Builder
	b.WriteString("/* The looks that the team chose. */\n")
	if k.Accent != "" {
		fmt.Fprintf(&b, ":root { --link: %s; --margin-line: %[1]s; }\n", k.Accent)
		fmt.Fprintf(&b, "@media (prefers-color-scheme: dark) { :root { --link: %s; --margin-line: %[1]s; } }\n", k.AccentDark)
	}
	if face := faces[k.Font]; face != "" {
		fmt.Fprintf(&b, ":root { %s }\n", face)
	}
	return b.String()
}

// textPage is a page of prose: one that the description brings along, or the team wrote.
func (s *Site) textPage(ctx context.Context, e *edition, slug string) (page, error) {
	t := e.Doc.Text(slug)
	if t == nil {
		return page{}, errNowhere
	}
	f := &Frame{edition: e, Here: "page " + slug}
	return s.page(ctx, f, prosePage(f, t))
}
