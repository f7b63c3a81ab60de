package compare_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
)

// tagStyles are the ways in which authors tell the alternatives of a union apart: by a constant, by one that stands in another member than
// what demands it, by a reference, further in, by a property that all others refuse.
var tagStyles = map[string]string{
	"a constant":                  `{"type":"object","required":["k"],"properties":{"k":{"const":"k%[1]d"},%[2]s}}`,
	"a head that all share":       `{"allOf":[{"type":"object","required":["id","k"],"properties":{"id":{"type":"string"},"at":{"type":"string"},"k":{"type":"string"}}},{"type":"object","properties":{"k":{"const":"k%[1]d"},%[2]s}}]}`,
	"a list of one in a member":   `{"type":"object","required":["k"],"allOf":[{"properties":{"k":{"enum":["k%[1]d"]}}}],"properties":{%[2]s}}`,
	"demanded beside the union":   `{"type":"object","properties":{"k":{"const":"k%[1]d"},%[2]s}}`,
	"a constant beside a wrapper": `{"type":"object","required":["k"],"properties":{"k":{"allOf":[{"type":"string"}],"const":"k%[1]d"},%[2]s}}`,
	"further in":                  `{"type":"object","required":["head"],"properties":{"head":{"type":"object","required":["k"],"properties":{"k":{"const":"k%[1]d"}}},%[2]s}}`,
	"one name each":               `{"type":"object","required":["k%[1]d"],"properties":{"k%[1]d":{"type":"string"},%[2]s},"additionalProperties":false}`,
}

// TestTagStyles decides what changes in one of fourteen alternatives, alone and together with another, however they are told apart: each
// edit is one change, and the message that shows it is one of that alternative.
func TestTagStyles(t *testing.T) {
	t.Parallel()
	const many = 14
	for name, style := range tagStyles {
		t.Run(name, func(t *testing.T) {
			union := func(limit int, more string, lost bool) string {
				var all []string
				for i := range many {
					fields, most := fmt.Sprintf(`"v%d":{"type":"integer","maximum":%%d},"w":{"type":"string"}`, i), 100
					if i == 5 {
						most = limit
					}
					fields = fmt.Sprintf(fields, most)
					if i == 7 {
						fields += more
					}
					if i < many-1 || !lost {
						all = append(all, fmt.Sprintf(style, i, fields))
					}
				}
				whole := `"oneOf":[` + strings.Join(all, ",") + `]`
				if name == "demanded beside the union" {
					whole = `"type":"object","required":["k"],"properties":{"k":{"type":"string"}},` + whole
				}
				return "{" + whole + "}"
			}
			for what, c := range map[string]struct {
				limit int
				more  string
				lost  bool
				want  []string // what the witness of each change holds, "" for a change that refuses nothing
			}{
				"a limit":             {50, "", false, []string{"k5"}},
				"a field":             {100, `,"extra":{"type":"string"}`, false, []string{""}},
				"a limit and a field": {50, `,"extra":{"type":"string"}`, false, []string{"k5", ""}},
				"an alternative":      {100, "", true, []string{"k13"}},
				"all of it":           {50, `,"extra":{"type":"string"}`, true, []string{"k13", "k5", ""}},
			} {
				old, err := withSchema(union(100, "", false), "")
				require.NoError(t, err)
				now, err := withSchema(union(c.limit, c.more, c.lost), "")
				require.NoError(t, err)
				got := compare.Contracts(old, now, compare.Options{})
				require.Len(t, got.Changes, len(c.want), "%s: %s", what, summary(got))
				for i, ch := range got.Changes {
					require.False(t, ch.Undecided, "%s: %s", what, summary(got))
					if c.want[i] == "" {
						require.NotEqual(t, compare.Breaking, ch.Backward, "%s: %s", what, summary(got))
						continue
					}
					shown, err := json.Marshal(ch.WitnessFor(compare.Backward))
					require.NoError(t, err)
					require.Contains(t, string(shown), c.want[i]+`"`, "%s: %s", what, summary(got))
				}
			}
		})
	}
}

// TestDeepConditions compares conditions in conditions: the break is told, and what could not be decided for want of steps once, not on
// each level.
func TestDeepConditions(t *testing.T) {
	t.Parallel()
	nested := func(depth, limit int) string {
		s := fmt.Sprintf(`{"type":"object","properties":{"v":{"type":"integer","maximum":%d}}}`, limit)
		for i := range depth {
			s = fmt.Sprintf(`{"if":{"required":["a%d"]},"then":%s,"else":{"properties":{"b%d":{"type":"string"}}}}`, i, s, i)
		}
		return s
	}
	for depth, most := range map[int]int{5: 1, 60: 3} {
		old, err := withSchema(nested(depth, 9), "")
		require.NoError(t, err)
		now, err := withSchema(nested(depth, 5), "")
		require.NoError(t, err)
		c := compare.Contracts(old, now, compare.Options{})
		require.Equal(t, compare.Breaking, c.Backward)
		require.LessOrEqual(t, len(c.Changes), most, summary(c))
		require.Equal(t, fmt.Sprintf("with a%d, v is at most 5, was at most 9", depth-1), c.Changes[0].Title)
	}
}

// TestUntaggedAlternatives compares alternatives that nothing tells apart but what each must hold: a message with the names of one fits no
// other, so that each edit is one change, and the other direction is none.
func TestUntaggedAlternatives(t *testing.T) {
	t.Parallel()
	union := func(card, more string) string {
		return `{"oneOf":[{"type":"object","required":["card"],"properties":{"card":{"type":"string"},` + card + `}},
			{"type":"object","required":["bank"],"properties":{"bank":{"type":"string"},"m":{"type":"integer"}}}` + more + `]}`
	}
	const before = `"n":{"type":"integer","maximum":9}`
	for name, c := range map[string]struct {
		now               string
		backward, forward compare.Grade
	}{
		"a limit": {union(`"n":{"type":"integer","maximum":5}`, ""), compare.Breaking, compare.Safe},
		"a field": {union(before+`,"x":{"type":"string"}`, ""), compare.Safe, compare.Hazard},
		"an alternative": {
			union(before, `,{"type":"object","required":["cash"],"properties":{"cash":{"type":"boolean"}}}`), compare.Safe,
			compare.Breaking,
		},
		"no limit": {union(`"n":{"type":"integer"}`, ""), compare.Safe, compare.Breaking},
	} {
		old, err := withSchema(union(before, ""), "")
		require.NoError(t, err)
		now, err := withSchema(c.now, "")
		require.NoError(t, err)
		got := compare.Contracts(old, now, compare.Options{})
		require.Len(t, got.Changes, 1, "%s: %s", name, summary(got))
		require.Equal(t, [2]compare.Grade{c.backward, c.forward}, [2]compare.Grade{got.Backward, got.Forward}, "%s: %s", name, summary(got))
	}
}
