package site

import (
	"html"
	"strconv"
	"strings"
	"time"

	"oldledger/core/commonmark"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/ledger"
)

// markdown renders an author's text as HTML.
func markdown(text string) string {
	if plain(text) {
		return "<p>" + html.EscapeString(strings.TrimSpace(text)) + "</p>\n"
	}
	return commonmark.Safe(text)
}

// oneline is an author's text of one paragraph, to stand within a line; "" for a longer one.
func oneline(text string) string {
	inner, one := strings.CutPrefix(strings.TrimSpace(markdown(text)), "<p>")
	inner, closed := strings.CutSuffix(inner, "</p>")
	if !one || !closed || strings.Contains(inner, "<p>") {
		return ""
	}
	return inner
}

// linkless is HTML that may stand within what a reader opens: "" for one with a link.
func linkless(line string) string {
	if strings.Contains(line, "<a ") {
		return ""
	}
	return line
}

// plain reports whether a text is one paragraph in which no character means anything to Markdown: most texts are.
func plain(text string) bool {
	text = strings.TrimSpace(text)
	for i := range len(text) {
		switch c := text[i]; {
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == ' ', c == ',', c == ';', c == '?', c == '(', c == '\'', c == '%', c >= 0x80:
		case i > 0 && (c == '.' || c == '-' || c == ')' || c == ':' || c == '/' || c >= '0' && c <= '9'):
			if c == ':' && strings.HasPrefix(text[i:], "://") || c == '.' && strings.HasPrefix(text[i:], ".  ") {
				return false
			}
		default:
			return false
		}
	}
	return text != ""
}

// day writes a date as people do: 1 March 2027.
func day(date string) string {
	t, err := time.Parse(time.DateOnly, date[:min(len(date), len(time.DateOnly))])
	if err != nil {
		return date
	}
	return t.Format("2 January 2006")
}

// short leaves out the patch number where it is 0, as the margin does: 1.2.
func short(number string) string { return strings.TrimSuffix(number, ".0") }

// firstOf is the first text that says something.
func firstOf(texts ...string) string {
	for _, t := range texts {
		if t != "" {
			return t
		}
	}
	return ""
}

// few lists a few names, and says how many more there are.
func few(names []string) string {
	if len(names) > 4 {
		return strings.Join(names[:4], ", ") + " and " + strconv.Itoa(len(names)-4) + " more"
	}
	return strings.Join(names, ", ")
}

// listedAs is the i-th of several texts, a comma before all but the first.
func listedAs(i int, text string) string {
	if i == 0 {
		return text
	}
	return ", " + text
}

func countWords(n int, what string) string { return strconv.Itoa(n) + " " + what }

// foundWords say how much a search found.
func foundWords(n int, none, found string) string {
	if n == 0 {
		return none
	}
	return countWords(n, found)
}

func noticeAnchor(id int64) string { return "notice-" + strconv.FormatInt(id, 10) }

func numberedLine(anchor string, n int) string { return anchor + "-" + strconv.Itoa(n) }

func sunsetWords(date string) string {
	if date == "" {
		return "no date yet"
	}
	return day(date)
}

// leavingWords say that a version leaves, or "".
func leavingWords(v ledger.Version) string {
	switch {
	case v.Sunset != "":
		return "leaves " + day(v.Sunset)
	case v.State == ledger.Deprecated:
		return "deprecated"
	}
	return ""
}

// deprecatedSince says of a deprecated version when it leaves.
func deprecatedSince(v ledger.Version) string {
	if v.Sunset != "" {
		return "deprecated, leaves " + day(v.Sunset)
	}
	return "deprecated"
}

// deprecatedWords say that an operation is deprecated, and when it leaves.
func deprecatedWords(n *promise.Notice) string {
	if n == nil || n.Sunset == "" {
		return "Deprecated."
	}
	text := "Deprecated, leaves on " + day(n.Sunset)
	if with := endWords(*n); with != "" {
		text += " " + with
	}
	return text + "."
}

// endWords say what ends something before its own date, "" where nothing does: "with line 1, before its own date, 5 May 2027".
func endWords(n promise.Notice) string {
	switch {
	case n.EndedBy == "":
		return ""
	case n.Own == "":
		return "with " + n.EndedBy
	}
	return "with " + n.EndedBy + ", before its own date, " + day(n.Own)
}

func bannerTitle(f *Frame, n promise.Notice) string {
	title := f.Doc.Title
	switch {
	case n.Version != "":
		title = "Version " + n.Version
	case n.Line != "":
		title = "Line " + n.Line
	}
	title += " is deprecated"
	if n.Sunset != "" {
		title += " and leaves on " + day(n.Sunset)
	}
	return title + "."
}

func removalWords(a *promise.Announcement) string {
	switch {
	case a.Notice == nil:
		return "unannounced"
	case a.Announced && a.Notice.Sunset != "":
		return "announced, " + day(a.Notice.Sunset)
	case a.Announced:
		return "announced"
	case a.Notice.Sunset != "":
		return "before its announced date, " + day(a.Notice.Sunset)
	}
	return "before its announced date"
}

func retiredSince(v ledger.Version) string {
	if v.RetiredAt == "" {
		return ""
	}
	return ", since " + day(v.RetiredAt)
}

func placeTitle(place string) string {
	switch place {
	case "path":
		return "In the path"
	case "query":
		return "In the query"
	case "querystring":
		return "The query as a whole"
	case "header":
		return "In the headers"
	}
	return "In cookies"
}

func calledAt(op *reference.OperationPage) string {
	if op.Calls != "" {
		return "to your address"
	}
	return op.Path
}

func bodyTitle(op *reference.OperationPage) string {
	if op.Calls != "" {
		return "What is sent to you"
	}
	return "What you send"
}

func answersTitle(op *reference.OperationPage) string {
	if op.Calls != "" {
		return "What you answer"
	}
	return "What comes back"
}

// mediaWords name what comes back under a media type.
func mediaWords(m reference.MediaSection) string {
	if m.Schema == nil {
		return "anything, " + m.Type
	}
	return firstOf(m.Schema.Schema, m.Schema.Type) + ", " + m.Type
}

// typeWords are a type with its limits.
func typeWords(f *reference.Field) string {
	return strings.Join(append([]string{f.Type}, f.Limits...), ", ")
}

func schemeWords(s *contract.SecurityScheme) string {
	switch s.Type {
	case "apiKey":
		return "a key in the " + s.In + " " + s.Parameter
	case "http":
		if s.BearerFormat != "" {
			return "HTTP " + s.Scheme + ", " + s.BearerFormat
		}
		return "HTTP " + s.Scheme
	case "oauth2":
		return "OAuth 2"
	case "mutualTLS":
		return "a certificate of your own"
	case "openIdConnect":
		return "OpenID Connect"
	}
	return s.Type
}

func flowWords(f contract.Flow) string {
	text := f.Name
	if f.AuthorizationURL != "" {
		text += ", asked for at " + f.AuthorizationURL
	}
	if f.TokenURL != "" {
		text += ", tokens from " + f.TokenURL
	}
	return text
}

// paired is the class of a call that stands beside the one before or after it.
func paired(all []reference.Code, i int) string {
	switch {
	case i+1 < len(all) && all[i+1].Name == all[i].Name:
		return "former"
	case i > 0 && all[i-1].Name == all[i].Name:
		return "latter"
	}
	return ""
}
