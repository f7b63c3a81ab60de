package server_test

import (
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/tools/browser"
)

// TestMistakesEverywhere records the manual's description full of mistakes as a designer does in the console, is asked for a reason for
// each error, publishes it, and reads it on the site.
func TestMistakesEverywhere(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	text0, err := os.ReadFile("../docs/manual/examples/slips-1.0.0.yaml")
	require.NoError(t, err)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/record"), chromedp.WaitVisible(chromedp.CSS(".drop")))
	require.NoError(t, browser.Drop(ctx, "slips-1.0.0.yaml", string(text0)))
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(".seen .diagnostic")))
	seen := text(t, ctx, ".seen")
	require.Contains(t, seen, "Its description has 9 errors, 3 warnings, 1 hint.")
	require.Contains(t, seen, `line 8, column 7: an operation has no key "summry"; did you mean "summary"?`)

	// The gate lists each error; let through with a reason, the version is published.
	do(t, ctx, chromedp.Click(chromedp.CSS(".seen button")), chromedp.WaitVisible(chromedp.CSS(".mistake")))
	require.Contains(t, text(t, ctx, "main"), "Errors in the description")
	require.Contains(t, text(t, ctx, "main"), "the gate is shut")
	await(t, ctx, `document.querySelector('[data-publish]').disabled`)
	_, err = chromedp.Run(ctx, chromedp.Evaluate[int](`[...document.querySelectorAll('.mistake .n-checkbox')].map((b) => b.click()).length`))
	require.NoError(t, err)
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS("textarea.why-allowed")), chromedp.SendKeys(chromedp.CSS("textarea.why-allowed"), "It is an example."))
	press(t, ctx, "[data-same]")
	press(t, ctx, "[data-publish]")
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(`a.mark[aria-label^="1.0.0"]:not(.draft)`)))

	// The site shows what can be meant.
	page := send(t, "GET", base+"/reference/slip-board/1.0.0/operations/getSlip", "", nil, nil)
	require.Equal(t, http.StatusOK, page.StatusCode)
	require.Contains(t, page.text, "/slips/{slip}")
	require.Contains(t, page.text, "width")

	// The HTTP interface says the same: of a recording, of the gate, of a comparison; and what was let through is let through for what
	// follows.
	next, err := os.ReadFile("../docs/manual/examples/slips-1.1.0.yaml")
	require.NoError(t, err)
	editor := token(t, l, "teodor")
	recorded := send(t, "POST", base+"/api/v1/recordings?file=slips-1.0.0.yaml", editor, nil, strings.NewReader(string(next)))
	require.Equal(t, http.StatusCreated, recorded.StatusCode, recorded.text)
	require.Contains(t, recorded.text,
		`"diagnostics":{"errors":9,"warnings":3,"hints":1,"worst":[{"rule":"key-misspelt","severity":"error","file":"slips-1.0.0.yaml"`)
	require.Contains(t, recorded.text, `"fix":{"title":"write summary","edits":[{`)
	gate := send(t, "GET", base+"/api/v1/versions/slip-board@1.1.0/gate", editor, nil, nil)
	require.Contains(t, gate.text, `"allowed":"It is an example."`)
	compared := send(t, "GET", base+"/api/v1/comparison?old=slip-board@1.0.0&new=slip-board@1.1.0", editor, nil, nil)
	require.Contains(t, compared.text, `"breaking":1,"hazard":0,"safe":0,"editorial":0`)
	require.Contains(t, compared.text, `"diagnostics":{"errors":9`)

	// A new error is asked for, too.
	worse := strings.Replace(string(next), "width: {type: number", "width: {type: numbr", 1)
	recorded = send(t, "POST", base+"/api/v1/recordings?file=slips-1.0.0.yaml", editor, nil, strings.NewReader(worse))
	require.Equal(t, http.StatusOK, recorded.StatusCode, recorded.text)
	refused := send(t, "POST", base+"/api/v1/versions/slip-board@1.1.0/publication", editor, nil, strings.NewReader(`{}`))
	require.Equal(t, http.StatusConflict, refused.StatusCode)
	require.Contains(t, refused.text, "problems/")
}
