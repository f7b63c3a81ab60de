package ledger

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"oldledger/ledger/records"
)

// toldShelf is a shelf as the journal says it is, with what stands there, in order.
type toldShelf struct {
	title, audience, landing, host string // landing is a digest
	stands                         []records.Stand
}

// shelve enters that a shelf was made or changed.
func (a *account) shelve(name string, d map[string]string) error {
	s := a.shelves[name]
	if s == nil {
		s = &toldShelf{}
		a.shelves[name] = s
	}
	s.title, s.audience, s.landing, s.host = d["title"], d["audience"], d["landing"], d["host"]
	var first []string
	if err := json.Unmarshal([]byte(d["order"]), &first); err != nil {
		return fmt.Errorf("the order of the shelf %s in the journal: %w", name, err)
	}
	putFirst(s.stands, first)
	return nil
}

func (a *account) place(shelf string, stand records.Stand) {
	s := a.shelves[shelf]
	if s == nil {
		return // a shelf that was never made: found as one that is not in the journal
	}
	if i := slices.IndexFunc(s.stands, func(o records.Stand) bool { return o.API == stand.API }); i >= 0 {
		s.stands[i] = stand
	} else {
		s.stands = append(s.stands, stand)
	}
}

// unplace takes an API from a shelf, or from all where none is named.
func (a *account) unplace(api, shelf string) {
	for name, s := range a.shelves {
		if shelf == "" || shelf == name {
			s.stands = slices.DeleteFunc(s.stands, func(o records.Stand) bool { return o.API == api })
		}
	}
}

func (a *account) againstShelves(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Shelves(ctx)
	if err != nil {
		return "", err
	}
	stands, err := r.Stands(ctx)
	if err != nil {
		return "", err
	}
	on := map[string][]records.Stand{}
	for _, s := range stands {
		on[s.Shelf] = append(on[s.Shelf], s)
	}
	for _, s := range rows {
		said, there := a.shelves[s.Name]
		switch {
		case !there:
			return fmt.Sprintf("there is a shelf %s, and the journal does not say who made it", s.Name), nil
		case said.audience != s.Audience:
			return fmt.Sprintf("who sees the shelf %s is not as the journal says", s.Name), nil
		case said.title != s.Title || said.host != s.Host || said.landing != digest([]byte(s.Landing), nil):
			return fmt.Sprintf("the shelf %s is not as the journal says", s.Name), nil
		case !slices.Equal(said.stands, on[s.Name]):
			return fmt.Sprintf("what stands on the shelf %s is not as the journal says", s.Name), nil
		}
		delete(a.shelves, s.Name)
	}
	for name := range a.shelves {
		return fmt.Sprintf("the shelf %s is in the journal, and gone", name), nil
	}
	return "", nil
}

func (a *account) againstSwitchers(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.APIs(ctx)
	if err != nil {
		return "", err
	}
	for _, api := range rows {
		if is := [2]string{api.Versioning, api.Undeclared}; a.called[api.Name] != is {
			return fmt.Sprintf("%s is called by %q and %q, and the journal says %q", api.Name, is[0], is[1], a.called[api.Name]), nil
		}
		if said := a.switchers[api.Name]; said != api.Switcher {
			return fmt.Sprintf("the pages of %s lead to %s, and the journal says %s", api.Name, cmp.Or(api.Switcher, "all versions"),
				cmp.Or(said, "all versions")), nil
		}
	}
	return "", nil
}
