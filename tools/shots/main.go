// Command shots makes the pictures in docs/screenshots from a demo ledger that it starts: pages in headless Chromium, the
// terminal in a terminal window on a virtual screen.
package main

import (
	"bufio"
	"context"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"oldledger/demo"
	"oldledger/tools/browser"
)

// shot is one picture of a page.
type shot struct {
	name, path    string
	wait          string // what must be there before the picture is taken
	click         string // what is clicked before, "" for nothing
	scroll        bool   // whether what is waited for is scrolled to the middle
	until         string // an expression that holds when the picture can be taken, for pages that hold another page
	dark          bool
	width, height int
}

var shots = []shot{
	{name: "shelf", path: "/console/", wait: "table.ruled"},
	{name: "api", path: "/console/apis/berths", wait: "circle"},
	{name: "spread", path: "/console/apis/berths/compare/1.1.0..2.0.0", wait: ".pages td.line", click: ".changes li:nth-child(6) button"},
	{name: "replay", path: "/console/consumers/skerry-planner/replay/berths", wait: "[data-finding]"},
	{name: "gate", path: "/console/apis/berths/publish/2.1.0", wait: ".obstacle"},
	{name: "findings", path: "/console/apis/berths/findings/2.1.0", wait: "[data-rule=seasons-of-the-harbour]", height: 1000},
	{name: "readers", path: "/console/apis/pilotage/readers", wait: "[data-look]", height: 1100},
	{name: "leaving", path: "/console/apis/berths/leaving/1", wait: "path.pace"},
	{name: "reference-shelf", path: "/reference/", wait: "h1"},
	{name: "reference-overview", path: "/reference/berths/", wait: "h1"},
	{name: "reference", path: "/reference/berths/1.2.0/operations/bookBerth", wait: "h1"},
	{name: "reference-phone", path: "/reference/berths/1.2.0/operations/bookBerth", wait: "h1", width: 390, height: 844},
	{
		name: "wording", path: "/console/apis/berths/wording/2.0.0", click: "[data-preview]",
		until: "[document.querySelector('iframe')?.contentDocument].some(d => d?.querySelector('h1') && d.fonts.size > 0 && d.fonts.status === 'loaded' && [...d.fonts].some(f => f.status === 'loaded'))",
	},
	{name: "reference-changes", path: "/reference/berths/2.0.0/changes", wait: "h1"},
	{name: "guide", path: "/reference/berths/guides/1.2.0..2.0.0", wait: "h1"},
}

// terminals are the commands that are shown in a terminal, by the name of their picture.
var terminals = []struct {
	name, command string
	lines         int
}{
	{"terminal-compare", "oldledger compare demo/berths/1.2.0.yaml demo/berths/2.0.0.yaml", 114},
	{"terminal-lineup", "oldledger lineup demo/berths/*.yaml; echo; oldledger kinds response.enum-widened", 26},
	{"terminal-check", "cd docs/manual/examples && oldledger check slips-1.0.0.yaml --only well-formed", 56},
}

func main() {
	bin := flag.String("bin", "bin/oldledger", "the program")
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "make only the pictures whose names contain this")
	pages := flag.String("pages", "", "pictures of these pages instead, by their paths, a space between them")
	dark := flag.Bool("dark", false, "take the pictures of -pages on dark paper")
	width := flag.Int("width", 1280, "of the pictures of -pages")
	height := flag.Int("height", 800, "of the pictures of -pages")
	flag.Parse()
	if *pages != "" {
		shots, terminals, *only = nil, nil, "page"
		for i, p := range strings.Fields(*pages) {
			shots = append(shots, shot{name: fmt.Sprintf("page%d", i+1), path: p, wait: "h1", dark: *dark, width: *width, height: *height})
		}
	}
	if err := run(*bin, *out, *only); err != nil {
		log.Fatal(err)
	}
}

func run(bin, out, only string) error {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Minute)
	defer cancel()
	base, stop, err := startDemo(ctx, bin)
	if err != nil {
		return err
	}
	defer stop()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	page, stopBrowser := browser.New(ctx, 1280, 800, io.Discard)
	defer stopBrowser()
	if err := chromedp.Do(page, browser.SignIn(base, "imke", demo.Password)...); err != nil {
		return fmt.Errorf("sign in: %w", err)
	}
	for _, s := range shots {
		if !strings.Contains(s.name, only) {
			continue
		}
		if s.width == 0 {
			s.width, s.height = 1280, 800
		}
		png, err := picture(page, base, s)
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := os.WriteFile(filepath.Join(out, s.name+".png"), png, 0o644); err != nil {
			return err
		}
	}
	if strings.Contains("report", only) {
		if err := reportShot(ctx, bin, filepath.Join(out, "report.png")); err != nil {
			return fmt.Errorf("report: %w", err)
		}
	}
	for _, t := range terminals {
		if strings.Contains(t.name, only) {
			if err := terminal(ctx, bin, base, t.command, filepath.Join(out, t.name+".png"), t.lines); err != nil {
				return fmt.Errorf("%s: %w", t.name, err)
			}
		}
	}
	return nil
}

// reportShot takes a picture of a comparison as HTML, from a file as its readers open it.
func reportShot(ctx context.Context, bin, out string) error {
	text, err := exec.CommandContext(ctx, bin, "compare", "demo/berths/1.2.0.yaml", "demo/berths/2.0.0.yaml", "--format", "html").Output()
	if err != nil && len(text) == 0 {
		return err
	}
	file := filepath.Join(os.TempDir(), fmt.Sprintf("report-%d.html", os.Getpid()))
	if err := os.WriteFile(file, text, 0o600); err != nil {
		return err
	}
	defer os.Remove(file)
	return exec.CommandContext(ctx, "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--window-size=1280,800",
		"--screenshot="+out, "file://"+file).Run()
}

// picture shows a page and takes a picture once its fonts are there.
func picture(page context.Context, base string, s shot) ([]byte, error) {
	paper := "light"
	if s.dark {
		paper = "dark"
	}
	media := emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: paper}}}
	if _, err := chromedp.Call(page, emulation.SetEmulatedMedia, media); err != nil {
		return nil, err
	}
	if err := chromedp.Do(page, chromedp.EmulateViewport(int64(s.width), int64(s.height)), chromedp.Navigate(base+s.path)); err != nil {
		return nil, err
	}
	if s.until != "" {
		if s.click != "" {
			if err := chromedp.Do(page, chromedp.WaitVisible(chromedp.CSS(s.click)), chromedp.Click(chromedp.CSS(s.click))); err != nil {
				return nil, err
			}
		}
		if _, err := chromedp.Run(page, chromedp.Poll[bool]("!!("+s.until+")", chromedp.WithPollingTimeout(20*time.Second))); err != nil {
			return nil, err
		}
		return chromedp.Run(page, chromedp.CaptureScreenshot())
	}
	if err := chromedp.Do(page, chromedp.WaitVisible(chromedp.CSS(s.wait))); err != nil {
		return nil, err
	}
	if s.scroll {
		script := fmt.Sprintf(`document.querySelector(%q).scrollIntoView({block: 'center'}), true`, s.wait)
		if _, err := chromedp.Run(page, chromedp.Evaluate[bool](script)); err != nil {
			return nil, err
		}
	}
	if s.click != "" {
		if err := chromedp.Do(page, chromedp.Click(chromedp.CSS(s.click)), chromedp.WaitVisible(chromedp.CSS(s.wait))); err != nil {
			return nil, err
		}
	}
	if _, err := chromedp.Run(page, chromedp.Evaluate[bool](`document.fonts.ready.then(() => true)`, chromedp.EvalAwaitPromise)); err != nil {
		return nil, err
	}
	return chromedp.Run(page, chromedp.CaptureScreenshot())
}

// startDemo starts the demo on a free port and waits for its ready line.
func startDemo(ctx context.Context, bin string) (base string, stop func(), err error) {
	cmd := exec.CommandContext(ctx, bin, "demo", "--listen", "127.0.0.1:0")
	cmd.Stderr = os.Stderr
	pipe, err := cmd.StdoutPipe()
	if err != nil {
		return "", nil, err
	}
	if err := cmd.Start(); err != nil {
		return "", nil, err
	}
	lines := bufio.NewScanner(pipe)
	for lines.Scan() {
		if address, ok := strings.CutPrefix(lines.Text(), "ready "); ok {
			stop := func() {
				if err := cmd.Process.Signal(os.Interrupt); err != nil {
					log.Print(err)
				}
				if err := cmd.Wait(); err != nil {
					log.Print("demo: ", err)
				}
			}
			return strings.TrimSuffix(address, "/"), stop, nil
		}
	}
	return "", nil, fmt.Errorf("the demo did not get ready: %w", lines.Err())
}
