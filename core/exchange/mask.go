package exchange

import (
	"net/url"
	"slices"
	"strings"

	"oldledger/core/secret"
	"oldledger/core/value"
)

// Mask stands for what was taken out.
const Mask = "(masked)"

// carriers are the headers that hold credentials, whatever is in them, in small letters.
var carriers = []string{"authorization", "proxy-authorization", "cookie", "set-cookie"}

// telling are parts of names of headers, cookies and parameters that hold credentials, in small letters.
var telling = []string{"auth", "token", "secret", "passw", "session", "signature", "api-key", "apikey", "api_key", "access-key", "private-key"}

// carries reports whether a header, a cookie or a parameter of the query holds a credential: own are names of which the API says so.
func carries(name, text string, own []string) bool {
	low := strings.ToLower(name)
	return IsCredential(name, text) || strings.HasSuffix(low, "key") && low != "idempotency-key" ||
		slices.ContainsFunc(own, func(o string) bool { return strings.EqualFold(o, name) })
}

// Query is the query of the request without credentials.
func (e *Exchange) Query() string { return maskedQuery(e.URL.RawQuery, nil) }

// authors leaves those who write something out, whose names hold no credentials.
var authors = strings.NewReplacer("authoriz", "auth", "authoris", "auth", "author", "")

// IsCredential reports whether what stands under a name, or is like this, is a credential.
func IsCredential(name, text string) bool {
	low := authors.Replace(strings.ToLower(name))
	return low == "sig" || slices.ContainsFunc(telling, func(part string) bool { return strings.Contains(low, part) }) ||
		secret.Holds(name, text)
}

// Masked is the exchange without credentials: headers, cookies and parameters that hold them, members of bodies that are named for them or
// look like them; own are names that the API gives to such headers, cookies and parameters. A body that is neither JSON nor a form is left
// out whole. That something stood there can still be seen.
func (e *Exchange) Masked(own ...string) *Exchange {
	m := *e
	at := *e.URL
	at.User, at.Fragment, at.RawFragment = nil, "", ""
	at.RawQuery = maskedQuery(at.RawQuery, own)
	maskPath(&at)
	m.URL = &at
	m.Request, m.Answer = e.Request.masked(own), e.Answer.masked(own)
	return &m
}

// maskPath takes the steps of a path out that look like credentials.
func maskPath(at *url.URL) {
	steps := strings.Split(at.EscapedPath(), "/")
	hidden := false
	for i, step := range steps {
		if plain, err := url.PathUnescape(step); err == nil && secret.Holds("", plain) {
			steps[i], hidden = url.PathEscape(Mask), true
		}
	}
	if !hidden {
		return
	}
	raw := strings.Join(steps, "/")
	if plain, err := url.PathUnescape(raw); err == nil {
		at.Path, at.RawPath = plain, raw
	}
}

func maskedQuery(query string, own []string) string {
	if query == "" {
		return ""
	}
	pairs := strings.Split(query, "&")
	for i, p := range pairs {
		name, text, is := strings.Cut(p, "=")
		plain, err := url.QueryUnescape(text)
		if err != nil {
			plain = text
		}
		if is && carries(name, plain, own) {
			pairs[i] = name + "=" + url.QueryEscape(Mask)
		}
	}
	return strings.Join(pairs, "&")
}

func (m *Message) masked(own []string) Message {
	out := Message{Type: m.Type, Left: m.Left}
	for _, h := range m.Headers {
		out.Headers = append(out.Headers, Field{Name: h.Name, Value: maskedHeader(h.Name, h.Value, own)})
	}
	for _, f := range m.Form {
		if IsCredential(f.Name, f.Value) {
			f.Value = Mask
		}
		out.Form = append(out.Form, f)
	}
	if m.Body == nil {
		return out
	}
	switch v, err := value.Parse(m.Body); {
	case IsJSON(m.Type) && err == nil:
		out.Body = []byte(MaskedValue(v).String())
	case Base(m.Type) == "application/x-www-form-urlencoded":
		out.Body = []byte(maskedQuery(string(m.Body), own))
	default:
		out.Left = true
	}
	return out
}

func maskedHeader(name, text string, own []string) string {
	switch low := strings.ToLower(name); {
	case low == "cookie":
		var pairs []string
		for _, c := range (&Message{Headers: []Field{{Name: name, Value: text}}}).Cookies() {
			pairs = append(pairs, c.Name+"="+Mask)
		}
		return strings.Join(pairs, "; ")
	case slices.Contains(carriers, low):
		if scheme, rest, is := strings.Cut(text, " "); is && rest != "" && len(scheme) <= len("Negotiate") {
			return scheme + " " + Mask
		}
		return Mask
	case carries(name, text, own):
		return Mask
	}
	return text
}

// MaskedValue is a value without the texts that are credentials, and without what stands under a name of credentials.
func MaskedValue(v *value.Value) *value.Value { return maskedMember("", v, false) }

func maskedMember(name string, v *value.Value, hidden bool) *value.Value {
	switch v.Kind {
	case value.Number:
		if hidden {
			return value.Str(Mask)
		}
	case value.String:
		if hidden || IsCredential(name, v.Text) {
			return value.Str(Mask)
		}
	case value.Array:
		items := make([]*value.Value, len(v.Items))
		for i, it := range v.Items {
			items[i] = maskedMember(name, it, hidden)
		}
		return value.Arr(items...)
	case value.Object:
		members := make([]value.Member, len(v.Members))
		for i, m := range v.Members {
			members[i] = value.Member{Name: m.Name, Value: maskedMember(m.Name, m.Value, hidden || IsCredential(m.Name, ""))}
		}
		return value.Obj(members...)
	}
	return v
}
