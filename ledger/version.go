package ledger

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/housestyle"
	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/core/versioning"
	"oldledger/ledger/records"
)

// State is where a version stands.
type State string

// The states. A draft may change; a version that was published never does. Deprecated is a published version that a notice speaks of; the
// reference of an unpublished one was taken back, and may be given back; a retired one is gone.
const (
	Draft       State = "draft"
	Published   State = "published"
	Deprecated  State = "deprecated"
	Unpublished State = "unpublished"
	Retired     State = "retired"
)

// Open reports whether everybody may know of the version: readers see it, or are told that it is gone.
func (v Version) Open() bool { return v.Shown() || v.State == Retired }

// Shown reports whether readers see the version.
func (v Version) Shown() bool { return v.State == Published || v.State == Deprecated }

// API is a named thing in the ledger.
type API struct {
	Name    string
	Title   string
	Team    string
	Offered string // the team to which its own offers it; its own is told
	Promise string

	LinePromises map[string]string // what lines promise that promise something else, by line

	NoticeDays int // how many days a notice must come before its sunset

	Versioning versioning.Scheme  // how callers choose its version
	Undeclared compare.Undeclared // what its server does with input that is not declared

	Askable bool // whether it has a plan for which others than its team may ask

	Terms housestyle.Terms // what the house style asks of what is published
	Own   Own              // what the API settles itself

	Versions []Version // newest number last
	Notices  []promise.Notice

	Audiences Audiences // to whom it is open; its own team is told
	Switcher  Picks     // to which versions its pages lead; [NewestOfLines] is the newest of each line

	kept  *keeping
	there bool // whether something is recorded of it
}

// Latest is the newest published version, or nil.
func (a *API) Latest() *Version {
	for i := range slices.Backward(a.Versions) {
		if a.Versions[i].Shown() {
			return &a.Versions[i]
		}
	}
	return nil
}

// Version is one recorded version, without its content.
type Version struct {
	API         string
	Number      string
	Text        string // the number as the description has it
	Line        string
	State       State
	Title       string
	Dialect     string
	File        string
	Digest      string
	Message     string // why it was recorded
	Origin      Origin
	RecordedAt  string
	RecordedBy  string
	PublishedAt string
	PublishedBy string
	RetiredAt   string
	Sunset      string   // when a notice says that it leaves
	Overdue     bool     // whether that day has passed, and it is still there: it can be retired
	Waivers     []Waiver // of changes that it was published in spite of; its team is told
	number      *semver.Version

	kept          *keeping // whose API it is of, and to whom that is open
	revision      int64    // what it points to
	unpublishedAt string
	whole         string // where digest and file are those of what readers from outside get, who do not get all: the digest of all
}

// content names what the version says, whatever else has the same.
func (v Version) content() string { return v.Digest + " " + v.File }

// Ref names the version: "berths@1.4.0".
func (v Version) Ref() string { return v.API + "@" + v.Number }

// version is a version as its row has it, of an API that is kept so.
func version(row records.Version, kept *keeping) Version {
	v := Version{
		API: row.API, Number: row.Number, Text: row.Text, State: State(row.State), Title: row.Title, Dialect: row.Dialect,
		File: row.File, Digest: row.Digest, RecordedAt: row.RecordedAt, RecordedBy: row.RecordedBy,
		Message: row.Message, PublishedAt: row.PublishedAt, PublishedBy: row.PublishedBy, RetiredAt: row.RetiredAt,
		Origin: originOf(row.Origin), revision: row.ID, unpublishedAt: row.UnpublishedAt, kept: kept,
	}
	v.number = number(row.Number)
	v.Line = promise.Line(v.number)
	return v
}

// APIs lists all APIs that the actor may know of, with their versions and notices.
func (l *Ledger) APIs(ctx context.Context, who Actor) ([]API, error) { return l.view(who).apis(ctx) }

// API reads one API as the actor may know it.
func (l *Ledger) API(ctx context.Context, who Actor, name string) (API, error) {
	return l.view(who).api(ctx, name)
}

// withNotices marks a published version that a notice speaks of as deprecated, with the nearest sunset, and says whether that has passed.
func withNotices(v Version, notices []promise.Notice, today time.Time) Version {
	if v.State == Draft {
		return v
	}
	for _, n := range notices {
		if n.Whole() && n.Covers(v.Number, v.Line) {
			if v.State == Published {
				v.State = Deprecated
			}
			if n.Sunset != "" && (v.Sunset == "" || n.Sunset < v.Sunset) {
				v.Sunset = n.Sunset
			}
		}
	}
	v.Overdue = v.State != Retired && !v.Supported(today)
	return v
}

// Supported reports whether a version's clients still count: it was published, is not retired, and its sunset has not passed.
func (v Version) Supported(today time.Time) bool {
	return v.State != Draft && v.State != Retired && (v.Sunset == "" || v.Sunset >= today.Format(time.DateOnly))
}

// Resolve finds the version that a reference names among those that the actor may know of: berths@1.4.0, berths@1 (newest published of line
// 1), berths@latest, berths@draft. A bare name means the newest published version.
func (l *Ledger) Resolve(ctx context.Context, who Actor, ref string) (Version, error) {
	return l.view(who).resolve(ctx, ref)
}

// Version finds a version whose words the actor may read; its digest is that of what the actor gets.
func (l *Ledger) Version(ctx context.Context, who Actor, ref string) (Version, error) {
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return v, err
	}
	return w.asRead(ctx, v)
}

func recorded(a API) string {
	if len(a.Versions) == 0 {
		return ""
	}
	numbers := make([]string, len(a.Versions))
	for i, v := range a.Versions {
		numbers[i] = v.Number
	}
	return "; recorded are " + strings.Join(numbers, ", ")
}

// Description is a version with what it says.
type Description struct {
	Version  Version
	Contract *contract.Contract
}

// Files are all files of a version as they were recorded, the entry first.
type Files []File

// File is one file of a version, by its path from the folder of the description.
type File struct {
	Path string
	Text string
}

// Files reads the files of the version that a reference names.
func (l *Ledger) Files(ctx context.Context, who Actor, ref string) (Files, error) {
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return nil, err
	}
	c, err := w.content(ctx, v)
	if err != nil {
		return nil, err
	}
	all := Files{{c.file, string(c.text)}}
	for _, f := range c.others {
		all = append(all, File{f.Path, string(f.Content)})
	}
	return all, nil
}

// RAML reports whether the version was recorded in RAML.
func (v Version) RAML() bool { return strings.HasPrefix(v.Dialect, "raml") }

// Before reports whether the version's number is less than that of o.
func (v Version) Before(o Version) bool { return v.number.LessThan(o.number) }

// Bundled is a version's description as one OpenAPI file: as recorded, bundled where it was recorded as several, or converted from RAML.
func (l *Ledger) Bundled(ctx context.Context, who Actor, ref string) (Version, []byte, error) {
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return v, nil, err
	}
	c, err := w.content(ctx, v)
	if err != nil {
		return v, nil, err
	}
	v.Digest, v.File = c.digest, c.file
	if len(c.others) == 0 && !c.raml {
		return v, c.text, nil
	}
	whole, err := l.oneFile(ctx, v.Ref(), c)
	if err != nil {
		return v, nil, err
	}
	return v, written(whole, c.file), nil
}

// written is a document as a file of that name has it: JSON or YAML.
func written(whole *value.Value, file string) []byte {
	if strings.HasSuffix(file, ".json") {
		return []byte(whole.Indented() + "\n")
	}
	return whole.YAML()
}

// oneFile writes a content as one OpenAPI document.
func (l *Ledger) oneFile(ctx context.Context, ref string, c content) (whole *value.Value, err error) {
	err = l.readSet(ctx, c.file, c.text, texts(c.others), func(_ *contract.Contract, set *source.Set) error {
		made, err := format.Bundle(set)
		if err != nil {
			return refuse(Conflict, "%s cannot be written as one file: %v", ref, err)
		}
		whole = made
		return nil
	})
	return whole, err
}

// Converted is a version's description written as OpenAPI of a dialect, with what could not be carried over. What cannot be written as one
// file is a Conflict.
func (l *Ledger) Converted(ctx context.Context, who Actor, ref string, to openapi.Target) (Version, format.Converted, error) {
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return v, format.Converted{}, err
	}
	from, err := w.content(ctx, v)
	if err != nil {
		return v, format.Converted{}, err
	}
	var converted format.Converted
	err = l.readSet(ctx, from.file, from.text, texts(from.others), func(c *contract.Contract, set *source.Set) error {
		converted = format.ConvertRead(set, c, to)
		return nil
	})
	return v, converted, err
}

// Description reads the version that a reference names.
func (l *Ledger) Description(ctx context.Context, who Actor, ref string) (Description, error) {
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return Description{}, err
	}
	return w.describe(ctx, v)
}

func (w view) describe(ctx context.Context, v Version) (Description, error) {
	c, err := w.contract(ctx, v)
	return Description{v, c}, err
}
