package housestyle

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// TestMeanwhile hands a panic on to whoever waits: nobody above the other goroutine would catch it.
func TestMeanwhile(t *testing.T) {
	require.Equal(t, 3, meanwhile(func() int { return 3 })())
	require.PanicsWithValue(t, "torn", func() { meanwhile(func() int { panic("torn") })() })
}
