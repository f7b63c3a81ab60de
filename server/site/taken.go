package site

import (
	"path"

	"oldledger/core/reference"
	"oldledger/core/sample"
)

// taken are the calls of operations as a file to be taken along; its kind is the end of its address: "calls.http", "call.har", "call.sh".
func (s *Site) taken(e *edition, name string, pages []*reference.OperationPage) (page, error) {
	calls := reference.Calls(pages...)
	if len(calls) == 0 {
		return page{}, errNowhere
	}
	file := e.API.Name + "-" + e.Version.Number
	if len(pages) == 1 {
		file += "-" + pages[0].Slug
	}
	kind := path.Ext(name)
	switch kind {
	case ".http":
		return download(e, "text/plain; charset=utf-8", file+kind, []byte(sample.Requests(calls))), nil
	case ".sh":
		return download(e, "text/plain; charset=utf-8", file+kind, []byte(sample.Script(calls))), nil
	case ".har":
		at := firstOf(e.Version.PublishedAt, e.Version.RecordedAt)
		body, err := sample.Archive(calls, at, e.Doc.Title, e.Version.Number)
		return download(e, "application/json", file+kind, body), err
	}
	return page{}, errNowhere
}

// takenForms are the kinds of files that calls are taken along in, with what they are for readers.
var takenForms = []anchor{{".http", "as HTTP requests"}, {".sh", "as a script of curl"}, {".har", "as an HTTP archive"}}

// takenFrom are links to the files below an address that begins so.
func takenFrom(address string) []anchor {
	var all []anchor
	for _, f := range takenForms {
		all = append(all, anchor{address + f.address, f.text})
	}
	return all
}
