package site

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/ledger"
)

// shelf is the first page of a list of APIs: on a shelf in its order, else by name.
func (s *Site) shelf(ctx context.Context, who ledger.Actor, d display) (page, error) {
	cards, err := s.cards(ctx, who, false)
	if err != nil {
		return page{}, err
	}
	if shelf := who.Shelf(); shelf != nil {
		place := map[string]int{}
		for i, stand := range shelf.Stands {
			place[stand.API] = i
		}
		slices.SortFunc(cards, func(x, y ledger.Card) int { return cmp.Compare(place[x.API.Name], place[y.API.Name]) })
	}
	var entries []shelfEntry
	var notices []promise.Notice
	apis := make([]ledger.API, len(cards))
	for i, c := range cards {
		entries = append(entries, shelfEntry{c.API, c.Latest, published(c.API), c.Summary})
		apis[i] = settled(c.API)
		notices = append(notices, apis[i].Notices...)
	}
	promise.SortNotices(notices)
	traces, err := s.traced(ctx, who, apis...)
	if err != nil {
		return page{}, err
	}
	if d, err = s.greeted(ctx, who, d); err != nil {
		return page{}, err
	}
	return s.html(ctx, http.StatusOK, shelfPage(d, entries, notices, traces, s.ledger.Today()))
}

// shelfEntry is an API as the list of all shows it.
type shelfEntry struct {
	ledger.API
	Latest   ledger.Version
	Versions []ledger.Version // published
	Summary  string
}

// shelfWords say what there is to read.
const shelfWords = "Reference documentation of every published version, what each version changed, and what leaves when."

// nothingWords say that there is nothing on a list.
func nothingWords(d display) string {
	if d.Title == "" {
		return "Nothing is published yet."
	}
	return "Nothing that is for you stands here yet."
}

// nothingFound says that nothing on a list is like what was looked for.
func nothingFound(d display) string {
	if d.Title == "" {
		return "Nothing published has these words."
	}
	return "Nothing on this shelf has these words."
}

// firstParagraph is what a text begins with, below its heading.
func firstParagraph(text string) string {
	for p := range strings.SplitSeq(text, "\n\n") {
		if p = strings.TrimSpace(p); p != "" && !strings.HasPrefix(p, "#") {
			return p
		}
	}
	return ""
}

func (s *Site) overview(ctx context.Context, e *edition) (page, error) {
	f := &Frame{edition: e, Here: "overview"}
	return s.page(ctx, f, overviewPage(f))
}

func (s *Site) operation(ctx context.Context, e *edition, id string) (page, error) {
	op := e.Doc.Operation(id)
	f := &Frame{edition: e, Here: id}
	if op == nil {
		return s.became(ctx, f, id)
	}
	f.Canonical = e.canonical(func(t items) bool { return t.operations[id] })
	return s.page(ctx, f, operationPage(f, op))
}

// group is the page of a group, by its name in an address: its anchor on the overview, with "group-" or without.
func (s *Site) group(ctx context.Context, f *Frame, name string) (page, error) {
	for _, g := range f.Doc.Groups {
		if strings.TrimPrefix(g.Slug, "group-") == strings.TrimPrefix(name, "group-") {
			return s.page(ctx, f, groupPage(f, g))
		}
	}
	return page{}, s.elsewhere(f, "group", name)
}

// elsewhere says that a version lacks an item.
func (s *Site) elsewhere(f *Frame, what, name string) error {
	return &ledger.Error{Fault: ledger.NotFound, Text: fmt.Sprintf("%s %s has no %s %s. Another version may have it.", f.API.Title,
		f.Version.Number, what, name)}
}

func (s *Site) schema(ctx context.Context, e *edition, name string) (page, error) {
	f := &Frame{edition: e, Here: "schema " + name}
	sc := e.Doc.Schema(name)
	if sc == nil {
		return s.schemaGone(ctx, f, name)
	}
	f.Canonical = e.canonical(func(t items) bool { return t.schemas[name] })
	return s.page(ctx, f, schemaPage(f, sc))
}

func (s *Site) changes(ctx context.Context, e *edition) (page, error) {
	f := &Frame{edition: e, Here: "changes"}
	history, err := s.ledger.History(ctx, e.Reader, f.API.Name)
	if err != nil {
		return page{}, err
	}
	for _, rel := range history {
		if rel.Version.Number != f.Version.Number {
			continue
		}
		var groups []gradeGroup
		var older []ledger.Version // than the one that it is compared with, newest first
		for _, v := range e.Versions {
			if v.Before(e.Version) && v.Number != rel.Before {
				older = append(older, v)
			}
		}
		if rel.Changes != nil {
			groups = byGrade(rel.Changes)
		}
		return s.page(ctx, f, changesPage(f, rel, groups, older))
	}
	return page{}, errNowhere
}

// gradeGroup is the changes of one grade.
type gradeGroup struct {
	Grade   compare.Grade
	Changes []*compare.Change
}

func byGrade(c *compare.Comparison) []gradeGroup {
	var groups []gradeGroup
	for _, g := range compare.Grades {
		group := gradeGroup{Grade: g}
		for _, ch := range c.Changes {
			if ch.Backward == g {
				group.Changes = append(group.Changes, ch)
			}
		}
		if len(group.Changes) > 0 {
			groups = append(groups, group)
		}
	}
	return groups
}

func (s *Site) description(ctx context.Context, e *edition) (page, error) {
	_, text, err := s.ledger.Bundled(ctx, e.Reader, e.Version.Ref())
	if err != nil {
		return page{}, err
	}
	p := page{status: http.StatusOK, header: http.Header{}, body: text}
	p.header.Set("Content-Type", "application/yaml; charset=utf-8")
	announce(p.header, &Frame{edition: e})
	return p, nil
}

// Targets are the dialects that the version can be had in by conversion.
func (e *edition) Targets() []openapi.Target {
	return slices.DeleteFunc(slices.Clone(openapi.Targets), func(t openapi.Target) bool { return string(t) == e.Version.Dialect })
}

// converted is the description in a dialect that it is not written in. What could not be carried over is said at its head.
func (s *Site) converted(ctx context.Context, e *edition, name string) (page, error) {
	i := slices.IndexFunc(e.Targets(), func(t openapi.Target) bool { return string(t)+".yaml" == name })
	if i < 0 {
		return page{}, errNowhere
	}
	v, made, err := s.ledger.Converted(ctx, e.Reader, e.Version.Ref(), e.Targets()[i])
	if err != nil {
		return page{}, err
	}
	var b bytes.Buffer
	fmt.Fprintf(&b, "# %s, converted from %s.\n", v.Ref(), v.Dialect)
	for _, w := range made.Warnings {
		fmt.Fprintf(&b, "# %s\n", strings.ReplaceAll(w.Error(), "\n", "\n#   "))
	}
	b.Write(made.Document.YAML())
	return download(e, "application/yaml; charset=utf-8", "", b.Bytes()), nil
}

func (s *Site) notices(ctx context.Context, who ledger.Actor, name string) (page, error) {
	a, err := s.ledger.API(ctx, who, name)
	if err != nil {
		return page{}, err
	}
	if len(published(a)) == 0 {
		return page{}, errNowhere
	}
	a = settled(a)
	traces, err := s.traced(ctx, who, a)
	if err != nil {
		return page{}, err
	}
	versions := published(a)
	return s.html(ctx, http.StatusOK, noticesPage(s.house, a, versions, traces, s.ledger.Today()))
}

// sunsetsPage is the calendar of all that leaves.
func (s *Site) sunsetsPage(ctx context.Context, who ledger.Actor, d display) (page, error) {
	apis, err := s.ledger.APIs(ctx, who)
	if err != nil {
		return page{}, err
	}
	apis = slices.DeleteFunc(apis, func(a ledger.API) bool { return len(published(a)) == 0 })
	traces, err := s.traced(ctx, who, apis...)
	if err != nil {
		return page{}, err
	}
	var notices []promise.Notice
	for _, a := range apis {
		notices = append(notices, settled(a).Notices...)
	}
	promise.SortNotices(notices)
	return s.html(ctx, http.StatusOK, sunsetsPage(d, notices, traces, s.ledger.Today()))
}
