package sample_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// arrived is what the echo server saw of a request.
type arrived struct {
	method, path string
	query        []sample.Pair
	header       http.Header
	cookies      map[string]string
	body         []byte
}

// echo is a server that keeps what arrives.
func echo(t *testing.T) (base string, last func() *arrived) {
	t.Helper()
	var got *arrived
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(r.Body)
		if err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		got = &arrived{method: r.Method, path: r.URL.EscapedPath(), header: r.Header, body: body, cookies: map[string]string{}}
		for pair := range strings.SplitSeq(r.URL.RawQuery, "&") {
			if name, val, ok := strings.Cut(pair, "="); ok {
				name, _ = url.QueryUnescape(name)
				val, _ = url.QueryUnescape(val)
				got.query = append(got.query, sample.Pair{Name: name, Value: val})
			}
		}
		for _, c := range r.Cookies() {
			got.cookies[c.Name] = c.Value
		}
		_, _ = io.WriteString(w, "ok")
	}))
	t.Cleanup(server.Close)
	return server.URL, func() *arrived {
		a := got
		got = nil
		return a
	}
}

// tough is a description whose parameters, bodies and credentials need care in every language.
const tough = `openapi: 3.1.0
info: {title: Harbour Stores, version: 1.0.0}
paths:
  /stores/{store}/{codes}/{place}:
    post:
      operationId: keep
      security: [{key: [], note: []}]
      parameters:
        - {name: store, in: path, required: true, schema: {type: string}, example: "North Quay/7 ü?"}
        - {name: codes, in: path, required: true, style: label, explode: true, schema: {type: array, items: {type: string}}, example: [a, "b c"]}
        - {name: place, in: path, required: true, style: matrix, schema: {type: object}, example: {row: 3, bay: x}}
        - {name: tag, in: query, required: true, schema: {type: array, items: {type: string}}, example: ["it's", "a&b=c", "50%"]}
        - {name: pipe, in: query, required: true, style: pipeDelimited, explode: false, schema: {type: array, items: {type: integer}}, example: [1, 2]}
        - {name: deep, in: query, required: true, style: deepObject, explode: true, schema: {type: object}, example: {from: "2026-03-01", to: "2026-03-09"}}
        - {name: filter, in: query, required: true, content: {application/json: {schema: {type: object}}}, example: {a: [1, "x"]}}
        - {name: Trace-Id, in: header, required: true, schema: {type: string}, example: "\"quoted\" $HOME back\\slash"}
        - {name: lang, in: cookie, required: true, schema: {type: string}, example: en}
      requestBody:
        content:
          application/json:
            schema: {type: object}
            example: {text: "It's \"fine\", $HOME, a\\b\nnext – line ü", list: [], empty: {}, deep: {on: true, off: false, none: null, n: 1.50}}
      responses: {"200": {description: Kept.}}
  /forms:
    post:
      operationId: fill
      security: [{sign: []}]
      requestBody:
        content:
          application/x-www-form-urlencoded: {schema: {type: object}, example: {name: "a b&c=ü", many: ["1", "2"]}}
      responses: {"200": {description: Kept.}}
  /papers:
    put:
      operationId: send
      security: [{token: []}]
      requestBody:
        content:
          multipart/form-data:
            schema: {type: object, properties: {title: {type: string}, scan: {type: string, contentMediaType: image/png}}}
            example: {title: "It's a \"scan\"", scan: x}
      responses: {"200": {description: Kept.}}
  /words:
    patch:
      operationId: say
      security: [{inquery: []}]
      parameters: [{name: a, in: query, required: true, schema: {type: string}, example: b}]
      requestBody: {content: {text/plain: {schema: {type: string}, example: "one 'two'\nthree"}}}
      responses: {"200": {description: Kept.}}
    delete:
      operationId: unsay
      security: []
      responses: {"200": {description: Kept.}}
components:
  securitySchemes:
    key: {type: apiKey, in: header, name: Store-Key}
    note: {type: apiKey, in: cookie, name: note}
    inquery: {type: apiKey, in: query, name: key}
    sign: {type: http, scheme: basic}
    token: {type: http, scheme: bearer}
`

// runners run a sample in a folder of its own.
var runners = map[string]func(dir, text string) *exec.Cmd{
	"curl": func(dir, text string) *exec.Cmd { return exec.Command("sh", "-c", text+" -sS") },
	"javascript": func(dir, text string) *exec.Cmd {
		return script(dir, "call.mjs", text, "node")
	},
	"javascript-axios": func(dir, text string) *exec.Cmd {
		packages, err := filepath.Abs("../../console/node_modules")
		if err != nil || os.Symlink(packages, filepath.Join(dir, "node_modules")) != nil {
			return exec.Command("false")
		}
		return script(dir, "call.mjs", text, "node")
	},
	"python":       func(dir, text string) *exec.Cmd { return script(dir, "call.py", text, "/usr/bin/python3") },
	"python-httpx": func(dir, text string) *exec.Cmd { return script(dir, "call.py", text, "/usr/bin/python3") },
	"go":           func(dir, text string) *exec.Cmd { return script(dir, "call.go", text, "go", "run") },
}

func script(dir, name, text string, command ...string) *exec.Cmd {
	if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
		return exec.Command("false")
	}
	return exec.Command(command[0], append(command[1:], name)...)
}

// TestSamplesRun runs the samples in four languages and six libraries against an echo server: what arrives is what was meant.
func TestSamplesRun(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, last := echo(t)
	texts := map[string]string{"tough": tough}
	for _, name := range []string{"berths/2.0.0.yaml", "dues/1.1.0.yaml", "tides/1.2.0.yaml"} {
		text, err := os.ReadFile("../../demo/" + name)
		require.NoError(t, err)
		texts[name] = string(text)
	}
	for name, text := range texts {
		f, err := source.Parse(name+".yaml", []byte(text))
		require.NoError(t, err)
		c, err := openapi.Read(f)
		require.NoError(t, err)
		for _, op := range c.Operations {
			op.Servers = []*contract.Server{{URL: base + "/base"}}
		}
		for _, op := range c.Operations {
			call, ok := sample.Make(op, sample.NewFiller(shape.NewSpace(shape.Declared, nil), sample.Sided(c)))
			require.True(t, ok)
			for _, language := range sample.Languages {
				run, text := runners[language.ID], language.Write(call)
				if run == nil || language.ID != "curl" && name != "tough" && op.Method == http.MethodGet {
					continue
				}
				t.Run(name+"/"+op.Key()+"/"+language.ID, func(t *testing.T) {
					if _, err := os.Stat("../../console/node_modules/axios"); err != nil && language.Library == "axios" {
						t.Skip("needs the console's packages: make console")
					}
					dir := t.TempDir()
					require.NoError(t, os.WriteFile(filepath.Join(dir, "scan"), []byte("\x89PNG"), 0o600))
					cmd := run(dir, text)
					cmd.Dir = dir
					cmd.Env = append(os.Environ(), "KEY=k-1", "TOKEN=t-1", "NAME=imke", "PASSWORD=p w", "GOFLAGS=-mod=mod")
					out, err := cmd.CombinedOutput()
					require.NoError(t, err, "%s\n%s", out, text)
					got := last()
					require.NotNil(t, got, "%s\n%s", out, text)
					check(t, call, got, text)
				})
			}
		}
	}
}

// check holds what arrived against the call.
func check(t *testing.T, call *sample.Call, got *arrived, code string) {
	t.Helper()
	at, err := url.Parse(call.Address)
	require.NoError(t, err)
	require.Equal(t, call.Method, got.method, code)
	require.Equal(t, at.EscapedPath(), got.path, code)
	query := append([]sample.Pair(nil), call.Query...)
	cookies := map[string]string{}
	for _, p := range call.Cookies {
		cookies[p.Name] = p.Value
	}
	for _, cr := range call.Credentials {
		switch cr.Kind {
		case sample.Bearer:
			require.Equal(t, "Bearer t-1", got.header.Get("Authorization"), code)
		case sample.Basic:
			require.Equal(t, "Basic aW1rZTpwIHc=", got.header.Get("Authorization"), code)
		case sample.KeyInHeader:
			require.Equal(t, "k-1", got.header.Get(cr.Name), code)
		case sample.KeyInQuery:
			query = append(query, sample.Pair{Name: cr.Name, Value: "k-1"})
		case sample.KeyInCookie:
			cookies[cr.Name] = "k-1"
		}
	}
	require.Equal(t, query, got.query, code)
	require.Equal(t, cookies, got.cookies, code)
	for _, h := range call.Headers {
		require.Equal(t, h.Value, got.header.Get(h.Name), code)
	}
	body(t, call, got, code)
}

func body(t *testing.T, call *sample.Call, got *arrived, code string) {
	t.Helper()
	kind, params, err := mime.ParseMediaType(got.header.Get("Content-Type"))
	if call.Type == "" {
		require.Empty(t, got.body, code)
		return
	}
	require.NoError(t, err, code)
	want, _, err := mime.ParseMediaType(call.Type)
	require.NoError(t, err)
	require.Equal(t, want, kind, code)
	switch {
	case call.JSON != nil:
		sent, err := value.Parse(got.body)
		require.NoError(t, err, "%s\n%s", got.body, code)
		require.True(t, json.Valid(got.body))
		require.True(t, call.JSON.Equal(sent), "%s\n%s", got.body, code)
	case call.Parts != nil:
		r := multipart.NewReader(bytes.NewReader(got.body), params["boundary"])
		for _, p := range call.Parts {
			part, err := r.NextPart()
			require.NoError(t, err, code)
			text, err := io.ReadAll(part)
			require.NoError(t, err)
			require.Equal(t, p.Name, part.FormName(), code)
			if p.File != "" {
				require.Equal(t, "\x89PNG", string(text), code)
				require.Equal(t, p.File, part.FileName(), code)
			} else {
				require.Equal(t, p.Value, string(text), code)
			}
		}
	case call.Form != nil:
		sent, err := url.ParseQuery(string(got.body))
		require.NoError(t, err)
		want := url.Values{}
		for _, p := range call.Form {
			want.Add(p.Name, p.Value)
		}
		require.Equal(t, want, sent, code)
	default:
		require.Equal(t, call.Text, string(got.body), code)
	}
}

// TestTokens colours programs, and loses nothing of them.
func TestTokens(t *testing.T) {
	t.Parallel()
	told := func(syntax, program string) string {
		var b strings.Builder
		for kind, text := range sample.Tokens(syntax, program) {
			fmt.Fprintf(&b, [...]string{"%s", "k(%s)", "s(%s)", "n(%s)", "c(%s)"}[kind], text)
		}
		return b.String()
	}
	for _, c := range []struct{ syntax, program, want string }{
		{"json", `{"a": [1, -2.5e+3, true, "x\"y"]}`, `{"a": [n(1), n(-2.5e+3), k(true), s("x\"y")]}`},
		{"sh", "curl 'it'\\''s' -H \"T: $TOKEN\" # so", `k(curl) s('it')\'s('s') -H s("T: $TOKEN") c(# so)`},
		{"python", "import os # x\nprint({\"a\": None})", "k(import) os c(# x)\nk(print)({\"a\": k(None)})"},
		{"go", "x := `a\\` + \"b\"\nreturned := 3", "x := s(`a\\`) + s(\"b\")\nreturned := n(3)"},
		{"java", "var b = \"\"\"\n  {\"a\"}\"\"\";", "k(var) b = s(\"\"\"\n  {\"a\"}\"\"\");"},
		{"latin", `"salve"`, `"salve"`},
		{"json", `"never closed \`, `s("never closed \)`},
	} {
		require.Equal(t, c.want, told(c.syntax, c.program))
	}
	rapid.Check(t, func(t *rapid.T) {
		program := rapid.StringMatching(`[a-z"'\x60\\#/$0-9.\n :{}ü-]{0,60}`).Draw(t, "program")
		syntax := rapid.SampledFrom([]string{"sh", "javascript", "python", "go", "java", "csharp", "json"}).Draw(t, "syntax")
		var whole strings.Builder
		for _, text := range sample.Tokens(syntax, program) {
			whole.WriteString(text)
		}
		require.Equal(t, program, whole.String())
	})
}
