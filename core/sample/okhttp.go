package sample

import "strings"

// okHTTP writes a call with OkHttp 4, as the inside of a method.
func okHTTP(c *Call) string {
	var l lines
	body := "null"
	switch {
	case c.JSON != nil || c.Text != "":
		text := c.Text
		if c.JSON != nil {
			text = c.shown()
		}
		l.add("var body = RequestBody.create(%s.getBytes(), MediaType.get(%s));", javaText(text), quoted(c.Type))
		body = "body"
	case c.Form != nil:
		l.add("var body = new FormBody.Builder()")
		for _, p := range c.Form {
			l.add("    .add(%s, %s)", quoted(p.Name), quoted(p.Value))
		}
		l.add("    .build();")
		body = "body"
	case c.Parts != nil:
		l.add("var body = new MultipartBody.Builder().setType(MultipartBody.FORM)")
		for _, p := range c.Parts {
			if p.File == "" {
				l.add("    .addFormDataPart(%s, %s)", quoted(p.Name), quoted(p.Value))
			} else {
				l.add("    .addFormDataPart(%s, %s, RequestBody.create(new File(%s), null))", quoted(p.Name), quoted(p.File), quoted(p.File))
			}
		}
		l.add("    .build();")
		body = "body"
	case c.Method == "POST" || c.Method == "PUT" || c.Method == "PATCH":
		body = "RequestBody.create(new byte[0], null)" // these have a body, if an empty one
	}
	before, secret := c.secretAddress()
	address := quoted(before)
	if secret != "" {
		address += ` + URLEncoder.encode(System.getenv("` + keyVariable + `"), StandardCharsets.UTF_8)`
	}
	l.add("var request = new Request.Builder()")
	l.add("    .url(%s)", address)
	l.add("    .method(%s, %s)", quoted(c.Method), body)
	for _, cr := range c.Credentials {
		switch cr.Kind {
		case Bearer:
			l.add(`    .header("Authorization", "Bearer " + System.getenv("%s"))`, tokenVariable)
		case Basic:
			l.add(`    .header("Authorization", Credentials.basic(System.getenv("%s"), System.getenv("%s")))`, nameVariable, passwordVariable)
		case KeyInHeader:
			l.add(`    .header(%s, System.getenv("%s"))`, quoted(cr.Name), keyVariable)
		}
	}
	for _, h := range c.Headers {
		l.add("    .header(%s, %s)", quoted(h.Name), quoted(h.Value))
	}
	if cookies := c.javaCookies(); len(cookies) > 0 {
		l.add(`    .header("Cookie", %s)`, strings.Join(cookies, ` + "; " + `))
	}
	l.add("    .build();")
	l.add("try (var answer = new OkHttpClient().newCall(request).execute()) {")
	l.add(`    System.out.println(answer.code() + " " + answer.body().string());`)
	l.add("}")
	return l.text()
}

// javaCookies are the cookies as expressions.
func (c *Call) javaCookies() []string {
	var all []string
	for _, cr := range c.Credentials {
		if cr.Kind == KeyInCookie {
			all = append(all, quoted(cr.Name+"=")+` + System.getenv("`+keyVariable+`")`)
		}
	}
	if t := c.cookieText(); t != "" {
		all = append(all, quoted(t))
	}
	return all
}
