package ledger_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/ledger"
)

// TestHiddenInEveryDialect hides an operation of descriptions of every kind, in one file and in several: readers get neither it nor what
// only it has, in whatever form they ask, and the house gets all; what is not hidden reads as it was recorded.
func TestHiddenInEveryDialect(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	for name, c := range map[string]struct {
		file, text string
		others     map[string][]byte
		inside     bool // whether the description hides it itself
	}{
		"OpenAPI 2.0 as JSON": {file: "a.json", text: `{"swagger": "2.0", "info": {"title": "Quays", "version": "%s"}, "paths": {
			"/quays": {"get": {"operationId": "listQuays", "responses": {"200": {"description": "All.", "schema": {"$ref": "#/definitions/Quay"}}}}},
			"/marked": {"post": {"operationId": "markedOp", "consumes": ["application/json"], "parameters": [{"name": "b", "in": "body", "schema": {"$ref": "#/definitions/Marked"}}], "responses": {"200": {"description": "Marked."}}}}},
			"definitions": {"Quay": {"type": "object", "properties": {"name": {"type": "string"}}}, "Marked": {"type": "object", "properties": {"marked": {"type": "%s"}}}}}`},
		"several files": {
			file: "a.yaml", text: "openapi: 3.1.0\ninfo: {title: Quays, version: %s}\npaths:\n  /quays: {get: {operationId: listQuays, responses: {'200': {description: All., content: {application/json: {schema: {$ref: 'q.yaml#/Quay'}}}}}}}\n  /marked: {$ref: 'marked.yaml'}\n",
			others: map[string][]byte{
				"q.yaml":      []byte("Quay: {type: object, properties: {name: {type: string}}}\n"),
				"marked.yaml": []byte("post: {operationId: markedOp, requestBody: {content: {application/json: {schema: {type: object, properties: {marked: {type: %s}}}}}}, responses: {'200': {description: Marked.}}}\n"),
			},
		},
		"RAML": {
			file: "a.raml",
			text: "#%%RAML 1.0\ntitle: Quays\nversion: %s\ntypes:\n  Quay: {properties: {name: string}}\n  Marked: {properties: {marked: %s}}\n/quays:\n  get:\n    responses: {200: {body: {application/json: Quay}}}\n/marked:\n  post:\n    displayName: markedOp\n    body: {application/json: Marked}\n",
		},
		"said in the description": {
			file:   "a.yaml",
			text:   "openapi: 3.0.3\ninfo: {title: Quays, version: %s}\npaths:\n  /quays: {get: {operationId: listQuays, responses: {'200': {description: All.}}}}\n  /marked: {post: {operationId: markedOp, 'x-ledger-hidden': true, responses: {'200': {description: 'Marked, %s.'}}}}\n",
			inside: true,
		},
		"said in RAML": {
			file: "a.raml", inside: true,
			text: "#%%RAML 1.0\ntitle: Quays\nversion: %s\n/quays:\n  get:\n    responses: {200: {}}\n/marked:\n  post:\n    displayName: markedOp\n    (ledger-hidden): true\n    body: {application/json: {properties: {marked: %s}}}\n",
		},
		"said by a trait, in parts": {
			file: "a.raml", inside: true,
			text: "#%%RAML 1.0\ntitle: Quays\nversion: %s\nuses: {lib: lib.raml}\n/quays:\n  get:\n    responses: {200: {}}\n/marked:\n  post:\n    is: [{lib.kept: {how: HIDDEN}}]\n    displayName: markedOp\n",
			others: map[string][]byte{
				"lib.raml": []byte("#%%RAML 1.0 Library\ntraits:\n  kept:\n    (ledger-<<how | !lowercase>>): true\n    body: {application/json: {properties: {marked: %s}}}\n"),
			},
		},
	} {
		t.Run(name, func(t *testing.T) {
			_, l := openAt(t, "2026-01-10")
			for _, v := range []struct{ number, kind string }{{"1.0.0", "string"}, {"2.0.0", "integer"}} {
				others := map[string][]byte{}
				for path, text := range c.others {
					others[path] = text
					if strings.Contains(string(text), "%s") {
						others[path] = fmt.Appendf(nil, string(text), v.kind)
					}
				}
				text := fmt.Sprintf(c.text, v.number, v.kind)
				if len(c.others) > 0 {
					text = fmt.Sprintf(c.text, v.number)
				}
				rec, err := l.Record(ctx, teodor, ledger.Submission{API: "quays", File: c.file, Text: []byte(text), Others: others})
				require.NoError(t, err)
				_, err = l.Publish(ctx, teodor, rec.Version.Ref(), nil)
				require.NoError(t, err)
				before, err := l.Files(ctx, ledger.Nobody, rec.Version.Ref())
				require.NoError(t, err)
				if !c.inside {
					if v.number == "1.0.0" { // the overlay is carried over to what follows
						require.Equal(t, text, before[0].Text, "nothing is hidden yet")
					}
					_, err = l.PutOverlay(ctx, teodor, rec.Version.Ref(),
						"overlay: 1.0.0\ninfo: {title: O, version: 1.0.0}\nactions: [{target: \"$.paths['/marked'].post\", update: {\"x-ledger-\\x68idden\": True}}]\n",
						"")
					require.NoError(t, err)
					_, err = l.ShowOverlay(ctx, teodor, rec.Version.Ref())
					require.NoError(t, err)
				}
			}
			read := func(who ledger.Actor) string {
				var all strings.Builder
				for _, ref := range []string{"quays@1.0.0", "quays@2.0.0"} {
					files, err := l.Files(ctx, who, ref)
					require.NoError(t, err)
					_, whole, err := l.Bundled(ctx, who, ref)
					require.NoError(t, err)
					_, converted, err := l.Converted(ctx, who, ref, openapi.Targets[0])
					require.NoError(t, err)
					d, err := l.Description(ctx, who, ref)
					require.NoError(t, err)
					for _, op := range d.Contract.All() {
						fmt.Fprintln(&all, op.Key(), op.ID)
					}
					fmt.Fprintf(&all, "%v\n%s\n%s\n", files, whole, converted.Document.Indented())
				}
				comparison, err := l.Compare(ctx, who, "quays@1.0.0", "quays@2.0.0", compare.Options{})
				require.NoError(t, err)
				for _, ch := range comparison.Changes {
					fmt.Fprintln(&all, ch.Title, ch.Operation, ch.At)
				}
				g, err := l.Guide(ctx, who, "quays@1.0.0", "quays@2.0.0")
				require.NoError(t, err)
				return all.String() + g.Markdown()
			}
			require.NotContains(t, strings.ToLower(read(ledger.Nobody)), "marked")
			require.Contains(t, read(ledger.Nobody), "/quays")
			require.Contains(t, read(teodor), "markedOp")
			require.NotContains(t, strings.ToLower(read(ledger.Nobody)), "marked", "also after the house has read it")
		})
	}
}

// TestWordingWhatLeaves words a version that is deprecated: it stands where it stood, and a notice makes no difference to who edits it.
func TestWordingWhatLeaves(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	_, err := l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1.0.0", Sunset: "2026-06-01", Reason: "it is old"})
	require.NoError(t, err)
	_, err = l.PutOverlay(ctx, teodor, "berths@1.0.0",
		"overlay: 1.0.0\ninfo: {title: O, version: 1.0.0}\nactions: [{target: $.info, update: {description: Said.}}]\n", "")
	require.NoError(t, err)
	o, err := l.ShowOverlay(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Equal(t, "shown", o.State)
	v, err := l.Unpublish(ctx, teodor, "berths@1.0.0", "for a while")
	require.NoError(t, err)
	require.Equal(t, ledger.Unpublished, v.State)
}
