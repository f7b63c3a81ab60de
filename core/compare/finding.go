package compare

import (
	"cmp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// comparer is one comparison under way.
type comparer struct {
	// What is asked; set once by ContractsContext.
	old, new *contract.Contract
	options  Options
	budget   *budget.Budget
	space    *shape.Space
	classes  *class.Classes                          // which schemas of both versions say the same
	heirs    map[*contract.Schema][]*contract.Schema // of both versions: what a base with a discriminator stands for
	named    [2]components                           // what the old and the new version share under names

	// What was met on the walk through both versions; grows until all operations are compared.
	pairs     map[pairKey]*pair
	differing []*pair // those that differ by more than words, in the order in which they were met
	edits     map[editKey]*edit
	order     []*edit                                     // edits in the order in which they were met
	matched   map[*contract.Operation]*contract.Operation // the new operation of each old one that is still there
	meant     map[heirKey]*position                       // positions with an heir in the place of its base
	visits    int                                         // positions compared, those without a difference, too

	// What is told; the findings become changes when all is graded.
	findings []*finding
	shared   map[sharedKey]*finding // findings that one place makes in several operations
	graded   map[*edit]*finding

	// Answers that are asked for often; filled when first asked for, true until the end.
	closing   map[*contract.Schema]bool                    // parts that speak of all names
	strangers map[*contract.Schema]*contract.Schema        // what a side demands of names that it does not declare, by the side
	templated map[*contract.Contract][]*contract.Operation // those with parameters in their paths
	paths     map[*contract.Contract]map[pathKey]*source.Node
	ways      map[requirements]*credentials  // how ways in differ
	samples   map[*contract.Parameter]string // what stands in the places of path parameters
}

// finding is a change in the making.
type finding struct {
	kind              string
	backward, forward Grade
	undecided         bool
	operation         string
	at                Location
	title, why        string
	advice            []string
	renamed, moved    *FromTo
	left              []string
	was, is           *value.Value
	old, new          *source.Node
	reach             []string
	reached           map[string]bool // the reach, once it grows
	detail            string          // what tells it from others of its kind at its place
	witnesses         []*Witness
}

// sharedKey names an edit of something that several operations may share: a parameter, a response, a security scheme.
type sharedKey struct {
	kind     string
	old, new *source.Node
	detail   string
}

// add keeps a finding; the same edit met again, through another operation, only widens its reach and worsens its grade.
func (c *comparer) add(f *finding, detail string) {
	key := sharedKey{f.kind, f.old, f.new, detail}
	if f.old == nil && f.new == nil {
		key.detail += " " + f.operation
	}
	if known := c.shared[key]; known != nil {
		known.widen(f)
		return
	}
	f.detail = detail
	c.shared[key] = f
	c.findings = append(c.findings, f)
}

func (f *finding) widen(more *finding) {
	for _, op := range more.reach {
		f.reaches(op)
	}
	if more.backward > f.backward {
		f.title, f.why, f.at, f.operation = more.title, more.why, more.at, more.operation
	}
	f.backward, f.forward = max(f.backward, more.backward), max(f.forward, more.forward)
	f.undecided = f.undecided || more.undecided
	for _, w := range more.witnesses {
		has := slices.ContainsFunc(f.witnesses, func(o *Witness) bool { return o.Direction == w.Direction })
		if !has {
			f.witnesses = append(f.witnesses, w)
		}
	}
}

// reaches adds an operation to the reach.
func (f *finding) reaches(op string) {
	if f.reached == nil {
		f.reached = make(map[string]bool, len(f.reach)+1)
		for _, known := range f.reach {
			f.reached[known] = true
		}
	}
	if !f.reached[op] {
		f.reached[op] = true
		f.reach = append(f.reach, op)
	}
}

// changes turns the findings into changes: the worst first, then in the order of the new file, deletions where they stood.
func (c *comparer) changes() []*Change {
	changes := make([]*Change, 0, len(c.findings))
	ids := map[string]int{}
	for _, f := range c.findings {
		ch := c.change(f)
		c.write(ch)
		ids[ch.ID]++
		if n := ids[ch.ID]; n > 1 {
			ch.ID += "-" + strconv.Itoa(n)
		}
		changes = append(changes, ch)
	}
	sort.SliceStable(changes, func(i, j int) bool {
		a, b := changes[i], changes[j]
		if a.Backward != b.Backward {
			return a.Backward > b.Backward
		}
		if a.Forward != b.Forward {
			return a.Forward > b.Forward
		}
		return a.line() < b.line()
	})
	return changes
}

func (c *Change) line() int {
	part := c.Location.Part
	if c.New != nil && !(c.Old != nil && strings.HasSuffix(c.Kind, ".removed") && (part == PartOperation || part == PartParameter)) {
		return c.New.Line
	}
	return c.Old.Line
}

func (c *comparer) change(f *finding) *Change {
	if f.at.Part == "" {
		f.at.Part = PartOperation
	}
	ch := &Change{
		Kind: f.kind, Backward: f.backward, Forward: f.forward, Undecided: f.undecided,
		Operation: f.operation, At: f.at.String(), Location: f.at, Title: f.title, Why: cmp.Or(f.why, meaning(f.kind)), Advice: f.advice,
		Renamed: f.renamed, Moved: f.moved, Left: f.left, Was: f.was, Is: f.is, Reach: f.reach,
	}
	if ch.Reach == nil {
		ch.Reach = []string{}
	}
	if ch.Advice == nil {
		ch.Advice = waysFor(ch)
	}
	ch.Old, ch.New = c.named[0].place(f.old), c.named[1].place(f.new)
	sort.SliceStable(f.witnesses, func(i, j int) bool { return f.witnesses[i].Direction < f.witnesses[j].Direction })
	for _, w := range f.witnesses {
		w.Refuser = w.refuser(c.old.Version, c.new.Version)
	}
	if len(f.witnesses) > 0 {
		ch.Witness = f.witnesses[0]
	}
	if len(f.witnesses) > 1 {
		ch.Witnesses = f.witnesses
	}
	ch.ID = f.fingerprint(ch)
	return ch
}
