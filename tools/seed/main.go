// Command seed writes the large description of package large, an edited version of it, and the first with its references inlined, into a
// folder, as JSON and YAML; and one whose every operation breaks in its other version.
package main

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"

	"oldledger/core/value"
	"oldledger/tools/large"
)

func main() {
	dir := flag.String("dir", ".", "folder to write to")
	operations := flag.Int("operations", large.Operations, "how many operations")
	edits := flag.Int("edits", 60, "how many edits")
	levels := flag.Int("levels", 2, "how many levels of references are inlined")
	flag.Parse()
	inlined := large.Inlined(large.Description(*operations, nil), *levels)
	if err := os.WriteFile(filepath.Join(*dir, "inlined.json"), []byte(inlined.String()), 0o644); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	for name, v := range map[string]*value.Value{
		"old": large.Description(*operations, nil), "new": large.Description(*operations, large.Edits(*edits, *operations)),
		"sound": large.Broken(*operations, false), "broken": large.Broken(*operations, true),
	} {
		for ext, text := range map[string][]byte{".json": []byte(v.Indented()), ".yaml": v.YAML()} {
			if err := os.WriteFile(filepath.Join(*dir, name+ext), text, 0o644); err != nil {
				fmt.Fprintln(os.Stderr, err)
				os.Exit(1)
			}
		}
	}
}
