package report

import (
	"html/template"
	"strings"

	"oldledger/core/commonmark"
)

var article = template.Must(template.New("article").Parse(`<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{.Title}}</title><style>{{.Style}}</style></head>
<body><main class="article">{{.Body}}</main></body></html>
`))

// Article writes a text in CommonMark, with tables, as one HTML page that needs nothing else. HTML within the text is left out.
func Article(title, markdown string) (string, error) {
	body, err := commonmark.HTML(markdown)
	if err != nil {
		return "", err
	}
	var page strings.Builder
	err = article.Execute(&page, struct {
		Title string
		Style template.CSS
		Body  template.HTML
	}{title, template.CSS(styleSheet), template.HTML(body)})
	return page.String(), err
}
