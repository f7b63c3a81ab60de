package server_test

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/tools/browser"
)

// checked are pages of every kind.
var checked = []string{
	"/reference/", "/reference/berths/", "/reference/berths/1.2.0/operations/bookBerth", "/reference/berths/2.0.0/schemas/Booking",
	"/reference/berths/2.0.0/changes", "/reference/berths/2.0.0/search?q=berth", "/reference/sunsets",
	"/reference/berths/guides/1.1.0..1.2.0?use=bookBerth", "/reference/berths/1.2.0/source", "/reference/berths/notices",
	"/reference/berths/guides/1.1.0..2.0.0", "/reference/pilotage/1.1.0/operations/orderPilot", "/reference/dues/1.0.0/pages/what-dues-are",
	"/reference/berths/2.0.0/became/operations/cancelByLetter", "/embed/berths/2.0.0/operations/bookBerth", "/reference/nobody/",
	"/reference/search?q=length", "/manual/", "/manual/comparing", demo.LinkPath,
}

// seenAt are how pages are seen: at three widths, on light and on dark paper.
var seenAt = []struct {
	width int64
	paper string
}{{1280, "light"}, {768, "light"}, {390, "dark"}}

// TestAccess asks axe-core of every kind of page. The pages' own policy forbids the script; the test goes around it.
func TestAccess(t *testing.T) {
	t.Parallel() // beside the other that keeps a browser busy
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	base, l := startDemo(t)
	require.NoError(t, l.SetAudience(t.Context(), ledger.Itself, "pilotage", ledger.AudienceWish{
		Published: &ledger.Audience{ledger.LinkHolder, ledger.SignedIn},
	}))
	ctx := startBrowser(t, base, 1280, 800)
	do(t, ctx, browser.SignIn(base, "sanna", demo.Password)...)
	axe := axeCore(t)
	for _, path := range checked {
		for _, at := range seenAt {
			paper(t, ctx, at.paper)
			do(t, ctx, chromedp.EmulateViewport(at.width, 800), chromedp.Navigate(base+path), chromedp.WaitVisible(chromedp.CSS("h1")))
			assert.Equal(t, "[]", violations(t, ctx, axe), "%s at %d on %s paper", path, at.width, at.paper)
			assert.LessOrEqual(t, over(t, ctx), int64(0), "%s at a width of %d", path, at.width)
		}
	}
}

// axeCore is the program that looks for what keeps people out.
func axeCore(t *testing.T) string {
	t.Helper()
	axe, err := os.ReadFile("../console/node_modules/axe-core/axe.min.js")
	if err != nil && os.Getenv("OLDLEDGER_BROWSER") != "required" {
		t.Skip("needs axe-core: make test")
	}
	require.NoError(t, err)
	return string(axe)
}

// violations asks it of the page that is open.
func violations(t *testing.T, ctx context.Context, axe string) string {
	t.Helper()
	found, err := chromedp.Run(ctx, chromedp.Evaluate[string](axe+`;
		axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] }).then(r => JSON.stringify(r.violations.map(v => [v.id, v.nodes.slice(0, 3).map(n => n.html.slice(0, 200) + ' ' + n.failureSummary.slice(0, 300))])))`,
		chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	return found
}

// over is by how much the page is wider than its window.
func over(t *testing.T, ctx context.Context) int64 {
	t.Helper()
	by, err := chromedp.Run(ctx, chromedp.Evaluate[int64](`document.documentElement.scrollWidth - document.documentElement.clientWidth`))
	require.NoError(t, err)
	return by
}

// paper has pages shown on light or dark paper.
func paper(t *testing.T, ctx context.Context, name string) {
	t.Helper()
	_, err := chromedp.Call(ctx, emulation.SetEmulatedMedia,
		emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: name}}})
	require.NoError(t, err)
}

// TestValid holds the pages against the HTML standard.
func TestValid(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	tool := "../console/node_modules/.bin/html-validate"
	if _, err := os.Stat(tool); err != nil && os.Getenv("OLDLEDGER_BROWSER") != "required" {
		t.Skip("needs html-validate: make test")
	}
	base, _ := startDemo(t)
	dir := t.TempDir()
	rules, err := json.Marshal(map[string]any{"root": true, "extends": []string{"html-validate:standard"}, "rules": map[string]string{
		"no-trailing-whitespace": "off", "doctype-style": "off", "long-title": "off", "no-inline-style": "error", "void-style": "off",
		"require-sri": "off", "attr-quotes": "off", "no-implicit-button-type": "off", "prefer-native-element": "off",
	}})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, ".htmlvalidate.json"), rules, 0o644))
	args := []string{"--config", filepath.Join(dir, ".htmlvalidate.json")}
	for i, path := range checked {
		name := filepath.Join(dir, fmt.Sprintf("%02d.html", i))
		require.NoError(t, os.WriteFile(name, []byte(send(t, "GET", base+path, "", nil, nil).text), 0o644))
		args = append(args, name)
	}
	out, err := exec.Command(tool, args...).CombinedOutput()
	require.NoError(t, err, "%s", out)
}
