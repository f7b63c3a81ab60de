package compare_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/value"
)

func change(kind string, backward, forward compare.Grade, reach ...string) *compare.Change {
	return &compare.Change{Kind: kind, Backward: backward, Forward: forward, Operation: reach[0], Reach: reach}
}

// TestSelect picks changes by grade, kind and operation. What is left out does not count; what is only not listed does.
func TestSelect(t *testing.T) {
	t.Parallel()
	c := &compare.Comparison{
		Backward: compare.Breaking, Forward: compare.Breaking,
		Changes: []*compare.Change{
			change("request.range-narrowed", compare.Breaking, compare.Safe, "POST /bookings", "PATCH /bookings/{}"),
			change("response.enum-widened", compare.Safe, compare.Breaking, "GET /bookings"),
			change("operation.wording-changed", compare.Editorial, compare.Editorial, "GET /quays"),
		},
	}
	for name, s := range map[string]struct {
		selection         compare.Selection
		listed            int
		backward, forward compare.Grade
	}{
		"all":                        {compare.Selection{}, 3, compare.Breaking, compare.Breaking},
		"a grade, the verdict stays": {compare.Selection{AtLeast: compare.Hazard}, 1, compare.Breaking, compare.Breaking},
		"forward": {
			compare.Selection{AtLeast: compare.Hazard, Direction: compare.Forward},
			1, compare.Breaking,
			compare.Breaking,
		},
		"either":                   {compare.Selection{AtLeast: compare.Hazard, Either: true}, 2, compare.Breaking, compare.Breaking},
		"a kind":                   {compare.Selection{Only: []string{"response.enum-widened"}}, 1, compare.Safe, compare.Breaking},
		"a kind without its place": {compare.Selection{Only: []string{"enum-widened"}}, 1, compare.Safe, compare.Breaking},
		"kinds":                    {compare.Selection{Only: []string{"re*-*"}}, 2, compare.Breaking, compare.Breaking},
		"an operation":             {compare.Selection{Only: []string{"PATCH /bookings/{}"}}, 1, compare.Breaking, compare.Safe},
		"operations":               {compare.Selection{Skip: []string{"* /bookings*"}}, 1, compare.Editorial, compare.Editorial},
		"nothing":                  {compare.Selection{Only: []string{"GET /nowhere"}}, 0, compare.Editorial, compare.Editorial},
		"both":                     {compare.Selection{Only: []string{"*"}, Skip: []string{"request.*"}}, 2, compare.Safe, compare.Breaking},
	} {
		got := compare.Select(c, s.selection)
		require.Len(t, got.Changes, s.listed, name)
		require.Equal(t, s.backward, got.Backward, name)
		require.Equal(t, s.forward, got.Forward, name)
	}
	require.Len(t, c.Changes, 3, "what was selected from stays as it was")
	require.Equal(t, 1, compare.Select(c, compare.Selection{AtLeast: compare.Breaking}).Counts.Editorial)
}

// TestMessages writes witnesses as short requests and responses.
func TestMessages(t *testing.T) {
	t.Parallel()
	text, number := value.Str("a b"), &value.Value{Kind: value.Array, Items: []*value.Value{value.True}}
	for want, w := range map[string]compare.Witness{
		`POST /bookings {"a": true}`: {
			Operation: "POST /bookings", Position: "request body application/json",
			Value: value.Obj(value.Member{Name: "a", Value: value.True}),
		},
		`GET /bookings → 200 [true]`:          {Operation: "GET /bookings", Position: "response 200 application/json", Value: number},
		`GET /bookings?quay=a b`:              {Operation: "GET /bookings", Position: "query parameter quay", Value: text},
		`GET /bookings?quays=[true]`:          {Operation: "GET /bookings", Position: "query parameter quays", Value: number},
		`GET /bookings with X-Quay: a b`:      {Operation: "GET /bookings", Position: "header parameter X-Quay", Value: text},
		`GET /bookings with Cookie: quay=a b`: {Operation: "GET /bookings", Position: "cookie parameter quay", Value: text},
		`GET /berths/{} with id = a b`:        {Operation: "GET /berths/{}", Position: "path parameter id", Value: text},
		`GET /bookings without quay`:          {Operation: "GET /bookings", Position: "query parameter quay"},
		`GET /a → 200 with X-Total: a b`:      {Operation: "GET /a", Position: "response 200 header X-Total", Value: text},
		`GET /a → 200 without X-Total`:        {Operation: "GET /a", Position: "response 200 header X-Total"},
		`GET /a → 404`:                        {Operation: "GET /a", Position: "response 404"},
		`GET /a → 404 as text/csv`:            {Operation: "GET /a", Position: "response 404 text/csv"},
		`POST /a as text/csv`:                 {Operation: "POST /a", Position: "request body text/csv"},
		`GET /a`:                              {Operation: "GET /a", Position: "request"},
		`POST /a "text"`:                      {Operation: "POST /a", Position: "request body text/plain", Value: value.Str("text")},
	} {
		require.Equal(t, want, w.Message())
	}
}
