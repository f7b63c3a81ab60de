package edit_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/edit"
	"oldledger/core/source"
	"oldledger/core/value"
)

// FuzzChanges fulfils wishes in whatever can be read: no text makes it fail otherwise than by a refusal, and what it gives can be read.
func FuzzChanges(f *testing.F) {
	for _, text := range []string{
		"a: &x\n  b: 1\nc: *x\n", "- - a: 1\n    b: 2\n  - c\n", "{\"a\": [1, 2]}", "a: |2-\n    x\n\n", "? a\n: b\n", "a:\n- b\n# c\n", "{a?: b}", "\ufeffa: 1",
		"a: !!map {b: c,}\r\n", "%YAML 1.1\n---\na: 1\n...\n", "a: 'it''s'\n\tb: 1\n", "<<: {a: 1}\n", "a: \"\\\n  x\"\n",
	} {
		f.Add(text, "/a", "v", uint8(0))
		f.Add(text, "/a/b", "[1]", uint8(1))
		f.Add(text, "/0/0", "", uint8(2))
	}
	f.Fuzz(func(t *testing.T, text, at, with string, act uint8) {
		file, err := source.Parse("a.yaml", []byte(text))
		if err != nil {
			return
		}
		v, err := value.Parse([]byte(with))
		if err != nil {
			v = value.Str(with)
		}
		wish := []edit.Wish{edit.Set(at, v), edit.Insert(at, v), edit.Remove(at), edit.Rename(at, with), edit.Move(at, with)}[act%5]
		changes, err := edit.Changes(file, wish)
		if err != nil {
			return
		}
		_, err = source.Parse("a.yaml", edit.Apply([]byte(text), changes))
		require.NoError(t, err)
	})
}
