package compare

import "oldledger/core/contract"

// partners pairs what went with what came where each is the only one for the other; the rest is given back in its order.
func partners[T any](gone, came []T, alike func(x, y T) bool) (pairs [][2]T, restGone, restCame []T) {
	fits := make([][]int, len(gone))
	wanted := make([]int, len(came))
	if len(gone)*len(came) > maxPartners {
		return nil, gone, came
	}
	for i, x := range gone {
		for j, y := range came {
			if alike(x, y) {
				fits[i] = append(fits[i], j)
				wanted[j]++
			}
		}
	}
	used := make([]bool, len(came))
	for i, x := range gone {
		if len(fits[i]) == 1 && wanted[fits[i][0]] == 1 {
			used[fits[i][0]] = true
			pairs = append(pairs, [2]T{x, came[fits[i][0]]})
		} else {
			restGone = append(restGone, x)
		}
	}
	for j, y := range came {
		if !used[j] {
			restCame = append(restCame, y)
		}
	}
	return pairs, restGone, restCame
}

// maxPartners bounds the pairs that are looked at: where so much went and came, nothing was renamed.
const maxPartners = 40_000

// sameParameter tells whether two parameters or headers are one under two names.
func (c *comparer) sameParameter(x, y *contract.Parameter) bool {
	sx, _ := x.Payload()
	sy, _ := y.Payload()
	return x.In == y.In && x.In != "path" && sx != nil && sy != nil && resemble(x.Name, y.Name) && c.alikeShape(sx, sy)
}
