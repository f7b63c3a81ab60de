package client_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/client"
)

// TestLists reads lists to their ends, however many pages they come in.
func TestLists(t *testing.T) {
	t.Parallel()
	pages := map[string]string{"": "a b/é&c", "a b/é&c": "d", "d": ""}
	asked := 0
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked++
		cursor := r.URL.Query().Get("cursor")
		if next := pages[cursor]; next != "" {
			q := r.URL.Query()
			q.Set("cursor", next)
			w.Header().Set("Link", fmt.Sprintf("<%s?%s>; rel=\"next\"", r.URL.Path, q.Encode()))
		}
		fmt.Fprintf(w, `{"items": [{"name": %q}, {"name": "more"}]}`, "after "+cursor)
	}))
	defer s.Close()
	c, err := client.New(s.URL, "")
	require.NoError(t, err)
	consumers, err := c.Consumers(t.Context())
	require.NoError(t, err)
	require.Len(t, consumers, 6)
	require.Equal(t, "after d", consumers[4].Name)
	apis, err := c.APIs(t.Context())
	require.NoError(t, err)
	require.Len(t, apis, 6)
	require.Equal(t, 6, asked)
}
