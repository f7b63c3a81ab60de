package cli_test

import (
	"bytes"
	"context"
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/cli"
)

var update = flag.Bool("update", false, "rewrite what the manual shows of commands")

// TestManual runs each command that the manual shows with its output ("$ oldledger …" in a block of its own), where the manual's examples
// stand. With -update it writes what comes out.
func TestManual(t *testing.T) {
	t.Parallel()
	pages, err := filepath.Glob("../docs/manual/*.md")
	require.NoError(t, err)
	const examples = "../docs/manual/examples"
	shown := 0
	for _, page := range pages {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		blocks := strings.Split(string(text), "```")
		for i, block := range blocks {
			words, isCommand := strings.CutPrefix(block, "\n$ oldledger ")
			if !isCommand {
				continue
			}
			shown++
			line, _, _ := strings.Cut(words, "\n")
			var out bytes.Buffer
			cli.Run(context.Background(), strings.Fields(line), cli.Environment{
				In: strings.NewReader(""), Out: &out, Err: &out, Dir: examples, Now: time.Now, Getenv: func(string) string { return "" },
			})
			want := "\n$ oldledger " + line + "\n" + out.String()
			if *update {
				blocks[i] = want
				continue
			}
			require.Equal(t, want, block, page)
		}
		if *update {
			require.NoError(t, os.WriteFile(page, []byte(strings.Join(blocks, "```")), 0o644))
		}
	}
	require.NotZero(t, shown)
}
