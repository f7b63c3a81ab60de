package housestyle

import (
	"sync"

	"oldledger/core/source"
)

// mistake is why a rule of readers is there, and what breaks it and keeps it.
type mistake struct {
	why       string
	good, bad []Example
}

// mistakes are those of all rules of readers, by their names.
var mistakes = sync.OnceValues(func() (map[string]mistake, error) {
	text, err := ruleFiles.ReadFile("rules/" + WellFormed + ".yaml")
	if err != nil {
		return nil, err
	}
	f, err := source.Parse(WellFormed+".yaml", text)
	if err != nil {
		return nil, err
	}
	r := &reading{style: &Style{}, trust: true}
	all := map[string]mistake{}
	for _, m := range f.Root.Members {
		told := mistake{why: r.text(m.Value.Get("why"), "why is the reason for the rule")}
		if bad := m.Value.Get("bad"); bad != nil {
			told.bad = r.examples(bad)
		}
		if good := m.Value.Get("good"); good != nil {
			told.good = r.examples(good)
		}
		all[m.Key] = told
	}
	if len(r.found) > 0 {
		return nil, r.found
	}
	return all, nil
})
