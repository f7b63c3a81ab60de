package compare

import (
	"mime"
	"strings"

	"oldledger/core/contract"
)

// mediaKey is a media type as it matters on the wire: lower case; charset of a textual type left out (RFC 9110, section 8.3).
func mediaKey(t string) string {
	essence, params, err := mime.ParseMediaType(t)
	if err != nil {
		return strings.ToLower(t)
	}
	delete(params, "charset")
	if len(params) == 0 {
		return essence
	}
	return mime.FormatMediaType(essence, params)
}

// mediaCovers reports whether every message of type t is of the range r: image/* covers image/png.
func mediaCovers(r, t string) bool {
	r, t = mediaKey(r), mediaKey(t)
	if r == t || r == "*/*" {
		return true
	}
	family, isRange := strings.CutSuffix(r, "/*")
	return isRange && strings.HasPrefix(t, family+"/")
}

// findMedia finds the entry for the same media type.
func findMedia(list []*contract.Media, t string) *contract.Media {
	for _, m := range list {
		if mediaKey(m.Type) == mediaKey(t) {
			return m
		}
	}
	return nil
}

// covering finds the narrowest range in the list that covers a media type without naming it.
func covering(list []*contract.Media, t string) *contract.Media {
	var best *contract.Media
	for _, m := range list {
		if mediaCovers(m.Type, t) && (best == nil || mediaCovers(best.Type, m.Type)) {
			best = m
		}
	}
	return best
}

// opaque tells of media types whose messages are bytes and no JSON value: a schema says nothing more about them.
func opaque(t string) bool {
	essence, _, _ := strings.Cut(mediaKey(t), ";")
	family, sub, _ := strings.Cut(strings.TrimSpace(essence), "/")
	if family == "image" || family == "audio" || family == "video" || family == "font" || family == "model" {
		return !strings.HasSuffix(sub, "+xml") && !strings.HasSuffix(sub, "+json")
	}
	return family == "application" && (sub == "octet-stream" || sub == "pdf" || sub == "zip" || sub == "gzip" ||
		strings.HasSuffix(sub, "+zip"))
}

// payload is the schema of a message in a media type; one that only says "bytes" of bytes says nothing.
func payload(m *contract.Media) *contract.Schema {
	s := m.Schema.Deref()
	if s == nil || !opaque(m.Type) {
		return m.Schema
	}
	plain := *s.Copy()
	plain.EnsureRare().ContentEncoding, plain.EnsureRare().ContentMediaType = "", ""
	if len(plain.Types) == 1 && plain.Types[0] == "string" {
		plain.Types = nil
	}
	if plain.MinLength != nil && *plain.MinLength <= 0 {
		plain.MinLength = nil
	}
	if plain.Asserts() {
		return m.Schema
	}
	return nil
}
