package usage_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/usage"
)

// shelf adds logs one after another, as a ledger does.
type shelf struct {
	router *usage.Router
	known  []usage.Known
	sum    map[string]int64
}

func (s *shelf) keep(t *usage.Tally, apis []string) {
	for _, c := range t.Counts() {
		r := s.router.Routes()[c.Route]
		if slices.Contains(apis, r.API) {
			s.sum[fmt.Sprint(c.Day, r, c.Caller, c.Class)] += c.Calls
		}
	}
	if t.Identity.Length > 0 {
		k := t.Identity
		k.APIs = apis
		s.known = append(s.known, k)
	}
}

func (s *shelf) add(t *testing.T, log []byte, apis []string, every int64) {
	o := usage.Options{Now: now, Known: append([]usage.Known{}, s.known...), Every: every}
	o.Keep = func(t *usage.Tally) error { s.keep(t, apis); return nil }
	tally := usage.NewTally(s.router, o)
	require.NoError(t, tally.Read(context.Background(), bytes.NewReader(log)))
	s.keep(tally, apis)
}

// TestRepeats adds a log as it grows, whole or cut within a line, or its longer beginnings in any order, for some of the APIs: each call
// counts once for each API for which the longest of them was added.
func TestRepeats(t *testing.T) {
	t.Parallel()
	r := manyServices(t, 3)
	log := manyLines(1500, 3)
	other := append([]byte("cut "), log...)
	require.Greater(t, len(log), 200<<10)
	random := rand.New(rand.NewPCG(20261202, 1))
	for turn := range 120 {
		s := &shelf{router: r, sum: map[string]int64{}}
		longest := map[string]int{}
		lengths := make([]int, 1+random.IntN(5))
		for i := range lengths {
			lengths[i] = random.IntN(len(log) + 1)
			if turn%2 == 1 { // in any order, where their beginnings tell logs apart
				lengths[i] = max(lengths[i], 66<<10)
			}
		}
		if turn%2 == 0 {
			slices.Sort(lengths)
		}
		for _, n := range lengths {
			if random.IntN(3) > 0 {
				n = bytes.LastIndexByte(log[:n], '\n') + 1
			}
			apis := [][]string{{"api-0"}, {"api-1", "api-2"}, {"api-0", "api-1", "api-2"}}[random.IntN(3)]
			s.add(t, log[:n], apis, int64(20<<10+random.IntN(100<<10)))
			for _, api := range apis {
				longest[api] = max(longest[api], n)
			}
		}
		want := &shelf{router: r, sum: map[string]int64{}}
		for api, n := range longest {
			want.add(t, log[:n], []string{api}, 1<<40)
		}
		require.Equal(t, want.sum, s.sum)
		before := s.total()
		s.add(t, log[:longest["api-0"]], []string{"api-0"}, 1<<40)
		require.Equal(t, before, s.total())
		s.add(t, other, []string{"api-0"}, 1<<40)
		require.Greater(t, s.total(), want.total(), "a log that begins otherwise is another one")
	}
}

func (s *shelf) total() (n int64) {
	for _, calls := range s.sum {
		n += calls
	}
	return n
}

// TestKeepFails ends with the error of who keeps.
func TestKeepFails(t *testing.T) {
	t.Parallel()
	full := errors.New("the disk is full")
	tally := usage.NewTally(manyServices(t, 3), usage.Options{
		Now: now, Known: []usage.Known{}, Every: 1 << 10, Keep: func(*usage.Tally) error { return full },
	})
	require.Equal(t, full, tally.Read(context.Background(), bytes.NewReader(manyLines(5000, 3))))
}

// TestSigns recognises callers by what counts first.
func TestSigns(t *testing.T) {
	t.Parallel()
	s := usage.NewSigns([]usage.Sign{
		{usage.ByAgent, "Boards/*", "boards"},
		{usage.ByAgent, "Boards/2*", "boards-two"},
		{usage.ByAgent, "*", "rest"},
		{usage.ByHeader, "x-client: kiosk", "kiosk"},
		{usage.ByCredential, "key-*-1", "relay"},
		{usage.ByCredential, "key-a-1", "night"},
	})
	for who, c := range map[string]usage.Caller{
		"night":      {Credential: "key-a-1", Header: "x-client: kiosk", Agent: "Boards/1.0"},
		"relay":      {Credential: "key-b-1", Agent: "Boards/1.0"},
		"kiosk":      {Credential: "key-b-2", Header: "x-client: kiosk", Agent: "Boards/1.0"},
		"boards":     {Credential: "x", Agent: "Boards/1.0"},
		"boards-two": {Agent: "Boards/2.0"},
		"rest":       {Agent: "curl"},
		"":           {},
	} {
		require.Equal(t, who, s.Who(c), c)
	}
	slow := usage.NewSigns([]usage.Sign{{usage.ByAgent, "*a*a*a*a*a*a*a*a*b", "x"}})
	require.Empty(t, slow.Who(usage.Caller{Agent: string(bytes.Repeat([]byte{'a'}, 2000))}))
}

// TestBomb ends soon where a packed log unpacks to more than any log.
func TestBomb(t *testing.T) {
	t.Parallel()
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	zeros := make([]byte, 1<<20)
	for range 300 {
		_, err := z.Write(zeros)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	tally := usage.NewTally(manyServices(t, 1), usage.Options{Now: now})
	require.ErrorContains(t, tally.Read(context.Background(), &packed), "it unpacks to more than 400 times its size")
}
