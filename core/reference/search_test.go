package reference_test

import (
	"context"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/openapi"
	"oldledger/core/reference"
	"oldledger/core/source"
)

func index(t testing.TB, name string, text []byte) *reference.Index {
	t.Helper()
	f, err := source.Parse(name, text)
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return made(reference.Make(context.Background(), c, reference.Context{})).Index()
}

// TestSearch asks the demo's berths as readers do.
func TestSearch(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../../demo/berths/2.0.0.yaml")
	require.NoError(t, err)
	ix := index(t, "berths.yaml", text)
	for question, want := range map[string]string{
		"book":              "operation Book a berth",
		"Book a berth":      "operation Book a berth",
		"boook":             "operation Book a berth",
		"cancl booking":     "operation Cancel a booking",
		"lengthOverall":     "field lengthOverall",
		"overall":           "field lengthOverall",
		"lenghtOverall":     "field lengthOverall",
		"mmsi":              "field mmsi",
		"vess":              "schema Vessel",
		"POST /bookings":    "operation Book a berth",
		"quaymaster arrive": "operation Report an arrival",
		"xyzzy":             "",
		"":                  "",
		"  / {}":            "",
	} {
		hits := ix.Find(question, 10)
		if want == "" {
			require.Empty(t, hits, question)
			continue
		}
		require.NotEmpty(t, hits, question)
		require.Equal(t, want, hits[0].Kind+" "+hits[0].Title, question)
		require.NotEmpty(t, hits[0].Path)
	}
	require.Len(t, ix.Find("b", 3), 3, "no more than asked for")
}
