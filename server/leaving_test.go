package server_test

import (
	"bytes"
	"crypto/rand"
	"net/http"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/store"
	"oldledger/tools/browser"
)

// TestLeaving finds out who is in the way of a line that leaves, reminds them, sees them move when the next log arrives, and retires it.
func TestLeaving(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	played := day.AddDate(-2, 0, 0)
	require.NoError(t, demo.Play(t.Context(), s, played))
	now := played.Add(10 * time.Hour)
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return now }, Random: rand.Reader})
	base := startOver(t, s, l, demo.House)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)

	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/leaving/1"))
	await(t, ctx, `document.querySelector('[data-answer]')?.innerText === 'No' && document.querySelectorAll('[data-user]').length === 5`)
	await(t, ctx, `document.querySelectorAll('path.band').length === 2 && !document.querySelector('[data-retire]')`)
	press(t, ctx, `[data-remind="lockside-boards"]`)
	await(t, ctx, `document.querySelector('#remind-words')?.value.includes('GET /berths/{berth}/availability') && document.querySelector('#remind-words').value.includes('/reference/berths/guides/1.2.0..2.0.0')`)
	await(t, ctx, `decodeURIComponent(document.querySelector('[data-mail]').href).startsWith('mailto:lockside-boards@saltmere.example?subject=Line 1 of Berth Booking leaves on ')`)

	now = played.AddDate(0, 0, 99).Add(10 * time.Hour)
	who, err := l.Actor(t.Context(), "teodor")
	require.NoError(t, err)
	made, err := l.MakeToken(t.Context(), who, ledger.TokenWish{Label: "gateway", Scopes: []ledger.Scope{ledger.ScopeTally}})
	require.NoError(t, err)
	answer := send(t, http.MethodPost, base+"/api/v1/logs?name=next.log", made, nil, bytes.NewReader(demo.Log(played, -1, 97)))
	require.Equal(t, 200, answer.StatusCode, answer.text)
	ctx = startBrowser(t, base, 1280, 800) // no session lasts that long
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/leaving/1"))
	await(t, ctx, `document.querySelector('[data-answer]')?.innerText === 'No' && document.querySelector('.answer').innerText.includes('skerry-planner says that it relies on it')`)
	mika, err := l.Actor(t.Context(), "mika")
	require.NoError(t, err)
	moved := "relies: {berths@2.0.0: {GET /berths: everything}, tides@1.1.0: {GET /stations: everything}}"
	require.NoError(t, l.Rely(t.Context(), mika, "skerry-planner", moved))
	do(t, ctx, chromedp.Navigate("about:blank"), chromedp.Navigate(base+"/console/apis/berths/leaving/1"))
	await(t, ctx, `document.querySelector('[data-answer]')?.innerText === 'Yes' && !document.querySelector('[data-user]')`)
	await(t, ctx, `['Lockside Boards', 'Customs Relay', 'Skerry Planner'].every(n => document.querySelector('.moved').innerText.includes(n))`)
	press(t, ctx, "[data-retire]")
	await(t, ctx, `document.querySelector('[data-yes]')?.disabled && !document.querySelector('#retire-despite')`)
	write(t, ctx, "#retire-reason", "All have moved.")
	press(t, ctx, "[data-yes]")
	await(t, ctx, `document.querySelector('.answer')?.innerText.includes('it is retired')`)
	require.Equal(t, 410, send(t, "GET", base+"/reference/berths/1.2.0/", "", nil, nil).StatusCode)
}

// TestUse tells who calls an API: the picture and the table say the same, and of an unknown caller a consumer is made.
func TestUse(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/use?by=consumer"))
	await(t, ctx, `(() => {
		const n = (e) => Number(e.innerText.replaceAll(',', ''));
		const rows = [...document.querySelectorAll('tr[data-series]')];
		const total = document.querySelector('[data-total]');
		if (!total || rows.length !== 5) return false;
		document.querySelector('details.days').open = true;
		const days = [...document.querySelectorAll('details.days td.num')].map(n);
		const bands = [...document.querySelectorAll('path.band title')].map((e) => Number(e.textContent.match(/: ([\d,]+) calls/)[1].replaceAll(',', '')));
		const sum = (all) => all.reduce((a, b) => a + b, 0);
		return n(total) > 20000 && sum(rows.map((r) => n(r.querySelector('.num')))) === n(total) && sum(days) === n(total) && sum(bands) === n(total);
	})()`)
	press(t, ctx, `tr[data-series="pier-sync/0.3"] a`)
	await(t, ctx, `document.querySelector('#agent')?.value === 'pier-sync/*'`)
	write(t, ctx, "#title", "Pier Sync")
	press(t, ctx, "[data-make]")
	await(t, ctx, `location.pathname === '/console/consumers/pier-sync' && !!document.querySelector('[data-use=berths]')`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/use?by=consumer"))
	await(t, ctx, `document.querySelector('tr[data-series="pier-sync"]')?.innerText.includes('Pier Sync')`)
	press(t, ctx, `tr[data-series="quay-kiosk"] button`)
	await(t, ctx, `location.search.includes('consumer=quay-kiosk') && !!document.querySelector('tr[data-series="POST /bookings"]')`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/compare/1.2.0..2.0.0"))
	await(t, ctx, `document.querySelector('[data-touched="5"]')?.innerText.includes('Lockside Boards')`)

	do(t, ctx, chromedp.Navigate(base+"/console/logs"), chromedp.WaitVisible(chromedp.CSS(".drop")))
	line := "192.0.2.1 - kiosk-4 [19/Nov/2026:10:00:00 +0000] \"GET /v2/berths HTTP/1.1\" 200 5 \"-\" \"QuayKiosk/7\"\n"
	require.NoError(t, browser.Drop(ctx, "extra.log", line+"torn\n"))
	await(t, ctx, `document.querySelector('[data-added="extra.log"]')?.innerText.includes('1 calls counted, 1 that cannot be read')`)
	require.NoError(t, browser.Drop(ctx, "again.log", line+"torn\n"))
	await(t, ctx, `document.querySelector('[data-added="again.log"]')?.innerText.includes('all of its 2 lines were counted before')`)
}

// TestAskForUse follows a developer who finds an API in the reference, asks for it, is let in, gets a credential, reads which of their own
// fields leave, and ticks off their own guide.
func TestAskForUse(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "mika", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/reference/tides/1.2.0/"))
	do(t, ctx, chromedp.Click(chromedp.CSS("header a.ask")), chromedp.WaitVisible(chromedp.CSS("[data-consumer]")))
	await(t, ctx, `location.pathname === '/console/ask' && document.querySelector('[data-api="0"]')?.value === 'tides' && document.querySelector('[data-consumer]')?.value === 'skerry-planner'`)
	_, err := chromedp.Run(ctx, chromedp.Evaluate[bool](`(() => { const s = document.querySelector('[data-consumer]'); s.value = ''; s.dispatchEvent(new Event('change', { bubbles: true })); return true })()`))
	require.NoError(t, err)
	write(t, ctx, "#title", "Moon Clock")
	write(t, ctx, "#purpose", "It shows when the water is high.")
	press(t, ctx, "[data-ask]")
	await(t, ctx, `location.pathname === '/console/requests' && !!document.querySelector('[data-request="3"] [data-withdraw]') && !document.querySelector('[data-approve]')`)

	do(t, ctx, chromedp.Navigate(base+"/console/consumers/skerry-planner"))
	press(t, ctx, "[data-key=berths]")
	await(t, ctx, `document.querySelector('[data-made] b')?.innerText.startsWith('olc_')`)
	await(t, ctx, `document.querySelector('[data-guide=berths]')?.innerText.includes('length is no longer there') && !document.querySelector('[data-guide=berths]').innerText.includes('Cancel by letter')`)
	press(t, ctx, "[data-guide=berths] [data-step]")
	await(t, ctx, `/1 of \d+ steps done/.test(document.querySelector('[data-guide=berths]').innerText)`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/use?consumer=skerry-planner"))
	await(t, ctx, `Number(document.querySelector('[data-total]')?.innerText.replace(',', '')) > 4000`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/use"))
	await(t, ctx, `document.querySelector('.fault')?.innerText.includes('see who calls an API')`)

	ctx = startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/"))
	await(t, ctx, `document.querySelectorAll('[data-asked]').length === 1`)
	do(t, ctx, chromedp.Navigate(base+"/console/requests"))
	press(t, ctx, `[data-request="2"] [data-approve]`)
	await(t, ctx, `document.querySelector('[data-request="2"]').innerText.includes('approved by teodor') && !document.querySelector('[data-request="3"] [data-approve]')`)
}
