package promise

import (
	"fmt"
	"net/url"
	"time"
)

// Header is what an HTTP answer says of a deprecation: the fields Deprecation (RFC 9745) and Sunset (RFC 8594).
type Header struct {
	Deprecation string `json:"deprecation,omitempty"` // "@1767225600": a date of RFC 9651, in seconds since 1970
	Sunset      string `json:"sunset,omitempty"`      // "Mon, 01 Mar 2027 00:00:00 GMT": an HTTP-date of RFC 9110
}

// httpDate is the preferred format of RFC 9110, section 5.6.7.
const httpDate = "Mon, 02 Jan 2006 15:04:05 GMT"

// HeaderOf is what notices come to: the first day from which one of them holds, and the first on which something leaves. A day begins at
// midnight UTC. Days that are none are left out.
func HeaderOf(notices []Notice) Header {
	var h Header
	var since, sunset time.Time
	for _, n := range notices {
		if t, err := time.Parse(time.DateOnly, n.Since); err == nil && (since.IsZero() || t.Before(since)) {
			since = t
		}
		if t, err := time.Parse(time.DateOnly, n.Sunset); err == nil && (sunset.IsZero() || t.Before(sunset)) {
			sunset = t
		}
	}
	if !since.IsZero() {
		h.Deprecation = fmt.Sprintf("@%d", since.Unix())
	}
	if !sunset.IsZero() {
		h.Sunset = sunset.UTC().Format(httpDate)
	}
	return h
}

// Linked is a link of an HTTP answer (RFC 8288).
func Linked(address, rel string) string {
	if u, err := url.Parse(address); err == nil {
		address = u.String()
	}
	return fmt.Sprintf("<%s>; rel=%q", address, rel)
}

// LinkedPart is a link to what is said of a part that leaves, with its title. The relation deprecation (RFC 9745, section 3) says that
// there is something to read; it does not say, as the field Deprecation would, that the whole resource is deprecated.
func LinkedPart(address string, n Notice) string {
	title := n.Part()
	if n.Sunset != "" {
		title += ", leaves " + n.Sunset
	}
	for _, r := range title {
		if r < ' ' || r > '~' || r == '"' || r == '\\' { // a quoted string of RFC 9110 takes them, readers of Link often do not
			return Linked(address, "deprecation")
		}
	}
	return Linked(address, "deprecation") + `; title="` + title + `"`
}
