package cli

import (
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/wire"
)

func (a *app) shelvesCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "shelves", GroupID: "look", Short: "List the shelves, and what stands on them", Args: cobra.NoArgs,
		Long: `Lists the shelves: named sets of APIs that readers find together, each with its own audience, order and address. Under each stands what it
holds, and for the team of an API why not all who see the shelf read it there.`,
		Example: "  oldledger shelves\n  oldledger shelves --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return answer(a, *format, func(c *client.Client) ([]wire.Shelf, error) { return c.Shelves(cmd.Context()) }, a.showShelves)
	}
	return cmd
}

func (a *app) showShelves(all []wire.Shelf) error {
	if len(all) == 0 {
		return printf(a, "there is no shelf; an administrator makes one: oldledger shelf NAME --title TITLE\n")
	}
	var b strings.Builder
	for _, s := range all {
		fmt.Fprintf(&b, "%s  %s\n  %s\n", s.Name, s.Title, s.Address)
		if s.MadeAt != "" {
			seen := "those who have a role in all teams"
			if len(s.Audience) > 0 {
				seen = strings.Join(s.Audience, ", ")
			}
			fmt.Fprintf(&b, "  seen by %s\n", seen)
		}
		if len(s.Stands) == 0 {
			fmt.Fprintf(&b, "  nothing stands here; oldledger place API %s\n", s.Name)
		}
		for _, stand := range s.Stands {
			b.WriteString("  - " + stand.API)
			if len(stand.Versions) > 0 {
				b.WriteString(", only " + strings.Join(stand.Versions, ", "))
			}
			if stand.Why != "" {
				b.WriteString(": " + stand.Why)
			}
			b.WriteString("\n")
		}
	}
	return printf(a, "%s", b.String())
}

// oneShelf picks a shelf from those that one sees.
func oneShelf(name string, all []wire.Shelf) ([]wire.Shelf, error) {
	i := slices.IndexFunc(all, func(s wire.Shelf) bool { return s.Name == name })
	if i < 0 {
		return nil, fmt.Errorf("there is no shelf called %s", name)
	}
	return all[i : i+1], nil
}

func (a *app) shelfCommand() *cobra.Command {
	var title, landing, host, reason string
	var audience, order []string
	var drop bool
	cmd := &cobra.Command{
		Use: "shelf NAME", GroupID: "act", Short: "Make a shelf, change it, or take it away", Args: cobra.ExactArgs(1),
		Long: `Makes a shelf, or changes the one of that name: its title, who sees it (--for, groups as 'audience' has them, without links), what greets
above it (--landing, a file of Markdown), in which order things stand there (--first), and a host at which nothing else is shown (--host).
A shelf opens nothing: who sees it reads there what is open to them. With --drop it goes; what stood there stays where else it stands.
Without any of these it shows the shelf.`,
		Example: `  oldledger shelf partners --title 'For partners' --for signed-in --landing partners.md
  oldledger shelf partners --first pilotage,berths`,
	}
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&title, "title", "", "how it is called (default: its name)")
	cmd.Flags().StringSliceVar(&audience, "for", nil, "who sees it: everyone, signed-in, 'team NAME', team for nobody else")
	cmd.Flags().StringVar(&landing, "landing", "", "a file with the text that greets there, in Markdown; '' takes it away")
	cmd.Flags().StringVar(&host, "host", "", "a host at which it is shown alone; '' takes it away")
	cmd.Flags().StringSliceVar(&order, "first", nil, "APIs that come first, in order")
	cmd.Flags().StringVar(&reason, "reason", "", "why, for the journal")
	cmd.Flags().BoolVar(&drop, "drop", false, "take the shelf away")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		wish, says := wire.ShelfWish{Order: order, Reason: reason}, len(order) > 0
		for flag, to := range map[string]**string{"title": &wish.Title, "landing": &wish.Landing, "host": &wish.Host} {
			if cmd.Flags().Changed(flag) {
				value := cmd.Flags().Lookup(flag).Value.String()
				if flag == "landing" && value != "" {
					text, err := os.ReadFile(a.path(value))
					if err != nil {
						return err
					}
					value = string(text)
				}
				*to, says = &value, true
			}
		}
		if cmd.Flags().Changed("for") {
			wish.Audience, says = &audience, true
		}
		switch {
		case drop && (says || reason != ""):
			return usageError{errors.New("--drop takes the shelf away; say nothing else of it")}
		case drop:
			ask := func(c *client.Client) (string, error) { return args[0], c.DropShelf(cmd.Context(), args[0]) }
			return answer(a, *format, ask, func(name string) error { return printf(a, "the shelf %s is gone\n", name) })
		case !says && reason != "":
			return usageError{errors.New("say what changes: --title, --for, --landing, --host or --first")}
		}
		ask := func(c *client.Client) ([]wire.Shelf, error) {
			if says {
				if err := c.SetShelf(cmd.Context(), args[0], wish); err != nil {
					return nil, err
				}
			}
			all, err := c.Shelves(cmd.Context())
			if err != nil {
				return nil, err
			}
			return oneShelf(args[0], all)
		}
		return answer(a, *format, ask, a.showShelves)
	}
	return cmd
}

func (a *app) placeCommand() *cobra.Command {
	var versions []string
	var off bool
	cmd := &cobra.Command{
		Use: "place API SHELF", GroupID: "act", Short: "Have an API stand on a shelf, or take it from there", Args: cobra.ExactArgs(2),
		Long: `Has an API stand on a shelf: all that is published of it, or the versions of some lines and numbers (--versions 2,1.4.0). It may stand on
several. That opens it to nobody: see 'audience'. With --off it is taken from the shelf.`,
		Example: `  oldledger place pilotage partners
  oldledger place berths partners --versions 2`,
	}
	format := formatFlag(cmd)
	cmd.Flags().StringSliceVar(&versions, "versions", nil, "lines and numbers (default: all versions)")
	cmd.Flags().BoolVar(&off, "off", false, "take it from the shelf")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		api, shelf := args[0], args[1]
		if off && len(versions) > 0 {
			return usageError{errors.New("--off takes all of the API from the shelf; to keep some versions there, name them without it")}
		}
		ask := func(c *client.Client) ([]wire.Shelf, error) {
			var err error
			if off {
				err = c.Unplace(cmd.Context(), shelf, api)
			} else {
				err = c.Place(cmd.Context(), shelf, api, versions)
			}
			if err != nil {
				return nil, err
			}
			all, err := c.Shelves(cmd.Context())
			if err != nil {
				return nil, err
			}
			return oneShelf(shelf, all)
		}
		return answer(a, *format, ask, a.showShelves)
	}
	return cmd
}
