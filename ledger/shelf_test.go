package ledger_test

import (
	"context"
	"crypto/rand"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/store"
)

// shelved is a house with three published lines of berths, which everybody reads, and a shelf of partners for Navigation with line 1 of it.
func shelved(t *testing.T) (*ledger.Ledger, func(string) ledger.Actor) {
	t.Helper()
	ctx := t.Context()
	l, as := house(t)
	for _, number := range []string{"1.0.0", "1.1.0", "2.0.0", "3.0.0"} {
		_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", Text: describe(number, "a"+strings.ReplaceAll(number, ".", "")+": {type: string}")})
		require.NoError(t, err)
		if number != "3.0.0" {
			_, err = l.Publish(ctx, as("lead.q"), "berths@"+number, nil)
			require.NoError(t, err)
		}
	}
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, "everyone")}))
	require.NoError(t, l.PutShelf(ctx, as("imke"), "partners", ledger.ShelfWish{Title: new("For partners"), Audience: audience(t, "team Navigation")}))
	require.NoError(t, l.Place(ctx, as("publisher.q"), "partners", "berths", ledger.Picks{"1"}))
	return l, as
}

// TestShelves asks as everybody for what stands on a shelf: who does not see it finds nothing, who does finds what stands there of what is
// open to them, and nobody sees more there than elsewhere.
func TestShelves(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := shelved(t)
	numbers := func(who ledger.Actor) string {
		a, err := l.API(ctx, who, "berths")
		if err != nil {
			require.EqualError(t, err, "there is no API called berths")
			return ""
		}
		var all []string
		for _, v := range a.Versions {
			all = append(all, v.Number)
		}
		cards, err := l.Cards(ctx, who, false)
		require.NoError(t, err)
		require.Len(t, cards, 1)
		require.Equal(t, all[len(all)-1], cards[0].Latest.Number)
		return strings.Join(all, " ")
	}
	everybody := map[string]ledger.Actor{"": ledger.Nobody}
	for _, name := range []string{"imke", "reader.n", "lead.q"} {
		everybody[name] = as(name)
	}
	for name, seen := range map[string]string{"": "", "imke": "1.0.0 1.1.0", "reader.n": "1.0.0 1.1.0", "lead.q": ""} {
		require.Equal(t, seen, numbers(l.At(everybody[name], "partners")), name)
		require.Empty(t, numbers(l.At(everybody[name], "none")), name)
		require.Equal(t, "1.0.0 1.1.0 2.0.0", numbers(everybody[name].Reading()), "elsewhere, it is as before: %s", name)
	}

	// What is compared, converted, resolved and read there is what stands there.
	there := l.At(as("reader.n"), "partners")
	v, err := l.Resolve(ctx, there, "berths@latest")
	require.NoError(t, err)
	require.Equal(t, "1.1.0", v.Number)
	_, err = l.Description(ctx, there, "berths@2.0.0")
	require.EqualError(t, err, "berths has no version 2.0.0; recorded are 1.0.0, 1.1.0")

	// It opens nothing: shut to all but its team, berths is not there for those who see the shelf.
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, "team")}))
	require.Empty(t, numbers(l.At(as("reader.n"), "partners")))
	require.Equal(t, "1.0.0 1.1.0", numbers(l.At(as("imke"), "partners")))
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, "signed-in")}))
	require.Equal(t, "1.0.0 1.1.0", numbers(l.At(as("reader.n"), "partners")))

	// Each change holds for who asks next.
	require.NoError(t, l.Place(ctx, as("publisher.q"), "partners", "berths", ledger.Picks{"2", "1.0.0", "3.0.0"}))
	require.Equal(t, "1.0.0 2.0.0", numbers(l.At(as("reader.n"), "partners")), "a draft stands nowhere")
	require.NoError(t, l.Place(ctx, as("publisher.q"), "partners", "berths", nil))
	require.Equal(t, "1.0.0 1.1.0 2.0.0", numbers(l.At(as("reader.n"), "partners")))
	require.NoError(t, l.PutShelf(ctx, as("imke"), "partners", ledger.ShelfWish{Audience: audience(t, "team Quayside")}))
	require.Empty(t, numbers(l.At(as("reader.n"), "partners")))
	require.NotEmpty(t, numbers(l.At(as("lead.q"), "partners")))
	require.NoError(t, l.Unplace(ctx, as("publisher.q"), "partners", "berths"))
	require.Empty(t, numbers(l.At(as("lead.q"), "partners")))
	require.EqualError(t, l.Unplace(ctx, as("publisher.q"), "partners", "berths"), "berths does not stand on partners")
	require.NoError(t, l.DropShelf(ctx, as("imke"), "partners"))
	require.EqualError(t, l.DropShelf(ctx, as("imke"), "partners"), "there is no shelf called partners")
	require.Empty(t, numbers(l.At(as("imke"), "partners")))
	verified(t, l)
}

func verified(t *testing.T, l *ledger.Ledger) {
	t.Helper()
	v, err := l.VerifyJournal(context.Background(), ledger.Itself, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
}

// TestShelvesTold lists the shelves to everybody: to those who may place an API all, with what of them they know of and why it is not
// read; to others those that are for them, without who sees them.
func TestShelvesTold(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := shelved(t)
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "vik", Full: "Vik"}, "long enough"))
	_, err := l.Record(ctx, as("editor.n"), ledger.Submission{API: "tides", Text: describe("1.0.0", "")})
	require.NoError(t, err)
	require.NoError(t, l.Place(ctx, as("lead.n"), "partners", "tides", nil))
	require.NoError(t, l.PutShelf(ctx, as("imke"), "open", ledger.ShelfWish{Audience: audience(t, "everyone"), Host: new("Open.saltmere.example")}))
	require.NoError(t, l.Place(ctx, as("lead.q"), "open", "berths", ledger.Picks{"3", "2.0.0"}))
	told := func(who ledger.Actor) string {
		all, err := l.Shelves(ctx, who)
		require.NoError(t, err)
		var b strings.Builder
		for _, s := range all {
			b.WriteString(s.Name + " [" + s.Title + "|" + s.Audience.String() + "|" + s.Host + "|" + s.MadeBy + "]")
			for _, stand := range s.Stands {
				b.WriteString(" " + stand.API + "(" + strings.Join(stand.Versions, ",") + ")" + stand.Why)
			}
			b.WriteString("\n")
		}
		return b.String()
	}
	open := "open [open|everyone|open.saltmere.example|imke] "
	partners := "partners [For partners|team Navigation||imke] "
	nothing := "nothing of it that stands here is published"
	require.Equal(t, open+"berths(3,2.0.0)\n"+partners+"berths(1) tides()"+nothing+"\n", told(as("imke")))
	require.Equal(t, open+"berths(3,2.0.0)\n"+partners+"berths(1)\n", told(as("lead.q")), "they know of no draft of tides")
	require.Equal(t, open+"berths(2.0.0)\n"+partners+"berths(1) tides()"+nothing+"\n", told(as("reader.n")), "they know of no draft of berths")
	require.NotContains(t, told(as("reader.q")), "partners", "who places nothing knows of those that are for them")
	for _, who := range []ledger.Actor{as("vik"), ledger.Nobody} {
		require.Equal(t, "open [open|team||] berths(2.0.0)\n", told(who))
	}
	require.Empty(t, l.ShelfAt("partners"))
	require.Equal(t, "open", l.ShelfAt("open.saltmere.example"))
	for _, host := range []string{"OPEN.saltmere.example:8443", "open.saltmere.example.", "open.saltmere.example.:80"} {
		require.Equal(t, "open", l.ShelfAt(host))
	}
	for _, host := range []string{"", ":", "[::1]:8470", "saltmere.example", "x.open.saltmere.example"} {
		require.Empty(t, l.ShelfAt(host))
	}

	for published, why := range map[string]string{
		"team":            "it is for its team alone, and the shelf for Navigation; open the API, too",
		"team Navigation": "", "signed-in": "", "everyone": "",
		"link": "it is for whoever has a link and its password, and the shelf for Navigation; open the API, too",
	} {
		require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, published)}))
		all, err := l.Shelves(ctx, as("lead.q"))
		require.NoError(t, err)
		require.Equal(t, why, all[1].Stands[0].Why, published)
	}
	verified(t, l)
}

// TestShelvesRefused tries what is wrong with a wish, and that nothing of it is kept.
func TestShelvesRefused(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := shelved(t)
	imke, before := as("imke"), entries(t, l)
	require.NoError(t, l.PutShelf(ctx, imke, "open", ledger.ShelfWish{Host: new("open.saltmere.example")}))
	long := strings.Repeat("x", 30_000)
	for why, wish := range map[string]ledger.ShelfWish{
		"a link leads to one API":                                {Audience: audience(t, "link")},
		"is no title of a shelf":                                 {Title: new("a\nb")},
		"greets on a shelf has at most":                          {Landing: &long},
		"a reason has at most":                                   {Title: new("x"), Reason: long},
		`"http://x" is no host`:                                  {Host: new("http://x")},
		"is no host; write one":                                  {Host: new("*.example")},
		"at open.saltmere.example stands the shelf open already": {Host: new("OPEN.saltmere.example")},
		"there is no team":                                       {Audience: audience(t, "team None")},
		`none does not stand on partners`:                        {Order: []string{"none"}},
		`berths is named twice in the order of partners`:         {Order: []string{"berths", "berths"}},
	} {
		require.ErrorContains(t, l.PutShelf(ctx, imke, "partners", wish), why)
	}
	for _, name := range []string{"", "Partners", "a b", "../x", long} {
		require.ErrorContains(t, l.PutShelf(ctx, imke, name, ledger.ShelfWish{}), "is no name of a shelf")
	}
	lead := as("lead.q")
	require.EqualError(t, l.Place(ctx, lead, "partner", "berths", nil), `there is no shelf called partner; did you mean "partners"?`)
	require.EqualError(t, l.Place(ctx, lead, "partners", "berths", ledger.Picks{"4"}), "berths has no version 4; recorded are 1.0.0, 1.1.0, 2.0.0, 3.0.0")
	require.ErrorContains(t, l.Place(ctx, as("lead.n"), "partners", "berths", nil), "is nobody in the team of berths")
	require.ErrorContains(t, l.PutShelf(ctx, lead, "partners", ledger.ShelfWish{}), "an admin may make shelves and arrange them")
	for _, wrong := range []string{"x", "1.2.3.4", "", "lines", "1 2"} {
		_, err := ledger.PicksOf([]string{wrong})
		require.ErrorContains(t, err, "is no line and no number", wrong)
	}
	require.ErrorContains(t, l.DropTeam(ctx, imke, "Navigation"), "Navigation is among the readers of the shelf partners")
	require.Equal(t, before+1, entries(t, l))
	verified(t, l)
}

func entries(t *testing.T, l *ledger.Ledger) int {
	t.Helper()
	all, err := l.Journal(t.Context(), ledger.Itself, ledger.Question{}, 0, 1000)
	require.NoError(t, err)
	return len(all)
}

// TestShelfOrder arranges a shelf: those that are named come first, the others behind them as they were.
func TestShelfOrder(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := shelved(t)
	for _, api := range []string{"tides", "buoys", "charts"} {
		_, err := l.Record(ctx, as("editor.n"), ledger.Submission{API: api, Text: describe("1.0.0", "")})
		require.NoError(t, err)
		require.NoError(t, l.Place(ctx, as("publisher.n"), "partners", api, nil))
	}
	order := func() string {
		all, err := l.Shelves(ctx, as("imke"))
		require.NoError(t, err)
		var names []string
		for _, s := range all[0].Stands {
			names = append(names, s.API)
		}
		return strings.Join(names, " ")
	}
	require.Equal(t, "berths tides buoys charts", order())
	require.NoError(t, l.PutShelf(ctx, as("imke"), "partners", ledger.ShelfWish{Order: []string{"charts", "tides"}}))
	require.Equal(t, "charts tides berths buoys", order())
	require.NoError(t, l.Place(ctx, as("publisher.n"), "partners", "tides", ledger.Picks{"1"}))
	require.Equal(t, "charts tides berths buoys", order(), "it keeps its place")
	require.NoError(t, l.DiscardAPI(ctx, as("lead.n"), "charts"))
	require.Equal(t, "tides berths buoys", order())
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "charts", Text: describe("1.0.0", "")})
	require.NoError(t, err)
	require.Equal(t, "tides berths buoys", order(), "another API of that name stands nowhere")
	verified(t, l)
}

// TestSwitcher says to which versions the pages of an API lead.
func TestSwitcher(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := shelved(t)
	leads := func(read string) string {
		a, err := l.API(ctx, ledger.Nobody, "berths")
		require.NoError(t, err)
		slices.Reverse(a.Versions)
		var numbers []string
		for _, v := range a.Switches(a.Versions, read) {
			numbers = append(numbers, v.Number)
		}
		return strings.Join(numbers, " ")
	}
	require.Equal(t, "2.0.0 1.1.0 1.0.0", leads("2.0.0"))
	for _, c := range []struct {
		set        []string
		read, want string
	}{
		{[]string{"lines"}, "2.0.0", "2.0.0 1.1.0"},
		{[]string{"lines"}, "1.0.0", "2.0.0 1.1.0 1.0.0"},
		{[]string{"1"}, "1.0.0", "1.1.0 1.0.0"},
		{[]string{"1.0.0", "2"}, "2.0.0", "2.0.0 1.0.0"},
		{[]string{"3.0.0"}, "2.0.0", "2.0.0"},
		{nil, "2.0.0", "2.0.0 1.1.0 1.0.0"},
	} {
		to, err := ledger.SwitcherOf(c.set)
		require.NoError(t, err)
		require.NoError(t, l.Set(ctx, as("editor.q"), "berths", ledger.Settings{Switcher: &to}))
		require.Equal(t, c.want, leads(c.read), "%v", c.set)
		verified(t, l)
	}
	require.ErrorContains(t, l.Set(ctx, as("editor.q"), "berths", ledger.Settings{Switcher: &ledger.Picks{"9"}}), "berths has no version 9")
	require.ErrorContains(t, l.Set(ctx, as("reviewer.q"), "berths", ledger.Settings{Switcher: &ledger.Picks{}}), "may say how the reference looks")
}

// TestShelfAtOnce asks a service that has just begun, and another one over the same records, at which host a shelf is shown alone.
func TestShelfAtOnce(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	begun := func() *ledger.Ledger {
		return ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader, Recheck: time.Nanosecond})
	}
	one, other := begun(), begun()
	require.Empty(t, other.ShelfAt("open.saltmere.example"))
	require.NoError(t, one.PutShelf(ctx, ledger.Itself, "open", ledger.ShelfWish{Host: new("open.saltmere.example")}))
	require.Equal(t, "open", begun().ShelfAt("open.saltmere.example"), "the first that it is asked")
	require.Equal(t, "open", other.ShelfAt("open.saltmere.example"))
	require.NoError(t, other.DropShelf(ctx, ledger.Itself, "open"))
	require.Empty(t, one.ShelfAt("open.saltmere.example"))
}
