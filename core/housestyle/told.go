package housestyle

import "oldledger/core/check"

// Told is a rule as it is told to those who read it.
type Told struct {
	Name    string   `json:"name"`
	Group   string   `json:"group"`
	Weight  string   `json:"weight"` // off, hint, warning, error; refused of what cannot be read at all
	Because string   `json:"because,omitempty"`
	About   string   `json:"about,omitempty"`
	Where   string   `json:"where,omitempty"`
	Must    string   `json:"must,omitempty"`
	Says    string   `json:"says"` // with the names of its values
	Why     string   `json:"why,omitempty"`
	Good    []string `json:"good,omitempty"`
	Bad     []string `json:"bad,omitempty"`
	Own     bool     `json:"own"`
}

// Told are the rules of the style, behind those of readers.
func (s *Style) Told() []Told {
	mistakes, err := mistakes()
	if err != nil {
		panic(err) // the tests read them
	}
	var all []Told
	for _, r := range check.Rules() {
		m := mistakes[r.Name]
		weight := r.Severity.String()
		if r.Refused {
			weight = "refused"
		}
		all = append(all, Told{
			Name: r.Name, Group: WellFormed, Weight: weight, Says: r.Means, Why: m.why, Good: textsOf(m.good), Bad: textsOf(m.bad),
		})
	}
	for _, r := range s.Rules {
		t := Told{
			Name: r.Name, Group: r.Group, Weight: r.Weight.String(), Because: r.Because, About: r.About, Where: r.Where, Must: r.Must,
			Says: Plain(r.Says), Why: r.Why, Good: textsOf(r.Good), Bad: textsOf(r.Bad), Own: r.Own,
		}
		if r.Off {
			t.Weight = "off"
		}
		all = append(all, t)
	}
	return all
}

func textsOf(all []Example) []string {
	var list []string
	for _, e := range all {
		list = append(list, e.Text)
	}
	return list
}
