package cli

import (
	"runtime/debug"

	"github.com/spf13/cobra"
)

// Version is the program's own version; a release build sets it.
var Version = "0.1.0-dev"

func (a *app) versionCommand() *cobra.Command {
	return &cobra.Command{
		Use: "version", GroupID: "run", Short: "Print the version of this program", Args: cobra.NoArgs,
		Example: "  oldledger version\n  oldledger --help",
		RunE: func(*cobra.Command, []string) error {
			build := "unknown Go"
			if info, ok := debug.ReadBuildInfo(); ok {
				build = info.GoVersion
			}
			return printf(a, "oldledger %s, built with %s\n", Version, build)
		},
	}
}
