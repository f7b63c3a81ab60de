// Package core_test holds the rules of the house: which room may know which.
package core_test

import (
	"encoding/json"
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// rooms lists the rooms from the top of the house to the bottom. An arrow may only point to a later line; rooms on one
// line do not know each other.
var rooms = [][]string{
	{"cmd/oldledger"},
	{"cli"},
	{"demo"},
	{"server"},
	{"server/api", "server/site", "server/console"},
	{"client"},
	{"ledger"},
	{"store"},
	{"core/check", "core/guide", "core/report", "core/reference", "core/housestyle", "core/usage"},
	{"core/sample", "core/promise"},
	{"core/compare"},
	{"core/shape"},
	{"core/class"},
	{"core/format"},
	{"core/overlay", "core/secret"},
	{"core/jsonpath"},
	{"core/raml"},
	{"core/openapi"},
	{"core/contract"},
	{"core/source"},
	{"core/value"},
	{"core/commonmark", "core/budget"},
}

// outside are the packages that no part of core may use: network, database, files, clock, terminal.
var outside = []string{"net", "net/http", "database/sql", "os", "os/exec", "io/fs", "syscall", "log", "log/slog", "github.com/spf13/cobra", "github.com/labstack/echo/v5"}

type pkg struct {
	ImportPath string
	Imports    []string
}

func TestArrowsPointDown(t *testing.T) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "oldledger/...").Output()
	require.NoError(t, err)
	dec := json.NewDecoder(strings.NewReader(string(out)))
	seen := 0
	for dec.More() {
		var p pkg
		require.NoError(t, dec.Decode(&p))
		from := strings.TrimPrefix(p.ImportPath, "oldledger/")
		if from == "core" || strings.HasPrefix(from, "tools/") {
			continue
		}
		seen++
		require.GreaterOrEqual(t, floor(from), 0, "%s is no room of the house; give it a line in rooms", from)
		for _, imported := range p.Imports {
			if to, ours := strings.CutPrefix(imported, "oldledger/"); ours {
				require.Less(t, floor(from), floor(to), "the arrow from %s to %s points up", from, to)
			}
			if strings.HasPrefix(from, "core/") {
				require.NotContains(t, outside, imported, "%s must not know %s", from, imported)
			}
		}
	}
	require.Greater(t, seen, 8)
}

func floor(room string) int {
	return slices.IndexFunc(rooms, func(line []string) bool { return slices.Contains(line, room) })
}
