package cli

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/compare"
)

// What the shell completes: APIs and versions of the ledger, changes that stand in the way, kinds of change, formats. A ledger that does
// not answer at once completes nothing.

// completionTime bounds how long somebody waits for a completion.
const completionTime = 2 * time.Second

type completion = func(cmd *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective)

// complete gives the commands below root their completions, by what their lines of usage say they take.
func (a *app) complete(root *cobra.Command) {
	for _, cmd := range root.Commands() {
		_, takes, _ := strings.Cut(cmd.Use, " ")
		switch {
		case cmd.Name() == "team":
			cmd.ValidArgsFunction = a.completeTeam
		case cmd.Name() == "person":
			cmd.ValidArgsFunction = a.completePerson
		case cmd.Name() == "shelf" || cmd.Name() == "place":
			cmd.ValidArgsFunction = a.completeShelf
		case strings.Contains(takes, "REF") || strings.Contains(takes, "OLD"):
			cmd.ValidArgsFunction = a.completeRef
		case strings.Contains(takes, "API"):
			cmd.ValidArgsFunction = a.completeAPI
		case strings.Contains(takes, "KIND"):
			cmd.ValidArgsFunction = completeKind
		case takes == "":
			cmd.ValidArgsFunction = cobra.NoFileCompletions
		}
		for name, completes := range map[string]completion{
			"api": a.completeAPIName, "only": completeKind, "skip": completeKind, "explain": completeKind, "waive": a.completeObstacle,
			"promise":   oneOf("backward", "both-ways", "none", "api"),
			"direction": oneOf("backward", "forward", "both"), "reading": oneOf("declared", "exact"), "undeclared": oneOf("ignored", "refused"),
			"at-least": oneOf("editorial", "safe", "hazard", "breaking"),
			"team":     a.completeTeam, "without": a.completePerson, "as": a.completePerson, "member": a.completeMember,
			"everywhere": oneOf("admin", "auditor", "lead", "publisher", "editor", "reviewer", "reader", "nothing"),
			"published":  a.completeGroup, "drafts": a.completeGroup,
			"scope": oneOf("read", "record", "publish", "settle", "tally", "administer"),
		} {
			if cmd.Flags().Lookup(name) != nil {
				_ = cmd.RegisterFlagCompletionFunc(name, completes) // the flag is there, and has none yet
			}
		}
		if f := cmd.Flags().Lookup("format"); f != nil {
			listed := strings.ReplaceAll(strings.ReplaceAll(f.Usage, " or ", " "), ",", " ")
			_ = cmd.RegisterFlagCompletionFunc("format", oneOf(strings.Fields(listed)...))
		}
	}
}

func oneOf(words ...string) completion {
	return func(_ *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
		return beginning(words, begun), cobra.ShellCompDirectiveNoFileComp
	}
}

// beginning are the words that begin as what was begun.
func beginning(words []string, begun string) []string {
	return slices.DeleteFunc(slices.Clone(words), func(w string) bool { return !strings.HasPrefix(w, begun) })
}

func completeKind(_ *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
	var names []string
	for _, k := range compare.Kinds() {
		for _, place := range append([]string{""}, k.Places...) {
			names = append(names, strings.TrimPrefix(place+"."+k.Name, "."))
		}
	}
	return beginning(names, begun), cobra.ShellCompDirectiveNoFileComp
}

// completeShelf completes shelves, behind an API where one is placed.
func (a *app) completeShelf(cmd *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	if cmd.Name() == "place" && len(args) == 0 {
		return a.completeAPIName(cmd, nil, begun)
	}
	names := a.names(cmd.Context(), func(ctx context.Context, c *client.Client) (names []string, err error) {
		all, err := c.Shelves(ctx)
		for _, s := range all {
			names = append(names, s.Name)
		}
		return names, err
	})
	return beginning(names, begun), cobra.ShellCompDirectiveNoFileComp
}

func (a *app) completeAPI(cmd *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	if len(args) > 0 {
		return nil, cobra.ShellCompDirectiveDefault // a file may follow
	}
	return a.completeAPIName(cmd, nil, begun)
}

func (a *app) completeAPIName(cmd *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
	names, _ := a.known(cmd.Context())
	return beginning(names, begun), cobra.ShellCompDirectiveNoFileComp
}

// completeRef completes references; where none begins so, files.
func (a *app) completeRef(cmd *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
	names, versions := a.known(cmd.Context())
	if api, _, at := strings.Cut(begun, "@"); at {
		return beginning(versions[api], begun), cobra.ShellCompDirectiveNoFileComp
	}
	var all []string
	for _, name := range beginning(names, begun) {
		all = append(all, name+"@")
	}
	if strings.Contains(cmd.Use, "API") {
		all = append(all, beginning(names, begun)...)
	}
	if len(all) == 0 {
		return nil, cobra.ShellCompDirectiveDefault
	}
	return all, cobra.ShellCompDirectiveNoSpace
}

// known are the names of the ledger's APIs, and the references to their versions.
func (a *app) known(ctx context.Context) ([]string, map[string][]string) {
	c, err := a.client()
	if err != nil {
		return nil, nil
	}
	ctx, stop := context.WithTimeout(ctx, completionTime)
	defer stop()
	apis, err := c.APIs(ctx)
	if err != nil {
		return nil, nil
	}
	var names []string
	versions := map[string][]string{}
	for _, api := range apis {
		names = append(names, api.Name)
		for _, v := range api.Versions {
			versions[api.Name] = append(versions[api.Name], v.Ref())
		}
		for _, word := range []string{"latest", "draft"} {
			versions[api.Name] = append(versions[api.Name], api.Name+"@"+word)
		}
	}
	return names, versions
}

// completeObstacle completes the changes that stand in the way of the version that is named, each with its title.
func (a *app) completeObstacle(cmd *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	c, err := a.client()
	if err != nil || len(args) == 0 {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	ctx, stop := context.WithTimeout(cmd.Context(), completionTime)
	defer stop()
	gate, err := c.PublishCheck(ctx, args[0])
	if err != nil {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	var all []string
	for _, o := range gate.Gate.Obstacles {
		if !o.Waived && strings.HasPrefix(o.Change.ID, begun) {
			all = append(all, o.Change.ID+"\t"+o.Change.Title)
		}
	}
	return all, cobra.ShellCompDirectiveNoFileComp
}

// names are what a ledger that answers at once says is there.
func (a *app) names(ctx context.Context, list func(context.Context, *client.Client) ([]string, error)) []string {
	ctx, cancel := context.WithTimeout(ctx, completionTime)
	defer cancel()
	c, err := a.client()
	if err != nil {
		return nil // there is nothing to complete with
	}
	names, err := list(ctx, c)
	if err != nil {
		return nil
	}
	return names
}

func (a *app) completeTeam(cmd *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
	names := a.names(cmd.Context(), func(ctx context.Context, c *client.Client) (names []string, err error) {
		teams, err := c.Teams(ctx)
		for _, t := range teams {
			names = append(names, t.Name)
		}
		return names, err
	})
	return beginning(names, begun), cobra.ShellCompDirectiveNoFileComp
}

// completeGroup completes the last of some groups of readers.
func (a *app) completeGroup(cmd *cobra.Command, args []string, begun string) ([]string, cobra.ShellCompDirective) {
	before := begun[:strings.LastIndexByte(begun, ',')+1]
	teams, _ := a.completeTeam(cmd, args, "")
	groups := []string{"everyone", "signed-in", "link", "team"}
	for _, t := range teams {
		groups = append(groups, "team "+t)
	}
	for i, g := range groups {
		groups[i] = before + g
	}
	return beginning(groups, begun), cobra.ShellCompDirectiveNoFileComp
}

func (a *app) people(ctx context.Context) []string {
	return a.names(ctx, func(ctx context.Context, c *client.Client) (names []string, err error) {
		people, err := c.People(ctx)
		for _, p := range people {
			names = append(names, p.Name)
		}
		return names, err
	})
}

func (a *app) completePerson(cmd *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
	return beginning(a.people(cmd.Context()), begun), cobra.ShellCompDirectiveNoFileComp
}

// completeMember completes NAME=ROLE: first whose, then what they are.
func (a *app) completeMember(cmd *cobra.Command, _ []string, begun string) ([]string, cobra.ShellCompDirective) {
	name, _, named := strings.Cut(begun, "=")
	if !named {
		names := beginning(a.people(cmd.Context()), begun)
		for i := range names {
			names[i] += "="
		}
		return names, cobra.ShellCompDirectiveNoSpace | cobra.ShellCompDirectiveNoFileComp
	}
	var all []string
	for _, role := range []string{"lead", "publisher", "editor", "reviewer", "reader"} {
		all = append(all, name+"="+role)
	}
	return beginning(all, begun), cobra.ShellCompDirectiveNoFileComp
}
