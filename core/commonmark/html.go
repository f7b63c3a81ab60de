package commonmark

import (
	"html"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
)

var renderer = goldmark.New(goldmark.WithExtensions(extension.Table))

// HTML renders a text in CommonMark, with tables; HTML within it is left out. A block with more markup than anybody writes by hand is
// rendered as the plain text that it is: some of it takes a renderer the square of its length.
func HTML(text string) (string, error) {
	var b strings.Builder
	err := renderer.Convert([]byte(tame(text)), &b)
	return b.String(), err
}

var policy = bluemonday.UGCPolicy()

// Safe renders as much of an author's text (CommonMark 0.31, with tables) as readers are shown; whatever could run or load is taken out.
func Safe(text string) string {
	rendered, err := HTML(Shown(text))
	if err != nil {
		return "<p>" + html.EscapeString(text) + "</p>\n" // writing to memory does not fail
	}
	return policy.Sanitize(rendered)
}

// Bounds of one block of text.
const (
	maxLinks    = 300   // beginnings of links
	maxEmphasis = 2_000 // marks of emphasis, and brackets
	maxNesting  = 40    // quotes, one in the other
	small       = 2_048 // bytes in which nothing can hurt
)

// tame writes the blocks of a text that are beyond the bounds so that nothing in them is markup.
func tame(text string) string {
	if len(text) <= small {
		return text
	}
	blocks := strings.Split(text, "\n\n")
	tamed := false
	for i, block := range blocks {
		if len(block) > small && wild(block) || nesting(block) > maxNesting {
			lines := strings.Split(block, "\n")
			for j, line := range lines {
				lines[j] = Plain(line)
			}
			blocks[i], tamed = strings.Join(lines, "\n"), true
		}
	}
	if !tamed {
		return text
	}
	return strings.Join(blocks, "\n\n")
}

func wild(block string) bool {
	marks := strings.Count(block, "*") + strings.Count(block, "_") + strings.Count(block, "[") + strings.Count(block, "]:")
	return strings.Count(block, "](") > maxLinks || marks > maxEmphasis
}

// nesting is how many quotes begin one in the other on a line of a block.
func nesting(block string) int {
	deepest := 0
	for line := range strings.SplitSeq(block, "\n") {
		deep := 0
		for _, c := range line {
			if c == '>' {
				deep++
			} else if c != ' ' {
				break
			}
		}
		deepest = max(deepest, deep)
	}
	return deepest
}

// MaxShown is how many bytes of one text are shown to readers.
const MaxShown = 256 << 10

// Shown is as much of a text as readers are shown: all of it, or its beginning and a word that it goes on.
func Shown(text string) string {
	if len(text) <= MaxShown {
		return text
	}
	end := MaxShown
	if i := strings.LastIndexByte(text[:end], '\n'); i > MaxShown/2 {
		end = i
	}
	return strings.ToValidUTF8(text[:end], "") + "\n\n*The text goes on; its beginning is shown.*\n"
}
