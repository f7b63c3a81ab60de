package compare

import (
	"cmp"
	"fmt"
	"strings"
	"unicode/utf8"

	"oldledger/core/value"
)

// Head is the witness as the first line of a message, its value left out: "POST /bookings", "GET /bookings → 200",
// "GET /bookings?limit=…" with the value where it is short text.
func (w *Witness) Head() string {
	head := cmp.Or(w.Written, w.Operation)
	words := strings.Fields(w.Position)
	if len(words) > 1 && words[0] == "response" {
		head += " → " + words[1]
	}
	return head
}

// maxMessage is how much of a value a message shows to people.
const maxMessage = 2_000

// Message is the witness as a short request or response.
func (w *Witness) Message() string {
	head, text := w.Head(), ""
	words := append([]string{""}, strings.Fields(w.Position)...)
	if w.Value != nil {
		text = w.Value.Spaced()
		if w.Value.Kind == value.String && !strings.Contains(w.Position, "/") {
			text = w.Value.Text
		}
		if len(text) > maxMessage {
			text = fmt.Sprintf("%s… (%d characters)", strings.ToValidUTF8(text[:maxMessage], ""), utf8.RuneCountInString(text))
		}
	}
	place, name, isParameter := strings.Cut(w.Position, " parameter ")
	header, isHeader := "", false
	if i := strings.LastIndex(w.Position, " header "); i >= 0 {
		header, isHeader = w.Position[i+len(" header "):], true
	}
	query := name + "=" + text
	if w.Wire != "" && len(w.Wire) <= maxMessage {
		query, text = w.Wire, w.Wire
	}
	switch {
	case w.Value == nil && isParameter:
		return head + " without " + name
	case w.Value == nil && isHeader && strings.HasPrefix(w.Position, "response"):
		return head + " without " + header
	case w.Value == nil && strings.Contains(words[len(words)-1], "/"):
		return head + " as " + words[len(words)-1]
	case w.Value == nil:
		return head
	case isParameter && place == "query":
		return head + "?" + query
	case isParameter && place == "header":
		return head + " with " + name + ": " + text
	case isParameter && place == "cookie":
		return head + " with Cookie: " + query
	case isParameter:
		return head + " with " + name + " = " + text
	case isHeader:
		return head + " with " + header + ": " + text
	}
	return head + " " + text
}
