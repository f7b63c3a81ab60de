package site

import (
	"bytes"
	"strings"

	"golang.org/x/net/html"
)

// moved is a page as it is sent to readers who reach the service below a path of another host: each of its own addresses begins there.
func (s *Site) moved(p page) page {
	if strings.Trim(s.public.Path, "/") == "" {
		return p
	}
	prefix := "/" + strings.Trim(s.public.Path, "/")
	for name, values := range p.header {
		switch name {
		case "Location":
			values[0] = below(prefix, values[0])
		case "Link":
			values[0] = strings.ReplaceAll(values[0], "</", "<"+prefix+"/")
		}
	}
	if strings.HasPrefix(p.header.Get("Content-Type"), "text/html") {
		p.body = rewritten(p.body, func(address string) string { return below(prefix, address) })
	}
	return p
}

// below puts a prefix before an address of the service itself.
func below(prefix, address string) string {
	if strings.HasPrefix(address, "/") && !strings.HasPrefix(address, "//") {
		return prefix + address
	}
	return address
}

// rewritten is a page with the addresses in its tags changed.
func rewritten(body []byte, by func(string) string) []byte {
	z := html.NewTokenizer(bytes.NewReader(body))
	var b bytes.Buffer
	for z.Next() != html.ErrorToken {
		raw := bytes.Clone(z.Raw())
		t := z.Token()
		changed := false
		if t.Type == html.StartTagToken || t.Type == html.SelfClosingTagToken {
			for i, a := range t.Attr {
				if a.Key == "href" || a.Key == "src" || a.Key == "action" {
					to := by(a.Val)
					changed = changed || to != a.Val
					t.Attr[i].Val = to
				}
			}
		}
		if changed {
			b.WriteString(t.String())
		} else {
			b.Write(raw)
		}
	}
	return b.Bytes()
}
