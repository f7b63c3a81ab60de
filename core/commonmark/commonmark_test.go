package commonmark_test

import (
	"bytes"
	"html"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/yuin/goldmark"
	"pgregory.net/rapid"

	"oldledger/core/commonmark"
)

func rendered(t require.TestingT, text string) string {
	var b bytes.Buffer
	require.NoError(t, goldmark.Convert([]byte(text), &b))
	return b.String()
}

// TestText renders drawn texts: what comes out reads as what went in.
func TestText(t *testing.T) {
	t.Parallel()
	letters := rapid.SampledFrom([]rune("a1`*_[]()<>|#\\ !&;"))
	rapid.Check(t, func(t *rapid.T) {
		text := "x" + string(rapid.SliceOfN(letters, 0, 12).Draw(t, "text")) + "x"
		text = strings.Join(strings.Fields(strings.ReplaceAll(text, "&", "&amp;")), " ")
		require.Equal(t, "<p>"+html.EscapeString(html.UnescapeString(text))+"</p>",
			strings.ReplaceAll(strings.TrimSpace(rendered(t, commonmark.Plain(text))), "'", "&#39;"))
		require.Equal(t, "<p><code>"+html.EscapeString(text)+"</code></p>", strings.TrimSpace(rendered(t, commonmark.Code(text))))
		require.Equal(t, "<pre><code class=\"language-sh\">"+html.EscapeString(text)+"\n</code></pre>",
			strings.TrimSpace(rendered(t, commonmark.Block("sh", text))))
	})
	require.Equal(t, "a b", commonmark.Plain("a\nb"))
	require.Equal(t, "````\n```\n````\n", commonmark.Block("", "```"))
}

// TestSafe leaves nothing in an author's text that runs, loads or calls back, whichever way it is written.
func TestSafe(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"For **all** who moor.":                   "<p>For <strong>all</strong> who moor.</p>\n",
		"<script>alert(1)</script>":               "\n",
		"a <img src=x onerror=alert(1)> b":        "<p>a  b</p>\n",
		"[x](javascript:alert(1))":                "<p>x</p>\n",
		"[x](data:text/html;base64,PHNjcmlwdD4=)": "<p>x</p>\n",
		"[x](https://terms.saltmere.example/)":    `<p><a href="https://terms.saltmere.example/" rel="nofollow">x</a></p>` + "\n",
		"| a |\n| - |\n| <b onclick='x'>b</b> |":  "<table>\n<thead>\n<tr>\n<th>a</th>\n</tr>\n</thead>\n<tbody>\n<tr>\n<td>b</td>\n</tr>\n</tbody>\n</table>\n",
	} {
		require.Equal(t, want, commonmark.Safe(text), text)
	}
	require.Less(t, len(commonmark.Safe(strings.Repeat("moor ", 1<<20))), commonmark.MaxShown+200)
}
