// Package promise says what changes mean for a release: the line that a version belongs to, the promise that the line
// carries, whether a release keeps it, and what notices announced (docs/design/compatibility.md, Promises).
//
//	gate := promise.Judge(promise.Backward, []promise.Against{{Version: "1.1.0", Comparison: c}}, waived)
//	gate.Open // whether the version may be published
//
// Everything here is a pure function of its arguments; today is handed in.
package promise

import (
	"slices"
	"time"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
)

// Promise is what a line promises to those who use it.
type Promise string

// The promises.
const (
	Backward Promise = "backward"  // nothing breaks yesterday's clients
	BothWays Promise = "both-ways" // nor tomorrow's, after a rollback
	None     Promise = "none"      // anything may change
)

// Of is the promise that a version's line carries when its API promises p: versions 0.x and previews promise nothing.
func Of(p Promise, v *semver.Version) Promise {
	if v.Major() == 0 || v.Prerelease() != "" {
		return None
	}
	return p
}

// Line names the line of a version: its major number, or its date.
func Line(v *semver.Version) string { return contract.LineOf(v) }

// Against is the comparison of a release with one version of its line that is still supported.
type Against struct {
	Version    string
	Comparison *compare.Comparison
}

// Obstacle is a change that breaks the promise, and the versions whose clients it breaks.
type Obstacle struct {
	Change   *compare.Change `json:"change"`
	Against  []string        `json:"against"`
	Rollback bool            `json:"rollback"`          // whether it is the way back that breaks
	Removal  *Announcement   `json:"removal,omitempty"` // how it was announced, where it removes something
	Waived   bool            `json:"waived"`
	// by which evidence it touches nobody, where the house style lets through what does not
	Untouched string `json:"untouched,omitempty"`
	Consumer  string `json:"consumer,omitempty"` // whose recorded exchange it is that no longer passes
}

// Gate is whether a version may be published on its line.
type Gate struct {
	Promise   Promise    `json:"promise"`
	Open      bool       `json:"open"`
	Obstacles []Obstacle `json:"obstacles"`
	WaysOut   []string   `json:"waysOut,omitempty"` // where it is shut, in the order in which they are weighed
}

// Judge decides whether a release keeps its line's promise. waived are the ids of the changes that a waiver lets through.
func Judge(p Promise, against []Against, waived []string) Gate {
	gate := Gate{Promise: p, Open: true, Obstacles: []Obstacle{}}
	if p == None {
		return gate
	}
	for _, a := range against {
		for _, ch := range a.Comparison.Changes {
			back := ch.Backward == compare.Breaking
			if !back && !(p == BothWays && ch.Forward == compare.Breaking) {
				continue
			}
			gate.add(Obstacle{Change: ch, Against: []string{a.Version}, Rollback: !back, Waived: slices.ContainsFunc(waived, ch.HasID)})
		}
	}
	for _, o := range gate.Obstacles {
		gate.Open = gate.Open && o.Waived
	}
	return gate
}

// Guard adds an exchange of a consumer, recorded at a version, that no longer passes. waived are as for Judge.
func (g *Gate) Guard(consumer, version string, ch *compare.Change, waived []string) {
	o := Obstacle{Change: ch, Against: []string{version}, Consumer: consumer, Waived: slices.ContainsFunc(waived, ch.HasID)}
	g.Obstacles = append(g.Obstacles, o)
	g.Open = g.Open && o.Waived
}

// Why says why it is shut.
func (g *Gate) Why() string {
	own := func(o Obstacle) bool { return !o.Waived && o.Consumer == "" }
	recorded := func(o Obstacle) bool { return !o.Waived && o.Consumer != "" }
	if slices.ContainsFunc(g.Obstacles, recorded) && !slices.ContainsFunc(g.Obstacles, own) {
		return "what consumers were recorded to do no longer passes"
	}
	return "it breaks the promise of its line, " + string(g.Promise)
}

// Announce says of each obstacle that removes something how that was announced.
func (g *Gate) Announce(notices []Notice, today time.Time) {
	for i := range g.Obstacles {
		g.Obstacles[i].Removal = Announce(g.Obstacles[i].Change, notices, today)
	}
}

// SetWaysOut says the ways out of a shut gate. line is the first version of the next line, notice how many days an announcement has to come
// before what leaves.
func (g *Gate) SetWaysOut(line string, notice int, today time.Time) {
	if g.Open {
		return
	}
	earliest := ""
	if notice > 0 {
		earliest = today.AddDate(0, 0, notice).Format(time.DateOnly)
	}
	g.WaysOut = compare.WaysOut(line, earliest)
}

// add joins one change that breaks several versions.
func (g *Gate) add(o Obstacle) {
	for i, known := range g.Obstacles {
		if known.Change.ID == o.Change.ID && known.Rollback == o.Rollback {
			g.Obstacles[i].Against = append(g.Obstacles[i].Against, o.Against...)
			return
		}
	}
	g.Obstacles = append(g.Obstacles, o)
}
