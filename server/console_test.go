package server_test

import (
	"bytes"
	"crypto/rand"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
	"oldledger/tools/browser"
)

// TestShelfWorks finds what waits, looks for APIs, and goes elsewhere by a few letters, without a mouse.
func TestShelfWorks(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	reads(t, ctx, ".waits", "your draft of")
	reads(t, ctx, ".waits", "1 change breaks the promise of its line, backward")
	reads(t, ctx, ".waits", "POST /bookings/{booking}/cancellation-letter")

	const rows = `[...document.querySelectorAll('tr[data-api]')].map(r => r.dataset.api).join(' ')`
	write(t, ctx, "[data-words]", "quayside")
	await(t, ctx, rows+` === 'berths dues' && location.search === '?q=quayside'`)
	do(t, ctx, chromedp.Navigate(base+"/console/?only=drafts"))
	await(t, ctx, rows+` === 'berths'`)
	do(t, ctx, chromedp.Navigate(base+"/console/?sort=-title"))
	await(t, ctx, rows+`.startsWith('tides')`)
	do(t, ctx, chromedp.KeyEvent("j"), chromedp.KeyEvent("j"), chromedp.KeyEvent("k"), chromedp.KeyEvent("\r"))
	await(t, ctx, `location.pathname.endsWith('/apis/tides') && document.querySelector('h1')?.innerText === 'Tide Tables'`)

	// The palette begins with what is looked at, and leads to acts, spreads, the manual, and what is published.
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void dispatchEvent(new KeyboardEvent('keydown', { key: 'k', ctrlKey: true }))`))
	await(t, ctx, `document.querySelector('#places li')?.innerText.startsWith('Tide Tables')`)
	do(t, ctx, chromedp.KeyEvent("mistak"))
	await(t, ctx, `[...document.querySelectorAll('#places li')].some(l => l.innerText.includes('manual'))`)
	write(t, ctx, ".palette input", "book a berth")
	await(t, ctx, `[...document.querySelectorAll('#places li')].some(l => l.innerText.includes('operation'))`)
	write(t, ctx, ".palette input", "compare berths 2.0.0")
	await(t, ctx, `document.querySelector('#places li')?.innerText.startsWith('Compare berths@2.')`)
	do(t, ctx, chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowUp), chromedp.KeyEvent("\r"))
	await(t, ctx, `location.pathname.includes('/apis/berths/compare/')`)
	do(t, ctx, chromedp.KeyEvent("?"))
	reads(t, ctx, "[role=dialog]", "the whole file, or one change")
	do(t, ctx, chromedp.KeyEvent(kb.Escape))
	await(t, ctx, `!document.querySelector('[role=dialog]')`)
	help, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector('[data-help]').href`))
	require.NoError(t, err)
	require.Contains(t, send(t, "GET", help, "", nil, nil).text, "<h1>Comparing</h1>")
}

// TestSpreadReads marks the words that changed, opens what is around them and the whole file, groups, turns the direction, and has an
// address for each change.
func TestSpreadReads(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "jonas", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/compare/1.2.0..2.0.0"), chromedp.WaitVisible(chromedp.CSS(".hit-old")))
	require.Equal(t, "v1", text(t, ctx, ".hit-old mark"))
	require.Equal(t, "v2", text(t, ctx, ".hit-new mark"))
	first, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector('.spread').dataset.change`))
	require.NoError(t, err)
	do(t, ctx, chromedp.KeyEvent("j"))
	await(t, ctx, fmt.Sprintf(`document.querySelector('.spread').dataset.change !== %q && location.search.includes(document.querySelector('.spread').dataset.change)`, first))
	there, err := chromedp.Run(ctx, chromedp.Evaluate[string](`location.href`))
	require.NoError(t, err)
	do(t, ctx, chromedp.KeyEvent("k"))
	await(t, ctx, fmt.Sprintf(`document.querySelector('.spread').dataset.change === %q`, first))
	do(t, ctx, chromedp.Navigate(there))
	reads(t, ctx, ".spread h2", "Book a berth moved to POST /bookings")

	// Ten lines more; then the whole file, with every change in its gutter; what is alike opens.
	lines := `document.querySelectorAll('.pages tr:not(.fold)').length`
	before, err := chromedp.Run(ctx, chromedp.Evaluate[int](lines))
	require.NoError(t, err)
	press(t, ctx, ".pages .more")
	await(t, ctx, fmt.Sprintf("%s > %d", lines, before))
	do(t, ctx, chromedp.KeyEvent("w"))
	await(t, ctx, `document.querySelectorAll('.pages .mid button').length > 8 && !!document.querySelector('.pages .fold')`)
	before, err = chromedp.Run(ctx, chromedp.Evaluate[int](lines))
	require.NoError(t, err)
	press(t, ctx, ".pages .fold button")
	await(t, ctx, fmt.Sprintf("%s > %d", lines, before))
	press(t, ctx, `.pages .mid button[title="nights is at most 28, was at most 90"]`)
	reads(t, ctx, ".spread h2", "nights is at most 28, was at most 90")

	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/compare/1.2.0..2.0.0?by=component&for=forward"))
	await(t, ctx, `[...document.querySelectorAll('.group')].some(g => g.innerText === 'Outside of components')`)
	await(t, ctx, `[...document.querySelectorAll('.group')].some(g => g.innerText === 'Vessel')`)
	reads(t, ctx, ".why .soft", "those who stay behind: breaking")
}

// TestVersionsEnd unpublishes, takes a draft away, and an API that never was more than one.
func TestVersionsEnd(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	press(t, ctx, `[data-act="discard 2.1.0"]`)
	press(t, ctx, "[data-yes]")
	await(t, ctx, `!document.querySelector('[data-act="discard 2.1.0"]') && !document.querySelector('[role=dialog]')`)
	press(t, ctx, `[data-act="unpublish 2.0.0"]`)
	await(t, ctx, `document.querySelector('[data-yes]')?.disabled`)
	write(t, ctx, "#ask-reason", "It named a quay that is not there.")
	press(t, ctx, "[data-yes]")
	reads(t, ctx, "table.ruled", "unpublished")
	require.Equal(t, 404, send(t, "GET", base+"/reference/berths/2.0.0/", "", nil, nil).StatusCode)

	who, err := l.Actor(t.Context(), "teodor")
	require.NoError(t, err)
	_, err = l.Record(t.Context(), who, ledger.Submission{Text: []byte("openapi: 3.1.0\ninfo: {title: Moorings, version: 1.0.0}\npaths: {}\n")})
	require.NoError(t, err)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/moorings/settings"))
	press(t, ctx, "[data-end]")
	press(t, ctx, "[data-yes]")
	await(t, ctx, `location.pathname === '/console/' && document.querySelectorAll('tr[data-api]').length === 6`)
}

// TestRetired ends a version on the day after its sunset, by the ledger's calendar and not by the browser's; its address then leads on.
func TestRetired(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	played := day.AddDate(-2, 0, 0) // no session lasts longer than the browser's today
	require.NoError(t, demo.Play(t.Context(), s, played))
	v, err := ledger.New(s, ledger.Options{Now: func() time.Time { return played }, Random: rand.Reader}).Version(t.Context(), ledger.Nobody, "berths@1.2.0")
	require.NoError(t, err)
	sunset, err := time.Parse(time.DateOnly, v.Sunset)
	require.NoError(t, err)
	now := sunset
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return now }, Random: rand.Reader})
	base := startOver(t, s, l, demo.House)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	await(t, ctx, `document.querySelector('[data-act="leave 1.2.0"]')?.innerText === 'May it go?' && !document.querySelector('[data-act="leave 2.0.0"]')`)
	now = sunset.AddDate(0, 0, 1)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	await(t, ctx, `document.querySelector('[data-act="leave 1.2.0"]')?.innerText === 'Retire …'`)
	press(t, ctx, `[data-act="leave 1.2.0"]`)
	press(t, ctx, "[data-retire]")
	await(t, ctx, `document.querySelector('[data-yes]')?.disabled && document.querySelector('.ask').innerText.includes('no log tells of these days')`)
	write(t, ctx, "#retire-reason", "Nobody calls it any more.")
	write(t, ctx, "#retire-despite", "The quay says so.")
	press(t, ctx, "[data-yes]")
	await(t, ctx, `document.querySelector('.answer')?.innerText.includes('it is retired')`)
	require.Equal(t, 410, send(t, "GET", base+"/reference/berths/1.2.0/", "", nil, nil).StatusCode)
	do(t, ctx, chromedp.Navigate(base+"/reference/berths/1.2.0/operations/bookBerth"), chromedp.WaitVisible(chromedp.CSS(`a[href="/reference/berths/2.0.0/became/operations/bookBerth"]`)))
	do(t, ctx, chromedp.Navigate(base+"/console/journal?api=berths"))
	reads(t, ctx, "tbody", "Nobody calls it any more.")
}

// TestPeopleAndTeams makes a team and somebody in it, who then sees what it keeps; an API goes to it with the word of both leads.
func TestPeopleAndTeams(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	choose := func(selector, value string) {
		t.Helper()
		await(t, ctx, fmt.Sprintf(`!!document.querySelector(%q)?.querySelector('option[value="%s"]')`, selector, value))
		do(t, ctx, chromedp.Evaluate[chromedp.Void](fmt.Sprintf(
			`void (() => { const s = document.querySelector(%q); s.value = %q; s.dispatchEvent(new Event('change', { bubbles: true })) })()`, selector, value)))
	}
	as := func(name string) {
		do(t, ctx, chromedp.Evaluate[chromedp.Void](`fetch('/api/v1/sign-out', { method: 'POST' }).then(() => {})`, chromedp.EvalAwaitPromise))
		do(t, ctx, chromedp.Navigate(base+"/console/sign-in"), chromedp.WaitVisible(chromedp.CSS("#name")))
		do(t, ctx, browser.SignIn(base, name, demo.Password)...)
		do(t, ctx, chromedp.Navigate(base+"/console/people"), chromedp.WaitVisible(chromedp.CSS("section[data-name]")))
	}
	do(t, ctx, browser.SignIn(base, "imke", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/people"), chromedp.WaitVisible(chromedp.CSS("#team")))
	write(t, ctx, "#team", "Ferries & Tugs")
	press(t, ctx, "[data-new-team]")
	await(t, ctx, `!!document.querySelector('section[data-name="Ferries & Tugs"]')`)
	write(t, ctx, "#new-name", "ebba")
	write(t, ctx, "#new-full", "Ebba Lind")
	press(t, ctx, "[data-add]")
	await(t, ctx, `document.querySelector('[data-invitation]')?.innerText.includes('/console/invitation#')`)
	invitation := text(t, ctx, "[data-invitation]")
	choose(`section[data-name="Ferries & Tugs"] [data-join]`, "ebba")
	press(t, ctx, `section[data-name="Ferries & Tugs"] [data-as="lead"]`)
	await(t, ctx, `document.querySelector('section[data-name="Ferries & Tugs"] tbody select')?.value === 'lead'`)

	// Whoever was invited chooses a password, once; changes it; and is signed out everywhere.
	_, key, _ := strings.Cut(invitation, "#")
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`fetch('/api/v1/sign-out', { method: 'POST' }).then(() => {})`, chromedp.EvalAwaitPromise))
	do(t, ctx, chromedp.Navigate(base+"/console/invitation#"+key), chromedp.WaitVisible(chromedp.CSS("#new")))
	reads(t, ctx, "form", "Ebba Lind")
	write(t, ctx, "#new", "ropewalk-and-tide")
	write(t, ctx, "#again", "ropewalk-and-tid")
	await(t, ctx, `document.querySelector('[data-take]').disabled`)
	write(t, ctx, "#again", "ropewalk-and-tide")
	press(t, ctx, "[data-take]")
	await(t, ctx, `location.pathname === '/console/' && document.querySelector('header').innerText.includes('Ebba Lind')`)
	do(t, ctx, chromedp.Navigate(base+"/console/account"), chromedp.WaitVisible(chromedp.CSS("#old")))
	write(t, ctx, "#old", "ropewalk-and-tide")
	write(t, ctx, "#new", demo.Password)
	write(t, ctx, "#again", demo.Password)
	press(t, ctx, "[data-change]")
	reads(t, ctx, "form", "It is another from now on.")
	press(t, ctx, "[data-everywhere]")
	await(t, ctx, `location.pathname === '/console/sign-in'`)
	do(t, ctx, chromedp.Navigate(base+"/console/invitation#"+key))
	reads(t, ctx, ".inner", "invitation is not known")

	as("teodor")
	await(t, ctx, `!document.querySelector('[data-name="Navigation"] tbody select') && !!document.querySelector('[data-name="Quayside"] tbody select')`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/settings"))
	choose("#team", "Ferries & Tugs")
	reads(t, ctx, "form", "You may not speak for Ferries & Tugs")
	press(t, ctx, "form button[type=submit]")
	reads(t, ctx, "form", "It is offered to Ferries & Tugs")

	as("ebba")
	await(t, ctx, `!document.querySelector('[data-person] select')`)
	press(t, ctx, `[data-take="berths"]`)
	await(t, ctx, `!document.querySelector('[data-take]') && document.querySelector('section[data-name="Ferries & Tugs"]').innerText.includes('keeps berths')`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"), chromedp.WaitVisible(chromedp.CSS(`[data-act="discard 2.1.0"]`)))
	api, err := l.API(t.Context(), ledger.Itself, "berths")
	require.NoError(t, err)
	require.Equal(t, "Ferries & Tugs", api.Team)
	as("teodor")
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	await(t, ctx, `!!document.querySelector('table.ruled') && !document.querySelector('[data-act]') && !document.querySelector('table.ruled').innerText.includes('2.1.0')`)
}

// TestTokensInConsole makes a token, records with it, and takes it back.
func TestTokensInConsole(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/tokens"), chromedp.WaitVisible(chromedp.CSS("#label")))
	write(t, ctx, "#label", "berths pipeline")
	press(t, ctx, "[data-make]")
	await(t, ctx, `document.querySelector('[data-made]')?.innerText.startsWith('olt_') && !!document.querySelector('[data-revoke="berths pipeline"]')`)
	made := text(t, ctx, "[data-made]")
	draft := "openapi: 3.1.0\ninfo: {title: Slips, version: 1.0.0}\npaths: {}\n"
	record := func() int {
		return send(t, "POST", base+"/api/v1/recordings?team=Quayside", made, nil, strings.NewReader(draft)).StatusCode
	}
	require.Equal(t, http.StatusCreated, record())
	require.Equal(t, http.StatusForbidden, send(t, "POST", base+"/api/v1/versions/slips@1.0.0/publication", made, nil, strings.NewReader("{}")).StatusCode)
	press(t, ctx, `[data-revoke="berths pipeline"]`)
	press(t, ctx, "[data-yes]")
	await(t, ctx, `!document.querySelector('[data-revoke]')`)
	require.Equal(t, http.StatusUnauthorized, record())
	do(t, ctx, chromedp.Navigate(base+"/console/journal?act=token"))
	await(t, ctx, `!!document.querySelector('h1')`)
}

// TestSettle sets a line's promise, which needs a reason; the journal has it, found by API and act. What is not kept is asked about.
func TestSettle(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/settings"))
	await(t, ctx, `!!document.querySelector('#line option[value="2"]')`)
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void (() => { const s = document.querySelector('#line'); s.value = '2'; s.dispatchEvent(new Event('change')) })()`))
	press(t, ctx, `input[value="both-ways"]`)
	await(t, ctx, `document.querySelector('form button[type=submit]').disabled`)
	press(t, ctx, `header a[href$="/journal"]`)
	reads(t, ctx, "[role=dialog]", "What you wrote is not kept")
	press(t, ctx, "[data-stay]")
	await(t, ctx, `location.pathname.endsWith('/settings') && !document.querySelector('[role=dialog]')`)
	write(t, ctx, "#reason", "They roll back on Fridays.")
	press(t, ctx, "form button[type=submit]")
	reads(t, ctx, "form", "It holds from now on.")
	api, err := l.API(t.Context(), ledger.Itself, "berths")
	require.NoError(t, err)
	require.Equal(t, map[string]string{"2": "both-ways"}, api.LinePromises)

	do(t, ctx, chromedp.Navigate(base+"/console/journal?api=berths&act=promise"))
	reads(t, ctx, "tbody", "They roll back on Fridays.")
	await(t, ctx, `document.querySelectorAll('tr[data-seq]').length === 1`)
	press(t, ctx, "tr[data-seq] button")
	reads(t, ctx, "dl", "both-ways")
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void (() => { const s = document.querySelector('[data-kind]'); s.value = 'version'; s.dispatchEvent(new Event('change')) })()`))
	await(t, ctx, `location.search.includes('act=version') && document.querySelectorAll('tr[data-seq]').length > 5 &&
		[...document.querySelectorAll('tr[data-seq]')].every(r => r.innerText.includes('berths@'))`)
}

// TestWordsLive shows what is typed in the preview before it is kept, asks before it is lost, and withdraws the preview.
func TestWordsLive(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/wording/2.0.0"))
	press(t, ctx, ".n-base-selection")
	await(t, ctx, `document.activeElement?.id === 'chosen'`)
	write(t, ctx, "#chosen", "Book a berth")
	await(t, ctx, `[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText.includes('Book a berth'))`)
	do(t, ctx, chromedp.KeyEvent("\r"))
	await(t, ctx, `!!document.querySelector('#description')`)
	press(t, ctx, "[data-preview]")
	await(t, ctx, `document.querySelector('iframe')?.contentDocument?.querySelector('h1')?.innerText.includes('Book a berth')`)
	write(t, ctx, "#description", "It costs **nothing** for <script>alert(1)</script> thirty minutes.")
	await(t, ctx, `document.querySelector('iframe').contentDocument.querySelector('main').innerHTML.includes('<strong>nothing</strong>')`)
	hostile, err := chromedp.Run(ctx, chromedp.Evaluate[int](`document.querySelector('iframe').contentDocument.querySelectorAll('main script').length`))
	require.NoError(t, err)
	require.Zero(t, hostile)
	write(t, ctx, "#example-0", `{"berth": `)
	reads(t, ctx, ".form", "The preview does not show it yet")
	require.NotContains(t, send(t, "GET", base+"/reference/berths/2.0.0/operations/bookBerth", "", nil, nil).text, "nothing</strong>")

	address, err := chromedp.Run(ctx, chromedp.Evaluate[string](`document.querySelector('.do a').href`))
	require.NoError(t, err)
	for _, kind := range []string{"text/plain", "application/json"} {
		require.Equal(t, 400, send(t, "POST", address, "", map[string]string{"Content-Type": kind}, strings.NewReader("{}")).StatusCode, kind)
	}
	require.Equal(t, 400, send(t, "POST", address, "", map[string]string{"Content-Type": "application/json"}, strings.NewReader(strings.Repeat(" ", 2<<20))).StatusCode)
	press(t, ctx, "[data-withdraw]")
	await(t, ctx, `!document.querySelector('[data-withdraw]')`)
	require.Equal(t, 404, send(t, "GET", address, "", nil, nil).StatusCode)
	press(t, ctx, `header a[href$="/journal"]`)
	press(t, ctx, "[data-leave]")
	await(t, ctx, `location.pathname.endsWith('/journal')`)
}

// TestEmbedMade chooses a part of the reference for another page, and keeps a picture for its landing page.
func TestEmbedMade(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/embed"))
	reads(t, ctx, "[data-lines]", `data-page="/embed/berths/latest/" data-title="Berth Booking"`)
	press(t, ctx, ".part .n-base-selection")
	do(t, ctx, chromedp.KeyEvent("Book a berth"))
	await(t, ctx, `[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText.includes('Book a berth'))`)
	do(t, ctx, chromedp.KeyEvent("\r"))
	reads(t, ctx, "[data-lines]", `data-page="/embed/berths/latest/operations/bookBerth" data-title="Book a berth"`)
	await(t, ctx, `document.querySelector('iframe')?.contentDocument?.querySelector('h1')?.innerText.includes('Book a berth')`)

	picture := t.TempDir() + "/Der Kai.PNG"
	require.NoError(t, os.WriteFile(picture, []byte("\x89PNG\r\n\x1a\n and so on"), 0o600))
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/looks"), chromedp.WaitReady("[data-pictures]"),
		chromedp.SetUploadFiles("[data-pictures]", []string{picture}))
	reads(t, ctx, ".shots", "der-kai.png")
	require.Equal(t, 200, send(t, "GET", base+"/reference/berths/pictures/der-kai.png", "", nil, nil).StatusCode)
	press(t, ctx, `[data-drop="der-kai.png"]`)
	await(t, ctx, `!document.querySelector('.shots')`)
}

// TestTimeLine reads sixty versions of one day: one mark, which lists them; a line over months is drawn nearer, moved, and whole again.
func TestTimeLine(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	who, err := l.Actor(t.Context(), "teodor")
	require.NoError(t, err)
	for i := range 60 {
		text := fmt.Sprintf("openapi: 3.1.0\ninfo: {title: Moorings, version: 1.%d.0}\npaths: {}\n", i)
		_, err := l.Record(t.Context(), who, ledger.Submission{Text: []byte(text)})
		require.NoError(t, err)
	}
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	await(t, ctx, `document.querySelectorAll('.waits li').length < 12 && document.querySelector('[data-all]')?.innerText.startsWith('and ')`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/moorings"))
	await(t, ctx, `document.querySelectorAll('a.mark').length === 1 && document.querySelector('a.mark').ariaLabel.startsWith('60 versions')`)
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void document.querySelector('a.mark').dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true }))`))
	await(t, ctx, `document.querySelectorAll('.several button').length === 61`)

	const ticks = `[...document.querySelectorAll('svg text.soft')].map(t => t.textContent).join(' ')`
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	await(t, ctx, `document.querySelectorAll('a.mark').length === 5`)
	all, err := chromedp.Run(ctx, chromedp.Evaluate[string](ticks))
	require.NoError(t, err)
	press(t, ctx, `.zoom button[aria-label="draw nearer"]`)
	await(t, ctx, fmt.Sprintf(`%s !== %q && document.querySelector('.zoom').innerText.includes('all of it')`, ticks, all))
	near, err := chromedp.Run(ctx, chromedp.Evaluate[string](ticks))
	require.NoError(t, err)
	do(t, ctx, chromedp.Focus(chromedp.CSS(".drawn")), chromedp.KeyEvent(kb.ArrowLeft))
	await(t, ctx, fmt.Sprintf(`%s !== %q`, ticks, near))
	do(t, ctx, chromedp.KeyEvent("0"))
	await(t, ctx, fmt.Sprintf(`%s === %q`, ticks, all))

	// No word is printed over another, at any width.
	for _, width := range []int64{1280, 768, 390} {
		do(t, ctx, chromedp.EmulateViewport(width, 800))
		await(t, ctx, fmt.Sprintf(`document.querySelector('svg').getBoundingClientRect().width < %d`, width))
		await(t, ctx, `(() => {
			const boxes = [...document.querySelectorAll('svg .label, svg .mark .it, svg .out')].map(e => e.getBoundingClientRect());
			return boxes.every((a, i) => boxes.slice(0, i).every(b => a.right <= b.left + 2 || b.right <= a.left + 2 || a.bottom <= b.top + 5 || b.bottom <= a.top + 5));
		})()`)
	}
}

// TestEmptyLedger says what to do first.
func TestEmptyLedger(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	records, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	l := ledgertest.Opened(t, ledger.New(records, ledger.Options{Now: time.Now, Random: rand.Reader}))
	base := startOver(t, records, l, "Saltmere Harbour")
	require.NoError(t, l.AddPerson(t.Context(), ledger.Itself, ledger.Person{Name: "imke", Full: "Imke Aldous", Role: ledger.Admin}, demo.Password))
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, chromedp.Navigate(base+"/console/"), chromedp.WaitVisible(chromedp.CSS("#name")), chromedp.SendKeys(chromedp.CSS("#name"), "imke"),
		chromedp.SendKeys(chromedp.CSS("#password"), demo.Password+"\r"))
	reads(t, ctx, ".begin", "This ledger is empty")
	press(t, ctx, `.begin a[href$="/record"]`)
	reads(t, ctx, "h1", "Record a version")
}

// consolePages are the console's pages of every kind.
var consolePages = []string{
	"/apis/pilotage/readers", "/readers", "/shelves",
	"/", "/record", "/people", "/tokens", "/account", "/invitation", "/journal?api=berths", "/apis/berths", "/apis/berths/record", "/apis/berths/publish/2.1.0", "/apis/berths/wording/2.0.0",
	"/apis/berths/looks", "/apis/_/looks", "/apis/berths/settings", "/apis/berths/embed", "/apis/berths/deprecate", "/apis/berths/notices/1",
	"/apis/berths/compare/1.2.0..2.0.0", "/apis/berths/compare/1.2.0..2.0.0?text=whole&by=operation", "/apis/berths/guide/1.2.0..2.0.0", "/nowhere",
	"/apis/berths/findings/2.1.0", "/apis/berths/style", "/teams/Quayside/style", "/style", "/rules", "/rules/field-case",
	"/apis/berths/use", "/apis/berths/use?by=consumer", "/apis/berths/leaving/1.2.0", "/apis/berths/leaving/notice-1", "/consumers", "/consumers/skerry-planner", "/consumers/skerry-planner/replay/berths",
	"/sunsets", "/overview", "/ask", "/requests", "/apis/berths/plans", "/logs",
}

// TestConsolePages holds that every page that the console knows an address of is among those that are looked at.
func TestConsolePages(t *testing.T) {
	t.Parallel()
	router, err := os.ReadFile("../console/src/router.ts")
	require.NoError(t, err)
	paths := regexp.MustCompile(`path: '([^']+)'`).FindAllStringSubmatch(string(router), -1)
	require.Greater(t, len(paths), 30)
	for _, m := range paths {
		pattern := regexp.MustCompile(`/?:\w+(\(\.\*\)\*|\?)?`).ReplaceAllString(m[1], `/?[^/?]*`)
		looked := slices.ContainsFunc(consolePages, regexp.MustCompile("^"+pattern+`(\?.*)?$`).MatchString)
		assert.True(t, looked || m[1] == "/sign-in", "%s is none of the pages that are looked at", m[1])
	}
}

// TestConsoleAccess asks axe-core of every kind of page of the console: nothing is off the screen, and nothing is unreadable.
func TestConsoleAccess(t *testing.T) {
	t.Parallel() // beside the other that keeps a browser busy
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	axe := axeCore(t)
	do(t, ctx, browser.SignIn(base, "imke", demo.Password)...)
	for _, path := range consolePages {
		shown := ""
		for _, at := range seenAt {
			do(t, ctx, chromedp.EmulateViewport(at.width, 800))
			if shown != at.paper { // a page that changes its paper fades from one to the other
				paper(t, ctx, at.paper)
				do(t, ctx, chromedp.Navigate(base+"/console"+path), chromedp.WaitVisible(chromedp.CSS("h1")))
				shown = at.paper
			}
			// What is asked for has come when nothing on the page has changed for a while.
			await(t, ctx, `(() => {
				const now = document.body.innerHTML.length;
				if (window.settled?.now !== now) window.settled = { now, since: performance.now() };
				return performance.now() - window.settled.since > 200;
			})()`)
			assert.Equal(t, "[]", violations(t, ctx, axe), "%s at %d on %s paper", path, at.width, at.paper)
			assert.LessOrEqual(t, over(t, ctx), int64(0), "%s at a width of %d", path, at.width)
		}
	}
}

// TestReaders says in the console who may read an API, makes a link, and reads by it as somebody else; an expired browser signs in on
// the way to a page of the reference.
func TestReaders(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "sanna", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/tides/readers"), chromedp.WaitVisible(chromedp.CSS("[data-keep]")))
	await(t, ctx, `document.querySelector('fieldset [data-group="everyone"]').checked && document.querySelector('[data-keep]').disabled`)
	press(t, ctx, `fieldset [data-group="everyone"]`)
	press(t, ctx, `fieldset [data-group="link"]`)
	write(t, ctx, "#reason", "For partners from now on.")
	press(t, ctx, "[data-keep]")
	reads(t, ctx, "[role=status]", "It holds from the next request on.")
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/reference/tides/", "", nil, nil).StatusCode)
	tides, err := l.Description(t.Context(), ledger.Itself, "tides")
	require.NoError(t, err)
	op := tides.Contract.All()[0]
	press(t, ctx, ".n-base-selection")
	await(t, ctx, `[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText.includes('the group '))`)
	do(t, ctx, chromedp.Evaluate[chromedp.Void](fmt.Sprintf(
		`void [...document.querySelectorAll('.n-base-select-option')].find(o => o.innerText.includes(%q)).click()`, op.Written())))
	await(t, ctx, `!!document.querySelector('[data-keep-part]')`)
	press(t, ctx, "[data-keep-part]")
	await(t, ctx, `!!document.querySelector('[data-lift]')`)
	write(t, ctx, "#label", "Skerry Planner")
	press(t, ctx, "[data-make-link]")
	await(t, ctx, `!!document.querySelector('[data-password]')`)
	address, password := text(t, ctx, "[data-address]"), text(t, ctx, "[data-password]")
	do(t, ctx, chromedp.Navigate(base+"/console/apis/tides"), chromedp.WaitVisible(chromedp.CSS("table.ruled")))
	reads(t, ctx, "table.ruled", "whoever has a link and its password")

	do(t, ctx, chromedp.Evaluate[chromedp.Void](`fetch('/api/v1/sign-out', { method: 'POST' }).then(() => {})`, chromedp.EvalAwaitPromise))
	do(t, ctx, chromedp.Navigate(base+"/reference/tides/"), chromedp.WaitVisible(chromedp.CSS("h1")))
	reads(t, ctx, "main", "There is no API called tides")
	do(t, ctx, chromedp.Navigate(address), chromedp.WaitVisible(chromedp.CSS("input[name=password]")))
	write(t, ctx, "input[name=password]", "not this one")
	press(t, ctx, "form button")
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS("[role=alert]")))
	reads(t, ctx, "[role=alert]", "not the password")
	write(t, ctx, "input[name=password]", password)
	press(t, ctx, "form button")
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(`[href="/reference/tides/notices"]`)))
	reads(t, ctx, "h1", "Tide Tables")
	require.NotContains(t, text(t, ctx, "body"), op.Summary, "a part is for fewer")

	sanna, err := l.Actor(t.Context(), "sanna")
	require.NoError(t, err)
	links, err := l.Links(t.Context(), sanna, "tides")
	require.NoError(t, err)
	require.NoError(t, l.WithdrawLink(t.Context(), sanna, "tides", links[0].ID))
	do(t, ctx, chromedp.Navigate(base+"/reference/tides/1.2.0/"), chromedp.WaitVisible(chromedp.CSS("h1")))
	reads(t, ctx, "main", "Not here")
	press(t, ctx, `main a[href^="/console/sign-in"]`)
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS("#name")))
	write(t, ctx, "#name", "sanna")
	write(t, ctx, "#password", demo.Password)
	press(t, ctx, "form button")
	do(t, ctx, chromedp.WaitVisible(chromedp.CSS(`[href="/reference/tides/notices"]`)))
	reads(t, ctx, "h1", "Tide Tables")
	reads(t, ctx, "body", op.Summary)
}

// TestShelvesInTheConsole makes a shelf, arranges it as an administrator, places an API on it as its lead, and reads it as nobody.
func TestShelvesInTheConsole(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "imke", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/shelves"), chromedp.WaitVisible(chromedp.CSS("[data-shelf=skippers]")))
	reads(t, ctx, "[data-shelf=skippers]", "Seen by everyone")
	press(t, ctx, "[data-new]")
	write(t, ctx, "#name", "Yard")
	press(t, ctx, "[data-keep]")
	reads(t, ctx, ".shelves", "is no name of a shelf")
	write(t, ctx, "#name", "yard")
	write(t, ctx, "#title", "The yard")
	write(t, ctx, "#landing", "For those who **mend** boats.")
	press(t, ctx, `fieldset [data-group="everyone"]`)
	press(t, ctx, "[data-keep]")
	await(t, ctx, `!!document.querySelector('[data-shelf=yard]')`)
	for _, api := range []string{"tides", "berths"} {
		press(t, ctx, "[data-shelf=yard] [data-begin-place]")
		do(t, ctx, chromedp.Evaluate[chromedp.Void](fmt.Sprintf(
			`void (s => { s.value = %q; s.dispatchEvent(new Event('change')) })(document.querySelector('[data-place-api]'))`, api)))
		if api == "berths" {
			write(t, ctx, "#versions", "2")
		}
		press(t, ctx, "[data-place]")
		await(t, ctx, fmt.Sprintf(`!!document.querySelector('[data-shelf=yard] [data-stand=%s]')`, api))
	}
	press(t, ctx, "[data-shelf=yard] [data-stand=berths] [data-up]")
	await(t, ctx, `document.querySelector('[data-shelf=yard] [data-stand]').dataset.stand === 'berths'`)

	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/readers"), chromedp.WaitVisible(chromedp.CSS("[data-on=yard]")))
	reads(t, ctx, "[data-on=yard]", "The yard, 2 alone")
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/settings"), chromedp.WaitVisible(chromedp.CSS("[value=lines]")))
	press(t, ctx, "[value=lines]")
	press(t, ctx, "button[type=submit]")
	reads(t, ctx, "[role=status]", "It holds from now on.")

	// How it is called is held against its descriptions, and stands at the head of the reference and in its samples.
	write(t, ctx, "#scheme", "header Harbour-Version {minor}")
	do(t, ctx, chromedp.Evaluate[chromedp.Void](
		`void (() => { const s = document.querySelector('#undeclared'); s.value = 'refused'; s.dispatchEvent(new Event('change', { bubbles: true })) })()`))
	press(t, ctx, "button[type=submit]")
	reads(t, ctx, "#calling", "berths@2.0.0 by the header Harbour-Version: 2.0")
	head := send(t, "GET", base+"/reference/berths/2.0.0/", "", nil, nil).text
	require.Contains(t, head, "chosen by the header Harbour-Version: 2.0<")
	require.Contains(t, head, "input that is not described is refused")
	require.Contains(t, send(t, "GET", base+"/reference/berths/2.0.0/operations/listQuays", "", nil, nil).text, "Harbour-Version: 2.0")
	write(t, ctx, "#scheme", "path /v{minor}")
	press(t, ctx, "button[type=submit]")
	reads(t, ctx, "#calling [data-fault]", "does not hold /v2.1, which callers write")

	require.Contains(t, send(t, "GET", base+"/shelves/yard/", "", nil, nil).text, "<strong>mend</strong>")
	require.NotContains(t, send(t, "GET", base+"/reference/berths/2.0.0/", "", nil, nil).text, `/reference/berths/1.1.0/"`)

	do(t, ctx, chromedp.Navigate(base+"/console/shelves"), chromedp.WaitVisible(chromedp.CSS("[data-shelf=yard]")))
	press(t, ctx, "[data-shelf=yard] [data-stand=berths] [data-off]")
	await(t, ctx, `!document.querySelector('[data-shelf=yard] [data-stand=berths]')`)
	press(t, ctx, "[data-shelf=yard] [data-drop]")
	press(t, ctx, "[data-yes]")
	await(t, ctx, `!document.querySelector('[data-shelf=yard]')`)
	verified, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)
	require.True(t, verified.Intact, verified.Why)
}

// TestHouseStyleInTheConsole reads what is found in a draft beside its text, mends it, reads a rule, and has the house and an API keep
// styles.
func TestHouseStyleInTheConsole(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/findings/2.1.0"), chromedp.WaitVisible(chromedp.CSS("[data-rule=seasons-of-the-harbour]")))
	reads(t, ctx, ".head", "Judged by Saltmere Harbour 1.")
	reads(t, ctx, "[data-line='586']", "the harbour has the seasons high and low, and not summer and winter")
	await(t, ctx, `document.querySelectorAll('[data-score]').length === 5`)
	press(t, ctx, "[data-new]")
	await(t, ctx, `![...document.querySelectorAll('.note')].some(n => !n.innerText.includes('new'))`)
	press(t, ctx, "[data-weight=warning]")
	await(t, ctx, `!document.querySelector('[data-rule=seasons-of-the-harbour]')`)

	// The same is found in a draft of one's own, and what needs no thought is mended there.
	text, err := os.ReadFile("../demo/berths/2.1.0-draft.yaml")
	require.NoError(t, err)
	_, err = l.Record(t.Context(), ledger.Itself, ledger.Submission{File: "2.1.0-draft.yaml", Text: bytes.Replace(text, []byte("summary: List tariffs"), []byte("summary: list tariffs # by season"), 1)})
	require.NoError(t, err)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/findings/2.1.0"), chromedp.WaitVisible(chromedp.CSS("[data-rule=summary-capital]")))
	press(t, ctx, "[data-rule=summary-capital] [data-mend]")
	reads(t, ctx, "[role=status]", "One is mended")
	await(t, ctx, `!document.querySelector('[data-rule=summary-capital]')`)
	files, err := l.Files(t.Context(), ledger.Itself, "berths@2.1.0")
	require.NoError(t, err)
	require.Contains(t, files[0].Text, "summary: List tariffs # by season\n")

	// A rule of the house's own has its page.
	do(t, ctx, chromedp.Navigate(base+"/console/rules?api=berths"), chromedp.WaitVisible(chromedp.CSS("[data-rule=lists-in-order]")))
	press(t, ctx, "[data-rule=lists-in-order] a")
	reads(t, ctx, ".rules", "the nearest berth stood last")
	reads(t, ctx, ".rules", "All berths, from north to south.")

	// The team's lead has the API keep a style, and it is in force; what cannot be used is refused in words.
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/style"), chromedp.WaitVisible(chromedp.CSS("[data-begin]")))
	press(t, ctx, "[data-begin]")
	write(t, ctx, "#text", "house-style: Berths\nchange:\n  seasons-of-the-harbor: {weight: error, because: They are printed.}\n")
	press(t, ctx, "[data-keep]")
	reads(t, ctx, ".told", `did you mean "seasons-of-the-harbour"?`)
	write(t, ctx, "#text", "house-style: Berths\nreview: {publisher: another}\nchange:\n  seasons-of-the-harbour: {weight: error, because: They are printed.}\n")
	write(t, ctx, "#reason", "The printers called.")
	press(t, ctx, "[data-keep]")
	reads(t, ctx, ".head", "In force here: Saltmere Harbour 1, Berths 1.")
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/publish/2.1.0"), chromedp.WaitVisible(chromedp.CSS(".mistake")))
	reads(t, ctx, ".mistake", "the harbour has the seasons high and low")
	reads(t, ctx, "[data-style]", "findings are new since 2.0.0.")
	reads(t, ctx, "[data-unmet]", "Teodor recorded berths@2.1.0 last, and by the house style somebody else publishes it.")
	do(t, ctx, chromedp.Navigate(base+"/console/style"), chromedp.WaitVisible(chromedp.CSS("pre.slip")))
	await(t, ctx, `!document.querySelector('#text')`) // the house's is for an admin to set
}
