package sample

import (
	"net/url"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// The styles of parameters (OpenAPI 3.1.1, Style Values; RFC 6570).

// scalar is a plain value as it stands on the wire.
func scalar(v *value.Value) string {
	if v.Kind == value.String {
		return v.Text
	}
	return v.String()
}

// words are the items of a list, or the names and values of an object, joined to name=value where they are exploded.
func words(v *value.Value, explode bool) []string {
	switch v.Kind {
	case value.Array:
		all := make([]string, len(v.Items))
		for i, it := range v.Items {
			all[i] = scalar(it)
		}
		return all
	case value.Object:
		var all []string
		for _, m := range v.Members {
			if explode {
				all = append(all, m.Name+"="+scalar(m.Value))
			} else {
				all = append(all, m.Name, scalar(m.Value))
			}
		}
		return all
	}
	return []string{scalar(v)}
}

// simple is the style of headers and, by default, of paths.
func simple(v *value.Value, explode bool) string { return strings.Join(words(v, explode), ",") }

// HeaderText is a value as the text of a header (OpenAPI 3.1.1, style simple).
func HeaderText(v *value.Value, explode bool) string { return simple(v, explode) }

// inPath writes a path parameter, escaped but for what its style puts between the words.
func inPath(p *contract.Parameter, v *value.Value) string {
	all := words(v, p.Explode)
	for i, w := range all {
		name, val, pair := strings.Cut(w, "=")
		if pair && p.Explode && v.Kind == value.Object {
			all[i] = url.PathEscape(name) + "=" + url.PathEscape(val)
		} else {
			all[i] = url.PathEscape(w)
		}
	}
	switch p.Style {
	case "label":
		if p.Explode {
			return "." + strings.Join(all, ".")
		}
		return "." + strings.Join(all, ",")
	case "matrix":
		name := ";" + url.PathEscape(p.Name) + "="
		switch {
		case !p.Explode || v.Kind != value.Array && v.Kind != value.Object:
			return name + strings.Join(all, ",")
		case v.Kind == value.Array:
			return name + strings.Join(all, name)
		}
		return ";" + strings.Join(all, ";")
	}
	return strings.Join(all, ",")
}

// inQuery writes a query parameter as the pairs that stand in the query.
func inQuery(p *contract.Parameter, v *value.Value) []Pair {
	if len(p.Content) > 0 {
		return []Pair{{p.Name, v.String()}}
	}
	switch {
	case v.Kind == value.Object && p.Style == "deepObject":
		var all []Pair
		for _, m := range v.Members {
			all = append(all, Pair{p.Name + "[" + m.Name + "]", scalar(m.Value)})
		}
		return all
	case v.Kind == value.Object && p.Explode:
		var all []Pair
		for _, m := range v.Members {
			all = append(all, Pair{m.Name, scalar(m.Value)})
		}
		return all
	case v.Kind == value.Array && p.Explode:
		var all []Pair
		for _, it := range v.Items {
			all = append(all, Pair{p.Name, scalar(it)})
		}
		return all
	}
	between := map[string]string{"spaceDelimited": " ", "pipeDelimited": "|"}[p.Style]
	if between == "" {
		between = ","
	}
	return []Pair{{p.Name, strings.Join(words(v, false), between)}}
}
