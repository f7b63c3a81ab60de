package site

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/a-h/templ"

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
	numbers   [2]string // of the old version and the new one
	places    [2]places // of the same
	pages     [2]slugs
}

// maxUse bounds the operations that a reader ticks.
const maxUse = 500

// guide makes the page of a guide, or the guide as Markdown or JSON where its address ends so. use are the operations that it is narrowed
// to.
func (s *Site) guide(ctx context.Context, who ledger.Actor, name, pair string, use []string) (page, error) {
	pair, form := formOf(pair)
	from, to, ok := strings.Cut(pair, "..")
	if !ok || len(use) > maxUse {
		return page{}, errNowhere
	}
	g, err := s.ledger.Guide(ctx, who, name+"@"+from, name+"@"+to)
	if err != nil {
		return page{}, err
	}
	keys, err := g.Keys(use)
	if err != nil {
		return page{}, &ledger.Error{Fault: ledger.NotFound, Text: err.Error()}
	}
	g = g.For(keys)
	a, err := s.ledger.API(ctx, who, name)
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
		if err := view.locate(ctx, s, who, name, from, to); err != nil {
			return page{}, err
		}
		if p, err = s.html(ctx, http.StatusOK, guidePage(s.house, view)); err != nil {
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

// others are the guides from the same version to others, or the other way round: the newest first.
func (v *guideView) others(to bool) []anchor {
	var all []anchor
	for _, o := range published(v.API) {
		from, until := o.Number, v.numbers[1]
		if to {
			from, until = v.numbers[0], o.Number
		}
		if from != until {
			all = append(all, anchor{"/reference/" + v.API.Name + "/guides/" + from + ".." + until, o.Number})
		}
	}
	return all
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

func (v *guideView) locate(ctx context.Context, s *Site, who ledger.Actor, name, from, to string) error {
	for i, number := range []string{from, to} {
		files, err := s.ledger.Files(ctx, who, name+"@"+number)
		if err != nil {
			return err
		}
		base := "/reference/" + name + "/" + number
		v.places[i] = placesOf(base, files)
		d, err := s.ledger.Description(ctx, who, name+"@"+number)
		if err != nil {
			return err
		}
		v.numbers[i] = d.Version.Number
		v.pages[i] = slugs{base, map[string]string{}}
		for _, op := range d.Contract.All() {
			v.pages[i].slug[op.Key()] = reference.Slug(op)
		}
	}
	return nil
}

// Uses reports whether the reader ticked an operation.
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

// Many reports whether the steps are shut until they are opened.
func (v *guideView) Many() bool { return len(v.Must)+len(v.Check) > maxOpen }

// maxOpen is up to how many steps are shown open.
const maxOpen = 24

// guidePart is a part of the guide, as its contents list it.
type guidePart struct{ anchor, title, count string }

// Contents are the parts that the guide has, in their order.
func (v *guideView) Contents() []guidePart {
	var all []guidePart
	add := func(anchor, title string, n int) {
		if n > 0 {
			all = append(all, guidePart{anchor, title, strconv.Itoa(n)})
		}
	}
	add("must", "What you must do", len(v.Must))
	add("names", "New names", len(v.Renames))
	add("wait", "What may wait", len(v.Wait))
	add("check", "What you should test", len(v.Check))
	add("adopt", "What is new", len(v.Adopt))
	add("plans", "Where replacements stand", len(v.Plans))
	if add("back", "The way back", len(v.Rollback)); len(v.Rollback) == 0 {
		all = append(all, guidePart{anchor: "back", title: "The way back"})
	}
	return all
}

// anchor is a link, or a text alone where it has no address.
type anchor struct{ address, text string }

// noticeAddress leads to a notice of the API.
func (v *guideView) noticeAddress(id int64) templ.SafeURL {
	return templ.SafeURL("/reference/" + v.API.Name + "/notices#" + noticeAnchor(id))
}

// operation leads to an operation of the old version, or of the new one where only that has it.
func (v *guideView) operation(key, name string) anchor {
	for _, p := range v.pages {
		if slug, there := p.slug[key]; there {
			return anchor{p.base + "/operations/" + url.PathEscape(slug), name}
		}
	}
	return anchor{"", name}
}

// remark is a part of what is said of a step: a text, and links behind it.
type remark struct {
	text  string
	links []anchor
}

// sentence is the text of the i-th remark of several.
func (r remark) sentence(i int) string {
	if i > 0 || r.text == "" {
		return r.text
	}
	return strings.ToUpper(r.text[:1]) + r.text[1:]
}

// About says of a step whom it concerns, where it came and where it stands, with links to all of it.
func (v *guideView) About(s guide.Step) []remark {
	var all []remark
	if s.Place != "" {
		all = append(all, remark{text: "In " + s.Place})
	}
	if len(s.Operations) > 0 {
		var names []anchor
		for i, name := range s.Operations {
			if i == maxNamed && len(s.Operations) > maxNamed+1 {
				names = append(names, anchor{"", fmt.Sprintf("%d more", len(s.Operations)-maxNamed)})
				break
			}
			names = append(names, v.operation(s.Change.Reach[i], name))
		}
		all = append(all, remark{"concerns ", names})
	}
	if s.CameIn(v.Guide) != "" || len(s.Came) > 0 {
		var came []anchor
		for _, o := range s.Came {
			came = append(came, v.Brought(o.Version, "#"+o.Change))
		}
		all = append(all, remark{"came in ", came})
	}
	if at := v.places[0].to(s.Change.Old.In()); at != "" {
		all = append(all, remark{"", []anchor{{at, "line " + strconv.Itoa(s.Change.Old.Line) + " of " + v.From}}})
	}
	if at := v.places[1].to(s.Change.New.In()); at != "" {
		all = append(all, remark{"", []anchor{{at, "line " + strconv.Itoa(s.Change.New.Line) + " of " + v.To}}})
	}
	if s.Removal != nil {
		address := ""
		if s.Removal.Notice != nil {
			address = string(v.noticeAddress(s.Removal.Notice.ID))
		}
		all = append(all, remark{"", []anchor{{address, s.Removal.String()}}})
	}
	return all
}

// Brought is a version, with a link to what it changed where readers see it.
func (v *guideView) Brought(number, fragment string) anchor {
	if !visible(v.API, number) {
		return anchor{"", number}
	}
	return anchor{"/reference/" + v.API.Name + "/" + url.PathEscape(number) + "/changes" + fragment, number}
}

// maxNamed is how many operations a step names.
const maxNamed = 4

// Concerned names the operations that something which may wait concerns.
func (v *guideView) Concerned(w guide.Wait) []anchor {
	var names []anchor
	for i, name := range w.Operations {
		names = append(names, v.operation(w.Reach[i], name))
	}
	return names
}

// stepWhere says where a step belongs, for one that is shut.
func stepWhere(s guide.Step) string {
	if s.Place != "" {
		return "in " + s.Place
	}
	return few(s.Operations)
}

// sides is a text before and after.
type sides struct{ before, after []markedLine }

// markedLine is a line; its mark is del where only the text before has it, ins where only the one after.
type markedLine struct{ text, mark string }

// Messages are the two messages of a step.
func (v *guideView) Messages(s guide.Step) sides {
	switch {
	case s.Before == nil && s.After == nil:
		return sides{}
	case s.After == nil:
		return sides{before: unmarked(s.Before.Text())}
	case s.Before == nil:
		return sides{after: unmarked(s.After.Text())}
	}
	return beside(s.Before.Text(), s.After.Text())
}

// Code is a call before and after.
func (v *guideView) Code(c guide.Code) sides {
	if c.After == "" {
		return sides{before: unmarked(c.Before)}
	}
	return beside(c.Before, c.After)
}

func unmarked(text string) []markedLine { return []markedLine{{text: text}} }

// beside marks the lines that only one of two texts has: those outside of a longest common subsequence.
func beside(before, after string) sides {
	a, b := strings.Split(before, "\n"), strings.Split(after, "\n")
	same := func(i, j int) bool { return strings.TrimRight(a[i], ",") == strings.TrimRight(b[j], ",") }
	if len(a)*len(b) > maxBeside {
		return sides{unmarked(before), unmarked(after)}
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
	mark := func(line, mark string) markedLine {
		if strings.TrimSpace(line) == "" {
			mark = ""
		}
		return markedLine{line, mark}
	}
	var s sides
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && same(i, j):
			s.before, s.after = append(s.before, mark(a[i], "")), append(s.after, mark(b[j], ""))
			i, j = i+1, j+1
		case j == len(b) || i < len(a) && length[i+1][j] >= length[i][j+1]:
			s.before = append(s.before, mark(a[i], "del"))
			i++
		default:
			s.after = append(s.after, mark(b[j], "ins"))
			j++
		}
	}
	return s
}

// maxBeside bounds the pairs of lines that are looked at.
const maxBeside = 250_000
