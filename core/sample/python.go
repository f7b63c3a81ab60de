package sample

import (
	"strings"

	"oldledger/core/value"
)

// python writes a call with the package requests.
func python(c *Call) string {
	var l lines
	if len(c.Credentials) > 0 {
		l.add("import os")
		l.add("")
	}
	l.add("import requests")
	l.add("")
	l.add("answer = requests.request(")
	l.add("    %s,", quoted(c.Method))
	l.add("    %s,", quoted(c.Address))
	var query, headers, cookies []Pair
	for _, p := range c.Query {
		query = append(query, Pair{p.Name, quoted(p.Value)})
	}
	for _, p := range c.Headers {
		headers = append(headers, Pair{p.Name, quoted(p.Value)})
	}
	for _, p := range c.Cookies {
		cookies = append(cookies, Pair{p.Name, quoted(p.Value)})
	}
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
	if t := c.contentType(); t != "" && t != "application/json" {
		headers = append(headers, Pair{"Content-Type", quoted(t)})
	}
	tuples := func(name string, all []Pair) {
		if len(all) > 0 {
			l.add("    %s=[", name)
			for _, p := range all {
				l.add("        (%s, %s),", quoted(p.Name), p.Value)
			}
			l.add("    ],")
		}
	}
	dict := func(name string, all []Pair) {
		if len(all) > 0 {
			l.add("    %s={", name)
			for _, p := range all {
				l.add("        %s: %s,", quoted(p.Name), p.Value)
			}
			l.add("    },")
		}
	}
	tuples("params", query)
	dict("headers", headers)
	dict("cookies", cookies)
	switch {
	case c.JSON != nil:
		l.add("    json=%s,", pythonValue(c.JSON, "    "))
	case c.Text != "":
		l.add("    data=%s.encode(),", quoted(c.Text))
	case c.Form != nil:
		var form []Pair
		for _, p := range c.Form {
			form = append(form, Pair{p.Name, quoted(p.Value)})
		}
		tuples("data", form)
	case c.Parts != nil:
		var parts []Pair
		for _, p := range c.Parts {
			if p.File != "" {
				parts = append(parts, Pair{p.Name, "open(" + quoted(p.File) + `, "rb")`})
			} else {
				parts = append(parts, Pair{p.Name, "(None, " + quoted(p.Value) + ")"})
			}
		}
		tuples("files", parts)
	}
	l.add(")")
	l.add("print(answer.status_code, answer.text)")
	return l.text()
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
