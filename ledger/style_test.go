package ledger_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/source"
	"oldledger/ledger"
)

const houseRules = `house-style: Saltmere Harbour
change:
  summary-there: {weight: error, because: Everybody reads the contents.}
rules:
  booking-held:
    about: response
    must: "!response.description.contains('Held')"
    says: "{response.called} speaks of holding"
    weight: error
    bad: |
      paths: {/a: {get: {responses: {'200': {description: Held.}}}}}
    good: |
      paths: {/a: {get: {responses: {'200': {description: Moored.}}}}}
`

// told are the errors that are found in a version, by their rules.
func told(t *testing.T, l *ledger.Ledger, who ledger.Actor, ref string) string {
	t.Helper()
	found, err := l.FindingsOf(t.Context(), who, ref)
	require.NoError(t, err)
	var all []string
	for _, d := range found.Diagnostics() {
		if d.Severity == source.Error {
			all = append(all, d.Rule)
		}
	}
	return strings.Join(all, " ")
}

// TestStyles has a house, a team and an API say what their styles are: each changes the one above it, the gate asks for no error of
// what is in force, and nobody takes away what another one builds on.
func TestStyles(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	all, team, api := ledger.StyleScope{}, ledger.StyleScope{Team: "Quayside"}, ledger.StyleScope{API: "berths"}
	put := func(who string, of ledger.StyleScope, text string, last int) error {
		_, err := l.PutStyle(ctx, as(who), of, text, "as settled", last)
		return err
	}
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	require.Empty(t, told(t, l, as("reader.q"), "berths@1.0.0"))
	require.NoError(t, put("imke", all, houseRules, 0))
	require.Equal(t, "summary-there booking-held", told(t, l, as("reader.q"), "berths@1.0.0"))

	var shut *ledger.Mistaken
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.ErrorAs(t, err, &shut)
	require.Len(t, shut.Mistakes, 2)
	require.Contains(t, err.Error(), "berths.yaml:5:5: POST /bookings has no summary")

	// The team lets one rule go, and says why; the API keeps it after all, softer.
	require.NoError(t, put("lead.q", team, "house-style: Quayside\nchange: {booking-held: {weight: 'off', because: We hold.}}\n", 0))
	require.Equal(t, "summary-there", told(t, l, as("reader.q"), "berths@1.0.0"))
	require.NoError(t, put("lead.q", api, "house-style: Berths\nchange: {summary-there: {weight: hint, because: Soon.}}\n", 0))
	require.Empty(t, told(t, l, as("reader.q"), "berths@1.0.0"))
	in, err := l.StyleOf(ctx, as("reader.q"), api)
	require.NoError(t, err)
	require.Equal(t, "Saltmere Harbour 1, Quayside 1, Berths 1", in.Name)
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.NoError(t, err)

	// What others build on stays, and so does what somebody changed meanwhile.
	require.ErrorContains(t, put("imke", all, "", 1), "others build on it: the style of the team Quayside")
	require.ErrorContains(t, put("imke", all, houseRules+"\n", 0), "is at version 1 by now, and you changed version 0")
	require.ErrorContains(t, put("imke", all, houseRules, 1), "says that already")
	require.ErrorContains(t, put("imke", ledger.StyleScope{Team: "Nobody"}, houseRules, 0), "there is no team Nobody")
	require.ErrorContains(t, put("imke", ledger.StyleScope{API: "none"}, houseRules, 0), "there is no API called none")

	// A style that cannot be used is refused with its place, and one whose rules are wrong of their examples, too.
	require.ErrorContains(t, put("lead.q", team, "house-style: Quayside\nchange: {boking-held: {weight: 'off', because: x}}\n", 1), `did you mean "booking-held"?`)
	require.ErrorContains(t, put("imke", all, strings.Replace(houseRules, "description: Held", "description: Hold", 1), 1),
		"booking-held: it finds nothing in a bad example")
	require.ErrorContains(t, put("imke", all, strings.Repeat("#", 300<<10), 1), "has at most")

	// Of those who may not, nobody does.
	for _, who := range []string{"reader.q", "editor.q", "lead.n"} {
		for _, of := range []ledger.StyleScope{all, team, api} {
			var refused *ledger.Error
			require.ErrorAs(t, put(who, of, "house-style: Mine\n", 9), &refused)
			require.Contains(t, []ledger.Fault{ledger.Forbidden, ledger.NotFound}, refused.Fault, "%s %s", who, of)
		}
	}
	_, err = l.Styles(ctx, as("lead.n"), team)
	require.Error(t, err)
	_, err = l.Styles(ctx, ledger.Nobody, all)
	require.Error(t, err)

	// Every version is kept, and held against the journal.
	require.NoError(t, put("lead.q", api, "", 1))
	kept, err := l.Styles(ctx, as("lead.q"), api)
	require.NoError(t, err)
	require.Len(t, kept, 2)
	require.Equal(t, "summary-there", told(t, l, as("reader.q"), "berths@1.0.0"))
	_, err = l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
}

// TestMend mends findings of a draft, and of nothing else.
func TestMend(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	text := strings.Replace(string(describe("1.0.0", "a: {type: string}")), "operationId: book", "operationId: book # so be it\n      summary: book a berth.", 1)
	rec, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: []byte(text)})
	require.NoError(t, err)
	found, err := l.FindingsOf(ctx, as("editor.q"), "berths@1.0.0")
	require.NoError(t, err)
	ids := []string{}
	for _, f := range found.Findings {
		if f.Rule == "summary-stop" {
			ids = append(ids, ledger.FindingID(f))
		}
	}
	require.Len(t, ids, 1)
	_, _, err = l.Mend(ctx, as("editor.q"), "berths@1.0.0", "another", ids)
	require.ErrorContains(t, err, "is not as you last read it")
	_, _, err = l.Mend(ctx, as("reader.q"), "berths@1.0.0", rec.Version.Digest, ids)
	require.Error(t, err)
	_, _, err = l.Mend(ctx, as("editor.q"), "berths@1.0.0", rec.Version.Digest, []string{"none"})
	require.ErrorContains(t, err, "nothing of that can be mended")
	now, n, err := l.Mend(ctx, as("editor.q"), "berths@1.0.0", rec.Version.Digest, ids)
	require.NoError(t, err)
	require.Equal(t, 1, n)
	files, err := l.Files(ctx, as("editor.q"), "berths@1.0.0")
	require.NoError(t, err)
	require.Equal(t, strings.Replace(text, "berth.", "berth", 1), files[0].Text)
	now, n, err = l.Mend(ctx, as("editor.q"), "berths@1.0.0", now.Version.Digest, nil)
	require.NoError(t, err)
	require.Equal(t, 1, n)
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.NoError(t, err)
	_, _, err = l.Mend(ctx, as("editor.q"), "berths@1.0.0", now.Version.Digest, nil)
	var refused *ledger.Error
	require.True(t, errors.As(err, &refused) && refused.Fault == ledger.Conflict)
}

// TestGrading has the house say which hazards count as breaking at its gate, and an API take one back.
func TestGrading(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	text := func(number, parameters string) []byte {
		return []byte("openapi: 3.1.0\ninfo: {title: Berths, version: " + number + ", x-ledger-name: berths}\npaths:\n  /berths:\n    get: {" + parameters +
			"responses: {'200': {description: Berths.}}}\n")
	}
	recorded := func(number, parameters string) {
		_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: text(number, parameters)})
		require.NoError(t, err)
	}
	recorded("1.0.0", "parameters: [{name: quay, in: query, schema: {type: string}}], ")
	_, err := l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.NoError(t, err)
	recorded("1.1.0", "")
	check, err := l.PublishCheck(ctx, as("lead.q"), "berths@1.1.0")
	require.NoError(t, err)
	require.True(t, check.Gate.Open)

	_, err = l.PutStyle(ctx, as("imke"), ledger.StyleScope{}, "house-style: Harbour\ngrading: {parameter.remove: x}\n", "", 0)
	require.ErrorContains(t, err, `there is no kind of change "parameter.remove"`)
	_, err = l.PutStyle(ctx, as("imke"), ledger.StyleScope{}, "house-style: Harbour\ngrading: {parameter.removed: Who asks means it.}\n", "", 0)
	require.NoError(t, err)
	check, err = l.PublishCheck(ctx, as("lead.q"), "berths@1.1.0")
	require.NoError(t, err)
	require.False(t, check.Gate.Open)
	require.Contains(t, check.Gate.Obstacles[0].Change.Why, "it counts as breaking here: Who asks means it.")
	var shut *ledger.GateShut
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.1.0", nil)
	require.ErrorAs(t, err, &shut)

	_, err = l.PutStyle(ctx, as("lead.q"), ledger.StyleScope{API: "berths"}, "house-style: Berths\ngrading: {parameter.removed: false}\n", "", 0)
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.1.0", nil)
	require.NoError(t, err)
}

// TestStylesAtOnce has several keep the style of a house at once: one does, and the others are told that they changed an old one.
func TestStylesAtOnce(t *testing.T) {
	t.Parallel()
	l, as := house(t)
	const writers = 6
	errs := make(chan error, writers)
	for i := range writers {
		go func() {
			_, err := l.PutStyle(t.Context(), as("imke"), ledger.StyleScope{}, fmt.Sprintf("house-style: House %d\n", i), "", 0)
			errs <- err
		}()
	}
	kept := 0
	for range writers {
		if err := <-errs; err == nil {
			kept++
		} else {
			require.ErrorContains(t, err, "is at version 1 by now, and you changed version 0")
		}
	}
	require.Equal(t, 1, kept)
	_, err := l.VerifyJournal(t.Context(), as("imke"), "")
	require.NoError(t, err)
}

// TestStyleUnread has an API's style rest on a rule of its team, and moves the API: what cannot be judged any more shuts the gate, and
// says so.
func TestStyleUnread(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	_, err = l.PutStyle(ctx, as("lead.q"), ledger.StyleScope{Team: "Quayside"},
		"house-style: Quayside\nrules: {ours: {about: api, must: 'true', says: never}}\n", "", 0)
	require.NoError(t, err)
	_, err = l.PutStyle(ctx, as("lead.q"), ledger.StyleScope{API: "berths"},
		"house-style: Berths\nchange: {ours: {weight: error, because: It is ours.}}\n", "", 0)
	require.NoError(t, err)
	require.Empty(t, told(t, l, as("lead.q"), "berths@1.0.0"))
	require.NoError(t, l.Set(ctx, as("imke"), "berths", ledger.Settings{Team: new("Navigation")}))
	_, err = l.Publish(ctx, as("imke"), "berths@1.0.0", nil)
	require.ErrorContains(t, err, `the style of berths is left out: api-berths-style.yaml:2:10: there is no rule "ours"`)
	_, err = l.PutStyle(ctx, as("imke"), ledger.StyleScope{API: "berths"}, "", "It is theirs now.", 1)
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("imke"), "berths@1.0.0", nil)
	require.NoError(t, err)
}
