package cli

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"strings"
	"sync"

	"oldledger/client"
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// styles are the house styles by which descriptions are judged. Each is read once, beside what else is done.
type styles struct {
	app   *app
	ctx   context.Context
	named string // by --style, or "" for none
	read  map[string]func() (*housestyle.Style, error)
	told  map[string]bool // of which APIs it was said that their style is hidden
}

func (a *app) newStyles(ctx context.Context, named string) *styles {
	return &styles{a, ctx, named, map[string]func() (*housestyle.Style, error){}, map[string]bool{}}
}

// begin begins to read the style of a description: the one that is named, or, of a version in the ledger, that of its API.
func (s *styles) begin(arg string) func() (*housestyle.Style, error) {
	of := ""
	if s.named == "" && s.app.isReference(arg) {
		of, _, _ = strings.Cut(arg, "@")
	}
	if known := s.read[of]; known != nil {
		return known
	}
	type result struct {
		style *housestyle.Style
		err   error
	}
	done := make(chan result, 1)
	go func() {
		style, err := s.app.houseStyle(s.ctx, s.named, of)
		done <- result{style, err}
	}()
	s.read[of] = sync.OnceValues(func() (*housestyle.Style, error) {
		r := <-done
		return r.style, r.err
	})
	return s.read[of]
}

// of is the style of a description. Who may read a version and not the style of its API is told, and it is judged by the rules as they
// come.
func (s *styles) of(arg string) (*housestyle.Style, error) {
	style, err := s.begin(arg)()
	var hidden *hiddenStyle
	if !errors.As(err, &hidden) {
		return style, err
	}
	if !s.told[hidden.api] {
		s.told[hidden.api] = true
		fmt.Fprintf(s.app.Err, "%s; it is judged by the rules as they come\n", hidden)
	}
	return housestyle.Ours(), nil
}

// houseStyle reads a house style: of a file, or of the ledger (@berths, or @ for that of the house); where none is named, that of the
// project file, else that of an API in the ledger, else the rules as they come.
func (a *app) houseStyle(ctx context.Context, name, api string) (*housestyle.Style, error) {
	if name == "" {
		p, err := a.project()
		if err != nil {
			return nil, err
		}
		name = p.Style
	}
	switch of, inLedger := strings.CutPrefix(name, "@"); {
	case inLedger:
		return a.ledgerStyle(ctx, of)
	case name != "":
		f, err := a.styleFile(name)
		if err != nil {
			return nil, err
		}
		return housestyle.Read(f, housestyle.Ours())
	case api != "":
		style, err := a.ledgerStyle(ctx, api)
		if isHidden(err) {
			return nil, &hiddenStyle{api}
		}
		return style, err
	}
	return housestyle.Ours(), nil
}

// hiddenStyle is the error of a style that nobody asked for by its name, and that is for those who see the API inside.
type hiddenStyle struct{ api string }

func (h *hiddenStyle) Error() string { return "the house style of " + h.api + " is not yours to read" }

// isHidden reports whether the ledger does not show something to whoever asks.
func isHidden(err error) bool {
	var r *client.Refusal
	return errors.As(err, &r) && (r.Status == http.StatusUnauthorized || r.Status == http.StatusForbidden || r.Status == http.StatusNotFound)
}

// ledgerStyle reads the style that is in force in the ledger for an API, or, without a name, in the house.
func (a *app) ledgerStyle(ctx context.Context, api string) (*housestyle.Style, error) {
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	in, err := c.Style(ctx, "", api)
	if err != nil {
		return nil, refused(err)
	}
	style := housestyle.Ours()
	for _, p := range in.Parts {
		f, err := source.Parse(fmt.Sprintf("the style of %s, version %d", p.Of, p.Version), []byte(p.Text))
		if err != nil {
			return nil, err
		}
		if style, err = housestyle.Read(f, style); err != nil {
			return nil, err
		}
	}
	style.Name = in.Name
	return style, nil
}

// styleFile opens a style file.
func (a *app) styleFile(name string) (*source.File, error) {
	text, err := os.ReadFile(a.path(name))
	if err != nil {
		return nil, notRead(name, err)
	}
	return source.Parse(name, text)
}
