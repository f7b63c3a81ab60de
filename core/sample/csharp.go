package sample

import "strings"

// cSharp writes a call with HttpClient, as a program of top-level statements.
func cSharp(c *Call) string {
	var l lines
	before, secret := c.secretAddress()
	address := quoted(before)
	env := func(name string) string { return `Environment.GetEnvironmentVariable("` + name + `")` }
	if secret != "" {
		address += " + Uri.EscapeDataString(" + env(keyVariable) + "!)"
	}
	l.add("using var client = new HttpClient();")
	l.add("using var request = new HttpRequestMessage(new HttpMethod(%s), %s);", quoted(c.Method), address)
	var cookies []string
	for _, cr := range c.Credentials {
		switch cr.Kind {
		case Bearer:
			l.add(`request.Headers.Add("Authorization", "Bearer " + %s);`, env(tokenVariable))
		case Basic:
			l.add(`request.Headers.Add("Authorization", "Basic " + Convert.ToBase64String(Encoding.UTF8.GetBytes(%s + ":" + %s)));`,
				env(nameVariable), env(passwordVariable))
		case KeyInHeader:
			l.add("request.Headers.Add(%s, %s);", quoted(cr.Name), env(keyVariable))
		case KeyInCookie:
			cookies = append(cookies, quoted(cr.Name+"=")+" + "+env(keyVariable))
		}
	}
	for _, h := range c.Headers {
		l.add("request.Headers.TryAddWithoutValidation(%s, %s);", quoted(h.Name), quoted(h.Value))
	}
	if t := c.cookieText(); t != "" {
		cookies = append(cookies, quoted(t))
	}
	if len(cookies) > 0 {
		l.add(`request.Headers.Add("Cookie", %s);`, strings.Join(cookies, ` + "; " + `))
	}
	switch {
	case c.JSON != nil || c.Text != "":
		l.add("request.Content = new StringContent(%s);", sharpText(c))
		l.add("request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse(%s);", quoted(c.Type))
	case c.Form != nil:
		l.add("request.Content = new FormUrlEncodedContent(new KeyValuePair<string, string>[] {")
		for _, p := range c.Form {
			l.add("    new(%s, %s),", quoted(p.Name), quoted(p.Value))
		}
		l.add("});")
	case c.Parts != nil:
		l.add("request.Content = new MultipartFormDataContent {")
		for _, p := range c.Parts {
			if p.File == "" {
				l.add("    { new StringContent(%s), %s },", quoted(p.Value), quoted(p.Name))
			} else {
				l.add("    { new StreamContent(File.OpenRead(%s)), %s, %s },", quoted(p.File), quoted(p.Name), quoted(p.File))
			}
		}
		l.add("};")
	}
	l.add("using var answer = await client.SendAsync(request);")
	l.add(`Console.WriteLine($"{(int)answer.StatusCode} {await answer.Content.ReadAsStringAsync()}");`)
	return l.text()
}

// sharpText writes the body as a raw literal (C# 11), where it has several lines.
func sharpText(c *Call) string {
	if c.JSON == nil || strings.Contains(c.shown(), `"""`) || !strings.Contains(c.shown(), "\n") {
		return quoted(c.bodyText())
	}
	return "\"\"\"\n    " + c.indented("    ") + "\n    \"\"\""
}
