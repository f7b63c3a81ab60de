// Package cli is the command line of Old Ledger: words in, calls to client or core, text out.
//
// Results go to standard output, everything else to standard error. The exit status is 0 for fine, 1 when the answer
// is no (a breaking change, a gate that is shut), 2 for wrong usage, 3 when an input cannot be read or is no valid
// description, 4 when the ledger refused or cannot be reached.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"oldledger/core/source"
)

// The exit statuses.
const (
	statusFine    = 0
	statusNo      = 1
	statusUsage   = 2
	statusInput   = 3
	statusRefused = 4
)

// Environment is what a command sees of the machine it runs on.
type Environment struct {
	In       io.Reader
	Out, Err io.Writer
	Getenv   func(string) string
	Dir      string // where relative paths begin
	Now      func() time.Time
	Color    bool // whether Out is a terminal that shows colour
	Width    int  // columns of the terminal; 0 where there is none
}

// System is the machine itself.
func System() Environment {
	w := Environment{In: os.Stdin, Out: os.Stdout, Err: os.Stderr, Getenv: os.Getenv, Dir: ".", Now: time.Now}
	if w.Color, w.Width = terminal(os.Stdout); w.Color {
		w.Out = &plain{to: os.Stdout}
	}
	if shows, _ := terminal(os.Stderr); shows {
		w.Err = &plain{to: os.Stderr}
	}
	if w.Getenv("NO_COLOR") != "" {
		w.Color = false
	}
	return w
}

// Main runs one command, which a signal can stop, and returns its exit status.
func Main(args []string, w Environment) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	return Run(ctx, args, w)
}

// Run runs one command until it ends or ctx does, and returns its exit status.
func Run(ctx context.Context, args []string, w Environment) int {
	a := &app{Environment: w}
	root := a.root()
	root.SetArgs(args)
	root.SetIn(w.In)
	root.SetOut(w.Out)
	root.SetErr(w.Err)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return statusFine
	}
	return a.fail(err)
}

// errNo ends a command whose output already says everything.
var errNo = errors.New("the answer is no")

// usageError is a command that was called wrongly.
type usageError struct{ error }

func (a *app) fail(err error) int {
	var wrong source.Diagnostics
	var input *inputError
	var refused *refusedError
	var usage usageError
	switch {
	case errors.Is(err, errNo):
		return statusNo
	case errors.As(err, &wrong):
		fmt.Fprintln(a.Err, wrong)
		return statusInput
	case errors.As(err, &input):
		fmt.Fprintln(a.Err, input)
		return statusInput
	case errors.As(err, &refused):
		fmt.Fprintln(a.Err, refused)
		return statusRefused
	case errors.As(err, &usage) || isUsage(err):
		fmt.Fprintf(a.Err, "%v\nSee oldledger --help.\n", err)
		return statusUsage
	}
	fmt.Fprintln(a.Err, err)
	return statusRefused
}

// isUsage recognises what Cobra says of a wrong call.
func isUsage(err error) bool {
	for _, begin := range []string{
		"unknown command", "unknown flag", "unknown shorthand", "accepts ", "requires ", "flag needs",
		"invalid argument", "required flag", "if any flags", "bad flag",
	} {
		if strings.HasPrefix(err.Error(), begin) {
			return true
		}
	}
	return false
}

// inputError is an input that cannot be read.
type inputError struct{ error }

// refusedError is what the ledger did not do.
type refusedError struct{ error }

func (e *refusedError) Unwrap() error { return e.error }

// app is the command line with what its commands share.
type app struct {
	Environment
	ledger string // the address of the ledger
	below  string // the folder that the files of a description come from
}

func (a *app) root() *cobra.Command {
	root := &cobra.Command{
		Use:   "oldledger",
		Short: "The ledger of a company's API descriptions",
		Long: `Old Ledger records every version of every API description, shows exactly what a new version does to those who
already call the API, and publishes reference documentation with deprecation notices and migration guides.

Wherever REF stands, a version in the ledger (berths@1.4.0, berths@1, berths@latest), a file or - fits.`,
		SilenceUsage: true, SilenceErrors: true,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return cmd.Help() },
	}
	root.PersistentFlags().StringVar(&a.below, "root", "",
		"folder that the files of a description come from (default: the folder of its first file)")
	root.PersistentFlags().StringVar(&a.ledger, "ledger", "", "address of the ledger (OLDLEDGER_URL)")
	root.AddGroup(&cobra.Group{ID: "look", Title: "Read and compare:"}, &cobra.Group{ID: "act", Title: "Record, publish, announce:"},
		&cobra.Group{ID: "reference", Title: "The reference:"}, &cobra.Group{ID: "run", Title: "Run a ledger:"})
	root.AddCommand(
		a.compareCommand(), a.checkCommand(), a.lineupCommand(), a.kindsCommand(), a.bundleCommand(), a.convertCommand(), a.guideCommand(),
		a.writeGuideCommand(), a.historyCommand(), a.journalCommand(), a.listCommand(), a.waitingCommand(), a.showCommand(),
		a.recordCommand(), a.publishCommand(), a.deprecateCommand(), a.amendCommand(), a.settleCommand(), a.discardCommand(), a.headersCommand(),
		a.signInCommand(),
		a.rewordCommand(), a.looksCommand(), a.pictureCommand(), a.previewCommand(), a.exportCommand(), a.unpublishCommand(), a.retireCommand(),
		a.serveCommand(), a.demoCommand(), a.versionCommand(),
	)
	return root
}
