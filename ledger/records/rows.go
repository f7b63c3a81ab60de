package records

// API is a named thing.
type API struct {
	Name, Team, Promise, CreatedAt string
	NoticeDays                     int    // -1 for as many as the ledger has
	Offered                        string // the team to which its own offers it; "" for none
	Switcher                       string // to which versions its pages lead, a JSON list of lines and numbers; "" for all
	Versioning                     string // how callers choose its version; "" where nobody said
	Undeclared                     string // what its server does with input that is not declared; "" where nobody said
}

// LinePromise is what a line promises where that is something else than what its API does.
type LinePromise struct{ API, Line, Promise string }

// Version is a version with the revision that it points to.
type Version struct {
	API, Number, State       string
	PublishedAt, PublishedBy string
	UnpublishedAt, RetiredAt string
	Revision
}

// Revision is one recording: what was recorded, by whom, from where and why. It never changes.
type Revision struct {
	ID                         int64
	Of, As                     string // the API and the number
	Text, Title, Dialect, File string // Text is the number as the description has it, File the path of the entry
	Digest                     string
	RecordedAt, RecordedBy     string
	Message, Origin            string // Origin is JSON
}

// Content is the text of a description, by its digest and the path of its entry.
type Content struct {
	Digest, File string
	Text         []byte
	Others       []File
}

// File is one file of a description beside its entry.
type File struct {
	Path    string
	Content []byte
}

// Notice says that something leaves.
type Notice struct {
	ID                                        int64
	API, Line, Version, Operation, Field      string
	Since, Sunset, ReplacedBy, Reason, MadeBy string
	MadeAt, ChangedAt, Parameter              string
	Header, Value, Guide, Written             string
}

// Waiver let a change through.
type Waiver struct {
	API, Version, Change, Kind, Title, Reason, MadeBy, MadeAt string
}

// Allowance let a mistake, or what looks like a credential, through.
type Allowance struct{ API, Version, Finding, What, Reason, MadeBy, MadeAt string }

// Overlay is how the reference of a version reads, as it is shown or as a draft.
type Overlay struct {
	API, Number, State string
	Text               []byte
	MadeBy, MadeAt     string
}

// Looks is how the reference of an API looks.
type Looks struct{ API, Settings, MadeBy, MadeAt string }

// Picture is one of an API, or of the house where API is "". A list has their sizes and not their bytes.
type Picture struct {
	API, Name      string
	Bytes          []byte
	Size           int
	MadeBy, MadeAt string
}

// PreviewLink is an address at which a version can be read, by the hash of its key.
type PreviewLink struct{ Hash, API, Number, MadeBy, MadeAt, ExpiresAt string }

// GuideText is what an author wrote into a guide.
type GuideText struct{ API, Pair, Anchor, Title, Text, MadeBy, MadeAt string }

// Open is who reads a card: those to whom its API is open, as To names them, and who do not read what Lacks names; of one API, or of any
// where API is "".
type Open struct{ To, Lacks, API string }

// Card is what the shelf says of an API to some of those who read it (Open).
type Card struct {
	API, Lacks, Open              string
	Basis, Number, Title, Summary string
	Pages                         string // a JSON list
}

// Found is something that can be found in an API. Titles, Places and Words are taken apart and in lower case; only Words are given back,
// where they were looked into.
type Found struct {
	API, Lacks, Kind, Title, Place, Path string
	Titles, Places, Words                string // each word of the title, of the place and of the text
	Said                                 string // the text, as far as it is kept
}

// Word is a word to find, or what words begin with.
type Word struct {
	Text   string
	Begins bool
}

// Entry is one act in the journal.
type Entry struct {
	Seq                                             int64
	At, Actor, Act, Subject, Detail, Previous, Hash string
}

// TreeHash is a hash of the journal's tree, by its number.
type TreeHash struct {
	ID   int64
	Hash []byte
}

// Question is which acts are asked for; "" asks for all.
type Question struct {
	Actor, API, Act string   // Act is a whole one, or a kind of them: "version"
	From, Before    string   // times
	Only            []string // of these APIs alone; nil for all that was done
}

// Generation is how often what is known of an API has changed, and of that what readers see; whose API it is by then, and to whom it is
// open.
type Generation struct {
	N, Shown  int64
	Team      string
	Audiences []Audience

	// Of what concerns no one API alone.
	Shelves []Shelf
	Stands  []Stand
}

// Shelf is a named set of APIs. Audience is a JSON list of groups.
type Shelf struct{ Name, Title, Audience, Landing, Host, MadeAt, MadeBy string }

// Style is one version of the house style of a scope: "" is the house, "team NAME" a team, "api NAME" an API. An empty text is none.
type Style struct {
	Scope                        string
	Version                      int
	Text, Reason, MadeAt, MadeBy string
}

// Stand is an API on a shelf. Versions is a JSON list of lines and numbers; an empty one is all.
type Stand struct{ Shelf, API, Versions string }

// Audience is to whom an API is open, or a part of it; where API is "", each of which nothing else is said. Published and Drafts are JSON
// lists of groups; "" says nothing.
type Audience struct{ API, Part, Published, Drafts string }

// Link lets whoever has its key and its password read an API. It is kept by a hash of the key, with one of the password.
type Link struct{ Hash, API, Label, Password, MadeAt, MadeBy, EndsAt string }

// Opening is a browser in which the password of a link was given, by a hash of what it remembers.
type Opening struct{ Hash, Link, EndsAt string }

// Person is somebody who can sign in, until they leave; Role is what they are in every team, and Password is a hash.
type Person struct{ Name, Full, Role, Password, LeftAt string }

// Session is one that somebody has, by its hash.
type Session struct{ Hash, Person, MadeAt, EndsAt, Seeing string }

// Identity is who a person is by the word of a provider.
type Identity struct{ Issuer, Subject, Person, SeenAt string }

// Feed is the secret address of a person's feeds, by its hash.
type Feed struct{ Person, Hash, MadeAt string }

// Invitation lets a person choose a password, by its hash.
type Invitation struct{ Hash, Person, EndsAt string }

// Team keeps APIs.
type Team struct{ Name, MadeAt, MadeBy string }

// Member has a role in a team.
type Member struct{ Team, Person, Role string }

// Token acts for a person, by its hash.
type Token struct {
	Hash, Person, Label, MadeAt string
	Scopes                      string // words with spaces between them
	Teams, APIs                 string // JSON lists
	EndsAt                      string // "" for never
	UsedAt                      string // "" for never
}

// Comparison is the kept result of comparing two versions.
type Comparison struct {
	Old, New string // references such as berths@1.4.0
	Reading  string
	Basis    string // what the result follows from: the digests of both, and the engine
	Result   []byte
}

// Answer is what a write with an Idempotency-Key was answered.
type Answer struct {
	Key, Person string
	Request     string // a digest of the request
	Status      int    // 0 while it is under way
	Body        []byte
	MadeAt      string
}
