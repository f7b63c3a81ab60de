package usage

import (
	"bytes"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-json-experiment/json/jsontext"

	"oldledger/core/source"
)

// Mapping says under which names lines of JSON hold what: names within objects are joined by dots ("request.path").
type Mapping struct {
	Time, Method, Target, Host, Status, Credential, Agent string
	Headers                                               map[string]string // by the headers' names in small letters
}

// usualNames are the names that are looked for where a mapping says nothing, in this order.
var usualNames = map[string][]string{
	"time":       {"time", "timestamp", "ts", "@timestamp", "date"},
	"method":     {"method", "request_method", "http_method", "request.method"},
	"target":     {"target", "path", "uri", "url", "request_uri", "request.path", "request.url"},
	"host":       {"host", "http_host", "request.host"},
	"status":     {"status", "status_code", "response.status", "code"},
	"credential": {"credential", "client_id", "key_id", "user", "consumer"},
	"agent":      {"agent", "user_agent", "http_user_agent", "request.agent"},
}

// ParseMapping reads a mapping from a text.
func ParseMapping(text []byte) (Mapping, error) {
	f, err := source.Parse("mapping", text)
	if err != nil {
		return Mapping{}, err
	}
	return ReadMapping(f)
}

// ReadMapping reads a mapping: YAML or JSON, such as {time: ts, target: req.path, headers: {Harbour-Version: req.version}}.
func ReadMapping(f *source.File) (Mapping, error) {
	m := Mapping{Headers: map[string]string{}}
	to := m.names()
	if f.Root.Kind != source.Mapping {
		return m, f.Root.Wrong(source.Syntax, "a mapping holds names, such as target: request.path; here stands %s", f.Root.Kind)
	}
	for _, member := range f.Root.Members {
		if member.Key == "headers" && member.Value.Kind == source.Mapping {
			for _, h := range member.Value.Members {
				m.Headers[strings.ToLower(h.Key)] = h.Value.Text
			}
			continue
		}
		field := to[member.Key]
		if field == nil || member.Value.Kind != source.String {
			known := append(slices.Sorted(maps.Keys(to)), "headers")
			return m, member.Value.KeyWrong(source.Syntax, "a mapping has no %q; %s", member.Key,
				strings.TrimPrefix(source.DidYouMean(member.Key, known), "; "))
		}
		*field = member.Value.Text
	}
	return m, nil
}

func (m *Mapping) names() map[string]*string {
	return map[string]*string{
		"time": &m.Time, "method": &m.Method, "target": &m.Target, "host": &m.Host, "status": &m.Status, "credential": &m.Credential,
		"agent": &m.Agent,
	}
}

// jsonLines reads lines of JSON.
type jsonLines struct {
	by    map[string][]place // what a name is for
	found [8]string          // by what it is: the values of a line
	rank  [8]int
	heads map[string]string // headers by their names within lines
	dec   *jsontext.Decoder
	in    bytes.Reader
}

// place says what a name is for, and how much it is preferred: the less the more.
type place struct{ what, rank int }

var whats = []string{"time", "method", "target", "host", "status", "credential", "agent"}

func newJSONLines(m Mapping) *jsonLines {
	f := &jsonLines{by: map[string][]place{}, heads: map[string]string{}}
	given := m.names()
	for what, name := range whats {
		names := usualNames[name]
		if said := *given[name]; said != "" {
			names = []string{said}
		}
		for rank, n := range names {
			f.by[n] = append(f.by[n], place{what, rank + 1})
		}
	}
	for header, name := range m.Headers {
		f.heads[name] = header
	}
	f.dec = jsontext.NewDecoder(&f.in)
	return f
}

func (f *jsonLines) read(line []byte, c *Call) error {
	f.found, f.rank = [8]string{}, [8]int{}
	c.Headers = nil
	if len(f.heads) > 0 {
		c.Headers = make(map[string]string, len(f.heads))
		for _, header := range f.heads {
			c.Headers[header] = ""
		}
	}
	f.in.Reset(line)
	f.dec.Reset(&f.in)
	if f.dec.PeekKind() != '{' {
		return errNotJSON
	}
	if err := f.object("", c, 0); err != nil {
		return errNotJSON
	}
	if f.found == ([8]string{}) {
		return errNoMapping
	}
	at, err := moment(f.found[0])
	if err != nil {
		return err
	}
	c.Time, c.Method = at, f.found[1]
	if c.Method == "" || f.found[2] == "" {
		return errRequest
	}
	c.target(f.found[2])
	if host := hostname(f.found[3]); host != "" {
		c.Host = host
	}
	c.Status = number(f.found[4])
	c.Credential, c.Agent = f.found[5], f.found[6]
	return nil
}

const maxNested = 20

func (f *jsonLines) object(prefix string, c *Call, depth int) error {
	if _, err := f.dec.ReadToken(); err != nil {
		return err
	}
	for f.dec.PeekKind() != '}' {
		tok, err := f.dec.ReadToken()
		if err != nil {
			return err
		}
		name := prefix + tok.String()
		switch kind := f.dec.PeekKind(); {
		case kind == '{' && depth < maxNested:
			err = f.object(name+".", c, depth+1)
		case kind == '"' || kind == '0':
			if tok, err = f.dec.ReadToken(); err == nil {
				f.take(name, tok.String(), c)
			}
		default:
			err = f.dec.SkipValue()
		}
		if err != nil {
			return err
		}
	}
	_, err := f.dec.ReadToken()
	return err
}

func (f *jsonLines) take(name, text string, c *Call) {
	for _, p := range f.by[name] {
		if f.rank[p.what] == 0 || p.rank < f.rank[p.what] {
			f.found[p.what], f.rank[p.what] = text, p.rank
		}
	}
	if header := f.heads[name]; header != "" {
		c.Headers[header] = text
	}
}

// moment reads a time: RFC 3339, or seconds or milliseconds since 1970.
func moment(text string) (int64, error) {
	if text == "" {
		return 0, errTime
	}
	if t, err := time.Parse(time.RFC3339, text); err == nil {
		return t.Unix(), nil
	}
	n, err := strconv.ParseFloat(text, 64)
	switch {
	case err != nil || n < 0 || n > 1e15 || n != n:
		return 0, errTime
	case n > 1e11:
		return int64(n / 1000), nil
	}
	return int64(n), nil
}
