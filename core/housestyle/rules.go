package housestyle

import (
	"embed"
	"path"
	"slices"
	"sync"

	"oldledger/core/source"
)

//go:embed rules/*.yaml
var ruleFiles embed.FS

// coded are the rules that are no conditions, by their names; what they are about and what they say stands in the rule files.
var coded = map[string]func(*examination, *Rule){
	"summary-own":       summaryOwn,
	"paging-one":        pagingOne,
	"words-of-house":    wordsOfHouse,
	"name-one-type":     nameOneType,
	"name-one-spelling": nameOneSpelling,
	"copy-of-type":      copyOfType,
	"copies-in-place":   copiesInPlace,
	"errors-one-form":   errorsOneForm,
	"credential-shown":  credentialShown,
	"paths-collide":     pathsCollide,

	"company-one-type":     companyOneType,
	"company-one-spelling": companyOneSpelling,
	"version-enough":       versionEnough,
	"lines-few":            linesFew,
}

// ours reads the rules that come with the ledger.
var ours = sync.OnceValues(func() (*Style, error) {
	style := &Style{}
	for _, group := range Groups {
		text, err := ruleFiles.ReadFile(path.Join("rules", group+".yaml"))
		if err != nil {
			return nil, err
		}
		f, err := source.Parse(group+".yaml", text)
		if err != nil {
			return nil, err
		}
		r := &reading{style: style, group: group, trust: true}
		r.rules(f.Root)
		if len(r.found) > 0 {
			return nil, r.found
		}
	}
	style.sorted()
	return style, nil
})

// Ours are the rules that come with the ledger, each as it comes.
func Ours() *Style {
	style, err := ours()
	if err != nil {
		panic(err) // the tests read them
	}
	return &Style{Rules: slices.Clone(style.Rules)}
}
