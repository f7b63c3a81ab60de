package cli

import (
	"archive/zip"
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/ledger"
	"oldledger/server/site"
	"oldledger/store"
)

func (a *app) exportCommand() *cobra.Command {
	var to, markdown string
	var over bool
	cmd := &cobra.Command{
		Use: "export REF", GroupID: "reference", Short: "Write a version's reference as files", Args: cobra.ExactArgs(1),
		Long: `Writes the reference of a version as a site of files that reads from any web server, or from a folder in a browser, search included
(--site), or as one text (--markdown). REF may be a file: then its reference is made here, without a ledger.`,
		Example: "  oldledger export berths@2.0.0 --site public/berths\n  oldledger export berths.yaml --site berths-site.zip\n  oldledger export berths@latest --markdown berths.md",
	}
	cmd.Flags().StringVar(&to, "site", "", "folder to write the site to, or an archive (.zip)")
	cmd.Flags().StringVar(&markdown, "markdown", "", "file to write the text to; - for standard output")
	cmd.Flags().BoolVar(&over, "over", false, "write into a folder that is not empty, over what has the same names there")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if (to == "") == (markdown == "") {
			return usageError{errors.New("say --site FOLDER, --site FILE.zip or --markdown FILE")}
		}
		folder := to != "" && !strings.EqualFold(filepath.Ext(to), ".zip")
		if folder && !over {
			if err := a.askToWriteOver(to); err != nil {
				return err
			}
		}
		form := "site.zip"
		if markdown != "" {
			form = "reference.md"
		}
		done := a.at("making the reference of %s", args[0])
		body, err := a.exported(cmd.Context(), args[0], form)
		done()
		if err != nil {
			return err
		}
		switch {
		case markdown == "-":
			_, err := a.Out.Write(body)
			return err
		case folder:
			return a.unfold(cmd.Context(), body, to)
		}
		return a.keep(cmp.Or(markdown, to), body)
	}
	return cmd
}

func (a *app) keep(name string, body []byte) error {
	if err := os.WriteFile(a.path(name), body, 0o644); err != nil {
		return fmt.Errorf("write the export: %w", err)
	}
	return printf(a, "%s is written\n", name)
}

// askToWriteOver asks whether to write into a folder that is not empty; where there is nobody to ask, it refuses.
func (a *app) askToWriteOver(folder string) error {
	entries, err := os.ReadDir(a.path(folder))
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(entries) == 0 {
		return nil
	}
	if err != nil {
		return fmt.Errorf("write the export: %w", err)
	}
	refused := fmt.Errorf("%s is not empty: nothing was written; name another folder, or write over what is there with --over", folder)
	if !a.interactive() {
		return usageError{refused}
	}
	fmt.Fprintf(a.Err, "%s is not empty. Write over what has the same names there? [y/N] ", folder)
	var said string
	if _, err := fmt.Fscanln(a.In, &said); err != nil || !strings.EqualFold(said, "y") && !strings.EqualFold(said, "yes") {
		return usageError{refused}
	}
	return nil
}

// exported is a version's reference in a form: from the ledger, or, of files, made here.
func (a *app) exported(ctx context.Context, ref, form string) ([]byte, error) {
	if !a.isReference(ref) {
		return a.exportedFile(ctx, ref, form)
	}
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	v, err := c.Version(ctx, ref)
	if err != nil {
		return nil, refused(err)
	}
	body, err := c.Exported(ctx, v, form)
	return body, refused(err)
}

// exportedFile publishes files in a ledger that lasts as long as the command.
func (a *app) exportedFile(ctx context.Context, arg, form string) ([]byte, error) {
	d, err := a.describe(ctx, arg)
	if err != nil {
		return nil, err
	}
	set := d.set
	dir, err := os.MkdirTemp("", "oldledger-export")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(ctx, filepath.Join(dir, "ledger.sqlite"))
	if err != nil {
		return nil, err
	}
	defer s.Close()
	l := ledger.New(s, ledger.Options{Now: a.Now, Random: rand.Reader})
	pages, err := site.New(site.Options{
		Ledger: l, House: "Old Ledger", Public: &url.URL{},
		Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
	})
	if err != nil {
		return nil, err
	}
	who := ledger.By(ledger.Person{Name: "export", Full: "export", Role: ledger.Publisher})
	others := map[string][]byte{}
	for _, f := range set.Files()[1:] {
		others[f.Path()] = f.Text
	}
	rec, err := l.Record(ctx, who, ledger.Submission{File: set.Entry.Path(), Text: set.Entry.Text, Others: others})
	if err == nil {
		_, err = l.Publish(ctx, who, rec.Version.Ref(), nil)
	}
	pages.Wait()
	if err != nil {
		var exposed *ledger.Exposed
		if errors.As(err, &exposed) {
			return nil, &inputError{err}
		}
		return nil, err
	}
	return pages.Exported(ctx, l.TypicalReader(rec.Version.API), rec.Version.Ref(), form)
}

// unfold writes an archive as a folder: what is below its one folder at the top.
func (a *app) unfold(ctx context.Context, archive []byte, to string) error {
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		return fmt.Errorf("read the export: %w", err)
	}
	a.writing = to
	for _, f := range z.File {
		if err := ctx.Err(); err != nil {
			return err
		}
		_, name, _ := strings.Cut(f.Name, "/")
		if !filepath.IsLocal(filepath.FromSlash(name)) {
			return fmt.Errorf("the export names a file outside of its folder: %s", f.Name)
		}
		if err := a.unfoldFile(f, filepath.Join(a.path(to), filepath.FromSlash(name))); err != nil {
			return fmt.Errorf("write the export: %w", err)
		}
	}
	a.writing = ""
	return printf(a, "%d files in %s\n", len(z.File), to)
}

func (a *app) unfoldFile(f *zip.File, to string) error {
	if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
		return err
	}
	in, err := f.Open()
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.Create(to)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Close())
}
