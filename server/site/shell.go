package site

import (
	"net/url"
	"strings"

	"github.com/a-h/templ"

	"oldledger/core/reference"
)

// maxAbout is how long a page's description is that search engines show, in bytes.
const maxAbout = 155

var notInSentence = strings.NewReplacer("`", "", "*", "", "#", "", "[", "", "]", "")

// about is the beginning of what an author says, for search engines.
func about(text string) string {
	text, _, _ = strings.Cut(strings.TrimSpace(text), "\n\n")
	text = strings.Join(strings.Fields(notInSentence.Replace(text)), " ")
	if len(text) > maxAbout {
		text = text[:max(strings.LastIndexByte(text[:maxAbout], ' '), 0)] + " …"
	}
	return text
}

// looksAddress is that of the style sheet of an API's own looks.
func looksAddress(f *Frame) templ.SafeURL {
	if f == nil {
		return "/reference/looks.css"
	}
	return templ.SafeURL("/reference/" + f.API.Name + "/looks.css")
}

// titled is the title of a page of the version.
func (f *Frame) titled(title string) string {
	return title + " — " + f.Doc.Title + " " + f.Version.Number
}

func (f *Frame) operationAddress(slug string) templ.SafeURL {
	return templ.SafeURL(f.Base + "/operations/" + url.PathEscape(slug))
}

func (f *Frame) operationAnchors(links []reference.Link) []anchor {
	all := make([]anchor, len(links))
	for i, l := range links {
		all[i] = anchor{string(f.operationAddress(l.Slug)), l.Title}
	}
	return all
}

func (f *Frame) schemaAddress(name string) templ.SafeURL {
	return templ.SafeURL(f.Base + "/schemas/" + url.PathEscape(name))
}

// guideAddress leads to the guide from another version to this one.
func (f *Frame) guideAddress(from string) templ.SafeURL {
	return templ.SafeURL("/reference/" + f.API.Name + "/guides/" + from + ".." + f.Version.Number)
}

// changeAddress leads to the change that an event tells of.
func (f *Frame) changeAddress(e reference.Event) templ.SafeURL {
	return templ.SafeURL("/reference/" + f.API.Name + "/" + e.Number + "/changes#" + e.ID)
}

// address is where a file stands as a plain text.
func (s shownFile) address(f *Frame) templ.SafeURL {
	return templ.SafeURL(f.Base + "/source/" + strings.Join(escaped(strings.Split(s.Path, "/")), "/"))
}

// escaped are steps of a path as they stand in an address.
func escaped(steps []string) []string {
	all := make([]string, len(steps))
	for i, step := range steps {
		all[i] = url.PathEscape(step)
	}
	return all
}
