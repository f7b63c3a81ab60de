package server_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

var href = regexp.MustCompile(`href="(/[^"]*)"`)

// TestLinks follows every link of the published reference, from the shelf on: each leads to a page, and each anchor to
// something on it.
func TestLinks(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	pages := map[string]string{}
	from := map[string]string{"/reference/": "the shelf"}
	queue := []string{"/reference/"}
	for len(queue) > 0 {
		path := queue[0]
		queue = queue[1:]
		a := send(t, "GET", base+path, "", nil, nil)
		require.Equal(t, http.StatusOK, a.StatusCode, "%s, linked from %s", path, from[path])
		pages[path] = a.text
		if !strings.HasPrefix(a.Header.Get("Content-Type"), "text/html") {
			continue
		}
		for _, m := range href.FindAllStringSubmatch(a.text, -1) {
			target, _, _ := strings.Cut(m[1], "#")
			if _, known := from[target]; !known {
				from[target] = path
				queue = append(queue, target)
			}
		}
	}
	require.Greater(t, len(pages), 100)
	for path, page := range pages {
		for _, m := range href.FindAllStringSubmatch(page, -1) {
			if target, anchor, found := strings.Cut(m[1], "#"); found {
				require.Contains(t, pages[target], `id="`+anchor+`"`, "%s links to %s", path, m[1])
			}
		}
	}
}
