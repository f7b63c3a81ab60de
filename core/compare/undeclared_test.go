package compare_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
)

// TestUndeclared compares requests as a server takes them that refuses what it does not declare, and as one that ignores it.
func TestUndeclared(t *testing.T) {
	t.Parallel()
	object := func(properties string) string { return `{"type":"object","properties":{` + properties + `}}` }
	tagged := func(more string) string {
		return `{"oneOf":[{"type":"object","required":["k"],"properties":{"k":{"const":"x"}` + more +
			`}},{"type":"object","required":["k"],"properties":{"k":{"const":"y"}}}]}`
	}
	for name, c := range map[string]struct {
		old, now                   string
		ignoredBack, ignoredOnward compare.Grade
		refusedBack, refusedOnward compare.Grade
	}{
		"a field more": {object(`"a":{}`), object(`"a":{},"b":{}`), compare.Safe, compare.Hazard, compare.Safe, compare.Breaking},
		"a field less": {object(`"a":{},"b":{}`), object(`"a":{}`), compare.Hazard, compare.Safe, compare.Breaking, compare.Safe},
		"another name": {
			object(`"userName":{"type":"string"}`), object(`"user_name":{"type":"string"}`), compare.Hazard, compare.Hazard,
			compare.Breaking, compare.Breaking,
		},
		"a field deep in": {
			object(`"a":` + object(`"b":{}`)), object(`"a":` + object(`"b":{},"c":{}`)), compare.Safe, compare.Hazard,
			compare.Safe, compare.Breaking,
		},
		"one of two": {tagged(""), tagged(`,"z":{"type":"string"}`), compare.Safe, compare.Hazard, compare.Safe, compare.Breaking},
		"a limit": {
			object(`"a":{"type":"integer","maximum":9}`), object(`"a":{"type":"integer","maximum":5}`), compare.Breaking,
			compare.Safe, compare.Breaking, compare.Safe,
		},
		"open to everything": {
			`{"type":"object","additionalProperties":true}`,
			`{"type":"object","properties":{"a":{}},"additionalProperties":true}`, compare.Safe, compare.Hazard, compare.Safe, compare.Hazard,
		},
	} {
		t.Run(name, func(t *testing.T) {
			for undeclared, want := range map[compare.Undeclared][2]compare.Grade{
				compare.Ignored: {c.ignoredBack, c.ignoredOnward},
				compare.Refused: {c.refusedBack, c.refusedOnward},
			} {
				old, err := withSchema(c.old, "")
				require.NoError(t, err)
				now, err := withSchema(c.now, "")
				require.NoError(t, err)
				got := compare.Contracts(old, now, compare.Options{Undeclared: undeclared})
				require.Equal(t, want, [2]compare.Grade{got.Backward, got.Forward}, "%s: %s", undeclared, summary(got))
				require.Equal(t, undeclared.String(), got.Undeclared)
				require.Len(t, got.Changes, 1, summary(got))
				require.False(t, got.Changes[0].Undecided, summary(got))
			}
		})
	}
}

// TestUndeclaredUntagged decides what a server refuses under alternatives that no tag tells apart.
func TestUndeclaredUntagged(t *testing.T) {
	t.Parallel()
	union := func(more string) string {
		return `{"oneOf":[{"type":"object","required":["x"],"properties":{"x":{"type":"string"}` + more +
			`}},{"type":"object","required":["y"],"properties":{"y":{"type":"string"}}}]}`
	}
	old, err := withSchema(union(""), "")
	require.NoError(t, err)
	now, err := withSchema(union(`,"z":{"type":"string"}`), "")
	require.NoError(t, err)
	c := compare.Contracts(old, now, compare.Options{Undeclared: compare.Refused})
	require.Equal(t, compare.Safe, c.Backward, summary(c))
	require.Equal(t, compare.Breaking, c.Forward, summary(c))
	for _, ch := range c.Changes {
		require.False(t, ch.Undecided, summary(c))
	}
}
