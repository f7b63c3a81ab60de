package guide_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/guide"
	"oldledger/core/openapi"
	"oldledger/core/sample"
	"oldledger/core/source"
	"oldledger/tools/large"
)

func largeContract(t require.TestingT, edits []large.Edit) *contract.Contract {
	f, err := source.Parse("large.json", []byte(large.Description(large.Operations, edits).String()))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// BenchmarkMake makes the guide between two versions of the description of 1,100 operations, with code in all languages. Its figure is a
// multiple of the time of their comparison.
func BenchmarkMake(b *testing.B) {
	old, new := largeContract(b, nil), largeContract(b, large.Edits(60, large.Operations))
	var comparing, making time.Duration
	steps := 0
	for b.Loop() {
		start := time.Now()
		c := compare.Contracts(old, new, compare.Options{})
		compared := time.Now()
		g := made(guide.Make(context.Background(), old, new, c, guide.Context{Languages: sample.Languages}))
		making += time.Since(compared)
		comparing += compared.Sub(start)
		steps = len(g.Must) + len(g.Check)
	}
	b.ReportMetric(float64(making)/float64(comparing), "x-comparing")
	b.ReportMetric(float64(steps), "steps")
}
