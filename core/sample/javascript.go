package sample

import "strings"

// javaScript writes a call with fetch, as a module for a browser's server side or Node.js.
func javaScript(c *Call) string {
	var l lines
	if files := c.files(); len(files) > 0 {
		l.add(`import { openAsBlob } from "node:fs"`)
		l.add("")
	}
	if c.Parts != nil {
		l.scriptParts(c.Parts)
	}
	before, secret := c.secretAddress()
	address := quoted(before)
	if secret != "" {
		address += " + encodeURIComponent(process.env." + keyVariable + ")"
	}
	if c.Method == "GET" && len(c.scriptHeaders()) == 0 {
		l.add("const answer = await fetch(%s)", address)
	} else {
		l.add("const answer = await fetch(%s, {", address)
		l.add("  method: %s,", quoted(c.Method))
		l.scriptHeaders(c)
		switch {
		case c.JSON != nil:
			l.add("  body: JSON.stringify(%s),", c.indented("  "))
		case c.Text != "":
			l.add("  body: %s,", quoted(c.Text))
		case c.Form != nil:
			l.scriptForm("body", c.Form)
		case c.Parts != nil:
			l.add("  body,")
		}
		l.add("})")
	}
	l.add("console.log(answer.status, await answer.text())")
	return l.text()
}

// scriptParts make the body of parts.
func (l *lines) scriptParts(parts []Part) {
	l.add("const body = new FormData()")
	for _, p := range parts {
		if p.File != "" {
			l.add("body.append(%s, await openAsBlob(%s), %s)", quoted(p.Name), quoted(p.File), quoted(p.File))
		} else {
			l.add("body.append(%s, %s)", quoted(p.Name), quoted(p.Value))
		}
	}
	l.add("")
}

// scriptForm is a form as a member of the options.
func (l *lines) scriptForm(member string, form []Pair) {
	l.add("  %s: new URLSearchParams([", member)
	for _, p := range form {
		l.add("    [%s, %s],", quoted(p.Name), quoted(p.Value))
	}
	l.add("  ]),")
}

// scriptHeaders are the headers as a member of the options, nothing where there are none.
func (l *lines) scriptHeaders(c *Call) {
	headers := c.scriptHeaders()
	if len(headers) == 0 {
		return
	}
	l.add("  headers: {")
	for _, h := range headers {
		l.add("    %s: %s,", quoted(h.Name), h.Value)
	}
	l.add("  },")
}

// scriptHeaders are the headers with their values as expressions.
func (c *Call) scriptHeaders() []Pair {
	var all []Pair
	var cookies []string
	for _, cr := range c.Credentials {
		switch cr.Kind {
		case Bearer:
			all = append(all, Pair{"Authorization", "`Bearer ${process.env." + tokenVariable + "}`"})
		case Basic:
			all = append(all, Pair{"Authorization", "`Basic ${btoa(`${process.env." + nameVariable + "}:${process.env." + passwordVariable +
				"}`)}`"})
		case KeyInHeader:
			all = append(all, Pair{cr.Name, "process.env." + keyVariable})
		case KeyInCookie:
			cookies = append(cookies, inTemplate.Replace(cr.Name)+"=${process.env."+keyVariable+"}")
		}
	}
	for _, h := range c.Headers {
		all = append(all, Pair{h.Name, quoted(h.Value)})
	}
	if t := c.cookieText(); t != "" {
		cookies = append(cookies, inTemplate.Replace(t))
	}
	if len(cookies) > 0 {
		all = append(all, Pair{"Cookie", "`" + strings.Join(cookies, "; ") + "`"})
	}
	if t := c.contentType(); t != "" {
		all = append(all, Pair{"Content-Type", quoted(t)})
	}
	return all
}

// inTemplate escapes a text for a template literal.
var inTemplate = strings.NewReplacer("`", "\\`", "$", "\\$", "\\", `\\`)
