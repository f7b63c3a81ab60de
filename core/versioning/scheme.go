// Package versioning says how callers choose the version of an API: by the path, a header, the query, a media type or the host.
//
//	s, err := versioning.Parse("header Harbour-Version {line}")
//	s.Written(v) // "2": what a caller of that version writes there
//
// A scheme is held against the descriptions of the versions (Check), and APIs at one address are told apart by theirs (Apart).
package versioning

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// By is where a call says which version it means.
type By string

// The places.
const (
	Path      By = "path"
	Header    By = "header"
	Query     By = "query"
	MediaType By = "media-type"
	Host      By = "host"
)

var places = []string{string(Path), string(Header), string(Query), string(MediaType), string(Host)}

// Scheme is how callers choose the version of an API. The zero Scheme says nothing.
type Scheme struct {
	By    By
	Name  string // of the header, the query's parameter, or the parameter of a media type; "" for the rest
	Form  string // how a version is written there: "/v{line}", "{text}", "application/vnd.saltmere.berths.v{line}+json"
	Usual string // the version or line that a call means which says none: "2", "1.4.0"; "" where nobody knows
}

// Version is one version of an API, as callers may write it.
type Version struct {
	Number *semver.Version
	Text   string // as its description has it: "v1", "2026-03-01"
}

const maxScheme = 300

var (
	placeholder = regexp.MustCompile(`\{[^{}]*\}`)
	token       = regexp.MustCompile("^[A-Za-z0-9!#$%&'*+.^_`|~-]+$") // RFC 9110, 5.6.2
	hostForm    = regexp.MustCompile(`^[A-Za-z0-9.:-]+$`)
	pathForm    = regexp.MustCompile(`^(/[A-Za-z0-9._~!$&'()*+,;=:@%-]+)+$`)
	typeForm    = regexp.MustCompile(`^[A-Za-z0-9!#$&^_.+-]+/[A-Za-z0-9!#$&^_.+-]+$`) // RFC 6838, 4.2
)

// known are what stands for a part of the version in a form.
var known = map[string]func(Version) string{
	"{line}": func(v Version) string { return contract.LineOf(v.Number) },
	"{minor}": func(v Version) string {
		if _, dated := contract.Dated(v.Number); dated {
			return contract.LineOf(v.Number)
		}
		return fmt.Sprintf("%d.%d", v.Number.Major(), v.Number.Minor())
	},
	"{version}": func(v Version) string { return contract.NumberText(v.Number) },
	"{text}":    func(v Version) string { return v.Text },
}

// Placeholders are what may stand for the version in a form.
var Placeholders = []string{"{line}", "{minor}", "{version}", "{text}"}

// Parse reads a scheme: "path /v{line}", "header Harbour-Version {version}", "query version {line} else 1",
// "media-type application/vnd.saltmere.berths.v{line}+json", "media-type version {line}", "host v{line}.api.saltmere.example".
// The empty text is the zero Scheme.
func Parse(text string) (Scheme, error) {
	words := strings.Fields(text)
	if len(words) == 0 {
		return Scheme{}, nil
	}
	if len(text) > maxScheme {
		return Scheme{}, fmt.Errorf("how a version is chosen is said in %d characters at most", maxScheme)
	}
	s := Scheme{By: By(words[0])}
	if !slices.Contains(places, words[0]) {
		return Scheme{}, fmt.Errorf("a version is not chosen by %q; write path, header, query, media-type or host: %s", words[0],
			strings.TrimPrefix(source.DidYouMean(words[0], places), "; "))
	}
	words = words[1:]
	if n := len(words); n >= 2 && words[n-2] == "else" {
		s.Usual, words = words[n-1], words[:n-2]
	}
	named := s.By == Header || s.By == Query || s.By == MediaType && len(words) > 0 && !strings.Contains(words[0], "/")
	switch {
	case named && len(words) == 2:
		s.Name, s.Form = words[0], words[1]
	case !named && len(words) == 1:
		s.Form = words[0]
	default:
		return Scheme{}, fmt.Errorf("%q does not say how a version is chosen; write %s", text, usages[s.By])
	}
	return s, s.check()
}

var usages = map[By]string{
	Path:      "path and the part of the path, such as path /v{line}",
	Header:    "header, its name and its value, such as header Harbour-Version {version}",
	Query:     "query, the parameter's name and its value, such as query version {line}",
	MediaType: "media-type and the type, such as media-type application/vnd.berths.v{line}+json, or a parameter of it: media-type version {line}",
	Host:      "host and the name of the host, such as host v{line}.api.saltmere.example",
}

func (s Scheme) check() error {
	found := placeholder.FindAllString(s.Form, -1)
	for _, p := range found {
		if known[p] == nil {
			return fmt.Errorf("nothing stands for %s; write %s", p, strings.Join(Placeholders, ", "))
		}
	}
	if len(found) == 0 {
		return fmt.Errorf("%q is the same for every version; write where the version stands in it: %s", s.Form, strings.Join(Placeholders, ", "))
	}
	filled := placeholder.ReplaceAllString(s.Form, "1")
	right := map[By]*regexp.Regexp{Path: pathForm, Host: hostForm, MediaType: typeForm}[s.By]
	if s.Name != "" {
		right = token
		if !token.MatchString(s.Name) {
			return fmt.Errorf("%q cannot be the name of a %s", s.Name, s.By)
		}
	}
	if !right.MatchString(filled) {
		return fmt.Errorf("%q cannot be; write %s", s.Form, usages[s.By])
	}
	return nil
}

// String is the scheme as Parse reads it.
func (s Scheme) String() string {
	if s.By == "" {
		return ""
	}
	words := []string{string(s.By)}
	if s.Name != "" {
		words = append(words, s.Name)
	}
	words = append(words, s.Form)
	if s.Usual != "" {
		words = append(words, "else", s.Usual)
	}
	return strings.Join(words, " ")
}

// Written is what a caller of a version writes at the scheme's place; "" for the zero Scheme.
func (s Scheme) Written(v Version) string {
	return placeholder.ReplaceAllStringFunc(s.Form, func(p string) string {
		if of := known[p]; of != nil {
			return of(v)
		}
		return p
	})
}

// Says is in words how a caller chooses a version: "by the path, with /v2".
func (s Scheme) Says(v Version) string {
	written := s.Written(v)
	switch s.By {
	case Path:
		return "by the path, with " + written
	case Header:
		return "by the header " + s.Name + ": " + written
	case Query:
		return "by the query, with " + s.Name + "=" + written
	case MediaType:
		if s.Name != "" {
			return "by the media type, with " + s.Name + "=" + written
		}
		return "by the media type, with " + written
	case Host:
		return "by the host, with " + written
	}
	return ""
}

// Means reports whether a call that says no version means this one.
func (s Scheme) Means(v Version) bool {
	return s.Usual != "" && (s.Usual == contract.NumberText(v.Number) || s.Usual == v.Text || s.Usual == contract.LineOf(v.Number))
}
