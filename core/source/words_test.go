package source_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"oldledger/core/source"
)

// TestWords says of broken texts where their author broke them, and what would be right.
func TestWords(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ file, text, want string }{
		{
			"b.json", "{\n  \"a\": [1, 2\n}",
			"b.json:3:1: this } closes nothing: the list that begins in line 2 is still open; write ] where it ends",
		},
		{"b.json", "{\n  \"a\": {\"b\": 1", "b.json:2:8: the object that begins here is never closed; write } where it ends"},
		{
			"b.json", "{\n  \"a\": \"one\n}",
			`b.json:2:8: the text that begins here is not closed on its line; end it with ", and write a line break in it as \n`,
		},
		{"b.json", "{\"a\": 1,\n}", "b.json:1:8: a comma stands before the closing }; take the comma out"},
		{"b.json", "[1, 2, ]", "b.json:1:6: a comma stands before the closing ]; take the comma out"},
		{"b.json", "{\n  // about\n  \"a\": 1}", "b.json:2:3: JSON has no comments; take it out, or write the description as YAML, which has"},
		{"b.json", "{\"a\": 1 /* one */}", "b.json:1:9: JSON has no comments; take it out, or write the description as YAML, which has"},
		{"b.json", "{\"a\": 1\n \"b\": 2}", "b.json:1:8: a comma is missing here; write one between the two"},
		{"b.json", "{a: 1}", `b.json:1:2: a key of JSON stands in quotes; write "a"`},
		{"b.json", "{'a': 1}", "b.json:1:2: JSON quotes text with \"; write it so, or write the description as YAML"},
		{"b.json", "{\"a\": }", "b.json:1:7: a value is missing here; write it, or take the key out"},
		{"b.json", "{} {}", "b.json:1:4: something follows the end of the JSON text; take it out"},
		{"b.json", `{"a": 1, "a": 2}`, `b.json:1:10: the key "a" stands twice in this object (first in line 1); keep one of them`},
		{"b.yaml", "a:\n\tb: 1\n", "b.yaml:2:1: a tab indents this line; YAML indents with spaces"},
		{"b.yaml", "a: [1, 2\nb: 3\nc: 4\n", "b.yaml:1:4: the list that begins here with [ is not closed; write ] where it ends"},
		{"b.yaml", "info: {title: T\npaths: {}\n", "b.yaml:1:7: the object that begins here with { is not closed; write } where it ends"},
		{"b.yaml", "a: \"one\nb: two\nc: three\n", "b.yaml:1:4: the text that begins here with \" is not closed; write \" where it ends"},
		{"b.yaml", "title: Quays: all\n", `b.yaml:1:1: a second ": " stands in this line; a text that holds one stands in quotes`},
		{"b.yaml", "a: 1\n b: 2\n", `b.yaml:2:2: a second ": " stands in this line; a text that holds one stands in quotes`},
		{"b.yaml", "a: @here\n", "b.yaml:1:1: a text cannot begin with this character; put it in quotes"},
		{"b.yaml", "a: *none\n", "b.yaml:1:1: no anchor of that name stands before it; write one with &"},
		{"b.yaml", "a: &a [*a]\n", "b.yaml:1:8: the alias *a stands inside what it names; nothing can hold itself"},
		{"b.yaml", "a: 1\nb: 2\na: 3\n", `b.yaml:3:1: the key "a" stands twice in this object (first in line 1); keep one of them`},
		{
			"b.yaml", "a: \"\\q\"\n",
			"b.yaml:1:1: a backslash in double quotes begins an escape that YAML does not have; write two backslashes, or use single quotes",
		},
	} {
		_, err := source.Parse(c.file, []byte(c.text))
		assert.EqualError(t, err, c.want, "%q", c.text)
	}
}
