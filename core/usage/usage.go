// Package usage tells from logs of requests which operations were called: of which version of which API, by whom, how often.
//
//	r := usage.NewRouter()
//	r.Add(usage.Service{API: "berths", Scheme: scheme, Versions: versions})
//	t := usage.NewTally(r, usage.Options{Now: now})
//	err := t.Read(ctx, "access.log", reader)
//	t.Counts() // per day, operation, caller and class of status
//
// Nothing of a call is kept but what is counted: no body, no value of a query, no address.
package usage

import "strings"

// Call is one request, as a log tells it.
type Call struct {
	Time       int64  // seconds since 1970
	Method     string // "GET"
	Host       string // in small letters, without its port; "" where the log does not hold it
	Path       string // as it was written, escaped
	Query      string // as it was written, without its ?
	Status     int    // 0 where the log does not hold it
	Credential string // by which the caller is known; "" for none
	Agent      string // what the caller calls itself

	Headers map[string]string // by their names in small letters: those that the log holds; "" where the call had none
	Whole   bool              // whether the log holds all that the call had
}

// header is a header by its name in small letters; held tells whether the log says it.
func (c *Call) header(name string) (value string, held bool) {
	value, held = c.Headers[name]
	return value, held || c.Whole
}

// Class is the class of a status: 2 for 204; 0 where there is none.
func (c *Call) Class() uint8 {
	if c.Status < 100 || c.Status > 599 {
		return 0
	}
	return uint8(c.Status / 100)
}

// query is the first value of a parameter in the query.
func (c *Call) query(name string) (value string, there bool) {
	for p := range strings.SplitSeq(c.Query, "&") {
		key, v, _ := strings.Cut(p, "=")
		if unescaped(key, true) == name {
			return unescaped(v, true), true
		}
	}
	return "", false
}

// unescaped is a text decoded once; what cannot be stays as it is. plus says that a + is a space.
func unescaped(text string, plus bool) string {
	if !strings.ContainsAny(text, "%+") {
		return text
	}
	var b strings.Builder
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == '%' && i+2 < len(text) && nibble(text[i+1]) >= 0 && nibble(text[i+2]) >= 0:
			b.WriteByte(byte(nibble(text[i+1])<<4 | nibble(text[i+2])))
			i += 2
		case c == '+' && plus:
			b.WriteByte(' ')
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

// hostname is a host in small letters without its port: logs seldom hold it.
func hostname(host string) string {
	if i := strings.LastIndexByte(host, ':'); i > strings.LastIndexByte(host, ']') {
		host = host[:i]
	}
	return strings.ToLower(host)
}

func nibble(c byte) int {
	switch {
	case c >= '0' && c <= '9':
		return int(c - '0')
	case c >= 'a' && c <= 'f':
		return int(c-'a') + 10
	case c >= 'A' && c <= 'F':
		return int(c-'A') + 10
	}
	return -1
}
