package compare

import "oldledger/core/contract"

// LineupFormat names the JSON form of a Lineup.
const LineupFormat = "oldledger.lineup/1"

// Lineup tells of several versions which can replace which.
type Lineup struct {
	Format     string   `json:"format"`
	Reading    string   `json:"reading"`
	Undeclared string   `json:"undeclared"`
	Versions   []Member `json:"versions"`
	Cells      [][]Cell `json:"cells"` // Cells[i][j]: what clients of version i meet when version j answers them
}

// Member is one of the versions.
type Member struct {
	Name string `json:"name"` // what it was given as: a file, or a reference
	Side
}

// Cell is what clients of one version meet at another.
type Cell struct {
	Grade  Grade  `json:"grade"`
	Counts Counts `json:"counts"`
}

// Fits reports whether clients of version i can call version j.
func (l *Lineup) Fits(i, j int) bool { return l.Cells[i][j].Grade < Breaking }

// DropIn reports whether two versions can replace each other.
func (l *Lineup) DropIn(i, j int) bool { return l.Fits(i, j) && l.Fits(j, i) }

// LineUp compares every two of several versions. compared gives the comparison of version i with a later one j.
func LineUp(members []Member, o Options, compared func(i, j int) (*Comparison, error)) (*Lineup, error) {
	l := &Lineup{
		Format: LineupFormat, Reading: o.Reading.String(), Undeclared: o.Undeclared.String(), Versions: members,
		Cells: make([][]Cell, len(members)),
	}
	for i := range members {
		l.Cells[i] = make([]Cell, len(members))
	}
	for i := range members {
		for j := i + 1; j < len(members); j++ {
			c, err := compared(i, j)
			if err != nil {
				return nil, err
			}
			l.Cells[i][j] = Cell{c.Backward, c.Counts}
			l.Cells[j][i] = Cell{c.Forward, c.forwardCounts()}
		}
	}
	return l, nil
}

// MemberOf names a version in a lineup.
func MemberOf(name string, c *contract.Contract) Member {
	return Member{Name: name, Side: Side{Title: c.Title, Version: c.Version, Dialect: c.Dialect}}
}

func (c *Comparison) forwardCounts() Counts {
	turned := Comparison{Changes: make([]*Change, len(c.Changes))}
	for i, ch := range c.Changes {
		turned.Changes[i] = &Change{Backward: ch.Forward, Forward: ch.Backward}
	}
	turned.judge()
	return turned.Counts
}
