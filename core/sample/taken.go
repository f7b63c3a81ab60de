package sample

import (
	"encoding/json"
	"net/url"
	"slices"
	"strings"
)

// Taken is a call as it is taken along in a file, with what it is called.
type Taken struct {
	Title string
	Name  string // to be referred to: "bookBerth"
	*Call
}

// Script is calls as a script of curl for a POSIX shell.
func Script(calls []Taken) string {
	var l lines
	l.add("#!/bin/sh")
	for _, name := range variables(calls) {
		l.add("%s=${%s:?say it first: export %s=…}", name, name, name)
	}
	for _, c := range calls {
		l.add("")
		l.add("# %s", inLine(c.Title))
		l.add("%s", curl(c.Call))
	}
	return l.b.String()
}

// Requests is calls as a file of HTTP requests (.http), as many editors send them: a request after each line that begins with ###,
// variables in double braces. A request that an editor would read as something else is left out, with a remark: braces in it are
// variables, and a line of a text that begins with < reads a file.
func Requests(calls []Taken) string {
	var l lines
	for _, name := range variables(calls) {
		l.add("@%s = ", name)
	}
	for i, c := range calls {
		if i > 0 || len(variables(calls)) > 0 {
			l.add("")
		}
		l.add("### %s", inLine(c.Title))
		request, ok := c.request()
		if !ok {
			l.add("# It cannot stand in a file of this kind: take the call in another language.")
			continue
		}
		l.add("# @name %s", c.Name)
		l.add("%s", request)
	}
	return l.b.String()
}

// request is the call as a request of a file; ok is false where it would be read as something else.
func (c Taken) request() (text string, ok bool) {
	var l lines
	address, secret := c.secretAddress()
	l.add("%s %s%s", c.Method, address, map[bool]string{true: "\x01" + keyVariable + "\x02"}[secret != ""])
	variable := func(name string) string { return "\x01" + name + "\x02" }
	var cookies []string
	written := []string{c.Method, address}
	for _, cr := range c.Credentials {
		written = append(written, cr.Name)
		switch cr.Kind {
		case Bearer:
			l.add("Authorization: Bearer %s", variable(tokenVariable))
		case Basic:
			l.add("Authorization: Basic %s:%s", variable(nameVariable), variable(passwordVariable))
		case KeyInHeader:
			l.add("%s: %s", cr.Name, variable(keyVariable))
		case KeyInCookie:
			cookies = append(cookies, cr.Name+"="+variable(keyVariable))
		}
	}
	head := []string{}
	for _, h := range c.Headers {
		head = append(head, h.Name+": "+h.Value)
	}
	if t := c.cookieText(); t != "" {
		cookies, written = append(cookies, t), append(written, t)
	}
	if strings.ContainsAny(strings.Join(append(written, head...), ""), "\r\n\x02") {
		return "", false
	}
	if len(cookies) > 0 {
		head = append(head, "Cookie: "+strings.Join(cookies, "; "))
	}
	for _, h := range head {
		l.add("%s", h)
	}
	body, contentType := c.requestBody()
	if contentType != "" {
		l.add("Content-Type: %s", contentType)
	}
	if body != "" {
		l.add("")
		l.add("%s", body)
	}
	text = l.text()
	if strings.Contains(text, "{{") || c.Parts == nil && readsOtherwise(body) ||
		slices.ContainsFunc(c.Parts, func(p Part) bool { return readsOtherwise(p.Value) }) {
		return "", false
	}
	return strings.NewReplacer("\x01", "{{", "\x02", "}}").Replace(text), true
}

// readsOtherwise reports whether a line of a body would not be read as a text: it would end the request, or read a file.
func readsOtherwise(body string) bool {
	for line := range strings.Lines(body) {
		line = strings.TrimSpace(line)
		reads := line == "<" || strings.HasPrefix(line, "< ") || strings.HasPrefix(line, "<\t") || strings.HasPrefix(line, "<@") ||
			strings.HasPrefix(line, "<>")
		if reads || strings.HasPrefix(line, "###") || strings.HasPrefix(line, ">") || strings.HasPrefix(line, "--"+partBoundary) {
			return true
		}
	}
	return strings.ContainsAny(body, "\x01\x02")
}

const partBoundary = "part-of-the-request"

// requestBody is the body as it stands in a file, with its media type.
func (c *Call) requestBody() (body, contentType string) {
	switch {
	case c.JSON != nil:
		return c.shown(), c.Type
	case c.Form != nil:
		var all []string
		for _, p := range c.Form {
			all = append(all, url.QueryEscape(p.Name)+"="+url.QueryEscape(p.Value))
		}
		return strings.Join(all, "&"), c.Type
	case c.Parts != nil:
		var l lines
		for _, p := range c.Parts {
			l.add("--%s", partBoundary)
			if p.File == "" {
				l.add("Content-Disposition: form-data; name=\"%s\"\n\n%s", inside(p.Name), p.Value)
			} else {
				l.add("Content-Disposition: form-data; name=\"%s\"; filename=\"%s\"\n\n< ./%s", inside(p.Name), p.File, p.File)
			}
		}
		l.add("--%s--", partBoundary)
		return l.text(), "multipart/form-data; boundary=" + partBoundary
	}
	return c.Text, c.Type
}

// Archive is calls as an HTTP archive (HAR 1.2): requests that nobody has sent, with empty answers. at is the moment that it names for them
// (RFC 3339); creator and version name who wrote it.
func Archive(calls []Taken, at, creator, version string) ([]byte, error) {
	type pair struct {
		Name  string `json:"name"`
		Value string `json:"value"`
	}
	type param struct {
		Name     string `json:"name"`
		Value    string `json:"value,omitempty"`
		FileName string `json:"fileName,omitempty"`
	}
	type postData struct {
		MimeType string  `json:"mimeType"`
		Text     string  `json:"text"`
		Params   []param `json:"params,omitempty"`
	}
	entries := []any{}
	for _, c := range calls {
		headers, query, cookies := []pair{}, []pair{}, []pair{}
		for _, h := range c.Headers {
			headers = append(headers, pair(h))
		}
		for _, q := range c.Query {
			query = append(query, pair(q))
		}
		for _, k := range c.Cookies {
			cookies = append(cookies, pair(k))
		}
		for _, cr := range c.Credentials {
			switch cr.Kind {
			case Bearer:
				headers = append(headers, pair{"Authorization", "Bearer " + tokenVariable})
			case Basic:
				headers = append(headers, pair{"Authorization", "Basic " + nameVariable + ":" + passwordVariable})
			case KeyInHeader:
				headers = append(headers, pair{cr.Name, keyVariable})
			case KeyInQuery:
				query = append(query, pair{cr.Name, keyVariable})
			case KeyInCookie:
				cookies = append(cookies, pair{cr.Name, keyVariable})
			}
		}
		request := map[string]any{
			"method": c.Method, "url": c.URL(), "httpVersion": "HTTP/1.1", "headers": headers, "queryString": query, "cookies": cookies,
			"headersSize": -1, "bodySize": -1, "comment": inLine(c.Title),
		}
		if c.Type != "" {
			body, contentType := c.requestBody()
			data := postData{MimeType: contentType, Text: body}
			for _, p := range c.Form {
				data.Params = append(data.Params, param{Name: p.Name, Value: p.Value})
			}
			for _, p := range c.Parts {
				data.Params = append(data.Params, param{Name: p.Name, Value: p.Value, FileName: p.File})
			}
			request["postData"] = data
			request["headers"] = append(headers, pair{"Content-Type", contentType})
		}
		entries = append(entries, map[string]any{
			"startedDateTime": at, "time": 0, "request": request, "cache": map[string]any{},
			"response": map[string]any{
				"status": 0, "statusText": "", "httpVersion": "HTTP/1.1", "headers": []pair{}, "cookies": []pair{}, "redirectURL": "",
				"content": map[string]any{"size": 0, "mimeType": ""}, "headersSize": -1, "bodySize": -1,
			},
			"timings": map[string]int{"send": 0, "wait": 0, "receive": 0},
		})
	}
	return json.MarshalIndent(map[string]any{"log": map[string]any{
		"version": "1.2", "creator": map[string]string{"name": creator, "version": version}, "entries": entries,
	}}, "", "  ")
}

// variables are those that calls take from the reader's environment, each once.
func variables(calls []Taken) []string {
	needed := map[string]bool{}
	for _, c := range calls {
		for _, cr := range c.Credentials {
			switch cr.Kind {
			case Bearer:
				needed[tokenVariable] = true
			case Basic:
				needed[nameVariable], needed[passwordVariable] = true, true
			default:
				needed[keyVariable] = true
			}
		}
	}
	var all []string
	for _, name := range []string{keyVariable, tokenVariable, nameVariable, passwordVariable} {
		if needed[name] {
			all = append(all, name)
		}
	}
	return all
}

// inLine is a text in one line.
func inLine(text string) string { return strings.Join(strings.Fields(text), " ") }
