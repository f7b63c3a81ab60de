// Package commonmark writes text into CommonMark (0.31), where what comes from a description is text and never markup, and renders what
// authors wrote in it.
package commonmark

import "strings"

var special = strings.NewReplacer(`\`, `\\`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, ">", `\>`, "|", `\|`, "#",
	`\#`, "\n", " ")

// Plain writes text on one line so that nothing in it is markup (section 2.4).
func Plain(text string) string { return special.Replace(text) }

// Code writes a span of code on one line, with as many backticks as the text needs (section 6.1).
func Code(text string) string {
	text = strings.ReplaceAll(text, "\n", " ")
	longest := run(text)
	fence := strings.Repeat("`", longest+1)
	if longest > 0 {
		return fence + " " + text + " " + fence
	}
	return fence + text + fence
}

// Block writes a fenced block in a language, "" for none, with a fence that the text does not hold (section 4.5).
func Block(language, text string) string {
	fence := strings.Repeat("`", max(3, run(text)+1))
	return fence + language + "\n" + text + "\n" + fence + "\n"
}

// run is the length of the longest run of backticks.
func run(text string) int {
	longest, n := 0, 0
	for _, r := range text {
		if r != '`' {
			n = 0
			continue
		}
		n++
		longest = max(longest, n)
	}
	return longest
}
