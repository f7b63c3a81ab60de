package ledger

import (
	"context"
	"strings"
	"time"

	"oldledger/store"
)

// Unpublish takes the reference of a published version back: its addresses answer 404 at once, and the same addresses answer again when
// it is published again. What the version says stays as it is; its clients still count.
func (l *Ledger) Unpublish(ctx context.Context, by Person, ref, reason string) (Version, error) {
	v, err := l.withdrawn(ctx, by, ref, reason)
	if err != nil {
		return v, err
	}
	if !v.Shown() {
		return v, refuse(Conflict, "%s is %s: its reference is not shown", v.Ref(), v.State)
	}
	err = l.act(ctx, v.API, func(r store.Rows) error {
		if err := r.SetUnpublished(ctx, v.API, v.Number, l.stamp()); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "version.unpublished", v.Ref(), map[string]string{"reason": reason})
	})
	if err != nil {
		return v, err
	}
	return l.Resolve(ctx, v.Ref())
}

// Retire ends a version for good, once its sunset has passed: its addresses answer 410 and lead on, and its clients no longer count.
func (l *Ledger) Retire(ctx context.Context, by Person, ref, reason string) (Version, error) {
	v, err := l.withdrawn(ctx, by, ref, reason)
	if err != nil {
		return v, err
	}
	today := l.Today().Format(time.DateOnly)
	switch {
	case v.State == Draft || v.State == Retired:
		return v, refuse(Conflict, "%s is %s", v.Ref(), v.State)
	case v.Sunset == "":
		return v, refuse(Conflict, "nobody was told that %s leaves: make a notice with a sunset first", v.Ref())
	case v.Sunset >= today:
		return v, refuse(Conflict, "%s leaves on %s, and not before", v.Ref(), v.Sunset)
	}
	err = l.act(ctx, v.API, func(r store.Rows) error {
		if err := r.SetRetired(ctx, v.API, v.Number, l.stamp()); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "version.retired", v.Ref(), map[string]string{"reason": reason})
	})
	if err != nil {
		return v, err
	}
	return l.Resolve(ctx, v.Ref())
}

// withdrawn finds the version that somebody wants to take back, and checks that they may and say why.
func (l *Ledger) withdrawn(ctx context.Context, by Person, ref, reason string) (Version, error) {
	if err := mayWrite(by); err != nil {
		return Version{}, err
	}
	if strings.TrimSpace(reason) == "" || len(reason) > maxReason {
		return Version{}, refuse(Invalid, "say why, in at most %d characters", maxReason)
	}
	return l.Resolve(ctx, ref)
}

// republish gives the reference of an unpublished version back.
func (l *Ledger) republish(ctx context.Context, by Person, v Version) (Version, error) {
	err := l.act(ctx, v.API, func(r store.Rows) error {
		if err := r.SetUnpublished(ctx, v.API, v.Number, ""); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "version.republished", v.Ref(), map[string]string{"digest": v.Digest})
	})
	if err != nil {
		return v, err
	}
	l.published(v.Ref())
	return l.Resolve(ctx, v.Ref())
}
