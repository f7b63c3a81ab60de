package housestyle

import (
	"slices"
	"strings"
	"sync"

	"oldledger/core/contract"
)

// wayOf is how the names of something are written: as the house settles it, or else as most of the description are; "" where that
// cannot be told.
func (x *examination) wayOf(setting string) string {
	way := x.house.part.(House).Ways[setting]
	if way == "" {
		way = settings[slices.Index(settingNames, setting)].way
	}
	if way != "" && way != "most" {
		return way
	}
	if x.most == nil {
		x.most = sync.OnceValue(x.count)
	}
	return x.most()[setting]
}

// count finds the way in which most names of each setting are written. Only names that can be written in one way count.
func (x *examination) count() map[string]string {
	counts := map[string]map[string]int{}
	first := map[string][]string{}
	note := func(setting, name string) {
		way := onlyCase(bare(name))
		if way == "" {
			return
		}
		if counts[setting] == nil {
			counts[setting] = map[string]int{}
		}
		if counts[setting][way] == 0 {
			first[setting] = append(first[setting], way)
		}
		counts[setting][way]++
	}
	for _, op := range x.c.All() {
		note("operations", op.ID)
	}
	for _, e := range x.of("path") {
		for _, s := range stepsOf(e.name) {
			if !strings.Contains(s, "{") {
				note("paths", s)
			}
		}
		for _, s := range contract.PathNames(e.name) {
			note("pathParameters", s)
		}
	}
	for _, s := range x.c.Schemas {
		note("types", s.Name)
	}
	x.c.Visit(contract.Visitor{
		Parameter: func(p *contract.Parameter) {
			switch p.In {
			case "query":
				note("parameters", p.Name)
			case "header":
				note("headers", p.Name)
			}
		},
		Media: func(*contract.Media) {},
	})
	for s := range x.ways {
		for _, p := range s.Properties {
			note("fields", p.Name)
		}
		for _, v := range s.Enum {
			if v != nil {
				note("values", v.Text)
			}
		}
	}
	most := map[string]string{}
	for setting, ways := range first {
		best := ""
		for _, way := range ways {
			if best == "" || counts[setting][way] > counts[setting][best] || counts[setting][way] == counts[setting][best] && way < best {
				best = way
			}
		}
		most[setting] = best
	}
	return most
}
