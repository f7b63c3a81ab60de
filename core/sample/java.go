package sample

import "strings"

// java writes a call with java.net.http, as the inside of a method.
func java(c *Call) string {
	var l lines
	publisher := "HttpRequest.BodyPublishers.noBody()"
	switch {
	case c.JSON != nil || c.Text != "":
		text := c.Text
		if c.JSON != nil {
			text = c.shown()
		}
		l.add("var body = %s;", javaText(text))
		publisher = "HttpRequest.BodyPublishers.ofString(body)"
	case c.Form != nil:
		l.add("var body = Stream.of(new String[][] {")
		for _, p := range c.Form {
			l.add("    {%s, %s},", quoted(p.Name), quoted(p.Value))
		}
		l.add("}).map(p -> p[0] + \"=\" + URLEncoder.encode(p[1], StandardCharsets.UTF_8)).collect(Collectors.joining(\"&\"));")
		publisher = "HttpRequest.BodyPublishers.ofString(body)"
	case c.Parts != nil:
		l.add("var boundary = \"part-\" + UUID.randomUUID();")
		l.add("var body = new ByteArrayOutputStream();")
		for _, p := range c.Parts {
			name := inside(p.Name)
			if p.File == "" {
				l.add(`body.write(("--" + boundary + "\r\nContent-Disposition: form-data; name=\"%s\"\r\n\r\n" + %s + "\r\n").getBytes());`, name,
					quoted(p.Value))
				continue
			}
			l.add(`body.write(("--" + boundary + "\r\nContent-Disposition: form-data; name=\"%s\"; filename=\"%s\"\r\n\r\n").getBytes());`, name,
				inside(p.File))
			l.add("body.write(Files.readAllBytes(Path.of(%s)));", quoted(p.File))
			l.add(`body.write("\r\n".getBytes());`)
		}
		l.add(`body.write(("--" + boundary + "--\r\n").getBytes());`)
		publisher = "HttpRequest.BodyPublishers.ofByteArray(body.toByteArray())"
	}
	before, secret := c.secretAddress()
	address := quoted(before)
	if secret != "" {
		address += ` + URLEncoder.encode(System.getenv("` + keyVariable + `"), StandardCharsets.UTF_8)`
	}
	l.add("var request = HttpRequest.newBuilder(URI.create(%s))", address)
	l.add("    .method(%s, %s)", quoted(c.Method), publisher)
	for _, cr := range c.Credentials {
		switch cr.Kind {
		case Bearer:
			l.add(`    .header("Authorization", "Bearer " + System.getenv("%s"))`, tokenVariable)
		case Basic:
			l.add(`    .header("Authorization", "Basic " + Base64.getEncoder().encodeToString((System.getenv("%s") + ":" + System.getenv("%s")).getBytes()))`,
				nameVariable, passwordVariable)
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
	switch {
	case c.Parts != nil:
		l.add(`    .header("Content-Type", "multipart/form-data; boundary=" + boundary)`)
	case c.Type != "":
		l.add(`    .header("Content-Type", %s)`, quoted(c.Type))
	}
	l.add("    .build();")
	l.add("var answer = HttpClient.newHttpClient().send(request, HttpResponse.BodyHandlers.ofString());")
	l.add(`System.out.println(answer.statusCode() + " " + answer.body());`)
	return l.text()
}

// javaText writes a text of several lines as a text block (Java 15), where nothing in it needs an escape.
func javaText(text string) string {
	if !strings.Contains(text, "\n") || strings.ContainsAny(text, "\\\r\t") || strings.Contains(text, `"""`) || strings.HasSuffix(text, `"`) {
		return quoted(text)
	}
	return "\"\"\"\n    " + strings.ReplaceAll(text, "\n", "\n    ") + `"""`
}

// inside is a text as it stands within double quotes.
func inside(text string) string {
	q := quoted(text)
	return q[1 : len(q)-1]
}
