package ledger_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/shape"
	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
)

var teodor = ledger.By(ledger.Person{Name: "teodor", Full: "Teodor Brand", Role: ledger.Publisher})

// clock is a ledger's time, set by the test.
type clock struct{ now time.Time }

func at(t *testing.T, date string) time.Time {
	t.Helper()
	day, err := time.Parse(time.DateOnly, date)
	require.NoError(t, err)
	return day.Add(9 * time.Hour)
}

func openAt(t *testing.T, date string) (*clock, *ledger.Ledger) {
	t.Helper()
	c, l, _ := openKept(t, date)
	return c, l
}

// openKept also gives where its records are kept.
func openKept(t *testing.T, date string) (*clock, *ledger.Ledger, *store.Store) {
	t.Helper()
	c := &clock{at(t, date)}
	s, err := store.Open(context.Background(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return c, ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return c.now }, Random: rand.Reader})), s
}

// describe writes a small description whose booking has the properties given.
func describe(version, properties string) []byte {
	return fmt.Appendf(nil, `openapi: 3.1.0
info: {title: Berth Booking, version: %q, x-ledger-name: berths}
paths:
  /bookings:
    post:
      operationId: book
      requestBody: {required: true, content: {application/json: {schema: {$ref: '#/components/schemas/Booking'}}}}
      responses: {'201': {description: Held.}}
components:
  schemas:
    Booking: {type: object, properties: {%s}}
`, version, properties)
}

func record(t *testing.T, l *ledger.Ledger, version, properties string) ledger.Recorded {
	t.Helper()
	rec, err := l.Record(context.Background(), teodor, ledger.Submission{File: "berths.yaml", Text: describe(version, properties)})
	require.NoError(t, err)
	return rec
}

func publish(t *testing.T, l *ledger.Ledger, ref string) {
	t.Helper()
	_, err := l.Publish(context.Background(), teodor, ref, nil)
	require.NoError(t, err)
}

// TestRecord follows a version from its first draft to the day when it never changes again.
func TestRecord(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	rec := record(t, l, "v1", "a: {type: string}")
	require.Equal(t, "new", rec.Outcome)
	require.Equal(t, "1.0.0", rec.Version.Number)
	require.Equal(t, "v1", rec.Version.Text, "the description's own text is kept")
	require.Equal(t, "berths", rec.Version.API, "the name comes from the description")
	require.Nil(t, rec.Base)

	require.Equal(t, "same", record(t, l, "v1", "a: {type: string}").Outcome)
	require.Equal(t, "replaced", record(t, l, "v1", "a: {type: string}, b: {type: integer}").Outcome)
	acts, err := l.Journal(ctx, teodor, ledger.Question{Act: "version"}, 0, 10)
	require.NoError(t, err)
	require.Len(t, acts, 2, "the same content again is no act")

	publish(t, l, "berths@draft")
	require.Equal(t, "same", record(t, l, "v1", "a: {type: string}, b: {type: integer}").Outcome)
	_, err = l.Record(ctx, teodor, ledger.Submission{Text: describe("1.0", "a: {type: string}, b: {type: integer, description: How many.}")})
	require.EqualError(t, err, "berths@1.0.0 is published and never changes: record this as 1.0.1 (only wordings changed)")
	_, err = l.Record(ctx, teodor, ledger.Submission{Text: describe("1.0.0", "a: {type: string}, b: {type: integer, maximum: 3}")})
	require.EqualError(t, err, "berths@1.0.0 is published and never changes: record this as 2.0.0 (b is now at most 3)")

	preview, err := l.DryRun(ctx, teodor, ledger.Submission{Text: describe("1.1.0",
		"a: {type: string}, b: {type: integer}, c: {type: string}")})
	require.NoError(t, err)
	require.Equal(t, "1.0.0", preview.Base.Number)
	require.Equal(t, 1, preview.Changes.Counts.Safe)
	require.True(t, preview.Gate.Open)
	_, err = l.Resolve(ctx, teodor, "berths@1.1.0")
	require.Error(t, err, "a preview records nothing")
}

// TestNames makes an API's name from what is given, from the description, or from its title.
func TestNames(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	text := []byte("openapi: 3.1.0\ninfo: {title: 'Tide Tables, hourly', version: 1.0.0}\npaths: {}\n")
	rec, err := l.Record(ctx, teodor, ledger.Submission{Text: text})
	require.NoError(t, err)
	require.Equal(t, "tide-tables-hourly", rec.Version.API)
	rec, err = l.Record(ctx, teodor, ledger.Submission{API: "tides", Number: "2", File: `C:\files\tides.yaml`, Text: text})
	require.NoError(t, err)
	require.Equal(t, "tides@2.0.0", rec.Version.Ref())
	require.Equal(t, "tides.yaml", rec.Version.File)
	for _, bad := range []string{"Tides", "-tides", "tides/../x", strings.Repeat("t", 64), "ti des"} {
		_, err = l.Record(ctx, teodor, ledger.Submission{API: bad, Text: text})
		require.ErrorContains(t, err, "is no short name", bad)
	}
	for _, bad := range []string{"newest", "1.2.3.4", "-1", "1.2-rc", "2026-13-01", strings.Repeat("1", 200)} {
		_, err = l.Record(ctx, teodor, ledger.Submission{API: "tides", Number: bad, Text: text})
		require.ErrorContains(t, err, "is not a version number", bad)
	}
}

// TestResolve finds versions by every form of a reference.
func TestResolve(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	for _, v := range []string{"1.0.0", "1.10.0", "1.9.0", "2.0.0"} {
		record(t, l, v, "a: {type: string}")
		publish(t, l, "berths@"+v)
	}
	record(t, l, "2.1.0", "a: {type: string}")
	for ref, want := range map[string]string{
		"berths": "2.0.0", "berths@": "2.0.0", "berths@latest": "2.0.0", "berths@1": "1.10.0", "berths@2": "2.0.0", "berths@draft": "2.1.0",
		"berths@1.9": "1.9.0", "berths@v1.9.0": "1.9.0", "berths@2.1.0": "2.1.0",
	} {
		v, err := l.Resolve(ctx, teodor, ref)
		require.NoError(t, err, ref)
		require.Equal(t, want, v.Number, ref)
	}
	for ref, want := range map[string]string{
		"berths@3": "berths has no version 3; recorded are 1.0.0, 1.9.0, 1.10.0, 2.0.0, 2.1.0", "nobody@1": "there is no API called nobody",
		"berths@new": "is not a version number",
	} {
		_, err := l.Resolve(ctx, teodor, ref)
		require.ErrorContains(t, err, want)
	}
}

// TestGate holds a line to its promise against every supported version, and no longer against one past its sunset.
func TestGate(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	clock, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "n: {type: integer, maximum: 90}")
	publish(t, l, "berths@1.0.0")
	record(t, l, "1.1.0", "n: {type: integer, maximum: 90}, note: {type: string}")
	publish(t, l, "berths@1.1.0")
	rec := record(t, l, "1.2.0", "n: {type: integer, maximum: 28}, note: {type: string}")
	require.False(t, rec.Gate.Open)
	_, err := l.Publish(ctx, teodor, "berths@1.2.0", nil)
	var shut *ledger.GateShut
	require.ErrorAs(t, err, &shut)
	require.Len(t, shut.Gate.Obstacles, 1)
	require.Equal(t, []string{"1.0.0", "1.1.0"}, shut.Gate.Obstacles[0].Against)
	change := shut.Gate.Obstacles[0].Change.ID

	for _, bad := range []ledger.Waive{{Change: change}, {Change: change, Reason: "  "}, {Change: change, Reason: strings.Repeat("x", 2001)}} {
		_, err = l.Publish(ctx, teodor, "berths@1.2.0", []ledger.Waive{bad})
		require.ErrorContains(t, err, "needs a reason")
	}
	_, err = l.Publish(ctx, teodor, "berths@1.2.0", []ledger.Waive{{Change: change, Reason: "ok"}, {Change: "000000000000", Reason: "what?"}})
	require.ErrorContains(t, err, "no change 000000000000 stands in the way")
	v, err := l.Resolve(ctx, teodor, "berths@1.2.0")
	require.NoError(t, err)
	require.Equal(t, ledger.Draft, v.State, "a refused act leaves nothing behind")
	history, err := l.History(ctx, teodor, "berths")
	require.NoError(t, err)
	require.Empty(t, history[0].Waivers)

	// Once the versions that it breaks have left, the gate opens by itself.
	_, err = l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1.1.0", Line: true, Sunset: "2026-02-01", Reason: "the line ends"})
	require.NoError(t, err)
	gate, err := l.Gate(ctx, teodor, "berths@1.2.0")
	require.NoError(t, err)
	require.False(t, gate.Open)
	clock.now = at(t, "2026-02-02")
	gate, err = l.Gate(ctx, teodor, "berths@1.2.0")
	require.NoError(t, err)
	require.True(t, gate.Open)

	// A preview promises nothing, a new line has nothing to keep.
	for _, version := range []string{"1.3.0-rc.1", "2.0.0"} {
		rec := record(t, l, version, "n: {type: string}")
		require.True(t, rec.Gate.Open, version)
	}
}

// TestWaiverHolds for the versions of the line that follow.
func TestWaiverHolds(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "n: {type: integer, maximum: 90}")
	publish(t, l, "berths@1.0.0")
	rec := record(t, l, "1.1.0", "n: {type: integer, maximum: 28}")
	_, err := l.Publish(ctx, teodor, "berths@1.1.0", []ledger.Waive{{Change: rec.Gate.Obstacles[0].Change.ID, Reason: "nobody stays longer"}})
	require.NoError(t, err)
	rec = record(t, l, "1.2.0", "n: {type: integer, maximum: 28}, note: {type: string}")
	require.True(t, rec.Gate.Open)
	require.True(t, rec.Gate.Obstacles[0].Waived)
	publish(t, l, "berths@1.2.0")
	history, err := l.History(ctx, teodor, "berths")
	require.NoError(t, err)
	require.Equal(t, "nobody stays longer", history[1].Waivers[0].Reason)
	require.Equal(t, "teodor", history[1].Waivers[0].MadeBy)
}

// TestNotices deprecates at every width, and tells versions and their state.
func TestNotices(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	for _, v := range []string{"1.0.0", "1.1.0", "2.0.0"} {
		record(t, l, v, "length: {type: number}")
		publish(t, l, "berths@"+v)
	}
	state := func() string {
		a, err := l.API(ctx, teodor, "berths")
		require.NoError(t, err)
		var words []string
		for _, v := range a.Versions {
			words = append(words, string(v.State)+" "+v.Sunset)
		}
		return strings.Join(words, ", ")
	}
	deprecate := func(a ledger.Announcement) error {
		a.Reason = "because"
		_, err := l.Deprecate(ctx, teodor, a)
		return err
	}
	require.NoError(t, deprecate(ledger.Announcement{Ref: "berths@1.1.0", Field: "Booking.length"}))
	require.NoError(t, deprecate(ledger.Announcement{Ref: "berths@2.0.0", Operation: "POST /bookings"}))
	require.Equal(t, "published , published , published ", state(), "a part of a version does not deprecate it")
	require.NoError(t, deprecate(ledger.Announcement{Ref: "berths@1.0.0", Sunset: "2026-12-01"}))
	require.Equal(t, "deprecated 2026-12-01, published , published ", state())
	require.NoError(t, deprecate(ledger.Announcement{Ref: "berths@1.1.0", Line: true, Sunset: "2026-06-01"}))
	require.Equal(t, "deprecated 2026-06-01, deprecated 2026-06-01, published ", state())
	require.NoError(t, deprecate(ledger.Announcement{Ref: "berths"}))
	require.Equal(t, "deprecated 2026-06-01, deprecated 2026-06-01, deprecated ", state())
	notices, err := l.Notices(ctx, teodor, "")
	require.NoError(t, err)
	require.Len(t, notices, 5)
	require.Equal(t, "2026-06-01", notices[0].Sunset, "the next sunset first")

	for want, a := range map[string]ledger.Announcement{
		"not of both":         {Ref: "berths@1", Operation: "book", Field: "Booking.length"},
		"has no operation":    {Ref: "berths@1", Operation: "bok"},
		"schema and property": {Ref: "berths@1", Field: "length"},
		"has no schema":       {Ref: "berths@1", Field: "Boking.length"},
		"has no field":        {Ref: "berths@1", Field: "Booking.width"},
		"must come after":     {Ref: "berths@1", Sunset: "2026-01-10"},
		"is no date":          {Ref: "berths@1", Since: "tomorrow"},
		"has no version 9":    {Ref: "berths@1", ReplacedBy: "berths@9"},
		"there is no API":     {Ref: "nobody"},
	} {
		require.ErrorContains(t, deprecate(a), want)
	}
	_, err = l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1"})
	require.ErrorContains(t, err, "needs a reason")
}

// TestHistory tells a removal as announced, early or unannounced.
func TestHistory(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	clock, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}, b: {type: string}, c: {type: string}")
	publish(t, l, "berths@1.0.0")
	for field, sunset := range map[string]string{"a": "2026-02-01", "b": "2026-09-01"} {
		_, err := l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1.0.0", Field: "Booking." + field, Sunset: sunset, Reason: "old"})
		require.NoError(t, err)
	}
	clock.now = at(t, "2026-03-01")
	record(t, l, "2.0.0", "d: {type: integer}")
	publish(t, l, "berths@2.0.0")
	history, err := l.History(ctx, teodor, "berths")
	require.NoError(t, err)
	require.Equal(t, "1.0.0", history[0].Before)
	got := map[string]string{}
	for _, ch := range history[0].Changes.Changes {
		switch an := history[0].Removed[ch.ID]; {
		case an == nil:
		case an.Announced:
			got[ch.Title] = "announced"
		case an.Notice != nil:
			got[ch.Title] = "early"
		default:
			got[ch.Title] = "unannounced"
		}
	}
	require.Equal(t, map[string]string{
		"a is no longer there": "announced", "b is no longer there": "early",
		"c is no longer there": "unannounced",
	}, got)
	require.Nil(t, history[1].Changes)

	c, err := l.Compare(ctx, teodor, "berths@1", "berths@2", compare.Options{Reading: shape.Exact})
	require.NoError(t, err)
	require.Equal(t, "exact", c.Reading)
	g, err := l.Guide(ctx, teodor, "berths@1", "berths@2")
	require.NoError(t, err)
	require.Len(t, g.Check, 3)
}

// TestRoles lets editors and admins write, and nobody else.
func TestRoles(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	for role, may := range map[ledger.Role]bool{ledger.Admin: true, ledger.Editor: true, ledger.Reviewer: false, ledger.Reader: false} {
		p := ledger.By(ledger.Person{Name: string(role), Full: "Somebody", Role: role})
		_, err := l.Record(ctx, p, ledger.Submission{API: "r-" + string(role), Text: describe("1.0.0", "")})
		require.Equal(t, may, err == nil, role)
	}
	for _, p := range []ledger.Person{{Name: "UPPER", Role: ledger.Reader}, {Name: "", Role: ledger.Reader}} {
		require.ErrorContains(t, l.AddPerson(ctx, ledger.Itself, p, "long enough"), "is no sign-in name")
	}
	require.ErrorContains(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "short", Full: "Short"}, "short"), "10 to 200")
	require.ErrorContains(t, l.AddPerson(ctx, teodor, ledger.Person{Name: "friend"}, "long enough"),
		"Teodor Brand is a publisher; an admin may say who may sign in, and as what")
	require.ErrorContains(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "friend", Full: " Friend"}, "long enough"), "say what friend is called")
	require.ErrorContains(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "friend", Full: "Friend", Role: "master"}, "long enough"),
		`"master" is no role; in all teams one is an admin, an auditor, a lead`)
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin}, "long enough"))
	require.ErrorContains(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "imke", Full: "I", Role: ledger.Reader}, "long enough"), "already there")
	imke, err := l.Actor(ctx, "imke")
	require.NoError(t, err)
	token, err := l.MakeToken(ctx, imke, ledger.TokenWish{Label: "pipeline"})
	require.NoError(t, err)
	require.True(t, strings.HasPrefix(token, "olt_"))
	who, err := l.TokenActor(ctx, token)
	require.NoError(t, err)
	require.Equal(t, imke.Person, who.Person)
	require.Equal(t, "pipeline", who.Token)
	_, err = l.MakeToken(ctx, who, ledger.TokenWish{Label: "another"})
	require.ErrorContains(t, err, "a token may not make a token; sign in with your password")
	_, err = l.TokenActor(ctx, token+"x")
	require.ErrorContains(t, err, "this token is not known")
	_, err = l.MakeToken(ctx, imke, ledger.TokenWish{Label: ""})
	require.ErrorContains(t, err, "needs a label")
	_, err = l.MakeToken(ctx, ledger.Nobody, ledger.TokenWish{Label: "x"})
	require.Error(t, err)
}

// TestNoticePeriod refuses a sunset that comes too soon, unless somebody says why; and a removal before its day, with the notice as the
// reason.
func TestNoticePeriod(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	now := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return now }, Random: rand.Reader, NoticeDays: 30}))
	editor := ledger.By(ledger.Person{Name: "teodor", Full: "Teodor", Role: ledger.Publisher})
	admin := ledger.By(ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin})
	text := func(number, fields string) []byte {
		return []byte("openapi: 3.1.0\ninfo: {title: Berths, version: " + number +
			"}\npaths: {/a: {get: {operationId: a, responses: {'200': {description: A., content: {application/json: {schema: {$ref: '#/components/schemas/A'}}}}}}}}\ncomponents: {schemas: {A: {type: object, properties: {" +
			fields + "]}}}\n")
	}
	submit := func(number, fields string) {
		_, err := l.Record(ctx, editor, ledger.Submission{Text: text(number, fields)})
		require.NoError(t, err)
	}
	submit("1.0.0", "x: {type: string}, y: {type: string}}, required: [x")
	_, err = l.Publish(ctx, editor, "berths@1.0.0", nil)
	require.NoError(t, err)

	announce := ledger.Announcement{Ref: "berths@1.0.0", Line: true, Field: "A.x", Reason: "Nobody reads it.", Sunset: "2026-12-01"}
	_, err = l.Deprecate(ctx, editor, announce)
	require.ErrorContains(t, err, "announced at least 30 days before, and 2026-12-01 is sooner: 2026-12-20 at the earliest")
	require.Error(t, l.Set(ctx, editor, "berths", ledger.Settings{NoticeDays: new(7)}))
	require.Error(t, l.Set(ctx, admin, "berths", ledger.Settings{NoticeDays: new(100_000)}))
	require.NoError(t, l.Set(ctx, admin, "berths", ledger.Settings{NoticeDays: new(60)}))
	announce.Sunset = "2026-12-31"
	_, err = l.Deprecate(ctx, editor, announce)
	require.ErrorContains(t, err, "at least 60 days")
	announce.Sooner = "The data is wrong, and nobody should read it."
	n, err := l.Deprecate(ctx, editor, announce)
	require.NoError(t, err)
	entries, err := l.Journal(ctx, teodor, ledger.Question{}, 0, 100)
	require.NoError(t, err)
	require.Equal(t, "notice.hurried", entries[len(entries)-1].Act)
	early := "2026-12-05"
	_, err = l.Amend(ctx, editor, n.ID, ledger.Amendment{Sunset: &early})
	require.ErrorContains(t, err, "at least 60 days")

	// Taken out before its day: the gate is shut, and says what was announced.
	submit("1.1.0", "y: {type: string}}, required: [")
	_, err = l.Publish(ctx, editor, "berths@1.1.0", nil)
	var shut *ledger.GateShut
	require.ErrorAs(t, err, &shut)
	require.Equal(t, "announced to leave on 2026-12-31, not before", shut.Gate.Obstacles[0].Removal.String())

	// After its day, on the next line, it is announced.
	now = now.AddDate(0, 3, 0)
	submit("2.0.0", "y: {type: string}}, required: [")
	_, err = l.Publish(ctx, editor, "berths@2.0.0", nil)
	require.NoError(t, err)
	history, err := l.History(ctx, teodor, "berths")
	require.NoError(t, err)
	announced := 0
	for _, r := range history[0].Removed {
		if r.Announced {
			announced++
		}
	}
	require.Equal(t, 1, announced)
}
