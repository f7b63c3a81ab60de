package server_test

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"encoding/xml"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/client"
	"oldledger/core/housestyle"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/store"
	"oldledger/tools/described"
	"oldledger/wire"
)

var day = time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)

// startDemo runs the service on loopback with the demo played in, and returns its address.
func startDemo(t *testing.T) (base string, l *ledger.Ledger) {
	t.Helper()
	base, l, _ = startDemoAt(t)
	return base, l
}

// startDemoAt tells where its records are, too.
func startDemoAt(t *testing.T) (base string, l *ledger.Ledger, path string) {
	t.Helper()
	ctx := context.Background()
	path = filepath.Join(t.TempDir(), "ledger.sqlite")
	s, err := store.Open(ctx, path)
	require.NoError(t, err)
	require.NoError(t, demo.Play(ctx, s, day))
	l = ledger.New(s, ledger.Options{Now: func() time.Time { return day.Add(10 * time.Hour) }, Random: rand.Reader})
	return startOver(t, s, l, demo.House), l, path
}

// startOver runs the service on loopback over a ledger, and closes its records at the end.
func startOver(t *testing.T, s *store.Store, l *ledger.Ledger, house string) (base string) {
	t.Helper()
	web := httptest.NewUnstartedServer(nil)
	public := &url.URL{Scheme: "http", Host: web.Listener.Addr().String()}
	srv, err := server.New(server.Options{Ledger: l, House: house, Public: public, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	require.NoError(t, err)
	web.Config.Handler = described.Handler(t, srv.Handler())
	web.Start()
	t.Cleanup(func() {
		web.Close()
		require.NoError(t, s.Close())
	})
	return web.URL
}

func read(t *testing.T, path string) string {
	t.Helper()
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	return string(text)
}

func token(t *testing.T, l *ledger.Ledger, name string) string {
	t.Helper()
	p, err := l.Actor(context.Background(), name)
	require.NoError(t, err)
	token, err := l.MakeToken(context.Background(), p, ledger.TokenWish{Label: "test"})
	require.NoError(t, err)
	return token
}

// answer is what came back, with its body read.
type answer struct {
	*http.Response
	text string
}

func send(t *testing.T, method, address, token string, header map[string]string, body io.Reader) answer {
	t.Helper()
	req, err := http.NewRequest(method, address, body)
	require.NoError(t, err)
	if token != "" {
		req.Header.Set("Authorization", "Bearer "+token)
	}
	for k, v := range header {
		req.Header.Set(k, v)
	}
	resp, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer resp.Body.Close()
	text, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return answer{resp, string(text)}
}

// TestProblems asks for what is refused: every error is a problem with a stable type and a trace.
func TestProblems(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor, reviewer := token(t, l, "teodor"), token(t, l, "jonas")
	good := "openapi: 3.1.0\ninfo: {title: New One, version: 1.0.0}\npaths: {}\n"
	for _, c := range []struct {
		method, path, token, body string
		status                    int
		kind, detail              string
	}{
		{"GET", "/api/v1/apis/nobody", "", "", 404, "not-found", "there is no API called nobody"},
		{"GET", "/api/v1/nothing", "", "", 404, "not-found", "there is nothing at this address"},
		{
			"GET", "/api/v1/versions/berths@2.1.0", "", "", 404, "not-found",
			"berths has no version 2.1.0; recorded are 1.0.0, 1.1.0, 1.2.0, 2.0.0",
		},
		{"GET", "/api/v1/versions/berths@2.1.0/description", "", "", 404, "not-found", ""},
		{"GET", "/api/v1/comparison?old=berths@2.0.0&new=berths@2.1.0", "", "", 404, "not-found", ""},
		{"GET", "/api/v1/guide?old=berths@2.0.0&new=berths@draft", "", "", 404, "not-found", ""},
		{"GET", "/api/v1/comparison?old=berths@1.0.0&new=berths@x.y", editor, "", 422, "invalid", "a reference reads berths@1.4.0"},
		{"GET", "/api/v1/comparison?old=berths@1.0.0&new=berths@2.0.0&reading=loud", editor, "", 422, "invalid", "declared or exact"},
		{"GET", "/api/v1/journal", "", "", 401, "sign-in-needed", "sign in"},
		{"GET", "/api/v1/apis?limit=0", "", "", 422, "invalid", "from 1 to 1000"},
		{"GET", "/api/v1/me", "olt_unknown", "", 401, "sign-in-needed", "not known"},
		{"POST", "/api/v1/recordings", "", good, 401, "sign-in-needed", "sign in"},
		{"POST", "/api/v1/recordings", reviewer, good, 403, "forbidden", "Jonas Wick is a reviewer"},
		{
			"POST", "/api/v1/recordings?file=a.yaml", editor, "openapi: [", 422, "invalid-description",
			"a.yaml:1:10: the list that begins here with [ is not closed",
		},
		{"POST", "/api/v1/recordings?file=a.yaml", editor, "", 422, "invalid-description", "a.yaml:1:1: the file is empty"},
		{
			"POST", "/api/v1/recordings", editor, strings.Replace(good, "1.0.0", "newest", 1), 422, "invalid",
			"description.yaml:2:33: \"newest\" is not a version number",
		},
		{"POST", "/api/v1/versions/berths@2.1.0/publication", editor, `{}`, 409, "gate-shut", "draught is new and must be there"},
		{"POST", "/api/v1/versions/berths@2.0.0/publication", editor, `{}`, 409, "conflict", "already published"},
		{"POST", "/api/v1/versions/berths@2.1.0/publication", editor, `{"waiver":[]}`, 422, "invalid", "unknown field"},
		{"POST", "/api/v1/notices", editor, `{"ref":"berths@2.1.0","reason":"x"}`, 409, "conflict", "is a draft"},
		{"POST", "/api/v1/sign-in", "", `{"name":"imke","password":"wrong"}`, 401, "sign-in-needed", "do not belong together"},
		{"POST", "/api/v1/sign-in", "", `{"name":"nobody","password":"wrong"}`, 401, "sign-in-needed", "do not belong together"},
	} {
		a := send(t, c.method, base+c.path, c.token, nil, strings.NewReader(c.body))
		require.Equal(t, c.status, a.StatusCode, "%s %s: %s", c.method, c.path, a.text)
		require.Equal(t, "application/problem+json", a.Header.Get("Content-Type"))
		var p struct{ Type, Detail, Trace string }
		require.NoError(t, json.Unmarshal([]byte(a.text), &p))
		require.True(t, strings.HasSuffix(p.Type, "/"+c.kind), p.Type)
		require.Contains(t, p.Detail, c.detail)
		require.Len(t, p.Trace, 16)
	}
	apis, err := l.APIs(context.Background(), ledger.Itself)
	require.NoError(t, err)
	require.Len(t, apis, 6, "what was refused left nothing behind")
}

// endless is an upload of so many bytes of a YAML comment.
type endless struct{ left int }

func (e *endless) Read(p []byte) (int, error) {
	if e.left <= 0 {
		return 0, io.EOF
	}
	n := min(len(p), e.left)
	copy(p, bytes.Repeat([]byte("#"), n))
	e.left -= n
	return n, nil
}

func TestLargeUpload(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	a := send(t, "POST", base+"/api/v1/recordings", token(t, l, "teodor"), nil, &endless{100 << 20})
	require.Equal(t, http.StatusRequestEntityTooLarge, a.StatusCode)
	require.Contains(t, a.text, "at most 81 MB")
}

// TestOnce sends a write twice under one key: it happens once, and is answered alike.
func TestOnce(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "teodor")
	key := map[string]string{"Idempotency-Key": "notice-1"}
	body := `{"ref":"berths@2.0.0","operation":"listQuays","reason":"there is one quay"}`
	first := send(t, "POST", base+"/api/v1/notices", editor, key, strings.NewReader(body))
	require.Equal(t, http.StatusCreated, first.StatusCode, first.text)
	again := send(t, "POST", base+"/api/v1/notices", editor, key, strings.NewReader(body))
	require.Equal(t, http.StatusCreated, again.StatusCode)
	require.Equal(t, first.text, again.text)
	require.Equal(t, "true", again.Header.Get("Idempotency-Replayed"))
	other := send(t, "POST", base+"/api/v1/notices", editor, key, strings.NewReader(strings.Replace(body, "one", "no", 1)))
	require.Equal(t, http.StatusConflict, other.StatusCode)
	notices, err := l.Notices(context.Background(), ledger.Itself, "berths")
	require.NoError(t, err)
	require.Len(t, notices, 4)
}

// TestIfMatch replaces a draft only as it was last read.
func TestIfMatch(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "teodor")
	text, err := os.ReadFile("../demo/berths/2.1.0-draft.yaml")
	require.NoError(t, err)
	changed := bytes.Replace(text, []byte("What a night costs"), []byte("What one night costs"), 1)
	seen := send(t, "GET", base+"/api/v1/versions/berths@2.1.0", editor, nil, nil)
	stale := send(t, "POST", base+"/api/v1/recordings", editor, map[string]string{"If-Match": `"0000"`}, bytes.NewReader(changed))
	require.Equal(t, http.StatusConflict, stale.StatusCode)
	fresh := send(t, "POST", base+"/api/v1/recordings", editor, map[string]string{"If-Match": seen.Header.Get("ETag")},
		bytes.NewReader(changed))
	require.Equal(t, http.StatusOK, fresh.StatusCode, fresh.text)
	require.Contains(t, fresh.text, `"outcome":"replaced"`)
}

// TestOtherSites keeps a browser from writing on behalf of another site.
func TestOtherSites(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	a := send(t, "POST", base+"/api/v1/sign-in", "", map[string]string{"Sec-Fetch-Site": "cross-site"},
		strings.NewReader(`{"name":"imke","password":"`+demo.Password+`"}`))
	require.Equal(t, http.StatusForbidden, a.StatusCode)
	require.Empty(t, a.Header.Get("Set-Cookie"))
}

// TestPages pages through a list by its links.
func TestPages(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "imke")
	address, seen := base+"/api/v1/journal?limit=10", 0
	for address != "" {
		a := send(t, "GET", address, editor, nil, nil)
		require.Equal(t, http.StatusOK, a.StatusCode)
		var list struct{ Items []ledger.Entry }
		require.NoError(t, json.Unmarshal([]byte(a.text), &list))
		for _, e := range list.Items {
			seen++
			require.Equal(t, int64(seen), e.Seq)
		}
		next, _, found := strings.Cut(strings.TrimPrefix(a.Header.Get("Link"), "<"), ">")
		if address = ""; found {
			address = base + next
		}
	}
	require.Greater(t, seen, 25)
}

// TestClient drives the service through the Go client.
func TestClient(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	ctx := context.Background()
	c, err := client.New(base, token(t, l, "teodor"))
	require.NoError(t, err)
	apis, err := c.APIs(ctx)
	require.NoError(t, err)
	require.Equal(t, []string{"berths", "commons", "dues", "ledger", "pilotage", "tides"}, names(apis))
	comparison, err := c.Compare(ctx, "berths@1.1.0", "berths@2.0.0", "")
	require.NoError(t, err)
	require.Equal(t, "2.0.0", comparison.Recommended.Version)
	guide, err := c.Guide(ctx, client.GuideWish{Old: "berths@1.1.0", New: "berths@2.0.0"})
	require.NoError(t, err)
	require.Equal(t, "lengthOverall", guide.Renames[1].To)
	require.NotNil(t, guide.Must[1].Before.Value)
	_, err = c.Publish(ctx, "berths@2.1.0", nil)
	var refusal *client.Refusal
	require.ErrorAs(t, err, &refusal)
	require.Len(t, refusal.Gate.Obstacles, 1)
	v, err := c.Publish(ctx, "berths@2.1.0", []wire.Waive{{Change: refusal.Gate.Obstacles[0].Change.ID, Reason: "nobody sends it yet"}})
	require.NoError(t, err)
	require.Equal(t, wire.Published, v.State)
	history, err := c.History(ctx, "berths")
	require.NoError(t, err)
	require.Equal(t, "nobody sends it yet", history[0].Waivers[0].Reason)
	anonymous, err := client.New(base, "")
	require.NoError(t, err)
	_, err = anonymous.Record(ctx, client.Submission{Text: []byte("openapi: 3.1.0")})
	require.Error(t, err)
}

func names(apis []wire.API) []string {
	var out []string
	for _, a := range apis {
		out = append(out, a.Name)
	}
	return out
}

// TestOwnDescription holds the interface against its own description: every route is described, and every described
// operation is routed; what it answers is what it says.
func TestOwnDescription(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	d, err := l.Description(context.Background(), ledger.Itself, "ledger@latest")
	require.NoError(t, err)
	editor := token(t, l, "imke")
	found, err := housestyle.Examine(t.Context(), d.Contract, housestyle.Ours(), housestyle.Options{})
	require.NoError(t, err)
	for _, f := range found.Diagnostics() {
		require.Equal(t, source.Hint, f.Severity, "the ledger's own description breaks its own rules: %s", f)
	}
	for _, op := range d.Contract.Operations {
		if op.Method != "GET" {
			continue
		}
		path := strings.NewReplacer("{api}", "berths", "{team}", "Quayside", "{consumer}", "skerry-planner", "{ref}/proof", "berths@2.0.0/proof", "{ref}", "berths@2.1.0").Replace(op.Path)
		a := send(t, "GET", base+"/api/v1"+path+"?old=berths@1.1.0&new=berths@2.0.0&of=berths@1&against=berths@2.0.0", editor, nil, nil)
		require.Equal(t, http.StatusOK, a.StatusCode, "%s: %s", op.Key(), a.text)
		media := op.Responses[0].Content
		if media[0].Schema == nil {
			continue
		}
		v, err := value.Parse([]byte(a.text))
		require.NoError(t, err)
		space := shape.NewSpace(shape.Declared, nil)
		holds, known := space.Contains(space.Lower(media[0].Schema, shape.Role{Sends: true}), v)
		require.True(t, known && holds, "%s answers what its description does not say: %.300s", op.Key(), a.text)
	}
}

// TestSite reads the published reference as anybody can.
func TestSite(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	for path, want := range map[string]string{
		"/reference/":                                  "Berth Booking",
		"/reference/berths/":                           "version 2.0.0",
		"/reference/berths/1.2.0/":                     "Line 1 is deprecated and leaves on 26 February 2027",
		"/reference/berths/1.2.0/operations/bookBerth": "leaves 26 February 2027",
		"/reference/berths/1.2.0/schemas/Vessel":       "lengthOverall",
		"/reference/berths/2.0.0/changes":              "Book a berth moved to POST /bookings",
		"/reference/berths/notices":                    "Hardly anybody asks for the letter",
		"/reference/berths/guides/1.1.0..2.0.0":        "length was renamed to lengthOverall",
		"/reference/berths/2.0.0/description.yaml":     "openapi: 3.1.1",
	} {
		a := send(t, "GET", base+path, "", nil, nil)
		require.Equal(t, http.StatusOK, a.StatusCode, path)
		require.Contains(t, a.text, want, path)
		require.Contains(t, a.Header.Get("Content-Security-Policy"), "default-src 'none'")
	}
	for _, path := range []string{
		"/reference/berths/2.1.0/", "/reference/berths/9.9.9/", "/reference/nobody/", "/reference/berths/2.0.0/operations/cancelByLetter",
		"/reference/berths/guides/2.0.0..2.1.0", "/reference/berths/guides/1.0.0..9.9.9", "/reference/assets/../site.go", "/reference/x/y/z",
	} {
		require.Equal(t, http.StatusNotFound, send(t, "GET", base+path, "", nil, nil).StatusCode, path)
	}
	old := send(t, "GET", base+"/reference/berths/1.2.0/", "", nil, nil)
	since := time.Date(2026, 10, 22, 0, 0, 0, 0, time.UTC) // 29 days before the demo's day
	require.Equal(t, "@"+strings.TrimSpace(jsonNumber(since.Unix())), old.Header.Get("Deprecation"))
	require.Equal(t, "Fri, 26 Feb 2027 00:00:00 GMT", old.Header.Get("Sunset"))
	require.Contains(t, old.Header.Get("Link"), `</reference/berths/2.0.0/>; rel="successor-version"`)
	require.Empty(t, send(t, "GET", base+"/reference/berths/2.0.0/", "", nil, nil).Header.Get("Deprecation"))
}

func jsonNumber(n int64) string {
	text, _ := json.Marshal(n)
	return string(text)
}

// TestWeight keeps a reference page with its style and fonts under 100 KB as it travels.
func TestWeight(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	total := 0
	for _, path := range []string{
		"/reference/berths/1.2.0/operations/bookBerth", "/reference/assets/tokens.css", "/reference/assets/site.css",
		"/reference/assets/literata-latin-600-normal.woff2", "/reference/assets/literata-latin-400-italic.woff2",
		"/reference/assets/ibm-plex-sans-latin-400-normal.woff2", "/reference/assets/ibm-plex-mono-latin-400-normal.woff2",
	} {
		a := send(t, "GET", base+path, "", map[string]string{"Accept-Encoding": "gzip"}, nil)
		require.Equal(t, http.StatusOK, a.StatusCode, path)
		require.NotContains(t, a.text, "<script")
		total += len(a.text)
	}
	require.Less(t, total, 100_000)
}

// TestSameDaySameLedger plays the demo twice: the same day makes the same journal.
func TestSameDaySameLedger(t *testing.T) {
	t.Parallel()
	var heads []string
	for range 2 {
		_, l := startDemo(t)
		v, err := l.VerifyJournal(context.Background(), ledger.Itself, "")
		require.NoError(t, err)
		require.True(t, v.Intact)
		heads = append(heads, v.Head)
	}
	require.Equal(t, heads[0], heads[1])
}

// TestSeveralFiles hands in a form of files, and refuses forms that are none.
func TestSeveralFiles(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "teodor")
	form := func(parts map[string]string) (string, io.Reader) {
		var b bytes.Buffer
		w := multipart.NewWriter(&b)
		for name, text := range parts {
			part, err := w.CreateFormField(name)
			require.NoError(t, err)
			_, err = io.WriteString(part, text)
			require.NoError(t, err)
		}
		require.NoError(t, w.Close())
		return w.FormDataContentType(), &b
	}
	entry := "openapi: 3.1.0\ninfo: {title: Ropes, version: 1.0.0}\npaths: {}\ncomponents: {schemas: {Rope: {$ref: schemas/Rope.yaml}}}\n"
	for _, c := range []struct {
		parts map[string]string
		want  int
	}{
		{map[string]string{"ropes.yaml": entry}, http.StatusUnprocessableEntity},
		{map[string]string{"ropes.yaml": entry, "../Rope.yaml": "{}"}, http.StatusUnprocessableEntity},
		{map[string]string{"ropes.yaml": entry, "schemas/Rope.yaml": "{type: object}", `..\Rope.yaml`: "{}"}, http.StatusUnprocessableEntity},
		{map[string]string{"ropes.yaml": entry, "schemas/Rope.yaml": "{type: object}"}, http.StatusCreated},
	} {
		kind, body := form(c.parts)
		a := send(t, "POST", base+"/api/v1/recordings?file=ropes.yaml", editor, map[string]string{"Content-Type": kind}, body)
		require.Equal(t, c.want, a.StatusCode, a.text)
	}
	kind, body := form(map[string]string{"other.yaml": entry})
	a := send(t, "POST", base+"/api/v1/recordings?file=ropes.yaml", editor, map[string]string{"Content-Type": kind}, body)
	require.Contains(t, a.text, `there is no file \"ropes.yaml\"`)
	a = send(t, "POST", base+"/api/v1/recordings?file=ropes.yaml", editor,
		map[string]string{"Content-Type": "multipart/form-data; boundary=x"}, strings.NewReader("nothing of the kind"))
	require.Equal(t, http.StatusUnprocessableEntity, a.StatusCode, a.text)
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/api/v1/versions/ropes@1.0.0/files", "", nil, nil).StatusCode,
		"a draft is not for everybody")
	require.Contains(t, send(t, "GET", base+"/api/v1/versions/ropes@1.0.0/files", editor, nil, nil).text, "schemas/Rope.yaml")
}

// pack makes an archive of a folder of the demo.
func pack(t *testing.T, folder string, more map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	require.NoError(t, w.AddFS(os.DirFS(folder)))
	for name, text := range more {
		f, err := w.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(f, text)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

// TestArchives hands in a description as an archive, and refuses archives that play tricks.
func TestArchives(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "sanna")
	hand := func(path string, content []byte) answer {
		return send(t, "POST", base+"/api/v1/"+path, editor, map[string]string{"Content-Type": "application/zip"}, bytes.NewReader(content))
	}
	folder := "../demo/tides/1.1.0"
	a := hand("recordings?file=tides.zip", pack(t, folder, nil))
	require.Equal(t, http.StatusOK, a.StatusCode, a.text)
	require.Contains(t, a.text, `"outcome":"same"`)
	for _, c := range []struct {
		query, want string
		content     []byte
	}{
		{"", `"outcome":"new"`, pack(t, folder, map[string]string{"unused/note.txt": "Kept out."})},
		{"&entry=tides.raml", `"outcome":"new"`, pack(t, folder, map[string]string{"other.yaml": "openapi: 3.1.0\n"})},
		{
			"", "other.yaml, tides.raml are descriptions of their own; say which one is meant",
			pack(t, folder, map[string]string{"other.yaml": "openapi: 3.1.0\n"}),
		},
		{"&entry=missing.raml", `there is no file \"missing.raml\"`, pack(t, folder, nil)},
		{"", "is no path of a file below", pack(t, folder, map[string]string{"../out.raml": "#%RAML 1.0"})},
		{"", "cannot be read", []byte("PK\x03\x04 and then nothing")},
		{"", "is a description", pack(t, folder+"/libraries", nil)},
	} {
		a := hand("dry-runs?version=1.3.0"+c.query, c.content)
		require.Contains(t, a.text, c.want)
	}
}

// TestSourceOnTheSite reads a RAML description as it was written, as an archive, and as OpenAPI.
func TestSourceOnTheSite(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	at := base + "/reference/tides/1.1.0/"
	page := send(t, "GET", at+"source", "", nil, nil)
	require.Equal(t, http.StatusOK, page.StatusCode)
	require.Contains(t, page.text, "libraries/units.raml")
	require.Contains(t, page.text, `<span id="file-1-1">#%RAML 1.0`)
	file := send(t, "GET", at+"source/libraries/units.raml", "", nil, nil)
	require.Equal(t, "text/plain; charset=utf-8", file.Header.Get("Content-Type"))
	require.Equal(t, "nosniff", file.Header.Get("X-Content-Type-Options"))
	require.True(t, strings.HasPrefix(file.text, "#%RAML 1.0 Library"))
	require.Equal(t, http.StatusNotFound, send(t, "GET", at+"source/../../../etc/passwd", "", nil, nil).StatusCode)
	packed := send(t, "GET", at+"source.zip", "", nil, nil)
	files, err := source.Unpack([]byte(packed.text))
	require.NoError(t, err)
	require.Len(t, files, 6)
	require.Equal(t, file.text, string(files["libraries/units.raml"]))
	converted := send(t, "GET", at+"description.yaml", "", nil, nil)
	require.True(t, strings.HasPrefix(converted.text, "openapi: 3.1.1"))
	older := send(t, "GET", at+"openapi-3.0.yaml", "", nil, nil)
	require.True(t, strings.HasPrefix(older.text, "# tides@1.1.0, converted from raml-1.0.\n"), older.text)
	require.Contains(t, older.text, "\nopenapi: 3.0.4\n")
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/reference/berths/1.2.0/openapi-3.0.yaml", "", nil, nil).StatusCode,
		"it is written so")
	changes := send(t, "GET", base+"/reference/tides/1.2.0/changes", "", nil, nil)
	require.Contains(t, changes.text, "the same on the wire")
	require.Contains(t, changes.text, "decided both ways for 5 operations")
}

// TestSwitcher goes from a page to the same of another version: to its new address, or to a page that says what became of it.
func TestSwitcher(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	still := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	for _, c := range []struct {
		path   string
		status int
		want   string // where it leads, or what it says
	}{
		{"dues/1.1.0/operations/get-rates", http.StatusFound, "/reference/dues/1.1.0/operations/listRates"},
		{"dues/1.0.0/operations/payDues", http.StatusFound, "/reference/dues/1.0.0/operations/post-dues-payments"},
		{
			"berths/2.0.0/operations/cancelByLetter", http.StatusNotFound,
			`It was there in <a href="/reference/berths/1.2.0/operations/cancelByLetter">1.2.0</a>`,
		},
		{"dues/1.1.0/became/operations/get-rates", http.StatusFound, "/reference/dues/1.1.0/operations/listRates"},
		{"berths/1.0.0/became/operations/bookBerth", http.StatusFound, "/reference/berths/1.0.0/operations/bookBerth"},
		{"berths/2.0.0/became/operations/cancelByLetter", http.StatusOK, "Cancel by letter is not in 2.0.0"},
		{"berths/1.0.0/became/schemas/Problem", http.StatusOK, "Problem is not in 1.0.0"},
		{
			"berths/1.0.0/operations/listCharges", http.StatusNotFound,
			`It came later: see <a href="/reference/berths/2.0.0/operations/listCharges">2.0.0</a>`,
		},
		{"berths/1.0.0/schemas/Problem", http.StatusNotFound, "Problem is not in 1.0.0"},
		{"berths/1.0.0/operations/nothing", http.StatusNotFound, "has no operation nothing"},
	} {
		answer, err := still.Get(base + "/reference/" + c.path)
		require.NoError(t, err)
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		require.Equal(t, c.status, answer.StatusCode, c.path)
		if c.status == http.StatusFound {
			require.Equal(t, c.want, answer.Header.Get("Location"))
		} else {
			require.Contains(t, string(text), c.want)
		}
	}
	page := send(t, "GET", base+"/reference/berths/1.2.0/operations/cancelByLetter", "", nil, nil)
	require.Contains(t, page.Header.Get("Link"), `</reference/berths/1.2.0/operations/cancelByLetter>; rel="canonical"`)
	page = send(t, "GET", base+"/reference/berths/1.2.0/operations/bookBerth", "", nil, nil)
	require.Contains(t, page.Header.Get("Link"), `</reference/berths/2.0.0/operations/bookBerth>; rel="canonical"`)
	require.Contains(t, page.text, `<a rel="next" href="/reference/berths/1.2.0/operations/listBookings">`)
	require.Contains(t, page.text, `href="/reference/berths/2.0.0/became/operations/bookBerth"`)
}

// TestSearchOnTheSite finds pages by words, and shows no question as anything but text.
func TestSearchOnTheSite(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	find := func(q string) answer {
		return send(t, "GET", base+"/reference/berths/2.0.0/search?q="+url.QueryEscape(q), "", nil, nil)
	}
	require.Contains(t, find("cancl booking").text, `<a href="/reference/berths/2.0.0/operations/cancelBooking">Cancel a booking</a>`)
	require.Contains(t, find("xyzzy").text, "Nothing here has these words.")
	hostile := find(`"><script>alert(1)</script>`)
	require.NotContains(t, hostile.text, "<script>")
	require.Equal(t, http.StatusOK, find(strings.Repeat("ü", 500)).StatusCode)
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/reference/berths/2.1.0/search?q=a", "", nil, nil).StatusCode,
		"a draft is not for everybody")
}

// TestSitemap lists pages that are there.
func TestSitemap(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	var set struct {
		URLs []struct {
			Loc string `xml:"loc"`
		} `xml:"url"`
	}
	require.NoError(t, xml.Unmarshal([]byte(send(t, "GET", base+"/reference/sitemap.xml", "", nil, nil).text), &set))
	require.Greater(t, len(set.URLs), 60)
	for _, u := range set.URLs {
		require.Equal(t, http.StatusOK, send(t, "GET", u.Loc, "", nil, nil).StatusCode, u.Loc)
	}
	require.Contains(t, send(t, "GET", base+"/robots.txt", "", nil, nil).text, "Sitemap: "+base+"/reference/sitemap.xml")
}

// TestLineupHidesDrafts shows everybody the published versions, and editors the drafts, too.
func TestLineupHidesDrafts(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	require.NotContains(t, send(t, "GET", base+"/api/v1/apis/berths/lineup", "", nil, nil).text, "berths@2.1.0")
	require.Contains(t, send(t, "GET", base+"/api/v1/apis/berths/lineup", token(t, l, "teodor"), nil, nil).text, "berths@2.1.0")
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/api/v1/apis/nobody/lineup", "", nil, nil).StatusCode)
}
