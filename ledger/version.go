package ledger

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/store"
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

// Open tells whether everybody may know of the version: readers see it, or are told that it is gone.
func (v Version) Open() bool { return v.Shown() || v.State == Retired }

// Shown tells whether readers see the version.
func (v Version) Shown() bool { return v.State == Published || v.State == Deprecated }

// API is a named thing in the ledger.
type API struct {
	Name    string `json:"name"`
	Title   string `json:"title"`
	Team    string `json:"team"`
	Promise string `json:"promise"`

	NoticeDays int `json:"noticeDays"` // how many days a notice must come before its sunset

	Versions []Version        `json:"versions"` // newest number last
	Notices  []promise.Notice `json:"notices"`
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
	API         string `json:"api"`
	Number      string `json:"number"`
	Text        string `json:"text"` // the number as the description has it
	Line        string `json:"line"`
	State       State  `json:"state"`
	Title       string `json:"title"`
	Dialect     string `json:"dialect"`
	File        string `json:"file"`
	Digest      string `json:"digest"`
	RecordedAt  string `json:"recordedAt"`
	RecordedBy  string `json:"recordedBy"`
	PublishedAt string `json:"publishedAt,omitempty"`
	PublishedBy string `json:"publishedBy,omitempty"`
	RetiredAt   string `json:"retiredAt,omitempty"`
	Sunset      string `json:"sunset,omitempty"` // when a notice says that it leaves
	number      *semver.Version
}

// Ref names the version: "berths@1.4.0".
func (v Version) Ref() string { return v.API + "@" + v.Number }

func version(row store.Version) Version {
	v := Version{
		API: row.API, Number: row.Number, Text: row.Text, State: State(row.State), Title: row.Title, Dialect: row.Dialect,
		File: row.File, Digest: row.Digest, RecordedAt: row.RecordedAt, RecordedBy: row.RecordedBy,
		PublishedAt: row.PublishedAt, PublishedBy: row.PublishedBy,
	}
	switch {
	case row.RetiredAt != "":
		v.State, v.RetiredAt = Retired, row.RetiredAt
	case row.UnpublishedAt != "":
		v.State = Unpublished
	}
	v.number = semver.MustParse(row.Number) // recorded numbers were parsed before
	v.Line = promise.Line(v.number)
	return v
}

// APIs lists all APIs with their versions and notices.
func (l *Ledger) APIs(ctx context.Context) ([]API, error) {
	rows, err := l.store.Read().APIs(ctx)
	if err != nil {
		return nil, err
	}
	apis := make([]API, 0, len(rows))
	for _, row := range rows {
		a, err := l.assemble(ctx, l.store.Read(), row)
		if err != nil {
			return nil, err
		}
		apis = append(apis, a)
	}
	return apis, nil
}

// API reads one API.
func (l *Ledger) API(ctx context.Context, name string) (API, error) {
	row, err := l.store.Read().API(ctx, name)
	if err != nil {
		return API{}, notFound(err, "there is no API called %s", name)
	}
	return l.assemble(ctx, l.store.Read(), row)
}

func (l *Ledger) assemble(ctx context.Context, r store.Rows, row store.API) (API, error) {
	a := API{Name: row.Name, Title: row.Title, Team: row.Team, Promise: row.Promise, NoticeDays: row.NoticeDays, Versions: []Version{}}
	if a.NoticeDays < 0 {
		a.NoticeDays = l.options.NoticeDays
	}
	versions, err := r.Versions(ctx, row.Name)
	if err != nil {
		return a, err
	}
	if a.Notices, err = l.notices(ctx, r, row.Name); err != nil {
		return a, err
	}
	for _, v := range versions {
		a.Versions = append(a.Versions, withNotices(version(v), a.Notices))
	}
	slices.SortFunc(a.Versions, func(x, y Version) int { return x.number.Compare(y.number) })
	return a, nil
}

// withNotices marks a published version that a notice speaks of as deprecated, with the nearest sunset.
func withNotices(v Version, notices []promise.Notice) Version {
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
	return v
}

// Supported tells whether a version's clients still count: it was published, is not retired, and its sunset has not passed.
func (v Version) Supported(today time.Time) bool {
	return v.State != Draft && v.State != Retired && (v.Sunset == "" || v.Sunset >= today.Format(time.DateOnly))
}

// Resolve finds the version that a reference names: berths@1.4.0, berths@1 (newest published of line 1), berths@latest,
// berths@draft. A bare name means the newest published version.
func (l *Ledger) Resolve(ctx context.Context, ref string) (Version, error) {
	name, what, given := strings.Cut(ref, "@")
	a, err := l.API(ctx, name)
	if err != nil {
		return Version{}, err
	}
	if !given || what == "" {
		what = "latest"
	}
	var fits func(Version) bool
	switch {
	case what == "latest":
		fits = Version.Shown
	case what == "draft":
		fits = func(v Version) bool { return v.State == Draft }
	case strings.Trim(what, "0123456789") == "":
		fits = func(v Version) bool { return v.Shown() && v.Line == what }
	default:
		number, err := contract.ParseVersion(what)
		if err != nil {
			return Version{}, refuse(Invalid, "%v; a reference reads %s@1.4.0, %s@1, %s@latest or %s@draft", err, name, name, name, name)
		}
		fits = func(v Version) bool { return v.Number == number.String() }
	}
	for _, v := range slices.Backward(a.Versions) {
		if fits(v) {
			return v, nil
		}
	}
	return Version{}, refuse(NotFound, "%s has no version %s%s", name, what, recorded(a))
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
	Path string `json:"path"`
	Text string `json:"text"`
}

// Files reads the files of the version that a reference names.
func (l *Ledger) Files(ctx context.Context, ref string) (Files, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return nil, err
	}
	row, err := l.store.Read().Version(ctx, v.API, v.Number)
	if err != nil {
		return nil, notFound(err, "there is no %s", v.Ref())
	}
	others, err := l.store.Read().Files(ctx, v.API, v.Number)
	all := Files{{row.File, string(row.Content)}}
	for _, f := range others {
		all = append(all, File{f.Path, string(f.Content)})
	}
	return all, err
}

// RAML tells whether the version was recorded in RAML.
func (v Version) RAML() bool { return strings.HasPrefix(v.Dialect, "raml") }

// Before tells whether the version's number is less than that of o.
func (v Version) Before(o Version) bool { return v.number.LessThan(o.number) }

// Whole is a version's description as one OpenAPI file: as recorded, bundled where it was recorded as several, or converted from RAML.
func (l *Ledger) Whole(ctx context.Context, ref string) (Version, []byte, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return v, nil, err
	}
	row, err := l.store.Read().Version(ctx, v.API, v.Number)
	if err != nil {
		return v, nil, notFound(err, "there is no %s", v.Ref())
	}
	others, err := l.store.Read().Files(ctx, v.API, v.Number)
	if err != nil || len(others) == 0 && !v.RAML() {
		return v, row.Content, err
	}
	whole, err := l.oneFile(ctx, v, row, others)
	if err != nil {
		return v, nil, err
	}
	if strings.HasSuffix(v.File, ".json") {
		return v, []byte(whole.Indented() + "\n"), nil
	}
	return v, whole.YAML(), nil
}

// oneFile writes a version's files as one OpenAPI document.
func (l *Ledger) oneFile(ctx context.Context, v Version, row store.Version, others []store.File) (whole *value.Value, err error) {
	err = l.readSet(ctx, row.File, row.Content, texts(others), func(_ *contract.Contract, set *source.Set) error {
		made, err := format.Whole(set)
		if err != nil {
			return refuse(Conflict, "%s cannot be written as one file: %v", v.Ref(), err)
		}
		whole = made
		return nil
	})
	return whole, err
}

// Converted is a version's description written as OpenAPI of a dialect, with what could not be carried over. What cannot be written as one
// file is a Conflict.
func (l *Ledger) Converted(ctx context.Context, ref string, to openapi.Target) (Version, format.Converted, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return v, format.Converted{}, err
	}
	row, err := l.store.Read().Version(ctx, v.API, v.Number)
	if err != nil {
		return v, format.Converted{}, notFound(err, "there is no %s", v.Ref())
	}
	others, err := l.store.Read().Files(ctx, v.API, v.Number)
	if err != nil {
		return v, format.Converted{}, err
	}
	var converted format.Converted
	err = l.readSet(ctx, v.File, row.Content, texts(others), func(c *contract.Contract, set *source.Set) error {
		converted = format.Written(set, c, to)
		return nil
	})
	return v, converted, err
}

// Description reads the version that a reference names.
func (l *Ledger) Description(ctx context.Context, ref string) (Description, error) {
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return Description{}, err
	}
	return l.describe(ctx, l.store.Read(), v)
}

func (l *Ledger) describe(ctx context.Context, r store.Rows, v Version) (Description, error) {
	c, err := l.contract(ctx, r, v)
	return Description{v, c}, err
}
