package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/reliance"
	"oldledger/wire"
)

func (a *app) reliesCommand() *cobra.Command {
	var file string
	cmd := &cobra.Command{
		Use: "relies CONSUMER", GroupID: "use", Short: "Show or say what a consumer relies on", Args: cobra.ExactArgs(1),
		Long: `Shows what a consumer says that it relies on: operations, and of these the parameters that it sends and the parts of answers that it reads; and
the recordings that show it. With --file its developers say it, in place of what was said before; learn makes a first one of recorded exchanges.
What a consumer does not rely on, no change of it counts as touching it; what it does, breaks it already as a hazard.`,
		Example: "  oldledger relies skerry-planner\n  oldledger relies skerry-planner --file skerry-reads.yaml",
	}
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&file, "file", "", "the file that says it; - is standard input")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if file != "" {
			if err := a.sayReliance(cmd, args[0], file); err != nil {
				return err
			}
		}
		ask := func(c *client.Client) (wire.Reliance, error) { return c.Reliance(cmd.Context(), args[0]) }
		return answer(a, *format, ask, a.showReliance)
	}
	return cmd
}

func (a *app) sayReliance(cmd *cobra.Command, consumer, file string) error {
	var text []byte
	var err error
	if file == "-" {
		text, err = io.ReadAll(io.LimitReader(a.In, reliance.MaxBytes+1))
	} else if text, err = os.ReadFile(a.path(file)); err != nil {
		err = notRead(file, err)
	}
	if err != nil {
		return err
	}
	c, err := a.client()
	if err != nil {
		return err
	}
	return refused(c.SetReliance(cmd.Context(), consumer, string(text)))
}

func (a *app) showReliance(r wire.Reliance) error {
	s := a.style()
	var b strings.Builder
	if len(r.APIs) == 0 {
		fmt.Fprintf(&b, "%s says nothing of what it relies on; oldledger relies %s --file FILE does\n", s.bold(r.Consumer), r.Consumer)
	}
	for _, x := range r.APIs {
		of := x.API
		if x.Version != "" {
			of += "@" + x.Version
		}
		fmt.Fprintf(&b, "%-20s %s  %s\n", s.bold(of), counted(x.Operations, "operation"), s.soft("said by "+x.SaidBy+" on "+day(x.SaidAt)))
	}
	for _, x := range r.Recordings {
		fmt.Fprintf(&b, "%-20s %s\n", s.bold(x.API+"@"+x.Version), recordingWords(s, x))
	}
	if r.Text != "" {
		fmt.Fprintf(&b, "\n%s", r.Text)
	}
	return printf(a, "%s", b.String())
}

func recordingWords(s style, r wire.Recording) string {
	text := counted(r.Exchanges, "recorded exchange")
	if r.Guards {
		text += ", which the gate replays"
	}
	return text + "  " + s.soft("by "+r.AddedBy+" on "+day(r.AddedAt))
}

func (a *app) recordingCommand() *cobra.Command {
	var version string
	var guard, noGuard, drop bool
	cmd := &cobra.Command{
		Use: "recording CONSUMER [FILE.har]", GroupID: "use", Short: "Keep what a consumer was recorded to do, and have the gate replay it",
		Args: cobra.RangeArgs(1, 2),
		Long: `Keeps the exchanges of a consumer with an API, an HTTP archive (HAR 1.2; - is standard input), in place of those that were kept of both.
Credentials are masked before anything is kept; what is no call of the API, and what says the same as another exchange, is left out. Who keeps the
consumer may, and who may add calls of the API.

With --guard the gate of the API replays it: a version of the line that it was recorded at is not published while an exchange no longer
passes, unless that is waived. Without a file it says so of the recording that is kept.`,
		Example: `  oldledger recording skerry-planner skerry.har --version berths@1.2.0
  oldledger recording skerry-planner --version berths --guard
  oldledger recording skerry-planner --version berths --drop`,
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&version, "version", "", "the version that answered when it was recorded (berths@1.2.0); without a file the API")
	f.BoolVar(&guard, "guard", false, "have the gate replay it")
	f.BoolVar(&noGuard, "no-guard", false, "have the gate replay it no more")
	f.BoolVar(&drop, "drop", false, "take the recording away")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		api, number, _ := strings.Cut(version, "@")
		switch {
		case api == "":
			return usageError{errors.New("recording needs --version with the version that answered, such as berths@1.2.0")}
		case guard && noGuard || drop && (guard || noGuard || len(args) == 2):
			return usageError{errors.New("--guard, --no-guard and --drop exclude one another, and --drop takes no file")}
		case len(args) == 2 && number == "":
			return usageError{fmt.Errorf("--version names the version of %s that answered, such as %s@1.2.0", api, api)}
		case len(args) == 1 && !drop && !guard && !noGuard:
			return usageError{errors.New("name an archive, or say --guard, --no-guard or --drop of the recording that is kept")}
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		if len(args) == 2 {
			var said *bool
			if guard || noGuard {
				said = &guard
			}
			return a.keepRecording(cmd, c, args[0], args[1], api, number, said, *format)
		}
		if drop {
			if err := c.DropRecording(cmd.Context(), args[0], api); err != nil {
				return refused(err)
			}
			return printf(a, "the recording of %s with %s is gone\n", args[0], api)
		}
		if err := c.SetGuards(cmd.Context(), args[0], api, guard); err != nil {
			return refused(err)
		}
		if guard {
			return printf(a, "the gate of %s replays what %s was recorded to do\n", api, args[0])
		}
		return printf(a, "the gate of %s replays what %s was recorded to do no more\n", api, args[0])
	}
	return cmd
}

func (a *app) keepRecording(cmd *cobra.Command, c *client.Client, consumer, file, api, version string, guards *bool, format string) error {
	in := a.In
	if file != "-" {
		f, err := os.Open(a.path(file))
		if err != nil {
			return notRead(file, err)
		}
		defer f.Close()
		in = f
	}
	done := a.at("sending %s", file)
	added, err := c.AddRecording(cmd.Context(), consumer, api, version, guards, in)
	done()
	if err != nil {
		return refused(err)
	}
	ask := func(*client.Client) (wire.AddedRecording, error) { return added, nil }
	return answer(a, format, ask, func(r wire.AddedRecording) error {
		s := a.style()
		text := fmt.Sprintf("%s with %s: %s", s.bold(consumer), s.bold(api+"@"+version), recordingWords(s, r.Recording))
		if r.Alike > 0 {
			text += fmt.Sprintf("; left out as said already: %d", r.Alike)
		}
		if r.Elsewhere > 0 {
			text += fmt.Sprintf("; left aside as no calls of it: %d", r.Elsewhere)
		}
		for _, w := range r.Wrong[:min(len(r.Wrong), mostShown)] {
			text += fmt.Sprintf("\nentry %d is left out: %s", w.Entry, w.Why)
		}
		return printf(a, "%s\n", text)
	})
}
