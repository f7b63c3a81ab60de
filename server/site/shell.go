package site

import (
	"html/template"
	"net/url"
	"strings"
)

// maxAbout is how long a page's description is that search engines show, in bytes.
const maxAbout = 155

var notInSentence = strings.NewReplacer("`", "", "*", "", "#", "", "[", "", "]", "")

// about is the beginning of what an author says, for search engines.
func about(text string) string {
	text, _, _ = strings.Cut(strings.TrimSpace(text), "\n\n")
	text = strings.Join(strings.Fields(notInSentence.Replace(text)), " ")
	if len(text) > maxAbout {
		text = text[:max(strings.LastIndexByte(text[:maxAbout], ' '), 0)] + " …"
	}
	return text
}

// begin is the beginning of every page, to where its header stands. f is nil for a page of no version.
func begin(title, text string, f *Frame) template.HTML {
	r := rows{f: f}
	r.put(`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>`)
	r.text(title)
	r.put("</title>\n")
	if brief := about(text); brief != "" {
		r.put(`<meta name="description" content="`)
		r.text(brief)
		r.put("\">\n")
	}
	looks := "/reference/looks.css"
	if f != nil {
		looks = "/reference/" + f.API.Name + "/looks.css"
		if f.Looks.Unlisted {
			r.put(`<meta name="robots" content="noindex">` + "\n")
		}
		if f.Embedded {
			r.put(`<base target="_blank">` + "\n")
		} else if f.Preview == "" && (f.Here == "overview" || f.Canonical != "" && !strings.HasPrefix(f.Here, "schema ")) {
			r.put(`<link rel="alternate" type="application/json+oembed" href="/oembed?url=`, url.QueryEscape(f.Base+f.Suffix()), `">`+"\n")
		}
	}
	r.put(`<link rel="stylesheet" href="/reference/assets/tokens.css">
<link rel="stylesheet" href="/reference/assets/site.css">
<link rel="stylesheet" href="`, looks, `">
<script defer src="/reference/assets/site.js"></script>
</head>
`)
	if f != nil && f.Embedded {
		r.put("<body class=\"embedded\">\n")
	} else {
		r.put("<body>\n<a class=\"skip\" href=\"#content\">To the content</a>\n")
	}
	return template.HTML(r.b.String())
}

// finish is the end of every page.
func finish(f *Frame) template.HTML {
	if f == nil || f.Looks.Footer == "" || f.Embedded {
		return "</body></html>\n"
	}
	return "<footer class=\"foot\">" + markdown(f.Looks.Footer) + "</footer></body></html>\n"
}

// top is the header of a version's pages: which version it is, and what leads elsewhere.
func top(f *Frame, house string) template.HTML {
	if f.Embedded {
		return ""
	}
	r := rows{f: f}
	api := "/reference/" + f.API.Name
	r.put(`<header class="top">
<a class="name" href="/reference/">`)
	if f.Looks.Logo != "" {
		r.put(`<img src="`)
		r.text(f.Looks.Logo)
		r.put(`" alt="`)
		r.text(house)
		r.put(`" height="28">`)
	} else {
		r.text(house)
	}
	r.put(`</a>
<a class="where" href="`, api, `/">`)
	r.text(f.Doc.Title)
	r.put(`</a>
<details class="switch"><summary>`, f.Version.Number, `</summary><ul>`)
	elsewhere := f.Elsewhere()
	for _, v := range f.Versions {
		r.put(`<li><a href="`, api, `/`, v.Number)
		r.text(elsewhere)
		r.put(`"`)
		if v.Number == f.Version.Number {
			r.put(` aria-current="true"`)
		}
		r.put(`>`, v.Number, `<small>`)
		switch {
		case v.Sunset != "":
			r.put("leaves ", day(v.Sunset))
		case v.State == "deprecated":
			r.put("deprecated")
		}
		r.put(`</small></a></li>`)
	}
	r.put("</ul></details>\n")
	if f.Version.State == "deprecated" {
		r.put(`<span class="grade hazard">! deprecated`)
		if f.Version.Sunset != "" {
			r.put(", leaves ", day(f.Version.Sunset))
		}
		r.put("</span>\n")
	}
	if f.Preview != "" {
		r.put(`<span class="grade editorial">· a preview, until `, day(f.Preview), "</span>\n")
	}
	r.put(`<span class="push"></span>
<form class="seek" action="`, f.Base, `/search" role="search"><input type="search" name="q" maxlength="200" placeholder="Search" autocomplete="off" aria-label="Search in `)
	r.text(f.Doc.Title)
	r.put(` `, f.Version.Number, `"></form>
<a class="narrow" href="#pages">Pages</a> <a href="`, f.Base, `/changes">Changes</a>`)
	if f.Guide != "" {
		r.put(` <a href="`, f.Guide, `">Guide</a>`)
	}
	r.put(` <a href="`, api, `/notices">Notices</a>
</header>
`)
	return template.HTML(r.b.String())
}
