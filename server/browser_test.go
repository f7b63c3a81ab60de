package server_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/tools/browser"
)

// startBrowser opens a window. Without Chromium or without the built console there is nothing to drive: the test is skipped,
// unless OLDLEDGER_BROWSER=required says that both must be there, as `make test` does. With "none" it is skipped where they are, too.
func startBrowser(t *testing.T, base string, width, height int) context.Context {
	t.Helper()
	if os.Getenv("OLDLEDGER_BROWSER") == "none" {
		t.Skip("no browser wanted")
	}
	_, err := exec.LookPath("chromium")
	built := strings.Contains(send(t, "GET", base+"/console/", "", nil, nil).text, `id="app"`)
	if (err != nil || !built) && os.Getenv("OLDLEDGER_BROWSER") != "required" {
		t.Skip("needs chromium and the built console: make test")
	}
	require.NoError(t, err)
	require.True(t, built, "the console is not built")
	ctx, stop := browser.New(context.Background(), width, height, io.Discard)
	var mu sync.Mutex
	var faults []string
	t.Cleanup(func() {
		stop()
		mu.Lock()
		defer mu.Unlock()
		assert.Empty(t, faults, "what no page expected")
	})
	require.NoError(t, chromedp.Listen(ctx, func(event any) {
		mu.Lock()
		defer mu.Unlock()
		switch e := event.(type) {
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.ConsoleAPICalledTypeError {
				for _, argument := range e.Args {
					faults = append(faults, argument.Description+string(argument.Value))
				}
			}
		case *runtime.EventExceptionThrown:
			faults = append(faults, e.ExceptionDetails.Text)
		}
	}))
	return ctx
}

func do(t *testing.T, ctx context.Context, steps ...chromedp.Action[chromedp.Void]) {
	t.Helper()
	require.NoError(t, chromedp.Do(ctx, steps...))
}

func text(t *testing.T, ctx context.Context, selector string) string {
	t.Helper()
	got, err := chromedp.Run(ctx, chromedp.Text(chromedp.CSS(selector)))
	require.NoError(t, err)
	return got
}

// TestLineupInConsole reads the matrix of an API's versions, and goes from a cell to the spread that explains it.
func TestLineupInConsole(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	cell := `button[aria-label="clients of 1.1.0 fail when 1.0.0 answers"]`
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"), chromedp.WaitVisible(chromedp.CSS(cell)), chromedp.Click(chromedp.CSS(cell)),
		chromedp.WaitVisible(chromedp.CSS(".pages td.line")))
	require.Contains(t, text(t, ctx, "h1"), "from 1.0.0 to 1.1.0")
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/compare/1.2.0..2.0.0"), chromedp.WaitVisible(chromedp.CSS(".why details")),
		chromedp.Click(chromedp.CSS(".why summary")))
	require.Contains(t, text(t, ctx, ".why details"), "GET /bookings")
}

// TestConsole goes the way of a designer: sign in, record by dropping a file, compare, be refused, waive, publish,
// deprecate; then reads the notice on the site as anybody can.
func TestConsole(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	drop := func(name, content string) { require.NoError(t, browser.Drop(ctx, name, content)) }

	do(t, ctx, chromedp.Navigate(base+"/console/"), chromedp.WaitVisible(chromedp.CSS("#name")), chromedp.SendKeys(chromedp.CSS("#name"), "sanna"),
		chromedp.SendKeys(chromedp.CSS("#password"), "wrong\r"), chromedp.WaitVisible(chromedp.CSS(".fault")))
	require.Contains(t, text(t, ctx, ".fault"), "do not belong together")
	do(t, ctx, browser.SignIn(base, "sanna", demo.Password)...)
	require.Contains(t, text(t, ctx, "table.ruled"), "Berth Booking")

	// A file with a fault is told with its place; a good one shows what it would change before it is recorded.
	do(t, ctx, chromedp.Navigate(base+"/console/apis/pilotage/record"), chromedp.WaitVisible(chromedp.CSS(".drop")))
	drop("pilotage.yaml", "openapi: 3.1.0\ninfo: {title: Pilotage Orders\npaths: {}\n")
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(".fault")))
	require.Contains(t, text(t, ctx, ".fault"), "line 2, column 7: the object that begins here with { is not closed")
	old, err := os.ReadFile("../demo/pilotage/1.1.0.yaml")
	require.NoError(t, err)
	next := strings.NewReplacer("version: 1.1.0", "version: 1.2.0", "maximum: 3", "maximum: 2").Replace(string(old))
	drop("pilotage-1.2.0.yaml", next)
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(".seen .fault")))
	require.Contains(t, text(t, ctx, ".seen"), "pilotage@1.2.0 would be a new draft")
	require.Contains(t, text(t, ctx, ".seen .changes"), "tugs is at most 2, was at most 3")
	require.Contains(t, text(t, ctx, ".seen .fault"), "breaks the promise of its line, backward")
	require.Equal(t, http.StatusUnauthorized, send(t, "GET", base+"/api/v1/me", "", nil, nil).StatusCode)

	// Recorded, it stands before the gate, which is shut.
	do(t, ctx, chromedp.Click(chromedp.CSS(".seen button")), chromedp.WaitVisible(chromedp.CSS(".obstacle")))
	require.Contains(t, text(t, ctx, ".obstacle"), `"tugs":3`)
	await(t, ctx, `document.querySelector('[data-publish]').disabled`)
	require.Contains(t, text(t, ctx, "main"), "It breaks the promise of its line, backward.")
	require.Contains(t, text(t, ctx, ".left"), "one thing still stands in the way")

	// The spread shows the change with both sides, and hides what is filtered away.
	do(t, ctx, chromedp.Navigate(base+"/console/apis/pilotage/compare/1.1.0..1.2.0"), chromedp.WaitVisible(chromedp.CSS(".hit-old")))
	require.Contains(t, text(t, ctx, ".hit-old"), "maximum: 3")
	require.Contains(t, text(t, ctx, ".hit-new"), "maximum: 2")
	require.Contains(t, text(t, ctx, ".spread"), "1.2.0 refuses")
	do(t, ctx, chromedp.Click(chromedp.CSS(`.tools .n-checkbox`)), chromedp.WaitNotPresent(chromedp.CSS(".hit-old")))
	require.Contains(t, text(t, ctx, ".spread"), "No change of these grades.")

	// Waived with a reason, it is published.
	do(t, ctx,
		chromedp.Navigate(base+"/console/apis/pilotage/publish/1.2.0"), chromedp.WaitVisible(chromedp.CSS(".obstacle")),
		chromedp.Click(chromedp.CSS(".obstacle .n-checkbox")),
		chromedp.WaitVisible(chromedp.CSS("textarea.why-through")),
	)
	await(t, ctx, `document.querySelector('[data-publish]').disabled && document.querySelector('main').innerText.includes('needs its reason')`)
	do(t, ctx, chromedp.SendKeys(chromedp.CSS("textarea.why-through"), "Nobody orders three tugs."))
	await(t, ctx, `!document.querySelector('[data-publish]').disabled && document.querySelector('.obstacle.settled')?.innerText.includes('let through')`)
	press(t, ctx, "[data-publish]")
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(`a.mark[aria-label^="1.2.0"]:not(.draft)`)))
	press(t, ctx, ".waived summary") // a waived version says so, with change and reason
	require.Contains(t, text(t, ctx, ".waived"), "tugs is at most 2, was at most 3: Nobody orders three tugs. sanna")
	require.Contains(t, text(t, ctx, "table.ruled"), "1.2.0")

	// Deprecated, it is told on the site, to whoever has the link.
	do(t, ctx,
		chromedp.Navigate(base+"/console/apis/pilotage/deprecate"), chromedp.WaitVisible(chromedp.CSS("#sunset")),
		chromedp.SendKeys(chromedp.CSS("#instead"), "nothing yet"), chromedp.SendKeys(chromedp.CSS("#reason"), "Orders move to the new desk."),
	)
	_, err = chromedp.Run(ctx,
		chromedp.Evaluate[bool](`(() => { const f = document.querySelector('#sunset'); f.value = '2027-06-30'; return f.dispatchEvent(new Event('input')) })()`))
	require.NoError(t, err)
	press(t, ctx, "form button[type=submit]")
	reads(t, ctx, "main", "leaves 30 June 2027")
	require.Contains(t, text(t, ctx, "main"), "leaves 30 June 2027")

	reader := startBrowser(t, base, 1280, 800)
	do(t, reader, chromedp.Navigate(base+demo.LinkPath), chromedp.WaitVisible(chromedp.CSS("input[name=password]")))
	write(t, reader, "input[name=password]", demo.Password)
	press(t, reader, "form button")
	do(t, reader, chromedp.WaitVisible(chromedp.CSS(`[href="/reference/pilotage/notices"]`)))
	do(t, reader, chromedp.Navigate(base+"/reference/pilotage/1.2.0/"), chromedp.WaitVisible(chromedp.CSS(".notice")))
	require.Contains(t, text(t, reader, ".notice"), "Version 1.2.0 is deprecated and leaves on 30 June 2027. Orders move to the new desk.")
	do(t, reader, chromedp.Navigate(base+"/reference/pilotage/1.2.0/changes"), chromedp.WaitVisible(chromedp.CSS("h1")))
	require.Contains(t, text(t, reader, "main"), "Nobody orders three tugs.")
}

// TestFolder records a RAML description as a designer does who has it in a folder, and as one who was sent an archive.
func TestFolder(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "sanna", demo.Password)...)
	folder := filepath.Join(t.TempDir(), "tides")
	require.NoError(t, os.CopyFS(folder, os.DirFS("../demo/tides/1.1.0")))
	house := filepath.Join(folder, "libraries", "house.raml")
	text1, err := os.ReadFile(house)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(house, []byte(strings.Replace(string(text1), "maximum: 200", "maximum: 150", 1)), 0o644))
	root := filepath.Join(folder, "tides.raml")
	text2, err := os.ReadFile(root)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(root, []byte(strings.Replace(string(text2), "version: 1.1.0", "version: 1.3.0", 1)), 0o644))

	do(t, ctx, chromedp.Navigate(base+"/console/apis/tides/record"), chromedp.WaitVisible(chromedp.CSS(".drop")),
		chromedp.SetUploadFiles(".choose .folder", []string{folder}), chromedp.WaitVisible(chromedp.CSS(".seen .fault")))
	require.Contains(t, text(t, ctx, ".seen"), "tides@1.3.0 would be a new draft")
	require.Contains(t, text(t, ctx, ".seen .changes"), "limit is at most 150, was at most 200")
	require.Contains(t, text(t, ctx, ".entry"), "tides.raml")

	archive := filepath.Join(t.TempDir(), "tides.zip")
	require.NoError(t, os.WriteFile(archive, pack(t, folder, nil), 0o644))
	do(t, ctx, chromedp.Navigate(base+"/console/apis/tides/record"), chromedp.WaitVisible(chromedp.CSS(".drop")),
		chromedp.SetUploadFiles(".choose .one", []string{archive}), chromedp.WaitVisible(chromedp.CSS(".seen .fault")))
	require.Contains(t, text(t, ctx, ".seen .changes"), "limit is at most 150, was at most 200")
	do(t, ctx, chromedp.Click(chromedp.CSS(".seen button")), chromedp.WaitVisible(chromedp.CSS(".obstacle")))

	// The spread shows the change in the library.
	do(t, ctx, chromedp.Navigate(base+"/console/apis/tides/compare/1.1.0..1.3.0"), chromedp.WaitVisible(chromedp.CSS(".hit-old")))
	require.Contains(t, text(t, ctx, ".hit-old"), "maximum: 200")
	require.Contains(t, text(t, ctx, ".hit-new"), "maximum: 150")
	require.Contains(t, text(t, ctx, ".spread"), "libraries/house.raml")
}

// TestSameWords reads one comparison in console and site: the same titles in the same order.
func TestSameWords(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	titles := func(selector string) []string {
		got, err := chromedp.Run(ctx, chromedp.Evaluate[[]string](fmt.Sprintf(
			`[...document.querySelectorAll(%q)].map(e => e.childNodes[e.tagName == 'BUTTON' ? 1 : 0].textContent)`, selector)))
		require.NoError(t, err)
		return got
	}
	do(t, ctx, chromedp.Navigate(base+"/reference/berths/2.0.0/changes"), chromedp.WaitVisible(chromedp.CSS("h1")))
	site := titles("main h2.change")
	do(t, ctx, browser.SignIn(base, "jonas", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/compare/1.2.0..2.0.0"), chromedp.WaitVisible(chromedp.CSS(".changes")))
	require.Greater(t, len(site), 10)
	require.Equal(t, site, titles(".changes button"))
}

// TestConsoleWeight keeps all scripts that the first page loads under 300 KB as they travel.
func TestConsoleWeight(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "jonas", demo.Password)...)
	loaded, err := chromedp.Run(ctx, chromedp.Evaluate[[]string](
		`performance.getEntriesByType('resource').map(e => e.name).filter(n => n.endsWith('.js'))`))
	require.NoError(t, err)
	require.NotEmpty(t, loaded)
	total := 0
	for _, address := range loaded {
		a := send(t, "GET", address, "", map[string]string{"Accept-Encoding": "gzip"}, nil)
		require.True(t, len(a.text) < 1500 || a.Header.Get("Content-Encoding") == "gzip", "what is large travels compressed")
		total += len(a.text)
	}
	require.Less(t, total, 300_000)
	t.Logf("%d KB of script in %d files", total/1000, len(loaded))
}

// TestReferenceReads reads an operation's page in a window and on a phone, without JavaScript: nothing is wider than the page.
func TestReferenceReads(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	for _, width := range []int64{1280, 390} {
		do(t, ctx, chromedp.EmulateViewport(width, 800), chromedp.Navigate(base+"/reference/berths/1.2.0/operations/bookBerth"),
			chromedp.WaitVisible(chromedp.CSS("h1")))
		main := text(t, ctx, "main")
		for _, want := range []string{"Book a berth", "must be sent", "length", "deprecated", "above 0, at most 400", "one of", "201", "curl"} {
			require.Contains(t, main, want)
		}
		over, err := chromedp.Run(ctx, chromedp.Evaluate[int64](`document.documentElement.scrollWidth - document.documentElement.clientWidth`))
		require.NoError(t, err)
		require.LessOrEqual(t, over, int64(0), "at a width of %d", width)
	}
	// The switcher and the margin lead on.
	do(t, ctx, chromedp.EmulateViewport(1280, 800), chromedp.Click(chromedp.CSS(".switch summary")),
		chromedp.Click(chromedp.CSS(`.switch a[href^="/reference/berths/2.0.0/"]`)),
		chromedp.WaitReady(`.switch a[href^="/reference/berths/2.0.0/"][aria-current]`))
	require.Contains(t, text(t, ctx, "main"), "Book a berth\nPOST /bookings", "the same operation, where it is now")
}

// TestReaderSettles enters an address of the reader's own, which the samples call from then on; the language that was read last is open on
// the next page; the key / leads to the search.
func TestReaderSettles(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	page := base + "/reference/berths/2.0.0/operations/"
	do(t, ctx, chromedp.Navigate(page+"bookBerth"), chromedp.WaitVisible(chromedp.CSS(".own input")),
		chromedp.SendKeys(chromedp.CSS(".own input"), "http://127.0.0.1:9000/try/"))
	require.Contains(t, text(t, ctx, ".code [open] pre"), "curl -X POST 'http://127.0.0.1:9000/try/bookings'")
	do(t, ctx, chromedp.Click(chromedp.CSS(`details[data-language="go"] summary`)), chromedp.WaitVisible(chromedp.CSS(`details[data-language="go"][open] pre`)))
	require.Contains(t, text(t, ctx, `details[data-language="go"] pre`), `"http://127.0.0.1:9000/try/bookings"`)
	do(t, ctx, chromedp.Navigate(page+"listQuays"), chromedp.WaitVisible(chromedp.CSS(`details[data-language="go"][open] pre`)))
	require.Contains(t, text(t, ctx, `details[data-language="go"] pre`), "http://127.0.0.1:9000/try/quays")
	do(t, ctx, chromedp.KeyEvent("/"), chromedp.KeyEvent("lenghtOverall\r"), chromedp.WaitVisible(chromedp.CSS(".find input")))
	require.Contains(t, text(t, ctx, "main"), "lengthOverall")
	do(t, ctx, chromedp.Navigate(page+"bookBerth#answer-409"), chromedp.WaitVisible(chromedp.CSS("#answer-409[open]")))
	require.Contains(t, text(t, ctx, "#answer-409"), "What kind of problem it is")
}
