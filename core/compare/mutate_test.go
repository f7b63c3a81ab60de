package compare_test

import (
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/tools/draw"
	"oldledger/tools/judge"
)

var pairs = flag.Int("pairs", 2500, "how many drawn pairs of schemas are compared")

// around puts a schema into a request body, a response and a webhook, in place or as a component.
func around(t require.TestingT, schema string, component bool) *contract.Contract {
	f, err := source.Parse("drawn.json", []byte(draw.Around(schema, component)))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// rapidChecks sets how many cases rapid draws, for one test.
func rapidChecks(t *testing.T, n int) {
	t.Helper()
	before := flag.Lookup("rapid.checks").Value.String()
	require.NoError(t, flag.Set("rapid.checks", strconv.Itoa(n)))
	t.Cleanup(func() { require.NoError(t, flag.Set("rapid.checks", before)) })
}

// TestDrawn compares drawn schemas in both readings: every witness convinces the independent validator, and what is not
// called breaking nor undecided refuses no value that its sender may send, neither a drawn one nor a sample. At most 2 % of the
// pairs are undecided. `make judge` runs it with 50,000 pairs.
func TestDrawn(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	rapidChecks(t, *pairs)
	tally := drawn(t, func(t *rapid.T) (old, now string) {
		old = draw.Schemas().Draw(t, "old")
		return old, draw.Near(t, old)
	})
	require.LessOrEqual(t, tally.undecided*50, tally.pairs, "more than 2 %% are undecided: %s", tally.String())
	require.LessOrEqual(t, tally.unsure*1000, tally.pairs, "more than 0.1 %% are safe one way round and editorial the other")
}

// TestDrawnTagged does the same with unions of up to forty alternatives that are told apart, with up to three edits between them: at most 2
// of 1,000 are undecided.
func TestDrawnTagged(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	rapidChecks(t, *pairs/10)
	tally := drawn(t, func(t *rapid.T) (old, now string) {
		old = draw.Tagged().Draw(t, "old")
		return old, draw.Edited(t, old)
	})
	require.LessOrEqual(t, tally.undecided*500, max(tally.pairs, 500), tally.String())
}

// drawn compares drawn pairs and judges what is said of them.
func drawn(t *testing.T, pair func(*rapid.T) (old, now string)) *verdicts {
	var tally verdicts
	rapid.Check(t, func(t *rapid.T) {
		a, b := pair(t)
		reading := rapid.SampledFrom([]shape.Reading{shape.Declared, shape.Exact}).Draw(t, "reading")
		old, now := around(t, a, rapid.Bool().Draw(t, "component")), around(t, b, rapid.Bool().Draw(t, "component too"))
		c := compare.Contracts(old, now, compare.Options{Reading: reading})
		judgeWitnesses(t, c, old, now, reading)
		back := compare.Contracts(now, old, compare.Options{Reading: reading})
		if tally.count(c) || undecided(back) {
			return // a search that ends at its budget may end elsewhere the other way round
		}
		// Whether what refuses nothing is the same values in other words is asked of the part alone, and that search may end at its budget, too.
		unsure := c.Forward <= compare.Safe && c.Backward <= compare.Safe && back.Forward <= compare.Safe && back.Backward <= compare.Safe
		if unsure && (c.Forward != back.Backward || c.Backward != back.Forward) {
			tally.unsure++
		} else {
			require.Equal(t, c.Forward, back.Backward, "%s → %s", a, b)
			require.Equal(t, c.Backward, back.Forward, "%s → %s", a, b)
		}
		var values []*value.Value
		for range 4 {
			v, err := value.Parse([]byte(draw.Values().Draw(t, "value")))
			require.NoError(t, err)
			values = append(values, v)
		}
		for d, grade := range map[compare.Direction]compare.Grade{compare.Backward: c.Backward, compare.Forward: c.Forward} {
			sender, receiver := old, now
			if d == compare.Forward {
				sender, receiver = now, old
			}
			if grade != compare.Breaking {
				refusesNothing(t, sender, receiver, values, reading, func() string { return fmt.Sprintf("%s → %s\n%s", a, b, summary(c)) })
			}
		}
	})
	t.Log(tally.String())
	return &tally
}

// verdicts counts what was said of the drawn pairs.
type verdicts struct {
	pairs, breaking, undecided int
	unsure                     int // safe one way round, editorial the other
	reasons                    map[string]int
}

// count adds a comparison, and tells whether it is undecided.
func (v *verdicts) count(c *compare.Comparison) bool {
	v.pairs++
	if max(c.Backward, c.Forward) == compare.Breaking {
		v.breaking++
	}
	if v.reasons == nil {
		v.reasons = map[string]int{}
	}
	for _, ch := range c.Changes {
		if ch.Undecided {
			v.reasons[ch.Why]++
		}
	}
	if !undecided(c) {
		return false
	}
	v.undecided++
	return true
}

func undecided(c *compare.Comparison) bool {
	return slices.ContainsFunc(c.Changes, func(ch *compare.Change) bool { return ch.Undecided })
}

func (v *verdicts) String() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%d pairs: %d breaking in a direction, %d undecided (%.2f %%)", v.pairs, v.breaking, v.undecided,
		100*float64(v.undecided)/float64(max(v.pairs, 1)))
	reasons := slices.SortedFunc(maps.Keys(v.reasons), func(x, y string) int { return v.reasons[y] - v.reasons[x] })
	for _, r := range reasons {
		fmt.Fprintf(&b, "\n  %d %s", v.reasons[r], r)
	}
	return b.String()
}

// refusesNothing holds a verdict that nothing is refused against the validator.
func refusesNothing(t require.TestingT, sender, receiver *contract.Contract, values []*value.Value, reading shape.Reading,
	where func() string,
) {
	space := shape.NewSpace(reading, nil)
	sent := space.Lower(requestSchema(sender), shape.Role{Sends: true, Request: true})
	if v := space.Find(sent); v.Answer == shape.Refuted {
		values = append(values, v.Witness)
	}
	j, err := judge.For(receiver, requestSchema(receiver).Node, reading, true)
	require.NoError(t, err)
	for _, v := range values {
		holds, known := space.Contains(sent, v)
		require.True(t, known)
		if holds {
			valid, why := j.Valid(v)
			require.True(t, valid, "%s is sent and refused, and nothing says so: %s\n%s", v, why, where())
		}
	}
}

func requestSchema(c *contract.Contract) *contract.Schema {
	return c.Operations[0].Body.Content[0].Schema
}

// TestDrawnParameters compares drawn schemas of a query parameter, whose values are text: the verdict is as that of its reverse.
func TestDrawnParameters(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		a := draw.Schemas().Draw(t, "old")
		b := draw.Near(t, a)
		old, now := withParameter(t, a), withParameter(t, b)
		c := compare.Contracts(old, now, compare.Options{})
		back := compare.Contracts(now, old, compare.Options{})
		if undecided(c) || undecided(back) {
			return
		}
		require.Equal(t, c.Forward, back.Backward, "%s → %s", a, b)
		for _, ch := range c.Changes {
			for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
				require.Equal(t, ch.Grade(d) == compare.Breaking, ch.WitnessFor(d) != nil, "%s: %s", ch.Title, d)
			}
		}
	})
}

func withParameter(t require.TestingT, schema string) *contract.Contract {
	text := fmt.Sprintf(`{"openapi":"3.1.0","info":{"title":"T","version":"1.0.0"},"paths":{"/a":{"get":{"parameters":[{"name":"p","in":"query","schema":%s}],"responses":{"200":{"description":"A."}}}}},"components":{"schemas":{"Loop":%s}}}`,
		schema, draw.Loop)
	f, err := source.Parse("drawn.json", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// FuzzCompare compares a description of the demo with what fuzzing makes of it: no panic, an end, and the same verdict
// the other way round.
func FuzzCompare(f *testing.F) {
	for _, path := range []string{"../../demo/pilotage/1.0.0.yaml", "../../demo/commons/1.0.0.yaml"} {
		text, err := os.ReadFile(path)
		require.NoError(f, err)
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		file, err := source.Parse("fuzz.yaml", text)
		if err != nil {
			return
		}
		c, err := openapi.Read(file)
		if err != nil {
			return
		}
		base := readFile(t, "../../demo/pilotage/1.0.0.yaml")
		there, back := compare.Contracts(base, c, compare.Options{}), compare.Contracts(c, base, compare.Options{})
		require.Equal(t, there.Backward, back.Forward)
		require.Equal(t, there.Forward, back.Backward)
	})
}
