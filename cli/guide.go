package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/core/guide"
	"oldledger/core/promise"
	"oldledger/core/report"
	"oldledger/core/sample"
	"oldledger/wire"
)

// guideForm is how a guide is asked for on the command line.
type guideForm struct {
	client.GuideWish
	format string
	list   bool // only the checklist
}

func (a *app) guideCommand() *cobra.Command {
	var form guideForm
	cmd := &cobra.Command{
		Use: "guide OLD NEW", GroupID: "look", Short: "Write the migration guide from one version to another", Args: cobra.ExactArgs(2),
		Long: `Writes what a client's developer does to move from one version to another: what stops working, with messages and code before and after,
new names, what may wait and until when, what to test, what is new, and the way back. Works on files and on versions in the ledger; there it
knows the notices, in which version each change came, and what the authors wrote (write-guide).`,
		Example: `  oldledger guide berths@1.2.0 berths@2.0.0 --code python
  oldledger guide berths@1.2.0 berths@2.0.0 --use bookBerth --use cancelBooking --checklist
  oldledger guide old.yaml new.yaml --format html > guide.html`,
	}
	f := cmd.Flags()
	f.StringArrayVar(&form.Use, "use", nil,
		`only what concerns this operation: its operationId, or "POST /bookings" of the old version; may be repeated`)
	f.StringVar(&form.Language, "code", "", "the language of code before and after: "+languageNames()+
		", all or none (default: the team's first)")
	f.BoolVar(&form.list, "checklist", false, "write only a list of tasks, as Markdown")
	f.StringVar(&form.format, "format", "markdown", "markdown, html or json")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if !slices.Contains([]string{"markdown", "html", "json"}, form.format) {
			return usageError{fmt.Errorf("--format is markdown, html or json, not %q", form.format)}
		}
		form.Old, form.New = args[0], args[1]
		g, err := a.guideFor(cmd, form.GuideWish)
		if err != nil {
			return err
		}
		switch {
		case form.format == "json":
			return a.json(g)
		case form.list:
			return printf(a, "%s", g.Checklist(""))
		case form.format == "html":
			page, err := report.Article(g.Title+": from "+g.From+" to "+g.To, g.Markdown())
			if err != nil {
				return err
			}
			return printf(a, "%s", page)
		}
		return printf(a, "%s", g.Markdown())
	}
	return cmd
}

func languageNames() string {
	var all []string
	for _, l := range sample.Languages {
		all = append(all, l.ID)
	}
	return strings.Join(all, ", ")
}

// guideFor asks the ledger for a guide of recorded versions, and makes one of files.
func (a *app) guideFor(cmd *cobra.Command, w client.GuideWish) (*guide.Guide, error) {
	if a.isReference(w.Old) && a.isReference(w.New) {
		c, err := a.client()
		if err != nil {
			return nil, err
		}
		return c.Guide(cmd.Context(), w)
	}
	old, new, err := a.describeBoth(cmd.Context(), []string{w.Old, w.New})
	if err != nil {
		return nil, err
	}
	known := guide.Context{Today: a.Now(), Open: !a.isReference(w.New)}
	known.API, _, _ = strings.Cut(w.New, "@")
	if known.Languages, err = codeIn(w.Language); err != nil {
		return nil, err
	}
	for _, d := range []*description{old, new} {
		declared, _ := promise.Declared(d.contract) // what is wrong with them, check tells
		for _, n := range declared {
			if !slices.ContainsFunc(known.Notices, func(m promise.Notice) bool { return m.SamePart(n) }) {
				known.Notices = append(known.Notices, n)
			}
		}
	}
	compared, err := compare.ContractsContext(cmd.Context(), old.contract, new.contract, compare.Options{})
	if err != nil {
		return nil, err
	}
	g, err := guide.Make(cmd.Context(), old.contract, new.contract, compared, known)
	if err != nil {
		return nil, err
	}
	keys, err := g.Keys(w.Use)
	if err != nil {
		return nil, usageError{err}
	}
	return g.For(keys), nil
}

// codeIn are the languages that a wish names.
func codeIn(wish string) ([]sample.Language, error) {
	switch wish {
	case "all":
		return sample.Usual(), nil
	case "none":
		return nil, nil
	case "":
		return sample.Languages[:1], nil
	}
	chosen, err := sample.Choose([]string{wish})
	if err != nil {
		return nil, usageError{err}
	}
	return chosen, nil
}

func (a *app) writeGuideCommand() *cobra.Command {
	var t wire.GuideText
	var file string
	cmd := &cobra.Command{
		Use: "write-guide OLD NEW", GroupID: "act", Short: "Write a text of your own into a guide", Args: cobra.ExactArgs(2),
		Long: `Writes CommonMark into the guide between two recorded versions: into its introduction, its end, or a step, which is named by its change (guide
--format json prints it, and every page of the guide leads to it). The text is anchored to that change: it stands in every guide that has the
change, and survives a new draft. When the change has gone, the text is listed. An empty text takes away what stands there.`,
		Example: `  oldledger write-guide berths@1.2.0 berths@2.0.0 --at intro --text 'Plan half a day.'
  oldledger write-guide berths@1.2.0 berths@2.0.0 --at aaee123c2c7d --file rename.md`,
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&t.Anchor, "at", "", "intro, end, or the change of a step")
	f.StringVar(&t.Text, "text", "", "the text, as Markdown")
	f.StringVar(&file, "file", "", "the file that holds the text; - is standard input")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if t.Anchor == "" {
			return usageError{errors.New("say where it stands: --at intro, end, or the change of a step")}
		}
		if f.Changed("text") == (file != "") {
			return usageError{errors.New("give the text with --text, or with --file")}
		}
		if file != "" {
			text, err := a.textOf(file)
			if err != nil {
				return err
			}
			t.Text = text
		}
		t.Old, t.New = args[0], args[1]
		ask := func(c *client.Client) (*guide.Guide, error) { return c.WriteGuide(cmd.Context(), t) }
		return answer(a, *format, ask, func(g *guide.Guide) error { return printf(a, "%s", written(g, t)) })
	}
	return cmd
}

// textOf reads a file of text; - is standard input.
func (a *app) textOf(file string) (string, error) {
	in := a.In
	if file != "-" {
		f, err := os.Open(file)
		if err != nil {
			return "", err
		}
		defer f.Close()
		in = f
	}
	text, err := io.ReadAll(io.LimitReader(in, 1<<20))
	return string(text), err
}

// written tells what became of a text, and of those that found no place.
func written(g *guide.Guide, t wire.GuideText) string {
	var b strings.Builder
	title, _ := g.Anchored(t.Anchor)
	if t.Text == "" {
		b.WriteString("taken away\n")
	} else {
		fmt.Fprintf(&b, "written into the guide from %s to %s: %s\n", g.From, g.To, title)
	}
	for _, gone := range g.Gone {
		fmt.Fprintf(&b, "! the change is gone to which %s wrote: %s (%s)\n", gone.MadeBy, gone.Title, gone.Anchor)
	}
	return b.String()
}
