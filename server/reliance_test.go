package server_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/tools/browser"
)

// TestRelies has a developer say what their application relies on, and show it; the team has the gate replay it, and the gate shuts.
func TestRelies(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "mika", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/consumers/skerry-planner"))
	await(t, ctx, `document.querySelector('[data-reliance]')?.innerText.includes('Berth Booking, built for 1.2.0: 5 operations')`)
	press(t, ctx, "[data-say]")
	write(t, ctx, "#relies", "relies: {berths@1.2.0: {GET /quay: everything}}")
	press(t, ctx, "[data-keep-relies]")
	await(t, ctx, `document.querySelector('[data-reliance]').innerText.includes('there is no operation GET /quay; did you mean "GET /quays"')`)
	write(t, ctx, "#relies", "relies: {berths@1.2.0: {GET /quays: {reads: ['[].id']}}}")
	press(t, ctx, "[data-keep-relies]")
	await(t, ctx, `document.querySelector('[data-reliance]')?.innerText.includes('built for 1.2.0: 1 operation')`)
	await(t, ctx, `document.querySelector('[data-guide]')?.innerText.includes('about nothing that it relies on')`)

	file := filepath.Join(t.TempDir(), "skerry.har")
	archive := `{"log": {"version": "1.2", "entries": [
		{"request": {"method": "GET", "url": "https://api.saltmere.example/v2/berths?quay=north&api_key=s3cret"}, "response": {"status": 200}},
		{"request": {"method": "GET", "url": "https://charts.saltmere.example/4"}, "response": {"status": 200}},
		{"request": {"method": "POST", "url": "https://api.saltmere.example/v2/bookings", "headers": [{"name": "Harbour-Key", "value": "x"}], "postData": {"mimeType": "application/json",
			"text": "{\"berth\": \"N-14\", \"vessel\": {\"mmsi\": \"002110004\", \"lengthOverall\": 9}, \"stay\": {\"arrival\": \"2026-06-01\", \"nights\": 1}}"}}, "response": {"status": 201}}]}}`
	require.NoError(t, os.WriteFile(file, []byte(archive), 0o600))
	write(t, ctx, "#recorded-at", "berths@2.0.0")
	await(t, ctx, `!document.querySelector('[data-har]').disabled`)
	do(t, ctx, chromedp.SetUploadFiles("[data-har]", []string{file}))
	await(t, ctx, `document.querySelector('[data-added]')?.innerText === '2 exchanges of Berth Booking 2.0.0 kept; left aside as no calls of it: 1.'`)

	ctx = startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	await(t, ctx, `document.querySelector('[data-client="skerry-planner"]')?.innerText.includes('2 of 2')`)
	do(t, ctx, chromedp.Navigate(base+"/console/consumers/skerry-planner"))
	press(t, ctx, "[data-guard]")
	await(t, ctx, `document.querySelector('[data-recording="berths"]')?.innerText.includes('yes')`)
	press(t, ctx, "[data-replay]")
	await(t, ctx, `document.querySelector('[data-against]')?.value === '2.1.0' && document.querySelector('[data-finding]')?.innerText.includes('vessel lacks draught, which is required')`)
	do(t, ctx, chromedp.SetValue("[data-against]", "2.0.0"))
	await(t, ctx, `document.querySelector('[data-passed]')?.innerText.includes('all 2 exchanges pass')`)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/publish/2.1.0"))
	await(t, ctx, `[...document.querySelectorAll('.obstacle')].some(o => o.innerText.includes('what skerry-planner was recorded to do no longer passes') && o.innerText.includes('replayed by the gate') && o.innerText.includes('/v2/bookings'))`)
}

// TestOverviewPage leads from a number to what it counts, and on to where one sees more; the calendar draws what its table says.
func TestOverviewPage(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/overview"))
	await(t, ctx, `document.querySelectorAll('[data-section]').length === 8 && document.querySelector('[data-section="breaks"] tbody').innerText.includes('Quayside')`)
	press(t, ctx, `[data-section="breaks"] [data-team="Quayside"]`)
	await(t, ctx, `document.querySelectorAll('[data-section="breaks"] [data-counted] tbody tr').length === Number([...document.querySelectorAll('[data-section="breaks"] tbody tr')].find(r => r.innerText.startsWith('Quayside')).children[2].innerText)`)
	press(t, ctx, `[data-section="breaks"] [data-counted] a`)
	await(t, ctx, `location.pathname === '/console/apis/berths/compare/1.2.0..2.0.0' && document.querySelector('h1')?.innerText.includes('from 1.2.0 to 2.0.0')`)
	do(t, ctx, chromedp.Navigate(base+"/console/sunsets"))
	await(t, ctx, `document.querySelectorAll('[data-row]').length === 4 && document.querySelectorAll('[data-leaves] path.end').length === 4`)
	await(t, ctx, `[...document.querySelectorAll('[data-row]')].every(r => document.querySelector('[data-leaves="' + r.dataset.row + '"] title').textContent.includes('leaves ' + r.children[0].innerText))`)
}
