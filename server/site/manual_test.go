package site

import (
	"encoding/json"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestManual reads the manual as the service shows it: every link of every page leads somewhere.
func TestManual(t *testing.T) {
	t.Parallel()
	_, h := newSite(t, small)
	contents := get(t, h, "/manual/").Body.String()
	require.Contains(t, contents, `<a href="/manual/comparing">Comparing</a>`)
	require.Equal(t, strings.Count(contents, "<h2>"), strings.Count(contents, "</h2><div class=\"d\"><p>"), "each page says first what it is about")
	var entries []manualEntry
	require.NoError(t, json.Unmarshal(get(t, h, "/manual/contents.json").Body.Bytes(), &entries))
	require.Greater(t, len(entries), 40)
	links := regexp.MustCompile(`(?:href|src)="([^"]*)"`)
	ids := regexp.MustCompile(` id="([^"]*)"`)
	pages := map[string]string{}
	for _, e := range entries {
		page, anchor, _ := strings.Cut(e.Address, "#")
		if pages[page] == "" {
			w := get(t, h, page)
			require.Equal(t, http.StatusOK, w.Code, page)
			pages[page] = w.Body.String()
		}
		if anchor != "" {
			require.Contains(t, pages[page], ` id="`+anchor+`"`, e.Address)
		}
	}
	for page, text := range pages {
		known := map[string]bool{}
		for _, id := range ids.FindAllStringSubmatch(text, -1) {
			require.False(t, known[id[1]], "%s has %s twice", page, id[1])
			known[id[1]] = true
		}
		for _, m := range links.FindAllStringSubmatch(text, -1) {
			to, anchor, _ := strings.Cut(m[1], "#")
			switch {
			case to == "" && anchor != "":
				require.True(t, known[anchor], "%s has no %s", page, m[1])
			case strings.HasPrefix(to, "/manual/"):
				w := get(t, h, to)
				require.Equal(t, http.StatusOK, w.Code, "%s leads to %s", page, m[1])
				if anchor != "" {
					require.Contains(t, w.Body.String(), ` id="`+anchor+`"`, "%s leads to %s", page, m[1])
				}
			default:
				require.Regexp(t, `^(/console/$|/reference/|/api/v1/description.yaml$|https://[a-z.]+\.(example|org|com)/?)`, to, page)
			}
		}
	}
	for _, lost := range []string{"/manual/nothing", "/manual/../manual.go", "/manual/examples", "/manual/comparing.md"} {
		require.Equal(t, http.StatusNotFound, get(t, h, lost).Code, lost)
	}
	require.Equal(t, "text/plain; charset=utf-8", get(t, h, "/manual/examples/slips-1.0.0.yaml").Header().Get("Content-Type"))
}

// TestHelpLeads finds the pages and sections of the manual to which the console's help leads.
func TestHelpLeads(t *testing.T) {
	t.Parallel()
	pages, err := readManual()
	require.NoError(t, err)
	known := map[string]bool{}
	for _, p := range pages {
		known[p.Name] = true
		for _, s := range p.Sections {
			known[p.Name+"#"+s.ID] = true
		}
	}
	help := regexp.MustCompile(`<HelpLink to="([^"]*)"|help: '([^']*)'|href="/manual/([^"]*)"`)
	leads := 0
	require.NoError(t, filepath.WalkDir("../../console/src", func(path string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() {
			return err
		}
		text, err := os.ReadFile(path)
		for _, m := range help.FindAllStringSubmatch(string(text), -1) {
			leads++
			require.True(t, known[m[1]+m[2]+m[3]], "%s leads to %s", path, m[1]+m[2]+m[3])
		}
		return err
	}))
	require.Greater(t, leads, 20)
}
