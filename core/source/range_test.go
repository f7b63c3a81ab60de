package source

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestPositions goes from an offset to its line and column and back, in texts of short and of long lines.
func TestPositions(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.SampledFrom([]rune("ab é𝄞\n")), 0, 40, -1).Draw(t, "text")
		if rapid.Bool().Draw(t, "long") {
			text = strings.Repeat(text, 1+100_000/max(1, len(text)))
			if rapid.Bool().Draw(t, "one line") {
				text = strings.ReplaceAll(text, "\n", "é")
			}
		}
		f := &File{Text: []byte(text)}
		for range 20 {
			at := rapid.IntRange(0, len(text)).Draw(t, "at")
			for at < len(text) && !utf8.RuneStart(text[at]) {
				at++
			}
			line, column := f.position(at)
			require.Equal(t, strings.Count(text[:at], "\n")+1, line)
			require.Equal(t, utf8.RuneCountInString(text[strings.LastIndexByte(text[:at], '\n')+1:at])+1, column)
			require.Equal(t, at, f.offset(line, column))
		}
	})
}

// TestRanges names what a diagnostic speaks of from its first character to its last, however it is written.
func TestRanges(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]map[string]string{
		"a: plain text # no\nb: 1\n":             {"/a": "plain text", "/b": "1"},
		"a: \"q\\\"q\" \nb: 'it''s'\n":           {"/a": `"q\"q"`, "/b": "'it''s'"},
		"a: |\n  one\n  two\n\nb: x\n":           {"/a": "|\n  one\n  two", "/b": "x"},
		"a: two\n  lines\nb:\n  - c: d\n  - e\n": {"/a": "two\n  lines", "/b": "- c: d\n  - e", "/b/0": "c: d"},
		"a: {b: [1, 2], c: {}}\nd: []\n":         {"/a": "{b: [1, 2], c: {}}", "/a/b": "[1, 2]", "/a/c": "{}", "/d": "[]"},
		`{"a": {"b": [1, "x é"]}, "c": null}`: {
			"/a": `{"b": [1, "x é"]}`, "/a/b": `[1, "x é"]`, "/a/b/1": `"x é"`, "/c": "null",
			"": `{"a": {"b": [1, "x é"]}, "c": null}`,
		},
		"base: &b {x: 1}\nuse: *b\nmore: {<<: *b}": {"/use": "&b {x: 1}", "/base/x": "1"},
	} {
		f, err := Parse("f", []byte(text))
		require.NoError(t, err)
		for pointer, part := range want {
			n := f.Root.Resolve(pointer)
			require.NotNil(t, n, pointer)
			r := n.ValueRange()
			require.Equal(t, part, text[f.offset(r.Line, r.Column):f.offset(r.EndLine, r.EndColumn)], "%s of %q", pointer, text)
		}
	}
	f, err := Parse("f", []byte("'quoted key': 1\nplain: 2\n"))
	require.NoError(t, err)
	r := f.Root.Get("quoted key").KeyRange()
	require.Equal(t, 13, r.EndColumn)
	r = f.Root.Get("plain").KeyRange()
	require.Equal(t, [2]int{2, 6}, [2]int{r.EndLine, r.EndColumn})
}
