package report

import (
	_ "embed"
	"html/template"
	"strings"

	"oldledger/core/compare"
)

//go:embed style.css
var styleSheet string

//go:embed comparison.html
var comparisonPage string

//go:embed lineup.html
var lineupPage string

//go:embed overview.html
var overviewPage string

var pages = template.Must(template.New("comparison").Funcs(template.FuncMap{
	"few": func(words []string) string { return Few(words, 3) },
	"tableAt": func(at string, t Table) any {
		return struct {
			At    string
			Table Table
		}{at, t}
	},
}).Parse(comparisonPage))

var (
	_ = template.Must(pages.New("lineup").Parse(lineupPage))
	_ = template.Must(pages.New("overview").Parse(overviewPage))
)

// page is what the template of a comparison reads.
type page struct {
	Style                          template.CSS
	Title, Verdict, Tally, Reading string
	Groups                         []pageGroup
	WaysOutHead                    string
	WaysOut                        []string
	comparison                     *compare.Comparison
}

type pageGroup struct {
	Grade   compare.Grade
	Long    bool // changes are told in full
	Changes []pageChange
}

type pageChange struct {
	*compare.Change
	Messages      []*compare.Witness
	Where, Places string
	Note          string
	Reached       []string
}

// HTML writes a comparison as one page that needs nothing else: no script, no font, no picture.
func HTML(c *compare.Comparison, o Options) (string, error) {
	p := page{
		Style: template.CSS(styleSheet), Title: Title(c), Verdict: Verdict(c), Tally: Tally(c.Counts),
		Reading:     compare.Manner(c.Reading, c.Undeclared),
		WaysOutHead: WaysOutHead, WaysOut: c.WaysOut, comparison: c,
	}
	for _, g := range o.Groups(c) {
		group := pageGroup{Grade: g.Grade, Long: g.Grade >= compare.Hazard}
		for _, ch := range g.Changes {
			group.Changes = append(group.Changes, pageChange{ch, o.Witnesses(ch), Where(ch), Places(ch), o.Notes[ch.ID], c.Written(ch.Reach)})
		}
		p.Groups = append(p.Groups, group)
	}
	var b strings.Builder
	err := pages.ExecuteTemplate(&b, "comparison", p)
	return b.String(), err
}

// HTMLLineup writes a lineup as one page that needs nothing else.
func HTMLLineup(l *compare.Lineup) (string, error) {
	var b strings.Builder
	err := pages.ExecuteTemplate(&b, "lineup", struct {
		Style  template.CSS
		Lineup *compare.Lineup
	}{template.CSS(styleSheet), l})
	return b.String(), err
}
