package housestyle

import (
	"testing"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"github.com/stretchr/testify/require"
)

// TestKeysTellApart has texts of a hostile author look like others and what follows them: what is judged once is what is the same.
func TestKeysTellApart(t *testing.T) {
	facts := []*fact{
		{name: "name", is: isText, get: func(e *element) ref.Val { return text(e.name) }},
		{name: "role", is: isText, get: func(e *element) ref.Val { return text(e.role) }},
		{name: "steps", is: isTexts, get: func(e *element) ref.Val { return texts(stepsOf(e.name)) }},
		{name: "size", is: isWhole, get: func(e *element) ref.Val { return types.Int(len(e.name)) }},
	}
	var reads []read
	for _, f := range facts {
		reads = append(reads, read{f, false}, read{f, true})
	}
	b := newBench()
	known := map[string]element{}
	for _, e := range []element{
		{name: "a\x00\x02b", role: "c"},
		{name: "a", role: "b\x00\x02c"},
		{name: "a\x00", role: "b"},
		{name: "a", role: "\x00b"},
		{name: "a/b"},
		{name: "a\x00b"},
		{name: "ab"},
		{role: "ab"},
		{name: "a", role: "b"},
		{},
	} {
		for _, some := range [][]read{reads[:4], reads} {
			key := string(b.keyOf(&e, some)) + string(rune(len(some)))
			other, twice := known[key]
			require.False(t, twice, "%q and %q have one key", e, other)
			known[key] = e
		}
	}
}
