package cli

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestPlain writes what would steer a terminal: it comes out as something to read, in whatever pieces it is written.
func TestPlain(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"Held.\n\tToo.":             "Held.\n\tToo.",
		"\x1b]0;owned\x07":          "␛]0;owned␇",
		"\x1b[2J\x1b[H":             "␛[2J␛[H",
		"\x1b[1;38;5;88m✕\x1b[0m a": "\x1b[1;38;5;88m✕\x1b[0m a",
		"\x1b[8mhidden":             "␛[8mhidden",
		"\x1b[1;31m":                "␛[1;31m",
		"safe\rbreaking":            "safe␍breaking",
		"a\u009b2Jb":                "a\ufffd2Jb",
		"\x9b2J":                    "\ufffd2J",
		"abc\u202egnp.exe":          "abc\ufffdgnp.exe",
		"naïve – 字":                 "naïve – 字",
		"a\x00\x7f":                 "a␀␡",
	} {
		for _, piece := range []int{1, 2, len(text)} {
			var b bytes.Buffer
			p := &plain{to: &b}
			if piece < len(text) && bytes.Contains([]byte(text), []byte("\x1b[1;38")) {
				continue // the program writes its colours whole
			}
			for at := 0; at < len(text); at += piece {
				end := min(at+piece, len(text))
				n, err := p.Write([]byte(text[at:end]))
				require.NoError(t, err)
				require.Equal(t, end-at, n)
			}
			require.Equal(t, want, b.String(), "%q by %d", text, piece)
		}
	}
}
