package sample

import (
	"fmt"
	"sort"
	"strings"
)

// Language is a way to write a call: a programming language with the library that calls.
type Language struct {
	ID      string // "curl", "javascript", "javascript-axios", …
	Name    string // of the language, as readers know it
	Library string // "" where there is but one way
	Write   func(c *Call) string
}

// Languages are those that a call can be written in, in the order in which they are shown. Of several libraries in one language, the first
// is the usual one.
var Languages = []Language{
	{"curl", "curl", "", curl},
	{"javascript", "JavaScript", "fetch", javaScript},
	{"javascript-axios", "JavaScript", "axios", axios},
	{"python", "Python", "requests", python},
	{"python-httpx", "Python", "httpx", httpx},
	{"go", "Go", "", goLang},
	{"java", "Java", "java.net.http", java},
	{"java-okhttp", "Java", "OkHttp", okHTTP},
	{"csharp", "C#", "", cSharp},
}

// Usual are the Languages with one library each.
func Usual() []Language {
	var all []Language
	for _, l := range Languages {
		if len(all) == 0 || all[len(all)-1].Name != l.Name {
			all = append(all, l)
		}
	}
	return all
}

// Fence is the word that names a language in a fenced block of CommonMark.
func Fence(id string) string {
	if id == "curl" {
		return "sh"
	}
	language, _, _ := strings.Cut(id, "-")
	return language
}

// The environment variables that hold the reader's credentials.
const (
	keyVariable      = "KEY"
	tokenVariable    = "TOKEN"
	nameVariable     = "NAME"
	passwordVariable = "PASSWORD"
)

// lines gathers lines of code.
type lines struct{ b strings.Builder }

func (l *lines) add(format string, args ...any) {
	fmt.Fprintf(&l.b, format+"\n", args...)
}

func (l *lines) text() string { return strings.TrimRight(l.b.String(), "\n") }

// quoted writes a text in double quotes with the escapes that JavaScript, Python, Go, Java and C# share.
func quoted(text string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, c := range text {
		switch {
		case c == '"' || c == '\\':
			b.WriteByte('\\')
			b.WriteRune(c)
		case c == '\n':
			b.WriteString(`\n`)
		case c == '\r':
			b.WriteString(`\r`)
		case c == '\t':
			b.WriteString(`\t`)
		case c < ' ' || c == 0x7f || c == 0x2028 || c == 0x2029:
			fmt.Fprintf(&b, `\u%04x`, c)
		default:
			b.WriteRune(c)
		}
	}
	b.WriteByte('"')
	return b.String()
}

// shown is the JSON body over several lines.
func (c *Call) shown() string {
	if c.written == "" {
		c.written = c.JSON.Indented()
	}
	return c.written
}

// indented is the JSON body, its lines after the first behind a margin.
func (c *Call) indented(margin string) string {
	return strings.ReplaceAll(c.shown(), "\n", "\n"+margin)
}

// secretAddress is the whole address, and, where a key travels in the query, the address up to the key's value with the key's name.
func (c *Call) secretAddress() (before, name string) {
	for _, cr := range c.Credentials {
		if cr.Kind == KeyInQuery {
			sign := "?"
			if len(c.Query) > 0 {
				sign = "&"
			}
			return c.URL() + sign + cr.Name + "=", cr.Name
		}
	}
	return c.URL(), ""
}

// cookieText is the header Cookie without the reader's key.
func (c *Call) cookieText() string {
	var all []string
	for _, p := range c.Cookies {
		all = append(all, p.Name+"="+p.Value)
	}
	return strings.Join(all, "; ")
}

// contentType is the media type that a sample must say itself, "" where its language says it.
func (c *Call) contentType() string {
	if c.Parts != nil || c.Form != nil && c.Type == "application/x-www-form-urlencoded" {
		return ""
	}
	return c.Type
}

// files are the names of the files that the parts send, each once.
func (c *Call) files() []string {
	var all []string
	for _, p := range c.Parts {
		if p.File != "" {
			all = append(all, p.File)
		}
	}
	sort.Strings(all)
	return all
}

// bodyText is the body of a call as one text, for languages without literals for JSON.
func (c *Call) bodyText() string {
	if c.JSON != nil {
		return c.JSON.Spaced()
	}
	return c.Text
}
