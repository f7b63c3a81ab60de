package compare

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// edit is one difference between the two schemas of a pair, wherever it is reached from.
type edit struct {
	once     string // what makes two edits at one place one, where their titles name the schemas that feel it
	pair     *pair
	kind     string // without the prefix for where it is met: "property.added"
	ranged   bool   // whether the kind ends in -narrowed, -widened or -changed
	old, new *source.Node
	member   string // the property that the edit is about, "" for the schema itself
	tag      string // the property whose values tell alternatives apart, where the edit is about one of them
	title    string
	advice   []string
	renamed  *FromTo
	left     []string     // the listed values that are no longer there
	was, is  *value.Value // of a default, a tag's value: before and after; nil for what is not there
	values   [2]string    // of two lists of values: those that the old and the new side alone has, in words; "" where this is none
	held     string       // how a request has one of them: "with" where it is ""

	// What each side demands here. nil on both sides: the edit says nothing about values.
	partOld, partNew *contract.Schema
	// What the old side demands where that is not partOld: to tell how the set changed.
	setOld *contract.Schema
	// The properties that a message must hold for the edit to be felt, on the old and the new side; "" for none.
	needOld, needNew string
	// least is the lowest grade that the edit can have.
	least Grade
	// hazard tells what a proved inclusion does not: meaning that is lost although no message is refused.
	hazard func(s sense) (why string, feared bool)

	// silent tells in which roles the edit says nothing; nil for none. Unheard is its title where it says nothing in any.
	silent  func(shape.Role) bool
	unheard string
	// last tells of an edit whose parts are all that its sides demand: it is asked for what the other edits of its pair leave.
	last bool

	// unclear says why nobody can tell what the edit does, "" for all others.
	unclear string

	met       []occurrence
	verdicts  map[question]verdict // of its pair
	instances []*edit              // the same edit as it stands in other pairs, with verdicts of theirs
}

// maxInstances bounds the pairs in which one edit is asked about. What it does in others verifyPairs finds.
const maxInstances = 48

// in is the edit as it stands in a pair.
func (e *edit) in(p *pair) *edit {
	for _, f := range e.instances {
		if f.pair == p {
			return f
		}
	}
	return e
}

// question is asked of an edit in each role and direction.
type question struct {
	role      shape.Role
	direction Direction
}

// before is the set that became partNew by this edit alone.
func (e *edit) before() *contract.Schema {
	if e.setOld != nil {
		return e.setOld
	}
	return e.partOld
}

// parts are what the sender's and the receiver's side demand here.
func (e *edit) parts(s sense) (sender, receiver *contract.Schema) {
	if s.senderIsOld() {
		return e.partOld, e.partNew
	}
	return e.partNew, e.partOld
}

// detail tells an edit from others of its kind at its place.
func (e *edit) detail() string {
	if e.once == "" && e.renamed != nil {
		return e.renamed.From + " " + e.renamed.To
	}
	return cmp.Or(e.once, e.member)
}

type editKey struct {
	kind     string
	old, new *source.Node
	detail   string
}

// sense is a direction seen from one position: who sends, and whose version the sender has.
type sense struct {
	direction   Direction
	clientSends bool
}

// senderIsOld tells which version the sender of a message has.
func (s sense) senderIsOld() bool { return (s.direction == Backward) == s.clientSends }

// when begins a sentence about what happens in this direction.
func (s sense) when() string {
	if s.direction == Forward {
		return "after a rollback "
	}
	return ""
}

// occurrence is one position that reaches an edit.
type occurrence struct {
	at   *position
	way  []step
	pair *pair // that is reached
}

// position is one place in an operation where messages stand.
type position struct {
	operation string
	subject   string // what a title calls it: "the request body", "limit"
	at        Location
	old, new  *contract.Schema
	role      shape.Role // Sends is set for each question
}

func (p *position) sides(s sense) (sender, receiver *contract.Schema) {
	if s.senderIsOld() {
		return p.old, p.new
	}
	return p.new, p.old
}

func sending(r shape.Role) shape.Role {
	r.Sends = true
	return r
}

// verdict is what an edit does at one position in one direction.
type verdict struct {
	grade     Grade
	undecided bool
	why       string
	witness   *Witness
	refused   bool         // whether a message is refused: by what is meant, where the grade is no worse than a hazard
	local     *value.Value // what stands in the witness at the place of the edit
}

// judge decides an edit in one direction, for all positions of one role that reach it: met.
func (c *comparer) judge(e *edit, role shape.Role, d Direction, met []occurrence) verdict {
	if e.unclear != "" {
		return verdict{grade: Hazard, undecided: true, why: e.unclear}
	}
	s := sense{d, role.Request}
	if e.partOld == nil && e.partNew == nil {
		return c.fears(e, s, verdict{grade: e.least})
	}
	sender, _ := e.pair.ordered(s)
	_, part := e.parts(s)
	need := e.needOld
	if !s.senderIsOld() {
		need = e.needNew
	}
	sent := c.sent(sender, role, met)
	if need != "" {
		sent = c.space.All(sent, c.space.InProperty(need, c.space.Any()))
	}
	local := []shape.Shape{sent, c.space.Not(c.demanded(e, part, role))}
	if e.last {
		local = append(local, c.known(e.pair, question{role, d})...)
	}
	return c.shown(e, s, role, met, c.space.All(local...), verdict{grade: max(e.least, Safe)})
}

// sent is what may stand where a pair is met: where that is a branch, what stands beside it, too.
func (c *comparer) sent(sender *contract.Schema, role shape.Role, met []occurrence) shape.Shape {
	for _, o := range met {
		if n := len(o.way); n > 0 && o.way[n-1].kind == stepBranch {
			return c.space.Beside(sender, sending(role))
		}
	}
	return c.space.Lower(sender, sending(role))
}

// demanded is what a part of an edit demands of who receives.
func (c *comparer) demanded(e *edit, part *contract.Schema, role shape.Role) shape.Shape {
	return c.space.Lower(c.asked(e, part), role)
}

// asked is a part as it is asked about: where a server refuses what is not declared, one that is not about that leaves it open.
func (c *comparer) asked(e *edit, part *contract.Schema) *contract.Schema {
	if c.options.Undeclared == Refused && part != e.pair.old && part != e.pair.new {
		return c.open(part)
	}
	return part
}

// shown looks for a whole message that holds one of the refused values at the place of an edit; otherwise is the verdict where there is
// none.
func (c *comparer) shown(e *edit, s sense, role shape.Role, met []occurrence, refused shape.Shape, otherwise verdict) verdict {
	local := c.space.Find(refused)
	switch local.Answer {
	case shape.Proved:
		if why := e.pair.unread(); why != "" {
			return verdict{grade: Hazard, undecided: true, why: why} // its keywords may mean something else
		}
		return c.fears(e, s, otherwise)
	case shape.Undecided:
		return verdict{grade: Hazard, undecided: true, why: local.Reason}
	}
	unsure := ""
	for i, o := range met {
		if i == maxEmbeddings {
			unsure = "whether a whole message can hold the refused part was not decided at every place"
			break
		}
		whole, other := o.at.sides(s)
		v := c.embed(c.space.Lower(whole, sending(role)), o.way, s, role, local.Witness, refused, c.space.Lower(other, role))
		switch v.Answer {
		case shape.Refuted:
			if o.at.at.Heir != "" {
				return verdict{
					grade: Hazard, refused: true, local: local.Witness,
					why: fmt.Sprintf("where %s is meant by its tag, %s", o.at.at.Heir, e.refusal(s)),
				}
			}
			shown := v.Witness
			if role.Text {
				shown = shape.Decode(whole, shown)
			}
			return verdict{
				grade: Breaking, refused: true, why: e.refusal(s), local: local.Witness,
				witness: &Witness{Direction: s.direction, Operation: o.at.operation, Position: o.at.at.position(), Value: shown},
			}
		case shape.Undecided:
			unsure = v.Reason
		}
	}
	if unsure != "" {
		return verdict{grade: Hazard, undecided: true, why: unsure}
	}
	return c.fears(e, s, otherwise)
}

// embed looks for a message that is sent, holds a refused part at the end of way, and is refused as a whole: first one with the value that
// was found, then one that shows nothing but such a part, then any.
func (c *comparer) embed(sent shape.Shape, way []step, s sense, role shape.Role, found *value.Value, refused,
	received shape.Shape,
) shape.Verdict {
	for _, part := range []shape.Shape{c.space.Only(found), refused} {
		v := c.space.Find(sent, c.inWhole(way, part, s, role))
		if v.Answer == shape.Refuted {
			if holds, known := c.space.Contains(received, v.Witness); known && !holds {
				return v
			}
		}
		if v.Answer == shape.Proved && part == refused {
			return v
		}
	}
	return c.space.Find(sent, c.inWhole(way, refused, s, role), c.space.Not(received))
}

// unread says which rules of a schema are not known here, or "".
func (p *pair) unread() string {
	for _, s := range []*contract.Schema{p.old, p.new} {
		if len(s.Unsupported()) > 0 {
			return s.Unsupported()[0] + " could not be decided"
		}
	}
	return ""
}

// maxEmbeddings bounds the positions in which a refused part is looked for.
const maxEmbeddings = 8

func (c *comparer) fears(e *edit, s sense, v verdict) verdict {
	if e.hazard == nil {
		return v
	}
	if why, feared := e.hazard(s); feared && v.grade < Hazard {
		return verdict{grade: Hazard, why: why}
	}
	return v
}

// refusal says why this edit breaks, naming the property where it is about one.
func (e *edit) refusal(s sense) string {
	switch {
	case e.member == "" && e.renamed != nil:
		sent, _ := e.names(s)
		if s.clientSends {
			return s.when() + "a request with " + sent + " is refused"
		}
		return s.when() + "clients receive " + sent + ", which they do not know"
	case e.values != [2]string{}:
		sent := e.values[1]
		if s.senderIsOld() {
			sent = e.values[0]
		}
		if s.clientSends {
			return s.when() + "a request " + cmp.Or(e.held, "with") + " " + sent + " is refused"
		}
		return s.when() + "clients receive " + sent + ", which they do not know"
	case e.member == "":
		return refusal(s)
	}
	sender, receiver := e.parts(s)
	senderKnows, receiverKnows := sender.Property(e.member) != nil, receiver.Property(e.member) != nil
	receiverRequires := receiver.Requires(e.member)
	switch {
	case e.renamed != nil:
		return s.when() + e.renamedRefusal(s, receiver)
	case s.clientSends && receiverRequires:
		return s.when() + "a request without " + e.member + " is refused"
	case s.clientSends && senderKnows && !receiverKnows:
		return s.when() + "a request with " + e.member + " is refused"
	case !s.clientSends && receiverRequires:
		return s.when() + "clients were promised " + e.member + ", and it may be missing"
	}
	return refusal(s)
}

// renamedRefusal says why a message with the one name is refused where the other is read; receiver is what is demanded there.
func (e *edit) renamedRefusal(s sense, receiver *contract.Schema) string {
	sent, asked := e.names(s)
	demanded := slices.ContainsFunc(receiver.AllOf, func(part *contract.Schema) bool { return part.Requires(asked) })
	switch {
	case !s.clientSends:
		return "clients look for " + asked + " and find " + sent
	case demanded:
		return asked + " is asked for, and a request with " + sent + " alone is refused"
	}
	return "a request with " + sent + " is refused"
}

// names are those of a renamed property: what the sender writes, and what the receiver reads.
func (e *edit) names(s sense) (sent, asked string) {
	if s.senderIsOld() {
		return e.renamed.From, e.renamed.To
	}
	return e.renamed.To, e.renamed.From
}

// refusal says in a sentence why a refuted inclusion breaks.
func refusal(s sense) string {
	switch {
	case s.clientSends && s.direction == Backward:
		return "a request that was allowed is refused"
	case s.clientSends:
		return "a request that the new version allows is refused by the old one"
	case s.direction == Backward:
		return "clients can receive what the old version ruled out"
	}
	return "after a rollback clients can receive what the new version rules out"
}

// equal reports whether two schemas are one set in two spellings, for senders and for receivers, among the values of
// the types in among (nil: all).
func (c *comparer) equal(a, b *contract.Schema, role shape.Role, among []string) bool {
	for _, sends := range []bool{false, true} {
		role.Sends = sends
		context := c.space.Lower(&contract.Schema{Types: among}, shape.Role{Text: role.Text})
		x, y := c.space.All(context, c.space.Lower(a, role)), c.space.All(context, c.space.Lower(b, role))
		if c.space.Included(x, y).Answer != shape.Proved || c.space.Included(y, x).Answer != shape.Proved {
			return false
		}
	}
	return true
}

// gradeEdits turns every edit that some operation reaches into a finding.
func (c *comparer) gradeEdits() {
	for _, last := range []bool{false, true} {
		for _, e := range c.order {
			if e.last == last {
				c.graded[e] = c.gradeEdit(e)
			}
		}
	}
	for _, e := range c.order {
		c.findings = append(c.findings, c.graded[e])
	}
}

func (c *comparer) gradeEdit(e *edit) *finding { return c.gradeWith(e, c.judge) }

// gradeWith grades an edit in every role in which it is met, as ask decides it.
func (c *comparer) gradeWith(e *edit, ask func(*edit, shape.Role, Direction, []occurrence) verdict) *finding {
	groups := e.groups()
	f := &finding{
		title: e.title, detail: e.detail(), advice: e.advice, renamed: e.renamed, left: e.left, was: e.was, is: e.is, old: e.old,
		new: e.new,
	}
	lead := groups[0].met[0]
	whys := map[Direction]string{}
	asked := false
	for _, g := range groups {
		face, met := e.in(g.pair), shortestFirst(g.met)
		if face.verdicts == nil {
			face.verdicts = map[question]verdict{}
		}
		if face.silent != nil && face.silent(g.role) {
			continue
		}
		if face.partOld != nil && face.least < Safe && face.hazard == nil &&
			c.equal(c.asked(face, face.before()), c.asked(face, face.partNew), g.role, face.pair.commonTypes()) {
			continue
		}
		asked = true
		for _, d := range []Direction{Backward, Forward} {
			v := ask(face, g.role, d, met)
			face.verdicts[question{g.role, d}] = v
			f.undecided = f.undecided || v.undecided
			grade := &f.backward
			if d == Forward {
				grade = &f.forward
			}
			felt := false
			switch {
			case v.grade > *grade:
				*grade, whys[d], felt = v.grade, v.why, true
				if d == Backward {
					lead = met[0]
				}
			case e.values != [2]string{} && v.grade == *grade && v.witness != nil && !strings.Contains(whys[d], v.why):
				// What clients may no longer send is one consequence, what they must now be able to read another.
				whys[d], felt = whys[d]+", and "+v.why, true
			}
			if v.witness != nil && (felt || f.lacks(d)) {
				f.witnesses = append(f.witnesses, v.witness)
			}
		}
	}
	if !asked && e.unheard != "" {
		f.title, whys[Backward] = e.unheard, "it is asked of nobody there"
	}
	f.why = cmp.Or(whys[Backward], whys[Forward])
	f.operation, f.kind = lead.at.operation, lead.at.at.kindPrefix()+"."+
		c.fullKind(e, lead.at.role, f.backward == Editorial && f.forward == Editorial)
	f.at = lead.at.at.below(fieldsOf(lead.way)...)
	if about := cmp.Or(e.member, e.tag); about != "" {
		f.at = f.at.below(about)
	}
	for _, s := range lead.way {
		if s.when != "" {
			f.title = s.when + ", " + f.title
			break
		}
	}
	for _, o := range e.met {
		if o.at.operation != "" {
			f.reaches(o.at.operation)
		}
	}
	return f
}

// group is where an edit is met in one role and in one pair: there the same is asked of it.
type group struct {
	role shape.Role
	pair *pair
	met  []occurrence
}

// groups are those of an edit. Requests come first: what a client sends shows an edit best.
func (e *edit) groups() []*group {
	type key struct {
		role shape.Role
		pair *pair
	}
	known := map[key]*group{}
	var all []*group
	for _, o := range e.met {
		k := key{o.at.role, e.in(o.pair).pair}
		if known[k] == nil {
			known[k] = &group{role: k.role, pair: k.pair}
			all = append(all, known[k])
		}
		known[k].met = append(known[k].met, o)
	}
	slices.SortStableFunc(all, func(a, b *group) int {
		switch {
		case a.role.Request == b.role.Request:
			return 0
		case a.role.Request:
			return -1
		}
		return 1
	})
	return all
}

func (f *finding) lacks(d Direction) bool {
	for _, w := range f.witnesses {
		if w.Direction == d {
			return false
		}
	}
	return true
}

// fullKind adds to a kind about a set of values how the set changed.
func (c *comparer) fullKind(e *edit, role shape.Role, respelled bool) string {
	if !e.ranged {
		return e.kind
	}
	if respelled {
		return e.kind + "-respelled"
	}
	x, y := c.demanded(e, e.before(), role), c.demanded(e, e.partNew, role)
	into := c.space.Included(x, y).Answer == shape.Proved
	from := c.space.Included(y, x).Answer == shape.Proved
	switch {
	case into && from:
		return e.kind + "-changed" // the same values, with another meaning
	case into:
		return e.kind + "-widened"
	case from:
		return e.kind + "-narrowed"
	}
	return e.kind + "-changed"
}

// commonTypes are the types that both sides say alike; nil where they differ.
func (p *pair) commonTypes() []string {
	if p.a == nil || !sameTypes(p.a.schema.Types, p.b.schema.Types) || p.a.null != p.b.null {
		return nil
	}
	if p.a.null && p.a.schema.Types != nil {
		return append(slices.Clone(p.a.schema.Types), "null")
	}
	return p.a.schema.Types
}

// orAny is a schema that may be left out: what stands in its place admits everything, at the place of what holds it.
func orAny(s *contract.Schema, holder *source.Node) *contract.Schema {
	if s == nil {
		return &contract.Schema{Node: holder}
	}
	return s
}

// visit records that a position reaches the edits below the pair of its two schemas.
func (c *comparer) visit(p *position) {
	c.visits++
	root := c.pair(p.old, p.new, p.subject)
	if root.identical {
		return
	}
	for _, r := range c.reach(root) {
		at := p
		if r.heir != nil {
			at = c.asHeir(p, r.heir)
		}
		c.meet(r.pair, occurrence{at, r.way, r.pair})
		for _, e := range r.pair.edits {
			if len(e.met) == 0 {
				c.order = append(c.order, e)
			} else if !c.budget.Step(4) || !c.budget.Hold(48) {
				continue // it is told where it was met first
			}
			e.met = append(e.met, occurrence{at, r.way, r.pair})
		}
	}
}

func joinWords(parts ...string) string {
	var kept []string
	for _, p := range parts {
		if p != "" {
			kept = append(kept, p)
		}
	}
	return strings.Join(kept, ", ")
}
