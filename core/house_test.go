// Package core_test holds the rules of the house: which room may know which.
package core_test

import (
	"cmp"
	"go/parser"
	"go/scanner"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// rooms lists the rooms from the top of the house to the bottom. An arrow may only point to a later line; rooms on one
// line do not know each other.
var rooms = [][]string{
	{"cmd/oldledger"},
	{"cli"},
	{"demo"},
	{"server"},
	{"server/provider"},
	{"server/api", "server/site", "server/console"},
	{"server/trace", "server/tries"},
	{"ledger/ledgertest"},
	{"ledger"},
	{"store"}, // fills what the ledger asks of its records; the ledger does not know it
	{"ledger/records"},
	{"client"}, // the client of the HTTP interface knows its words, and not the ledger
	{"wire"},
	{"core/housestyle"}, // the rules that are well-formedness are those of check
	{"core/replay"},     // asks what check finds and usage knows
	{"core/check", "core/guide", "core/report", "core/reference", "core/usage", "core/reliance", "core/project"},
	{"core/promise"},
	{"core/compare"},
	{"core/sample"},
	{"core/shape"},
	{"core/class"},
	{"core/format"},
	{"core/exchange"},
	{"core/overlay", "core/secret", "core/edit", "core/versioning"},
	{"core/jsonpath"},
	{"core/raml"},
	{"core/openapi"},
	{"core/contract"},
	{"core/source"},
	{"core/value"},
	{"core/commonmark", "core/budget", "core/proof"},
	{"docs"}, // texts, and no code
}

// outside are the packages that no part of core may use: network, database, files, clock, terminal.
var outside = []string{
	"net", "net/http", "database/sql", "os", "os/exec", "io/fs", "syscall", "log", "log/slog", "github.com/spf13/cobra",
	"github.com/labstack/echo/v5",
}

// imports are what each room imports, by their paths from the top of the house. The files are read here, and not by another process, so
// that the tool does not take an answer for the same that is not.
func imports(t *testing.T) map[string][]string {
	t.Helper()
	rooms := map[string][]string{}
	files := token.NewFileSet()
	require.NoError(t, filepath.WalkDir("..", func(at string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() {
			if err == nil && (entry.Name() == "node_modules" || entry.Name() == "testdata" || strings.HasPrefix(entry.Name(), ".") &&
				entry.Name() != "..") {
				return fs.SkipDir
			}
			return err
		}
		if !strings.HasSuffix(at, ".go") || strings.HasSuffix(at, "_test.go") {
			return nil
		}
		f, err := parser.ParseFile(files, at, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		room, err := filepath.Rel("..", filepath.Dir(at))
		for _, i := range f.Imports {
			rooms[filepath.ToSlash(room)] = append(rooms[filepath.ToSlash(room)], strings.Trim(i.Path.Value, `"`))
		}
		return err
	}))
	return rooms
}

func TestArrowsPointDown(t *testing.T) {
	t.Parallel()
	seen := 0
	for from, all := range imports(t) {
		if from == "." || strings.HasPrefix(from, "tools/") {
			continue
		}
		seen++
		require.GreaterOrEqual(t, floor(from), 0, "%s is no room of the house; give it a line in rooms", from)
		for _, imported := range all {
			if to, ours := strings.CutPrefix(imported, "oldledger/"); ours {
				require.Less(t, floor(from), floor(to), "the arrow from %s to %s points up", from, to)
			}
			if strings.HasPrefix(from, "core/") {
				require.NotContains(t, outside, imported, "%s must not know %s", from, imported)
			}
		}
	}
	require.Greater(t, seen, 20)
}

func floor(room string) int {
	return slices.IndexFunc(rooms, func(line []string) bool { return slices.Contains(line, room) })
}

// longestLine is how many characters a line of code has at most; texts in quotes are as long as they are.
const longestLine = 140

// TestLines holds the length of lines.
func TestLines(t *testing.T) {
	t.Parallel()
	require.NoError(t, filepath.WalkDir("..", func(at string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() && entry.Name() == "node_modules" {
			return cmp.Or(err, fs.SkipDir)
		}
		if entry.IsDir() || filepath.Ext(at) != ".go" || strings.HasSuffix(at, "_templ.go") {
			return nil
		}
		text, err := os.ReadFile(at)
		if err != nil {
			return err
		}
		for i, line := range strings.Split(withoutTexts(text), "\n") {
			assert.LessOrEqual(t, utf8.RuneCountInString(line), longestLine, "%s:%d", at, i+1)
		}
		return nil
	}))
}

// withoutTexts is a Go file without what stands in its quotes.
func withoutTexts(source []byte) string {
	files := token.NewFileSet()
	file := files.AddFile("", -1, len(source))
	var s scanner.Scanner
	s.Init(file, source, nil, scanner.ScanComments)
	var b strings.Builder
	written := 0
	for {
		pos, tok, text := s.Scan()
		if tok == token.EOF {
			b.Write(source[written:])
			return b.String()
		}
		if tok == token.STRING {
			at := file.Offset(pos)
			b.Write(source[written:at])
			b.WriteString(strings.Repeat("\n", strings.Count(text, "\n")))
			written = at + len(text)
		}
	}
}

// cited is a section of a design document, as comments name it.
var cited = regexp.MustCompile(`(docs/design/\w+\.md)(?:,(?:\s|//)+([A-Z][\w ]+))?`)

// TestDocumentsAreThere holds what comments cite against the documents.
func TestDocumentsAreThere(t *testing.T) {
	t.Parallel()
	found := 0
	require.NoError(t, filepath.WalkDir("..", func(at string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() && entry.Name() == "node_modules" {
			return cmp.Or(err, fs.SkipDir)
		}
		if filepath.Ext(at) != ".go" || strings.HasSuffix(at, "house_test.go") {
			return nil
		}
		text, err := os.ReadFile(at)
		if err != nil {
			return err
		}
		for _, m := range cited.FindAllSubmatch(text, -1) {
			found++
			document, err := os.ReadFile(filepath.Join("..", string(m[1])))
			require.NoError(t, err, "%s cites it", at)
			require.Contains(t, string(document), string(m[2]), "%s cites it", at)
		}
		return nil
	}))
	require.Greater(t, found, 15)
}
