package ledger_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/records"
)

func plan(name string, audience ...ledger.Group) ledger.Plan {
	return ledger.Plan{
		API: "berths", Name: name, Quota: 1000, Per: "day", Terms: "Be *kind*.", Asks: []string{"Where does it run?"}, Audience: audience,
		Issues: true,
	}
}

// TestAskForUse follows a request from the developer who asks to the credential that is known in the log, and through all that may not be.
func TestAskForUse(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, s, as := called(t)
	require.NoError(t, l.SetAudience(ctx, as("imke"), "", ledger.AudienceWish{Published: &ledger.Audience{ledger.SignedIn}, Reason: "x"}))
	require.NoError(t, l.PutPlan(ctx, as("publisher.q"), plan("Regular", ledger.SignedIn)))
	require.NoError(t, l.PutPlan(ctx, as("publisher.q"), plan("House")))
	require.NoError(t, l.PutPlan(ctx, as("publisher.n"), ledger.Plan{API: "pilots", Name: "Regular", Audience: ledger.Audience{ledger.SignedIn}}))
	for _, bad := range []ledger.Plan{
		{API: "berths"},
		{API: "berths", Name: "x", Quota: 5, Per: "year"},
		{API: "berths", Name: "x", Audience: ledger.Audience{ledger.LinkHolder}},
		{API: "berths", Name: "x", Asks: []string{""}},
	} {
		require.Equal(t, ledger.Invalid, fault(l.PutPlan(ctx, as("lead.q"), bad)))
	}
	require.Equal(t, ledger.Forbidden, fault(l.PutPlan(ctx, as("editor.q"), plan("x"))))

	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "mika", Full: "Mika"}, "long enough"))
	names := func(who string) (names []string) {
		plans, err := l.Plans(ctx, as(who), "berths")
		require.NoError(t, err)
		for _, p := range plans {
			names = append(names, p.Name)
		}
		return names
	}
	require.Equal(t, []string{"Regular"}, names("mika"), "the other is for nobody outside")
	require.Equal(t, []string{"House", "Regular"}, names("reader.q"))

	berths := ledger.RequestedAPI{API: "berths", Line: "1", Plan: "Regular", Answers: []string{"On phones."}}
	pilots := ledger.RequestedAPI{API: "pilots", Line: "1", Plan: "Regular"}
	wish := ledger.RequestWish{Consumer: "planner", Title: "Skerry Planner", Purpose: "Sailors find a berth.", Items: []ledger.RequestedAPI{berths, pilots}}
	for name, bad := range map[string]ledger.RequestWish{
		"no purpose":                {Consumer: "planner", Items: wish.Items},
		"nothing":                   {Consumer: "planner", Purpose: "x"},
		"no answer":                 {Consumer: "planner", Title: "P", Purpose: "x", Items: []ledger.RequestedAPI{{API: "berths", Line: "1", Plan: "Regular"}}},
		"a plan that is for others": {Consumer: "planner", Title: "P", Purpose: "x", Items: []ledger.RequestedAPI{{API: "berths", Line: "1", Plan: "House", Answers: []string{"x"}}}},
		"no such line":              {Consumer: "planner", Title: "P", Purpose: "x", Items: []ledger.RequestedAPI{{API: "berths", Line: "7", Plan: "Regular", Answers: []string{"x"}}}},
	} {
		_, err := l.Ask(ctx, as("mika"), bad)
		require.Contains(t, []ledger.Fault{ledger.Invalid, ledger.NotFound}, fault(err), name)
	}
	_, err := l.Consumer(ctx, as("mika"), "planner")
	require.Equal(t, ledger.NotFound, fault(err), "what fails leaves nothing behind")
	id, err := l.Ask(ctx, as("mika"), wish)
	require.NoError(t, err)
	wish.Title = ""
	_, err = l.Ask(ctx, as("mika"), wish)
	require.ErrorContains(t, err, fmt.Sprintf("was asked for already, with the request %d", id))
	_, err = l.Ask(ctx, as("editor.n"), wish)
	require.Error(t, err, "it is not theirs")

	seen := func(who string) (items []string) {
		all, err := l.Requests(ctx, as(who))
		require.NoError(t, err)
		for _, r := range all {
			for _, i := range r.Items {
				items = append(items, fmt.Sprintf("%s %s %t", i.API, i.State, i.Decides))
			}
		}
		return items
	}
	require.Equal(t, []string{"berths asked false", "pilots asked false"}, seen("mika"))
	require.Equal(t, []string{"berths asked true"}, seen("publisher.q"), "each team sees what is its own")
	require.Equal(t, []string{"pilots asked false"}, seen("reader.n"))

	_, err = l.Consumer(ctx, as("reader.q"), "planner")
	require.NoError(t, err, "who is asked may know who asks")
	require.NoError(t, l.SetSigns(ctx, as("editor.q"), "planner", "Quayside", nil))
	decide := func(who, api string, state ledger.RequestState, reason string) error {
		return l.Decide(ctx, as(who), ledger.Decision{Request: id, API: api, Line: "1", State: state, Reason: reason})
	}
	require.Equal(t, ledger.Forbidden, fault(decide("publisher.n", "berths", ledger.Approved, "")))
	require.Equal(t, ledger.Forbidden, fault(decide("mika", "berths", ledger.Approved, "")))
	require.Equal(t, ledger.NotFound, fault(decide("reader.n", "berths", ledger.Withdrawn, "")))
	require.Equal(t, ledger.Invalid, fault(decide("publisher.n", "pilots", ledger.Refused, "")), "who refuses says why")
	require.NoError(t, decide("publisher.n", "pilots", ledger.Refused, "Orders are for pilots."))
	var work sync.WaitGroup
	won := make(chan error, 4)
	for range 4 {
		who := as("lead.q")
		work.Go(func() {
			won <- l.Decide(ctx, who, ledger.Decision{Request: id, API: "berths", Line: "1", State: ledger.Approved})
		})
	}
	work.Wait()
	fine := 0
	for range 4 {
		if err := <-won; err == nil {
			fine++
		} else {
			require.Equal(t, ledger.Conflict, fault(err))
		}
	}
	require.Equal(t, 1, fine, "it is decided once")
	require.Equal(t, []string{"berths approved false", "pilots refused false"}, seen("mika"))

	_, _, err = l.MakeCredential(ctx, as("reader.n"), "planner", "berths", -1)
	require.Equal(t, ledger.NotFound, fault(err))
	_, _, err = l.MakeCredential(ctx, as("mika"), "planner", "pilots", -1)
	require.Equal(t, ledger.Conflict, fault(err))
	first, secret, err := l.MakeCredential(ctx, as("mika"), "planner", "berths", -1)
	require.NoError(t, err)
	require.True(t, strings.HasPrefix(secret, first+"."))
	second, _, err := l.MakeCredential(ctx, as("mika"), "planner", "berths", 7)
	require.NoError(t, err)
	grants, err := l.Grants(ctx, as("mika"), "", "planner")
	require.NoError(t, err)
	require.Len(t, grants, 1)
	require.Equal(t, []string{"1.0.0"}, grants[0].Versions)
	require.Equal(t, "2026-01-17T09:00:00Z", grants[0].Credentials[0].EndsAt, "the first goes on for a week")
	require.Empty(t, grants[0].Credentials[1].EndsAt)
	require.Empty(t, grants[0].Credentials[1].Hash, "hashes are for the team's gateway")
	grants, err = l.Grants(ctx, as("reader.q"), "berths", "")
	require.NoError(t, err)
	require.Len(t, grants[0].Credentials[1].Hash, 64)
	none, err := l.Grants(ctx, as("reader.n"), "", "")
	require.NoError(t, err)
	require.Empty(t, none)

	add(t, l, as("editor.q"), logLine("2026-01-09", second, "/v1/bookings", 201, "Anything"))
	use, err := l.Use(ctx, as("reader.q"), ledger.UseQuestion{API: "berths", By: ledger.ByConsumer})
	require.NoError(t, err)
	require.Equal(t, "planner", use.Series[0].Name, "it is known by what the ledger issued")
	add(t, l, as("editor.q"), logLine("2026-01-09", "somebody", "/v1/bookings", 201, "Else"))
	use, err = l.Use(ctx, as("mika"), ledger.UseQuestion{API: "berths", Consumer: "planner"})
	require.NoError(t, err)
	require.EqualValues(t, 1, use.Calls, "whoever keeps a consumer sees its calls, and no others")
	require.Len(t, use.Series, 1)
	_, err = l.Use(ctx, as("mika"), ledger.UseQuestion{API: "berths"})
	require.Equal(t, ledger.Forbidden, fault(err))
	_, err = l.Use(ctx, as("reader.n"), ledger.UseQuestion{API: "berths", Consumer: "planner"})
	require.Equal(t, ledger.Forbidden, fault(err))
	require.Equal(t, ledger.Conflict, fault(l.DropPlan(ctx, as("lead.q"), "berths", "Regular")))
	require.Equal(t, ledger.Conflict, fault(l.DropConsumer(ctx, as("mika"), "planner")))

	carried, n, err := l.CarryOver(ctx, as("lead.q"), ledger.CarryWish{API: "berths", From: "1", To: "2", Sunset: "2026-06-01", Reason: "Two is better."})
	require.NoError(t, err)
	require.Equal(t, []string{"planner"}, carried)
	require.Equal(t, "1", n.Line)
	_, _, err = l.CarryOver(ctx, as("lead.q"), ledger.CarryWish{API: "berths", From: "1", To: "2"})
	require.Equal(t, ledger.Conflict, fault(err), "all were carried over")
	_, _, err = l.CarryOver(ctx, as("lead.q"), ledger.CarryWish{API: "berths", From: "1", To: "9"})
	require.Equal(t, ledger.Invalid, fault(err))
	_, _, err = l.CarryOver(ctx, as("editor.q"), ledger.CarryWish{API: "berths", From: "1", To: "2"})
	require.Equal(t, ledger.Forbidden, fault(err))
	grants, err = l.Grants(ctx, as("mika"), "", "planner")
	require.NoError(t, err)
	require.Len(t, grants, 2)
	require.EqualValues(t, 1000, grants[1].Plan.Quota, "quotas are kept")

	verified := func() string {
		t.Helper()
		v, err := l.VerifyJournal(ctx, as("imke"), "")
		require.NoError(t, err)
		return v.Why
	}
	require.Empty(t, verified())
	require.NoError(t, l.EndCredential(ctx, as("lead.q"), "planner", "berths", second))
	require.NoError(t, l.EndGrant(ctx, as("mika"), "planner", "berths", "1", "We moved."))
	require.Equal(t, ledger.NotFound, fault(l.EndGrant(ctx, as("reader.n"), "planner", "berths", "2", "x")))
	require.NoError(t, l.EndGrant(ctx, as("lead.q"), "planner", "berths", "2", "They left."))
	require.Empty(t, verified())
	require.NoError(t, s.Write(ctx, func(r records.Rows) error {
		return r.PutGrant(ctx, records.Grant{Consumer: "planner", API: "berths", Line: "2", Plan: "Regular", Since: "x", By: "x"})
	}))
	require.Contains(t, verified(), "planner at line 2 of berths")
	require.NoError(t, s.Write(ctx, func(r records.Rows) error { return r.DropGrant(ctx, "planner", "berths", "2") }))
	require.NoError(t, l.DropPlan(ctx, as("lead.q"), "berths", "Regular"))
	require.NoError(t, l.DropConsumer(ctx, as("mika"), "planner"))
	require.Empty(t, verified())
}
