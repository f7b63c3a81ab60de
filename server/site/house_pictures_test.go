package site

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestHousePictures shows the house's pictures as they are: in its landing, in the footers that its APIs inherit, replaced and taken away.
func TestHousePictures(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	l, h := newSite(t, small)
	put := func(text string) {
		_, err := l.PutPicture(ctx, editor, "", "quay.png", []byte(dot+text))
		require.NoError(t, err)
	}
	page := func(address string) string { return get(t, h, address).Body.String() }
	page("/reference/")
	page("/reference/berths/1.0.0/")
	_, err := l.PutLooks(ctx, editor, "", ledger.Looks{Landing: "Hello", Footer: "![](pictures/quay.png)"})
	require.NoError(t, err)
	require.Contains(t, page("/reference/"), "Hello")
	put("one")
	require.Contains(t, page("/reference/berths/1.0.0/"), `src="/reference/berths/pictures/quay.png"`)
	require.Equal(t, dot+"one", page("/reference/berths/pictures/quay.png"))
	require.Equal(t, dot+"one", page("/reference/_/pictures/quay.png"))
	put("two")
	require.Equal(t, dot+"two", page("/reference/_/pictures/quay.png"))
	require.NoError(t, l.DropPicture(ctx, editor, "", "quay.png"))
	require.Equal(t, 404, get(t, h, "/reference/_/pictures/quay.png").Code)
	put("three")
	require.Equal(t, dot+"three", page("/reference/_/pictures/quay.png"))

	// An API's own stands before the house's.
	require.Equal(t, dot+"three", page("/reference/berths/pictures/quay.png"))
	_, err = l.PutPicture(ctx, editor, "berths", "quay.png", []byte(dot+"own"))
	require.NoError(t, err)
	require.Equal(t, dot+"own", page("/reference/berths/pictures/quay.png"))
}
