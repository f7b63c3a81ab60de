package ledger

import (
	"encoding/json"
	"slices"
	"strings"

	"oldledger/core/contract"
)

// Picks are some versions of an API, as lines and numbers: "1.4.0" is one version, "2" are all of line 2. None is all.
type Picks []string

// Have reports whether a version is among them.
func (p Picks) Have(v Version) bool {
	return len(p) == 0 || slices.Contains(p, v.Line) || slices.Contains(p, v.Number)
}

// PicksOf reads lines and numbers. What is neither is a refusal.
func PicksOf(texts []string) (Picks, error) {
	p := Picks{}
	for _, text := range texts {
		text = strings.TrimSpace(text)
		if line := strings.Trim(text, "0123456789") == "" && text != "" && len(text) < 10; !line {
			number, err := contract.ParseVersion(text)
			if err != nil {
				return nil, refuse(Invalid, "%q is no line and no number of a version; write 2 for all of line 2, or 1.4.0", text)
			}
			text = contract.NumberText(number)
		}
		if !slices.Contains(p, text) {
			p = append(p, text)
		}
	}
	return p, nil
}

// of refuses versions that an API has not.
func (p Picks) of(a API) error {
	for _, one := range p {
		if !slices.ContainsFunc(a.Versions, Picks{one}.Have) {
			return refuse(Invalid, "%s has no version %s%s", a.Name, one, recorded(a))
		}
	}
	return nil
}

// among are those that say something of the versions of an API; nil where none does.
func (p Picks) among(a API) Picks {
	if len(p) == 0 {
		return Picks{}
	}
	var some Picks
	for _, one := range p {
		if slices.ContainsFunc(a.Versions, Picks{one}.Have) {
			some = append(some, one)
		}
	}
	return some
}

// stored is a JSON list.
func (p Picks) stored() string {
	text, err := json.Marshal(append(Picks{}, p...))
	if err != nil {
		panic(err) // a list of texts can be written
	}
	return string(text)
}

// storedPicks reads what stored wrote. What was written by others and cannot be read picks nothing.
func storedPicks(text string) Picks {
	p := Picks{}
	if json.Unmarshal([]byte(text), &p) != nil {
		return Picks{"none"}
	}
	return p
}

// NewestOfLines stands, in place of picks, for the versions that are the newest of their lines.
const NewestOfLines = "lines"

// SwitcherOf reads what the pages of an API lead to: lines and numbers, or NewestOfLines alone.
func SwitcherOf(texts []string) (Picks, error) {
	if len(texts) == 1 && strings.TrimSpace(texts[0]) == NewestOfLines {
		return Picks{NewestOfLines}, nil
	}
	return PicksOf(texts)
}

// Switches are those of some versions, the newest first, to which the pages of the API lead: those that its team chose, and the one that is
// read.
func (a API) Switches(versions []Version, read string) []Version {
	seen := map[string]bool{} // lines
	var all []Version
	for _, v := range versions {
		chosen := a.Switcher.Have(v) || slices.Contains(a.Switcher, NewestOfLines) && !seen[v.Line]
		seen[v.Line] = true
		if chosen || v.Number == read {
			all = append(all, v)
		}
	}
	return all
}
