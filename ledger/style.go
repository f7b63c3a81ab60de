package ledger

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/edit"
	"oldledger/core/housestyle"
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
	maxStyleListed = 100
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

// Styles are the versions of a house style, the newest first.
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
	newest, err := w.rows.NewestStyles(ctx)
	if err != nil {
		return InForce{}, err
	}
	scopes := []string{""}
	if team != "" {
		scopes = append(scopes, StyleScope{Team: team}.stored())
	}
	if api != "" {
		scopes = append(scopes, StyleScope{API: api}.stored())
	}
	var parts []Style
	for _, scope := range scopes {
		for _, row := range newest {
			if row.Scope == scope && row.Text != "" {
				parts = append(parts, styleOf(row))
			}
		}
	}
	return w.read(parts), nil
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
	var tried string // the style on which the examples were judged
	prepare := func(w view) error {
		base, err := w.below(ctx, of)
		if err != nil {
			return err
		}
		tried = base.key
		return l.tryStyle(ctx, of, text, base.Style)
	}
	var made Style
	err := w.prepared(ctx, of.API, prepare, func(w view) error {
		w.quiet()
		base, err := w.below(ctx, of)
		if err != nil {
			return err
		}
		if base.key != tried {
			return errMoved
		}
		rows, err := w.rows.Styles(ctx, of.stored())
		if err != nil {
			return err
		}
		newest := 0
		if len(rows) > 0 {
			newest = rows[0].Version
		}
		switch {
		case newest != last:
			return refuse(Conflict, "the style of %s is at version %d by now, and you changed version %d; read it again", of, newest, last)
		case len(rows) > 0 && rows[0].Text == text || len(rows) == 0 && text == "":
			return refuse(Conflict, "the style of %s says that already", of)
		}
		row := records.Style{
			Scope: of.stored(), Version: newest + 1, Text: text, Reason: reason, MadeAt: w.stamp(), MadeBy: w.who.Name,
		}
		if err := w.rows.PutStyle(ctx, row); err != nil {
			return err
		}
		if err := w.above(ctx, of); err != nil {
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

// below is the style on which one builds.
func (w view) below(ctx context.Context, of StyleScope) (InForce, error) {
	switch {
	case of.API != "":
		return w.inForce(ctx, "", w.teamOf(of.API))
	case of.Team != "":
		return w.inForce(ctx, "", "")
	}
	return w.Ledger.read(nil), nil
}

// tryStyle reads a style file and judges the examples of its rules.
func (l *Ledger) tryStyle(ctx context.Context, of StyleScope, text string, base *housestyle.Style) error {
	if text == "" {
		return nil
	}
	var err error
	if waited := l.Heavily(ctx, func() { err = tryStyle(ctx, of, text, base) }); waited != nil {
		return waited
	}
	return err
}

func tryStyle(ctx context.Context, of StyleScope, text string, base *housestyle.Style) error {
	style, err := readStyle(of, []byte(text), base)
	if wrong := source.Diagnostics(nil); errors.As(err, &wrong) {
		return refuse(Invalid, "the style cannot be used: %s", wrong)
	}
	if err != nil {
		return err
	}
	var b bytes.Buffer
	for _, r := range style.Rules {
		if !r.Own {
			continue
		}
		trials, err := style.Try(ctx, r)
		if err != nil {
			return err
		}
		for _, t := range trials {
			if !t.OK() {
				fmt.Fprintf(&b, "\n%s: %s", t.Rule, t.Said())
			}
		}
	}
	if b.Len() > 0 {
		return refuse(Invalid, "the style cannot be used, because rules do not say of their examples what they should:%s", b.String())
	}
	return nil
}

// above refuses a style with which one that builds on it could not be read.
func (w view) above(ctx context.Context, of StyleScope) error {
	if of.API != "" {
		return nil
	}
	newest, err := w.rows.NewestStyles(ctx)
	if err != nil {
		return err
	}
	for _, row := range newest {
		scope := styleScope(row.Scope)
		team := scope.Team
		if scope.API != "" {
			team = w.teamOf(scope.API)
		}
		if row.Text == "" || row.Scope == "" || of.Team != "" && team != of.Team {
			continue
		}
		in, err := w.inForce(ctx, scope.API, team)
		if err != nil {
			return err
		}
		if in.Fault != "" {
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
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return Findings{}, err
	}
	var before *Version
	for i, o := range a.Versions {
		if o.State != Draft && o.number.LessThan(v.number) && (before == nil || before.number.LessThan(o.number)) {
			before = &a.Versions[i]
		}
	}
	if before == nil {
		return found, nil
	}
	old, err := w.allFindings(ctx, *before)
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
	key := fmt.Sprintf("%s\n%s\n%s\n%q", v.content(), style.key, base.content(), live)
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
				Files: set.Files(), Base: before, Live: live, API: v.API,
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
	return slices.DeleteFunc(found.Diagnostics(), func(d *source.Diagnostic) bool {
		return d.Severity < source.Error || d.Rule == credentialRule
	}), nil
}
