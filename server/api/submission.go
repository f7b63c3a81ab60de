package api

import (
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/format"
	"oldledger/core/source"
	"oldledger/ledger"
)

func submission(c *echo.Context) (ledger.Submission, error) {
	s := ledger.Submission{
		API: c.QueryParam("api"), Number: c.QueryParam("version"), Team: c.QueryParam("team"), File: c.QueryParam("file"),
		Message: c.QueryParam("message"), Origin: ledger.Origin{
			From: c.QueryParam("from"), Commit: c.QueryParam("commit"),
			Build: c.QueryParam("build"),
		},
		IfMatch: strings.Trim(c.Request().Header.Get("If-Match"), `"`),
	}
	parts, err := c.Request().MultipartReader()
	if errors.Is(err, http.ErrNotMultipart) {
		if s.Text, err = io.ReadAll(c.Request().Body); err != nil || !source.IsArchive(s.Text) {
			return s, err
		}
		if s.Others, err = source.Unpack(s.Text); err != nil {
			return s, &ledger.Error{Fault: ledger.Invalid, Text: err.Error()}
		}
		s.File = c.QueryParam("entry")
		return s, chooseEntry(&s)
	}
	if err != nil {
		return s, malformed(err)
	}
	return s, readParts(parts, &s)
}

// readParts reads the files of a description: a part each, named by its path.
func readParts(parts *multipart.Reader, s *ledger.Submission) error {
	s.Others = map[string][]byte{}
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return malformed(err)
		}
		name := part.FormName()
		_, twice := s.Others[name]
		switch {
		case !source.Inside(name):
			return &ledger.Error{Fault: ledger.Invalid, Text: fmt.Sprintf(
				"a part is named by the path of its file, such as schemas/booking.yaml, not %q", name)}
		case twice:
			return &ledger.Error{Fault: ledger.Invalid, Text: fmt.Sprintf("%s was sent twice", name)}
		case len(s.Others) == source.MaxFiles:
			return &ledger.Error{Fault: ledger.Invalid, Text: fmt.Sprintf("a description has at most %d files", source.MaxFiles)}
		}
		if s.Others[name], err = io.ReadAll(part); err != nil {
			return malformed(err)
		}
	}
	return chooseEntry(s)
}

// chooseEntry takes the entry out of the files: the one that is named, or the one that is plainly meant.
func chooseEntry(s *ledger.Submission) error {
	if s.File == "" {
		entry, err := format.Entry(s.Others)
		if err != nil {
			return &ledger.Error{Fault: ledger.Invalid, Text: err.Error()}
		}
		s.File = entry
	}
	text, there := s.Others[s.File]
	if !there {
		return &ledger.Error{Fault: ledger.Invalid, Text: fmt.Sprintf("there is no file %q, which was named as the entry", s.File)}
	}
	delete(s.Others, s.File)
	s.Text = text
	return nil
}

// malformed keeps a body that is too large apart from one that is no form.
func malformed(err error) error {
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return err
	}
	return &ledger.Error{Fault: ledger.Invalid, Text: "the body is no form of files: " + err.Error()}
}
