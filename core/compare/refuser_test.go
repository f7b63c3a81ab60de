package compare

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// TestRefusers names who refuses what: a version, or those who were built for one.
func TestRefusers(t *testing.T) {
	t.Parallel()
	for want, w := range map[string]Witness{
		"2.0.0":                {Operation: "POST /a", Position: "request body application/json"},
		"1.0.0":                {Operation: "POST /a", Position: "request body application/json", Direction: Forward},
		"a client of 1.0.0":    {Operation: "POST /a", Position: "response 200 application/json"},
		"a client of 2.0.0":    {Operation: "POST /a", Position: "response 200 application/json", Direction: Forward},
		"a receiver for 1.0.0": {Operation: "webhook a POST", Position: "request body application/json"},
		"a receiver for 2.0.0": {Operation: "callback a POST of POST /b", Position: "request body application/json", Direction: Forward},
	} {
		require.Equal(t, want, w.refuser("1.0.0", "2.0.0"))
	}
}
