package guide

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/source"
)

// For is the guide for a reader who uses only some operations, named by their keys: the steps that reach one of them, and those that
// reach everybody. Without keys it is the guide itself.
func (g *Guide) For(keys []string) *Guide {
	if len(keys) == 0 {
		return g
	}
	mine := *g
	mine.Mine = keys
	uses := func(reach []string) bool {
		return len(reach) == 0 || slices.ContainsFunc(reach, func(key string) bool { return slices.Contains(keys, key) })
	}
	kept := map[string]bool{"": true}
	steps := func(all []Step) []Step {
		out := []Step{}
		for _, s := range all {
			if uses(s.Change.Reach) {
				kept[s.Change.ID] = true
				out = append(out, s)
			}
		}
		return out
	}
	mine.Must, mine.Check, mine.Adopt, mine.Rollback = steps(g.Must), steps(g.Check), steps(g.Adopt), steps(g.Rollback)
	mine.Renames = slices.DeleteFunc(slices.Clone(g.Renames), func(r Rename) bool { return !kept[r.Change] })
	mine.Wait = slices.DeleteFunc(slices.Clone(g.Wait), func(w Wait) bool { return !uses(w.Reach) })
	mine.Plans = slices.DeleteFunc(slices.Clone(g.Plans), func(p promise.Plan) bool { return !uses(p.Keys) })
	mine.Verdict = mine.verdict()
	return &mine
}

// Keys turns what people call operations of the old version, their ids, keys or names, into their keys. The error names one that is not
// there. A guide that was read from JSON knows only those that it concerns.
func (g *Guide) Keys(names []string) ([]string, error) {
	known := g.keys
	if known == nil {
		known = map[string]string{}
		for _, o := range g.Operations {
			known[o.Key], known[o.ID], known[o.Name] = o.Key, o.Key, o.Key
		}
	}
	var keys []string
	for _, name := range names {
		key, there := known[name]
		if !there || name == "" {
			return nil, fmt.Errorf("there is no operation %s in %s%s", name, g.From, source.DidYouMean(name, slices.Sorted(maps.Keys(known))))
		}
		keys = append(keys, key)
	}
	return keys, nil
}

// keys are those of the old version's operations, and of those that only the new one has.
func (w *writer) keys() map[string]string {
	keys := map[string]string{}
	for _, c := range []*contract.Contract{w.new, w.old} { // the old one has the last word
		for _, op := range c.All() {
			keys[op.Name()] = op.Key()
			if op.ID != "" {
				keys[op.ID] = op.Key()
			}
		}
	}
	for _, c := range []*contract.Contract{w.new, w.old} {
		for _, op := range c.All() {
			keys[op.Key()] = op.Key()
		}
	}
	return keys
}

// Checklist writes what is to be done as a list of tasks in Markdown, for a tracker. link is the address of the guide, "" for none.
func (g *Guide) Checklist(link string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "**%s: from %s to %s**\n\n", plain(g.Title), g.From, g.To)
	task := func(words, title, place string, operations []string, anchor string) {
		fmt.Fprintf(&b, "- [ ] %s%s", words, plain(title))
		if place != "" {
			fmt.Fprintf(&b, ", in %s", plain(place))
		}
		if len(operations) > 0 {
			fmt.Fprintf(&b, " (%s)", plain(few(operations)))
		}
		if link != "" && anchor != "" {
			fmt.Fprintf(&b, ", [step](%s#%s)", link, anchor)
		}
		b.WriteString("\n")
	}
	for _, s := range g.Must {
		task("", s.Title, s.Place, s.Operations, s.Change.ID)
	}
	for _, s := range g.Check {
		task("test: ", s.Title, s.Place, s.Operations, s.Change.ID)
	}
	for _, w := range g.Wait {
		until := "no date yet: "
		if w.Until != "" {
			until = "by " + w.Until + ": "
		}
		task(until, w.Title, "", w.Operations, "")
	}
	if len(g.Must)+len(g.Check)+len(g.Wait) == 0 {
		b.WriteString("Nothing to do.\n")
	}
	return b.String()
}

// few lists the first few names and counts the rest.
func few(names []string) string {
	const most = 4
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
}
