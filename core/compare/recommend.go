package compare

import (
	"github.com/Masterminds/semver/v3"

	"oldledger/core/contract"
)

// Recommendation is the version number that the changes call for, counted from the old version.
type Recommendation struct {
	Bump    string `json:"bump"` // major, minor, patch or none
	Version string `json:"version"`
}

// Recommend follows docs/design/compatibility.md, Promises: breaking asks for a major, hazard or safe for a minor, editorial for a patch
// version; a 0.x version moves one step down. Forward breaks count where the line promises both ways. It is nil where the old version is no
// SemVer: after a date comes another one.
func (c *Comparison) Recommend(bothWays bool) *Recommendation {
	old, err := contract.ParseVersion(c.Old.Version)
	if err != nil {
		return nil
	}
	if _, dated := contract.Dated(old); dated {
		return nil
	}
	worst := c.Backward
	if bothWays {
		worst = max(worst, c.Forward)
	}
	bump := "patch"
	switch {
	case len(c.Changes) == 0:
		return &Recommendation{Bump: "none", Version: old.String()}
	case worst == Breaking:
		bump = "major"
	case worst >= Safe:
		bump = "minor"
	}
	if old.Major() == 0 {
		bump = map[string]string{"major": "minor", "minor": "patch", "patch": "patch"}[bump]
	}
	var next semver.Version
	switch bump {
	case "major":
		next = old.IncMajor()
	case "minor":
		next = old.IncMinor()
	default:
		next = old.IncPatch()
	}
	return &Recommendation{Bump: bump, Version: next.String()}
}
