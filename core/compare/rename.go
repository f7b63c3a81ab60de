package compare

import (
	"slices"
	"strings"

	"oldledger/core/contract"
)

// renamed pairs what went with what came: first what has the same name in another spelling, then what resembles it; each where it is the
// only one for the other. The rest is given back in its order.
func renamed[T any](gone, came []T, name func(T) string, alike func(x, y T) bool) (pairs [][2]T, restGone, restCame []T) {
	same, gone, came := partners(gone, came, func(x, y T) bool { return respelt(name(x), name(y)) && alike(x, y) })
	near, gone, came := partners(gone, came, func(x, y T) bool { return resemble(name(x), name(y)) && alike(x, y) })
	return append(same, near...), gone, came
}

// partners pairs what went with what came where each is the only one for the other; the rest is given back in its order.
func partners[T any](gone, came []T, alike func(x, y T) bool) (pairs [][2]T, restGone, restCame []T) {
	fits := make([][]int, len(gone))
	wanted := make([]int, len(came))
	if len(gone)*len(came) > maxPartners {
		return nil, gone, came
	}
	for i, x := range gone {
		for j, y := range came {
			if alike(x, y) {
				fits[i] = append(fits[i], j)
				wanted[j]++
			}
		}
	}
	used := make([]bool, len(came))
	for i, x := range gone {
		if len(fits[i]) == 1 && wanted[fits[i][0]] == 1 {
			used[fits[i][0]] = true
			pairs = append(pairs, [2]T{x, came[fits[i][0]]})
		} else {
			restGone = append(restGone, x)
		}
	}
	for j, y := range came {
		if !used[j] {
			restCame = append(restCame, y)
		}
	}
	return pairs, restGone, restCame
}

// maxPartners bounds the pairs that are looked at: where so much went and came, nothing was renamed.
const maxPartners = 40_000

// sameParameter reports whether two parameters or headers are one under two names.
func (c *comparer) sameParameter(x, y *contract.Parameter) bool {
	sx, _ := x.Payload()
	sy, _ := y.Payload()
	return x.In == y.In && x.In != "path" && sx != nil && sy != nil && c.alikeShape(sx, sy)
}

func parameterName(p *contract.Parameter) string { return p.Name }

// respelt reports whether two names are one in two spellings: case, separators and the plural left aside.
func respelt(a, b string) bool {
	return strings.TrimSuffix(strings.Join(nameWords(a), ""), "s") == strings.TrimSuffix(strings.Join(nameWords(b), ""), "s")
}

// opposites are words of which one never takes the place of the other (docs/design/compatibility.md, One edit, one change).
var opposites = [][]string{
	{"min", "max"},
	{"minimum", "maximum"},
	{"start", "end"},
	{"begin", "end"},
	{"started", "ended"},
	{"first", "last"},
	{"from", "to"},
	{"created", "updated", "deleted", "modified"},
	{"in", "out"},
	{"inbound", "outbound"},
	{"input", "output"},
	{"source", "target", "destination"},
	{"sender", "receiver", "recipient"},
	{"before", "after"},
	{"old", "new"},
	{"previous", "next", "prev"},
	{"lower", "upper"},
	{"low", "high"},
	{"left", "right"},
	{"top", "bottom"},
	{"width", "height", "depth", "length"},
	{"open", "close", "closed"},
	{"opened", "closed"},
	{"on", "off"},
	{"enabled", "disabled"},
	{"arrival", "departure"},
	{"credit", "debit"},
	{"north", "south", "east", "west"},
	{"lat", "lon", "lng"},
	{"latitude", "longitude"},
	{"x", "y", "z"},
	{"a", "b", "c"},
	{"request", "response"},
	{"read", "write"},
	{"buy", "sell"},
	{"success", "failure", "error"},
	{"day", "month", "year", "hour", "minute", "second"},
}

// opposed reports whether two names differ by opposite or ordered words, or by a number.
func opposed(a, b string) bool {
	x, y := nameWords(a), nameWords(b)
	if len(x) != len(y) {
		return false
	}
	for i := range x {
		if x[i] == y[i] {
			continue
		}
		numbered := strings.TrimRight(x[i], "0123456789") == strings.TrimRight(y[i], "0123456789")
		listed := slices.ContainsFunc(opposites, func(set []string) bool { return slices.Contains(set, x[i]) && slices.Contains(set, y[i]) })
		if numbered || listed {
			return true
		}
	}
	return false
}
