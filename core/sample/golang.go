package sample

import (
	"sort"
	"strings"
)

// goLang writes a call with net/http, as a whole program.
func goLang(c *Call) string {
	imports := map[string]bool{"fmt": true, "io": true, "log": true, "net/http": true}
	var body lines
	reader := "nil"
	switch {
	case c.JSON != nil:
		imports["strings"] = true
		body.add("	body := strings.NewReader(%s)", rawGo(c.shown()))
		reader = "body"
	case c.Text != "":
		imports["strings"] = true
		body.add("	body := strings.NewReader(%s)", quoted(c.Text))
		reader = "body"
	case c.Form != nil:
		imports["strings"], imports["net/url"] = true, true
		body.add("	form := url.Values{}")
		for _, p := range c.Form {
			body.add("	form.Add(%s, %s)", quoted(p.Name), quoted(p.Value))
		}
		reader = "strings.NewReader(form.Encode())"
	case c.Parts != nil:
		imports["bytes"], imports["mime/multipart"] = true, true
		c.goParts(&body, imports)
		reader = "&body"
	}
	before, secret := c.secretAddress()
	address := quoted(before)
	if secret != "" {
		imports["os"], imports["net/url"] = true, true
		address += `+url.QueryEscape(os.Getenv("` + keyVariable + `"))`
	}
	var set lines
	for _, cr := range c.Credentials {
		imports["os"] = true
		switch cr.Kind {
		case Bearer:
			set.add(`	req.Header.Set("Authorization", "Bearer "+os.Getenv("%s"))`, tokenVariable)
		case Basic:
			set.add(`	req.SetBasicAuth(os.Getenv("%s"), os.Getenv("%s"))`, nameVariable, passwordVariable)
		case KeyInHeader:
			set.add(`	req.Header.Set(%s, os.Getenv("%s"))`, quoted(cr.Name), keyVariable)
		case KeyInCookie:
			set.add(`	req.AddCookie(&http.Cookie{Name: %s, Value: os.Getenv("%s")})`, quoted(cr.Name), keyVariable)
		}
	}
	for _, h := range c.Headers {
		set.add("	req.Header.Set(%s, %s)", quoted(h.Name), quoted(h.Value))
	}
	for _, p := range c.Cookies {
		set.add("	req.AddCookie(&http.Cookie{Name: %s, Value: %s})", quoted(p.Name), quoted(p.Value))
	}
	switch {
	case c.Parts != nil:
		set.add(`	req.Header.Set("Content-Type", parts.FormDataContentType())`)
	case c.Type != "":
		set.add(`	req.Header.Set("Content-Type", %s)`, quoted(c.Type))
	}
	var l lines
	l.add("package main")
	l.add("")
	l.add("import (")
	var names []string
	for name := range imports {
		names = append(names, name)
	}
	sort.Strings(names)
	for _, name := range names {
		l.add("	%s", quoted(name))
	}
	l.add(")")
	l.add("")
	l.add("func main() {")
	l.b.WriteString(body.b.String())
	l.add("	req, err := http.NewRequest(%s, %s, %s)", quoted(c.Method), address, reader)
	l.add("	if err != nil {")
	l.add("		log.Fatal(err)")
	l.add("	}")
	l.b.WriteString(set.b.String())
	l.add("	answer, err := http.DefaultClient.Do(req)")
	l.add("	if err != nil {")
	l.add("		log.Fatal(err)")
	l.add("	}")
	l.add("	defer answer.Body.Close()")
	l.add("	text, err := io.ReadAll(answer.Body)")
	l.add("	fmt.Println(answer.Status, string(text), err)")
	l.add("}")
	return l.text()
}

func (c *Call) goParts(l *lines, imports map[string]bool) {
	l.add("	var body bytes.Buffer")
	l.add("	parts := multipart.NewWriter(&body)")
	for _, p := range c.Parts {
		if p.File == "" {
			l.add("	parts.WriteField(%s, %s)", quoted(p.Name), quoted(p.Value))
			continue
		}
		imports["os"] = true
		l.add("	if file, err := os.Open(%s); err != nil {", quoted(p.File))
		l.add("		log.Fatal(err)")
		l.add("	} else if part, err := parts.CreateFormFile(%s, %s); err != nil {", quoted(p.Name), quoted(p.File))
		l.add("		log.Fatal(err)")
		l.add("	} else if _, err := io.Copy(part, file); err != nil {")
		l.add("		log.Fatal(err)")
		l.add("	}")
	}
	l.add("	parts.Close()")
}

// rawGo writes a text between backquotes where it has none.
func rawGo(text string) string {
	if strings.ContainsAny(text, "`\r") {
		return quoted(text)
	}
	return "`" + text + "`"
}
