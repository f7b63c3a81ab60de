package compare

import (
	"slices"
	"strings"

	"oldledger/core/contract"
)

// address is one address at which an API answers: where, and under which path. What a variable without listed values may be is open.
type address struct{ origin, path string }

// open stands for whatever a variable without listed values may be.
const open = "{}"

func (a address) String() string {
	if a.origin+a.path == "" {
		return "/"
	}
	return a.origin + a.path
}

// maxAddresses bounds the addresses that the variables of one server span.
const maxAddresses = 500

// addresses are those that a list of servers spans, each once; no servers are the server / (OpenAPI 3.1.1, section 4.8.1).
func addresses(servers []*contract.Server) []address {
	if len(servers) == 0 {
		return []address{{}}
	}
	var all []address
	for _, s := range servers {
		texts := []string{s.URL}
		for _, v := range s.Variables {
			values := v.Enum
			if len(values) == 0 || len(values)*len(texts) > maxAddresses {
				values = []string{open}
			} else if v.Default != "" && !slices.Contains(values, v.Default) {
				values = append(slices.Clip(values), v.Default)
			}
			var filled []string
			for _, text := range texts {
				for _, value := range values {
					filled = append(filled, strings.ReplaceAll(text, "{"+v.Name+"}", value))
				}
			}
			texts = filled
		}
		for _, text := range texts {
			if a := splitAddress(text); !slices.Contains(all, a) {
				all = append(all, a)
			}
		}
	}
	return all
}

func splitAddress(text string) address {
	text = strings.TrimRight(text, "/")
	scheme, rest, absolute := strings.Cut(text, "://")
	if !absolute {
		return address{"", text}
	}
	host, path, found := strings.Cut(rest, "/")
	if found {
		path = "/" + path
	}
	return address{strings.ToLower(scheme + "://" + host), path}
}

// spans reports whether a text with open parts covers another.
func spans(wide, text string) bool {
	if wide == text {
		return true
	}
	parts := strings.Split(wide, open)
	if len(parts) == 1 || !strings.HasPrefix(text, parts[0]) {
		return false
	}
	rest := text[len(parts[0]):]
	for i, part := range parts[1:] {
		if rest == "" {
			return false // what is open is not empty
		}
		if i == len(parts)-2 {
			return strings.HasSuffix(rest[1:], part)
		}
		at := strings.Index(rest[1:], part)
		if at < 0 {
			return false
		}
		rest = rest[1+at+len(part):]
	}
	return true
}

// notIn are the addresses of a that b does not span.
func notIn(a, b []address) []address {
	return slices.DeleteFunc(slices.Clone(a), func(x address) bool {
		return slices.ContainsFunc(b, func(y address) bool { return spans(y.origin, x.origin) && spans(y.path, x.path) })
	})
}

// pathsOf are the addresses without their origins, each once.
func pathsOf(list []address) []address {
	var paths []address
	for _, a := range list {
		if only := (address{"", a.path}); !slices.Contains(paths, only) {
			paths = append(paths, only)
		}
	}
	return paths
}
