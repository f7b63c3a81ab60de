package sample_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/source"
)

func takenOf(t *testing.T, base, text string) []sample.Taken {
	t.Helper()
	f, err := source.Parse("stores.yaml", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	var all []sample.Taken
	for _, op := range c.Operations {
		op.Servers = []*contract.Server{{URL: base}}
		call, ok := sample.Make(op, sample.NewFiller(shape.NewSpace(shape.Declared, nil), sample.Sided(c)))
		require.True(t, ok)
		all = append(all, sample.Taken{Title: op.Name(), Name: op.ID, Call: call})
	}
	return all
}

// TestTaken writes calls into files. The script runs: what arrives last is what was meant.
func TestTaken(t *testing.T) {
	t.Parallel()
	base, last := echo(t)
	calls := takenOf(t, base, tough)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "scan"), []byte("\x89PNG"), 0o600))
	script := sample.Script(calls)
	cmd := exec.Command("sh", "-e", "-c", script)
	cmd.Dir = dir
	out, err := cmd.CombinedOutput()
	require.Error(t, err, "it asks for what it needs")
	require.Contains(t, string(out), "say it first: export KEY=…")
	cmd = exec.Command("sh", "-e", "-c", script)
	cmd.Dir, cmd.Env = dir, append(os.Environ(), "KEY=k-1", "TOKEN=t-1", "NAME=imke", "PASSWORD=p w")
	out, err = cmd.CombinedOutput()
	require.NoError(t, err, "%s\n%s", out, script)
	require.Equal(t, "DELETE", last().method)

	requests := sample.Requests(calls)
	for _, want := range []string{
		"@KEY = \n@TOKEN = \n@NAME = \n@PASSWORD = \n\n### keep\n# @name keep\nPOST " + base + "/stores/North%20Quay%2F7%20%C3%BC%3F/",
		"\nStore-Key: {{KEY}}\n", "\nCookie: note={{KEY}}; lang=en\n", "\nAuthorization: Basic {{NAME}}:{{PASSWORD}}\n",
		"\nname=a+b%26c%3D%C3%BC&many=1&many=2\n", "name=\"scan\"; filename=\"scan\"\n\n< ./scan\n--part-of-the-request--\n",
		"\nPATCH " + base + "/words?a=b&key={{KEY}}\n", "\nContent-Type: text/plain\n\none 'two'\nthree\n",
	} {
		require.Contains(t, requests, want)
	}

	text, err := sample.Archive(calls, "2026-11-20T09:00:00Z", "Harbour Stores", "1.0.0")
	require.NoError(t, err)
	var archive struct {
		Log struct {
			Version string
			Entries []struct {
				Request struct {
					Method, URL string
					PostData    struct {
						MimeType, Text string
						Params         []struct{ Name, Value, FileName string }
					}
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(text, &archive))
	require.Equal(t, "1.2", archive.Log.Version)
	require.Len(t, archive.Log.Entries, len(calls))
	require.Equal(t, "scan", archive.Log.Entries[2].Request.PostData.Params[1].FileName)
}

// hostile is a description whose names and texts would do something where a sample is run.
const hostile = `openapi: 3.2.0
info: {title: Evil, version: 1.0.0}
paths:
  /a:
    get:
      operationId: a
      summary: "List\ntouch canary"
      security: [{k: []}]
      responses: {'200': {description: A.}}
    post:
      operationId: c
      security: [{c: []}]
      parameters: [{name: 'X-A"$(touch canary)', in: header, required: true, schema: {type: string}}]
      requestBody: {content: {'multipart/form-data': {schema: {type: object, required: ['x=@/etc/passwd;filename=', '../../p'], properties: {'x=@/etc/passwd;filename=': {type: string, contentMediaType: image/png}, '../../p': {type: string, contentMediaType: image/png}}}}}}
      responses: {'200': {description: A.}}
    put:
      operationId: d
      security: [{q: []}]
      requestBody: {content: {'text/plain': {schema: {type: string}, example: "a\n< /etc/passwd\n### b"}}}
      responses: {'200': {description: A.}}
    patch:
      operationId: e
      requestBody: {content: {application/json: {schema: {type: object}, example: {a: '{{$processEnv HOME}}'}}}}
      responses: {'200': {description: A.}}
    additionalOperations:
      'LINK; touch canary': {operationId: b, responses: {'200': {description: A.}}}
components:
  securitySchemes:
    k: {type: apiKey, in: header, name: 'X"; touch canary; "$(touch canary)'}
    c: {type: apiKey, in: cookie, name: '` + "`+require(\"fs\").writeFileSync(\"canary\",\"\")+`${require(\"fs\").writeFileSync(\"canary\",\"\")}" + `'}
    q: {type: apiKey, in: query, name: "a';touch canary;'"}
`

// TestHostileSamples runs what a hostile author would have a reader run: nothing of it happens.
func TestHostileSamples(t *testing.T) {
	t.Parallel()
	base, _ := echo(t)
	calls := takenOf(t, base, hostile)
	require.Len(t, calls, 5)
	dir := t.TempDir()
	run := func(cmd *exec.Cmd, text string) {
		cmd.Dir, cmd.Env = dir, append(os.Environ(), "KEY=k-1", "GOFLAGS=-mod=mod")
		out, err := cmd.CombinedOutput() // a client may refuse such a header, and that is well
		_ = err
		require.NoFileExists(t, filepath.Join(dir, "canary"), "%s\n%s", text, out)
	}
	for _, call := range calls {
		for _, id := range []string{"curl", "javascript", "python"} {
			chosen, err := sample.Choose([]string{id})
			require.NoError(t, err)
			if id == "python" && testing.Short() {
				continue
			}
			text := chosen[0].Write(call.Call)
			run(runners[id](dir, text), text)
		}
		for _, p := range call.Parts {
			require.NotContains(t, p.File, "/")
			require.NotContains(t, p.File, "..")
		}
	}
	script := sample.Script(calls)
	run(exec.Command("sh", "-c", script), script)
	requests := sample.Requests(calls)
	require.Equal(t, 2, strings.Count(requests, "# It cannot stand in a file of this kind"), requests)
	require.NotContains(t, requests, "/etc/passwd\n")
	require.NotContains(t, requests, "$processEnv")
	require.NotContains(t, strings.ReplaceAll(requests, "### List touch canary", ""), "\ntouch canary")
}
