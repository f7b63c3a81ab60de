package value_test

import (
	"encoding/json"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/value"
)

func parse(t *testing.T, text string) *value.Value {
	t.Helper()
	v, err := value.Parse([]byte(text))
	require.NoError(t, err, text)
	return v
}

// TestEqual compares values as JSON Schema does.
func TestEqual(t *testing.T) {
	t.Parallel()
	for _, same := range [][2]string{
		{`1`, `1.0`}, {`100`, `1e2`}, {`{"a":1,"b":2}`, `{"b":2,"a":1.0}`}, {`[1,[2]]`, `[1.0,[2]]`}, {`"\u0061"`, `"a"`}, {`null`, `null`},
	} {
		a, b := parse(t, same[0]), parse(t, same[1])
		require.True(t, a.Equal(b), "%s and %s", a, b)
		require.Equal(t, a.Key(), b.Key())
	}
	for _, other := range [][2]string{
		{`1`, `true`},
		{`0`, `false`},
		{`""`, `null`},
		{`[1,2]`, `[2,1]`},
		{`{"a":1}`, `{"a":1,"b":null}`},
		{`9007199254740992`, `9007199254740993`},
		{`"1"`, `1`},
		{`[]`, `{}`},
	} {
		a, b := parse(t, other[0]), parse(t, other[1])
		require.False(t, a.Equal(b), "%s and %s", a, b)
		require.NotEqual(t, a.Key(), b.Key())
	}
}

// TestText writes values as they were, exactly.
func TestText(t *testing.T) {
	t.Parallel()
	for _, text := range []string{
		`null`, `true`, `-0.5`, `1e2`, `9007199254740993`, `"é\n\"<>&"`, `[1,"a",[]]`, `{"b":1,"a":{"c":[]}}`, `{}`,
	} {
		v := parse(t, text)
		require.Equal(t, text, v.String())
		out, err := json.Marshal(v)
		require.NoError(t, err)
		back := parse(t, string(out))
		require.True(t, v.Equal(back))
	}
	require.Equal(t, "0.5", value.Rat(big.NewRat(1, 2)).String())
	require.Equal(t, "0.33333333333333333333", value.Rat(big.NewRat(1, 3)).String())
}

func TestIndented(t *testing.T) {
	t.Parallel()
	v := parse(t, `{"vessel":{"mmsi":"002110004","length":11.4},"stay":{"arrival":"2026-06-01","nights":2},"tags":["a","b"],"none":[]}`)
	require.Equal(t, `{
  "vessel": {"mmsi": "002110004", "length": 11.4},
  "stay": {"arrival": "2026-06-01", "nights": 2},
  "tags": ["a", "b"],
  "none": []
}`, v.Indented())
	require.Equal(t, `{"a": 1}`, parse(t, `{"a":1}`).Indented())
	require.Equal(t, `{"a": [1, 2]}`, parse(t, `{"a":[1,2]}`).Spaced())
	back := parse(t, v.Indented())
	require.True(t, v.Equal(back))
}

// TestNumbers reads exact numbers and refuses those that would cost too much.
func TestNumbers(t *testing.T) {
	t.Parallel()
	for _, bad := range []string{
		"", "-", "01", "1.", ".5", "1e", "0x1F", "NaN", "1e1001", "1e-1001", "1e99999999999", "--1", "1 ",
		strings.Repeat("9", 1001),
	} {
		_, err := value.ParseNumber(bad)
		require.Error(t, err, bad)
	}
	r, err := value.ParseNumber("-12.50e-1")
	require.NoError(t, err)
	require.Equal(t, "-5/4", r.RatString())
	for _, fine := range []string{"1e1000", "0e0000000001", "1E+0002"} {
		_, err := value.ParseNumber(fine)
		require.NoError(t, err, fine)
	}
}

func TestParseRefuses(t *testing.T) {
	t.Parallel()
	for _, bad := range []string{``, `{`, `[1,]`, `{"a":}`, `1 2`, `{"a":1e9999}`, strings.Repeat("[", 300) + strings.Repeat("]", 300)} {
		_, err := value.Parse([]byte(bad))
		require.Error(t, err, bad)
	}
}
