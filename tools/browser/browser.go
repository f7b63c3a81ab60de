// Package browser starts headless Chromium for tests and pictures.
package browser

import (
	"context"
	"fmt"
	"io"
	"time"

	"github.com/chromedp/chromedp"

	"oldledger/core/value"
)

// New starts a browser window of a size. Its network is left to the pages it is sent to. Call stop at the end.
func New(parent context.Context, width, height int, log io.Writer) (ctx context.Context, stop func()) {
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.WindowSize(width, height),
		chromedp.NoSandbox,
		chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("hide-scrollbars", true),
		chromedp.CombinedOutput(log),
	)
	allocator, stopAllocator := chromedp.NewExecAllocator(parent, options...)
	ctx, stopBrowser := chromedp.NewContext(allocator)
	ctx, stopTime := context.WithTimeout(ctx, 5*time.Minute)
	return ctx, func() { stopTime(); stopBrowser(); stopAllocator() }
}

// Drop drops a file on the page's drop zone, as a person does with the mouse.
func Drop(ctx context.Context, name, content string) error {
	script := fmt.Sprintf(`(() => {
		const transfer = new DataTransfer();
		transfer.items.add(new File([%s], %s));
		return document.querySelector('.drop').dispatchEvent(new DragEvent('drop', {dataTransfer: transfer, bubbles: true, cancelable: true}));
	})()`, value.Str(content), value.Str(name))
	_, err := chromedp.Run(ctx, chromedp.Evaluate[bool](script))
	return err
}

// SignIn signs in to the console of the ledger at base.
func SignIn(base, name, password string) []chromedp.Action[chromedp.Void] {
	return []chromedp.Action[chromedp.Void]{
		chromedp.Navigate(base + "/console/"),
		chromedp.WaitVisible(chromedp.CSS("#name")),
		chromedp.SendKeys(chromedp.CSS("#name"), name),
		chromedp.SendKeys(chromedp.CSS("#password"), password+"\r"),
		chromedp.WaitVisible(chromedp.CSS("table.ruled")),
	}
}
