// Package exchange reads exchanges of requests and answers that somebody recorded: HTTP archives (HAR 1.2).
//
//	n, err := exchange.Read(ctx, archive, func(e *exchange.Exchange) error {
//		kept = append(kept, e.Masked())
//		return nil
//	})
//
// An archive is read as it comes, one entry at a time. What an entry holds of credentials stays in it until Masked takes it out.
package exchange

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"net/url"
	"strconv"
	"strings"
)

// Exchange is a request, and the answer to it.
type Exchange struct {
	Number  int    // of the entry in its archive, from 1
	At      string // when the request began, as the archive has it (RFC 3339)
	Method  string // in capitals
	URL     *url.URL
	Request Message
	Status  int // 0 where nobody answered
	Answer  Message
}

// Message is what a request or an answer carries.
type Message struct {
	Headers []Field
	Type    string // the media type of the body; "" for none said
	Body    []byte // decoded; nil for none, or for one that the archive does not hold
	Form    []Field
	Left    bool // whether there was a body of which the archive holds nothing
}

// Field is a header, a cookie or a field of a form.
type Field struct {
	Name  string `json:"name"`
	Value string `json:"value"`
	File  string `json:"fileName,omitempty"` // of a form
}

// Header is the first header of a name, whatever its case (RFC 9110, section 5.1).
func (m *Message) Header(name string) (value string, there bool) {
	for _, h := range m.Headers {
		if strings.EqualFold(h.Name, name) {
			return h.Value, true
		}
	}
	return "", false
}

// Cookies are those that a request carries (RFC 6265, section 4.2).
func (m *Message) Cookies() []Field {
	var all []Field
	for _, h := range m.Headers {
		if !strings.EqualFold(h.Name, "cookie") {
			continue
		}
		for pair := range strings.SplitSeq(h.Value, ";") {
			if name, value, ok := strings.Cut(strings.TrimSpace(pair), "="); ok {
				all = append(all, Field{Name: name, Value: value})
			}
		}
	}
	return all
}

// Base is a media type without its parameters, in small letters: "application/json".
func Base(mediaType string) string {
	base, _, _ := strings.Cut(mediaType, ";")
	return strings.ToLower(strings.TrimSpace(base))
}

// IsJSON reports whether bodies of a media type are JSON (RFC 6839, section 3.1).
func IsJSON(mediaType string) bool {
	base := Base(mediaType)
	return base == "application/json" || base == "text/json" || strings.HasSuffix(base, "+json")
}

// Begins reports whether a text begins as an archive does: with an object log, and in it a name that archives have there.
func Begins(text []byte) bool {
	text = bytes.TrimSpace(bytes.TrimPrefix(text, []byte(byteOrderMark)))
	for _, token := range []string{"{", `"log"`, ":", "{"} {
		rest, is := bytes.CutPrefix(text, []byte(token))
		if !is {
			return false
		}
		text = bytes.TrimSpace(rest)
	}
	for _, name := range []string{"version", "creator", "browser", "pages", "entries", "comment"} {
		if bytes.HasPrefix(text, []byte(`"`+name+`"`)) {
			return true
		}
	}
	return false
}

// Key is the same for exchanges that say the same, whenever they took place and by whatever way.
func (e *Exchange) Key() string {
	h := sha256.New()
	part := func(text string) { fmt.Fprintf(h, "%d\x00%s\x00", len(text), text) }
	message := func(m *Message) {
		part(m.Type)
		part(string(m.Body))
		for _, f := range m.Form {
			part(f.Name)
			part(f.Value)
		}
		part("")
	}
	part(e.Method)
	part(e.URL.String())
	for _, h := range e.Request.Headers {
		if !passing[strings.ToLower(h.Name)] {
			part(strings.ToLower(h.Name))
			part(h.Value)
		}
	}
	message(&e.Request)
	part(strconv.Itoa(e.Status))
	message(&e.Answer)
	return string(h.Sum(nil))
}

// passing are the headers of requests that say something about the moment, and nothing about what is asked for.
var passing = map[string]bool{
	"date": true, "traceparent": true, "tracestate": true, "x-request-id": true, "if-none-match": true, "if-modified-since": true,
	"content-length": true, "connection": true, "accept-encoding": true, "user-agent": true,
}
