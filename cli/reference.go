package cli

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/wire"
)

func (a *app) rewordCommand() *cobra.Command {
	var show, drop, text bool
	cmd := &cobra.Command{
		Use: "reword REF [FILE]", GroupID: "reference", Short: "Word a version's reference without touching its description",
		Args: cobra.RangeArgs(1, 2),
		Long: `Keeps FILE, an OpenAPI Overlay 1.0 document, as the draft of how the reference of REF reads: descriptions, examples, groups, order,
hidden operations, pages of prose. The description itself stays as it was recorded; an overlay that changes what the API does is refused.
Without FILE it lists the actions of the overlay and what each finds in this version. Previews show the draft; --show shows it to readers.`,
		Example: "  oldledger reword berths@2.0.0 wording.yaml\n  oldledger reword berths@2.0.0 --show\n  oldledger reword berths@draft --text > wording.yaml",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.BoolVar(&show, "show", false, "show readers the draft")
	f.BoolVar(&drop, "drop", false, "drop the draft, or what is shown where there is no draft")
	f.BoolVar(&text, "text", false, "print the overlay itself")
	cmd.MarkFlagsMutuallyExclusive("show", "drop", "text")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if len(args) == 2 && (drop || text) {
			return usageError{errors.New("--drop and --text take no file")}
		}
		ask := func(c *client.Client) (wire.Overlay, error) { return a.reword(cmd.Context(), c, args, show, drop) }
		return answer(a, *format, ask, func(o wire.Overlay) error {
			if text {
				return printf(a, "%s", o.Text)
			}
			return a.showOverlay(o)
		})
	}
	return cmd
}

func (a *app) reword(ctx context.Context, c *client.Client, args []string, show, drop bool) (wire.Overlay, error) {
	if len(args) == 2 {
		set, err := a.files(ctx, args[1])
		if err != nil {
			return wire.Overlay{}, err
		}
		if o, err := c.PutOverlay(ctx, args[0], set.Entry.Text); err != nil || !show {
			return o, err
		}
	}
	if drop {
		if err := c.DropOverlay(ctx, args[0]); err != nil {
			return wire.Overlay{}, err
		}
	}
	if show {
		return c.ShowOverlay(ctx, args[0])
	}
	return c.Overlay(ctx, args[0])
}

func (a *app) showOverlay(o wire.Overlay) error {
	s := a.style()
	var b strings.Builder
	switch {
	case o.From != "":
		fmt.Fprintf(&b, "%s has no overlay of its own; that of %s would be carried over\n", o.Version, o.From)
	case o.State == "none":
		return printf(a, "%s has no overlay\n", o.Version)
	case o.State == "draft":
		fmt.Fprintf(&b, "%s has a draft of an overlay, by %s, %s; readers do not see it yet\n", o.Version, o.MadeBy, o.MadeAt)
	default:
		fmt.Fprintf(&b, "readers of %s see this overlay, by %s, %s\n", o.Version, o.MadeBy, o.MadeAt)
	}
	for _, out := range o.Outcomes {
		what := fmt.Sprintf("%d places", out.Matched)
		switch {
		case out.Wrong != "":
			what = "not carried out: " + out.Wrong
		case out.Matched == 0:
			what = "finds nothing any more"
		case out.Matched == 1:
			what = "one place"
		}
		fmt.Fprintf(&b, "  %s  %s\n", out.Target, s.soft(what))
	}
	return printf(a, "%s", b.String())
}

func (a *app) looksCommand() *cobra.Command {
	var all bool
	cmd := &cobra.Command{
		Use: "looks [API] [FILE]", GroupID: "reference", Short: "Read or change how a reference looks", Args: cobra.RangeArgs(0, 2),
		Long: `Prints how the reference of an API looks, as JSON; with FILE, a JSON object of the same form, changes it: accent, font, logo, landing,
footer, languages of the samples, parents that may hold its pages, unlisted. --all speaks of all APIs that have no looks of their own.`,
		Example: "  oldledger looks berths > looks.json\n  oldledger looks berths looks.json\n  oldledger looks --all looks.json",
	}
	cmd.Flags().BoolVar(&all, "all", false, "speak of all APIs that have no looks of their own")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		api := ""
		if !all {
			if len(args) == 0 {
				return usageError{errors.New("name an API, or say --all")}
			}
			api, args = args[0], args[1:]
		}
		if len(args) > 1 {
			return usageError{errors.New("--all takes a file and no API")}
		}
		ask := func(c *client.Client) (wire.Looks, error) {
			if len(args) == 0 {
				return c.Looks(cmd.Context(), api)
			}
			var looks wire.Looks
			text, err := os.ReadFile(a.path(args[0]))
			if err != nil {
				return looks, notRead(args[0], err)
			}
			if err := json.Unmarshal(text, &looks); err != nil {
				return looks, &inputError{fmt.Errorf("%s: these are no looks: %w", args[0], err)}
			}
			return c.PutLooks(cmd.Context(), api, looks)
		}
		return answer(a, "json", ask, nil)
	}
	return cmd
}

func (a *app) pictureCommand() *cobra.Command {
	var all, remove bool
	var name string
	cmd := &cobra.Command{
		Use: "picture API [FILE]", GroupID: "reference", Short: "Keep a picture for landing pages and footers", Args: cobra.RangeArgs(0, 2),
		Long: `Keeps a picture that the texts of a reference's looks can show: as ![the quay](pictures/quay.png). Without a file it lists the pictures that
there are; --remove takes one away by its name. --all speaks of those of the house.`,
		Example: "  oldledger picture berths quay.png\n  oldledger picture berths quay.png --remove\n  oldledger picture --all harbour.jpg",
	}
	format := formatFlag(cmd)
	cmd.Flags().BoolVar(&all, "all", false, "speak of the pictures of the house")
	cmd.Flags().BoolVar(&remove, "remove", false, "remove the picture of that name")
	cmd.Flags().StringVar(&name, "name", "", "name to keep it under (default: the file's)")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format); err != nil {
			return err
		}
		api := ""
		if !all {
			if len(args) == 0 {
				return usageError{errors.New("name an API, or say --all")}
			}
			api, args = args[0], args[1:]
		}
		switch {
		case len(args) > 1:
			return usageError{errors.New("--all takes a file and no API")}
		case len(args) == 0 && remove:
			return usageError{errors.New("say which picture to remove")}
		case len(args) == 0:
			return answer(a, *format, func(c *client.Client) ([]wire.Picture, error) { return c.Pictures(cmd.Context(), api) }, a.listPictures)
		case remove:
			ask := func(c *client.Client) (string, error) { return args[0], c.DropPicture(cmd.Context(), api, args[0]) }
			return answer(a, *format, ask, func(name string) error { return printf(a, "%s is removed\n", name) })
		}
		text, err := os.ReadFile(a.path(args[0]))
		if err != nil {
			return notRead(args[0], err)
		}
		under := cmp.Or(name, filepath.Base(args[0]))
		ask := func(c *client.Client) (wire.Picture, error) { return c.PutPicture(cmd.Context(), api, under, text) }
		return answer(a, *format, ask, func(p wire.Picture) error {
			return printf(a, "%s is kept; texts show it as ![what it shows](pictures/%s)\n", p.Name, p.Name)
		})
	}
	return cmd
}

func (a *app) listPictures(all []wire.Picture) error {
	if len(all) == 0 {
		return printf(a, "there are no pictures\n")
	}
	for _, p := range all {
		if err := printf(a, "%-30s %6d kB  %s\n", p.Name, (p.Size+1023)>>10, p.Address); err != nil {
			return err
		}
	}
	return nil
}

func (a *app) previewCommand() *cobra.Command {
	var days int
	var list bool
	var withdraw string
	cmd := &cobra.Command{
		Use: "preview REF", GroupID: "reference", Short: "Make an address at which a version can be read before it is published",
		Args: cobra.ExactArgs(1),
		Long: `Makes an address that nobody can guess. Whoever knows it reads the version as its readers would, with the draft of its overlay, until it
expires or is withdrawn. --list names those that hold, --withdraw ends one.`,
		Example: "  oldledger preview berths@draft --days 3\n  oldledger preview berths@draft --list",
	}
	format := formatFlag(cmd)
	cmd.Flags().IntVar(&days, "days", 7, "how long the address holds, 1 to 90")
	cmd.Flags().BoolVar(&list, "list", false, "list the previews that hold")
	cmd.Flags().StringVar(&withdraw, "withdraw", "", "end the preview with this id")
	cmd.MarkFlagsMutuallyExclusive("list", "withdraw")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		switch {
		case list:
			ask := func(c *client.Client) ([]wire.PreviewLink, error) { return c.PreviewLinks(cmd.Context(), args[0]) }
			return answer(a, *format, ask, a.listPreviews)
		case withdraw != "":
			ask := func(c *client.Client) (string, error) {
				return withdraw, c.WithdrawPreview(cmd.Context(), args[0], withdraw)
			}
			return answer(a, *format, ask, func(id string) error {
				return printf(a, "preview %s is withdrawn: its address shows nothing any more\n", id)
			})
		}
		var home *client.Client
		ask := func(c *client.Client) (wire.PreviewLink, error) {
			home = c
			return c.CreatePreviewLink(cmd.Context(), args[0], days)
		}
		return answer(a, *format, ask, func(s wire.PreviewLink) error {
			return printf(a, "%s\nshows %s until %s; preview %s\n", home.Address(s.Path), s.Version, s.ExpiresAt, s.ID)
		})
	}
	return cmd
}

func (a *app) listPreviews(all []wire.PreviewLink) error {
	if len(all) == 0 {
		return printf(a, "no preview holds\n")
	}
	for _, p := range all {
		if err := printf(a, "%s  %s, made by %s on %s, holds until %s\n", p.ID, p.Version, p.MadeBy, day(p.MadeAt), minute(p.ExpiresAt)); err != nil {
			return err
		}
	}
	return nil
}

func (a *app) unpublishCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "unpublish REF", GroupID: "reference", Short: "Take a version's reference back",
		Long:    "Takes the reference of a published version back: its addresses answer 404 at once. publish gives it back at the same addresses.",
		Example: "  oldledger unpublish tides@1.2.0 --reason 'It named a station that is not there.'\n  oldledger publish tides@1.2.0",
	}
	return a.withdraw(cmd, (*client.Client).Unpublish, "its reference is taken back")
}

func (a *app) retireCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "retire REF", GroupID: "reference", Short: "End a version whose sunset has passed",
		Long: `Ends a version for good, once the sunset of its notice has passed. Its addresses answer 410 and lead on; its clients no longer count. Where
oldledger ready says no, --despite says why it goes all the same; the journal keeps it.`,
		Example: "  oldledger retire berths@1.0.0 --reason 'Nobody calls it any more.'\n  oldledger retire dues@1.0.0 --reason 'Its day has come.' --despite 'The one caller left is a test.'",
	}
	var despite string
	cmd.Flags().StringVar(&despite, "despite", "", "why it goes, where it may not go yet")
	return a.withdraw(cmd, func(c *client.Client, ctx context.Context, ref, reason string) (wire.Version, error) {
		return c.Retire(ctx, ref, reason, despite)
	}, "it is gone")
}

func (a *app) withdraw(cmd *cobra.Command, do func(*client.Client, context.Context, string, string) (wire.Version, error),
	done string,
) *cobra.Command {
	var reason string
	cmd.Args = cobra.ExactArgs(1)
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&reason, "reason", "", "why")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if reason == "" {
			return usageError{errors.New(cmd.Name() + " needs --reason")}
		}
		ask := func(c *client.Client) (wire.Version, error) { return do(c, cmd.Context(), args[0], reason) }
		return answer(a, *format, ask, func(v wire.Version) error { return printf(a, "%s is %s: %s\n", v.Ref(), v.State, done) })
	}
	return cmd
}

// showCredentials lists what looks like a credential and stands in the way of publishing, and the ways through.
func (a *app) showCredentials(ref string, r *client.Refusal, format string) error {
	if format == "json" {
		if err := a.json(r.Credentials); err != nil {
			return err
		}
		return errNo
	}
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s is not published: it holds what looks like a credential\n\n", ref)
	for _, c := range r.Credentials {
		if c.Allowed == "" {
			fmt.Fprintf(&b, "  %s  %s\n  %s\n\n", s.bold(c.What), c.Shown, s.soft(c.Place.String()+", "+c.ID))
		}
	}
	fmt.Fprintf(&b, "Take it out, and take care that it is no longer valid; or, where it is none,\n  oldledger publish %s --allow ID --reason '…'\n",
		ref)
	if err := printf(a, "%s", b.String()); err != nil {
		return err
	}
	return errNo
}
