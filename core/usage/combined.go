package usage

import (
	"errors"
	"strings"
	"time"
)

// What can be wrong with a line.
var (
	errCut       = errors.New("the line is cut")
	errTime      = errors.New("its time cannot be read")
	errRequest   = errors.New("it holds no request")
	errBinary    = errors.New("its request is no text")
	errFuture    = errors.New("it lies in the future")
	errNotJSON   = errors.New("it is no JSON object")
	errNoMapping = errors.New("it has none of the names that the mapping tells")
)

// combined reads lines in the Common and the Combined Log Format:
//
//	192.0.2.7 - skerry [02/Nov/2026:10:04:11 +0100] "GET /v1/berths HTTP/1.1" 200 512 "https://…" "SkerryPlanner/3.1"
//
// The user is the credential. A host may stand before all of it, as logs of several hosts have it ("api.saltmere.example:443 192.0.2.7 …").
type combined struct {
	clock clock
}

func (f *combined) read(text []byte, c *Call) error {
	line := string(text) // of which all that is read is a part
	open := strings.IndexByte(line, '[')
	if open < 0 {
		return errCut
	}
	before, rest := line[:open], line[open+1:]
	end := strings.IndexByte(rest, ']')
	if end < 0 {
		return errCut
	}
	at, err := f.clock.read(rest[:end])
	if err != nil {
		return err
	}
	c.Time = at
	f.who(before, c)
	rest = rest[end+1:]
	request, rest, ok := quoted(rest)
	if !ok {
		return errCut
	}
	if err := c.request(request); err != nil {
		return err
	}
	status, rest := word(rest)
	if c.Status = number(status); c.Status == 0 {
		return errCut
	}
	_, rest = word(rest) // bytes
	if _, rest, ok = quoted(rest); !ok {
		return nil // the Common Log Format ends here
	}
	if agent, _, ok := quoted(rest); ok && agent != "-" {
		c.Agent = agent
	}
	return nil
}

// who reads what stands before the time: perhaps the host, the address, the identity and the user. No address is kept.
func (f *combined) who(before string, c *Call) {
	var fields [5]string
	n := 0
	for len(before) > 0 && n < len(fields) {
		var w string
		if w, before = word(before); w != "" {
			fields[n] = w
			n++
		}
	}
	if n == 0 {
		return
	}
	if n == 4 {
		c.Host = hostname(fields[0])
	}
	if user := fields[n-1]; n >= 3 && user != "-" {
		c.Credential = user
	}
}

// request reads a request line: the method, the target, and perhaps the protocol.
func (c *Call) request(line string) error {
	method, rest, ok := strings.Cut(line, " ")
	target, _, _ := strings.Cut(rest, " ")
	if !ok || target == "" {
		return errRequest
	}
	for i := range len(method) {
		if b := method[i]; b < '!' || b > '~' {
			return errBinary
		}
	}
	c.Method = method
	c.target(target)
	return nil
}

// target takes a target apart: a path and a query, perhaps with a host before them.
func (c *Call) target(target string) {
	if i := strings.Index(target, "://"); i > 0 && !strings.HasPrefix(target, "/") {
		host, path, _ := strings.Cut(target[i+3:], "/")
		c.Host, target = hostname(host), "/"+path
	}
	target, _, _ = strings.Cut(target, "#")
	c.Path, c.Query, _ = strings.Cut(target, "?")
}

// word is the next word of a line, and what stands behind it.
func word(line string) (w, rest string) {
	for len(line) > 0 && line[0] == ' ' {
		line = line[1:]
	}
	w, rest, _ = strings.Cut(line, " ")
	return w, rest
}

// quoted is the next text in quotes, and what stands behind it. A quote in it is written \".
func quoted(line string) (text, rest string, ok bool) {
	for len(line) > 0 && line[0] == ' ' {
		line = line[1:]
	}
	if len(line) == 0 || line[0] != '"' {
		return "", line, false
	}
	line = line[1:]
	end := strings.IndexByte(line, '"')
	if end >= 0 && strings.IndexByte(line[:end], '\\') < 0 {
		return line[:end], line[end+1:], true
	}
	var b strings.Builder
	for i := 0; i < len(line); i++ {
		switch {
		case line[i] == '\\' && i+1 < len(line) && (line[i+1] == '"' || line[i+1] == '\\'):
			i++
			b.WriteByte(line[i])
		case line[i] == '"':
			return b.String(), line[i+1:], true
		default:
			b.WriteByte(line[i])
		}
	}
	return "", "", false
}

// number is a whole number of a few digits; 0 for all else.
func number(text string) int {
	if len(text) == 0 || len(text) > 9 {
		return 0
	}
	n := 0
	for i := range len(text) {
		if text[i] < '0' || text[i] > '9' {
			return 0
		}
		n = n*10 + int(text[i]-'0')
	}
	return n
}

// clock reads the times of a log: most lines have the minute of the line before them.
type clock struct {
	minute string // "02/Nov/2026:10:04" and " +0100", as they were written
	zone   string
	at     int64 // its beginning
}

// read reads "02/Nov/2026:10:04:11 +0100".
func (k *clock) read(text string) (int64, error) {
	if len(text) != len("02/Nov/2026:10:04:11 +0100") {
		return 0, errTime
	}
	second := number(text[18:20])
	if second > 60 || text[18] < '0' || text[18] > '9' || text[19] < '0' || text[19] > '9' || text[17] != ':' {
		return 0, errTime
	}
	if text[:17] != k.minute || text[20:] != k.zone {
		t, err := time.Parse("02/Jan/2006:15:04 -0700", text[:17]+text[20:])
		if err != nil {
			return 0, errTime
		}
		k.minute, k.zone, k.at = strings.Clone(text[:17]), strings.Clone(text[20:]), t.Unix()
	}
	return k.at + int64(second), nil
}
