package site

import (
	"context"
	"io/fs"
	"net/http"
	"path"
	"regexp"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/commonmark"
	handbook "oldledger/docs"
	"oldledger/ledger"
)

// manualOrder is the order in which the pages of the manual are listed; others follow by name.
var manualOrder = []string{
	"first-hour", "ledger", "people", "console", "commands", "comparing", "kinds", "mistakes", "housestyle", "rules", "rule-language", "raml", "guides", "notices",
	"consumers", "reliance", "reports", "pipelines", "tally", "reference", "embedding", "http",
}

// manualPage is one page of the manual.
type manualPage struct {
	Name     string // "comparing"
	Title    string
	About    string // its first paragraph
	HTML     string
	Sections []section // those of the second order
}

// section is a heading to which one can go.
type section struct{ ID, Title string }

// readManual renders the manual. It changes only with the program.
func readManual() ([]manualPage, error) {
	entries, err := fs.ReadDir(handbook.Manual, "manual")
	if err != nil {
		return nil, err
	}
	byName := map[string]manualPage{}
	var names []string
	for _, e := range entries {
		name, isPage := strings.CutSuffix(e.Name(), ".md")
		if !isPage {
			continue
		}
		text, err := fs.ReadFile(handbook.Manual, "manual/"+e.Name())
		if err != nil {
			return nil, err
		}
		if byName[name], err = renderManual(name, string(text)); err != nil {
			return nil, err
		}
		names = append(names, name)
	}
	var pages []manualPage
	for _, name := range append(append([]string{}, manualOrder...), names...) {
		if p, there := byName[name]; there {
			pages = append(pages, p)
			delete(byName, name)
		}
	}
	return pages, nil
}

var (
	manualHeading = regexp.MustCompile(`<h([23])>(.*?)</h[23]>`)
	manualLink    = regexp.MustCompile(`(<a href=")([^"#:]*)((?:#[^"]*)?")`)
	manualImage   = regexp.MustCompile(`<p><img [^>]*></p>\n?`)
	markup        = regexp.MustCompile(`<[^>]*>`)
	notInAnchor   = regexp.MustCompile(`[^a-z0-9 -]+`)
)

// renderManual renders one page: its headings can be gone to, its links lead to pages here, and pictures stay where the manual is kept.
func renderManual(name, text string) (manualPage, error) {
	p := manualPage{Name: name}
	head, rest, _ := strings.Cut(text, "\n")
	p.Title = strings.TrimPrefix(head, "# ")
	p.About, _, _ = strings.Cut(strings.TrimSpace(rest), "\n\n")
	rendered, err := commonmark.HTML(rest)
	if err != nil {
		return p, err
	}
	// What is wider than the page is scrolled, by keys too; a column may have no name.
	rendered = strings.NewReplacer("<pre>", `<pre tabindex="0">`, "<table>", `<table tabindex="0">`, "<th></th>", "<td></td>").Replace(rendered)
	rendered = manualImage.ReplaceAllString(rendered, "")
	rendered = manualHeading.ReplaceAllStringFunc(rendered, func(h string) string {
		m := manualHeading.FindStringSubmatch(h)
		plain := markup.ReplaceAllString(m[2], "")
		id := strings.ReplaceAll(notInAnchor.ReplaceAllString(strings.ToLower(plain), ""), " ", "-")
		if m[1] == "2" {
			p.Sections = append(p.Sections, section{id, plain})
		}
		return "<h" + m[1] + ` id="` + id + `">` + m[2] + "</h" + m[1] + ">"
	})
	p.HTML = manualLink.ReplaceAllStringFunc(rendered, func(a string) string {
		m := manualLink.FindStringSubmatch(a)
		return m[1] + manualAddress(m[2]) + m[3]
	})
	return p, nil
}

// manualAddress is where a link of the manual leads in the service.
func manualAddress(to string) string {
	switch page, isPage := strings.CutSuffix(path.Base(to), ".md"); {
	case to == "":
		return ""
	case path.Base(to) == "description.yaml":
		return "/api/v1/description.yaml"
	case isPage:
		return "/manual/" + page
	}
	return "/manual/" + to
}

// manual answers below /manual/.
func (s *Site) manual(c *echo.Context) error {
	rest := strings.TrimSuffix(c.Param("*"), "/")
	if rest == "contents.json" {
		return c.JSON(http.StatusOK, s.manualEntries())
	}
	if text, err := fs.ReadFile(handbook.Manual, "manual/"+path.Clean("/" + rest)[1:]); err == nil && path.Ext(rest) != ".md" {
		return c.Blob(http.StatusOK, "text/plain; charset=utf-8", text)
	}
	p, err := s.manualAt(c.Request().Context(), rest)
	if p, err = s.refused(c.Request().Context(), ledger.Nobody, "", p, err); err != nil {
		return err
	}
	return compress(s.moved(p)).answer(c.Response(), c.Request())
}

func (s *Site) manualAt(ctx context.Context, name string) (page, error) {
	if name == "" {
		return s.html(ctx, http.StatusOK, manualContents(s.house, s.manualPages))
	}
	for i, p := range s.manualPages {
		if p.Name == name {
			return s.html(ctx, http.StatusOK, manualText(s.house, s.manualPages, i))
		}
	}
	return page{}, errNowhere
}

// manualEntry is a page or a section of the manual, for whoever looks for one.
type manualEntry struct {
	Title   string `json:"title"`
	In      string `json:"in,omitempty"` // the page of a section
	Address string `json:"address"`
}

func (s *Site) manualEntries() []manualEntry {
	all := []manualEntry{}
	for _, p := range s.manualPages {
		all = append(all, manualEntry{Title: p.Title, Address: "/manual/" + p.Name})
		for _, x := range p.Sections {
			all = append(all, manualEntry{x.Title, p.Title, "/manual/" + p.Name + "#" + x.ID})
		}
	}
	return all
}
