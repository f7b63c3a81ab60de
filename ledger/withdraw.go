package ledger

import (
	"context"
	"strings"
	"time"
)

// Unpublish takes the reference of a published version back: its addresses answer 404 at once, and the same addresses answer again when
// it is published again. What the version says stays as it is; its clients still count.
func (l *Ledger) Unpublish(ctx context.Context, who Actor, ref, reason string) (Version, error) {
	w := l.view(who)
	v, err := w.withdrawn(ctx, ref, reason)
	if err != nil {
		return v, err
	}
	if !v.Shown() {
		return v, refuse(Conflict, "%s is %s: its reference is not shown", v.Ref(), v.State)
	}
	err = w.act(ctx, v.API, func(w view) error {
		if err := w.move(ctx, v, Unpublished); err != nil {
			return err
		}
		return w.enter(ctx, "version.unpublished", v.Ref(), map[string]string{"reason": reason})
	})
	if err != nil {
		return v, err
	}
	return w.resolve(ctx, v.Ref())
}

// Retire ends a version for good, once its sunset has passed: its addresses answer 410 and lead on, and its clients no longer count.
func (l *Ledger) Retire(ctx context.Context, who Actor, ref, reason string) (Version, error) {
	w := l.view(who)
	v, err := w.withdrawn(ctx, ref, reason)
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
	err = w.act(ctx, v.API, func(w view) error {
		if err := w.move(ctx, v, Retired); err != nil {
			return err
		}
		return w.enter(ctx, "version.retired", v.Ref(), map[string]string{"reason": reason})
	})
	if err != nil {
		return v, err
	}
	return w.resolve(ctx, v.Ref())
}

// withdrawn finds the version that somebody wants to take back, and checks that they may and say why.
func (w view) withdrawn(ctx context.Context, ref, reason string) (Version, error) {
	if err := w.may(w.who, Publish, apiOf(ref)); err != nil {
		return Version{}, err
	}
	if strings.TrimSpace(reason) == "" || len(reason) > maxReason {
		return Version{}, refuse(Invalid, "say why, in at most %d characters", maxReason)
	}
	return w.resolve(ctx, ref)
}

// republish gives the reference of an unpublished version back.
func (w view) republish(ctx context.Context, v Version) (Version, error) {
	err := w.act(ctx, v.API, func(w view) error {
		if err := w.move(ctx, v, Published); err != nil {
			return err
		}
		return w.enter(ctx, "version.republished", v.Ref(), map[string]string{"digest": v.Digest})
	})
	if err != nil {
		return v, err
	}
	w.published(v.Ref())
	return w.resolve(ctx, v.Ref())
}
