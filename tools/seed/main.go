// Command seed writes the large description of package large and an edited version of it into a folder, as JSON and as YAML.
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
	flag.Parse()
	for name, v := range map[string]*value.Value{
		"old": large.Description(*operations, nil), "new": large.Description(*operations, large.Edits(*edits, *operations)),
	} {
		for ext, text := range map[string][]byte{".json": []byte(v.Indented()), ".yaml": v.YAML()} {
			if err := os.WriteFile(filepath.Join(*dir, name+ext), text, 0o644); err != nil {
				fmt.Fprintln(os.Stderr, err)
				os.Exit(1)
			}
		}
	}
}
