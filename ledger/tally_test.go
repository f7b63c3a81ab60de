package ledger_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/usage"
	"oldledger/ledger"
	"oldledger/ledger/records"
)

// called is a harbour with two APIs of two teams, called by the path, and a clock that can be set.
func called(t *testing.T) (*clock, *ledger.Ledger, records.Store, func(string) ledger.Actor) {
	t.Helper()
	ctx := t.Context()
	c, l, s := openKept(t, "2026-01-10")
	as := peopled(t, l)
	version := func(team, api, number, field, server string) {
		_, err := l.Record(ctx, as("editor"+team), ledger.Submission{API: api, File: api + ".yaml", Text: answersAt(describe(number, field), server)})
		require.NoError(t, err)
		_, err = l.Publish(ctx, as("lead"+team), api+"@"+number, nil)
		require.NoError(t, err)
	}
	version(".q", "berths", "1.0.0", "a: {type: string}, b: {type: string}", "https://api.saltmere.example/v1")
	version(".q", "berths", "2.0.0", "a: {type: string}", "https://api.saltmere.example/v2")
	version(".n", "pilots", "1.0.0", "a: {type: string}", "https://api.saltmere.example/pilots")
	require.NoError(t, l.Set(ctx, as("lead.q"), "berths", ledger.Settings{Versioning: new("path /v{line}")}))
	return c, l, s, as
}

// line is one line of a log.
func logLine(day, user, path string, status int, agent string) string {
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		panic(err)
	}
	return fmt.Sprintf("192.0.2.7 - %s [%s] \"POST %s HTTP/1.1\" %d 12 \"-\" \"%s\"\n", user, at.Add(8*time.Hour).Format("02/Jan/2006:15:04:05 -0700"), path, status, agent)
}

func add(t *testing.T, l *ledger.Ledger, who ledger.Actor, text string, apis ...string) ledger.AddedLog {
	t.Helper()
	added, err := l.AddLog(t.Context(), who, ledger.LogWish{Name: "access.log", APIs: apis, Text: strings.NewReader(text)})
	require.NoError(t, err)
	return added
}

// TestAddLog counts logs once, whoever adds them, for those APIs of which they may; consumers are recognised by what their team says, also
// afterwards, and each team knows of its own.
func TestAddLog(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, _, as := called(t)
	first := logLine("2026-01-08", "-", "/v1/bookings", 201, "Boards/1.0") + logLine("2026-01-08", "relay-7", "/v2/bookings", 500, "relay") +
		logLine("2026-01-09", "-", "/pilots/bookings", 201, "Night/2") + logLine("2026-01-09", "-", "/v1/nothing", 404, "Boards/1.0") +
		logLine("2026-01-09", "-", "/v3/bookings", 404, "Boards/1.0") + "torn\n"
	added := add(t, l, as("editor.q"), first)
	require.Equal(t, []ledger.CountedAPI{{"berths", 2}}, added.Of)
	require.EqualValues(t, 1, added.Elsewhere, "the pilots' calls are Navigation's to count")
	require.EqualValues(t, 6, added.Lines)
	require.EqualValues(t, 1, added.Bad)
	require.EqualValues(t, 2, added.Unmatched)
	require.Equal(t, "2026-01-08", added.LastDay)

	again := add(t, l, as("publisher.q"), first)
	require.Zero(t, again.ID, "nothing in it is new")
	require.EqualValues(t, 6, again.Repeated)
	longer := first + logLine("2026-01-09", "-", "/v1/bookings", 201, "Boards/1.1")
	more := add(t, l, as("lead.q"), longer)
	require.EqualValues(t, 6, more.Repeated)
	require.Equal(t, []ledger.CountedAPI{{"berths", 1}}, more.Of)
	theirs := add(t, l, as("editor.n"), longer)
	require.Equal(t, []ledger.CountedAPI{{"pilots", 1}}, theirs.Of, "for Navigation it is new")

	_, err := l.AddLog(ctx, as("reviewer.q"), ledger.LogWish{Text: strings.NewReader(first)})
	require.Equal(t, ledger.Forbidden, fault(err))
	_, err = l.AddLog(ctx, as("editor.q"), ledger.LogWish{APIs: []string{"pilots"}, Text: strings.NewReader(first)})
	require.Equal(t, ledger.Forbidden, fault(err))
	_, err = l.AddLog(ctx, as("editor.q"), ledger.LogWish{APIs: []string{"none"}, Text: strings.NewReader(first)})
	require.Equal(t, ledger.NotFound, fault(err))
	_, err = l.AddLog(ctx, as("editor.q"), ledger.LogWish{Mapping: "{tme: ts}", Text: strings.NewReader(first)})
	require.ErrorContains(t, err, `did you mean "time"?`)
	cut, err := l.AddLog(ctx, as("editor.q"), ledger.LogWish{Text: bytes.NewReader([]byte{0x1f, 0x8b, 8, 0, 0})})
	require.ErrorContains(t, err, "cannot be unpacked")
	require.Zero(t, cut.ID)

	use := func(who string, asked ledger.UseQuestion) ledger.Use {
		t.Helper()
		use, err := l.Use(ctx, as(who), asked)
		require.NoError(t, err)
		return use
	}
	names := func(u ledger.Use) (names []string) {
		for _, s := range u.Series {
			names = append(names, fmt.Sprintf("%s %t %d", s.Name, s.Known, s.Calls))
		}
		return names
	}
	require.Equal(t, []string{"1.0.0 true 2", "2.0.0 true 1"}, names(use("reader.q", ledger.UseQuestion{API: "berths"})))
	require.Equal(t, []string{"Boards/1.0 false 1", "Boards/1.1 false 1", "relay-7 false 1"}, names(use("reader.q", ledger.UseQuestion{API: "berths", By: ledger.ByConsumer})))
	for _, asked := range []ledger.UseQuestion{{API: "berths"}, {API: "berths", Consumer: "none"}} {
		_, err = l.Use(ctx, as("reader.n"), asked)
		require.Equal(t, ledger.Forbidden, fault(err))
	}

	require.NoError(t, l.PutConsumer(ctx, as("editor.q"), "boards", ledger.ConsumerWish{Title: new("Lockside Boards"), Team: new("Quayside"), Contacts: &[]string{"boards@saltmere.example"}}))
	require.NoError(t, l.PutConsumer(ctx, as("reader.n"), "night", ledger.ConsumerWish{Title: new("Nightwatch")}))
	require.NoError(t, l.SetSigns(ctx, as("editor.q"), "boards", "Quayside", []ledger.Sign{{Kind: usage.ByAgent, Value: "Boards/*"}}))
	err = l.SetSigns(ctx, as("editor.n"), "boards", "Navigation", []ledger.Sign{{Kind: usage.ByAgent, Value: "Night*"}})
	require.Equal(t, ledger.NotFound, fault(err), "nobody told them of it")
	require.NoError(t, l.SetSigns(ctx, as("imke"), "night", "", []ledger.Sign{{Kind: usage.ByAgent, Value: "Night/*"}, {Kind: usage.ByHeader, Value: "X-Client: night"}}))
	require.Equal(t, []string{"boards true 2", "relay-7 false 1"}, names(use("reader.q", ledger.UseQuestion{API: "berths", By: ledger.ByConsumer})))
	require.Equal(t, []string{"night true 1"}, names(use("reader.n", ledger.UseQuestion{API: "pilots", By: ledger.ByConsumer})))
	for _, bad := range []ledger.Sign{
		{Kind: "address", Value: "192.0.2.7"},
		{Kind: usage.ByAgent, Value: "*"},
		{Kind: usage.ByHeader, Value: "night"},
		{Kind: usage.ByAgent, Value: strings.Repeat("x", 121)},
	} {
		require.Equal(t, ledger.Invalid, fault(l.SetSigns(ctx, as("imke"), "night", "", []ledger.Sign{bad})), bad)
	}
	require.Equal(t, ledger.Conflict, fault(l.SetSigns(ctx, as("imke"), "boards", "", []ledger.Sign{{Kind: usage.ByAgent, Value: "Night/*"}})), "two cannot be recognised by the same")

	known := func(who string) (names []string) {
		all, _, err := l.Consumers(ctx, as(who), ledger.ConsumersQuestion{})
		require.NoError(t, err)
		for _, c := range all {
			names = append(names, c.Name)
		}
		return names
	}
	require.Equal(t, []string{"boards", "night"}, known("imke"))
	require.Equal(t, []string{"boards"}, known("reader.q"))
	require.Equal(t, []string{"night"}, known("editor.n"))
	for _, c := range []struct {
		who   string
		asked ledger.ConsumersQuestion
		names string
		more  bool
	}{
		{"imke", ledger.ConsumersQuestion{Limit: 1}, "boards", true},
		{"imke", ledger.ConsumersQuestion{Limit: 1, After: "boards"}, "night", false},
		{"imke", ledger.ConsumersQuestion{Limit: 2}, "boards night", false},
		{"imke", ledger.ConsumersQuestion{Find: " LOCKSIDE"}, "boards", false},
		{"imke", ledger.ConsumersQuestion{Find: "pilot"}, "night", false},
		{"reader.q", ledger.ConsumersQuestion{Find: "berth"}, "boards", false},
		{"editor.n", ledger.ConsumersQuestion{Find: "pilots"}, "night", false},
		{"editor.n", ledger.ConsumersQuestion{Find: "berths"}, "", false}, // nor by what it calls at others
		{"editor.n", ledger.ConsumersQuestion{Find: "boards"}, "", false},
	} {
		page, more, err := l.Consumers(ctx, as(c.who), c.asked)
		require.NoError(t, err)
		var names []string
		for _, one := range page {
			names = append(names, one.Name)
		}
		require.Equal(t, c.names, strings.Join(names, " "), "%+v", c)
		require.Equal(t, c.more, more, "%+v", c)
	}
	_, err = l.Consumer(ctx, as("lead.n"), "boards")
	require.Equal(t, ledger.NotFound, fault(err))
	require.Equal(t, ledger.Forbidden, fault(l.DropConsumer(ctx, as("reviewer.q"), "boards")))

	odd, err := l.Unmatched(ctx, as("reader.q"))
	require.NoError(t, err)
	require.Empty(t, odd, "whose the paths are that nobody has, is told to those in all teams")
	odd, err = l.Unmatched(ctx, as("imke"))
	require.NoError(t, err)
	require.Len(t, odd, 2)

	require.NoError(t, l.Set(ctx, as("imke"), "pilots", ledger.Settings{Team: new("Quayside")}))
	mine, _, err := l.Consumers(ctx, as("reader.n"), ledger.ConsumersQuestion{Find: "pilots"})
	require.NoError(t, err)
	require.Len(t, mine, 1, "whoever keeps a consumer finds it by all that it calls")
	require.NoError(t, l.SetSigns(ctx, as("imke"), "night", "", nil))
	require.Equal(t, []string{"Night/2 false 1"}, names(use("reader.q", ledger.UseQuestion{API: "pilots", By: ledger.ByConsumer})))
	require.NoError(t, l.SetSigns(ctx, as("editor.q"), "boards", "Quayside", []ledger.Sign{{Kind: usage.ByAgent, Value: "Night*"}}))
	require.Equal(t, []string{"boards true 1"}, names(use("reader.q", ledger.UseQuestion{API: "pilots", By: ledger.ByConsumer})))
	require.NoError(t, l.Set(ctx, as("imke"), "pilots", ledger.Settings{Team: new("Navigation")}))
	require.Equal(t, []string{"Night/2 false 1"}, names(use("reader.n", ledger.UseQuestion{API: "pilots", By: ledger.ByConsumer})), "what Quayside says holds for its APIs")
	require.NoError(t, l.DropConsumer(ctx, as("lead.q"), "boards"))

	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestCallsAreHeld finds calls, logs, consumers and signs that are not as the journal says.
func TestCallsAreHeld(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, s, as := called(t)
	added := add(t, l, as("editor.q"), logLine("2026-01-08", "-", "/v1/bookings", 201, "Boards/1.0"))
	require.NoError(t, l.PutConsumer(ctx, as("editor.q"), "boards", ledger.ConsumerWish{}))
	require.NoError(t, l.SetSigns(ctx, as("editor.q"), "boards", "Quayside", []ledger.Sign{{Kind: usage.ByAgent, Value: "Boards/*"}}))
	tamper := func(why string, do func(records.Rows) error) {
		t.Helper()
		require.NoError(t, s.Write(ctx, do))
		v, err := l.VerifyJournal(ctx, as("imke"), "")
		require.NoError(t, err)
		require.Contains(t, v.Why, why)
	}
	rows, err := s.Read().Calls(ctx, "berths", records.Months{Until: 1 << 20})
	require.NoError(t, err)
	require.Len(t, rows, 1)
	fewer := rows[0]
	fewer.Days = "0"
	tamper("calls of berths", func(r records.Rows) error { return r.PutCalls(ctx, fewer) })
	tamper("the log 1 is not as the journal says", func(r records.Rows) error {
		if err := r.PutCalls(ctx, rows[0]); err != nil {
			return err
		}
		logs, err := r.Logs(ctx, 1)
		logs[0].Length++
		require.NoError(t, err)
		_, err = r.PutLog(ctx, logs[0])
		return err
	})
	tamper("by what boards", func(r records.Rows) error {
		logs, err := r.Logs(ctx, 1)
		require.NoError(t, err)
		logs[0].Length = added.Bytes
		_, err = r.PutLog(ctx, logs[0])
		require.NoError(t, err)
		return r.PutSigns(ctx, "Quayside", "boards", nil)
	})
	tamper("the consumer boards", func(r records.Rows) error {
		require.NoError(t, r.PutSigns(ctx, "Quayside", "boards", []records.Sign{{Kind: "agent", Value: "Boards/*"}}))
		c, err := r.Consumer(ctx, "boards")
		require.NoError(t, err)
		c.Person = "reader.n"
		return r.PutConsumer(ctx, c)
	})
}

// TestQuietAPI knows that nobody calls an API any more: of the days of a log that held a call of it, or for which it was named, logs tell;
// of the days of others nobody knows.
func TestQuietAPI(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, _, as := called(t)
	covered := func(api string) int {
		t.Helper()
		use, err := l.Use(ctx, as("imke"), ledger.UseQuestion{API: api})
		require.NoError(t, err)
		return use.Covered
	}
	quays := logLine("2026-01-07", "-", "/v1/bookings", 201, "x") + logLine("2026-01-08", "-", "/v1/bookings", 201, "x")
	add(t, l, as("imke"), quays)
	require.Equal(t, 2, covered("berths"))
	require.Zero(t, covered("pilots"), "perhaps its calls stand elsewhere")
	add(t, l, as("imke"), quays+logLine("2026-01-09", "-", "/pilots/bookings", 201, "x"))
	require.Equal(t, 1, covered("pilots"), "what was told before is not told again")
	require.Equal(t, 3, covered("berths"))
	named := logLine("2026-01-05", "-", "/v1/bookings", 201, "y") + logLine("2026-01-06", "-", "/v1/bookings", 201, "y")
	add(t, l, as("imke"), named, "pilots")
	require.Equal(t, 3, covered("pilots"), "it was said that its calls would stand there")
}

// TestSameLogAtOnce adds the same log many times at once: it counts once, and whoever came too late is told.
func TestSameLogAtOnce(t *testing.T) {
	t.Parallel()
	_, l, _, as := called(t)
	var log strings.Builder
	for i := range 2000 {
		log.WriteString(logLine("2026-01-08", fmt.Sprint("u", i%50), "/v1/bookings", 201, "x"))
	}
	var work sync.WaitGroup
	who := as("editor.q")
	for range 8 {
		work.Go(func() {
			_, err := l.AddLog(t.Context(), who, ledger.LogWish{Text: strings.NewReader(log.String())})
			if err != nil {
				require.Equal(t, ledger.Conflict, fault(err), err)
			}
		})
	}
	work.Wait()
	use, err := l.Use(t.Context(), who, ledger.UseQuestion{API: "berths"})
	require.NoError(t, err)
	require.EqualValues(t, 2000, use.Calls)
}

// TestSumsAgree draws logs and adds them in pieces: whichever way calls are told apart, they add up to the lines that were counted.
func TestSumsAgree(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, _, as := called(t)
	random := rand.New(rand.NewPCG(20261202, 7))
	want := map[string]int64{}
	total := int64(0)
	for range 12 {
		var log strings.Builder
		for range random.IntN(400) {
			day := time.Date(2025, 10, 20+random.IntN(82), 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
			line := random.IntN(2) + 1
			user, status := []string{"-", "a", "b"}[random.IntN(3)], []int{200, 404, 503}[random.IntN(3)]
			log.WriteString(logLine(day, user, fmt.Sprintf("/v%d/bookings", line), status, fmt.Sprint("agent", random.IntN(4))))
			want[day]++
			total++
		}
		add(t, l, as("editor.q"), log.String())
	}
	for _, by := range []ledger.UseBy{ledger.ByVersion, ledger.ByLine, ledger.ByConsumer, ledger.ByOperation, ledger.ByClass} {
		use, err := l.Use(ctx, as("reader.q"), ledger.UseQuestion{API: "berths", By: by, From: "2025-10-20", Until: "2026-01-10"})
		require.NoError(t, err)
		require.Equal(t, total, use.Calls)
		sum := make([]int64, use.Days)
		for _, s := range use.Series {
			of := int64(0)
			for i, n := range s.Days {
				sum[i] += n
				of += n
			}
			require.Equal(t, s.Calls, of)
		}
		for i, n := range sum {
			require.Equal(t, want[time.Date(2025, 10, 20+i, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)], n, by)
		}
		missing := 0
		for _, m := range use.Missing {
			from, err := time.Parse(time.DateOnly, m.From)
			require.NoError(t, err)
			until, err := time.Parse(time.DateOnly, m.Until)
			require.NoError(t, err)
			missing += int(until.Sub(from).Hours()/24) + 1
		}
		require.Equal(t, use.Days, use.Covered+missing)
		require.Equal(t, len(want), use.Covered)
	}
}

// TestImpact tells whom changes touch: with names for those who know the callers, in numbers for others; where no log tells, nobody knows.
func TestImpact(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, _, as := called(t)
	impact := func(who string) ledger.Impact {
		t.Helper()
		i, err := l.Impact(ctx, as(who), "berths@1.0.0", "berths@2.0.0", compare.Options{})
		require.NoError(t, err)
		require.NotEmpty(t, i.Changes)
		return i
	}
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: &ledger.Audience{ledger.SignedIn}, Reason: "x"}))
	i := impact("lead.q")
	require.Equal(t, "no log tells who calls it", i.Changes[0].Says(i.Evidence))
	add(t, l, as("editor.q"), logLine("2026-01-08", "-", "/v1/bookings", 201, "Boards/1.0")+logLine("2026-01-09", "-", "/v1/bookings", 201, "Odd"))
	require.NoError(t, l.PutConsumer(ctx, as("editor.q"), "boards", ledger.ConsumerWish{Team: new("Quayside")}))
	require.NoError(t, l.SetSigns(ctx, as("editor.q"), "boards", "Quayside", []ledger.Sign{{Kind: usage.ByAgent, Value: "Boards/*"}}))
	i = impact("reader.q")
	leaves := func(i ledger.Impact) ledger.TouchingChange {
		n := slices.IndexFunc(i.Changes, func(ch ledger.TouchingChange) bool { return strings.Contains(ch.Title, "b ") })
		require.GreaterOrEqual(t, n, 0)
		return i.Changes[n]
	}
	require.Equal(t, []string{"boards"}, leaves(i).Users)
	require.Equal(t, 1, leaves(i).Unknown)
	require.EqualValues(t, 2, leaves(i).Calls)
	require.Equal(t, "2026-01-09", leaves(i).LastDay)
	other := impact("reader.n")
	require.Empty(t, leaves(other).Users)
	require.Equal(t, 2, leaves(other).Touches(), "the numbers are true whoever looks")
	require.Equal(t, 2, other.Hidden)
	require.Empty(t, other.Users)
	require.Equal(t, "Quayside", other.Team)
}

// TestMayGo says whether a line may go: its day has come, nobody calls it, and logs tell of it.
func TestMayGo(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	c, l, _, as := called(t)
	words := func(what string) string {
		t.Helper()
		r, err := l.MayGo(ctx, as("reader.q"), what)
		require.NoError(t, err)
		var b strings.Builder
		fmt.Fprintf(&b, "%s: %t", r.Subject, r.May)
		for _, x := range r.Reasons {
			fmt.Fprintf(&b, " | %t %s", x.Fine, x.Text)
		}
		return b.String()
	}
	require.Equal(t, "line 1 of berths: false | false no notice says that it leaves | true no consumer says that it relies on it | false no log tells of these days: nobody knows who calls it", words("berths@1"))
	n, err := l.Deprecate(ctx, as("lead.q"), ledger.Announcement{Ref: "berths@1.0.0", Line: true, Sunset: "2026-03-01", Reason: "Two is better.", Sooner: "A test."})
	require.NoError(t, err)
	var log strings.Builder
	for day := 1; day < 60; day++ {
		at := time.Date(2026, 1, day, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
		log.WriteString(logLine(at, "-", "/v2/bookings", 201, "Kiosk"))
		if day < 31 {
			log.WriteString(logLine(at, "-", "/v1/bookings", 201, "Boards/1.0"))
		}
	}
	c.now = at(t, "2026-02-28")
	add(t, l, as("editor.q"), log.String())
	require.Equal(t, "line 1 of berths: false | false its sunset, 2026-03-01, has not passed | false 1 unknown caller called it in the last 30 days: 1 call | true no consumer says that it relies on it | true logs tell of 30 of these 30 days; 100.0 % of the calls are of nobody known", words("berths@1"))
	c.now = at(t, "2026-03-02")
	require.Equal(t, "berths, line 1: true | true its sunset, 2026-03-01, has passed | true nobody called it in the last 30 days, as far as logs tell | true no consumer says that it relies on it | true logs tell of 28 of these 30 days", words(fmt.Sprint(n.ID)))
	_, err = l.Retire(ctx, as("lead.q"), "berths@1.0.0", "Its day has come.", "")
	require.NoError(t, err)
	add(t, l, as("editor.q"), logLine("2026-03-01", "-", "/v1/bookings", 410, "Boards/1.0"))
	require.Contains(t, words("berths@1"), "true it is retired | false 1 unknown caller called it in the last 30 days: 1 call", "who still calls is told")
	_, err = l.MayGo(ctx, as("lead.n"), "berths@1")
	require.Equal(t, ledger.Forbidden, fault(err))

	_, err = l.Deprecate(ctx, as("lead.q"), ledger.Announcement{Ref: "berths@2.0.0", Line: true, Sunset: "2026-03-03", Reason: "All goes.", Sooner: "A test."})
	require.NoError(t, err)
	c.now = at(t, "2026-03-04")
	_, err = l.Retire(ctx, as("lead.q"), "berths@2.0.0", "Its day has come.", "")
	require.ErrorContains(t, err, "berths@2.0.0 may not go yet: 1 unknown caller called it in the last 30 days")
	_, err = l.Retire(ctx, as("lead.q"), "berths@2.0.0", "Its day has come.", "The kiosk was taken down.")
	require.NoError(t, err)
	entries, err := l.Newest(ctx, as("lead.q"), ledger.Question{Act: "version.retired"}, 0, 1)
	require.NoError(t, err)
	require.Contains(t, string(entries[0].Detail), "The kiosk was taken down.")
	require.Contains(t, string(entries[0].Detail), "1 unknown caller")
}

// TestUntouched lets a break through of which logs tell that it touches nobody, where the house style says so, and keeps why.
func TestUntouched(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	c, l, _, as := called(t)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: answersAt(describe("1.1.0", "a: {type: integer}"), "https://api.saltmere.example/v1")})
	require.NoError(t, err)
	open := func() bool {
		t.Helper()
		gate, err := l.Gate(ctx, as("lead.q"), "berths@1.1.0")
		require.NoError(t, err)
		return gate.Open
	}
	c.now = at(t, "2026-04-15")
	var log strings.Builder
	for day := range 92 {
		log.WriteString(logLine(time.Date(2026, 1, 12+day, 0, 0, 0, 0, time.UTC).Format(time.DateOnly), "-", "/v2/bookings", 201, "Kiosk"))
	}
	style := func(word string) {
		t.Helper()
		versions, err := l.Styles(ctx, as("imke"), ledger.StyleScope{})
		require.NoError(t, err)
		_, err = l.PutStyle(ctx, as("imke"), ledger.StyleScope{}, "house-style: X\nreview: {untouched: "+word+"}\n", "", len(versions))
		require.NoError(t, err)
	}
	style("through")
	require.False(t, open(), "no log tells")
	add(t, l, as("editor.q"), log.String())
	require.True(t, open())
	style("asked")
	require.False(t, open())
	style("through")
	add(t, l, as("editor.q"), logLine("2026-03-01", "-", "/v1/bookings", 201, "Boards/1.0"))
	require.False(t, open(), "somebody called it")
	c.now = at(t, "2026-06-20")
	require.False(t, open(), "logs do not tell of enough")
	log.Reset()
	for day := range 92 {
		log.WriteString(logLine(time.Date(2026, 3, 19+day, 0, 0, 0, 0, time.UTC).Format(time.DateOnly), "-", "/v2/bookings", 201, "Kiosk"))
	}
	add(t, l, as("editor.q"), log.String())
	require.True(t, open())
	v, err := l.Publish(ctx, as("lead.q"), "berths@1.1.0", nil)
	require.NoError(t, err)
	require.NotEmpty(t, v.Waivers)
	require.Contains(t, v.Waivers[0].Reason, "nobody called it from 2026-03-23 to 2026-06-20; logs tell of 8")
}
