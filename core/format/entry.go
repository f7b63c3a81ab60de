package format

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/raml"
)

var openapiKey = regexp.MustCompile(`(?m)^[ \t{]*["']?(openapi|swagger)["']?[ \t]*:`)

// MayBegin reports whether a file is called as descriptions are.
func MayBegin(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".raml", ".yaml", ".yml", ".json":
		return true
	}
	return false
}

// Begins reports whether a file begins a description of its own, and is no part of one. Its first 4 KB are enough.
func Begins(name string, text []byte) bool {
	return MayBegin(name) && (raml.IsAPI(text) || openapiKey.Match(text[:min(len(text), 4096)]))
}

// Entry finds the one file among many that the description begins with: the only one that is a description of its own, or the only
// one of those that stand nearest to the top. The error names what could be meant.
func Entry(texts map[string][]byte) (string, error) {
	var found []string
	for name, text := range texts {
		if Begins(name, text) {
			found = append(found, name)
		}
	}
	slices.SortFunc(found, func(a, b string) int {
		if d := strings.Count(a, "/") - strings.Count(b, "/"); d != 0 {
			return d
		}
		return strings.Compare(a, b)
	})
	switch {
	case len(found) == 0:
		return "", fmt.Errorf("none of the %d files is a description: one begins with #%%RAML 1.0, or with the key openapi or swagger",
			len(texts))
	case len(found) > 1 && strings.Count(found[0], "/") == strings.Count(found[1], "/"):
		return "", fmt.Errorf("%s are descriptions of their own; say which one is meant", strings.Join(found[:min(len(found), 5)], ", "))
	}
	return found[0], nil
}
