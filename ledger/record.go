package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// Submission is a description that someone hands in. API and Number are taken from the description where they are "".
type Submission struct {
	API     string
	Number  string
	Team    string
	File    string // the name of the file, for messages; its path from the folder of the description where there are others
	Text    []byte
	Others  map[string][]byte // the other files of the description, by their paths; what nothing refers to is left out
	IfMatch string            // the digest that the version must still have, "" for any
	Message string            // why it is recorded
	Origin  Origin
}

// Recorded says what a submission became, or would become.
type Recorded struct {
	Version Version
	Outcome string // "new", "replaced" (a draft) or "same"
	Base    *Version
	Changes *compare.Comparison // against the base
	Gate    *promise.Gate       // whether it may be published as it is

	Diagnostics source.Tally // what is wrong with the description
}

var apiName = regexp.MustCompile(`^[a-z][a-z0-9-]{0,62}$`)

// Record keeps a submission as a draft. The same content again is the same version; other content under a published
// number is refused.
func (l *Ledger) Record(ctx context.Context, who Actor, s Submission) (Recorded, error) {
	w := l.view(who)
	if err := mayAnywhere(who, Record); err != nil {
		return Recorded{}, err
	}
	row, text, read, err := w.examine(ctx, s)
	if err != nil {
		return Recorded{}, err
	}
	team, err := w.teamFor(ctx, Record, row.API, s.Team)
	if err != nil {
		return Recorded{}, err
	}
	var rec Recorded
	weigh := func(w view) error {
		rec, err = w.evaluate(ctx, row, w.keptNow(records.API{Name: row.API, Team: team}), read, s.IfMatch)
		return err
	}
	err = w.prepared(ctx, row.API, weigh, func(w view) error {
		if err := weigh(w); err != nil {
			return err
		}
		if rec.Outcome == "same" {
			w.quiet()
			return nil
		}
		api, err := w.rows.API(ctx, row.API)
		if isNotFound(err) {
			api, err = records.API{Name: row.API, Team: team, CreatedAt: w.stamp(), NoticeDays: -1}, nil
			if err == nil && team != "" {
				err = w.appendJournal(ctx, "team.set", row.API, map[string]string{"team": team, "before": ""})
			}
		}
		if err != nil {
			return err
		}
		if api.Team != team {
			return refuse(Conflict, "%s went to another team meanwhile; try again", row.API)
		}
		w.quiet()
		if err := w.rows.PutAPI(ctx, api); err != nil {
			return err
		}
		if row.ID, err = w.rows.AddRevision(ctx, row.Revision, text); err != nil {
			return err
		}
		if err := w.rows.PutDraft(ctx, row); err != nil {
			return stale(err, row.API+"@"+row.Number)
		}
		return w.appendJournal(ctx, "version.recorded", rec.Version.Ref(), map[string]string{
			"digest": row.Digest, "file": row.File, "outcome": rec.Outcome, "message": row.Message, "origin": row.Origin,
		})
	})
	return rec, err
}

// DryRun says what recording a submission would do, and records nothing.
func (l *Ledger) DryRun(ctx context.Context, who Actor, s Submission) (Recorded, error) {
	w := l.view(who)
	if err := mayAnywhere(who, DryRun); err != nil {
		return Recorded{}, err
	}
	row, _, read, err := w.examine(ctx, s)
	if err != nil {
		return Recorded{}, err
	}
	team, err := w.teamFor(ctx, DryRun, row.API, s.Team)
	if err != nil {
		return Recorded{}, err
	}
	return w.evaluate(ctx, row, w.keptNow(records.API{Name: row.API, Team: team}), read, s.IfMatch)
}

// examine reads a submission and makes its rows.
func (w view) examine(ctx context.Context, s Submission) (records.Version, records.Content, submitted, error) {
	file := strings.ReplaceAll(s.File, `\`, "/")
	if len(s.Others) == 0 {
		file = path.Base(file)
	}
	if s.File == "" || len(file) > 200 || !source.Inside(file) {
		file = "description.yaml"
	}
	fail := func(err error) (records.Version, records.Content, submitted, error) {
		return records.Version{}, records.Content{}, submitted{}, err
	}
	if err := s.why(); err != nil {
		return fail(err)
	}
	read, files, err := w.readSubmission(ctx, file, s)
	if err != nil {
		return fail(err)
	}
	c := read.contract
	name, err := nameOf(s.API, c)
	if err != nil {
		return fail(err)
	}
	text := s.Number
	at := "the version given"
	if text == "" {
		if c.VersionNode == nil {
			return fail(refuse(Invalid, "%s: the description says no version; say one with --version, or add version: 1.0.0", c.Node.ValuePlace()))
		}
		text, at = c.Version, c.VersionNode.ValuePlace().String()
	}
	number, err := contract.ParseVersion(text)
	if err != nil {
		return fail(refuse(Invalid, "%s: %v", at, err))
	}
	made := records.Revision{
		Of: name, As: contract.NumberText(number), Text: text, Title: c.Title, Dialect: c.Dialect, File: file, Digest: digest(s.Text, files),
		RecordedAt: w.stamp(), RecordedBy: w.who.Name, Message: s.Message, Origin: s.Origin.text(),
	}
	return records.Version{API: name, Number: contract.NumberText(number), State: string(Draft), Revision: made},
		records.Content{Digest: made.Digest, File: file, Text: s.Text, Others: files}, read, nil
}

// submitted is what a submission says, and what is wrong with it.
type submitted struct {
	contract    *contract.Contract
	diagnostics source.Diagnostics
}

// readSubmission reads what was handed in, and gives the other files that the description really has. Whoever publishes it need not read it
// again.
func (l *Ledger) readSubmission(ctx context.Context, file string, s Submission) (submitted, []records.File, error) {
	var made submitted
	var others []records.File
	var err error
	if waited := l.Heavily(ctx, func() {
		var set *source.Set
		if made.contract, set, err = readDescription(ctx, file, s.Text, s.Others); err != nil {
			return
		}
		for _, f := range set.Files()[1:] {
			others = append(others, records.File{Path: f.Path(), Content: f.Text})
		}
		made.diagnostics, err = check.Contract(ctx, made.contract)
	}); waited != nil {
		return submitted{}, nil, waited
	}
	if err != nil {
		return submitted{}, nil, err
	}
	content := digest(s.Text, others) + " " + file
	l.readings.Add(content, made.contract)
	l.checks.Add(content, made.diagnostics)
	return made, others, nil
}

// digest names the content of a version: that of its text, and of its other files where it has some.
func digest(text []byte, others []records.File) string {
	h := sha256.New()
	h.Write(text)
	for _, f := range others {
		fmt.Fprintf(h, "\x00%s\x00%d\x00", f.Path, len(f.Content))
		h.Write(f.Content)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// nameOf is the short name of an API: as given, as the description says, or made from its title.
func nameOf(given string, c *contract.Contract) (string, error) {
	name := given
	if name == "" {
		name = c.ShortName()
	}
	if name == "" {
		return "", refuse(Invalid,
			"%s: the description has no title after which its API could be called; say a name with --api, or write info.title", c.Node.ValuePlace())
	}
	if !apiName.MatchString(name) {
		return "", refuse(Invalid, "%q is no short name for an API; use lower-case letters, digits and dashes, such as berths", name)
	}
	return name, nil
}

// evaluate decides what a submission becomes, and compares it with the version before it.
func (w view) evaluate(ctx context.Context, row records.Version, kept *keeping, read submitted, ifMatch string) (Recorded, error) {
	c := read.contract
	rec := Recorded{Version: version(row, kept), Outcome: "new", Diagnostics: read.diagnostics.Tally()}
	api, err := w.apiAsIs(ctx, row.API)
	if err != nil {
		return rec, err
	}
	var known *Version
	for i, v := range api.Versions {
		if v.Number == row.Number {
			known = &api.Versions[i]
		}
	}
	switch {
	case ifMatch != "" && (known == nil || known.Digest != ifMatch):
		return rec, refuse(Conflict, "%s is not as you last read it; read it again", rec.Version.Ref())
	case known == nil:
	case known.Digest == row.Digest:
		rec.Version, rec.Outcome = *known, "same"
	case known.State == Draft:
		rec.Outcome = "replaced"
	default:
		return rec, w.neverChanges(ctx, api, *known, rec.Version, c)
	}
	base := predecessor(api, rec.Version)
	if base == nil {
		return rec, nil
	}
	rec.Base = base
	changes, err := w.comparison(ctx, *base, rec.Version, compare.Options{}, c)
	if err != nil {
		return rec, err
	}
	rec.Changes = recommending(changes, api, rec.Version.Line)
	gate, err := w.judge(ctx, rec.Version, c, nil)
	rec.Gate = &gate
	return rec, err
}

// neverChanges refuses other content under a published number, and says which number it wants: the next of its kind that is not taken.
func (w view) neverChanges(ctx context.Context, api API, known, proposed Version, c *contract.Contract) error {
	changes, err := w.comparison(ctx, known, proposed, compare.Options{}, c)
	if err != nil {
		return err
	}
	next, why := known.number.IncPatch(), "only wordings changed"
	if r := changes.Recommend(api.PromiseOf(known.Line) == promise.BothWays); r != nil {
		next = *semver.MustParse(r.Version)
	}
	if changes.Backward > compare.Editorial {
		why = changes.Changes[0].Title
	}
	if _, dated := contract.Dated(known.number); dated {
		return refuse(Conflict, "%s is published and never changes: record this as a later date (%s)", known.Ref(), why)
	}
	for taken(api, next) {
		switch {
		case next.Major() > known.number.Major():
			next = next.IncMajor()
		case next.Minor() > known.number.Minor():
			next = next.IncMinor()
		default:
			next = next.IncPatch()
		}
	}
	return refuse(Conflict, "%s is published and never changes: record this as %s (%s)", known.Ref(), next.String(), why)
}

// taken reports whether an API has a version of a number that is no draft.
func taken(a API, number semver.Version) bool {
	return slices.ContainsFunc(a.Versions, func(v Version) bool { return v.number.Equal(&number) && v.State != Draft })
}
