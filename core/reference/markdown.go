package reference

import (
	"fmt"
	"strings"

	"oldledger/core/commonmark"
	"oldledger/core/sample"
)

// Markdown is the reference as one text in CommonMark with tables: what a reader needs in the order of the pages.
func (d *Document) Markdown() string {
	w := &writing{}
	w.line("# %s %s", d.Title, d.Number)
	w.prose(d.Description)
	if len(d.Servers) > 0 {
		w.line("## Where it answers")
		for _, s := range d.Servers {
			w.item("`%s`%s", s.URL, behind(s.Description))
		}
	}
	if says := d.Choice.Says(); says != "" {
		w.line("Callers choose this version %s%s.", says, map[bool]string{true: "; a call that says none means it, too"}[d.Choice.Usual()])
	}
	if d.Refuses {
		w.line("Input that is not described is refused.")
	}
	if len(d.Schemes) > 0 {
		w.line("## Signing in")
		for _, s := range d.Schemes {
			w.item("**%s** (%s)%s", s.Name, s.Type, behind(s.Description))
		}
	}
	for _, t := range d.Texts {
		w.line("## %s", t.Title)
		w.prose(t.Content)
	}
	for _, g := range d.Groups {
		w.line("## %s", g.Name)
		w.prose(g.Description)
		for _, op := range g.Operations {
			w.operation(op)
		}
	}
	if len(d.Schemas) > 0 {
		w.line("## Schemas")
		for _, s := range d.Schemas {
			w.line("### %s", s.Name)
			w.prose(s.Schema.Description)
			w.values(s.Schema)
			w.fields(s.Schema, "required")
		}
	}
	return w.b.String()
}

// writing is a Markdown text in the making.
type writing struct{ b strings.Builder }

func (w *writing) line(format string, args ...any) { fmt.Fprintf(&w.b, format+"\n\n", args...) }
func (w *writing) item(format string, args ...any) { fmt.Fprintf(&w.b, "- "+format+"\n\n", args...) }

func (w *writing) prose(text string) {
	if text != "" {
		w.line("%s", strings.TrimSpace(text))
	}
}

// behind is a text behind a name.
func behind(text string) string {
	if text == "" {
		return ""
	}
	return ": " + cell(text)
}

// cell is a text within a line of a table or list.
func cell(text string) string {
	return strings.ReplaceAll(strings.Join(strings.Fields(text), " "), "|", `\|`)
}

func (w *writing) operation(op *OperationPage) {
	w.line("### %s", op.Title)
	if op.Calls == "" {
		w.line("`%s %s`", op.Method, op.Path)
	} else {
		w.line("`%s` to your address, as %s", op.Method, op.Calls)
	}
	if n := op.Margin.Notice; n != nil {
		w.line("> Deprecated%s. %s%s", dated(", leaves on ", n.Sunset), n.Reason, dated(" Now: ", n.ReplacedBy))
	}
	w.prose(op.Description)
	if len(op.Security) > 0 {
		w.line("Needs %s.", strings.Join(op.Security, ", or "))
	}
	for _, g := range op.Parameters {
		w.line("**In the %s**", g.Place)
		w.table(g.Fields, "must be sent")
	}
	if op.Body != nil {
		w.line("**What you send**")
		w.media(op.Body.Media, "must be sent")
	}
	if len(op.Code) > 0 {
		w.block(sample.Fence(op.Code[0].Language), op.Code[0].Text)
	}
	for _, r := range op.Responses {
		w.line("**%s**%s", r.Status, behind(r.Description))
		w.media(r.Media, "always there")
	}
}

func dated(before, text string) string {
	if text == "" {
		return ""
	}
	return before + text
}

func (w *writing) media(all []MediaSection, must string) {
	for _, m := range all {
		w.line("`%s`", m.Type)
		if m.Schema != nil {
			w.fields(m.Schema, must)
		}
		if m.Sample != nil && must != "must be sent" {
			w.block("json", m.Sample.Text)
		}
	}
}

func (w *writing) block(language, text string) {
	w.line("%s", strings.TrimRight(commonmark.Block(language, text), "\n"))
}

func (w *writing) values(f *Field) {
	for _, e := range f.Enum {
		w.item("`%s`%s", e.Value, behind(e.Text))
	}
}

// fields are those of a message, with what is inside them.
func (w *writing) fields(f *Field, must string) {
	if len(f.Fields) > 0 {
		w.table(f.Fields, must)
	} else if len(f.Choices) == 0 {
		w.line("%s", strings.Join(append([]string{f.Type}, f.Limits...), ", "))
	}
	for _, c := range f.Choices {
		w.line("One of these: **%s**%s", firstOf(c.Name, c.Type), dated(" when ", c.When))
		w.fields(c, must)
	}
}

// table lists fields, those inside others by their paths.
func (w *writing) table(fields []*Field, must string) {
	w.b.WriteString("| field | type | | |\n|---|---|---|---|\n")
	w.rows("", fields, must)
	w.b.WriteByte('\n')
}

func (w *writing) rows(path string, fields []*Field, must string) {
	for _, f := range fields {
		var marks []string
		if f.Required {
			marks = append(marks, must)
		}
		if n := f.Margin.Notice; n != nil {
			marks = append(marks, "deprecated"+dated(", leaves ", n.Sunset)+dated(", now ", n.ReplacedBy))
		} else if f.Deprecated {
			marks = append(marks, "deprecated")
		}
		if f.Margin.Since != "" {
			marks = append(marks, "since "+f.Margin.Since)
		}
		about := f.Description
		if len(f.Enum) > 0 {
			var values []string
			for _, e := range f.Enum {
				values = append(values, "`"+e.Value+"`")
			}
			about += " One of " + strings.Join(values, ", ") + "."
		}
		kind := f.Type
		if f.Nullable {
			kind += " or null"
		}
		fmt.Fprintf(&w.b, "| `%s%s` | %s | %s | %s |\n", path, f.Name, cell(strings.Join(append([]string{kind}, f.Limits...), ", ")),
			cell(strings.Join(marks, "; ")), cell(about))
		w.rows(path+f.Name+".", f.Fields, must)
	}
}
