package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path"
	"regexp"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/project"
)

func (a *app) initCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "init", GroupID: "act", Short: "Write the project file of a repository from what stands in it", Args: cobra.NoArgs,
		Long: `Looks for descriptions in this folder and below, and writes ` + projectFile + `: which API stands in which file. From then on record, check and compare
need no arguments. Of an API of which several versions stand there the newest counts. What is there already is not overwritten.

It ends with a step for a pipeline, for any runner that has a shell.`,
		Example: "  oldledger init\n  oldledger init --ledger https://ledger.saltmere.example",
	}
	cmd.RunE = func(cmd *cobra.Command, _ []string) error { return a.begin(cmd.Context()) }
	return cmd
}

// begin writes the project file.
func (a *app) begin(ctx context.Context) error {
	if _, err := os.Stat(a.path(projectFile)); err == nil {
		return &inputError{fmt.Errorf("%s is there already; it is yours to change, or to take away", projectFile)}
	}
	files, err := a.descriptionsIn(".")
	if err != nil {
		return err
	}
	all := make([]handed, len(files))
	for i, file := range files {
		all[i] = handed{file: file, root: "."}
	}
	a.identify(ctx, all, recordWish{})
	if err := ctx.Err(); err != nil {
		return err
	}
	apis, left := newestOf(all)
	for _, text := range left {
		fmt.Fprintln(a.Err, text)
	}
	if len(apis) == 0 {
		return &inputError{errors.New("none of the descriptions can be read")}
	}
	acc, err := a.account()
	if err != nil {
		return err
	}
	address, err := a.ledgerAddress(acc)
	if err != nil {
		return err
	}
	if err := writeNew(a.path(projectFile), projectText(address, apis)); err != nil {
		return notRead(projectFile, err)
	}
	return printf(a, "%s names %s. In a pipeline, with a token of the ledger in OLDLEDGER_TOKEN:\n\n%s",
		projectFile, counted(len(apis), "API"), pipelineStep)
}

// writeNew writes a file that is not there yet: all of it, or none.
func writeNew(name, text string) error {
	f, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	_, err = f.WriteString(text)
	if err = errors.Join(err, f.Close()); err != nil {
		return errors.Join(err, os.Remove(name))
	}
	return nil
}

// newestOf are the APIs of a project, by their newest versions, and what is to be said of descriptions that are left out.
func newestOf(all []handed) (apis []project.API, left []string) {
	for _, group := range byAPI(all) {
		newest := group[len(group)-1]
		for _, i := range group {
			switch h := all[i]; {
			case h.unreadable != nil:
				left = append(left, fmt.Sprintf("%s is left out: %v", h.file, oneLine(h.unreadable)))
			case !project.Name.MatchString(h.of):
				left = append(left, fmt.Sprintf("%s is left out: it has neither a name (info.x-ledger-name) nor a title that makes one", h.file))
			case i != newest && h.number != nil && h.number.Equal(all[newest].number):
				left = append(left, fmt.Sprintf("%s is left out: %s is the same version", h.file, all[newest].file))
			case i != newest:
				left = append(left, fmt.Sprintf("%s is left out: %s is newer", h.file, all[newest].file))
			default:
				apis = append(apis, project.API{Name: h.of, File: h.file, Root: rootOf(h)})
			}
		}
	}
	slices.SortFunc(apis, func(x, y project.API) int { return strings.Compare(x.Name, y.Name) })
	return apis, left
}

// rootOf is the folder in which all files of a description stand; "" for that of the first.
func rootOf(h handed) string {
	dir := path.Dir(h.file)
	for _, other := range h.others {
		for dir != "." && !strings.HasPrefix(other, dir+"/") {
			dir = path.Dir(dir)
		}
	}
	if dir == path.Dir(h.file) {
		return ""
	}
	return dir
}

// projectText is a project file.
func projectText(address string, apis []project.API) string {
	var b strings.Builder
	b.WriteString("# What stands in this repository: oldledger record, check and compare take it without being told.\n")
	if address == "" {
		b.WriteString("# ledger: its address, once there is one\n")
	} else {
		fmt.Fprintf(&b, "ledger: %s\n", inYAML(address))
	}
	b.WriteString("apis:\n")
	for _, api := range apis {
		if api.Root == "" {
			fmt.Fprintf(&b, "  %s: %s\n", api.Name, inYAML(api.File))
			continue
		}
		fmt.Fprintf(&b, "  %s: {file: %s, root: %s}\n", api.Name, inYAML(api.File), inYAML(api.Root))
	}
	return b.String()
}

// oneLine is the first line of what is wrong.
func oneLine(err error) string {
	line, _, _ := strings.Cut(err.Error(), "\n")
	return line
}

// plainText needs no quotes in YAML.
var plainText = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_.:/-]*[A-Za-z0-9/]$`)

// inYAML is a text as it may stand in YAML.
func inYAML(text string) string {
	if text == "" || text == "." || plainText.MatchString(text) {
		return text
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
}

// pipelineStep is a step for any runner that has a shell.
const pipelineStep = `oldledger check                       # does it follow the house style?
oldledger record --wait \
  --message "$(git log -1 --format=%s)" \
  --origin "commit=$(git rev-parse HEAD)"
`
