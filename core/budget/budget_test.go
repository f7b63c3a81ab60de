package budget_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/budget"
)

func TestBudget(t *testing.T) {
	t.Parallel()
	b := budget.New(context.Background(), budget.Limits{Steps: 100_000, Bytes: 10})
	steps := 0
	for b.Step(3) {
		steps++
	}
	require.InDelta(t, 33_333, steps, 6_000, "about as many as it has")
	require.True(t, b.Over())
	require.NoError(t, b.Err(), "nobody ended it")
	require.False(t, b.Step(1), "over stays over")

	b = budget.New(context.Background(), budget.Limits{Steps: 100, Bytes: 10})
	require.True(t, b.Hold(9))
	require.False(t, b.Hold(1))
	require.True(t, b.Over())

	ctx, cancel := context.WithCancel(context.Background())
	b = budget.New(ctx, budget.For(0))
	require.True(t, b.Step(1))
	cancel()
	for range 2 << 14 {
		b.Step(1)
	}
	require.True(t, b.Over(), "the context ends it")
	require.ErrorIs(t, b.Err(), context.Canceled)

	var none *budget.Budget
	require.True(t, none.Step(1<<40) && none.Hold(1<<40) && !none.Over())
	require.NoError(t, none.Err())
}
