package server_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/tools/browser"
)

// write puts a text into a field as typing does.
func write(t *testing.T, ctx context.Context, selector, value string) {
	t.Helper()
	text, err := json.Marshal(value)
	require.NoError(t, err)
	_, err = chromedp.Run(ctx, chromedp.Evaluate[bool](fmt.Sprintf(`(() => {
		const f = document.querySelector(%q);
		Object.getOwnPropertyDescriptor(f.tagName === 'TEXTAREA' ? HTMLTextAreaElement.prototype : HTMLInputElement.prototype, 'value').set.call(f, %s);
		return f.dispatchEvent(new Event('input', { bubbles: true }));
	})()`, selector, text)))
	require.NoError(t, err)
}

// await waits until an expression holds. With a page inside the page, selectors find nothing; expressions do.
func await(t *testing.T, ctx context.Context, expression string) {
	t.Helper()
	_, err := chromedp.Run(ctx, chromedp.Poll[bool](expression, chromedp.WithPollingTimeout(20*time.Second)))
	require.NoError(t, err, expression)
}

// press clicks with the mouse in the middle of an element, once it is there, stands still for a while, and nothing lies over it: a menu
// that closes does, and a dialog that opens moves.
func press(t *testing.T, ctx context.Context, selector string) {
	t.Helper()
	await(t, ctx, fmt.Sprintf(`(() => {
		const e = document.querySelector(%q);
		if (!e) return false;
		e.scrollIntoView({ block: 'center', behavior: 'instant' });
		const r = e.getBoundingClientRect();
		const top = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2);
		const at = [r.x, r.y, r.width].join();
		if (window.pressed?.at !== at) window.pressed = { at, since: performance.now() };
		return performance.now() - window.pressed.since > 150 && !!top && (e.contains(top) || top.contains(e));
	})()`, selector))
	at, err := chromedp.Run(ctx, chromedp.Evaluate[[]float64](fmt.Sprintf(`(() => {
		const e = document.querySelector(%q);
		e.scrollIntoView({ block: 'center', behavior: 'instant' });
		const r = e.getBoundingClientRect();
		return [r.x + r.width / 2, r.y + r.height / 2];
	})()`, selector)))
	require.NoError(t, err)
	do(t, ctx, chromedp.MouseClickXY(at[0], at[1]))
}

func reads(t *testing.T, ctx context.Context, selector, want string) {
	t.Helper()
	await(t, ctx, fmt.Sprintf(`document.querySelector(%q)?.innerText.includes(%q)`, selector, want))
}

// TestWording goes the way of an editor: reword an operation, give it an example, put it into another group, hide another one, see it
// in the preview, show it to readers; the description stays as it was recorded.
func TestWording(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	choose := func(what string) {
		press(t, ctx, ".n-base-selection")
		await(t, ctx, `document.activeElement?.id === 'chosen'`)
		write(t, ctx, "#chosen", what) // at once: what is being drawn meanwhile takes single keys away
		await(t, ctx, fmt.Sprintf(`[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText.includes(%q))`, what))
		do(t, ctx, chromedp.KeyEvent("\r"))
		reads(t, ctx, ".n-base-selection", what)
		await(t, ctx, `!!document.querySelector('#description')`)
	}
	const keep, show = ".form button.n-button--primary-type", ".do button.n-button--primary-type"
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/wording/2.0.0"))
	reads(t, ctx, ".head", "As its description has it.")

	choose("Book a berth")
	write(t, ctx, "#description", "Holds a berth. It costs **nothing** for thirty minutes.")
	write(t, ctx, "#group", "Start here")
	write(t, ctx, "#example-0",
		`{"berth": "E-7", "vessel": {"mmsi": "002110004", "name": "Ida", "lengthOverall": 11.4}, "stay": {"arrival": "2027-05-01", "nights": 3}}`)
	press(t, ctx, keep)
	reads(t, ctx, ".head", "A draft by teodor")
	reads(t, ctx, ".actions", "$.paths['/bookings'].post.tags")

	entries, err := l.Journal(context.Background(), ledger.Itself, ledger.Question{}, 0, 1000)
	require.NoError(t, err)
	require.NotEqual(t, "preview.made", entries[len(entries)-1].Act, "opening the page makes nothing")
	press(t, ctx, "[data-preview]")
	await(t, ctx, `document.querySelector('iframe')?.contentDocument?.body?.innerText.includes('It costs nothing')`)

	choose("List quays")
	press(t, ctx, ".form .n-checkbox")
	press(t, ctx, keep)
	reads(t, ctx, ".actions li:last-child", "['/quays']")

	// Readers see nothing of it yet; the preview does, and stands in the console.
	require.NotContains(t, send(t, "GET", base+"/reference/berths/2.0.0/operations/bookBerth", "", nil, nil).text, "It costs <strong>nothing")
	address, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector('.do a').href`))
	require.NoError(t, err)
	preview := send(t, "GET", address+"operations/bookBerth", "", nil, nil)
	require.Equal(t, http.StatusOK, preview.StatusCode)
	for _, want := range []string{"It costs <strong>nothing</strong>", "Start here", "E-7", "a preview, until"} {
		require.Contains(t, preview.text, want)
	}
	require.Equal(t, "noindex, nofollow", preview.Header.Get("X-Robots-Tag"))
	require.Contains(t, preview.Header.Get("Content-Security-Policy"), "frame-ancestors 'self'")
	require.NotContains(t, send(t, "GET", address, "", nil, nil).text, "List quays")
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/preview/"+strings.Repeat("A", 32)+"/", "", nil, nil).StatusCode)

	// An example that is no JSON is told before anything is kept.
	choose("Book a berth")
	write(t, ctx, "#example-0", `{"berth": `)
	press(t, ctx, keep)
	reads(t, ctx, ".fault", "The example is no JSON.")

	press(t, ctx, show)
	reads(t, ctx, ".head", "Readers see this, by teodor")
	shown := send(t, "GET", base+"/reference/berths/2.0.0/operations/bookBerth", "", nil, nil).text
	require.Contains(t, shown, "It costs <strong>nothing</strong>")
	require.Contains(t, shown, "E-7")
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/reference/berths/2.0.0/operations/listQuays", "", nil, nil).StatusCode)
	files, err := l.Files(context.Background(), ledger.Itself, "berths@2.0.0")
	require.NoError(t, err)
	recorded, err := os.ReadFile("../demo/berths/2.0.0.yaml")
	require.NoError(t, err)
	require.Equal(t, string(recorded), files[0].Text)
}

// TestParents says in the policy of an embedded page who may hold it.
func TestParents(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	const page = "/embed/berths/2.0.0/operations/bookBerth"
	require.Contains(t, send(t, "GET", base+page, "", nil, nil).Header.Get("Content-Security-Policy"), "frame-ancestors 'self'")
	who, err := l.Actor(context.Background(), "teodor")
	require.NoError(t, err)
	_, err = l.PutLooks(context.Background(), who, "berths", ledger.Looks{Parents: []string{"https://intranet.saltmere.example"}})
	require.NoError(t, err)
	policy := send(t, "GET", base+page, "", nil, nil).Header.Get("Content-Security-Policy")
	require.Contains(t, policy, "frame-ancestors 'self' https://intranet.saltmere.example")
	require.Contains(t, policy, "script-src 'self'")
	require.Contains(t, send(t, "GET", base+"/reference/berths/2.0.0/", "", nil, nil).Header.Get("Content-Security-Policy"),
		"style-src 'self';")
}

// TestSessionEnds lets a session end while somebody writes a notice: whoever signs in again goes on where they were, and nothing that was
// typed is lost.
func TestSessionEnds(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "sanna", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/tides/deprecate"), chromedp.WaitVisible(chromedp.CSS("#reason")))
	write(t, ctx, "#reason", "The moon moved.")
	write(t, ctx, "#sunset", "2027-06-30")
	_, err := chromedp.Run(ctx, chromedp.Evaluate[bool](`fetch('/api/v1/sign-out', { method: 'POST' }).then(r => r.ok)`,
		chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	press(t, ctx, "button.n-button--primary-type")
	reads(t, ctx, ".again", "Your session has ended")
	name, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector('.again #name').value`))
	require.NoError(t, err)
	require.Equal(t, "sanna", name)
	write(t, ctx, ".again #password", "wrong")
	press(t, ctx, ".again button")
	reads(t, ctx, ".again .fault", "do not belong together")
	write(t, ctx, ".again #password", demo.Password)
	press(t, ctx, ".again button")
	await(t, ctx, `location.pathname.endsWith('/apis/tides')`)
	notices, err := l.Notices(context.Background(), ledger.Itself, "tides")
	require.NoError(t, err)
	require.Len(t, notices, 1)
	require.Equal(t, "The moon moved.", notices[0].Reason)
	require.Equal(t, "2027-06-30", notices[0].Sunset)
}

// TestLongJournal reads a journal of more acts than a page has, from the newest back to the first, and verifies it.
func TestLongJournal(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	who, err := l.Actor(t.Context(), "imke")
	require.NoError(t, err)
	for i := range 80 {
		_, err := l.MakeToken(t.Context(), who, ledger.TokenWish{Label: fmt.Sprintf("pipeline %d", i)})
		require.NoError(t, err)
	}
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "imke", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/journal"), chromedp.WaitVisible(chromedp.CSS("table.ruled")))
	reads(t, ctx, "tbody tr", "person.signed-in")
	await(t, ctx, `document.querySelectorAll('tbody tr').length === 100`)
	press(t, ctx, "[data-older]")
	await(t, ctx, `document.querySelectorAll('tbody tr').length > 150 && !document.querySelector('[data-older]')`)
	reads(t, ctx, "tbody:last-of-type tr", "teams.made")
	press(t, ctx, "[data-verify]")
	reads(t, ctx, ".head", "all as they were written")

	editor := token(t, l, "teodor")
	first := send(t, "GET", base+"/api/v1/journal?order=newest&limit=2", editor, nil, nil)
	require.Contains(t, first.Header.Get("Link"), "order=newest")
	next := strings.Trim(strings.Split(first.Header.Get("Link"), ">")[0], "<")
	second := send(t, "GET", base+next, editor, nil, nil)
	require.NotEqual(t, first.text, second.text)
	require.Equal(t, http.StatusUnprocessableEntity, send(t, "GET", base+"/api/v1/journal?order=loud", editor, nil, nil).StatusCode)
	require.Equal(t, http.StatusUnprocessableEntity, send(t, "GET", base+"/api/v1/journal?cursor=-3", editor, nil, nil).StatusCode)
}
