package ledger

import (
	"context"
	"fmt"

	"oldledger/ledger/records"
)

// toldCredential is a credential as the journal tells of it.
type toldCredential struct{ consumer, api, hash, ends string }

func grantKey(consumer, api, line string) string { return consumer + " at line " + line + " of " + api }

// endIssued enters that those credentials of a consumer at an API end that last longer.
func (a *account) endIssued(consumer, api, at string) {
	for id, c := range a.issued {
		if c.consumer == consumer && c.api == api && (c.ends == "" || c.ends > at) {
			c.ends = at
			a.issued[id] = c
		}
	}
}

// againstAccess holds plans, grants and credentials against the journal.
func (a *account) againstAccess(ctx context.Context, r records.Rows) (string, error) {
	plans, err := r.Plans(ctx, "")
	if err != nil {
		return "", err
	}
	for _, p := range plans {
		said, there := a.plans[p.API+" "+p.Name]
		if !there {
			return fmt.Sprintf("the plan %q of %s is not in the journal", p.Name, p.API), nil
		}
		for key, is := range planDetail(p) {
			if said[key] != is {
				return fmt.Sprintf("the plan %q of %s is not as the journal says", p.Name, p.API), nil
			}
		}
	}
	if len(plans) < len(a.plans) {
		return "a plan of the journal is not there", nil
	}
	grants, err := r.Grants(ctx, "", "")
	if err != nil {
		return "", err
	}
	for _, g := range grants {
		if key := grantKey(g.Consumer, g.API, g.Line); a.grants[key] != g.Plan {
			return fmt.Sprintf("that there is a grant to %s by the plan %q is not in the journal", key, g.Plan), nil
		}
	}
	if len(grants) < len(a.grants) {
		return "a grant of the journal is not there", nil
	}
	issued, err := r.Credentials(ctx, "", "")
	if err != nil {
		return "", err
	}
	for _, c := range issued {
		if a.issued[c.ID] != (toldCredential{c.Consumer, c.API, c.Hash, c.EndsAt}) {
			return fmt.Sprintf("the credential %s of %s is not as the journal says", c.ID, c.Consumer), nil
		}
	}
	if len(issued) < len(a.issued) {
		return "a credential of the journal is not there", nil
	}
	return "", nil
}
