package store_test

import (
	"context"
	"errors"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger/records"
	"oldledger/store"
)

func open(t *testing.T) (*store.Store, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "with space & #.sqlite")
	s, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	return s, path
}

func write(t *testing.T, s *store.Store, act func(context.Context, records.Rows) error) {
	t.Helper()
	require.NoError(t, s.Write(context.Background(), func(r records.Rows) error { return act(context.Background(), r) }))
}

// TestReopen finds everything again, and prepares an open file once.
func TestReopen(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, path := open(t)
	write(t, s, func(ctx context.Context, r records.Rows) error {
		return r.PutAPI(ctx, records.API{Name: "berths", Team: "Quayside", Promise: "backward", CreatedAt: "now"})
	})
	require.NoError(t, s.Close())
	s, err := store.Open(ctx, path)
	require.NoError(t, err)
	defer s.Close()
	a, err := s.Read().API(ctx, "berths")
	require.NoError(t, err)
	require.Equal(t, "Quayside", a.Team)
	_, err = s.Read().API(ctx, "nobody")
	require.ErrorIs(t, err, records.ErrNotFound)
	require.NoError(t, s.Check(ctx))
	before, err := s.Read().Generation(ctx)
	require.NoError(t, err)
	require.Zero(t, before, "checking changes nothing")
}

// TestAllOrNothing undoes an act that fails in the middle.
func TestAllOrNothing(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	failed := errors.New("in the middle")
	err := s.Write(ctx, func(r records.Rows) error {
		if err := r.PutAPI(ctx, records.API{Name: "berths", CreatedAt: "now"}); err != nil {
			return err
		}
		return failed
	})
	require.ErrorIs(t, err, failed)
	apis, err := s.Read().APIs(ctx)
	require.NoError(t, err)
	require.Empty(t, apis)
}

// TestVersions points drafts to other revisions and never a published version, moves only what stands where it was decided on, and keeps
// every content once and for ever.
func TestVersions(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	put := func(content string) error {
		return s.Write(ctx, func(r records.Rows) error {
			c := records.Content{
				Digest: content, File: "a.yaml", Text: []byte(content),
				Others: []records.File{{Path: "b.yaml", Content: []byte("b")}},
			}
			id, err := r.AddRevision(ctx, records.Revision{Of: "berths", As: "1.0.0", Message: "why " + content, Origin: "{}"}, c)
			if err != nil {
				return err
			}
			return r.PutDraft(ctx, records.Version{API: "berths", Number: "1.0.0", Revision: records.Revision{ID: id}})
		})
	}
	require.Error(t, put("orphan"), "a version needs its API")
	write(t, s, func(ctx context.Context, r records.Rows) error {
		return r.PutAPI(ctx, records.API{Name: "berths", CreatedAt: "now"})
	})
	for _, content := range []string{"one", "two", "one", "two"} {
		require.NoError(t, put(content))
	}
	v, err := s.Read().Version(ctx, "berths", "1.0.0")
	require.NoError(t, err)
	require.Equal(t, "two", v.Digest)
	require.Equal(t, "why two", v.Message)
	move := func(v records.Version, to string) error {
		return s.Write(ctx, func(r records.Rows) error { return r.MoveVersion(ctx, v, to) })
	}
	older := v
	older.ID--
	require.ErrorIs(t, move(older, "published"), records.ErrStale, "what was decided on another content")
	v.PublishedAt = "today"
	require.NoError(t, move(v, "published"))
	require.ErrorIs(t, move(v, "published"), records.ErrStale, "what stands elsewhere by now")
	require.ErrorIs(t, put("three"), records.ErrStale)
	list, err := s.Read().Versions(ctx, "")
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.Equal(t, "two", list[0].Digest)
	require.Equal(t, "published", list[0].State)
	require.Equal(t, "today", list[0].PublishedAt)
	revisions, err := s.Read().Revisions(ctx, "berths", "1.0.0")
	require.NoError(t, err)
	require.Len(t, revisions, 4, "what was refused left nothing")
	require.Equal(t, v.ID, revisions[0].ID)
	var kept []string
	require.NoError(t, s.Read().Contents(ctx, func(c records.Content) error {
		require.Len(t, c.Others, 1)
		kept = append(kept, string(c.Text))
		return nil
	}))
	require.Equal(t, []string{"one", "two"}, kept)
}

// TestNoticeChanges changes a notice only as it was read.
func TestNoticeChanges(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	n := records.Notice{API: "berths", Reason: "old"}
	write(t, s, func(ctx context.Context, r records.Rows) (err error) {
		if err := r.PutAPI(ctx, records.API{Name: "berths", CreatedAt: "now"}); err != nil {
			return err
		}
		n.ID, err = r.AddNotice(ctx, n)
		return err
	})
	changed := n
	changed.Reason = "new"
	write(t, s, func(ctx context.Context, r records.Rows) error { return r.ChangeNotice(ctx, changed, n) })
	require.ErrorIs(t, s.Write(ctx, func(r records.Rows) error { return r.ChangeNotice(ctx, changed, n) }), records.ErrStale)
}

// TestAnswers keeps an answer to a key of a person for as long as it counts.
func TestAnswers(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	write(t, s, func(ctx context.Context, r records.Rows) error {
		return r.PutAnswer(ctx, records.Answer{Key: "k", Person: "teodor", Request: "r", Body: []byte{}, MadeAt: "2026-01-01"})
	})
	write(t, s, func(ctx context.Context, r records.Rows) error {
		return r.PutAnswer(ctx, records.Answer{Key: "k", Person: "teodor", Request: "r", Status: 201, Body: []byte("made"), MadeAt: "2026-01-02"})
	})
	a, err := s.Read().Answer(ctx, "k", "teodor")
	require.NoError(t, err)
	require.Equal(t, records.Answer{Key: "k", Person: "teodor", Request: "r", Status: 201, Body: []byte("made"), MadeAt: "2026-01-02"}, a)
	_, err = s.Read().Answer(ctx, "k", "imke")
	require.ErrorIs(t, err, records.ErrNotFound, "another person's key is another key")
	write(t, s, func(ctx context.Context, r records.Rows) error { return r.DropAnswers(ctx, "2026-01-02") })
	_, err = s.Read().Answer(ctx, "k", "teodor")
	require.NoError(t, err)
	write(t, s, func(ctx context.Context, r records.Rows) error { return r.DropAnswers(ctx, "2026-01-03") })
	_, err = s.Read().Answer(ctx, "k", "teodor")
	require.ErrorIs(t, err, records.ErrNotFound)
}

// TestGenerations count up, each API by itself and all together.
func TestGenerations(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	defer s.Close()
	for _, api := range []string{"berths", "", "berths"} {
		write(t, s, func(ctx context.Context, r records.Rows) error { return r.Advance(ctx, api, api == "") })
	}
	all, err := s.Read().Generations(ctx)
	require.NoError(t, err)
	require.Equal(t, map[string]records.Generation{"berths": {N: 2}, "": {N: 1, Shown: 1}}, all)
	n, err := s.Read().Generation(ctx)
	require.NoError(t, err)
	require.Equal(t, int64(3), n)
}
