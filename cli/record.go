package cli

import (
	"context"
	"errors"
	"fmt"
	"path"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/report"
	"oldledger/core/source"
	"oldledger/wire"
)

// recordWish is how descriptions are recorded.
type recordWish struct {
	dry, wait, all     bool
	api, version, team string
	message, history   string
	origin             wire.Origin
	format             string
}

func (a *app) recordCommand() *cobra.Command {
	var w recordWish
	cmd := &cobra.Command{
		Use: "record [FILE|FOLDER ...]", GroupID: "act", Short: "Record versions of descriptions as drafts", Args: cobra.ArbitraryArgs,
		Long: `Records descriptions: those that are named, with --all every one that stands in a folder, without arguments those of the APIs of the project
file. The API of one is that of the project file, or the one that info.x-ledger-name names, else one called after the title; its version is
info.version; --api and --version set both. The same content again is the same version; a published version never changes.

With --wait or --dry-run the exit status is the gate's answer: 1 where one would be shut. --format markdown, junit and sarif write for reviews and
build servers what keeps gates shut. Of a thousand descriptions one that cannot be recorded holds none of the others up; whoever goes on
after an interruption begins anew, and what is recorded is not recorded twice.

--history takes files of one API for the versions that it has had: they are published in their order, and what breaks a promise is let through
for the reason that is given, for it has happened.

A recording keeps why it was made and where it came from: --message and --origin, or OLDLEDGER_MESSAGE and OLDLEDGER_ORIGIN in a pipeline.`,
		Example: `  oldledger record berths.yaml --message 'Bookings say who held them.' --origin from=quayside/berths,commit=4f1c2a9
  oldledger record --wait --format markdown
  oldledger record --all legacy --history 'As it was before the ledger.'`,
	}
	format := formatFlag(cmd, checkedFormats...)
	f := cmd.Flags()
	origin := f.StringToString("origin", nil, "where it comes from: from=REPOSITORY,commit=COMMIT,build=RUN")
	f.StringVar(&w.message, "message", "", "why it is recorded")
	f.StringVar(&w.api, "api", "", "short name of the API")
	f.StringVar(&w.version, "version", "", "version number")
	f.StringVar(&w.team, "team", "", "team that keeps the API")
	f.BoolVar(&w.dry, "dry-run", false, "only say what recording would do")
	f.BoolVar(&w.wait, "wait", false, "end with the gate's answer")
	f.BoolVar(&w.all, "all", false, "every description that stands in the folders")
	f.StringVar(&w.history, "history", "", "publish the versions in their order, for this reason where they break a promise")
	cmd.RunE = func(cmd *cobra.Command, args []string) (err error) {
		if err := checkFormat(*format, checkedFormats...); err != nil {
			return err
		}
		w.format = *format
		if w.message == "" {
			w.message = a.Getenv("OLDLEDGER_MESSAGE")
		}
		if w.origin, err = a.origin(*origin); err != nil {
			return err
		}
		if w.history != "" && w.dry {
			return usageError{errors.New("--history publishes, and --dry-run does nothing: one of the two")}
		}
		if len(args) == 1 && !w.all && w.history == "" && (*format == "text" || *format == "json") {
			return a.recordOne(cmd.Context(), args[0], w)
		}
		return a.recordMany(cmd.Context(), args, w)
	}
	return cmd
}

// submissionOf is what a set of files is handed in as.
func submissionOf(set *source.Set, w recordWish) client.Submission {
	s := client.Submission{API: w.api, Version: w.version, Team: w.team, Message: w.message, Origin: w.origin}
	s.Text, s.File = set.Entry.Text, path.Base(set.Entry.Path())
	if others := set.Files()[1:]; len(others) > 0 {
		s.File, s.Others = set.Entry.Path(), map[string][]byte{}
		for _, f := range others {
			s.Others[f.Path()] = f.Text
		}
	}
	return s
}

func sendSubmission(ctx context.Context, c *client.Client, s client.Submission, dry bool) (wire.Recorded, error) {
	if dry {
		return c.DryRun(ctx, s)
	}
	return c.Record(ctx, s)
}

// recordOne records the description that is named.
func (a *app) recordOne(ctx context.Context, file string, w recordWish) error {
	h, err := a.named(file)
	if err != nil {
		return err
	}
	if _, err := a.readToRecord(ctx, &h, w); err != nil { // errors name the file as the person wrote it
		return err
	}
	shut := false
	ask := func(c *client.Client) (wire.Recorded, error) {
		rec, err := sendSubmission(ctx, c, *h.read, w.dry)
		shut = rec.Gate != nil && !rec.Gate.Open
		return rec, err
	}
	err = answer(a, w.format, ask, func(rec wire.Recorded) error {
		if err := a.showRecorded(rec, file, w.dry); err != nil || !w.wait {
			return err
		}
		return printf(a, "%s", a.obstacles(recordedOf(h, rec, w.dry)))
	})
	if err == nil && shut && (w.dry || w.wait) {
		return errNo
	}
	return err
}

// outcomes are in words what became of a description, and what would.
var outcomes = map[bool]map[string]string{
	false: {"new": "recorded as a draft", "replaced": "the draft was replaced", "same": "already recorded, unchanged"},
	true:  {"new": "would be a new draft", "replaced": "would replace the draft", "same": "is already recorded, unchanged"},
}

// origin is where a recording comes from: as an option says, else as the environment does.
func (a *app) origin(given map[string]string) (o wire.Origin, err error) {
	if text := a.Getenv("OLDLEDGER_ORIGIN"); len(given) == 0 && text != "" {
		given = map[string]string{}
		for pair := range strings.SplitSeq(text, ",") {
			key, value, _ := strings.Cut(pair, "=")
			given[strings.TrimSpace(key)] = value
		}
	}
	for key, value := range given {
		switch key {
		case "from":
			o.From = value
		case "commit":
			o.Commit = value
		case "build":
			o.Build = value
		default:
			return o, usageError{fmt.Errorf("an origin says from, commit or build, not %q: --origin from=quayside/berths,commit=4f1c2a9", key)}
		}
	}
	return o, nil
}

func (a *app) showRecorded(rec wire.Recorded, file string, dry bool) error {
	text := fmt.Sprintf("%s  %s\n", rec.Version.Ref(), outcomes[dry][rec.Outcome])
	if rec.Changes != nil {
		text += fmt.Sprintf("against %s: %s\n", rec.Base.Number, orNothing(report.Tally(rec.Changes.Counts)))
	}
	if tally := rec.Diagnostics; tally.All() > 0 {
		text += fmt.Sprintf("its description has %s; oldledger check %s tells all\n", tally, rec.Version.Ref())
		for _, d := range tally.Worst[:min(len(tally.Worst), 3)] {
			if d.Severity > source.Hint {
				text += fmt.Sprintf("  %s %s\n", severityLooks[d.Severity].Mark(), d)
			}
		}
	}
	switch {
	case rec.Gate == nil || rec.Gate.Open:
	case dry:
		text += fmt.Sprintf("its gate would be shut, for it breaks the promise of its line, %s: oldledger compare %s %s shows it\n", rec.Gate.Promise,
			rec.Base.Ref(), file)
	default:
		text += fmt.Sprintf("it breaks the promise of its line, %s; oldledger publish %s says how to go on\n", rec.Gate.Promise,
			rec.Version.Ref())
	}
	return printf(a, "%s", text)
}
