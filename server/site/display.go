package site

import (
	"context"
	"net/http"
	"strings"

	"oldledger/ledger"
)

// A shelf is read below /shelves/NAME/, and on its host in place of all APIs. There a reader is one of what stands on it alone
// (ledger.At): lists, searches, feeds, calendars, site map and catalogue are made for that reader as they are for any other.

// shelvesPath is where the pages of shelves begin; the name of one follows.
const shelvesPath = "/shelves/"

// shelfIn is the shelf that an address names, and the address below it; "" where it names none.
func shelfIn(address string) (name, below string) {
	rest, found := strings.CutPrefix(address, shelvesPath)
	if !found {
		return "", ""
	}
	name, below, _ = strings.Cut(rest, "/")
	return name, below
}

// hostShelf is the shelf that is shown alone at the host of a request; "" for none. Where the ledger itself is reached, everything is.
func (s *Site) hostShelf(r *http.Request) string {
	name := s.ledger.ShelfAt(r.Host)
	if name == "" || strings.EqualFold(r.Host, s.public.Host) {
		return ""
	}
	return name
}

// shown is somebody as a reader of what is shown at the host of a request.
func (s *Site) shown(r *http.Request, who ledger.Actor) ledger.Actor {
	if name := s.hostShelf(r); name != "" {
		return s.ledger.At(who, name)
	}
	return who
}

// originOf is where somebody reaches the service who reads on a shelf, or everywhere.
func (s *Site) originOf(who ledger.Actor) string {
	shelf := who.Shelf()
	if shelf == nil || shelf.Host == "" {
		return s.origin()
	}
	at := *s.public
	at.Host = shelf.Host
	return strings.TrimSuffix(at.String(), "/")
}

// display is a list of APIs as its readers meet it: of all, or of those on a shelf.
type display struct {
	House   string
	Title   string         // of the shelf; "" of all
	Base    string         // where its pages are: "/reference/", "/shelves/partners/"
	Landing string         // CommonMark, above the list
	Shelves []ledger.Shelf // that the reader sees beside it
	partial map[string]bool
}

// display is the list at an address. It refuses a shelf that is not for the reader as one that there is not.
func (s *Site) display(who ledger.Actor, v target) (display, error) {
	d := display{House: s.house, Base: v.base}
	shelf := who.Shelf()
	if shelf == nil {
		return d, nil
	}
	if shelf.Name == "" {
		return d, errNowhere
	}
	d.Title, d.Landing, d.partial = shelf.Title, shelf.Landing, map[string]bool{}
	for _, stand := range shelf.Stands {
		d.partial[stand.API] = len(stand.Versions) > 0
	}
	return d, nil
}

// greeted is the display with what greets above all APIs, and the shelves beside it.
func (s *Site) greeted(ctx context.Context, who ledger.Actor, d display) (display, error) {
	if d.Title != "" {
		return d, nil
	}
	looks, err := s.ledger.Looks(ctx, who, "")
	if err != nil {
		return d, err
	}
	d.Landing = looks.Landing
	d.Shelves, err = s.ledger.Shelves(ctx, who)
	return d, err
}

// address is where an entry leads: to the newest version, or to the newest that stands on the shelf, where not all do.
func (d display) address(e shelfEntry) string {
	if d.partial[e.Name] && d.Base != referencePath {
		return referencePath + e.Name + "/" + e.Latest.Number + "/"
	}
	return referencePath + e.Name + "/"
}

// full is its name with that of the house.
func (d display) full() string {
	if d.Title == "" {
		return "APIs of " + d.House
	}
	return d.Title + " — " + d.House
}

// within says where something is that is in the list.
func (d display) within() string {
	if d.Title == "" {
		return "in all APIs"
	}
	return "on this shelf"
}
