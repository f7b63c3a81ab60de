package site

import (
	"html/template"
	"strconv"
	"strings"
	"time"

	"github.com/microcosm-cc/bluemonday"

	"oldledger/core/commonmark"
	"oldledger/core/compare"
	"oldledger/core/guide"
	"oldledger/core/reference"
	"oldledger/core/report"
)

// functions are what the pages may call.
var functions = template.FuncMap{
	"markdown": markdown,
	"day":      day,
	"mark":     func(g compare.Grade) string { return g.Mark() },
	"lower":    strings.ToLower,
	"short":    short,
	"placeText": func(c *compare.Change) string {
		var parts []string
		if c.Old != nil {
			parts = append(parts, "was in line "+strconv.Itoa(c.Old.Line))
		}
		if c.New != nil {
			parts = append(parts, "is in line "+strconv.Itoa(c.New.Line))
		}
		return strings.Join(parts, ", ")
	},
	"sent":      sent,
	"returned":  returned,
	"described": described,
	"contents":  contents,
	"answers":   answers,
	"code":      code,
	"slip":      slip,
	"kind":      kind,
	"fieldRow":  fieldRow,
	"margin":    margin,
	"begin":     begin,
	"finish":    finish,
	"anchor": func(at string, i int) string {
		if i == 0 {
			return at
		}
		return at + "." + strconv.Itoa(i+1)
	},
	"nameless": func(f *reference.Field) *reference.Field {
		bare := *f
		bare.Name, bare.Schema = "", ""
		return &bare
	},
	"standing": guide.Standing,
	"verdict":  report.Verdict,
	"proof":    report.Proof,
	"inc":      func(n int) int { return n + 1 },
	"list":     func(items ...any) []any { return items },
	"few": func(names []string) string {
		if len(names) > 4 {
			return strings.Join(names[:4], ", ") + " and " + strconv.Itoa(len(names)-4) + " more"
		}
		return strings.Join(names, ", ")
	},
}

var policy = bluemonday.UGCPolicy()

// markdown renders an author's text (CommonMark 0.31, with tables); whatever could run or load is taken out.
func markdown(text string) template.HTML {
	if plain(text) {
		return template.HTML("<p>" + template.HTMLEscapeString(strings.TrimSpace(text)) + "</p>\n")
	}
	rendered, err := commonmark.HTML(commonmark.Shown(text))
	if err != nil {
		return template.HTML("<p>" + template.HTMLEscapeString(text) + "</p>\n") // writing to memory does not fail
	}
	return template.HTML(policy.Sanitize(rendered))
}

// plain tells whether a text is one paragraph in which no character means anything to Markdown: most texts are.
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
