// Package cli is the command line of Old Ledger: words in, calls to client or core, text out.
//
// Results go to standard output, everything else to standard error. The exit status is 0 for fine, 1 when the answer
// is no (a breaking change, a gate that is shut), 2 for wrong usage, 3 when a file cannot be read or written, or is no valid
// description, 4 when the ledger refused or cannot be reached, 130 when somebody interrupted.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/project"
	"oldledger/core/source"
)

// The exit statuses.
const (
	statusFine        = 0
	statusNo          = 1
	statusUsage       = 2
	statusInput       = 3
	statusRefused     = 4
	statusInterrupted = 130 // as shells have it: 128 and the number of the signal
)

// statuses tells them, below the help of every command.
const statuses = `Exit status: 0 fine · 1 the answer is no: something breaks, a gate is shut · 2 wrong usage · 3 a file is no description, or this machine does
not do what is asked (read, write, listen) · 4 the ledger refuses, or cannot be reached · 130 interrupted
`

// Environment is what a command sees of the machine it runs on.
type Environment struct {
	In       io.Reader
	Out, Err io.Writer
	Getenv   func(string) string
	Dir      string // where relative paths begin
	Now      func() time.Time
	Progress io.Writer // the terminal on which long work is shown; nil where there is none
	Color    bool      // whether Out is a terminal that shows colour
	Width    int       // columns of the terminal; 0 where there is none
}

// System is the machine itself.
func System() Environment {
	w := Environment{In: os.Stdin, Out: os.Stdout, Err: os.Stderr, Getenv: os.Getenv, Dir: ".", Now: time.Now}
	if w.Color, w.Width = terminal(os.Stdout); w.Color {
		w.Out = &plain{to: os.Stdout}
	}
	if shows, _ := terminal(os.Stderr); shows {
		w.Err, w.Progress = &plain{to: os.Stderr}, os.Stderr
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
	context.AfterFunc(ctx, stop) // who interrupts again means at once
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
	cmd, err := root.ExecuteContextC(ctx)
	switch {
	case err == nil:
		return statusFine
	case ctx.Err() != nil:
		fmt.Fprintln(a.Err, "interrupted: "+a.undone(cmd))
		return statusInterrupted
	}
	return a.fail(err)
}

// undone says what was not done when somebody interrupts a command.
func (a *app) undone(cmd *cobra.Command) string {
	switch {
	case a.writing != "":
		return a.writing + " is not whole"
	case a.asked && (cmd.GroupID == "act" || cmd.GroupID == "reference" && cmd.Name() != "export"):
		return "the ledger was asked already, so it may have been done all the same; oldledger journal tells"
	}
	return "nothing was changed, and nothing was written"
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
		var said *client.Refusal
		if errors.As(err, &said) {
			fmt.Fprintln(a.Err, "the ledger refuses:", refused)
		} else {
			fmt.Fprintln(a.Err, refused) // it cannot be reached, or answers nothing that can be read
		}
		return statusRefused
	case errors.As(err, &usage) || isUsage(err):
		fmt.Fprintf(a.Err, "%v\nSee oldledger --help.\n", err)
		return statusUsage
	}
	fmt.Fprintln(a.Err, err)
	return statusInput
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

	// The project file, read once.
	ours    sync.Once
	says    *project.Project
	saysNot error

	// How far a command has come, for whoever interrupts it.
	command string // as it was called
	asked   bool   // whether the ledger was asked for something
	writing string // what is being written to

	saying atomic.Bool // whether it is being said what the command is at
}

func (a *app) root() *cobra.Command {
	root := &cobra.Command{
		Use:   "oldledger",
		Short: "The ledger of a company's API descriptions",
		Long: `Old Ledger records every version of every API description, shows exactly what a new version does to those who
already call the API, and publishes reference documentation with deprecation notices and migration guides.

Wherever REF stands, a version in the ledger (berths@1.4.0, berths@1, berths@latest), a file or - fits.`,
		Example:      "  oldledger demo\n  oldledger compare demo/berths/1.2.0.yaml demo/berths/2.0.0.yaml",
		SilenceUsage: true, SilenceErrors: true,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return cmd.Help() },
		PersistentPreRun: func(cmd *cobra.Command, args []string) {
			a.command = strings.Join(append([]string{cmd.Name()}, args...), " ")
		},
	}
	root.PersistentFlags().StringVar(&a.below, "root", "",
		"folder that the files of a description come from (default: the folder of its first file)")
	root.PersistentFlags().StringVar(&a.ledger, "ledger", "", "address of the ledger (OLDLEDGER_URL)")
	root.SetHelpTemplate(root.HelpTemplate() + "\n" + statuses)
	root.AddGroup(&cobra.Group{ID: "look", Title: "Read and compare:"}, &cobra.Group{ID: "act", Title: "Record, publish, announce:"},
		&cobra.Group{ID: "use", Title: "Who calls, and what may go:"}, &cobra.Group{ID: "reference", Title: "The reference:"}, &cobra.Group{ID: "run", Title: "Run a ledger:"})
	root.AddCommand(
		a.compareCommand(), a.checkCommand(), a.rulesCommand(), a.styleCommand(), a.lineupCommand(), a.kindsCommand(),
		a.bundleCommand(), a.convertCommand(), a.guideCommand(),
		a.writeGuideCommand(), a.historyCommand(), a.journalCommand(), a.listCommand(), a.waitingCommand(), a.showCommand(),
		a.initCommand(), a.recordCommand(), a.publishCommand(), a.deprecateCommand(), a.amendCommand(), a.settleCommand(), a.callingCommand(),
		a.tallyCommand(), a.logsCommand(), a.usesCommand(), a.unmatchedCommand(),
		a.replayCommand(), a.learnCommand(), a.reliesCommand(), a.recordingCommand(), a.reportCommand(),
		a.consumersCommand(), a.consumerCommand(), a.impactCommand(), a.readyCommand(),
		a.plansCommand(), a.askCommand(), a.requestsCommand(), a.grantsCommand(), a.credentialCommand(), a.carryOverCommand(),
		a.audienceCommand(), a.linkCommand(), a.linksCommand(), a.feedCommand(), a.shelvesCommand(), a.shelfCommand(), a.placeCommand(),
		a.discardCommand(), a.headersCommand(),
		a.signInCommand(), a.teamsCommand(), a.peopleCommand(), a.teamCommand(), a.personCommand(), a.readmitCommand(),
		a.tokensCommand(), a.tokenCommand(),
		a.rewordCommand(), a.looksCommand(), a.pictureCommand(), a.previewCommand(), a.exportCommand(), a.unpublishCommand(), a.retireCommand(),
		a.serveCommand(), a.demoCommand(), a.versionCommand(),
	)
	a.complete(root)
	return root
}
