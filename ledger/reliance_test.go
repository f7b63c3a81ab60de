package ledger_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/ledger"
	"oldledger/ledger/records"
)

// recording is an archive of some bookings, each with the answer that it got.
func recording(answers ...string) *strings.Reader {
	var entries []string
	for i, a := range answers {
		entries = append(entries, fmt.Sprintf(`{"startedDateTime": "2026-01-0%dT10:00:00Z", "request": {"method": "GET", "url": "https://api.saltmere.example/slips",
			"headers": [{"name": "Authorization", "value": "Bearer verysecret"}]},
			"response": {"status": 200, "content": {"mimeType": "application/json", "text": %q}}}`, i+1, a))
	}
	return strings.NewReader(`{"log": {"version": "1.2", "entries": [` + strings.Join(entries, ",") + `]}}`)
}

// slips describes an API that answers with some fields.
func slips(version, properties string) []byte {
	return fmt.Appendf(nil, `openapi: 3.1.0
info: {title: Slips, version: %q, x-ledger-name: slips}
servers: [{url: 'https://api.saltmere.example'}]
paths:
  /slips:
    get:
      operationId: listSlips
      responses: {'200': {description: All., content: {application/json: {schema: {type: object, properties: {%s}}}}}}
`, version, properties)
}

// TestReliance says what a consumer relies on: who may, who learns of it, and what a change then means for it.
func TestReliance(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, _, as := called(t)
	require.NoError(t, l.SetAudience(ctx, as("imke"), "", ledger.AudienceWish{Published: &ledger.Audience{ledger.SignedIn}, Reason: "x"}))
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "mika", Full: "Mika"}, "long enough"))
	require.NoError(t, l.PutConsumer(ctx, as("mika"), "planner", ledger.ConsumerWish{}))
	relies := func(who, text string) error { return l.Rely(ctx, as(who), "planner", text) }
	for text, want := range map[string]string{
		"relies: {berths: {GET /none: everything}}": "berths@2.0.0: reliance.yaml:1:19: there is no operation GET /none",
		"relies: {berths@7: {}}":                    "berths",
		"relies: {absent: {}}":                      "there is no API called absent",
		"relies: []":                                "reliance.yaml:1:9",
		"consumer: other\nrelies: {}":               "the file speaks of other",
		"relies: " + strings.Repeat("x", 1<<20):     "at most 1024 KB",
	} {
		require.ErrorContains(t, relies("mika", text), want, "%.60s", text)
	}
	require.Equal(t, ledger.NotFound, fault(relies("reader.q", "relies: {}")), "nobody else knows of it")
	require.NoError(t, relies("mika", "relies: {berths@1.0.0: {POST /bookings: {body: [a], reads: []}}}"))
	require.NoError(t, relies("mika", "relies: {berths@1.0.0: {POST /bookings: {body: [b], reads: []}}, pilots: {POST /bookings: everything}}"))
	require.NoError(t, relies("mika", "relies: {berths@1.0.0: {POST /bookings: {body: [b], reads: []}}}"))
	said, err := l.Reliance(ctx, as("mika"), "planner")
	require.NoError(t, err)
	require.Equal(t, "consumer: planner\nrelies:\n  berths@1.0.0:\n    POST /bookings:\n      body:\n        - b\n      reads: []\n", said.Text)
	require.Len(t, said.APIs, 1)

	told := func(who string) ledger.TouchingChange {
		i, err := l.Impact(ctx, as(who), "berths@1.0.0", "berths@2.0.0", compare.Options{})
		require.NoError(t, err)
		for _, ch := range i.Changes {
			if strings.HasPrefix(ch.Title, "b ") {
				return ch
			}
		}
		require.Fail(t, "b leaves")
		return ledger.TouchingChange{}
	}
	ch := told("reader.q")
	require.Equal(t, compare.Hazard, ch.Backward)
	require.Equal(t, []string{"planner"}, ch.Relies)
	require.Equal(t, []string{"planner"}, ch.Breaks)
	require.Equal(t, compare.Breaking, ch.Grade())
	hidden := told("reader.n")
	require.Empty(t, hidden.Relies)
	require.Empty(t, hidden.Users)
	require.Equal(t, 1, hidden.Hidden)
	require.NoError(t, relies("mika", "relies: {berths@1.0.0: {POST /bookings: {body: [a], reads: []}}}"))
	require.Empty(t, told("reader.q").Users)

	r, err := l.MayGo(ctx, as("lead.q"), "berths@1")
	require.NoError(t, err)
	require.Equal(t, []string{"planner"}, r.Reliant)
	require.NoError(t, relies("mika", "relies: {berths@2: {POST /bookings: {body: [a], reads: []}}}"))
	r, err = l.MayGo(ctx, as("lead.q"), "berths@1")
	require.NoError(t, err)
	require.Empty(t, r.Reliant)
	intact(t, l)
	require.NoError(t, l.DropConsumer(ctx, as("mika"), "planner"))
	intact(t, l)
}

func intact(t *testing.T, l *ledger.Ledger) {
	t.Helper()
	v, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
}

// TestRecordings keeps what a consumer was recorded to do, without its credentials, and lets no version out that no longer answers it.
func TestRecordings(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, s, as := called(t)
	for number, fields := range map[string]string{"1.0.0": "a: {type: string}, b: {type: string}", "2.0.0": "a: {type: string}"} {
		_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "slips", File: "slips.yaml", Text: slips(number, fields)})
		require.NoError(t, err)
		_, err = l.Publish(ctx, as("lead.q"), "slips@"+number, nil)
		require.NoError(t, err)
	}
	yes := true
	title := "Boards"
	require.NoError(t, l.PutConsumer(ctx, as("editor.q"), "boards", ledger.ConsumerWish{Title: &title, Team: new("Quayside")}))
	add := func(who, version string, archive *strings.Reader, guards *bool) (ledger.AddedRecording, error) {
		return l.AddRecording(ctx, as(who), ledger.RecordingWish{Consumer: "boards", Version: version, Archive: archive, Guards: guards})
	}
	for name, bad := range map[string]struct {
		who, version string
		archive      *strings.Reader
		fault        ledger.Fault
	}{
		"somebody of another team": {"editor.n", "slips@1.0.0", recording("{}"), ledger.NotFound},
		"a reader":                 {"reader.q", "slips@1.0.0", recording("{}"), ledger.Forbidden},
		"no archive":               {"editor.q", "slips@1.0.0", strings.NewReader("[]"), ledger.Invalid},
		"a version that is not":    {"editor.q", "slips@9.0.0", recording("{}"), ledger.NotFound},
	} {
		_, err := add(bad.who, bad.version, bad.archive, nil)
		require.Error(t, err, name)
		require.Equal(t, bad.fault, fault(err), "%s: %v", name, err)
	}
	_, err := add("editor.q", "slips@1.0.0", recording(`{"a": "x", "b": "y"}`), &yes)
	require.Equal(t, ledger.Forbidden, fault(err), "what the gate does is for those who publish")
	added, err := add("editor.q", "slips@1.0.0", recording(`{"a": "x", "b": "y"}`, `{"a": "x", "b": "y"}`, `{"a": "z"}`), nil)
	require.NoError(t, err)
	require.Equal(t, 2, added.Exchanges)
	require.Equal(t, 1, added.Alike)
	archive, err := l.RecordingArchive(ctx, as("reader.q"), "boards", "slips")
	require.NoError(t, err)
	require.Contains(t, string(archive), "Bearer (masked)")
	require.NotContains(t, string(archive), "verysecret")
	_, err = l.RecordingArchive(ctx, as("reader.n"), "boards", "slips")
	require.Equal(t, ledger.NotFound, fault(err))
	_, err = l.Replay(ctx, as("lead.n"), "boards", "slips@2.0.0")
	require.Equal(t, ledger.NotFound, fault(err))
	report, err := l.Replay(ctx, as("reader.q"), "boards", "slips@2.0.0")
	require.NoError(t, err)
	require.Equal(t, 1, report.Passed)
	rows, err := l.LineupClients(ctx, as("reader.q"), "slips")
	require.NoError(t, err)
	require.Equal(t, []ledger.LineupPassed{{2, 0}, {1, 1}}, rows[0].Cells)
	rows, err = l.LineupClients(ctx, as("reader.n"), "slips")
	require.NoError(t, err)
	require.Empty(t, rows)

	// The gate asks it of what follows in its line, whatever the promise says of that.
	none := string("none")
	require.NoError(t, l.Set(ctx, as("publisher.q"), "slips", ledger.Settings{Promise: &none, Reason: "x"}))
	draft := slips("1.1.0", "a: {type: string}")
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "slips", File: "slips.yaml", Text: draft})
	require.NoError(t, err)
	gate, err := l.Gate(ctx, as("lead.q"), "slips@1.1.0")
	require.NoError(t, err)
	require.True(t, gate.Open)
	require.NoError(t, l.SetGuards(ctx, as("publisher.q"), "boards", "slips", true))
	require.Equal(t, ledger.Forbidden, fault(l.SetGuards(ctx, as("editor.q"), "boards", "slips", false)))
	require.Equal(t, ledger.Forbidden, fault(l.DropRecording(ctx, as("editor.q"), "boards", "slips")), "one that guards is no editor's to take away")
	_, err = l.Publish(ctx, as("lead.q"), "slips@1.1.0", nil)
	var shut *ledger.GateShut
	require.ErrorAs(t, err, &shut)
	require.Len(t, shut.Gate.Obstacles, 1)
	o := shut.Gate.Obstacles[0]
	require.Equal(t, "boards", o.Consumer)
	require.Equal(t, "what boards was recorded to do no longer passes: b is described nowhere", o.Change.Title)
	require.Contains(t, o.Change.Why, `{"b": "y"}`)

	// What the consumer says that it reads decides.
	require.NoError(t, l.Rely(ctx, as("editor.q"), "boards", "relies: {slips@1.0.0: {GET /slips: {reads: [a]}}}"))
	gate, err = l.Gate(ctx, as("lead.q"), "slips@1.1.0")
	require.NoError(t, err)
	require.True(t, gate.Open)
	require.NoError(t, l.Rely(ctx, as("editor.q"), "boards", "relies: {}"))
	_, err = l.Publish(ctx, as("lead.q"), "slips@1.1.0", []ledger.Waive{{Change: o.Change.ID, Reason: "They know."}})
	require.NoError(t, err)
	intact(t, l)

	// What was recorded with a draft that is gone stands in nobody's way.
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "slips", File: "slips.yaml", Text: slips("1.2.0", "a: {type: string}, b: {type: string}")})
	require.NoError(t, err)
	_, err = add("lead.q", "slips@1.2.0", recording(`{"a": "x", "b": "y"}`), &yes)
	require.NoError(t, err)
	require.NoError(t, l.Discard(ctx, as("editor.q"), "slips@1.2.0"))
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "slips", File: "slips.yaml", Text: slips("1.3.0", "a: {type: string}, b: {type: string}")})
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.q"), "slips@1.3.0", nil)
	require.NoError(t, err)
	rows, err = l.LineupClients(ctx, as("reader.q"), "slips")
	require.NoError(t, err)
	require.Len(t, rows[0].Cells, 4)

	// Two at once keep one of both.
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() {
			_, err := add("editor.q", "slips@1.0.0", recording(`{"a": "x"}`), nil)
			require.NoError(t, err)
		})
	}
	wait.Wait()
	kept, err := s.Read().Recordings(ctx, "slips", "")
	require.NoError(t, err)
	require.Len(t, kept, 1)
	require.True(t, kept[0].Guards, "it goes on guarding")
	intact(t, l)
	require.NoError(t, s.Write(ctx, func(r records.Rows) error { return r.SetGuards(ctx, "boards", "slips", false) }))
	v, err := l.VerifyJournal(ctx, ledger.Itself, "")
	require.NoError(t, err)
	require.Contains(t, v.Why, "the recording of boards with slips is not as the journal says")
	require.Error(t, l.DropRecording(ctx, as("lead.n"), "boards", "slips"))
	require.NoError(t, l.DropRecording(ctx, as("lead.q"), "boards", "slips"))
}
