package site

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"net/http"
	"path"
	"slices"
	"strings"

	"oldledger/ledger"
)

// maxShown is how much of the files a page shows, in bytes; what is beyond is only offered to download.
const maxShown = 256 << 10

// shownFile is one file of a description, as the page of the source shows it.
type shownFile struct {
	Path, Anchor string
	Lines        []string // nil for one that there is no room to show
}

// source shows the description as its authors wrote it, with the number of each line.
func (s *Site) source(ctx context.Context, e *edition) (page, error) {
	files, err := s.ledger.Files(ctx, e.Reader, e.Version.Ref())
	if err != nil {
		return page{}, err
	}
	f := &Frame{edition: e, Here: "source"}
	return s.page(ctx, f, sourcePage(f, shownFiles(files)))
}

// shownFiles are files as their page shows them, as long as there is room.
func shownFiles(files []ledger.File) []shownFile {
	var shown []shownFile
	room := maxShown
	for i, file := range files {
		one := shownFile{Path: file.Path, Anchor: fmt.Sprintf("file-%d", i+1)}
		if len(file.Text) <= room {
			room -= len(file.Text)
			one.Lines = strings.Split(strings.TrimRight(file.Text, "\n"), "\n")
		}
		shown = append(shown, one)
	}
	return shown
}

// sourceFile is one file as it was recorded. It is sent as a plain text, whatever it holds.
func (s *Site) sourceFile(ctx context.Context, e *edition, name string) (page, error) {
	files, err := s.ledger.Files(ctx, e.Reader, e.Version.Ref())
	if err != nil {
		return page{}, err
	}
	i := slices.IndexFunc(files, func(file ledger.File) bool { return file.Path == name })
	if i < 0 {
		return page{}, errNowhere
	}
	return download(e, "text/plain; charset=utf-8", "", []byte(files[i].Text)), nil
}

// sourceArchive is all files as they were recorded, as a .zip.
func (s *Site) sourceArchive(ctx context.Context, e *edition) (page, error) {
	files, err := s.ledger.Files(ctx, e.Reader, e.Version.Ref())
	if err != nil {
		return page{}, err
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, file := range files {
		w, err := z.CreateHeader(e.packed(path.Join(e.API.Name+"-"+e.Version.Number, strings.ReplaceAll(file.Path, `\`, "_"))))
		if err == nil {
			_, err = w.Write([]byte(file.Text))
		}
		if err != nil {
			return page{}, err
		}
	}
	if err := z.Close(); err != nil {
		return page{}, err
	}
	return download(e, "application/zip", e.API.Name+"-"+e.Version.Number+".zip", b.Bytes()), nil
}

func download(e *edition, kind, name string, body []byte) page {
	p := page{status: http.StatusOK, header: http.Header{}, body: body}
	p.header.Set("Content-Type", kind)
	p.header.Set("X-Content-Type-Options", "nosniff")
	if name != "" {
		p.header.Set("Content-Disposition", `attachment; filename="`+name+`"`)
	}
	announce(p.header, &Frame{edition: e})
	return p
}
