package exchange

import (
	"bufio"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"net/url"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
)

// Limits of an archive.
const (
	MaxEntry = 32 << 20 // bytes of an entry, its bodies included
	maxURL   = 64 << 10
)

// entry is an entry of an archive (HAR 1.2, entries), as far as it is read.
type entry struct {
	StartedDateTime string `json:"startedDateTime"`
	Request         *struct {
		Method   string  `json:"method"`
		URL      string  `json:"url"`
		Headers  []Field `json:"headers"`
		Cookies  []Field `json:"cookies"`
		PostData *struct {
			MimeType string  `json:"mimeType"`
			Text     string  `json:"text"`
			Params   []Field `json:"params"`
			Encoding string  `json:"encoding"` // not of the standard, and written by some
		} `json:"postData"`
		BodySize int64 `json:"bodySize"`
	} `json:"request"`
	Response *struct {
		Status  int     `json:"status"`
		Headers []Field `json:"headers"`
		Content struct {
			Size     int64  `json:"size"`
			MimeType string `json:"mimeType"`
			Text     string `json:"text"`
			Encoding string `json:"encoding"`
		} `json:"content"`
	} `json:"response"`
}

// Wrong is an entry that cannot be read.
type Wrong struct {
	Number int
	Why    string
}

// Cut is the error of an archive that ends before its end, or is none behind some entry.
type Cut struct {
	Behind int // the entry behind which it cannot be read any more; 0 where none was read
	Why    string
}

func (c *Cut) Error() string {
	if c.Behind == 0 {
		return c.Why
	}
	return fmt.Sprintf("behind entry %d %s", c.Behind, c.Why)
}

// Archive is what was read.
type Archive struct {
	Entries int
	Wrong   []Wrong
}

// Read reads an archive, and calls each with its exchanges in their order; an error of that ends it. Entries that cannot be read are told
// and left out. The error is a *Cut where the text is no archive, or ends before its end: what came before was read.
func Read(ctx context.Context, archive io.Reader, each func(*Exchange) error) (Archive, error) {
	text := bufio.NewReader(archive)
	if mark, err := text.Peek(3); err == nil && string(mark) == byteOrderMark {
		if _, err := text.Discard(len(mark)); err != nil {
			return Archive{}, err
		}
	}
	r := &reader{limited: limited{r: text, left: MaxEntry}}
	r.decoder = jsontext.NewDecoder(&r.limited, jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true))
	err := r.archive(ctx, each)
	if own := (*eachError)(nil); errors.As(err, &own) {
		return r.read, own.error
	}
	if err == nil || ctx.Err() != nil {
		return r.read, ctx.Err()
	}
	if r.limited.failed != nil {
		return r.read, r.limited.failed
	}
	return r.read, &Cut{r.read.Entries, r.why(err)}
}

// eachError is that whoever takes the exchanges wants no more.
type eachError struct{ error }

type reader struct {
	limited limited
	decoder *jsontext.Decoder
	read    Archive
	found   bool // entries
}

// limited ends where an entry is too long.
type limited struct {
	r      io.Reader
	left   int
	failed error // why it could not be read on
}

const byteOrderMark = "\xef\xbb\xbf"

var errEntry = fmt.Errorf("an entry is longer than %d MB", MaxEntry>>20)

func (l *limited) Read(into []byte) (int, error) {
	if l.left <= 0 {
		return 0, errEntry
	}
	n, err := l.r.Read(into)
	l.left -= n
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		l.failed = err
	}
	return n, err
}

var errNone = errors.New("this is no HTTP archive: one is an object log with a list of entries")

var errBehind = errors.New("something else stands behind the archive")

func (r *reader) why(err error) string {
	var syntactic *jsontext.SyntacticError
	switch {
	case errors.Is(err, errEntry) || errors.Is(err, errNone) || errors.Is(err, errBehind):
		return err.Error()
	case errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF):
		return "the archive is cut off"
	case errors.As(err, &syntactic):
		return "the archive is no JSON: " + syntactic.Err.Error()
	}
	return "the archive is no JSON: " + err.Error()
}

// archive walks to the entries.
func (r *reader) archive(ctx context.Context, each func(*Exchange) error) error {
	err := r.members(func(name string) error {
		if name != "log" || r.decoder.PeekKind() != '{' {
			return r.decoder.SkipValue()
		}
		return r.members(func(name string) error {
			if name != "entries" || r.decoder.PeekKind() != '[' {
				return r.decoder.SkipValue()
			}
			r.found = true
			return r.entries(ctx, each)
		})
	})
	if err == nil && !r.found {
		return errNone
	}
	if err != nil {
		return err
	}
	if _, err = r.decoder.ReadToken(); err == nil {
		return errBehind
	} else if !errors.Is(err, io.EOF) {
		return err
	}
	return nil
}

// members reads an object.
func (r *reader) members(member func(name string) error) error {
	if kind := r.decoder.PeekKind(); kind != '{' && kind != 0 {
		return errNone
	}
	if _, err := r.decoder.ReadToken(); err != nil {
		return err
	}
	for r.decoder.PeekKind() != '}' {
		r.limited.left = MaxEntry
		name, err := r.decoder.ReadToken()
		if err != nil {
			return err
		}
		if err := member(name.String()); err != nil {
			return err
		}
	}
	_, err := r.decoder.ReadToken()
	return err
}

func (r *reader) entries(ctx context.Context, each func(*Exchange) error) error {
	if _, err := r.decoder.ReadToken(); err != nil {
		return err
	}
	for r.decoder.PeekKind() != ']' {
		if err := ctx.Err(); err != nil {
			return err
		}
		r.limited.left = MaxEntry
		text, err := r.decoder.ReadValue()
		if err != nil {
			return err
		}
		r.read.Entries++
		e, why := exchangeOf(text)
		if why != "" {
			if len(r.read.Wrong) < maxWrong {
				r.read.Wrong = append(r.read.Wrong, Wrong{r.read.Entries, why})
			}
			continue
		}
		e.Number = r.read.Entries
		if err := each(e); err != nil {
			return &eachError{err}
		}
	}
	_, err := r.decoder.ReadToken()
	return err
}

// maxWrong is of how many entries is told that they cannot be read.
const maxWrong = 1_000

// exchangeOf reads an entry, or says why it cannot.
func exchangeOf(text []byte) (e *Exchange, why string) {
	var in entry
	err := json.Unmarshal(text, &in, jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true))
	var semantic *json.SemanticError
	switch {
	case errors.As(err, &semantic):
		return nil, fmt.Sprintf("%s holds what it cannot", strings.ReplaceAll(strings.TrimPrefix(string(semantic.JSONPointer), "/"), "/", "."))
	case err != nil:
		return nil, "it cannot be read"
	case in.Request == nil:
		return nil, "it has no request"
	case in.Request.Method == "" || in.Request.URL == "":
		return nil, "its request has no method or no address"
	case len(in.Request.URL) > maxURL:
		return nil, "its address is longer than 64 KB"
	}
	at, err := url.Parse(in.Request.URL)
	if err != nil {
		return nil, "its address cannot be read"
	}
	e = &Exchange{At: in.StartedDateTime, Method: strings.ToUpper(in.Request.Method), URL: at}
	e.Request.Headers = headersOf(in.Request.Headers)
	if _, there := e.Request.Header("cookie"); !there && len(in.Request.Cookies) > 0 {
		e.Request.Headers = append(e.Request.Headers, Field{Name: "Cookie", Value: cookieText(in.Request.Cookies)})
	}
	e.Request.Type, _ = e.Request.Header("content-type")
	if p := in.Request.PostData; p != nil {
		if e.Request.Type == "" {
			e.Request.Type = p.MimeType
		}
		if len(p.Params) > 0 {
			e.Request.Form = p.Params
		}
		e.Request.Body = bodyOf(p.Text, p.Encoding)
		e.Request.Left = e.Request.Body == nil && len(p.Params) == 0 && (in.Request.BodySize > 0 || p.Text != "")
	} else {
		e.Request.Left = in.Request.BodySize > 0
	}
	if a := in.Response; a != nil {
		if a.Status >= 100 && a.Status <= 599 {
			e.Status = a.Status
		}
		e.Answer.Headers = headersOf(a.Headers)
		e.Answer.Type, _ = e.Answer.Header("content-type")
		if e.Answer.Type == "" {
			e.Answer.Type = a.Content.MimeType
		}
		e.Answer.Body = bodyOf(a.Content.Text, a.Content.Encoding)
		e.Answer.Left = e.Answer.Body == nil && (a.Content.Size > 0 || a.Content.Text != "")
	}
	return e, ""
}

// headersOf are headers without those that HTTP/2 writes the beginning of a message in (RFC 9113, section 8.3).
func headersOf(all []Field) []Field {
	var kept []Field
	for _, h := range all {
		if h.Name != "" && h.Name[0] != ':' {
			kept = append(kept, Field{Name: h.Name, Value: h.Value})
		}
	}
	return kept
}

func cookieText(all []Field) string {
	pairs := make([]string, len(all))
	for i, c := range all {
		pairs[i] = c.Name + "=" + c.Value
	}
	return strings.Join(pairs, "; ")
}

// bodyOf is a body as it was sent; nil for none, and for one whose encoding is broken.
func bodyOf(text, encoding string) []byte {
	if text == "" {
		return nil
	}
	if strings.EqualFold(encoding, "base64") {
		body, err := base64.StdEncoding.DecodeString(text)
		if err != nil {
			return nil
		}
		return body
	}
	return []byte(text)
}
