package server_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"oldledger/core/guide"
	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/tools/browser"
)

// record records the draft of berths, as it stands in the demo but for some replacements.
func recordDraft(t *testing.T, l *ledger.Ledger, replacements ...string) {
	t.Helper()
	text, err := os.ReadFile("../demo/berths/2.1.0-draft.yaml")
	require.NoError(t, err)
	who, err := l.Actor(context.Background(), "teodor")
	require.NoError(t, err)
	written := strings.NewReplacer(replacements...).Replace(string(text))
	require.NotEqual(t, string(text), written)
	_, err = l.Record(context.Background(), who, ledger.Submission{API: "berths", File: "berths.yaml", Text: []byte(written)})
	require.NoError(t, err)
}

// TestGuideWritten writes into the guide to a draft in the console, and finds it there after the next draft; when the change goes, so does
// the step, and the text is listed.
func TestGuideWritten(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	page := base + "/console/apis/berths/guide/2.0.0..2.1.0"
	do(t, ctx, chromedp.Navigate(page), chromedp.WaitVisible(chromedp.CSS(".step")))
	g, err := l.Guide(context.Background(), ledger.Itself, "berths@2.0.0", "berths@2.1.0")
	require.NoError(t, err)
	require.Len(t, g.Must, 1)
	step := g.Must[0].Change.ID

	press(t, ctx, fmt.Sprintf("[data-write=%q]", step))
	await(t, ctx, fmt.Sprintf(`!!document.getElementById('words-%s')`, step))
	write(t, ctx, "#words-"+step, "Measure the draught at the deepest point. The **harbour office** lends a line.")
	press(t, ctx, ".words button.n-button--primary-type")
	reads(t, ctx, ".words .said", "harbour office")
	press(t, ctx, `[data-write="intro"]`)
	await(t, ctx, `!!document.getElementById('words-intro')`)
	write(t, ctx, "#words-intro", "An afternoon will do.")
	press(t, ctx, ".words button.n-button--primary-type")
	await(t, ctx, `document.querySelectorAll('.words .said').length === 2`)

	recordDraft(t, l, "in metres.\n          exclusiveMinimum: 0\n          maximum: 12",
		"in metres, at rest.\n          exclusiveMinimum: 0\n          maximum: 14")
	do(t, ctx, chromedp.Navigate(page), chromedp.WaitVisible(chromedp.CSS(".step .words")))
	require.Contains(t, text(t, ctx, ".step .said"), "Measure the draught at the deepest point.")
	require.Contains(t, text(t, ctx, ".inner"), "An afternoon will do.")

	recordDraft(t, l, "required: [mmsi, lengthOverall, draught]", "required: [mmsi, lengthOverall]")
	do(t, ctx, chromedp.Navigate(page), chromedp.WaitVisible(chromedp.CSS(".gone")))
	require.Contains(t, text(t, ctx, ".gone"), "draught")
	g, err = l.Guide(context.Background(), ledger.Itself, "berths@2.0.0", "berths@2.1.0")
	require.NoError(t, err)
	require.Equal(t, step, g.Gone[0].Anchor)
	require.Equal(t, "An afternoon will do.", g.Intro.Text)
}

// TestFieldDeprecated announces in the console that a field leaves, and finds it in the margin, the feed, the calendar, the headers of the
// version and the guide.
func TestFieldDeprecated(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "teodor", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/deprecate"), chromedp.WaitVisible(chromedp.CSS("#reason")))
	choose := func(where, what string) {
		press(t, ctx, where+" .n-base-selection")
		await(t, ctx, fmt.Sprintf(`[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText.trim() === %q)`, what))
		do(t, ctx, chromedp.Evaluate[chromedp.Void](
			fmt.Sprintf(`void [...document.querySelectorAll('.n-base-select-option')].find(o => o.innerText.trim() === %q).click()`, what)))
	}
	choose(".scope", "one field of its line")
	press(t, ctx, ".field .n-base-selection")
	await(t, ctx, `document.activeElement?.id === 'field'`)
	write(t, ctx, "#field", "Vessel.name") // a long list shows what is looked for
	await(t, ctx, `[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText.trim() === 'Vessel.name')`)
	do(t, ctx, chromedp.KeyEvent("\r"))
	reads(t, ctx, ".field", "Vessel.name")
	write(t, ctx, "#sunset", "2027-06-30")
	write(t, ctx, "#instead", "callSign")
	write(t, ctx, "#reason", "Names are not unique.")
	write(t, ctx, "#guide", "1.2.0..2.0.0")
	press(t, ctx, "button.n-button--primary-type")
	await(t, ctx, `location.pathname.endsWith('/apis/berths')`)

	get := func(path string) answer { return send(t, "GET", base+"/reference/berths/"+path, "", nil, nil) }
	require.True(t, strings.Contains(get("2.0.0/schemas/Vessel").text, `leaves 30 June 2027</span><span class="instead">now callSign`))
	require.Contains(t, get("feed.atom").text, "name of Vessel")
	calendar, err := ics.ParseCalendar(strings.NewReader(get("sunsets.ics").text))
	require.NoError(t, err)
	days := ""
	for _, e := range calendar.Events() {
		days += e.GetProperty(ics.ComponentPropertyDtStart).Value + " " + e.GetProperty(ics.ComponentPropertySummary).Value + "\n"
	}
	require.Contains(t, days, "20270630 ")
	notices := get("notices").text
	require.Contains(t, notices, `href="/reference/berths/guides/1.2.0..2.0.0"`)
	require.True(t, strings.Contains(get("guides/1.2.0..2.0.0").text, "name of Vessel leaves"))
	headers, err := l.Headers(context.Background(), ledger.Itself, "berths@2.0.0", "https://docs.saltmere.example")
	require.NoError(t, err)
	i := slices.IndexFunc(headers, func(h ledger.GatewayHeader) bool { return h.Method+" "+h.Path == "POST /v2/bookings" })
	require.GreaterOrEqual(t, i, 0)
	require.Regexp(t, `^<https://docs.saltmere.example/reference/berths/notices#notice-\d+>; rel="deprecation"; title="name of Vessel, leaves 2027-06-30"$`,
		headers[i].Link[0])
	require.Empty(t, headers[i].Deprecation, "the operation itself stays")
}

// TestNoticeChanged moves the date of a notice in the console, and sets how long before a notice must come; the journal keeps what was.
func TestNoticeChanged(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "imke", demo.Password)...)
	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths/settings"), chromedp.WaitVisible(chromedp.CSS("#days")))
	write(t, ctx, "#days", "60")
	press(t, ctx, "form button[type=submit]")
	reads(t, ctx, "form", "It holds from now on.")
	a, err := l.API(context.Background(), ledger.Itself, "berths")
	require.NoError(t, err)
	require.Equal(t, 60, a.NoticeDays)

	do(t, ctx, chromedp.Navigate(base+"/console/apis/berths"))
	reads(t, ctx, "main, body", "Which version can replace which") // the last part of the page to come; until then it moves under the mouse
	await(t, ctx, `document.body.innerText.includes('5 safe')`)
	press(t, ctx, `a[href$="/apis/berths/notices/1"]`)
	await(t, ctx, `!!document.querySelector('#sunset')?.value`)
	write(t, ctx, "#sunset", l.Today().AddDate(0, 0, 20).Format(time.DateOnly))
	press(t, ctx, "button.n-button--primary-type")
	reads(t, ctx, ".fault", "at least 60 days before")
	await(t, ctx, `!!document.querySelector('#sooner')`)
	write(t, ctx, "#sunset", "2028-01-31")
	press(t, ctx, "button.n-button--primary-type")
	await(t, ctx, `location.pathname.endsWith('/apis/berths')`)
	reads(t, ctx, "table", "1.2.0")
	require.True(t, strings.Contains(send(t, "GET", base+"/reference/berths/notices", "", nil, nil).text, "31 January 2028"))
	entries, err := l.Journal(context.Background(), ledger.Itself, ledger.Question{}, 0, 1000)
	require.NoError(t, err)
	require.Equal(t, "notice.changed", entries[len(entries)-1].Act)
}

// TestGuidePage reads a guide as readers do: whole, for some operations, and as Markdown and JSON. Every link of it leads somewhere.
func TestGuidePage(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	address := base + "/reference/berths/guides/1.1.0..2.0.0"
	page := send(t, "GET", address, "", nil, nil)
	require.Equal(t, http.StatusOK, page.StatusCode)
	for _, want := range []string{"1.1.0 is there until 2027-", "<del>", "<ins>", `data-language="python"`, "lengthOverall", "The way back"} {
		require.True(t, strings.Contains(page.text, want), want)
	}
	lead(t, base, page.text)
	mine := send(t, "GET", address+"?"+url.Values{"use": {"cancelByLetter", "listQuays"}}.Encode(), "", nil, nil)
	require.Equal(t, "noindex", mine.Header.Get("X-Robots-Tag"))
	require.False(t, strings.Contains(mine.text, `id="`+stepCalled(t, l, "berth is new and must be there")+`"`))
	require.True(t, strings.Contains(mine.text, "Cancel by letter is no longer there"))
	require.True(t, strings.Contains(mine.text, "- [ ] Cancel by letter is no longer there (Cancel by letter), [step]("+base+
		"/reference/berths/guides/1.1.0..2.0.0?use=cancelByLetter&amp;use=listQuays#"))
	untouched := send(t, "GET", base+"/reference/berths/guides/1.1.0..1.2.0?use=listQuays", "", nil, nil)
	require.Contains(t, untouched.text, "<i>GET /quays</i>")
	require.Contains(t, untouched.text, "Nothing to do.")
	require.Equal(t, http.StatusNotFound, send(t, "GET", address+"?use=nobody", "", nil, nil).StatusCode)
	require.Contains(t, send(t, "GET", address+".md?use=listQuays", "", nil, nil).text, "For those who use: GET /quays.")
	require.Contains(t, send(t, "GET", address+".json", "", nil, nil).text, `"format":"oldledger.guide/1"`)
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/reference/berths/guides/2.0.0..2.1.0", "", nil, nil).StatusCode, "a draft")
}

// lead follows every link of a page within the service, and finds every anchor.
func lead(t *testing.T, base, page string) {
	t.Helper()
	all := links(page)
	require.NotEmpty(t, all)
	for _, link := range all {
		path, anchor, _ := strings.Cut(link, "#")
		to := page
		if path != "" {
			got := send(t, "GET", base+path, "", nil, nil)
			require.Less(t, got.StatusCode, 400, link)
			to = got.text
		}
		if anchor != "" {
			require.True(t, strings.Contains(to, `id="`+anchor+`"`), link)
		}
	}
}

// TestTracesLead follows every link of the guide, the notices and the calendar, also when the version in which something came is taken
// back.
func TestTracesLead(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	who, err := l.Actor(context.Background(), "imke")
	require.NoError(t, err)
	for _, number := range []string{"", "1.2.0"} {
		if number != "" {
			_, err := l.Unpublish(context.Background(), who, "berths@"+number, "It was wrong.")
			require.NoError(t, err)
		}
		for _, path := range []string{"/reference/berths/guides/1.1.0..2.0.0", "/reference/berths/notices", "/reference/sunsets", "/reference/"} {
			lead(t, base, send(t, "GET", base+path, "", nil, nil).text)
		}
	}
}

// TestGuideHostile writes what would run in a reader's browser: it is shown without what runs.
func TestGuideHostile(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	who, err := l.Actor(context.Background(), "teodor")
	require.NoError(t, err)
	_, err = l.WriteGuide(context.Background(), who, ledger.GuideText{
		Old: "berths@1.1.0", New: "berths@1.2.0", Anchor: guide.End,
		Text: "Kind words. <script>alert(1)</script> [here](javascript:alert(2)) <img src=x onerror=alert(3)>\n\n```\n<b>a sample</b>\n```",
	})
	require.NoError(t, err)
	page := send(t, "GET", base+"/reference/berths/guides/1.1.0..1.2.0", "", nil, nil).text
	require.Contains(t, page, "Kind words.")
	require.Contains(t, page, "&lt;b&gt;a sample&lt;/b&gt;")
	for _, never := range []string{"<script>alert", "javascript:", "onerror"} {
		require.False(t, strings.Contains(page, never), never)
	}
}

func stepCalled(t *testing.T, l *ledger.Ledger, title string) string {
	g, err := l.Guide(context.Background(), ledger.Itself, "berths@1.1.0", "berths@2.0.0")
	require.NoError(t, err)
	for _, s := range append(append([]guide.Step{}, g.Must...), g.Check...) {
		if s.Title == title {
			return s.Change.ID
		}
	}
	require.Fail(t, "no step", title)
	return ""
}

// links are the addresses of a page within the service.
func links(page string) []string {
	var all []string
	for _, part := range strings.Split(page, `href="`)[1:] {
		link, _, _ := strings.Cut(part, `"`)
		if strings.HasPrefix(link, "/") || strings.HasPrefix(link, "#") {
			all = append(all, link)
		}
	}
	return all
}
