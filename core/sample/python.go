package sample

import (
	"slices"
	"strings"

	"oldledger/core/value"
)

// python writes a call with the package requests.
func python(c *Call) string { return pythonCall(c, "requests") }

// httpx writes a call with the package httpx.
func httpx(c *Call) string { return pythonCall(c, "httpx") }

// pythonCall writes a call with a package. The two take the same arguments but for texts and forms.
func pythonCall(c *Call, library string) string {
	var l lines
	if len(c.Credentials) > 0 {
		l.add("import os")
		l.add("")
	}
	l.add("import %s", library)
	l.add("")
	l.add("answer = %s.request(", library)
	l.add("    %s,", quoted(c.Method))
	l.add("    %s,", quoted(c.Address))
	query, headers, cookies := expressions(c.Query), expressions(c.Headers), expressions(c.Cookies)
	env := func(name string) string { return `os.environ["` + name + `"]` }
	for _, cr := range c.Credentials {
		switch cr.Kind {
		case Bearer:
			headers = append(headers, Pair{"Authorization", `"Bearer " + ` + env(tokenVariable)})
		case Basic:
			l.add("    auth=(%s, %s),", env(nameVariable), env(passwordVariable))
		case KeyInHeader:
			headers = append(headers, Pair{cr.Name, env(keyVariable)})
		case KeyInQuery:
			query = append(query, Pair{cr.Name, env(keyVariable)})
		case KeyInCookie:
			cookies = append(cookies, Pair{cr.Name, env(keyVariable)})
		}
	}
	if t := c.contentType(); t != "" && (t != "application/json" || c.JSON == nil) {
		headers = append(headers, Pair{"Content-Type", quoted(t)})
	}
	l.pythonTuples("params", query)
	l.pythonDict("headers", headers)
	l.pythonDict("cookies", cookies)
	switch {
	case c.JSON != nil:
		l.add("    json=%s,", pythonValue(c.JSON, "    "))
	case c.Text != "" && library == "httpx":
		l.add("    content=%s.encode(),", quoted(c.Text))
	case c.Text != "":
		l.add("    data=%s.encode(),", quoted(c.Text))
	case c.Form != nil && library == "httpx":
		l.pythonDict("data", together(c.Form))
	case c.Form != nil:
		l.pythonTuples("data", expressions(c.Form))
	case c.Parts != nil:
		var parts []Pair
		for _, p := range c.Parts {
			switch {
			case p.File != "":
				parts = append(parts, Pair{p.Name, "open(" + quoted(p.File) + `, "rb")`})
			case library == "httpx":
				parts = append(parts, Pair{p.Name, "(None, " + quoted(p.Value) + ".encode())"})
			default:
				parts = append(parts, Pair{p.Name, "(None, " + quoted(p.Value) + ")"})
			}
		}
		l.pythonTuples("files", parts)
	}
	l.add(")")
	l.add("print(answer.status_code, answer.text)")
	return l.text()
}

// expressions are pairs whose values are written as texts.
func expressions(pairs []Pair) []Pair {
	var all []Pair
	for _, p := range pairs {
		all = append(all, Pair{p.Name, quoted(p.Value)})
	}
	return all
}

// together are the pairs of a form with the values of each name in one list, where it has several.
func together(form []Pair) []Pair {
	var all []Pair
	for i, p := range form {
		if slices.ContainsFunc(form[:i], func(q Pair) bool { return q.Name == p.Name }) {
			continue
		}
		var values []string
		for _, q := range form[i:] {
			if q.Name == p.Name {
				values = append(values, quoted(q.Value))
			}
		}
		text := values[0]
		if len(values) > 1 {
			text = "[" + strings.Join(values, ", ") + "]"
		}
		all = append(all, Pair{p.Name, text})
	}
	return all
}

// pythonTuples is an argument in which a name may stand more than once; nothing where there is none.
func (l *lines) pythonTuples(name string, all []Pair) {
	if len(all) == 0 {
		return
	}
	l.add("    %s=[", name)
	for _, p := range all {
		l.add("        (%s, %s),", quoted(p.Name), p.Value)
	}
	l.add("    ],")
}

// pythonDict is an argument in which each name stands once; nothing where there is none.
func (l *lines) pythonDict(name string, all []Pair) {
	if len(all) == 0 {
		return
	}
	l.add("    %s={", name)
	for _, p := range all {
		l.add("        %s: %s,", quoted(p.Name), p.Value)
	}
	l.add("    },")
}

// pythonValue writes a JSON value as Python does.
func pythonValue(v *value.Value, margin string) string {
	in := margin + "    "
	switch v.Kind {
	case value.Null:
		return "None"
	case value.Boolean:
		if v.Bool {
			return "True"
		}
		return "False"
	case value.String:
		return quoted(v.Text)
	case value.Array:
		if len(v.Items) == 0 {
			return "[]"
		}
		var all []string
		for _, it := range v.Items {
			all = append(all, in+pythonValue(it, in)+",\n")
		}
		return "[\n" + strings.Join(all, "") + margin + "]"
	case value.Object:
		if len(v.Members) == 0 {
			return "{}"
		}
		var all []string
		for _, m := range v.Members {
			all = append(all, in+quoted(m.Name)+": "+pythonValue(m.Value, in)+",\n")
		}
		return "{\n" + strings.Join(all, "") + margin + "}"
	}
	return v.String()
}
