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
