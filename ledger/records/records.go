// Package records is what a ledger asks of whatever keeps its records: rows, not rules. What may happen, and in which order, is decided in
// package ledger; package store keeps the rows in SQLite. A second engine fills these two interfaces.
package records

import (
	"context"
	"errors"
)

// ErrNotFound is returned for a row that is not there.
var ErrNotFound = errors.New("not found")

// ErrStale is returned for a change to a row that is not, or no longer, as whoever changes it decided on.
var ErrStale = errors.New("changed meanwhile")

// Store keeps records.
type Store interface {
	// Read gives access to the rows outside a transaction: each read sees what was last committed.
	Read() Rows
	// Write carries out one act in one transaction: all of it happens, or nothing. Transactions that write follow one another; what one reads
	// stays as it is until its end.
	Write(ctx context.Context, act func(Rows) error) error
	// Check reports whether records can be read and written.
	Check(ctx context.Context) error
}

// Rows reads and writes rows, inside a transaction or outside one. A row that is not there is ErrNotFound.
type Rows interface {
	// Writing reports whether the rows are those of a transaction.
	Writing() bool

	Descriptions
	Readers
	Reference
	Log
	People
	Cache
	Catalogue
	Usage
	Access
	Reliances
}

// Readers is to whom things are open, and how they are put before them.
type Readers interface {
	Audiences(ctx context.Context) ([]Audience, error)               // all, by API and part
	AudiencesOf(ctx context.Context, api string) ([]Audience, error) // by part
	PutAudience(ctx context.Context, a Audience) error               // in place of the one before
	DropAudience(ctx context.Context, api, part string) error

	Styles(ctx context.Context, scope string) ([]Style, error) // the newest first
	NewestStyle(ctx context.Context, scope string) (Style, error)
	NewestStyles(ctx context.Context) ([]Style, error) // of each scope
	PutStyle(ctx context.Context, s Style) error       // a version that is not there
	DropStyles(ctx context.Context, scope string) error

	Shelves(ctx context.Context) ([]Shelf, error) // by name
	PutShelf(ctx context.Context, s Shelf) error  // in place of the one before, which keeps who made it
	DropShelf(ctx context.Context, name string) error
	Stands(ctx context.Context) ([]Stand, error) // by shelf, in order
	PutStand(ctx context.Context, s Stand) error // behind the others, or where it stands
	DropStand(ctx context.Context, shelf, api string) error
	OrderStands(ctx context.Context, shelf string, apis []string) error // of a shelf, all of them

	Links(ctx context.Context, api string) ([]Link, error) // the newest first; of all APIs where the name is ""
	Link(ctx context.Context, hash string) (Link, error)
	AddLink(ctx context.Context, l Link) error
	DropLink(ctx context.Context, hash string) error             // with what was opened by it
	AddOpening(ctx context.Context, o Opening, now string) error // and lets those go that ended before now
	Opened(ctx context.Context, hash, now string) (Link, error)  // the link by which it was opened; both last beyond now
}

// Descriptions is the APIs with their versions and what was said of them.
type Descriptions interface {
	APIs(ctx context.Context) ([]API, error)                             // by name
	API(ctx context.Context, name string) (API, error)                   //
	PutAPI(ctx context.Context, a API) error                             // adds one, or gives a known one another team, promise or period
	DropAPI(ctx context.Context, name string) error                      // with all that is kept of it; it has no versions any more
	LinePromises(ctx context.Context, api string) ([]LinePromise, error) // of all APIs where the name is ""
	PutLinePromise(ctx context.Context, p LinePromise) error             // in place of the one before; "" takes it away
	Versions(ctx context.Context, api string) ([]Version, error)         // as they were recorded; of all APIs where the name is ""
	Version(ctx context.Context, api, number string) (Version, error)
	// adds a draft, or points a known one to another revision; ErrStale where it is none
	PutDraft(ctx context.Context, v Version) error
	// takes a draft away, with its revisions and what else is kept of it; ErrStale where it is none
	DropDraft(ctx context.Context, v Version) error
	// from the state and the revision of v, with its times; ErrStale where it has others
	MoveVersion(ctx context.Context, v Version, to string) error

	Revisions(ctx context.Context, api, number string) ([]Revision, error) // the newest first
	AddRevision(ctx context.Context, r Revision, c Content) (int64, error)
	Content(ctx context.Context, digest, file string) (Content, error)
	Contents(ctx context.Context, each func(Content) error) error // all that any revision has

	Notices(ctx context.Context, api string) ([]Notice, error) // the next sunset first; of all APIs where the name is ""
	AddNotice(ctx context.Context, n Notice) (int64, error)
	// its sunset, replacement, reason and guide; ErrStale where it was not as before
	ChangeNotice(ctx context.Context, n, before Notice) error
	Waivers(ctx context.Context, api string) ([]Waiver, error) // of all APIs where the name is ""
	AddWaiver(ctx context.Context, w Waiver) error
	Allowances(ctx context.Context, api string) ([]Allowance, error) // likewise
	AddAllowance(ctx context.Context, a Allowance) error
}

// Reference is how the published reference reads and looks.
type Reference interface {
	Overlay(ctx context.Context, api, number, state string) (Overlay, error)
	PutOverlay(ctx context.Context, o Overlay) error // in place of the one before
	DropOverlay(ctx context.Context, api, number, state string) error
	Looks(ctx context.Context, api string) (Looks, error)
	PutLooks(ctx context.Context, l Looks) error
	Pictures(ctx context.Context, api string) ([]Picture, error) // by name, without their bytes
	Picture(ctx context.Context, api, name string) (Picture, error)
	PutPicture(ctx context.Context, p Picture) error // in place of one of the same name
	DropPicture(ctx context.Context, api, name string) error
	PreviewLinks(ctx context.Context, api, number string) ([]PreviewLink, error) // the newest first
	DropPreviewLink(ctx context.Context, hash string) error
	PreviewLink(ctx context.Context, hash string) (PreviewLink, error)
	AddPreviewLink(ctx context.Context, p PreviewLink, now string) error // and lets those go that expired before now
	GuideTexts(ctx context.Context, api string) ([]GuideText, error)     // the newest first
	PutGuideText(ctx context.Context, g GuideText) error
	DropGuideText(ctx context.Context, api, pair, anchor string) error
}

// Catalogue is what the shelf and the search over all APIs say of each.
type Catalogue interface {
	Cards(ctx context.Context) ([]Card, error)     // without their pages, by API
	CardPages(ctx context.Context) ([]Card, error) // with their pages only, by API
	PutCard(ctx context.Context, c Card, entries []Found) error
	DropCards(ctx context.Context, api string) error       // with what can be found in it
	OpenCards(ctx context.Context, api, open string) error // says of its cards to whom they are open
	EntryWords(ctx context.Context) ([]string, error)      // all words that can be found, by anybody
	// FindEntries finds what has a word of each list, in its title where that is asked, in cards that are so open, in all where open is nil;
	// in no order that means anything.
	FindEntries(ctx context.Context, asked [][]Word, inTitles bool, open []Open, limit int) ([]Found, error)
}

// Log is the journal, and how often what is known of an API has changed.
type Log interface {
	Entries(ctx context.Context, after int64, limit int) ([]Entry, error) // from behind the entry after
	// FindActs lists those that a question asks for, from behind the entry seq; or from before it, from the last where seq is 0, the newest
	// first.
	FindActs(ctx context.Context, asked Question, seq int64, newest bool, limit int) ([]Entry, error)
	LastEntry(ctx context.Context) (e Entry, ok bool, err error)
	AddEntry(ctx context.Context, e Entry) error

	TreeHashes(ctx context.Context, ids []int64) ([]TreeHash, error) // in any order; without those that are not there
	TreeHashCount(ctx context.Context) (int64, error)
	AddTreeHash(ctx context.Context, h TreeHash) error
	Secret(ctx context.Context, name string) (string, error)
	AddSecret(ctx context.Context, name, value string) error

	Generations(ctx context.Context) (map[string]Generation, error) // by API; of what concerns all under ""
	Generation(ctx context.Context) (int64, error)                  // of all together: it grows with each of them
	GenerationOf(ctx context.Context, api string) (Generation, error)
	Advance(ctx context.Context, api string, shown bool) error // shown tells whether readers see it
}

// People is who may sign in, and what they are known by.
type People interface {
	Person(ctx context.Context, name string) (Person, error)
	AllPeople(ctx context.Context) ([]Person, error) // those who left, too
	AddPerson(ctx context.Context, p Person) error
	PutPerson(ctx context.Context, p Person) error // one who is there
	DropTokens(ctx context.Context, person string) error
	Teams(ctx context.Context) ([]Team, error) // by name
	AddTeam(ctx context.Context, t Team) error
	DropTeam(ctx context.Context, name string) error              // with its members
	Members(ctx context.Context, person string) ([]Member, error) // of all teams; of everybody where person is ""
	PutMember(ctx context.Context, m Member) error                // in place of the role that they had
	DropMember(ctx context.Context, team, person string) error    // ErrNotFound where they are no member
	Token(ctx context.Context, hash string) (Token, error)
	AddToken(ctx context.Context, t Token) error
	Tokens(ctx context.Context, person string) ([]Token, error) // the newest first; of everybody where person is ""
	UseToken(ctx context.Context, hash, at string) error
	DropToken(ctx context.Context, hash string) error
	Session(ctx context.Context, hash, now string) ([]byte, error)
	// SessionPerson is whose session it is, with their teams, and as whom they look, in one question; ErrNotFound where it ended, or they
	// left.
	SessionPerson(ctx context.Context, hash, now string) (p Person, in []Member, seeing string, err error)
	PutSession(ctx context.Context, s Session, data []byte) error // and lets those go that ended before it was made
	DropSession(ctx context.Context, hash string) error
	Sessions(ctx context.Context, person, now string) ([]Session, error) // that have not ended, the newest first
	DropSessions(ctx context.Context, person string) error
	Identity(ctx context.Context, issuer, subject string) (Identity, error)
	IdentityOf(ctx context.Context, person string) (Identity, error)
	Identities(ctx context.Context) ([]Identity, error) // all
	PutIdentity(ctx context.Context, i Identity) error  // adds one, or says when it was seen last
	Feed(ctx context.Context, hash string) (Feed, error)
	FeedOf(ctx context.Context, person string) (Feed, error)
	Feeds(ctx context.Context) ([]Feed, error)         // all
	PutFeed(ctx context.Context, f Feed) error         // in place of the one that the person has
	DropFeed(ctx context.Context, person string) error // ErrStale where there is none
	DropFeeds(ctx context.Context, person string) error
	Invitation(ctx context.Context, hash, now string) (Invitation, error)
	PutInvitation(ctx context.Context, i Invitation) error // in place of those that the person has
	DropInvitations(ctx context.Context, person string) error
}

// Cache is what was computed or answered and is kept for who asks again.
type Cache interface {
	Comparison(ctx context.Context, old, new, reading, basis string) (Comparison, error)
	PutComparison(ctx context.Context, c Comparison) error // in place of an older one
	Answer(ctx context.Context, key, person string) (Answer, error)
	PutAnswer(ctx context.Context, a Answer) error // in place of an older one
	DropAnswer(ctx context.Context, key, person string) error
	DropAnswers(ctx context.Context, before string) error // those made before
}
