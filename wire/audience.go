package wire

// Audience is to whom something is open, as names of groups: everyone, signed-in, link, team NAME. None is the API's own team.
type Audience struct {
	Published         []string       `json:"published"`
	Drafts            []string       `json:"drafts"`
	PublishedAsLedger bool           `json:"publishedAsLedger,omitempty"` // whether it is what the ledger says of every API
	DraftsAsLedger    bool           `json:"draftsAsLedger,omitempty"`
	Parts             []PartAudience `json:"parts,omitempty"` // parts of it that are open to fewer
}

// PartAudience is to whom a part of an API is open.
type PartAudience struct {
	Part      string   `json:"part"` // "operation GET /berths/{berth}", "group Dues"
	Published []string `json:"published"`
}

// AudienceWish is the wish to open something to others. What is nil stays as it is.
type AudienceWish struct {
	Part      string    `json:"part,omitempty"`
	Published *[]string `json:"published,omitempty"`
	Drafts    *[]string `json:"drafts,omitempty"`
	AsLedger  bool      `json:"asLedger,omitempty"`
	Reason    string    `json:"reason,omitempty"`
}

// LinkWish is the wish for a link by which an API is read.
type LinkWish struct {
	Label    string `json:"label"`
	Password string `json:"password,omitempty"` // "" to have one made
	Days     int    `json:"days,omitempty"`
}

// Link lets whoever has it and its password read an API.
type Link struct {
	ID     string `json:"id"`
	API    string `json:"api"`
	Label  string `json:"label"`
	MadeBy string `json:"madeBy"`
	MadeAt string `json:"madeAt"`
	EndsAt string `json:"endsAt"`
	Ended  bool   `json:"ended,omitempty"`
}

// NewLink is a link as it is told, once.
type NewLink struct {
	Link
	Address  string `json:"address"`
	Password string `json:"password"`
}

// Feed is whether one has a secret address of feeds.
type Feed struct {
	MadeAt string `json:"madeAt"` // "" for none
}

// NewFeed are secret addresses, told once.
type NewFeed struct {
	Feed     string `json:"feed"`
	Calendar string `json:"calendar"`
}

// Shelf is a named set of APIs that are shown together. Audience, Host and who made it are told to those who are in a team.
type Shelf struct {
	Name     string   `json:"name"`
	Title    string   `json:"title"`
	Address  string   `json:"address"`            // where it is read
	Audience []string `json:"audience,omitempty"` // who sees it: everyone, signed-in, team NAME; none for those who have a role in all teams
	Landing  string   `json:"landing,omitempty"`  // CommonMark
	Host     string   `json:"host,omitempty"`     // at which nothing else is shown
	Stands   []Stand  `json:"stands"`             // in order
	MadeAt   string   `json:"madeAt,omitempty"`
	MadeBy   string   `json:"madeBy,omitempty"`
}

// Stand is an API on a shelf.
type Stand struct {
	API      string   `json:"api"`
	Versions []string `json:"versions,omitempty"` // lines and numbers; none for all
	Why      string   `json:"why,omitempty"`      // for its team: why not all who see the shelf read it there
}

// ShelfWish is the wish to make a shelf, or to change one. What is nil stays as it is.
type ShelfWish struct {
	Title    *string   `json:"title,omitempty"`
	Audience *[]string `json:"audience,omitempty"`
	Landing  *string   `json:"landing,omitempty"`
	Host     *string   `json:"host,omitempty"`
	Order    []string  `json:"order,omitempty"` // APIs that come first
	Reason   string    `json:"reason,omitempty"`
}

// Placing is which versions of an API stand on a shelf: lines and numbers; none for all.
type Placing struct {
	Versions []string `json:"versions,omitempty"`
}
