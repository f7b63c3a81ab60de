package sample

import "strings"

// curl writes a call for a POSIX shell.
func curl(c *Call) string {
	first := "curl"
	if c.Method != "GET" {
		first += " -X " + c.Method
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
			all = append(all, `-H "`+cr.Name+`: $`+keyVariable+`"`)
		case KeyInCookie:
			all = append(all, `-b "`+cr.Name+`=$`+keyVariable+`"`)
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
		if p.File != "" {
			all = append(all, "-F "+word(p.Name+"=@"+p.File))
		} else {
			all = append(all, "--form-string "+word(p.Name+"="+p.Value))
		}
	}
	return strings.Join(all, " \\\n  ")
}

// word quotes a text as one word of a POSIX shell.
func word(text string) string {
	return "'" + strings.ReplaceAll(text, "'", `'\''`) + "'"
}
