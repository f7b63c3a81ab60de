package housestyle

import (
	"fmt"
	"slices"

	"github.com/Masterminds/semver/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
)

// versionEnough tells of a version number that is too small for what changed since the version before.
func versionEnough(x *examination, r *Rule) {
	base := x.options.Base
	if base == nil {
		return
	}
	was, err := contract.ParseVersion(base.Version)
	is, wrong := contract.ParseVersion(x.c.Version)
	if err != nil || wrong != nil || !was.LessThan(is) {
		return // another finding, or no version after it
	}
	c, err := compare.ContractsContext(x.ctx, base, x.c, compare.Options{})
	if err != nil {
		return // ctx is over
	}
	wants := c.Recommend(false)
	if wants == nil {
		return
	}
	least, err := semver.NewVersion(wants.Version)
	if err != nil || !is.LessThan(least) {
		return
	}
	api := x.of("api")[0]
	x.say(r, api, r.placeAt(api, "version"), fmt.Sprintf("%s is too small for what changed since %s", x.c.Version, base.Version),
		fmt.Sprintf("call it %s; oldledger compare tells why", wants.Version))
}

// linesFew tells of an API of which more lines are alive than the house wants.
func linesFew(x *examination, r *Rule) {
	lines := map[string]bool{}
	for _, text := range append(slices.Clone(x.options.Live), x.c.Version) {
		if v, err := contract.ParseVersion(text); err == nil {
			lines[promise.Line(v)] = true
		}
	}
	most := x.house.part.(House).Count("lines")
	if len(x.options.Live) == 0 || len(lines) <= most {
		return
	}
	api := x.of("api")[0]
	x.say(r, api, r.placeAt(api, "version"), fmt.Sprintf("with it, %d lines of the API are alive at once", len(lines)),
		fmt.Sprintf("keep it to %d; say of the oldest when it ends", most))
}
