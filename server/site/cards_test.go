package site

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/reference"
	"oldledger/ledger"
)

const quays = `openapi: 3.1.0
info: {title: Quay Register, version: 1.0.0, description: 'Keeps every quay.'}
paths:
  /quays: {get: {operationId: readQuay, summary: Read a quay, responses: {'200': {description: It., content: {application/json: {schema: {$ref: '#/components/schemas/Quay'}}}}}}}
  /vaults: {get: {operationId: listVaults, summary: List the vaults, responses: {'200': {description: All.}}}}
components: {schemas: {Quay: {type: object, properties: {lengthOverall: {type: string, description: From bollard to bollard.}}}}}
`

// TestEverywhere finds what readers see in all APIs, misspelt and begun; what is taken back, hidden or new is gone or there at once.
func TestEverywhere(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	l, h := newSite(t, small)
	find := func(question string) string {
		w := get(t, h, "/reference/search?q="+question)
		require.Equal(t, http.StatusOK, w.Code)
		return w.Body.String()
	}
	require.NotContains(t, find("quay"), "readQuay")
	rec, err := l.Record(ctx, editor, ledger.Submission{Text: []byte(quays)})
	require.NoError(t, err)
	require.NotContains(t, find("quay"), "readQuay", "a draft")
	_, err = l.Publish(ctx, editor, rec.Version.Ref(), nil)
	require.NoError(t, err)
	for question, want := range map[string]string{
		"quay": "operations/readQuay", "qay": "", "quay+register": "/reference/quay-register/1.0.0/", "lenght": "schemas/Quay#lengthOverall",
		"overall": "schemas/Quay#lengthOverall", "bollrad": "schemas/Quay#lengthOverall",
		"vaul": "operations/listVaults", "a": "readA", "nothing+quay": "",
	} {
		if found := find(question); want == "" {
			require.Contains(t, found, "Nothing published has these words.", question)
		} else {
			require.Contains(t, found, want, question)
		}
	}
	_, err = l.PutOverlay(ctx, editor, rec.Version.Ref(),
		"overlay: 1.0.0\ninfo: {title: O, version: 1.0.0}\nactions: [{target: \"$.paths['/vaults'].get\", update: {x-ledger-hidden: true}}]\n",
		"")
	require.NoError(t, err)
	require.Contains(t, find("vaul"), "listVaults", "a draft of an overlay")
	_, err = l.ShowOverlay(ctx, editor, rec.Version.Ref())
	require.NoError(t, err)
	require.NotContains(t, find("vaul"), "listVaults")
	require.Contains(t, get(t, h, "/reference/sitemap.xml").Body.String(), "operations/readQuay")
	require.Contains(t, get(t, h, "/reference/").Body.String(), "Keeps every quay.")
	_, err = l.Unpublish(ctx, editor, rec.Version.Ref(), "a mistake")
	require.NoError(t, err)
	for _, path := range []string{"/reference/search?q=quay", "/reference/sitemap.xml", "/reference/", "/.well-known/api-catalog"} {
		require.NotContains(t, strings.ToLower(get(t, h, path).Body.String()), "quay-register", path)
	}
	_, err = l.Publish(ctx, editor, rec.Version.Ref(), nil)
	require.NoError(t, err)
	require.Contains(t, find("quay"), "readQuay")
}

// TestGoneCrowdsNobodyOut finds what is there when more than are looked at closely were taken back.
func TestGoneCrowdsNobodyOut(t *testing.T) {
	t.Parallel()
	l, h := newSite(t, quays)
	many := strings.Builder{}
	many.WriteString("openapi: 3.1.0\ninfo: {title: Bollards, version: 1.0.0}\npaths:\n")
	for i := range 400 {
		fmt.Fprintf(&many, "  /v%d: {get: {operationId: vaults%d, summary: Vaults, responses: {'200': {description: It.}}}}\n", i, i)
	}
	rec, err := l.Record(t.Context(), editor, ledger.Submission{Text: []byte(many.String())})
	require.NoError(t, err)
	_, err = l.Publish(t.Context(), editor, rec.Version.Ref(), nil)
	require.NoError(t, err)
	require.Contains(t, get(t, h, "/reference/search?q=vaults").Body.String(), "/bollards/")
	_, err = l.Unpublish(t.Context(), editor, rec.Version.Ref(), "a mistake")
	require.NoError(t, err)
	found := get(t, h, "/reference/search?q=vaults").Body.String()
	require.NotContains(t, found, "/bollards/")
	require.Contains(t, found, "operations/listVaults")
}

// TestScoreIsThatOfTheIndex gives what the index of one version gives, entry by entry.
func TestScoreIsThatOfTheIndex(t *testing.T) {
	t.Parallel()
	l, _ := newSite(t, quays)
	d, err := l.Description(t.Context(), ledger.Nobody, "quay-register")
	require.NoError(t, err)
	doc, err := reference.Make(t.Context(), d.Contract, reference.Context{Name: "quay-register", Number: "1.0.0", Line: "1"})
	require.NoError(t, err)
	index := doc.Index()
	for _, question := range []string{"quay", "qaay", "length", "lenght bollard", "read quay", "vaults", "everyy", "x"} {
		asked := reference.Asked(question)
		scores := map[string]int{}
		for _, e := range index.Entries() {
			if score := reference.Score(asked, e); score > 0 {
				scores[e.Path] = score
			}
		}
		for _, hit := range index.Find(question, 100) {
			require.Equal(t, hit.Score, scores[hit.Path], "%s: %s", question, hit.Path)
			delete(scores, hit.Path)
		}
		require.Empty(t, scores, question)
	}
}
