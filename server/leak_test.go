package server_test

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
)

// secrets is a ledger in which much is not for readers: each word that begins with "mark" stands only in what is a draft, was taken back,
// is hidden by an overlay, or is written for those; so do the numbers of its versions.
type secrets struct {
	t    *testing.T
	base string
	l    *ledger.Ledger
	who  ledger.Actor
	as   string // the token of whoever asks; "" for nobody

	opening string // the cookie of whoever gave the password of a link, where they did
}

// outsiders are whoever may see nothing but what is published: nobody, somebody in no team, and a lead of another team.
func (x *secrets) outsiders(test func(name string)) {
	tokens := map[string]string{"nobody": ""}
	for name, team := range map[string]string{"vik": "", "sanna": "Navigation"} {
		require.NoError(x.t, x.l.AddPerson(x.t.Context(), ledger.Itself, ledger.Person{Name: name, Full: name}, "saltmere-demo"))
		if team != "" {
			require.NoError(x.t, x.l.AddTeam(x.t.Context(), ledger.Itself, team))
			require.NoError(x.t, x.l.PutMember(x.t.Context(), ledger.Itself, team, name, ledger.Lead))
		}
		tokens[name] = token(x.t, x.l, name)
	}
	for name, token := range tokens {
		x.as = token
		test(name)
	}
	x.as, x.opening = "", x.opened("berths") // of another link
	test("holder")
	x.opening = x.opened("cellar")
	require.NoError(x.t, x.l.SetAudience(x.t.Context(), ledger.Itself, "cellar", ledger.AudienceWish{Published: &ledger.Audience{ledger.OfTeam("Vaults")}}))
	test("former holder")
	x.opening = ""
}

// opened is the cookie of somebody who gives the password of a new link to an API.
func (x *secrets) opened(api string) string {
	ctx := x.t.Context()
	require.NoError(x.t, x.l.SetAudience(ctx, ledger.Itself, api, ledger.AudienceWish{Published: &ledger.Audience{ledger.LinkHolder}}))
	link, password, err := x.l.MakeLink(ctx, ledger.Itself, api, ledger.LinkWish{Label: "markLink"})
	require.NoError(x.t, err)
	jar, err := cookiejar.New(nil)
	require.NoError(x.t, err)
	browser := http.Client{Jar: jar}
	res, err := browser.PostForm(x.base+link.Path, url.Values{"password": {password}})
	require.NoError(x.t, err)
	text, err := io.ReadAll(res.Body)
	require.NoError(x.t, errors.Join(err, res.Body.Close()))
	require.Equal(x.t, http.StatusOK, res.StatusCode)
	require.Contains(x.t, res.Request.URL.Path, "/reference/"+api+"/", string(text))
	at, err := url.Parse(x.base + "/reference/" + api + "/")
	require.NoError(x.t, err)
	require.Len(x.t, jar.Cookies(at), 1)
	elsewhere, err := url.Parse(x.base + "/reference/other/")
	require.NoError(x.t, err)
	require.Empty(x.t, jar.Cookies(elsewhere), "it is remembered for that API alone")
	if api == "berths" { // all else of it stays open to everyone
		require.NoError(x.t, x.l.SetAudience(ctx, ledger.Itself, api, ledger.AudienceWish{AsLedger: true}))
	}
	return jar.Cookies(at)[0].String()
}

// ask asks as one of the outsiders.
func (x *secrets) ask(method, path string, header map[string]string, body string) answer {
	x.t.Helper()
	with := map[string]string{}
	if x.opening != "" {
		with["Cookie"] = x.opening
	}
	for name, value := range header {
		with[name] = value
	}
	return send(x.t, method, x.base+path, x.as, with, strings.NewReader(body))
}

// What no reader may read, in whatever answer.
var secretNumbers = []string{"0.9.3", "1.1.7", "2.7.1"}

func newSecrets(t *testing.T) *secrets {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	now := day.Add(10 * time.Hour)
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return now }, Random: rand.Reader, Engine: "test"}))
	who := ledger.Person{Name: "teodor", Full: "Teodor Brand", Role: ledger.Publisher}
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, who, "saltmere-demo"))
	x := &secrets{t: t, l: l, who: ledger.By(who)}
	x.play()
	x.base = startOver(t, s, l, "Saltmere Harbour")
	inside := send(t, "GET", x.base+"/reference/search.json?q=bookk", token(t, l, "teodor"), nil, nil)
	require.Contains(t, inside.text, "Mark Cellar", "all that can be found is prepared")
	require.Contains(t, inside.Header.Get("Cache-Control"), "private")
	return x
}

// berths is a version of an API with fields, each in the body and the answer, and with a hidden operation whose schema has other ones.
func berths(title, number, fields, hidden string) string {
	return fmt.Sprintf(`openapi: 3.1.0
info: {title: %s, version: %s, x-ledger-name: berths}
tags: [{name: Quays, description: All quays.}, {name: markTag, description: markTagText}]
paths:
  /bookings:
    post:
      operationId: book
      tags: [Quays]
      requestBody: {required: true, content: {application/json: {schema: {$ref: '#/components/schemas/Booking'}}}}
      responses:
        '201': {description: Held., content: {application/json: {schema: {$ref: '#/components/schemas/Booking'}}}, links: {onward: {operationId: markHiddenOp}}}
  /markpartner/{markPartnerParameter}:
    parameters: [{name: markPartnerParameter, in: path, required: true, schema: {type: string}}]
    get:
      operationId: markPartnerOp
      tags: [markPartners]
      responses: {'200': {description: markPartnerAnswer., content: {application/json: {schema: {$ref: '#/components/schemas/MarkPartner'}}}}}
  /markhidden:
    post:
      operationId: markHiddenOp
      tags: [markTag]
      requestBody: {required: true, content: {application/json: {schema: {$ref: '#/components/schemas/MarkThing'}}}}
      responses: {'200': {description: markHiddenAnswer.}}
components:
  schemas:
    Booking: {type: object, properties: {%s}}
    MarkThing: {type: object, properties: {%s}}
    MarkPartner: {type: object, description: markPartnerSchema., properties: {markPartnerField: {type: string}, %[4]s}}
`, title, number, fields, hidden)
}

func (x *secrets) play() {
	ctx := context.Background()
	ok := func(_ any, err error) { require.NoError(x.t, err) }
	record := func(text string) { ok(x.l.Record(ctx, x.who, ledger.Submission{Text: []byte(text)})) }
	publish := func(ref string) {
		gate, err := x.l.Gate(ctx, x.who, ref)
		require.NoError(x.t, err)
		var waives []ledger.Waive
		for _, o := range gate.Obstacles {
			waives = append(waives, ledger.Waive{Change: o.Change.ID, Reason: "markWaived"})
		}
		ok(x.l.Publish(ctx, x.who, ref, waives))
	}
	hide := func(ref string) {
		ok(x.l.PutOverlay(ctx, x.who, ref,
			"overlay: 1.0.0\ninfo: {title: Hides, version: 1.0.0}\nactions: [{target: \"$.paths['/markhidden'].post\", update: {\"x-\\u006cedger-hidden\": true, summary: markSummary}}]\n",
			""))
		ok(x.l.ShowOverlay(ctx, x.who, ref))
	}
	record(berths("Mark Early", "0.9.3", "markDraftEarly: {type: string}", "markA: {type: string}"))
	record(berths("Berths", "1.0.0", "berth: {type: string}, old: {type: string}", "markA: {type: string}, markB: {type: string}"))
	publish("berths@1.0.0")
	hide("berths@1.0.0")
	record(berths("Mark Taken", "1.1.7", "berth: {type: string}, old: {type: string}, markTaken: {type: string}",
		"markA: {type: string}, markB: {type: string}"))
	publish("berths@1.1.7")
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{Ref: "berths@1.1.7", Sunset: "2027-01-01", Reason: "markTakenNotice"}))
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{
		Ref: "berths@1.1.7", Field: "Booking.markTaken", Sunset: "2027-01-02",
		Reason: "markTakenField",
	}))
	record(berths("Berths", "1.2.0", "berth: {type: string}, old: {type: string, deprecated: true}, new: {type: string}",
		"markA: {type: integer}"))
	publish("berths@1.2.0")
	ok(x.l.WriteGuide(ctx, x.who, ledger.GuideText{Old: "berths@1.1.7", New: "berths@1.2.0", Anchor: "intro", Text: "markTakenGuide"}))
	hide("berths@1.2.0")
	ok(x.l.Unpublish(ctx, x.who, "berths@1.1.7", "markUnpublished"))
	record(berths("Mark Later", "2.7.1", "berth: {type: integer}, markDraftLate: {type: string}", "markA: {type: integer}"))
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{
		Ref: "berths@1.2.0", Operation: "markHiddenOp", Line: true, Sunset: "2027-01-03",
		Reason: "markHiddenNotice",
	}))
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{
		Ref: "berths@1.2.0", Field: "MarkThing.markA", Line: true, Sunset: "2027-01-03",
		Reason: "markHiddenField",
	}))
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{
		Ref: "berths@1.0.0", Sunset: "2027-01-04", Reason: "It is old.",
		ReplacedBy: "berths@2.7.1", Guide: "1.0.0..2.7.1",
	}))
	ok(x.l.WriteGuide(ctx, x.who, ledger.GuideText{Old: "berths@1.2.0", New: "berths@2.7.1", Anchor: "intro", Text: "markDraftGuide"}))
	g, err := x.l.Guide(ctx, x.who, "berths@1.0.0", "berths@2.7.1")
	require.NoError(x.t, err)
	for _, s := range append(g.Must, g.Check...) {
		ok(x.l.WriteGuide(ctx, x.who, ledger.GuideText{Old: "berths@1.0.0", New: "berths@2.7.1", Anchor: s.Change.ID, Text: "markDraftStep"}))
	}
	record("openapi: 3.1.0\ninfo: {title: Mark Hoard, version: 1.0.0, x-ledger-name: hoard}\npaths: {}\n")
	record("openapi: 3.1.0\ninfo: {title: Mark Wharf, version: 1.0.0, x-ledger-name: wharf}\npaths: {}\n")
	publish("wharf@1.0.0")
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{Ref: "wharf", Sunset: "2027-01-05", Reason: "markWharf"}))
	ok(x.l.Unpublish(ctx, x.who, "wharf@1.0.0", "markUnpublished"))
	x.playCellar()
	x.playCallers()
	ok(x.l.PutLooks(ctx, x.who, "wharf", ledger.Looks{Footer: "markFooter", Accent: "#2b4a7e"}))
}

// playCellar publishes an API, and announces much of it, for its team alone; and a part of berths likewise.
func (x *secrets) playCellar() {
	ctx := context.Background()
	ok := func(_ any, err error) { require.NoError(x.t, err) }
	for i, field := range []string{"markCellarOne", "markCellarTwo"} {
		ok(x.l.Record(ctx, x.who, ledger.Submission{Message: "markCellarWhy", Text: fmt.Appendf(nil, `openapi: 3.1.0
info: {title: Mark Cellar, version: %d.0.0, x-ledger-name: cellar, description: markCellarText bookkeeping, contact: {name: markCellarContact}}
servers: [{url: 'https://markcellar.saltmere.example/'}]
tags: [{name: markCellarTag, description: markCellarTagText}]
paths:
  /markcellar: {post: {operationId: markCellarOp, summary: markCellarSummary, tags: [markCellarTag], requestBody: {content: {application/json: {schema: {$ref: '#/components/schemas/MarkCellar'}}}}, responses: {'200': {description: markCellarAnswer.}}}}
components: {schemas: {MarkCellar: {type: object, properties: {%s: {type: string, description: markCellarFieldText}}}}}
`, i+1, field)}))
		ref := fmt.Sprintf("cellar@%d.0.0", i+1)
		ok(x.l.Publish(ctx, x.who, ref, nil))
	}
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{Ref: "cellar@1.0.0", Sunset: "2027-02-01", Reason: "markCellarReason", ReplacedBy: "cellar@2.0.0", Guide: "1.0.0..2.0.0"}))
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{Ref: "berths@1.0.0", Operation: "book", Sunset: "2027-01-04", Reason: "It moves.", ReplacedBy: "cellar@2"}))
	ok(x.l.WriteGuide(ctx, x.who, ledger.GuideText{Old: "cellar@1.0.0", New: "cellar@2.0.0", Anchor: "intro", Text: "markCellarGuide"}))
	ok(x.l.PutLooks(ctx, x.who, "cellar", ledger.Looks{Footer: "markCellarFooter", Landing: "markCellarLanding", Accent: "#2b4a7e"}))
	require.NoError(x.t, x.l.AddTeam(ctx, ledger.Itself, "Vaults"))
	vaults := ledger.Audience{ledger.OfTeam("Vaults")}
	require.NoError(x.t, x.l.SetAudience(ctx, ledger.Itself, "cellar", ledger.AudienceWish{Published: &vaults}))
	require.NoError(x.t, x.l.SetAudience(ctx, ledger.Itself, "berths", ledger.AudienceWish{Part: "group markPartners", Published: &vaults}))
	x.playShelves(vaults)
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{Ref: "berths@1.2.0", Operation: "markPartnerOp", Sunset: "2027-02-02", Reason: "markPartnerReason"}))
	ok(x.l.Deprecate(ctx, x.who, ledger.Announcement{Ref: "berths@1.2.0", Field: "MarkPartner.markPartnerField", Sunset: "2027-02-02", Reason: "markPartnerField"}))
}

// playCallers has somebody call what is not for others, whom only the team knows, ask for its use, and get it.
func (x *secrets) playCallers() {
	ctx := context.Background()
	var log strings.Builder
	for _, path := range []string{"/bookings", "/markhidden", "/markcellar", "/markunmatched"} {
		for _, user := range []string{"markCredential", "-"} {
			fmt.Fprintf(&log, "192.0.2.1 - %s [%s] \"POST %s HTTP/1.1\" 200 5 \"-\" \"markAgent/1\"\n", user, day.AddDate(0, 0, -1).Format("02/Jan/2006:15:04:05 -0700"), path)
		}
	}
	added, err := x.l.AddLog(ctx, ledger.Itself, ledger.LogWish{Name: "markLog", Text: strings.NewReader(log.String())})
	require.NoError(x.t, err)
	require.EqualValues(x.t, 6, added.Calls)
	wish := ledger.ConsumerWish{Title: new("markConsumer"), Note: new("markNote"), Contacts: &[]string{"markcontact@saltmere.example"}}
	require.NoError(x.t, x.l.PutConsumer(ctx, x.who, "boards", wish))
	require.NoError(x.t, x.l.SetSigns(ctx, x.who, "boards", "", []ledger.Sign{{Kind: "credential", Value: "markCredential"}}))
	for _, api := range []string{"berths", "cellar"} {
		require.NoError(x.t, x.l.PutPlan(ctx, x.who, ledger.Plan{API: api, Name: "markPlan", Terms: "markTerms", Asks: []string{"markAsked?"}, Issues: true}))
	}
	_, err = x.l.Ask(ctx, x.who, ledger.RequestWish{Consumer: "boards", Purpose: "markPurpose", Items: []ledger.RequestedAPI{
		{API: "berths", Line: "1", Plan: "markPlan", Answers: []string{"markAnswer"}}, {API: "cellar", Line: "1", Plan: "markPlan", Answers: []string{"markAnswer"}},
	}})
	require.NoError(x.t, err)
	require.NoError(x.t, x.l.Decide(ctx, x.who, ledger.Decision{Request: 1, API: "cellar", Line: "1", State: ledger.Approved, Reason: "markReason"}))
	_, _, err = x.l.MakeCredential(ctx, x.who, "boards", "cellar", -1)
	require.NoError(x.t, err)
	require.NoError(x.t, x.l.Rely(ctx, x.who, "boards", "relies: {cellar@1.0.0: {POST /markcellar: {body: [markCellarOne], reads: []}}, berths@1.0.0: {book: everything}}"))
	for api, path := range map[string]string{"cellar": "markcellar", "berths": "bookings"} {
		_, err = x.l.AddRecording(ctx, x.who, ledger.RecordingWish{Consumer: "boards", Version: api + "@1.0.0", Guards: new(true), Archive: strings.NewReader(`{"log": {"entries": [
			{"request": {"method": "POST", "url": "https://x/` + path + `?markrecorded=1", "postData": {"mimeType": "application/json", "text": "{\"markRecorded\": 1}"}}, "response": {"status": 200}}]}}`)})
		require.NoError(x.t, err)
	}
}

// playShelves puts what is not for everybody on a shelf for its team, and beside what is on one for everybody, the versions that are not
// published, too.
func (x *secrets) playShelves(vaults ledger.Audience) {
	ctx := context.Background()
	for name, to := range map[string]ledger.Audience{"inner": vaults, "open": {ledger.Everyone}} {
		wish := ledger.ShelfWish{Audience: &to, Host: new(name + ".saltmere.example")}
		if name == "inner" {
			wish.Landing = new("markShelfLanding")
		}
		require.NoError(x.t, x.l.PutShelf(ctx, ledger.Itself, name, wish))
		require.NoError(x.t, x.l.Place(ctx, ledger.Itself, name, "cellar", nil))
		require.NoError(x.t, x.l.Place(ctx, ledger.Itself, name, "hoard", nil))
		require.NoError(x.t, x.l.Place(ctx, ledger.Itself, name, "berths", ledger.Picks{"1", "0.9.3", "1.1.7", "2.7.1"}))
	}
	require.NoError(x.t, x.l.Set(ctx, ledger.Itself, "berths", ledger.Settings{Switcher: &ledger.Picks{"1", "0.9.3", "1.1.7", "2.7.1"}}))
}

// read asks as one of the outsiders, and finds nothing in the answer that is not for readers; archives are looked into.
func (x *secrets) read(path string) answer {
	x.t.Helper()
	a := x.ask("GET", path, nil, "")
	x.clean(path, a.text)
	for name, values := range a.Header {
		x.clean(path+" "+name, strings.Join(values, " "))
	}
	if strings.HasPrefix(a.text, "PK") {
		z, err := zip.NewReader(strings.NewReader(a.text), int64(len(a.text)))
		require.NoError(x.t, err)
		for _, f := range z.File {
			in, err := f.Open()
			require.NoError(x.t, err)
			text, err := io.ReadAll(in)
			require.NoError(x.t, err)
			x.clean(path+" "+f.Name, f.Name+"\n"+string(text))
		}
	}
	return a
}

var marked = regexp.MustCompile(`(?i)\bmark[ _a-z-]*|(?:^|[^.0-9])(?:0\.9\.3|1\.1\.7|2\.7\.1)(?:[^.0-9]|$)`)

// innocent are words of the house that begin like a marker, and numbers that stand in the program's own files.
var innocent = regexp.MustCompile(`(?i)^mark(ed|down|s|er|ers|ing)?\b`)

func (x *secrets) clean(where, text string) {
	x.t.Helper()
	for _, found := range marked.FindAllStringIndex(text, -1) {
		word := text[found[0]:found[1]]
		if innocent.MatchString(word) {
			continue
		}
		require.Fail(x.t, "a reader reads what is not for readers", "%s: …%s…", where, text[max(0, found[0]-80):min(len(text), found[1]+80)])
	}
}

var linked = regexp.MustCompile(`(?:href|src|action)="(/[^"#?]*)`)

// TestNothingLeaks reads all that nobody who is signed in can read, page by page and answer by answer.
func TestNothingLeaks(t *testing.T) {
	t.Parallel()
	x := newSecrets(t)
	x.outsiders(func(string) { x.crawl() })
}

func (x *secrets) crawl() {
	t := x.t
	queue := []string{
		"/api/v1/consumers", "/api/v1/consumers/boards", "/api/v1/consumers/boards/guides", "/api/v1/consumers/boards/reliance", "/api/v1/consumers/boards/recordings/cellar", "/api/v1/consumers/boards/recordings/berths",
		"/api/v1/apis/berths/lineup/clients", "/api/v1/consumers/boards/replay?against=berths@1.2.0",
		"/api/v1/consumers/boards/replay?against=cellar@1.0.0", "/api/v1/apis/cellar/lineup/clients", "/api/v1/logs", "/api/v1/unmatched", "/api/v1/requests",
		"/api/v1/grants", "/api/v1/grants?api=berths&consumer=boards", "/api/v1/apis/berths/use?by=consumer", "/api/v1/apis/berths/use?consumer=boards",
		"/api/v1/apis/cellar/use", "/api/v1/impact?old=berths@1.0.0&new=berths@1.2.0", "/api/v1/impact?old=cellar@1&new=cellar@2",
		"/api/v1/readiness?of=berths@1", "/api/v1/readiness?of=1", "/api/v1/readiness?of=6", "/api/v1/readiness?of=cellar", "/api/v1/apis/berths/plans", "/api/v1/apis/cellar/plans",
		"/api/v1/waiting", "/api/v1/overview", "/api/v1/journal?limit=1000", "/api/v1/journal/export", "/api/v1/versions/berths@1.2.0/proof", "/api/v1/teams", "/api/v1/people",
		"/reference/", "/reference/berths/", "/reference/berths/1.0.0/", "/reference/berths/1.2.0/", "/reference/feed.atom",
		"/reference/berths/feed.atom", "/reference/sunsets", "/reference/sunsets.ics", "/reference/berths/sunsets.ics",
		"/reference/sitemap.xml", "/robots.txt", "/reference/looks.css", "/reference/berths/looks.css", "/reference/berths/notices",
		"/reference/berths/guides/1.0.0..1.2.0", "/reference/berths/guides/1.0.0..1.2.0.md",
		"/reference/berths/guides/1.0.0..1.2.0.json", "/reference/search?q=quays", "/reference/berths/1.2.0/search?q=field",
		"/oembed?url=/reference/berths/1.2.0/operations/book",
		"/embed/berths/1.2.0/", "/embed/berths/1.2.0/operations/book", "/embed/berths/1.2.0/groups/group-quays",
		"/api/v1/apis", "/api/v1/apis/berths", "/api/v1/apis/berths/history", "/api/v1/apis/berths/lineup", "/api/v1/notices",
		"/api/v1/notices?api=berths", "/api/v1/notices?api=wharf", "/api/v1/comparison?old=berths@1.0.0&new=berths@1.2.0",
		"/api/v1/comparison?old=berths@1.0.0&new=berths@1.2.0&undeclared=refused", "/api/v1/guide?old=berths@1.0.0&new=berths@1.2.0",
		"/api/v1/versions/berths", "/api/v1/versions/berths/files", "/api/v1/versions/berths/description", "/api/v1/versions/berths/headers",
		"/api/v1/versions/berths@1.0.0/headers", "/api/v1/versions/berths@1.0.0/files", "/api/v1/versions/berths@9.9.9",
		"/api/v1/versions/berths@draft", "/api/v1/shelves", "/shelves/open/", "/shelves/open/feed.atom", "/shelves/open/sunsets.ics",
		"/shelves/open/sunsets", "/shelves/open/search?q=quays", "/shelves/open/search.json?q=bookk", "/shelves/inner/",
		"/shelves/inner/search.json?q=bookk", "/shelves/inner/feed.atom",
	}
	near := x.read("/reference/search.json?q=bookk") // a word that others find begins so
	require.Contains(t, near.text, "/operations/book", "what is near what was asked for is found, whatever else there is")
	for _, word := range []string{"markCellar", "markCellarOp", "cellar", "markCellarFieldText", "markPartner", "markPartnerField", "markhidden", "hoard"} {
		for _, in := range []string{"/reference/", "/reference/berths/1.2.0/", "/shelves/open/"} {
			found := x.read(in + "search.json?q=" + word)
			require.Equal(t, `{"found":[]}`, found.text, word)
		}
	}
	for _, v := range []string{"1.0.0", "1.2.0"} {
		for _, form := range []string{
			"description.yaml", "source", "source.zip", "site.zip", "reference.md", "openapi-3.0.yaml",
			"openapi-2.0.yaml", "changes", "source/description.yaml",
		} {
			queue = append(queue, "/reference/berths/"+v+"/"+form)
		}
	}
	seen := map[string]bool{}
	for len(queue) > 0 {
		path := queue[0]
		queue = queue[1:]
		if seen[path] || strings.HasPrefix(path, "/console/") || strings.HasPrefix(path, "/reference/assets/") {
			continue
		}
		seen[path] = true
		for _, m := range linked.FindAllStringSubmatch(x.read(path).text, -1) {
			queue = append(queue, m[1])
		}
	}
	require.Greater(t, len(seen), 60)
	require.Contains(t, x.read("/reference/berths/1.2.0/changes").text, "new is new",
		"what is published is told: against the version before it that is")
	require.Contains(t, x.read("/api/v1/apis/berths").text, `"title":"Berths"`)
}

// TestNothingTellsWhatIs asks for what is there and not for readers, and for what never was: both answers are the same but for the name.
func TestNothingTellsWhatIs(t *testing.T) {
	t.Parallel()
	x := newSecrets(t)
	x.outsiders(func(who string) {
		x.sameAnswers(who)
		if who != "nobody" {
			x.sameRefusals(who)
		}
	})
}

// sameRefusals tries to change what is there and not to be seen, and what never was.
func (x *secrets) sameRefusals(who string) {
	for _, c := range []struct{ method, path, body string }{
		{"DELETE", "/apis/API", ""},
		{"PATCH", "/apis/API", `{"team": "Navigation"}`},
		{"PATCH", "/apis/API", `{"promise": "none", "reason": "r"}`},
		{"DELETE", "/versions/API@1.0.0", ""},
		{"POST", "/versions/API@1.0.0/publication", `{}`},
		{"DELETE", "/versions/API@1.0.0/publication", `{"reason": "r"}`},
		{"PUT", "/versions/API@1.0.0/overlay", `{}`},
		{"GET", "/versions/API@1.0.0/overlay", ""},
		{"GET", "/versions/API@1.0.0/previews", ""},
		{"GET", "/versions/API@1.0.0/revisions", ""},
		{"GET", "/versions/API@1.0.0/findings", ""},
		{"GET", "/apis/API/style", ""},
		{"GET", "/apis/API/calling", ""},
		{"GET", "/rules?api=API", ""},
		{"POST", "/versions/API@1.0.0/previews", `{"days": 1}`},
		{"PUT", "/looks/API", `{"footer": "x"}`},
		{"GET", "/looks/API/pictures", ""},
		{"PUT", "/looks/API/pictures/x.png", "x"},
		{"POST", "/notices", `{"ref": "API@1.0.0", "reason": "r"}`},
		{"PUT", "/guide/texts", `{"old": "API@1.0.0", "new": "API@1.0.1", "anchor": "intro", "text": "x"}`},
		{"POST", "/dry-runs?api=API&team=Navigation", "openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\npaths: {}\n"},
	} {
		answers := map[string]string{}
		for _, name := range []string{"hoard", "board", "cellar"} {
			a := x.ask(c.method, "/api/v1"+strings.ReplaceAll(c.path, "API", name), nil, strings.ReplaceAll(c.body, "API", name))
			text := strings.ReplaceAll(fmt.Sprint(a.StatusCode, a.text), name, "NAME")
			answers[name] = regexp.MustCompile(`"trace":"[0-9a-f]*"`).ReplaceAllString(text, "")
		}
		if c.path == "/dry-runs?api=API&team=Navigation" && who == "sanna" {
			continue // a name that is taken cannot be taken: of all that is not told, this alone shows
		}
		require.Equal(x.t, answers["board"], answers["hoard"], "%s %s as %s", c.method, c.path, who)
		require.Equal(x.t, answers["board"], answers["cellar"], "%s %s as %s", c.method, c.path, who)
	}
}

func (x *secrets) sameAnswers(who string) {
	t := x.t
	old := send(t, "GET", x.base+"/reference/berths/1.2.0/", "", nil, nil).Header.Get("Etag")
	require.NotEmpty(t, old)
	for _, path := range []string{
		"/reference/API/", "/reference/API", "/reference/API/notices", "/reference/API/feed.atom", "/reference/API/sunsets.ics",
		"/reference/API/looks.css", "/reference/API/guides/1.0.0..1.0.1", "/reference/API/1.0.0/",
		"/reference/berths/NUMBER/", "/reference/berths/NUMBER/changes", "/reference/berths/NUMBER/source", "/reference/berths/NUMBER/source.zip",
		"/reference/berths/NUMBER/operations/book", "/reference/berths/NUMBER/search?q=a", "/reference/berths/guides/1.0.0..NUMBER",
		"/reference/berths/guides/NUMBER..1.2.0", "/reference/berths/guides/NUMBER..1.2.0.json", "/embed/berths/NUMBER/", "/embed/API/1.0.0/",
		"/oembed?url=/reference/berths/NUMBER/operations/book",
		"/reference/berths/1.2.0/operations/OPERATION", "/reference/berths/1.2.0/became/operations/OPERATION",
		"/reference/berths/1.2.0/schemas/SCHEMA", "/reference/berths/1.2.0/groups/OPERATION", "/embed/berths/1.2.0/groups/OPERATION",
		"/reference/API/2.0.0/", "/reference/API/2.0.0/changes", "/reference/API/1.0.0/description.yaml", "/reference/API/guides/1.0.0..2.0.0",
		"/reference/API/1.0.0/source", "/reference/API/1.0.0/site.zip", "/reference/API/1.0.0/search.json?q=a", "/reference/API/pictures/x.png",
		"/shelves/open/search?q=API", "/shelves/open/search.json?q=OPERATION", "/shelves/API/", "/shelves/open/API/",
		"/reference/search?q=API", "/reference/search.json?q=API", "/reference/search?q=OPERATION", "/reference/berths/1.2.0/search.json?q=SCHEMA",
		"/api/v1/apis/API/links", "/api/v1/versions/API@1.0.0/proof", "/api/v1/versions/berths@NUMBER/proof", "/api/v1/comparison?old=API@1.0.0&new=API@2.0.0", "/api/v1/guide?old=API@1.0.0&new=API@2.0.0", "/embed/berths/1.2.0/operations/OPERATION",
		"/reference/berths/guides/1.0.0..1.2.0?use=OPERATION",
		"/api/v1/apis/API", "/api/v1/apis/API/history", "/api/v1/apis/API/lineup", "/api/v1/notices?api=API", "/api/v1/versions/API",
		"/api/v1/versions/API@1.0.0", "/api/v1/versions/API@1.0.0/files", "/api/v1/versions/API@1.0.0/headers", "/api/v1/versions/API@x.y",
		"/api/v1/versions/berths@NUMBER", "/api/v1/versions/berths@NUMBER/description", "/api/v1/versions/berths@NUMBER/files",
		"/api/v1/versions/berths@NUMBER/headers", "/api/v1/versions/berths@NUMBER/gate", "/api/v1/versions/berths@NUMBER/overlay",
		"/api/v1/comparison?old=berths@1.0.0&new=berths@NUMBER", "/api/v1/comparison?old=berths@NUMBER&new=berths@1.0.0",
		"/api/v1/guide?old=berths@1.0.0&new=berths@NUMBER", "/api/v1/guide?old=berths@1.0.0&new=berths@1.2.0&use=OPERATION", "/api/v1/looks/API",
	} {
		for _, c := range []struct{ there, never string }{
			{"hoard", "board"},
			{"wharf", "sharf"},
			{"0.9.3", "0.9.4"},
			{"1.1.7", "1.1.6"},
			{"2.7.1", "2.7.2"},
			{"markHiddenOp", "parkHiddenOp"},
			{"MarkThing", "ParkThing"},
			{"cellar", "kellar"},
			{"markPartnerOp", "parkPartnerOp"},
			{"MarkPartner", "ParkPartner"},
			{"group-markpartners", "group-parkpartners"},
		} {
			ask := func(name string) (int, string) {
				at := strings.NewReplacer("API", name, "NUMBER", name, "OPERATION", name, "SCHEMA", name).Replace(path)
				a := x.ask("GET", at, map[string]string{"If-None-Match": old}, "")
				text := strings.ReplaceAll(a.text, name, "NAME")
				return a.StatusCode, regexp.MustCompile(`"trace":"[0-9a-f]*"`).ReplaceAllString(text, "")
			}
			status, text := ask(c.there)
			never, other := ask(c.never)
			require.Equal(t, never, status, "%s for %s as %s", path, c.there, who)
			require.Equal(t, other, text, "%s for %s as %s", path, c.there, who)
		}
	}
}

// TestTheHouseReadsAll gives those who belong to the house what was recorded, hidden parts and drafts included.
func TestTheHouseReadsAll(t *testing.T) {
	t.Parallel()
	x := newSecrets(t)
	inside := token(t, x.l, "teodor")
	for path, want := range map[string]string{
		"/api/v1/versions/berths@1.2.0/description":            "markHiddenOp",
		"/api/v1/versions/berths@2.7.1/files":                  "markDraftLate",
		"/api/v1/apis/berths":                                  "markTakenNotice",
		"/api/v1/comparison?old=berths@1.0.0&new=berths@1.2.0": "markB",
		"/api/v1/guide?old=berths@1.0.0&new=berths@2.7.1":      "markDraftStep",
		"/api/v1/apis/hoard":                                   "Mark Hoard",
		"/api/v1/apis/berths/history":                          "markWaived",
		"/api/v1/versions/berths@9.9.9":                        "2.7.1",
		"/reference/":                                          "Mark Cellar",
		"/reference/cellar/2.0.0/":                             "markCellarSummary",
		"/reference/cellar/guides/1.0.0..2.0.0":                "markCellarGuide",
		"/reference/berths/1.2.0/":                             "markPartners",
		"/reference/berths/1.2.0/operations/markPartnerOp":     "markPartnerAnswer",
		"/reference/berths/1.2.0/description.yaml":             "markPartnerField",
		"/reference/berths/1.2.0/search.json?q=markPartnerOp":  "markPartnerOp",
		"/reference/search.json?q=markPartnerField":            "markPartnerField",
		"/reference/feed.atom":                                 "markCellarReason",
		"/reference/berths/notices":                            "cellar@2",
	} {
		require.Contains(t, send(t, "GET", x.base+path, inside, nil, nil).text, want, path)
	}
	hidden := send(t, "GET", x.base+"/reference/berths/1.2.0/", inside, nil, nil)
	require.NotContains(t, hidden.text, "markHiddenOp", "the reference shows what readers get, to its team, too")
	for _, of := range []string{"/reference/", "/reference/cellar/", "/reference/berths/1.2.0/", "/.well-known/api-catalog", "/reference/search?q=a"} {
		res := send(t, "GET", x.base+of, inside, nil, nil)
		require.Equal(t, "private, no-cache", res.Header.Get("Cache-Control"), of)
		require.Contains(t, strings.Join(res.Header.Values("Vary"), ", "), "Cookie", of)
	}
	var b bytes.Buffer
	for _, number := range secretNumbers {
		b.WriteString(send(t, "GET", x.base+"/api/v1/versions/berths@"+number, inside, nil, http.NoBody).text)
	}
	require.Equal(t, 3, strings.Count(b.String(), `"api":"berths"`))
}
