package replay_test

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/format"
	"oldledger/core/reliance"
	"oldledger/core/replay"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

// archived writes exchanges as an archive. Each is a request line, its headers, its body, a line with an arrow and the status and media
// type of the answer, and its body; an empty line ends it.
func archived(t *testing.T, text string) string {
	t.Helper()
	type object = map[string]any
	entries := []any{}
	for block := range strings.SplitSeq(strings.TrimSpace(text), "\n\n") {
		lines := strings.Split(block, "\n")
		method, address, ok := strings.Cut(lines[0], " ")
		require.True(t, ok, "%s is no request", lines[0])
		request := object{"method": method, "url": address, "headers": []any{}}
		answer := object{"status": 0}
		headers, body, mediaType := []any{}, "", ""
		rest := lines[1:]
		for len(rest) > 0 && !strings.HasPrefix(rest[0], "→") {
			if name, v, is := strings.Cut(rest[0], ": "); is && body == "" && !strings.ContainsAny(name, `{["=`) {
				headers = append(headers, object{"name": name, "value": v})
				if strings.EqualFold(name, "content-type") {
					mediaType = v
				}
			} else {
				body += rest[0]
			}
			rest = rest[1:]
		}
		request["headers"] = headers
		if body != "" {
			request["postData"] = object{"mimeType": mediaType, "text": body}
		}
		if len(rest) > 0 {
			words := strings.Fields(rest[0])
			status, err := strconv.Atoi(words[1])
			require.NoError(t, err)
			answer["status"] = status
			if len(words) > 2 {
				answer["content"] = object{"mimeType": words[2], "text": strings.Join(rest[1:], "\n")}
			}
		}
		entries = append(entries, object{"startedDateTime": "2026-11-02T10:04:11Z", "request": request, "response": answer})
	}
	out, err := json.Marshal(object{"log": object{"version": "1.2", "entries": entries}})
	require.NoError(t, err)
	return string(out)
}

func exchangesOf(t *testing.T, calls string) []*exchange.Exchange {
	t.Helper()
	var all []*exchange.Exchange
	read, err := exchange.Read(context.Background(), strings.NewReader(archived(t, calls)), func(e *exchange.Exchange) error {
		all = append(all, e)
		return nil
	})
	require.NoError(t, err)
	require.Empty(t, read.Wrong)
	return all
}

// told writes a report as the cases have it.
func told(r *replay.Report) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%d of %d pass: %s\n", r.Passed, r.Exchanges, strings.Join(r.Operations, ", "))
	for _, e := range r.Elsewhere {
		fmt.Fprintf(&b, "elsewhere %s: %d\n", e.Host, e.Exchanges)
	}
	for _, f := range r.Findings {
		fmt.Fprintf(&b, "%s %s %s: %s", f.Grade.Mark(), f.Kind, f.Operation, f.Title)
		if at := f.Location.String(); at != "" {
			fmt.Fprintf(&b, " (%s)", at)
		}
		if len(f.Also) > 0 {
			fmt.Fprintf(&b, " also %s", strings.Join(f.Also, ", "))
		}
		fmt.Fprintf(&b, " %v\n", f.Exchanges)
		for line := range strings.Lines(f.Message) {
			fmt.Fprintf(&b, "    %s\n", strings.TrimSuffix(line, "\n"))
		}
	}
	return b.String()
}

// TestCases replays exchanges, as they are and without their credentials, and learns from them.
func TestCases(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		var version *contract.Contract
		var o replay.Options
		calls, learns := "", false
		for _, f := range a.Files {
			switch f.Name {
			case "version.yaml", "recorded.yaml":
				file, err := source.Parse(f.Name, f.Data)
				require.NoError(t, err)
				c, err := format.Read(source.SetOf(file))
				require.NoError(t, err)
				require.Empty(t, c.Diagnostics)
				if f.Name == "version.yaml" {
					version = c
				} else {
					o.Recorded = c
				}
			case "reads.yaml":
				file, err := source.Parse(f.Name, f.Data)
				require.NoError(t, err)
				r, err := reliance.Read(file)
				require.NoError(t, err)
				require.Len(t, r.Needs, 1)
				o.Need = r.Needs[0]
			case "refuses":
				o.Refuses = true
			case "calls":
				calls = string(f.Data)
			case "learnt.yaml":
				learns = true
			}
		}
		plain, masked := replay.New(context.Background(), version, o), replay.New(context.Background(), version, o)
		built := o.Recorded
		if built == nil {
			built = version
		}
		learner := replay.NewLearner(built)
		for _, e := range exchangesOf(t, calls) {
			plain.Take(e)
			masked.Take(e.Masked())
			learner.Take(e)
		}
		report := plain.Report()
		want := map[string]string{"want.txt": told(report)}
		assert.LessOrEqual(t, report.Exchanges-report.Passed, report.Exchanges)
		assert.GreaterOrEqual(t, masked.Report().Passed, report.Passed, "what is masked fails nothing")
		if learns {
			need := learner.Need("berths", "1")
			text := (&reliance.Reliance{Needs: []*reliance.Need{need}}).Value().YAML()
			file, err := source.Parse("learnt.yaml", text)
			require.NoError(t, err)
			again, err := reliance.Read(file)
			require.NoError(t, err, "%s", text)
			require.Equal(t, string(text), string(again.Value().YAML()))
			require.NoError(t, again.Needs[0].Resolve(built))
			want["learnt.yaml"] = string(text)
		}
		return want
	})
}

// TestHostile ends soon, and tells little, of recordings that are made to keep it busy.
func TestHostile(t *testing.T) {
	t.Parallel()
	file, err := source.Parse("version.yaml", []byte(`openapi: 3.1.0
info: {title: Berths, version: 2.0.0}
paths:
  /berths:
    get: {responses: {'200': {description: All, content: {application/json: {schema: {type: object, properties: {items: {type: array, items: {type: object, properties: {id: {type: string}}}}}}}}}}}
    post: {requestBody: {content: {application/json: {schema: {type: object, properties: {a: {type: integer}}}}}}, responses: {'201': {description: It}}}
`))
	require.NoError(t, err)
	version, err := format.Read(source.SetOf(file))
	require.NoError(t, err)
	many := func(n int, one func(i int) string) string {
		all := make([]string, n)
		for i := range all {
			all[i] = one(i)
		}
		return strings.Join(all, ",")
	}
	for name, calls := range map[string]string{
		"an answer with many members that nobody describes": "GET https://x/berths\n→ 200 application/json\n{\"items\": [" +
			many(20_000, func(i int) string { return fmt.Sprintf(`{"id": "N-%d", "x%d": 1}`, i, i) }) + "]}",
		"many parameters":    "GET https://x/berths?" + strings.ReplaceAll(many(5_000, func(i int) string { return fmt.Sprintf("a%d=1", i) }), ",", "&") + "\n→ 200",
		"deep values":        "POST https://x/berths\nContent-Type: application/json\n" + strings.Repeat("[", 5_000) + strings.Repeat("]", 5_000) + "\n→ 201",
		"a terminal's words": "POST https://x/berths?%1b%5b31m=1\nContent-Type: application/json\n{\"\\u001b[31mred\\u0007\": 1, \"a\": \"\\u001b[2J\"}\n→ 201",
		"a huge number":      "POST https://x/berths\nContent-Type: application/json\n{\"a\": 1" + strings.Repeat("0", 900) + ".5}\n→ 201",
	} {
		r := replay.New(context.Background(), version, replay.Options{})
		for _, e := range exchangesOf(t, calls) {
			r.Take(e)
		}
		report := r.Report()
		require.NotEmpty(t, report.Findings, name)
		require.LessOrEqual(t, len(report.Findings), 402, name)
		for _, f := range report.Findings {
			require.LessOrEqual(t, len([]rune(f.Message)), 1_001, name)
			require.NotContains(t, f.Title+f.Message, "\x1b", name)
		}
	}
}
