package compare

import "strings"

// meanings says in a sentence what each kind of change means to a developer, by the part of its name behind the
// position; the exact reason of a single change is its Why.
var meanings = map[string]string{
	"wording-changed": "only wording changed", "deprecated": "it works as before, and is announced to leave",
	"undeprecated": "it stays", "extension-changed": "extension fields do not stand on the wire", "respelled": "the same values, written in another way",
	"id-added": "generated code gets a name", "examples-changed": "examples do not limit what is sent", "tags-changed": "tags only group operations", "prefix-moved-to-paths": "the same requests are answered at the same addresses",
	"renamed": "its name does not stand on the wire", "status-folded": "another response speaks for it",
	"widened": "everything that was allowed still is", "narrowed": "less is allowed than before, and nobody who keeps to the other version is refused",
	"added": "nobody has to use it", "removed": "nobody needs it", "became-required": "it was always there where it matters",
	"became-optional": "nobody is refused who sends it", "default-changed": "a default in an answer changes nothing on the wire",
}

// meaning is the sentence for a kind, found by the longest known end of its name.
func meaning(kind string) string {
	best := ""
	for end := range meanings {
		if strings.HasSuffix(kind, end) && len(end) > len(best) {
			best = end
		}
	}
	if best == "" {
		return "nobody who keeps to the other version is refused"
	}
	return meanings[best]
}
