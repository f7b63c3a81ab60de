package ledger

import (
	"context"
	"maps"
	"strings"
)

// Unpublish takes the reference of a published version back: its addresses answer 404 at once, and the same addresses answer again when
// it is published again. What the version says stays as it is; its clients still count.
func (l *Ledger) Unpublish(ctx context.Context, who Actor, ref, reason string) (Version, error) {
	return l.view(who).withdraw(ctx, ref, reason, Unpublished, "version.unpublished", nil, func(_ view, v Version) error {
		if !v.Shown() {
			return refuse(Conflict, "%s is %s: its reference is not shown", v.Ref(), v.State)
		}
		return nil
	})
}

// Retire ends a version for good, once its sunset has passed: its addresses answer 410 and lead on, and its clients no longer count.
// Where it may not go yet (MayGo), despite says why it goes all the same; the journal keeps both.
func (l *Ledger) Retire(ctx context.Context, who Actor, ref, reason, despite string) (Version, error) {
	if len(despite) > maxReason {
		return Version{}, refuse(Invalid, "say in at most %d characters why it goes all the same", maxReason)
	}
	detail := map[string]string{}
	return l.view(who).withdraw(ctx, ref, reason, Retired, "version.retired", detail, func(w view, v Version) error {
		switch {
		case v.State == Draft || v.State == Retired:
			return refuse(Conflict, "%s is %s", v.Ref(), v.State)
		case v.Sunset == "":
			return refuse(Conflict, "nobody was told that %s leaves: make a notice with a sunset first", v.Ref())
		case !v.Overdue:
			return refuse(Conflict, "%s leaves on %s, and not before", v.Ref(), v.Sunset)
		}
		a, err := w.apiAsIs(ctx, v.API)
		if err != nil {
			return err
		}
		r, err := w.ready(ctx, leaving{of: v.Ref(), api: a, versions: []Version{v}, notice: noticeOf(a, []Version{v}), whole: true})
		if err != nil {
			return err
		}
		detail["evidence"] = r.Words()
		if r.May {
			return nil
		}
		if detail["despite"] = strings.TrimSpace(despite); detail["despite"] == "" {
			return refuse(Conflict, "%s may not go yet: %s; say why it goes all the same", v.Ref(), r.Words())
		}
		return nil
	})
}

// withdraw takes a version back, or ends it, for somebody who may and says why. Whether it can be is decided where it is done; detail is
// what else the journal keeps.
func (w view) withdraw(
	ctx context.Context, ref, reason string, to State, act string, detail map[string]string, check func(view, Version) error,
) (v Version, err error) {
	if err := w.may(w.who, Publish, apiOf(ref)); err != nil {
		return v, err
	}
	if strings.TrimSpace(reason) == "" || len(reason) > maxReason {
		return v, refuse(Invalid, "say why, in at most %d characters", maxReason)
	}
	err = w.act(ctx, apiOf(ref), func(w view) error {
		if v, err = w.resolve(ctx, ref); err != nil {
			return err
		}
		if err := check(w, v); err != nil {
			return err
		}
		if err := w.move(ctx, v, to); err != nil {
			return err
		}
		if err := w.rows.DropCards(ctx, v.API); err != nil { // what is gone stands in nobody's way when others are looked for
			return err
		}
		said := map[string]string{"reason": reason}
		maps.Copy(said, detail)
		return w.appendJournal(ctx, act, v.Ref(), said)
	})
	if err != nil {
		return v, err
	}
	return w.resolve(ctx, v.Ref())
}

// republish gives the reference of an unpublished version back.
func (w view) republish(ctx context.Context, v Version) (Version, error) {
	err := w.act(ctx, v.API, func(w view) error {
		if err := w.move(ctx, v, Published); err != nil {
			return err
		}
		return w.appendJournal(ctx, "version.republished", v.Ref(), map[string]string{"digest": v.Digest})
	})
	if err != nil {
		return v, err
	}
	w.published(v.Ref())
	return w.resolve(ctx, v.Ref())
}
