package report

import (
	"encoding/csv"
	"fmt"
	"html/template"
	"strings"
)

// Overview is what a lead looks at once a month: numbers for each team, and what they count.
type Overview struct {
	Format   string    `json:"format"`
	From     string    `json:"from"` // the first day
	Until    string    `json:"until"`
	Sections []Section `json:"sections"`
}

// OverviewFormat names the JSON form of an Overview.
const OverviewFormat = "oldledger.overview/1"

// Section is one subject of it.
type Section struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	About   string `json:"about"` // what is counted, and how
	Summary Table  `json:"summary"`
	Detail  Table  `json:"detail"` // what it counts, one by one
}

// Table is a table. The first cell of a row of a summary names the team of the rows of the detail that it counts, which have it first, too.
type Table struct {
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
}

// Column is one of its columns.
type Column struct {
	Name   string `json:"name"`
	Number bool   `json:"number,omitempty"`
}

// Row is one of its rows. To is where in the console one sees more; "" for nowhere.
type Row struct {
	Cells []string `json:"cells"`
	To    string   `json:"to,omitempty"`
}

// Of is an overview of one section alone; ok is false where there is no such.
func (o *Overview) Of(id string) (only Overview, ok bool) {
	only = *o
	only.Sections = nil
	for _, s := range o.Sections {
		if s.ID == id {
			only.Sections = append(only.Sections, s)
		}
	}
	return only, len(only.Sections) > 0
}

// MarkdownOverview writes an overview in Markdown: each section with its numbers, and what they count.
func MarkdownOverview(o *Overview) string {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s to %s\n", o.From, o.Until)
	for _, s := range o.Sections {
		fmt.Fprintf(&b, "\n## %s\n\n%s\n", s.Title, s.About)
		s.Summary.markdown(&b)
		s.Detail.markdown(&b)
	}
	return b.String()
}

// cell is a text that ends no cell of a table.
var cell = strings.NewReplacer("|", "\\|", "\n", " ", "\r", "", "<", "\\<", "*", "\\*", "_", "\\_", "`", "\\`", "[", "\\[")

func (t Table) markdown(b *strings.Builder) {
	if len(t.Rows) == 0 {
		return
	}
	b.WriteString("\n|")
	for _, c := range t.Columns {
		b.WriteString(" " + c.Name + " |")
	}
	b.WriteString("\n|")
	for _, c := range t.Columns {
		b.WriteString(map[bool]string{true: "---:|", false: "---|"}[c.Number])
	}
	for _, r := range t.Rows {
		b.WriteString("\n|")
		for _, text := range r.Cells {
			b.WriteString(" " + cell.Replace(text) + " |")
		}
	}
	b.WriteString("\n")
}

// HTMLOverview writes an overview as one page that needs nothing else. at is where the console is:
// "https://ledger.saltmere.example/console", "" for no links into it.
func HTMLOverview(o *Overview, at string) (string, error) {
	var b strings.Builder
	err := pages.ExecuteTemplate(&b, "overview", struct {
		Style    template.CSS
		Overview *Overview
		At       string
	}{template.CSS(styleSheet), o, at})
	return b.String(), err
}

// CSVOverview writes an overview as a table of four columns: section, team, what, how many. Of one section alone it is what that counts.
func CSVOverview(o *Overview) (string, error) {
	var b strings.Builder
	w := csv.NewWriter(&b)
	write := func(cells ...string) error {
		plain := make([]string, len(cells))
		for i, c := range cells {
			plain[i] = PlainCell(c)
		}
		return w.Write(plain)
	}
	if len(o.Sections) == 1 {
		t := o.Sections[0].Detail
		names := make([]string, len(t.Columns))
		for i, c := range t.Columns {
			names[i] = c.Name
		}
		if err := write(names...); err != nil {
			return "", err
		}
		for _, r := range t.Rows {
			if err := write(r.Cells...); err != nil {
				return "", err
			}
		}
	} else {
		if err := write("section", "team", "what", "value"); err != nil {
			return "", err
		}
		for _, s := range o.Sections {
			for _, r := range s.Summary.Rows {
				for i, text := range r.Cells[1:] {
					if err := write(s.ID, r.Cells[0], s.Summary.Columns[i+1].Name, text); err != nil {
						return "", err
					}
				}
			}
		}
	}
	w.Flush()
	return b.String(), w.Error()
}

// PlainCell is a text that no program that opens tables takes for a formula.
func PlainCell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t", rune(text[0])) {
		return "'" + text
	}
	return text
}
