package ledger_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

var imke = ledger.By(ledger.Person{Name: "imke", Full: "Imke Aldous", Role: ledger.Admin})

// TestPromises lets a line promise something else than its API, with a reason; the gate asks the line.
func TestPromises(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	for _, n := range []string{"1.0.0", "2.0.0"} {
		record(t, l, n, "a: {type: string}")
		publish(t, l, "berths@"+n)
	}
	set := func(s ledger.Settings) error { return l.Set(ctx, teodor, "berths", s) }
	for want, bad := range map[string]ledger.Settings{
		"needs a reason":                   {Promise: new("none")},
		`"better" is no promise`:           {Promise: new("better"), Reason: "r"},
		`"two" is no line`:                 {Promise: new("none"), Line: "two", Reason: "r"},
		`"02" is no line`:                  {Promise: new("none"), Line: "02", Reason: "r"},
		"say what line 2 promises":         {Team: new("Q"), Line: "2"},
		"say what to set":                  {},
		`there is no team called "Q"`:      {Team: new("Q")},
		"an admin may set the notice":      {NoticeDays: new(3)},
		"a notice period has 0 to 3650 da": {NoticeDays: new(-2)},
	} {
		who := teodor
		if want == "a notice period has 0 to 3650 da" || bad.Team != nil {
			who = imke
		}
		require.ErrorContains(t, l.Set(ctx, who, "berths", bad), want)
	}
	require.ErrorContains(t, l.Set(ctx, imke, "moorings", ledger.Settings{Team: new("Q")}), "there is no API called moorings")

	require.NoError(t, l.AddTeam(ctx, imke, "Quayside"))
	require.NoError(t, l.Set(ctx, imke, "berths", ledger.Settings{Team: new(" Quayside ")}))
	require.NoError(t, set(ledger.Settings{Promise: new("none"), Line: "2", Reason: "Nobody calls line 2 yet."}))
	api, err := l.API(ctx, teodor, "berths")
	require.NoError(t, err)
	require.Equal(t, "Quayside", api.Team)
	require.EqualValues(t, "backward", api.PromiseOf("1"))
	require.EqualValues(t, "none", api.PromiseOf("2"))

	record(t, l, "2.1.0", "a: {type: integer}")
	record(t, l, "1.1.0", "a: {type: integer}")
	publish(t, l, "berths@2.1.0")
	_, err = l.Publish(ctx, teodor, "berths@1.1.0", nil)
	require.ErrorContains(t, err, "breaks the promise of its line, backward")

	require.NoError(t, set(ledger.Settings{Promise: new("both-ways"), Reason: "Rollbacks happen."}))
	require.NoError(t, set(ledger.Settings{Promise: new(""), Line: "2", Reason: "As the others."}))
	gate, err := l.Gate(ctx, teodor, "berths@2.1.0")
	require.NoError(t, err)
	require.EqualValues(t, "both-ways", gate.Promise)

	v, err := l.VerifyJournal(ctx, teodor, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
	said, err := l.Newest(ctx, teodor, ledger.Question{API: "berths", Act: "promise"}, 0, 10)
	require.NoError(t, err)
	require.Len(t, said, 3)
	require.JSONEq(t, `{"line": "2", "promise": "none", "before": "", "reason": "Nobody calls line 2 yet."}`, string(said[2].Detail))
}

// TestDiscard takes drafts away, with what was recorded of them, and leaves what was published.
func TestDiscard(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	record(t, l, "1.1.0", "b: {type: string}")
	record(t, l, "1.1.0", "c: {type: string}")
	link, err := l.CreatePreviewLink(ctx, teodor, "berths@1.1.0", 3)
	require.NoError(t, err)
	require.ErrorContains(t, l.Discard(ctx, teodor, "berths@1.0.0"), "only a draft can be taken away")
	require.ErrorContains(t, l.DiscardAPI(ctx, teodor, "berths"), "berths@1.0.0 is published")
	require.NoError(t, l.Discard(ctx, teodor, "berths@1.1.0"))
	require.ErrorContains(t, l.Discard(ctx, teodor, "berths@1.1.0"), "has no version 1.1.0")
	_, _, _, err = l.Shown(ctx, link.Path[len("/preview/"):len(link.Path)-1])
	require.ErrorContains(t, err, "There is no preview")
	api, err := l.API(ctx, teodor, "berths")
	require.NoError(t, err)
	require.Len(t, api.Versions, 1)
	v, err := l.VerifyJournal(ctx, teodor, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
	require.Equal(t, 1, v.Contents, "what was recorded of the draft is gone")

	// Recorded again it is what it says now, and nothing of before.
	rec := record(t, l, "1.1.0", "d: {type: string}")
	require.Equal(t, "new", rec.Outcome)
	revisions, err := l.Revisions(ctx, teodor, "berths@1.1.0")
	require.NoError(t, err)
	require.Len(t, revisions, 1)

	require.NoError(t, l.AddTeam(ctx, imke, "Quayside"))
	// An API goes with its drafts, its looks and its pictures; one of the same name begins anew.
	moorings := func() {
		_, err := l.Record(ctx, teodor, ledger.Submission{API: "moorings", Text: describe("1.0.0", "a: {type: string}"), Team: "Quayside"})
		require.NoError(t, err)
	}
	moorings()
	require.NoError(t, l.Discard(ctx, teodor, "moorings@draft"))
	api, err = l.API(ctx, teodor, "moorings")
	require.NoError(t, err)
	require.Equal(t, "moorings", api.Title, "what nothing is recorded of has its name")
	moorings()
	_, err = l.PutLooks(ctx, teodor, "moorings", ledger.Looks{Landing: "Hello"})
	require.NoError(t, err)
	require.NoError(t, l.Set(ctx, teodor, "moorings", ledger.Settings{Promise: new("none"), Line: "1", Reason: "r"}))
	require.NoError(t, l.DiscardAPI(ctx, teodor, "moorings"))
	_, err = l.API(ctx, teodor, "moorings")
	require.ErrorContains(t, err, "there is no API called moorings")
	moorings()
	api, err = l.API(ctx, teodor, "moorings")
	require.NoError(t, err)
	require.Empty(t, api.LinePromises)
	looks, err := l.Looks(ctx, teodor, "moorings")
	require.NoError(t, err)
	require.Empty(t, looks.Landing)
	v, err = l.VerifyJournal(ctx, teodor, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
}

// TestPreviewsListed lists previews without their addresses, and withdraws one.
func TestPreviewsListed(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	c, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	short, err := l.CreatePreviewLink(ctx, teodor, "berths@draft", 1)
	require.NoError(t, err)
	long, err := l.CreatePreviewLink(ctx, teodor, "berths@draft", 9)
	require.NoError(t, err)
	all, err := l.PreviewLinks(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Len(t, all, 2)
	for _, p := range all {
		require.Empty(t, p.Path)
		require.NotContains(t, short.Path+long.Path, p.ID)
	}
	c.now = c.now.AddDate(0, 0, 2)
	all, err = l.PreviewLinks(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Len(t, all, 1)
	require.Equal(t, long.ID, all[0].ID)
	require.ErrorContains(t, l.WithdrawPreview(ctx, teodor, "berths@1.0.0", "nothing"), "has no preview nothing")
	require.NoError(t, l.WithdrawPreview(ctx, teodor, "berths@1.0.0", long.ID))
	_, _, _, err = l.Shown(ctx, long.Path[len("/preview/"):len(long.Path)-1])
	require.ErrorContains(t, err, "There is no preview")
	_, err = l.PreviewLinks(ctx, ledger.Nobody, "berths@1.0.0")
	require.Error(t, err)
}

// TestQuestions asks the journal by person, API, act and time.
func TestQuestions(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	c, l := openAt(t, "2026-01-10")
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "berths", Full: "B", Role: ledger.Reader}, "long enough"))
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	c.now = c.now.AddDate(0, 1, 0)
	_, err := l.Deprecate(ctx, imke, ledger.Announcement{Ref: "berths@1.0.0", Line: true, Operation: "book", Reason: "r"})
	require.NoError(t, err)
	_, err = l.Record(ctx, teodor, ledger.Submission{API: "berths-two", Text: describe("1.0.0", "")})
	require.NoError(t, err)
	for _, q := range []struct {
		asked ledger.Question
		acts  []string
	}{
		{ledger.Question{API: "berths"}, []string{"version.recorded", "version.published", "notice.made"}},
		{ledger.Question{Actor: "imke"}, []string{"notice.made"}},
		{ledger.Question{Act: "version.published"}, []string{"version.published"}},
		{ledger.Question{Act: "version", API: "berths-two"}, []string{"version.recorded"}},
		{ledger.Question{From: "2026-01-11"}, []string{"notice.made", "version.recorded"}},
		{ledger.Question{Until: "2026-01-10", API: "berths"}, []string{"version.recorded", "version.published"}},
		{ledger.Question{Until: "2026-01-10T09:00:00Z"}, nil},
		{ledger.Question{API: "b*"}, nil},
		{ledger.Question{Act: "*"}, nil},
	} {
		entries, err := l.Journal(ctx, teodor, q.asked, 0, 10)
		require.NoError(t, err)
		var acts []string
		for _, e := range entries {
			acts = append(acts, e.Act)
		}
		require.Equal(t, q.acts, acts, "%+v", q.asked)
		newest, err := l.Newest(ctx, teodor, q.asked, 0, 10)
		require.NoError(t, err)
		require.Len(t, newest, len(entries))
	}
	_, err = l.Journal(ctx, teodor, ledger.Question{From: "yesterday"}, 0, 10)
	require.ErrorContains(t, err, `"yesterday" is no day`)
}

// TestWaiting tells of drafts before their gates, one's own first, and of what leaves soon.
func TestWaiting(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	c, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	record(t, l, "1.1.0", "a: {type: integer}")
	c.now = c.now.AddDate(0, 0, 1)
	_, err := l.Record(ctx, imke, ledger.Submission{Text: describe("2.0.0", "a: {type: integer}")})
	require.NoError(t, err)
	for sunset, reason := range map[string]string{"2026-02-01": "soon", "2027-02-01": "late"} {
		_, err := l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1.0.0", Sunset: sunset, Reason: reason})
		require.NoError(t, err)
	}
	w, err := l.Waiting(ctx, teodor)
	require.NoError(t, err)
	require.Len(t, w.Drafts, 2)
	require.Equal(t, "1.1.0", w.Drafts[0].Version.Number)
	require.True(t, w.Drafts[0].Mine)
	require.Equal(t, "1 change breaks the promise of its line, backward", w.Drafts[0].Why)
	require.True(t, w.Drafts[1].Open)
	require.Len(t, w.Notices, 1)
	require.Equal(t, "soon", w.Notices[0].Reason)
	_, err = l.Waiting(ctx, ledger.Nobody)
	require.Error(t, err)
}

// TestAdvisedNumber never advises a number that is taken, nor the one that it refuses.
func TestAdvisedNumber(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	for number, fields := range map[string]string{"1.0.0": "a: {type: string}", "1.1.0": "a: {type: string}, b: {type: string}", "2.0.0": "a: {type: integer}"} {
		record(t, l, number, fields)
		publish(t, l, "berths@"+number)
	}
	for _, c := range []struct{ text, want string }{
		{string(describe("1.0.0", "a: {type: string}, c: {type: string}")), "record this as 1.2.0"},
		{string(describe("1.0.0", "a: {type: boolean}")), "record this as 3.0.0"},
		{string(describe("1.0.0", "a: {type: string}")) + "# nothing else\n", "record this as 1.0.1"},
		{string(describe("2.0.0", "a: {type: integer}")) + "# nothing else\n", "record this as 2.0.1"},
	} {
		_, err := l.Record(ctx, teodor, ledger.Submission{File: "berths.yaml", Text: []byte(c.text)})
		require.ErrorContains(t, err, c.want)
	}
}

// TestWaiversTold has a version say what it was published in spite of, to the house.
func TestWaiversTold(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	rec := record(t, l, "1.1.0", "a: {type: string, maxLength: 4}")
	_, err := l.Publish(ctx, teodor, "berths@1.1.0", []ledger.Waive{{Change: "000000000000", Reason: "r"}})
	require.ErrorContains(t, err, "no change 000000000000 stands in the way of berths@1.1.0; what does is "+rec.Gate.Obstacles[0].Change.ID)
	_, err = l.Publish(ctx, teodor, "berths@1.1.0", []ledger.Waive{{Change: rec.Gate.Obstacles[0].Change.ID, Reason: "nobody sends more"}})
	require.NoError(t, err)
	v, err := l.Version(ctx, teodor, "berths@1.1.0")
	require.NoError(t, err)
	require.Len(t, v.Waivers, 1)
	require.Equal(t, "nobody sends more", v.Waivers[0].Reason)
	v, err = l.Version(ctx, ledger.Nobody, "berths@1.1.0")
	require.NoError(t, err)
	require.Empty(t, v.Waivers, "readers are told with the change")
}
