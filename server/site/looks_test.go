package site

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

const small = "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\ntags: [{name: Quays, description: Where they are.}]\npaths:\n  /a: {get: {operationId: readA, tags: [Quays], responses: {'200': {description: A.}}}}\n  /b: {get: {operationId: readB, responses: {'200': {description: B.}}}}\n"

// TestLooks gives a reference looks of its own, and refuses those that nobody could read or that do something.
func TestLooks(t *testing.T) {
	t.Parallel()
	l, h := newSite(t, small)
	ctx := context.Background()
	const page = "/reference/berths/1.0.0/operations/readA"
	require.Contains(t, get(t, h, page).Body.String(), `data-language="java"`)
	logo := "data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString([]byte("<svg xmlns='http://www.w3.org/2000/svg'/>"))
	looks, err := l.PutLooks(ctx, editor, "berths", ledger.Looks{
		Accent: "#8e1f2f", Font: "system", Logo: logo, Footer: "By the *office*. <script>x</script>", Landing: "Welcome aboard.", Unlisted: true,
		Languages: []ledger.LanguageOfSamples{{ID: "go"}, {ID: "curl", Template: "# {{.Method}}\n{{.Code}}"}},
	})
	require.NoError(t, err)
	require.NotEmpty(t, looks.AccentDark)
	css := get(t, h, "/reference/berths/looks.css").Body.String()
	require.Contains(t, css, "--link: #8e1f2f")
	require.Contains(t, css, "--link: "+looks.AccentDark)
	require.Contains(t, css, "--serif: Georgia")
	text := get(t, h, page).Body.String()
	for _, want := range []string{
		"By the <em>office</em>.", `<img src="data:image/svg`, `content="noindex"`, `# GET</span>` + "\n" + `<span class="k">curl`,
		`href="/reference/berths/looks.css"`,
	} {
		require.Contains(t, text, want)
	}
	require.NotContains(t, text, "<script>x")
	require.Less(t, strings.Index(text, `data-language="go"`), strings.Index(text, `data-language="curl"`))
	require.NotContains(t, text, `data-language="java"`)
	require.Contains(t, get(t, h, "/reference/berths/").Body.String(), "Welcome aboard.")
	require.NotContains(t, get(t, h, "/reference/looks.css").Body.String(), "--link")

	for want, bad := range map[string]ledger.Looks{
		"a text needs 4.5":                           {Accent: "#aaaaaa"},
		"is no colour":                               {Accent: "red; } body { display: none"},
		"none of the fonts":                          {Font: "comic"},
		"a logo is a PNG":                            {Logo: "https://saltmere.example/logo.png"},
		"no PNG picture":                             {Logo: "data:image/png;base64,AAAA"},
		"there are no samples":                       {Languages: []ledger.LanguageOfSamples{{ID: "latin"}}},
		"asked for twice":                            {Languages: []ledger.LanguageOfSamples{{ID: "go"}, {ID: "go"}}},
		"no address of a site":                       {Parents: []string{"https://a.example; script-src *"}},
		`"https://*" is no address`:                  {Parents: []string{"https://*"}},
		`"https://*.saltmere.example" is no address`: {Parents: []string{"https://*.saltmere.example"}},
	} {
		_, err := l.PutLooks(ctx, editor, "berths", bad)
		require.ErrorContains(t, err, want)
	}
	_, err = l.PutLooks(ctx, ledger.By(ledger.Person{Name: "r", Role: ledger.Reader}), "berths", ledger.Looks{})
	require.Error(t, err)
}

// TestEmbed holds an operation, a group and a version in pages of somebody else's, where the looks allow it.
func TestEmbed(t *testing.T) {
	t.Parallel()
	l, h := newSite(t, small)
	for path, want := range map[string]string{
		"/embed/berths/1.0.0/operations/readA": "/a", "/embed/berths/1.0.0/groups/group-quays": "Where they are.",
		"/embed/berths/1.0.0/": "Berths",
	} {
		w := get(t, h, path)
		require.Equal(t, http.StatusOK, w.Code, path)
		require.Contains(t, w.Body.String(), want)
		require.Contains(t, w.Body.String(), `<base target="_blank">`)
		require.NotContains(t, w.Body.String(), `<nav class="side"`)
	}
	for _, path := range []string{
		"/embed/berths/1.0.0/operations/nothing", "/embed/berths/1.0.0/changes", "/embed/nobody/1.0.0/",
		"/embed/berths",
	} {
		require.Equal(t, http.StatusNotFound, get(t, h, path).Code, path)
	}
	_, err := l.PutLooks(context.Background(), editor, "berths", ledger.Looks{Parents: []string{"https://intranet.saltmere.example"}})
	require.NoError(t, err)

	var told struct{ Version, Type, HTML string }
	w := get(t, h, "/oembed?maxwidth=500&url=http%3A%2F%2Fexample.com%2Freference%2Fberths%2F1.0.0%2Foperations%2FreadA")
	require.NoError(t, json.Unmarshal(w.Body.Bytes(), &told))
	require.Equal(t, "1.0 rich", told.Version+" "+told.Type)
	require.Contains(t, told.HTML, `<iframe src="http://example.com/embed/berths/1.0.0/operations/readA" width="500"`)
	for _, address := range []string{"http://elsewhere.example/reference/berths/1.0.0/", "/console/", "/reference/berths/9.9.9/", "%zz"} {
		require.Equal(t, http.StatusNotFound, get(t, h, "/oembed?url="+address).Code, address)
	}
	require.Equal(t, http.StatusNotImplemented, get(t, h, "/oembed?format=xml&url=/reference/berths/1.0.0/").Code)
}
