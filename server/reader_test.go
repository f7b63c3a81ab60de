package server_test

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// TestReaderSearches asks while typing: arrows lead through what is found, Enter goes there, Escape closes, and what is not there says so.
func TestReaderSearches(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	const found, first = `[...document.querySelectorAll('.found:not([hidden]) a')].map(a => a.innerText)`, `document.querySelector('.found:not([hidden]) a')`
	field := ".seek input"
	do(t, ctx, chromedp.Navigate(base+"/reference/berths/2.0.0/"), chromedp.WaitVisible(chromedp.CSS(field)), chromedp.KeyEvent("/"))
	await(t, ctx, `document.activeElement === document.querySelector('.seek input')`)
	write(t, ctx, field, "booking")
	await(t, ctx, first+`?.innerText.includes('operation') && `+found+`.some(t => t.includes('schema'))`)
	await(t, ctx, found+`.findIndex(t => t.includes('schema')) > `+found+`.findIndex(t => t.includes('operation'))`)
	do(t, ctx, chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowUp))
	await(t, ctx, `document.querySelectorAll('.found [aria-selected="true"]').length === 1 &&
		document.querySelector('.seek input').getAttribute('aria-activedescendant') === document.querySelector('.found li').id`)
	do(t, ctx, chromedp.KeyEvent(kb.Escape))
	await(t, ctx, `!document.querySelector('.found:not([hidden])') && document.querySelector('.seek input').value === 'booking'`)
	do(t, ctx, chromedp.KeyEvent(kb.ArrowDown))
	await(t, ctx, "!!"+first)
	do(t, ctx, chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent("\r"), chromedp.WaitVisible(chromedp.CSS(`[data-copied="path"]`)))

	write(t, ctx, field, "xylophone")
	await(t, ctx, `document.querySelector('.found:not([hidden])')?.innerText === 'Nothing here has these words.'`)
	// A field found by a word of its description shows the sentence that has it.
	write(t, ctx, field, "painted")
	await(t, ctx, first+`?.querySelector('span')?.innerText.includes('painted')`)
	// Over all APIs, too.
	do(t, ctx, chromedp.Navigate(base+"/reference/"), chromedp.WaitVisible(chromedp.CSS(".find input")))
	write(t, ctx, ".find input", "tide")
	await(t, ctx, first+`?.getAttribute('href').startsWith('/reference/tides/')`)
}

// TestReaderTakesAlong copies samples, names, paths and whole calls, and folds the contents; both are so on the next page.
func TestReaderTakesAlong(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, chromedp.Navigate(base+"/reference/berths/2.0.0/operations/bookBerth"), chromedp.WaitVisible(chromedp.CSS(".copy")),
		chromedp.Evaluate[chromedp.Void](`void (navigator.clipboard.writeText = async (text) => { window.taken = text; })`))
	for button, want := range map[string]string{
		`[aria-label="copy lengthOverall"]`:       "lengthOverall",
		`.code details[open] .copy`:               "curl -X POST",
		`[data-copied="path"] + .take`:            "/bookings",
		`[data-copied="path"] ~ .take:last-child`: "https://api.saltmere.example/v2/bookings",
	} {
		press(t, ctx, button)
		await(t, ctx, fmt.Sprintf(`window.taken?.startsWith(%q) && document.querySelector('.said').innerText === 'Copied.'`, want))
	}
	for _, kind := range []string{"http", "har", "sh"} {
		href, err := chromedp.Run(ctx, chromedp.Evaluate[string](fmt.Sprintf(`document.querySelector('a[href$="call.%s"]').href`, kind)))
		require.NoError(t, err)
		require.Equal(t, 200, send(t, "GET", href, "", nil, nil).StatusCode, kind)
	}

	press(t, ctx, "nav.side .folds")
	await(t, ctx, `document.querySelectorAll('nav.side details[open]').length === 0 && document.querySelector('.folds').innerText === 'unfold all'`)
	do(t, ctx, chromedp.Navigate(base+"/reference/berths/2.0.0/schemas/Booking"), chromedp.WaitVisible(chromedp.CSS(".folds")))
	open, err := chromedp.Run(ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('nav.side details[open]')].map(d => d.querySelector('.here')?.innerText ?? 'a fold without this page')`))
	require.NoError(t, err)
	require.Equal(t, []string{"Booking"}, open, "only what holds the page is open")
	press(t, ctx, "nav.side .folds")
}

// TestReaderStays finds the contents where they were left when the next page comes, and the page's own line in sight where they were not.
func TestReaderStays(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, _ := startDemo(t)
	ctx := startBrowser(t, base, 1280, 400)
	const top = `document.querySelector('nav.side').scrollTop`
	do(t, ctx, chromedp.Navigate(base+"/reference/berths/2.0.0/"), chromedp.WaitVisible(chromedp.CSS("nav.side .folds")))
	await(t, ctx, top+` === 0`)
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void (document.querySelector('nav.side').scrollTop = 240)`))
	was, err := chromedp.Run(ctx, chromedp.Evaluate[int](top))
	require.NoError(t, err)
	require.Positive(t, was, "the contents are longer than the window")
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void [...document.querySelectorAll('nav.side a')].find(a => a.getBoundingClientRect().top > 150).click()`), chromedp.WaitVisible(chromedp.CSS("nav.side .here")))
	await(t, ctx, `!!document.querySelector('nav.side .here') && `+top+fmt.Sprintf(` === %d`, was))
	// A page far away in them.
	last, err := chromedp.Run(ctx, chromedp.Evaluate[string](`[...document.querySelectorAll('nav.side a')].at(-1).href`))
	require.NoError(t, err)
	do(t, ctx, chromedp.Evaluate[chromedp.Void](`void sessionStorage.clear()`), chromedp.Navigate(last), chromedp.WaitVisible(chromedp.CSS("main")))
	await(t, ctx, `(() => {
		const here = document.querySelector('nav.side .here')?.getBoundingClientRect();
		return here && here.top > 0 && here.bottom < innerHeight;
	})()`)
}
