package shape

import (
	"encoding/base64"
	"math/big"
	"net/mail"
	"net/netip"
	"net/url"
	"regexp"
	"strings"
	"time"
)

// format is a well-known format of strings: JSON Schema 2020-12 (Validation, section 7.3) and the OpenAPI Format Registry.
type format struct {
	pattern string // a language that holds every string of the format, perhaps a few more
	holds   func(string) bool
	samples []string
	misses  []string // strings near the format and outside it
}

const dateTimePattern = `^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])[Tt]([01][0-9]|2[0-3]):[0-5][0-9]:([0-5][0-9]|60)(\.[0-9]+)?([Zz]|[+-]([01][0-9]|2[0-3]):[0-5][0-9])$`

const (
	timeOnlyPattern = `^([01][0-9]|2[0-3]):[0-5][0-9]:([0-5][0-9]|60)(\.[0-9]+)?$`
	httpDate        = "Mon, 02 Jan 2006 15:04:05 GMT"
)

var (
	timeOnly  = regexp.MustCompile(timeOnlyPattern)
	dateTime  = regexp.MustCompile(dateTimePattern)
	hostLabel = regexp.MustCompile(`^[A-Za-z0-9]([A-Za-z0-9-]*[A-Za-z0-9])?$`)
)

var formats = map[string]format{
	"date": {
		pattern: `^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$`,
		holds:   func(s string) bool { _, err := time.Parse(time.DateOnly, s); return err == nil },
		samples: []string{"2026-03-01"}, misses: []string{"2026-02-30"},
	},
	"date-time": {
		pattern: dateTimePattern,
		holds:   isDateTime,
		samples: []string{"2026-03-01T09:30:00Z"}, misses: []string{"2026-02-30T09:30:00Z"},
	},
	"time": {
		pattern: `^([01][0-9]|2[0-3]):[0-5][0-9]:([0-5][0-9]|60)(\.[0-9]+)?([Zz]|[+-]([01][0-9]|2[0-3]):[0-5][0-9])$`,
		holds:   func(s string) bool { return isDateTime("2026-03-01T" + s) },
		samples: []string{"09:30:00Z"},
	},
	"time-only": { // RAML 1.0, Date: partial-time of RFC 3339
		pattern: timeOnlyPattern,
		holds:   regexp.MustCompile(timeOnlyPattern).MatchString,
		samples: []string{"09:30:00"},
	},
	"datetime-only": { // RAML 1.0, Date: full-date and partial-time without an offset
		pattern: `^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])T([01][0-9]|2[0-3]):[0-5][0-9]:([0-5][0-9]|60)(\.[0-9]+)?$`,
		holds: func(s string) bool {
			day, at, found := strings.Cut(s, "T")
			_, err := time.Parse(time.DateOnly, day)
			return found && err == nil && timeOnly.MatchString(at)
		},
		samples: []string{"2026-03-01T09:30:00"}, misses: []string{"2026-02-30T09:30:00"},
	},
	"http-date": { // RFC 9110, section 5.6.7: the preferred form; RAML's rfc2616
		pattern: `^(Mon|Tue|Wed|Thu|Fri|Sat|Sun), (0[1-9]|[12][0-9]|3[01]) (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) [0-9]{4} ([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9] GMT$`,
		holds: func(s string) bool {
			at, err := time.Parse(httpDate, s)
			return err == nil && at.Format(httpDate) == s // the day of the week is the date's
		},
		samples: []string{"Sun, 01 Mar 2026 09:30:00 GMT"}, misses: []string{"Mon, 01 Mar 2026 09:30:00 GMT"},
	},
	"uuid": {
		pattern: `^[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}$`,
		holds:   regexp.MustCompile(`^[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}$`).MatchString,
		samples: []string{"6f1c0e52-8d3b-4a57-9e21-0b7c5d94f2a8"},
	},
	"ipv4": {
		pattern: `^((25[0-5]|2[0-4][0-9]|1[0-9][0-9]|[1-9]?[0-9])\.){3}(25[0-5]|2[0-4][0-9]|1[0-9][0-9]|[1-9]?[0-9])$`,
		holds:   func(s string) bool { a, err := netip.ParseAddr(s); return err == nil && a.Is4() },
		samples: []string{"192.0.2.1"},
	},
	"ipv6": {
		pattern: `^[0-9a-fA-F:.]+$`,
		holds: func(s string) bool {
			a, err := netip.ParseAddr(s)
			return err == nil && a.Is6() && a.Zone() == ""
		},
		samples: []string{"2001:db8::1"}, misses: []string{"1", ":::"},
	},
	"email": {
		pattern: `@`,
		holds: func(s string) bool {
			a, err := mail.ParseAddress(s)
			return err == nil && a.Address == s && !strings.ContainsAny(s, "<> ")
		},
		samples: []string{"quay@saltmere.example"}, misses: []string{"@"},
	},
	"uri": {
		pattern: `^[A-Za-z][A-Za-z0-9+.-]*:`,
		holds: func(s string) bool {
			u, err := url.Parse(s)
			return err == nil && u.IsAbs() && !strings.ContainsAny(s, " <>\\^`{|}\"") && isASCII(s)
		},
		samples: []string{"https://saltmere.example/notes"}, misses: []string{"a: "},
	},
	"hostname": {
		pattern: `^[A-Za-z0-9]([A-Za-z0-9-]*[A-Za-z0-9])?(\.[A-Za-z0-9]([A-Za-z0-9-]*[A-Za-z0-9])?)*$`,
		holds:   isHostname,
		samples: []string{"quay.saltmere.example"}, misses: []string{strings.Repeat("a", 64)},
	},
	"byte": {
		pattern: `^[A-Za-z0-9+/]*={0,2}$`,
		holds:   func(s string) bool { _, err := base64.StdEncoding.Strict().DecodeString(s); return err == nil },
		samples: []string{"U2FsdG1lcmU="}, misses: []string{"a"},
	},
	"duration": {
		pattern: `^P[0-9YMWDTHS]+$`,
		holds:   regexp.MustCompile(`^P([0-9]+W|([0-9]+Y)?([0-9]+M)?([0-9]+D)?(T([0-9]+H)?([0-9]+M)?([0-9]+S)?)?)$`).MatchString,
		samples: []string{"PT2H", "P2D"}, misses: []string{"P0"},
	},
}

func isDateTime(s string) bool {
	if !dateTime.MatchString(s) {
		return false
	}
	// A leap second stands at 23:59:60 in UTC; the day decides the rest.
	_, err := time.Parse(time.DateOnly, s[:10])
	return err == nil && (s[17:19] != "60" || leapSecond(s))
}

func leapSecond(s string) bool {
	at, err := time.Parse(time.RFC3339, strings.ToUpper(s[:17]+"59"+s[19:]))
	at = at.UTC()
	return err == nil && at.Hour() == 23 && at.Minute() == 59
}

func isHostname(s string) bool {
	if len(s) == 0 || len(s) > 253 {
		return false
	}
	for label := range strings.SplitSeq(s, ".") {
		if len(label) > 63 || !hostLabel.MatchString(label) {
			return false
		}
	}
	return true
}

func isASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// numberFormats are the formats that bound whole numbers.
var numberFormats = map[string]interval{
	"int8":   powers(7, true),
	"int16":  powers(15, true),
	"int32":  powers(31, true),
	"int64":  powers(63, true),
	"uint8":  powers(8, false),
	"uint16": powers(16, false),
	"uint32": powers(32, false),
	"uint64": powers(64, false),
}

// powers is the range of whole numbers in so many bits of magnitude.
func powers(bits uint, signed bool) interval {
	top := new(big.Int).Lsh(big.NewInt(1), bits)
	low := new(big.Int)
	if signed {
		low.Neg(top)
	}
	return interval{low: new(big.Rat).SetInt(low), high: new(big.Rat).SetInt(new(big.Int).Sub(top, big.NewInt(1)))}
}

// unbinding formats are known and constrain nothing.
var unbinding = map[string]bool{
	"float": true, "double": true, "password": true, "binary": true, "commonmark": true, "html": true,
	"char": true, "decimal": true,
}

// KnownFormat reports whether a format's meaning is known, so that a change of it can be judged.
func KnownFormat(name string) bool {
	_, text := formats[name]
	_, number := numberFormats[name]
	return text || number || unbinding[name]
}
