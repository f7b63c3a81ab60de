package store_test

import (
	"context"
	"errors"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/store"
)

func open(t *testing.T) (*store.Store, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "with space & #.sqlite")
	s, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	return s, path
}

// TestReopen finds everything again, and prepares an open file once.
func TestReopen(t *testing.T) {
	ctx := context.Background()
	s, path := open(t)
	require.NoError(t, s.Write(ctx, func(r store.Rows) error {
		return r.PutAPI(ctx, store.API{Name: "berths", Title: "Berth Booking", Promise: "backward", CreatedAt: "now"})
	}))
	require.NoError(t, s.Close())
	s, err := store.Open(ctx, path)
	require.NoError(t, err)
	defer s.Close()
	a, err := s.Read().API(ctx, "berths")
	require.NoError(t, err)
	require.Equal(t, "Berth Booking", a.Title)
	_, err = s.Read().API(ctx, "nobody")
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.Ping(ctx))
}

// TestAllOrNothing undoes an act that fails in the middle.
func TestAllOrNothing(t *testing.T) {
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	failed := errors.New("in the middle")
	err := s.Write(ctx, func(r store.Rows) error {
		if err := r.PutAPI(ctx, store.API{Name: "berths", CreatedAt: "now"}); err != nil {
			return err
		}
		return failed
	})
	require.ErrorIs(t, err, failed)
	apis, err := s.Read().APIs(ctx)
	require.NoError(t, err)
	require.Empty(t, apis)
}

// TestVersions replaces drafts and never a published version, whatever is asked.
func TestVersions(t *testing.T) {
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	put := func(content string) error {
		return s.Write(ctx, func(r store.Rows) error {
			return r.PutVersion(ctx, store.Version{API: "berths", Number: "1.0.0", State: "draft", Content: []byte(content), Digest: content})
		})
	}
	require.Error(t, put("orphan"), "a version needs its API")
	require.NoError(t, s.Write(ctx, func(r store.Rows) error { return r.PutAPI(ctx, store.API{Name: "berths", CreatedAt: "now"}) }))
	require.NoError(t, put("one"))
	require.NoError(t, put("two"))
	v, err := s.Read().Version(ctx, "berths", "1.0.0")
	require.NoError(t, err)
	require.Equal(t, "two", string(v.Content))
	require.NoError(t, s.Write(ctx, func(r store.Rows) error { return r.SetPublished(ctx, "berths", "1.0.0", "today", "teodor") }))
	require.NoError(t, put("three"))
	v, err = s.Read().Version(ctx, "berths", "1.0.0")
	require.NoError(t, err)
	require.Equal(t, "two", string(v.Content))
	require.Equal(t, "published", v.State)
	list, err := s.Read().Versions(ctx, "")
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.Nil(t, list[0].Content, "lists leave the contents out")
}

// TestAnswers keeps the first answer to a key, for as long as it counts.
func TestAnswers(t *testing.T) {
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	keep := func(body, at, before string) {
		require.NoError(t, s.Write(ctx, func(r store.Rows) error {
			return r.AddAnswer(ctx, "k", "teodor", store.Answer{Request: "r", Status: 201, Body: []byte(body)}, at, before)
		}))
	}
	keep("first", "2026-01-01", "2025-12-31")
	keep("second", "2026-01-01", "2025-12-31")
	a, ok, err := s.Read().Answer(ctx, "k", "teodor")
	require.NoError(t, err)
	require.True(t, ok)
	require.Equal(t, "first", string(a.Body))
	_, ok, err = s.Read().Answer(ctx, "k", "imke")
	require.NoError(t, err)
	require.False(t, ok, "another person's key is another key")
	keep("later", "2026-01-03", "2026-01-02")
	a, _, err = s.Read().Answer(ctx, "k", "teodor")
	require.NoError(t, err)
	require.Equal(t, "later", string(a.Body))
}
