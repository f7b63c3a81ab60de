package compare_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
)

// TestRecommended counts the next version from the old one (docs/design/compatibility.md, Promises).
func TestRecommended(t *testing.T) {
	t.Parallel()
	same, worded, wider, narrower, dropped := `{"maximum":9,"type":"integer"}`, `{"maximum":9,"type":"integer","description":"How many."}`,
		`{"type":"integer"}`, `{"maximum":8,"type":"integer"}`, `{"type":"integer","maximum":9,"default":3}`
	for _, c := range []struct {
		version, schema string
		bothWays        bool
		bump, want      string
	}{
		{"1.2.3", same, false, "none", "1.2.3"},
		{"1.2.3", worded, false, "patch", "1.2.4"},
		{"1.2.3", wider, false, "minor", "1.3.0"},
		{"1.2.3", dropped, false, "minor", "1.3.0"},
		{"1.2.3", narrower, false, "major", "2.0.0"},
		{"1.2.3", wider, true, "major", "2.0.0"},
		{"v1", narrower, false, "major", "2.0.0"},
		{"1.2", worded, false, "patch", "1.2.1"},
		{"0.4.1", narrower, false, "minor", "0.5.0"},
		{"0.4.1", wider, false, "patch", "0.4.2"},
		{"0.4.1", worded, false, "patch", "0.4.2"},
		{"1.0.0-rc.1", worded, false, "patch", "1.0.0"},
		{"2026-03-01", narrower, false, "", ""},
		{"newest", narrower, false, "", ""},
	} {
		old, now := withParameter(t, same), withParameter(t, c.schema)
		old.Version = c.version
		got := compare.Contracts(old, now, compare.Options{})
		name := fmt.Sprintf("%s, %s", c.version, c.schema)
		if c.want == "" {
			require.Nil(t, got.Recommended, name)
			continue
		}
		want := &compare.Recommendation{Bump: c.bump, Version: c.want}
		require.Equal(t, want, got.Recommend(c.bothWays), name)
		if !c.bothWays {
			require.Equal(t, want, got.Recommended, name)
		}
	}
}
