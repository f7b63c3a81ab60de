package sample

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// OnWire is a parameter with a value as it stands in a request: "limit=20", "quays=a&quays=b" in a query, the segment of a path, the text
// of a header or of a cookie. Commas and brackets are left as they read best.
func OnWire(p *contract.Parameter, v *value.Value) string {
	switch p.In {
	case "path":
		return inPath(p, v)
	case "header":
		return simple(v, p.Explode)
	}
	var all []string
	for _, pair := range inQuery(p, v) {
		text := pair.Value
		if p.In == "query" && !p.AllowReserved {
			text = readable.Replace(url.QueryEscape(text))
		}
		all = append(all, pair.Name+"="+text)
	}
	return strings.Join(all, map[bool]string{true: "; ", false: "&"}[p.In == "cookie"])
}

// readable undoes the escapes of what separates the items of a list.
var readable = strings.NewReplacer("%2C", ",", "%7C", "|", "%3A", ":", "+", "%20")
