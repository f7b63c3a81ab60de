package cli

import (
	"fmt"
	"io"
	"time"

	"github.com/schollz/progressbar/v3"
)

// When a command says what it is at: on a terminal soon, where it is taken away again; elsewhere only when it takes long, on a line of its
// own.
const (
	soon  = 400 * time.Millisecond
	tick  = 120 * time.Millisecond
	long  = 5 * time.Second
	still = 30 * time.Second
)

// at says what the command is at until done is called. Of what is done at once, it says the first.
func (a *app) at(format string, args ...any) (done func()) {
	if !a.saying.CompareAndSwap(false, true) {
		return func() {}
	}
	what := fmt.Sprintf(format, args...)
	if a.Progress == nil {
		return a.running(func(ended <-chan struct{}) { a.say(what, ended) })
	}
	return a.running(func(ended <-chan struct{}) { turn(a.Progress, what, ended) })
}

// running runs something beside the work, and waits for its end when the work is done.
func (a *app) running(show func(ended <-chan struct{})) (done func()) {
	ended, over := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(over)
		show(ended)
	}()
	return func() {
		close(ended)
		<-over
		a.saying.Store(false)
	}
}

// say writes a line when something takes long, and another one while it goes on.
func (a *app) say(what string, ended <-chan struct{}) {
	began := time.Now()
	for wait := long; ; wait = still {
		select {
		case <-ended:
			return
		case <-time.After(wait):
			fmt.Fprintf(a.Err, "%s, for %d s\n", what, int(time.Since(began).Seconds()))
		}
	}
}

// turn shows something that moves, and takes it away at the end.
func turn(to io.Writer, what string, ended <-chan struct{}) {
	select {
	case <-ended:
		return
	case <-time.After(soon):
	}
	bar := progressbar.NewOptions(-1, progressbar.OptionSetWriter(to), progressbar.OptionSetDescription(what),
		progressbar.OptionSpinnerType(14),
		progressbar.OptionSetElapsedTime(true), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(10))
	ticks := time.NewTicker(tick)
	defer ticks.Stop()
	for {
		select {
		case <-ended:
			_ = bar.Finish() // it is an ornament: where it cannot be shown, the work is done all the same
			return
		case <-ticks.C:
			_ = bar.Add(1)
		}
	}
}

// through shows how far a text of so many bytes was read; of -1 nobody knows how many.
func (a *app) through(what string, size int64, text io.Reader) (read io.Reader, done func()) {
	if a.Progress == nil {
		return text, a.at("%s", what)
	}
	bar := progressbar.NewOptions64(size, progressbar.OptionSetWriter(a.Progress), progressbar.OptionSetDescription(what),
		progressbar.OptionShowBytes(true), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(20), progressbar.OptionThrottle(tick))
	return io.TeeReader(text, bar), func() { _ = bar.Finish() } // an ornament, as above
}
