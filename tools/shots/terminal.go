package main

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// terminal runs a command in a terminal window on a virtual screen and takes a picture of it.
func terminal(ctx context.Context, bin, base, command, out string, lines int) error {
	home, err := os.MkdirTemp("", "oldledger-shots-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(home)
	where, err := filepath.Abs(filepath.Dir(bin))
	if err != nil {
		return err
	}
	done := filepath.Join(home, "done")
	script := fmt.Sprintf("export OLDLEDGER_URL=%s OLDLEDGER_HOME=%s PATH=%s:$PATH; echo saltmere-demo | oldledger sign-in --name imke >/dev/null; clear; echo '$ %s'; %s; touch %s; sleep 20",
		base, home, where, command, command, done)
	const display = ":97"
	screen := exec.CommandContext(ctx, "Xvfb", display, "-screen", "0", fmt.Sprintf("1000x%dx24", 12+lines*16))
	if err := screen.Start(); err != nil {
		return err
	}
	defer func() { screen.Process.Kill(); screen.Wait() }()
	window := exec.CommandContext(ctx, "xterm", "-geometry", fmt.Sprintf("122x%d+0+0", lines), "-fa", "DejaVu Sans Mono", "-fs", "10",
		"-bg", "#fffdf8", "-fg", "#1c2331", "-xrm", "XTerm*colorMode: true", "-tn", "xterm-256color", "-e", "bash", "-c", script)
	window.Env = append(os.Environ(), "DISPLAY="+display)
	if err := started(ctx, window, done); err != nil {
		return err
	}
	defer func() { window.Process.Kill(); window.Wait() }()
	picture := exec.CommandContext(ctx, "import", "-window", "root", out)
	picture.Env = window.Env
	if text, err := picture.CombinedOutput(); err != nil {
		return fmt.Errorf("%w: %s", err, strings.TrimSpace(string(text)))
	}
	return nil
}

// started starts the window, once more while the screen is not up, and waits for its command to end.
func started(ctx context.Context, window *exec.Cmd, done string) error {
	again := *window
	if err := window.Start(); err != nil {
		return err
	}
	ended := make(chan error, 1)
	go func() { ended <- window.Wait() }()
	tick := time.NewTicker(50 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-ended:
			*window = again
			window.Process = nil
			return started(ctx, window, done)
		case <-tick.C:
			if _, err := os.Stat(done); err == nil {
				<-tick.C // one more beat for the window to draw
				return nil
			}
		}
	}
}
