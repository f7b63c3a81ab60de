package ledger

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/edit"
	"oldledger/core/housestyle"
	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// StyleScope is whose a house style is: a team's, an API's, or, where it says neither, the house's. A team's builds on the house's,
// and an API's on that of its team.
type StyleScope struct{ Team, API string }

func (s StyleScope) stored() string {
	switch {
	case s.API != "":
		return "api " + s.API
	case s.Team != "":
		return "team " + s.Team
	}
	return ""
}

// String is whose it is, in words.
func (s StyleScope) String() string {
	switch {
	case s.API != "":
		return s.API
	case s.Team != "":
		return "the team " + s.Team
	}
	return "the house"
}

func styleScope(stored string) StyleScope {
	switch kind, name, _ := strings.Cut(stored, " "); kind {
	case "api":
		return StyleScope{API: name}
	case "team":
		return StyleScope{Team: name}
	}
	return StyleScope{}
}

// Style is one version of a house style.
type Style struct {
	Of      StyleScope
	Version int
	Text    string // a style file; "" where it was taken away
	Reason  string
	MadeAt  string
	MadeBy  string
}

func styleOf(row records.Style) Style {
	return Style{styleScope(row.Scope), row.Version, row.Text, row.Reason, row.MadeAt, row.MadeBy}
}

// InForce is a house style as it is in force somewhere.
type InForce struct {
	*housestyle.Style
	Texts []Style // what it consists of: the house's, the team's, the API's, those that there are
	Name  string  // with the versions that speak: "Saltmere Harbour 3, Quayside 1"
	Fault string  // why a part of it is left out, "" where none is: it was kept by another version of the ledger

	key   string
	names []string // of the parts
}

const (
	maxStyle       = 256 << 10 // bytes of a style file
	maxStyles      = 64        // of what is kept in memory
	credentialRule = "credential-shown"
	styleSubject   = "style "
	maxStyleListed = 30
)

// seesStyle refuses whoever may not read a style: the house's is for whoever signed in, all others for those who see inside.
func (l *Ledger) seesStyle(who Actor, of StyleScope) error {
	switch {
	case of.API != "":
		return l.may(who, ReadInside, of.API)
	case of.Team != "":
		return mayIn(who, ReadInside, of.Team, "")
	}
	return mayIn(who, SeeStyle, "", "")
}

// Styles are the newest versions of a house style, the newest first.
func (l *Ledger) Styles(ctx context.Context, who Actor, of StyleScope) ([]Style, error) {
	if err := l.seesStyle(who, of); err != nil {
		return nil, err
	}
	w := l.view(who)
	if err := w.styled(ctx, of); err != nil {
		return nil, err
	}
	rows, err := w.rows.Styles(ctx, of.stored())
	if err != nil {
		return nil, err
	}
	all := []Style{}
	for _, row := range rows[:min(len(rows), maxStyleListed)] {
		all = append(all, styleOf(row))
	}
	return all, nil
}

// styled refuses a scope that is not there.
func (w view) styled(ctx context.Context, of StyleScope) error {
	if of.API != "" {
		_, err := w.api(ctx, of.API)
		return err
	}
	if of.Team == "" {
		return nil
	}
	teams, err := w.rows.Teams(ctx)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(teams, func(t records.Team) bool { return t.Name == of.Team }) {
		return refuse(NotFound, "there is no team %s", of.Team)
	}
	return nil
}

// StyleOf is the house style that is in force for an API, a team, or in the house.
func (l *Ledger) StyleOf(ctx context.Context, who Actor, of StyleScope) (InForce, error) {
	if err := l.seesStyle(who, of); err != nil {
		return InForce{}, err
	}
	w := l.view(who)
	if err := w.styled(ctx, of); err != nil {
		return InForce{}, err
	}
	if of.API != "" {
		of.Team = l.teamOf(of.API)
	}
	return w.inForce(ctx, of.API, of.Team)
}

// inForce reads the style of an API, or of a team, or of the house, each on that above it.
func (w view) inForce(ctx context.Context, api, team string) (InForce, error) {
	newest, err := w.newestOf(ctx, scopesOf(api, team))
	if err != nil {
		return InForce{}, err
	}
	return w.read(partsOf(newest, api, team)), nil
}

// scopesOf are the scopes whose styles are in force for an API, or a team, or in the house: from the house's down.
func scopesOf(api, team string) []string {
	scopes := []string{""}
	if team != "" {
		scopes = append(scopes, StyleScope{Team: team}.stored())
	}
	if api != "" {
		scopes = append(scopes, StyleScope{API: api}.stored())
	}
	return scopes
}

// partsOf are the styles of which that of an API, a team or the house consists. newest are the newest versions, by scope.
func partsOf(newest map[string]records.Style, api, team string) []Style {
	var parts []Style
	for _, scope := range scopesOf(api, team) {
		if row := newest[scope]; row.Text != "" {
			parts = append(parts, styleOf(row))
		}
	}
	return parts
}

// read makes one style of its parts, once for the same ones.
func (l *Ledger) read(parts []Style) InForce {
	key := ""
	for _, p := range parts {
		key += fmt.Sprintf("%q %s\n", p.Of.stored(), digest([]byte(p.Text), nil))
	}
	if known, ok := l.styles.Get(key); ok {
		known.Texts = parts
		known.Name = known.named()
		return known
	}
	made := InForce{Style: housestyle.Ours(), Texts: parts, key: key}
	for _, p := range parts {
		next, err := readStyle(p.Of, []byte(p.Text), made.Style)
		if err != nil {
			made.Fault = fmt.Sprintf("the style of %s is left out: %s", p.Of, err)
			made.names = append(made.names, p.Of.String())
			continue
		}
		made.Style = next
		made.names = append(made.names, next.Name)
	}
	made.Name = made.named()
	l.styles.Add(key, made)
	return made
}

// readStyle reads a style file on a style. The error tells all that is wrong with it.
func readStyle(of StyleScope, text []byte, base *housestyle.Style) (*housestyle.Style, error) {
	name := strings.ReplaceAll(of.stored(), " ", "-")
	if name == "" {
		name = "house"
	}
	f, err := source.Parse(name+"-style.yaml", text)
	if err != nil {
		return nil, err
	}
	return housestyle.Read(f, base)
}

// named is the name of a style with the versions of its parts.
func (in InForce) named() string {
	words := make([]string, len(in.Texts))
	for i, p := range in.Texts {
		words[i] = fmt.Sprintf("%s %d", in.names[i], p.Version)
	}
	return strings.Join(words, ", ")
}

// PutStyle keeps a new version of a house style; an empty text takes it away. last is the newest version that whoever writes it has
// seen, 0 for none. It is refused where it cannot be read, where one of its rules does not say of its examples what they stand for,
// and where a style that builds on it could not be read any more.
func (l *Ledger) PutStyle(ctx context.Context, who Actor, of StyleScope, text, reason string, last int) (Style, error) {
	if err := l.maySetStyle(who, of); err != nil {
		return Style{}, err
	}
	if len(text) > maxStyle {
		return Style{}, refuse(Invalid, "a style file has at most %d bytes", maxStyle)
	}
	if len(reason) > maxReason {
		return Style{}, refuse(Invalid, "a reason has at most %d characters", maxReason)
	}
	w := l.view(who)
	if err := w.styled(ctx, of); err != nil {
		return Style{}, err
	}
	var tried string // the styles with which it was tried
	prepare := func(w view) error {
		newest, seen, err := w.newestStyles(ctx)
		if err != nil {
			return err
		}
		tried = seen
		return w.tryStyle(ctx, of, text, newest)
	}
	var made Style
	err := w.prepared(ctx, of.API, prepare, func(w view) error {
		all, seen, err := w.newestStyles(ctx)
		if err != nil {
			return err
		}
		if seen != tried {
			return errMoved
		}
		newest := all[of.stored()] // of version 0 where there is none
		switch {
		case newest.Version != last:
			return refuse(Conflict, "the style of %s is at version %d by now, and you changed version %d; read it again", of, newest.Version, last)
		case newest.Text == text:
			return refuse(Conflict, "the style of %s says that already", of)
		}
		if w.termsIn(newest.Text, housestyle.Terms{}) == w.termsIn(text, housestyle.Terms{}) {
			w.quiet() // readers see what is promised, and how early it is announced
		}
		row := records.Style{
			Scope: of.stored(), Version: newest.Version + 1, Text: text, Reason: reason, MadeAt: w.stamp(), MadeBy: w.who.Name,
		}
		if err := w.rows.PutStyle(ctx, row); err != nil {
			return err
		}
		made = styleOf(row)
		return w.appendJournal(ctx, "style.set", styleSubjectOf(of), map[string]string{
			"scope": row.Scope, "version": fmt.Sprint(row.Version), "digest": digest([]byte(text), nil), "reason": reason,
		})
	})
	return made, err
}

// styleSubjectOf is the subject of an entry about a style: the API where it is one's.
func styleSubjectOf(of StyleScope) string {
	if of.API != "" {
		return of.API
	}
	return strings.TrimSpace(styleSubject + cmp.Or(of.stored(), "house"))
}

func (l *Ledger) maySetStyle(who Actor, of StyleScope) error {
	switch {
	case of.API != "":
		return l.may(who, SetStyle, of.API)
	case of.Team != "":
		return mayIn(who, SetStyle, of.Team, "")
	}
	return mayIn(who, SetHouse, "", "")
}

// newestStyles are the newest versions of all styles, by scope, and what tells them from others.
func (w view) newestStyles(ctx context.Context) (newest map[string]records.Style, seen string, err error) {
	rows, err := w.rows.NewestStyles(ctx)
	if err != nil {
		return nil, "", err
	}
	newest = map[string]records.Style{}
	for _, row := range rows {
		newest[row.Scope] = row
		seen += fmt.Sprintf("%q %d\n", row.Scope, row.Version)
	}
	return newest, seen, nil
}

// tryStyle refuses a style that cannot be read, whose rules do not say of their examples what they should, or with which one that
// builds on it could not be read any more.
func (w view) tryStyle(ctx context.Context, of StyleScope, text string, newest map[string]records.Style) error {
	var err error
	if waited := w.Heavily(ctx, func() {
		if err = w.tryExamples(ctx, of, text, newest); err == nil {
			newest[of.stored()] = records.Style{Scope: of.stored(), Text: text}
			err = w.tryAbove(ctx, of, newest)
		}
	}); waited != nil {
		return waited
	}
	return err
}

func (w view) tryExamples(ctx context.Context, of StyleScope, text string, newest map[string]records.Style) error {
	if text == "" {
		return nil
	}
	var below []Style
	switch {
	case of.API != "":
		below = partsOf(newest, "", w.teamOf(of.API))
	case of.Team != "":
		below = partsOf(newest, "", "")
	}
	style, err := readStyle(of, []byte(text), w.read(below).Style)
	if wrong := source.Diagnostics(nil); errors.As(err, &wrong) {
		return refuse(Invalid, "the style cannot be used: %s", wrong)
	}
	if err != nil {
		return err
	}
	trials, err := style.TryOwn(ctx)
	if err != nil {
		return err
	}
	said := ""
	for _, t := range trials {
		if !t.OK() {
			said += fmt.Sprintf("\n%s: %s", t.Rule, t.Said())
		}
	}
	if said != "" {
		return refuse(Invalid, "the style cannot be used, because rules do not say of their examples what they should:%s", said)
	}
	return nil
}

// tryAbove refuses newest styles with which one that builds on that of a scope could not be read.
func (w view) tryAbove(ctx context.Context, of StyleScope, newest map[string]records.Style) error {
	if of.API != "" {
		return nil
	}
	for _, stored := range slices.Sorted(maps.Keys(newest)) {
		scope := styleScope(stored)
		team := scope.Team
		if scope.API != "" {
			team = w.teamOf(scope.API)
		}
		if newest[stored].Text == "" || stored == of.stored() || of.Team != "" && team != of.Team {
			continue
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if in := w.read(partsOf(newest, scope.API, team)); in.Fault != "" {
			return refuse(Conflict, "others build on it: %s", in.Fault)
		}
	}
	return nil
}

// Findings are what does not follow the house style in a version.
type Findings struct {
	Style InForce
	housestyle.Findings
	Score housestyle.Score
	New   map[*housestyle.Finding]bool // those that the newest published version before it has not; nil where there is none
}

// FindingsOf are the findings of a version as it is in force today, for those who see inside.
func (l *Ledger) FindingsOf(ctx context.Context, who Actor, ref string) (Findings, error) {
	w := l.view(who)
	v, err := w.inside(ctx, ref)
	if err != nil {
		return Findings{}, err
	}
	found, err := w.allFindings(ctx, v)
	if err != nil {
		return Findings{}, err
	}
	before, _, err := w.beside(ctx, v)
	if err != nil || before.Number == "" {
		return found, err
	}
	old, err := w.allFindings(ctx, before)
	if err != nil {
		return Findings{}, err
	}
	found.New = map[*housestyle.Finding]bool{}
	for _, f := range found.Findings.New(old.Findings) {
		found.New[f] = true
	}
	return found, nil
}

// allFindings are those of a version, with what is wrong with its description.
func (w view) allFindings(ctx context.Context, v Version) (Findings, error) {
	found, err := w.findings(ctx, v)
	if err != nil {
		return found, err
	}
	wrong, err := w.diagnostics(ctx, v)
	if err != nil {
		return found, err
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return found, err
	}
	found.Findings = found.Findings.With(wrong, c.Node.File().Name)
	return found, nil
}

// FindingID names what is found and where, not the line on which it stands today.
func FindingID(f *housestyle.Finding) string { return mistakeID(f.Diagnostic) }

// Mend mends findings of a draft without a thought: those of some ids, or all that can be. The draft must still be the one of a
// digest. It is recorded anew, and gives how many were mended.
func (l *Ledger) Mend(ctx context.Context, who Actor, ref, asRead string, ids []string) (Recorded, int, error) {
	w := l.view(who)
	if err := l.may(who, Record, apiOf(ref)); err != nil {
		return Recorded{}, 0, err
	}
	v, err := w.inside(ctx, ref)
	if err != nil {
		return Recorded{}, 0, err
	}
	switch {
	case v.State != Draft:
		return Recorded{}, 0, refuse(Conflict, "%s is published and never changes; mend it in the next version", v.Ref())
	case v.Digest != asRead:
		return Recorded{}, 0, refuse(Conflict, "%s is not as you last read it; read it again", v.Ref())
	}
	c, err := w.content(ctx, v)
	if err != nil {
		return Recorded{}, 0, err
	}
	style, err := w.inForce(ctx, v.API, w.teamOf(v.API))
	if err != nil {
		return Recorded{}, 0, err
	}
	s := Submission{
		API: v.API, Number: v.Text, File: c.file, Text: c.text, Others: texts(c.others), IfMatch: v.Digest,
	}
	mended := 0
	if err := w.readSet(ctx, c.file, c.text, s.Others, func(read *contract.Contract, set *source.Set) error {
		found, err := housestyle.Examine(ctx, read, style.Style, housestyle.Options{Files: set.Files()})
		if err != nil {
			return err
		}
		if len(ids) > 0 {
			found = slices.DeleteFunc(found, func(f *housestyle.Finding) bool { return !slices.Contains(ids, FindingID(f)) })
		}
		for _, f := range set.Files() {
			changes, done := found.Mend(f)
			mended += len(done)
			if text := edit.Apply(f.Text, changes); f == set.Entry {
				s.Text = text
			} else {
				s.Others[f.Path()] = text
			}
		}
		return nil
	}); err != nil {
		return Recorded{}, 0, err
	}
	if mended == 0 {
		return Recorded{}, 0, refuse(Conflict, "nothing of that can be mended without a thought in %s", v.Ref())
	}
	s.Message = fmt.Sprintf("%d findings of the house style are mended.", mended)
	if mended == 1 {
		s.Message = "A finding of the house style is mended."
	}
	rec, err := l.Record(ctx, who, s)
	return rec, mended, err
}

// maxVocabulary is of how many APIs the names are compared.
const maxVocabulary = 300

// Vocabulary is how the APIs that the actor reads name their fields, each by its newest published version; left is how many are left
// out.
func (l *Ledger) Vocabulary(ctx context.Context, who Actor) (words housestyle.Vocabulary, left int, err error) {
	if err := l.seesStyle(who, StyleScope{}); err != nil {
		return words, 0, err
	}
	w := l.view(who)
	apis, err := w.apis(ctx)
	if err != nil {
		return words, 0, err
	}
	words.Words = []housestyle.Word{}
	for i, a := range apis {
		if i >= maxVocabulary {
			return words, len(apis) - i, nil
		}
		var newest *Version
		for j, v := range a.Versions {
			if (v.State == Published || v.State == Deprecated) && (newest == nil || newest.number.LessThan(v.number)) {
				newest = &a.Versions[j]
			}
		}
		if newest == nil {
			continue
		}
		own, err := w.vocabularyOf(ctx, *newest)
		if err != nil {
			return words, 0, err
		}
		words = words.With(own)
	}
	return words, 0, nil
}

// vocabularyOf is how one version names its fields, as the actor reads it.
func (w view) vocabularyOf(ctx context.Context, v Version) (housestyle.Vocabulary, error) {
	v, err := w.asRead(ctx, v)
	if err != nil {
		return housestyle.Vocabulary{}, err
	}
	key := v.API + " " + v.content()
	if known, ok := w.named.Get(key); ok {
		return known, nil
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return housestyle.Vocabulary{}, err
	}
	var words housestyle.Vocabulary
	if waited := w.Heavily(ctx, func() { words = housestyle.VocabularyOf(ctx, v.API, c) }); waited != nil {
		return words, waited
	}
	w.named.Add(key, words)
	return words, nil
}

// judgement is what is kept of judging a content: nothing of the description itself.
type judgement struct {
	found housestyle.Findings
	score housestyle.Score
}

// findings judges a version by the style that is in force, once for each content and style.
func (w view) findings(ctx context.Context, v Version) (Findings, error) {
	style, err := w.inForce(ctx, v.API, w.teamOf(v.API))
	if err != nil {
		return Findings{}, err
	}
	v, err = w.asRead(ctx, v)
	if err != nil {
		return Findings{}, err
	}
	base, live, err := w.beside(ctx, v)
	if err != nil {
		return Findings{}, err
	}
	notices, announced, err := w.noticesOf(ctx, v)
	if err != nil {
		return Findings{}, err
	}
	key := fmt.Sprintf("%s\n%s\n%s\n%q\n%s", v.content(), style.key, base.content(), live, announced)
	if known, ok := w.judged.Get(key); ok {
		return Findings{Style: style, Findings: known.found, Score: known.score}, nil
	}
	c, err := w.content(ctx, v)
	if err != nil {
		return Findings{}, err
	}
	var before *contract.Contract
	if base.Number != "" {
		if before, err = w.contract(ctx, base); err != nil {
			return Findings{}, err
		}
	}
	made, err := w.styleFlight.Do(ctx, key, func(ctx context.Context) (made judgement, err error) {
		err = w.readSet(ctx, c.file, c.text, texts(c.others), func(read *contract.Contract, set *source.Set) error {
			found, err := housestyle.Check(ctx, read, style.Style, housestyle.Options{
				Files: set.Files(), Base: before, Live: live, API: v.API, Notices: notices,
			})
			made = judgement{found.Detached(), housestyle.ScoreOf(ctx, read, found)}
			return err
		})
		if err == nil {
			w.judged.Add(key, made)
		}
		return made, err
	})
	return Findings{Style: style, Findings: made.found, Score: made.score}, err
}

// noticesOf are the notices that speak of a version or of something in it, and what of them rules may ask for.
func (w view) noticesOf(ctx context.Context, v Version) (notices []promise.Notice, announced string, err error) {
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return nil, "", err
	}
	for _, n := range a.Notices {
		if n.Covers(v.Number, v.Line) {
			notices = append(notices, n)
			announced += fmt.Sprintf("%q ", []string{n.Part(), n.Sunset, n.ReplacedBy})
		}
	}
	return notices, announced, nil
}

// beside is what else there is of a version's API, as the actor reads it: the published version before it, without a number where
// there is none, and the numbers of those that are alive.
func (w view) beside(ctx context.Context, v Version) (before Version, live []string, err error) {
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return before, nil, err
	}
	for _, o := range a.Versions {
		if o.State != Published && o.State != Deprecated || o.Number == v.Number {
			continue
		}
		live = append(live, o.Number)
		if o.number.LessThan(v.number) && (before.number == nil || before.number.LessThan(o.number)) {
			before = o
		}
	}
	if before.number != nil {
		before, err = w.asRead(ctx, before)
	}
	return before, live, err
}

// broken are the findings that are errors: what the gate asks to be mended. Credentials have a question of their own there.
func (w view) broken(ctx context.Context, v Version) (source.Diagnostics, error) {
	found, err := w.findings(ctx, v)
	if err != nil {
		return nil, err
	}
	broken := slices.DeleteFunc(found.Diagnostics(), func(d *source.Diagnostic) bool {
		return d.Severity < source.Error || d.Rule == credentialRule
	})
	if found.Style.Fault != "" { // what cannot be judged is not taken for kept
		c, err := w.contract(ctx, v)
		if err != nil {
			return nil, err
		}
		d := c.Node.Wrong(housestyle.StyleBroken, "%s; set that style anew", strings.Join(strings.Fields(found.Style.Fault), " "))
		broken = append(broken, d)
	}
	return broken, nil
}
