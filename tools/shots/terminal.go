package main

import (
	"context"
	"errors"
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
	const number = "97"
	screen := exec.CommandContext(ctx, "Xvfb", ":"+number, "-screen", "0", fmt.Sprintf("1000x%dx24", 12+lines*16))
	if err := screen.Start(); err != nil {
		return err
	}
	defer func() { _ = errors.Join(screen.Process.Kill(), screen.Wait()) }() // it was killed
	if err := appears(ctx, "/tmp/.X11-unix/X"+number); err != nil {
		return err
	}
	window := exec.CommandContext(ctx, "xterm", "-geometry", fmt.Sprintf("122x%d+0+0", lines), "-fa", "DejaVu Sans Mono", "-fs", "10",
		"-bg", "#fffdf8", "-fg", "#1c2331", "-tn", "xterm-256color", "-e", "bash", "-c", script)
	window.Env = append(os.Environ(), "DISPLAY=:"+number)
	if err := window.Start(); err != nil {
		return err
	}
	defer func() { _ = errors.Join(window.Process.Kill(), window.Wait()) }() // it was killed
	if err := appears(ctx, done); err != nil {
		return err
	}
	picture := exec.CommandContext(ctx, "import", "-window", "root", out)
	picture.Env = window.Env
	if text, err := picture.CombinedOutput(); err != nil {
		return fmt.Errorf("%w: %s", err, strings.TrimSpace(string(text)))
	}
	return nil
}

// appears waits for a file.
func appears(ctx context.Context, path string) error {
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	tick := time.NewTicker(100 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return fmt.Errorf("%s did not appear: %w", path, ctx.Err())
		case <-tick.C:
			if _, err := os.Stat(path); err == nil {
				<-tick.C // one more beat for what comes with it
				return nil
			}
		}
	}
}
