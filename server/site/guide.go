package site

import (
	"context"
	"encoding/json"
	"fmt"
	"html"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/guide"
	"oldledger/core/reference"
	"oldledger/core/source"
	"oldledger/ledger"
)

// guideView is a guide as its page shows it.
type guideView struct {
	*guide.Guide
	API       ledger.API
	Address   string // of the whole guide
	Query     string // of this one: "?use=bookBerth", or ""
	Checklist string
	places    [2]places // of the old version and the new one
	pages     [2]slugs
}

// maxUse bounds the operations that a reader ticks.
const maxUse = 500

// guide makes the page of a guide, or the guide as Markdown or JSON where its address ends so. use are the operations that it is narrowed
// to.
func (s *Site) guide(ctx context.Context, name, pair string, use []string) (page, error) {
	pair, form := formOf(pair)
	from, to, ok := strings.Cut(pair, "..")
	if !ok || len(use) > maxUse {
		return page{}, errNowhere
	}
	g, err := s.ledger.Guide(ctx, ledger.Nobody, name+"@"+from, name+"@"+to)
	if err != nil {
		return page{}, err
	}
	keys, err := g.Keys(use)
	if err != nil {
		return page{}, &ledger.Error{Fault: ledger.NotFound, Text: err.Error()}
	}
	g = g.For(keys)
	a, err := s.ledger.API(ctx, ledger.Nobody, name)
	if err != nil {
		return page{}, err
	}
	view := &guideView{Guide: g, API: a, Address: fmt.Sprintf("/reference/%s/guides/%s..%s", name, from, to)}
	if len(use) > 0 {
		view.Query = "?" + url.Values{"use": use}.Encode()
	}
	view.Checklist = g.Checklist(s.absolute(view.Address + view.Query))
	var p page
	switch form {
	case ".json":
		text, err := json.Marshal(g)
		if err != nil {
			return page{}, err
		}
		p = page{status: http.StatusOK, header: http.Header{"Content-Type": {"application/json"}}, body: text}
	case ".md":
		p = page{status: http.StatusOK, header: http.Header{"Content-Type": {"text/markdown; charset=utf-8"}}, body: []byte(g.Markdown())}
	default:
		if err := view.locate(ctx, s, name, from, to); err != nil {
			return page{}, err
		}
		if p, err = s.html("guide.html", http.StatusOK, view); err != nil {
			return page{}, err
		}
	}
	if len(use) > 0 {
		p.header.Set("X-Robots-Tag", "noindex")
	}
	return p, nil
}

// formOf takes the form apart that a guide is asked for in.
func formOf(pair string) (rest, form string) {
	for _, form := range []string{".md", ".json"} {
		if rest, ok := strings.CutSuffix(pair, form); ok {
			return rest, form
		}
	}
	return pair, ""
}

// absolute is an address of the reference as others reach it.
func (s *Site) absolute(address string) string { return s.origin() + address }

// places lead to the lines of a version's files.
type places struct {
	base  string
	files map[string]shownFile
}

func placesOf(base string, files []ledger.File) places {
	p := places{base, map[string]shownFile{}}
	for _, f := range shownFiles(files) {
		p.files[f.Path] = f
	}
	return p
}

// to is the address of a place; "" where it has none.
func (p places) to(at *source.Place) string {
	if at == nil {
		return ""
	}
	f, known := p.files[at.File]
	switch {
	case !known:
		return ""
	case f.Lines == nil:
		return p.base + "/source/" + at.File
	}
	return p.base + "/source#" + f.Anchor + "-" + strconv.Itoa(at.Line)
}

// slugs lead to the operations of a version.
type slugs struct {
	base string
	slug map[string]string
}

func (v *guideView) locate(ctx context.Context, s *Site, name, from, to string) error {
	for i, number := range []string{from, to} {
		files, err := s.ledger.Files(ctx, ledger.Nobody, name+"@"+number)
		if err != nil {
			return err
		}
		base := "/reference/" + name + "/" + number
		v.places[i] = placesOf(base, files)
		d, err := s.ledger.Description(ctx, ledger.Nobody, name+"@"+number)
		if err != nil {
			return err
		}
		v.pages[i] = slugs{base, map[string]string{}}
		for _, op := range d.Contract.All() {
			v.pages[i].slug[op.Key()] = reference.Slug(op)
		}
	}
	return nil
}

// Uses tells whether the reader ticked an operation.
func (v *guideView) Uses(key string) bool { return slices.Contains(v.Mine, key) }

// Named is an operation as readers call it, or its key where the guide does not concern it.
func (v *guideView) Named(key string) string {
	for _, o := range v.Operations {
		if o.Key == key {
			return o.Name
		}
	}
	return key
}

// Many tells whether the steps are shut until they are opened.
func (v *guideView) Many() bool { return len(v.Must)+len(v.Check) > maxOpen }

// maxOpen is up to how many steps are shown open.
const maxOpen = 24

// Parts divides a list of steps.
func (v *guideView) Parts(steps []guide.Step) []guide.Section { return guide.Sections(steps) }

// link writes a link where there is an address, and the text alone where there is none.
func link(address, text string) string {
	if address == "" {
		return html.EscapeString(text)
	}
	return `<a href="` + html.EscapeString(address) + `">` + html.EscapeString(text) + `</a>`
}

// operation leads to an operation of the old version, or of the new one where only that has it.
func (v *guideView) operation(key, name string) string {
	for _, p := range v.pages {
		if slug, there := p.slug[key]; there {
			return link(p.base+"/operations/"+url.PathEscape(slug), name)
		}
	}
	return link("", name)
}

// About says of a step whom it concerns, where it came and where it stands, with links to all of it.
func (v *guideView) About(s guide.Step) template.HTML {
	var parts []string
	if s.Place != "" {
		parts = append(parts, "In "+html.EscapeString(s.Place))
	}
	if len(s.Operations) > 0 {
		var names []string
		for i, name := range s.Operations {
			if i == maxNamed && len(s.Operations) > maxNamed+1 {
				names = append(names, fmt.Sprintf("%d more", len(s.Operations)-maxNamed))
				break
			}
			names = append(names, v.operation(s.Change.Reach[i], name))
		}
		parts = append(parts, "concerns "+strings.Join(names, ", "))
	}
	if s.CameIn(v.Guide) != "" || len(s.Came) > 0 {
		var came []string
		for _, o := range s.Came {
			came = append(came, string(v.Brought(o.Version, "#"+o.Change)))
		}
		parts = append(parts, "came in "+strings.Join(came, ", "))
	}
	if at := v.places[0].to(s.Change.Old.In()); at != "" {
		parts = append(parts, link(at, "line "+strconv.Itoa(s.Change.Old.Line)+" of "+v.From))
	}
	if at := v.places[1].to(s.Change.New.In()); at != "" {
		parts = append(parts, link(at, "line "+strconv.Itoa(s.Change.New.Line)+" of "+v.To))
	}
	if s.Removal != nil {
		address := ""
		if s.Removal.Notice != nil {
			address = fmt.Sprintf("/reference/%s/notices#notice-%d", v.API.Name, s.Removal.Notice.ID)
		}
		parts = append(parts, link(address, s.Removal.String()))
	}
	if len(parts) == 0 {
		return ""
	}
	text := strings.Join(parts, "; ")
	return template.HTML(strings.ToUpper(text[:1]) + text[1:] + ".")
}

// Brought is a version, with a link to what it changed where readers see it.
func (v *guideView) Brought(number, anchor string) template.HTML {
	address := ""
	if visible(v.API, number) {
		address = "/reference/" + v.API.Name + "/" + url.PathEscape(number) + "/changes" + anchor
	}
	return template.HTML(link(address, number))
}

// maxNamed is how many operations a step names.
const maxNamed = 4

// Concerned names the operations that something which may wait concerns.
func (v *guideView) Concerned(w guide.Wait) template.HTML {
	var names []string
	for i, name := range w.Operations {
		names = append(names, v.operation(w.Reach[i], name))
	}
	return template.HTML(strings.Join(names, ", "))
}

// sides is a text before and after, the lines that differ marked.
type sides struct{ Before, After template.HTML }

// Messages are the two messages of a step.
func (v *guideView) Messages(s guide.Step) sides {
	if s.Before == nil || s.After == nil {
		var one sides
		if s.Before != nil {
			one.Before = template.HTML(html.EscapeString(s.Before.Text()))
		}
		if s.After != nil {
			one.After = template.HTML(html.EscapeString(s.After.Text()))
		}
		return one
	}
	return beside(s.Before.Text(), s.After.Text())
}

// Code is a call before and after.
func (v *guideView) Code(c guide.Code) sides {
	if c.After == "" {
		return sides{Before: template.HTML(html.EscapeString(c.Before))}
	}
	return beside(c.Before, c.After)
}

// beside marks the lines that only one of two texts has: those outside of a longest common subsequence.
func beside(before, after string) sides {
	a, b := strings.Split(before, "\n"), strings.Split(after, "\n")
	same := func(i, j int) bool { return strings.TrimRight(a[i], ",") == strings.TrimRight(b[j], ",") }
	if len(a)*len(b) > maxBeside {
		return sides{template.HTML(html.EscapeString(before)), template.HTML(html.EscapeString(after))}
	}
	length := make([][]int, len(a)+1)
	for i := range length {
		length[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			if same(i, j) {
				length[i][j] = length[i+1][j+1] + 1
			} else {
				length[i][j] = max(length[i+1][j], length[i][j+1])
			}
		}
	}
	var left, right strings.Builder
	put := func(to *strings.Builder, line, element string) {
		if element != "" && strings.TrimSpace(line) != "" {
			line = "<" + element + ">" + html.EscapeString(line) + "</" + element + ">"
		} else {
			line = html.EscapeString(line)
		}
		to.WriteString(line + "\n")
	}
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && same(i, j):
			put(&left, a[i], "")
			put(&right, b[j], "")
			i, j = i+1, j+1
		case j == len(b) || i < len(a) && length[i+1][j] >= length[i][j+1]:
			put(&left, a[i], "del")
			i++
		default:
			put(&right, b[j], "ins")
			j++
		}
	}
	return sides{template.HTML(strings.TrimSuffix(left.String(), "\n")), template.HTML(strings.TrimSuffix(right.String(), "\n"))}
}

// maxBeside bounds the pairs of lines that are looked at.
const maxBeside = 250_000
