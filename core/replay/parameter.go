package replay

import (
	"net/url"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/value"
)

// written are the parameters of a request as they stand in it.
type written struct {
	path   map[string]string
	query  []exchange.Field // decoded
	header func(name string) (string, bool)
	cookie []exchange.Field
}

func writtenIn(e *exchange.Exchange, at match) written {
	w := written{path: at.values, header: e.Request.Header, cookie: e.Request.Cookies()}
	for pair := range strings.SplitSeq(e.URL.RawQuery, "&") {
		if pair == "" {
			continue
		}
		name, text, _ := strings.Cut(pair, "=")
		w.query = append(w.query, exchange.Field{Name: unescaped(name), Value: unescaped(text)})
	}
	return w
}

func unescaped(text string) string {
	if plain, err := url.QueryUnescape(text); err == nil {
		return plain
	}
	return text
}

// value is the value of a parameter, its leaves text; there tells whether it is sent, and known whether its value can be told from its
// text.
func (w written) value(p *contract.Parameter) (v *value.Value, there, known bool) {
	schema, mediaType := p.Payload()
	if mediaType != "" {
		text, there := w.text(p)
		if !there || !exchange.IsJSON(mediaType) {
			return nil, there, false
		}
		v, err := value.Parse([]byte(text))
		return v, true, err == nil
	}
	kind := kindOf(schema)
	switch p.In {
	case "query", "cookie":
		fields := w.query
		if p.In == "cookie" {
			fields = w.cookie
		}
		return fromPairs(p, schema, kind, fields)
	}
	text, there := w.text(p)
	if !there {
		return nil, false, false
	}
	switch p.Style {
	case "simple", "":
		v, known = split(text, ",", kind, p.Explode)
		return v, true, known
	case "label":
		rest, is := strings.CutPrefix(text, ".")
		v, known = split(rest, map[bool]string{true: ".", false: ","}[p.Explode], kind, p.Explode)
		return v, true, known && is
	}
	return nil, true, false
}

// text is what stands there of a parameter that is written as one text.
func (w written) text(p *contract.Parameter) (string, bool) {
	switch p.In {
	case "path":
		text, there := w.path[p.Name]
		return text, there
	case "header":
		return w.header(p.Name)
	}
	fields := w.query
	if p.In == "cookie" {
		fields = w.cookie
	}
	for _, f := range fields {
		if f.Name == p.Name {
			return f.Value, true
		}
	}
	return "", false
}

// kindOf is what a schema plainly describes: "array", "object", "text", or "" where it may be one of several.
func kindOf(s *contract.Schema) string {
	kind := ""
	for _, part := range s.Conjuncts() {
		is := ""
		switch {
		case len(part.Types) == 1 && (part.Types[0] == "array" || part.Types[0] == "object"):
			is = part.Types[0]
		case len(part.Types) > 0 && !slices.Contains(part.Types, "array") && !slices.Contains(part.Types, "object"):
			is = "text"
		case len(part.Types) == 0 && part.SaysArray():
			is = "array"
		case len(part.Types) == 0 && part.SaysObject():
			is = "object"
		case len(part.Types) == 0 && (part.SaysString() || part.SaysNumber() || part.HasEnum):
			is = "text"
		case len(part.AnyOf)+len(part.OneOf) > 0 || len(part.Types) > 1:
			return ""
		}
		if is != "" && kind != "" && is != kind {
			return ""
		}
		if is != "" {
			kind = is
		}
	}
	return kind
}

// fromPairs reads a parameter of a query or a cookie.
func fromPairs(p *contract.Parameter, schema *contract.Schema, kind string, fields []exchange.Field) (v *value.Value, there, known bool) {
	var texts []string
	for _, f := range fields {
		if f.Name == p.Name || kind == "array" && f.Name == p.Name+"[]" && p.Name != "" {
			texts = append(texts, f.Value)
		}
	}
	switch {
	case p.Style == "deepObject":
		v := value.Obj()
		for _, f := range fields {
			if rest, is := strings.CutPrefix(f.Name, p.Name+"["); is && strings.HasSuffix(rest, "]") {
				v.Members = append(v.Members, value.Member{Name: rest[:len(rest)-1], Value: value.Str(f.Value)})
			}
		}
		return v, len(v.Members) > 0, !strings.Contains(v.String(), "][")
	case kind == "object" && p.Explode:
		v := value.Obj()
		for _, f := range fields {
			if schema.Deref().Property(f.Name) != nil {
				v.Members = append(v.Members, value.Member{Name: f.Name, Value: value.Str(f.Value)})
			}
		}
		return v, len(v.Members) > 0, false // a name may be that of another parameter
	case len(texts) == 0:
		return nil, false, false
	case kind == "array" && p.Explode:
		v := value.Arr()
		for _, t := range texts {
			v.Items = append(v.Items, value.Str(t))
		}
		return v, true, true
	}
	by := map[string]string{"spaceDelimited": " ", "pipeDelimited": "|"}[p.Style]
	if by == "" {
		by = ","
	}
	v, known = split(texts[0], by, kind, false)
	return v, true, known
}

// split reads a value that stands in one text.
func split(text, by, kind string, explode bool) (v *value.Value, known bool) {
	switch kind {
	case "text":
		return value.Str(text), true
	case "array":
		v := value.Arr()
		if text != "" {
			for item := range strings.SplitSeq(text, by) {
				v.Items = append(v.Items, value.Str(item))
			}
		}
		return v, true
	case "object":
		v := value.Obj()
		parts := strings.Split(text, by)
		for i := 0; i < len(parts); i++ {
			name, member, is := strings.Cut(parts[i], "=")
			if !explode {
				if name, is = parts[i], i+1 < len(parts); is {
					i++
					member = parts[i]
				}
			}
			if !is {
				return v, false
			}
			v.Members = append(v.Members, value.Member{Name: name, Value: value.Str(member)})
		}
		return v, true
	}
	return value.Str(text), false
}
