package sample

import "oldledger/core/value"

// axios writes a call with the package axios, as a module for Node.js.
func axios(c *Call) string {
	var l lines
	l.add(`import axios from "axios"`)
	if files := c.files(); len(files) > 0 {
		l.add(`import { openAsBlob } from "node:fs"`)
	}
	l.add("")
	if c.Parts != nil {
		l.scriptParts(c.Parts)
	}
	before, secret := c.secretAddress()
	address := quoted(before)
	if secret != "" {
		address += " + encodeURIComponent(process.env." + keyVariable + ")"
	}
	l.add("const answer = await axios({")
	l.add("  method: %s,", quoted(c.Method))
	l.add("  url: %s,", address)
	l.scriptHeaders(c)
	switch {
	case c.JSON != nil && (c.JSON.Kind == value.Object || c.JSON.Kind == value.Array):
		l.add("  data: %s,", c.indented("  "))
	case c.JSON != nil:
		l.add("  data: JSON.stringify(%s),", c.shown()) // a text or a number would be sent as it is
	case c.Text != "":
		l.add("  data: %s,", quoted(c.Text))
	case c.Form != nil:
		l.scriptForm("data", c.Form)
	case c.Parts != nil:
		l.add("  data: body,")
	}
	l.add("})")
	l.add("console.log(answer.status, answer.data)")
	return l.text()
}
