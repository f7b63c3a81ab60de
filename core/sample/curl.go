package sample

import "strings"

// curl writes a call for a POSIX shell.
func curl(c *Call) string {
	first := "curl"
	if c.Method != "GET" {
		first += " -X " + methodWord(c.Method)
	}
	before, secret := c.secretAddress()
	if secret != "" {
		first += " " + word(before) + `"$` + keyVariable + `"`
	} else {
		first += " " + word(before)
	}
	all := []string{first}
	for _, cr := range c.Credentials {
		switch cr.Kind {
		case Bearer:
			all = append(all, `-H "Authorization: Bearer $`+tokenVariable+`"`)
		case Basic:
			all = append(all, `-u "$`+nameVariable+`:$`+passwordVariable+`"`)
		case KeyInHeader:
			all = append(all, "-H "+withKey(cr.Name+": "))
		case KeyInCookie:
			all = append(all, "-b "+withKey(cr.Name+"="))
		}
	}
	for _, h := range c.Headers {
		all = append(all, "-H "+word(h.Name+": "+h.Value))
	}
	if len(c.Cookies) > 0 {
		all = append(all, "-b "+word(c.cookieText()))
	}
	if t := c.contentType(); t != "" {
		all = append(all, "-H "+word("Content-Type: "+t))
	}
	switch {
	case c.JSON != nil:
		all = append(all, "--data-raw "+word(c.shown()))
	case c.Text != "":
		all = append(all, "--data-raw "+word(c.Text))
	}
	for _, p := range c.Form {
		all = append(all, "--data-urlencode "+word(p.Name+"="+p.Value))
	}
	for _, p := range c.Parts {
		name := strings.ReplaceAll(p.Name, "=", "_") // curl has no way to write one in a name
		if p.File != "" {
			all = append(all, "-F "+word(name+"=@"+p.File))
		} else {
			all = append(all, "--form-string "+word(name+"="+p.Value))
		}
	}
	return strings.Join(all, " \\\n  ")
}

// methodWord is a method as a word of a POSIX shell: as it is where it is made of letters.
func methodWord(method string) string {
	if strings.Trim(method, "ABCDEFGHIJKLMNOPQRSTUVWXYZ-") == "" {
		return method
	}
	return word(method)
}

// withKey is a text with the reader's key behind it, as one word of a POSIX shell. What the shell would read in double quotes stays out of
// them.
func withKey(text string) string {
	if strings.ContainsAny(text, "\"\\$`!\n") {
		return word(text) + `"$` + keyVariable + `"`
	}
	return `"` + text + "$" + keyVariable + `"`
}

// word quotes a text as one word of a POSIX shell.
func word(text string) string {
	return "'" + strings.ReplaceAll(text, "'", `'\''`) + "'"
}
