// Package wire holds the JSON that the HTTP interface takes and gives: what the service writes and the client reads.
// server/api/description.yaml describes the same in OpenAPI, and a test holds one against the other. What core gives out by itself (a
// comparison, a guide, a gate, diagnostics) has its JSON there.
//
// Nothing here knows the ledger: a name that changes there changes nothing here.
package wire

import (
	"encoding/json"

	"oldledger/core/compare"
	"oldledger/core/overlay"
	"oldledger/core/promise"
	"oldledger/core/secret"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Items is one page of a list.
type Items[T any] struct {
	Items []T `json:"items"`
}

// SignIn is a name with its password.
type SignIn struct {
	Name     string `json:"name"`
	Password string `json:"password"`
}

// Person is somebody who can sign in.
type Person struct {
	Name  string            `json:"name"`
	Full  string            `json:"full"`
	Role  string            `json:"role"`            // in all teams; "" for nothing but in those that follow
	Teams map[string]string `json:"teams,omitempty"` // roles, by team
	May   []string          `json:"may,omitempty"`   // of whoever asks: what they may do in one team at least

	Seeing string `json:"seeing,omitempty"` // of whoever asks: as whom they look
}

// NewPerson is somebody who is to sign in.
type NewPerson struct {
	Name     string `json:"name"`
	Full     string `json:"full"`
	Role     string `json:"role,omitempty"`     // in all teams
	Password string `json:"password,omitempty"` // without one, they are invited to choose it
}

// Invitation lets somebody choose a password, at its address. It is told once.
type Invitation struct {
	Person  string `json:"person"`
	Address string `json:"address"`
	EndsAt  string `json:"endsAt"`
}

// InvitationKey is what an address of an invitation ends with, with the password that is chosen.
type InvitationKey struct {
	Key      string `json:"key"`
	Password string `json:"password,omitempty"`
}

// PasswordChange is another password, and the one before it.
type PasswordChange struct {
	Old string `json:"old"`
	New string `json:"new"`
}

// Session is one that somebody has who signed in with a password.
type Session struct {
	MadeAt string `json:"madeAt,omitempty"`
	EndsAt string `json:"endsAt"`
}

// Team keeps APIs.
type Team struct {
	Name    string   `json:"name"`
	Members []Member `json:"members"` // by name
	APIs    []string `json:"apis"`    // that it keeps and whoever asks may know of
	Offers  []string `json:"offers"`  // APIs that another team offers it
	May     []string `json:"may"`     // what whoever asks may do to it, and to what it keeps
}

// Member is somebody in a team.
type Member struct {
	Name string `json:"name"`
	Full string `json:"full"`
	Role string `json:"role"`
}

// TokenWish is what a token is wanted for.
type TokenWish struct {
	Label  string   `json:"label"`
	Scopes []string `json:"scopes,omitempty"` // read, record, publish, settle, tally, administer; none for all but the last
	Teams  []string `json:"teams,omitempty"`  // for which it acts; none for all of its maker's
	APIs   []string `json:"apis,omitempty"`   // for which it acts alone; none for all of its teams
	Days   int      `json:"days,omitempty"`   // until it ends; 0 for 90
}

// TokenEntry is a token without what it is known by.
type TokenEntry struct {
	ID     string   `json:"id"` // by which it is taken back
	Person string   `json:"person"`
	Label  string   `json:"label"`
	Scopes []string `json:"scopes"`
	Teams  []string `json:"teams"`
	APIs   []string `json:"apis"`
	MadeAt string   `json:"madeAt"`
	EndsAt string   `json:"endsAt,omitempty"` // "" for never
	UsedAt string   `json:"usedAt,omitempty"` // "" for never, and else true to the hour
}

// Token is a token, told once.
type Token struct {
	Token string `json:"token"`
}

// Waiting is what waits for somebody.
type Waiting struct {
	Drafts  []WaitingDraft   `json:"drafts"`  // one's own first
	Notices []promise.Notice `json:"notices"` // of what leaves soon, the next first
	Asked   []Request        `json:"asked"`   // with what one may decide, the oldest first
}

// WaitingDraft is a draft before its gate.
type WaitingDraft struct {
	Version Version `json:"version"`
	Mine    bool    `json:"mine"`          // whether whoever asks recorded it last
	Open    bool    `json:"open"`          // whether it may be published as it is
	Why     string  `json:"why,omitempty"` // what stands in the way
}

// The states of a version.
const (
	Draft       = "draft"
	Published   = "published"
	Deprecated  = "deprecated"
	Unpublished = "unpublished"
	Retired     = "retired"
)

// API is a named thing in the ledger.
type API struct {
	Name         string            `json:"name"`
	Title        string            `json:"title"`
	Team         string            `json:"team"`
	Offered      string            `json:"offered,omitempty"` // the team to which its own offers it
	May          []string          `json:"may,omitempty"`     // what whoever asks may do to it
	Promise      string            `json:"promise"`
	LinePromises map[string]string `json:"linePromises,omitempty"` // by line, where one promises something else
	NoticeDays   int               `json:"noticeDays"`             // how many days a notice must come before its sunset
	Versioning   string            `json:"versioning,omitempty"`   // how callers choose its version: "path /v{line}"
	Undeclared   string            `json:"undeclared,omitempty"`   // what its server does with input that is not declared
	Own          *Own              `json:"own,omitempty"`          // what it settles itself, for its team
	Review       []string          `json:"review,omitempty"`       // what the house style asks of who publishes, for its team
	Versions     []Version         `json:"versions"`               // newest number last
	Notices      []promise.Notice  `json:"notices"`
	Audience     *Audience         `json:"audience,omitempty"` // its own team is told
	Switcher     []string          `json:"switcher,omitempty"` // to which versions its pages lead, for its team
}

// Own is what an API settles itself: all else is as the house style says, or the ledger.
type Own struct {
	Promise    string `json:"promise,omitempty"`    // "" where the house style says it
	NoticeDays *int   `json:"noticeDays,omitempty"` // nil where the house style says it, or the ledger
}

// Settings are what is set of an API. What is nil stays as it is.
type Settings struct {
	NoticeDays *int      `json:"noticeDays,omitempty"`
	Team       *string   `json:"team,omitempty"`
	Switcher   *[]string `json:"switcher,omitempty"`   // to which versions its pages lead
	Promise    *string   `json:"promise,omitempty"`    // "" is what its API promises for a line, and what the house style says for an API
	Versioning *string   `json:"versioning,omitempty"` // how callers choose the version: "path /v{line}"; "" takes it back
	Undeclared *string   `json:"undeclared,omitempty"` // what the server does with input that is not declared: ignored, refused; "" takes it back
	Line       string    `json:"line,omitempty"`       // whose promise it is; "" for all that have none of their own
	Reason     string    `json:"reason,omitempty"`     // why another promise holds from now on
}

// Version is one recorded version, without its content.
type Version struct {
	API         string   `json:"api"`
	Number      string   `json:"number"`
	Text        string   `json:"text"` // the number as the description has it
	Line        string   `json:"line"`
	State       string   `json:"state"`
	Title       string   `json:"title"`
	Dialect     string   `json:"dialect"`
	File        string   `json:"file"`
	Digest      string   `json:"digest"`
	RecordedAt  string   `json:"recordedAt"`
	RecordedBy  string   `json:"recordedBy"`
	Message     string   `json:"message,omitempty"` // why it was recorded
	Origin      Origin   `json:"origin,omitzero"`
	PublishedAt string   `json:"publishedAt,omitempty"`
	PublishedBy string   `json:"publishedBy,omitempty"`
	RetiredAt   string   `json:"retiredAt,omitempty"`
	Sunset      string   `json:"sunset,omitempty"`  // when a notice says that it leaves
	Overdue     bool     `json:"overdue,omitempty"` // whether that day has passed, and it is still there
	Waivers     []Waiver `json:"waivers,omitempty"` // of changes that it was published in spite of
	ReadBy      string   `json:"readBy,omitempty"`  // who can read it now, in words; its own team is told
}

// Ref names the version: "berths@1.4.0".
func (v Version) Ref() string { return v.API + "@" + v.Number }

// Origin is where a recording came from, as whoever recorded it says.
type Origin struct {
	From   string `json:"from,omitempty"`   // the repository or folder
	Commit string `json:"commit,omitempty"` // what was checked out
	Build  string `json:"build,omitempty"`  // the run of the pipeline, or its address
}

// Revision is one recording of a version.
type Revision struct {
	Version    string `json:"version"` // the version's reference
	Digest     string `json:"digest"`
	Title      string `json:"title"`
	RecordedAt string `json:"recordedAt"`
	RecordedBy string `json:"recordedBy"`
	Message    string `json:"message,omitempty"`
	Origin     Origin `json:"origin,omitzero"`
	Current    bool   `json:"current"` // whether it is what the version says now
}

// File is one file of a version, by its path from the folder of the description.
type File struct {
	Path string `json:"path"`
	Text string `json:"text"`
}

// Recorded says what a submission became, or would become.
type Recorded struct {
	Version     Version             `json:"version"`
	Outcome     string              `json:"outcome"` // "new", "replaced" (a draft) or "same"
	Base        *Version            `json:"base,omitempty"`
	Changes     *compare.Comparison `json:"changes,omitempty"` // against the base
	Verdict     string              `json:"verdict,omitempty"` // what they do to whom, in a line
	Gate        *promise.Gate       `json:"gate,omitempty"`    // whether it may be published as it is
	Diagnostics source.Tally        `json:"diagnostics"`       // what is wrong with the description
}

// Release is one version in an API's history, with what it changed.
type Release struct {
	Version Version                          `json:"version"`
	Before  string                           `json:"before,omitempty"` // the number it is compared with
	Changes *compare.Comparison              `json:"changes,omitempty"`
	Notices []promise.Notice                 `json:"notices"` // made for this version
	Waivers []Waiver                         `json:"waivers"`
	Removed map[string]*promise.Announcement `json:"removed"` // by change: how a removal was announced
}

// Waiver is a recorded, named permission to publish a breaking change.
type Waiver struct {
	Version string `json:"version"`
	Change  string `json:"change"`
	Kind    string `json:"kind"`
	Title   string `json:"title"`
	Reason  string `json:"reason"`
	MadeBy  string `json:"madeBy"`
	MadeAt  string `json:"madeAt"`
}

// Publication is the wish to publish a version.
type Publication struct {
	Waivers []Waive     `json:"waivers"`
	Allowed []Exception `json:"allowed"`
}

// Waive is the wish to publish in spite of one change.
type Waive struct {
	Change string `json:"change"` // the change's id
	Reason string `json:"reason"`
}

// Exception is the wish to publish in spite of an error, or of what looks like a credential.
type Exception struct {
	Finding string `json:"finding"` // the finding's id
	Reason  string `json:"reason"`
}

// Reason is why a version is taken back or ended.
type Reason struct {
	Reason string `json:"reason"`
}

// Retirement says why a version is ended, and, where it may not go yet, why all the same.
type Retirement struct {
	Reason  string `json:"reason"`
	Despite string `json:"despite,omitempty"`
}

// PublishCheck is what an editor should know before a version is published.
type PublishCheck struct {
	promise.Gate
	Credentials []Credential       `json:"credentials"` // what looks like one, in the description or the overlay
	Mistakes    []Mistake          `json:"mistakes"`    // the errors of the description
	Diagnostics source.Diagnostics `json:"diagnostics"` // warnings and hints
	Unmet       []string           `json:"unmet"`       // what the rules of review ask for, and whoever asks does not meet
}

// Credential is a text that looks like a credential.
type Credential struct {
	secret.Finding
	Allowed string `json:"allowed,omitempty"` // the reason for which it was
}

// Mistake is an error in a description.
type Mistake struct {
	ID string `json:"id"` // the same while the mistake stands, whatever its line
	*source.Diagnostic
	Allowed string `json:"allowed,omitempty"` // the reason for which it was let through
}

// Announcement is the wish to deprecate something. Ref is an API (berths), or a version of it (berths@1.2.0); Line widens a version to its
// line.
type Announcement struct {
	Ref        string `json:"ref"`
	Line       bool   `json:"line"`
	Operation  string `json:"operation"` // an operationId or "POST /bookings"
	Parameter  string `json:"parameter"` // a parameter of the operation: "limit", or "query limit" where several places have one
	Header     string `json:"header"`    // a header of the operation's answers
	Field      string `json:"field"`     // "Vessel.length"
	Value      string `json:"value"`     // one that the parameter, header or field lists
	Since      string `json:"since"`     // a date; today when ""
	Sunset     string `json:"sunset"`
	ReplacedBy string `json:"replacedBy"`
	Reason     string `json:"reason"`
	Guide      string `json:"guide"`  // the guide to follow: "1.2.0..2.0.0"
	Sooner     string `json:"sooner"` // why the sunset may come sooner than the notice period allows
}

// Amendment is the wish to change a notice. What is nil stays as it is.
type Amendment struct {
	Sunset     *string `json:"sunset,omitempty"`
	ReplacedBy *string `json:"replacedBy,omitempty"`
	Reason     *string `json:"reason,omitempty"`
	Guide      *string `json:"guide,omitempty"`
	Sooner     string  `json:"sooner,omitempty"` // why the sunset may come sooner than the notice period allows
}

// GatewayHeader is what a gateway should send with every answer of one operation.
type GatewayHeader struct {
	Method string `json:"method"`
	Path   string `json:"path"` // with the path of the server before it: "/v1/berths/{berth}/bookings"
	promise.Header
	By   string   `json:"by,omitempty"` // what leaves on that day: the notice whose sunset is the first, by its subject
	Link []string `json:"link"`
}

// Comparison is a comparison with what it does to whom, in a line, and with how what it removes was announced, by change.
type Comparison struct {
	*compare.Comparison
	Verdict string                           `json:"verdict"`
	Removed map[string]*promise.Announcement `json:"removed"`
}

// Overlay is how the reference of a version reads beyond its description.
type Overlay struct {
	Version string `json:"version"` // the version's reference
	// the version before it from which the overlay is carried, when it has none of its own yet
	From     string            `json:"from,omitempty"`
	State    string            `json:"state"` // "none", "draft" or "shown"
	Text     string            `json:"text"`
	MadeBy   string            `json:"madeBy,omitempty"`
	MadeAt   string            `json:"madeAt,omitempty"`
	Digest   string            `json:"digest"`
	Outcomes []overlay.Outcome `json:"outcomes"`           // what each action finds in this version
	Document *value.Value      `json:"document,omitempty"` // the overlay as JSON
}

// OverlayView is a version as one OpenAPI document: as its description has it, and with its overlay's draft.
type OverlayView struct {
	Plain    *value.Value `json:"written"`
	Overlaid *value.Value `json:"worded"`
}

// Picture is one that landing pages and footers show.
type Picture struct {
	Name    string `json:"name"`
	Size    int    `json:"size"`    // in bytes
	Address string `json:"address"` // below the service's: "/reference/berths/pictures/quay.png"
	MadeBy  string `json:"madeBy"`
	MadeAt  string `json:"madeAt"`
}

// Looks is how the reference of an API looks. What is "" or empty is as usual.
type Looks struct {
	Accent     string              `json:"accent,omitempty"`     // the colour of links and marks on light paper: "#2b4a7e"
	AccentDark string              `json:"accentDark,omitempty"` // the same on dark paper; made from Accent where it is ""
	Font       string              `json:"font,omitempty"`       // literata, plex or system
	Logo       string              `json:"logo,omitempty"`       // a data: address of a PNG or SVG picture
	Landing    string              `json:"landing,omitempty"`    // CommonMark, above the overview of each version
	Footer     string              `json:"footer,omitempty"`     // CommonMark, below every page
	Languages  []LanguageOfSamples `json:"languages,omitempty"`  // those of the samples, in their order
	Parents    []string            `json:"parents,omitempty"`    // the addresses whose pages may hold pages of the reference
	Unlisted   bool                `json:"unlisted,omitempty"`   // search engines are asked to stay away
	MadeBy     string              `json:"madeBy,omitempty"`
	MadeAt     string              `json:"madeAt,omitempty"`
}

// LanguageOfSamples is a language that samples are written in, with the team's own template for it where it has one.
type LanguageOfSamples struct {
	ID       string `json:"id"`
	Template string `json:"template,omitempty"`
}

// Days is for how long an address of a preview shall hold; 0 is as usual.
type Days struct {
	Days int `json:"days"`
}

// PreviewLink is an address at which a version can be read before its readers see it.
type PreviewLink struct {
	Version   string `json:"version"`
	ID        string `json:"id"`             // names it without giving it away
	Path      string `json:"path,omitempty"` // below the service's address; told once
	MadeBy    string `json:"madeBy"`
	MadeAt    string `json:"madeAt"`
	ExpiresAt string `json:"expiresAt"`
}

// GuideText is the wish to write into a guide. An empty text takes away what stands there.
type GuideText struct {
	Old    string `json:"old"`    // the references of the two versions
	New    string `json:"new"`    //
	Anchor string `json:"anchor"` // intro, end, or the id of a change of the guide
	Text   string `json:"text"`   // CommonMark
}

// Entry is one act in the journal. Its hash covers everything in it and the hash before it.
type Entry struct {
	Seq      int64           `json:"seq"`
	At       string          `json:"at"`
	Actor    string          `json:"actor"` // "" for the ledger itself
	Act      string          `json:"act"`
	Subject  string          `json:"subject"`
	Detail   json.RawMessage `json:"detail"`
	Previous string          `json:"previous"`
	Hash     string          `json:"hash"`
}

// Verification is the result of checking the journal, and of holding the records against it.
type Verification struct {
	Entries  int64  `json:"entries"`
	Contents int    `json:"contents"` // how many texts were compared with their digests
	Head     string `json:"head"`     // the number and the hash of the newest entry, to be kept elsewhere
	Intact   bool   `json:"intact"`
	Broken   int64  `json:"broken,omitempty"` // the first entry that does not fit; 0 where the records do not
	Why      string `json:"why,omitempty"`
}

// Problem is an error as RFC 9457 has it. Type is stable; Trace is in the log, too.
type Problem struct {
	Type        string             `json:"type"`
	Title       string             `json:"title"`
	Status      int                `json:"status"`
	Detail      string             `json:"detail"`
	Trace       string             `json:"trace"`
	Gate        *promise.Gate      `json:"gate,omitempty"`
	Diagnostics source.Diagnostics `json:"diagnostics,omitempty"` // for invalid-description: why it cannot be read
	Credentials []Credential       `json:"credentials,omitempty"`
	Mistakes    []Mistake          `json:"mistakes,omitempty"`
}
