package site

import (
	"context"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

const dot = "\x89PNG\r\n\x1a\n and so on"

// TestLanding greets readers on the shelf and on an API, with pictures that the ledger keeps.
func TestLanding(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	l, h := newSite(t, small)
	for api, text := range map[string]string{
		"": "# Welcome\n\n![The harbour](pictures/harbour.svg) Ask the *quay office*. <script>alert(1)</script>", "berths": "![A quay](pictures/quay.png) Book early.",
	} {
		_, err := l.PutLooks(ctx, editor, api, ledger.Looks{Landing: text})
		require.NoError(t, err)
	}
	_, err := l.PutPicture(ctx, editor, "", "harbour.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`))
	require.NoError(t, err)
	_, err = l.PutPicture(ctx, editor, "berths", "quay.png", []byte(dot))
	require.NoError(t, err)

	shelf := get(t, h, "/reference/").Body.String()
	require.Contains(t, shelf, `<img src="/reference/_/pictures/harbour.svg" alt="The harbour"`)
	require.Contains(t, shelf, "<em>quay office</em>")
	require.NotContains(t, shelf, "<script>alert")
	overview := get(t, h, "/reference/berths/1.0.0/").Body.String()
	require.Contains(t, overview, `<img src="/reference/berths/pictures/quay.png" alt="A quay"`)
	require.NotContains(t, overview, "quay office", "the house greets on its shelf")

	w := get(t, h, "/reference/_/pictures/harbour.svg")
	require.Equal(t, "image/svg+xml", w.Header().Get("Content-Type"))
	require.Contains(t, w.Header().Get("Content-Security-Policy"), "sandbox")
	require.Equal(t, dot, get(t, h, "/reference/berths/pictures/quay.png").Body.String())
	for _, lost := range []string{"/reference/berths/pictures/none.png", "/reference/none/pictures/quay.png", "/reference/_/pictures/quay.png"} {
		require.Equal(t, http.StatusNotFound, get(t, h, lost).Code, lost)
	}

	for want, bad := range map[string][2]string{
		"is no name of a picture":   {"../quay.png", dot},
		"is no picture of the kind": {"quay.png", "<html>"},
		"has at most 512 kB":        {"quay.png", dot + strings.Repeat("x", 600<<10)},
		`"quay.html" is no name`:    {"quay.html", dot},
	} {
		_, err := l.PutPicture(ctx, editor, "berths", bad[0], []byte(bad[1]))
		require.ErrorContains(t, err, want)
	}
	_, err = l.PutPicture(ctx, ledger.By(ledger.Person{Name: "r", Role: ledger.Reader}), "berths", "quay.png", []byte(dot))
	require.ErrorContains(t, err, "a publisher or an editor may")
	_, err = l.PutPicture(ctx, editor, "none", "quay.png", []byte(dot))
	require.Error(t, err)
	require.NoError(t, l.DropPicture(ctx, editor, "berths", "quay.png"))
	require.Equal(t, http.StatusNotFound, get(t, h, "/reference/berths/pictures/quay.png").Code)
	require.Error(t, l.DropPicture(ctx, editor, "berths", "quay.png"))
}

// TestEmbedFollows holds the newest version, and the newest of a line.
func TestEmbedFollows(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	l, h := newSite(t, small)
	for _, number := range []string{"1.1.0", "2.0.0"} {
		rec, err := l.Record(ctx, editor, ledger.Submission{API: "berths", Text: []byte(strings.Replace(small, "1.0.0", number, 2))})
		require.NoError(t, err)
		_, err = l.Publish(ctx, editor, rec.Version.Ref(), nil)
		require.NoError(t, err)
	}
	for follows, number := range map[string]string{"latest": "2.0.0", "2": "2.0.0", "1": "1.1.0", "1.0.0": "1.0.0"} {
		w := get(t, h, "/embed/berths/"+follows+"/operations/readA")
		require.Equal(t, http.StatusOK, w.Code, follows)
		require.Contains(t, w.Body.String(), "readA — Berths "+number, follows)
	}
	require.Equal(t, http.StatusNotFound, get(t, h, "/embed/berths/3/operations/readA").Code)
}
