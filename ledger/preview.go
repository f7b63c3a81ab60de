package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"io"
	"time"

	"oldledger/ledger/records"
)

// PreviewLink is an address at which a version can be read before its readers see it, for whoever knows the address.
type PreviewLink struct {
	Version   string
	Path      string // below the service's address
	ExpiresAt string
}

// How long an address of a preview holds.
const (
	defaultLinkDays = 7
	maxLinkDays     = 90
)

// CreatePreviewLink makes an address for a version with its overlay's draft. It holds for so many days, 7 where days is 0.
func (l *Ledger) CreatePreviewLink(ctx context.Context, who Actor, ref string, days int) (PreviewLink, error) {
	w := l.view(who)
	if err := l.may(who, SharePreview, apiOf(ref)); err != nil {
		return PreviewLink{}, err
	}
	if days == 0 {
		days = defaultLinkDays
	}
	if days < 1 || days > maxLinkDays {
		return PreviewLink{}, refuse(Invalid, "the address of a preview holds for 1 to %d days, not %d", maxLinkDays, days)
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return PreviewLink{}, err
	}
	var random [24]byte
	if _, err := io.ReadFull(l.options.Random, random[:]); err != nil {
		return PreviewLink{}, err
	}
	key := base64.RawURLEncoding.EncodeToString(random[:])
	now := l.options.Now().UTC()
	ends := now.AddDate(0, 0, days).Format(time.RFC3339)
	err = l.store.Write(ctx, func(r records.Rows) error {
		row := records.PreviewLink{Hash: linkHash(key), API: v.API, Number: v.Number, MadeBy: who.Name, MadeAt: l.stamp(), ExpiresAt: ends}
		if err := r.AddPreviewLink(ctx, row, l.stamp()); err != nil {
			return err
		}
		return w.in(r).appendJournal(ctx, "preview.made", v.Ref(), map[string]string{"until": ends})
	})
	return PreviewLink{v.Ref(), "/preview/" + key + "/", ends}, err
}

func linkHash(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:])
}

// Shown finds the version that a preview's address shows, until when, and as whom whoever holds the address reads it. An address that has
// expired is as one that never was.
func (l *Ledger) Shown(ctx context.Context, key string) (holder Actor, v Version, until string, err error) {
	row, err := l.store.Read().PreviewLink(ctx, linkHash(key))
	if err != nil {
		return Nobody, v, "", notFound(err, "There is no preview at this address; it may have expired.")
	}
	if row.ExpiresAt <= l.stamp() {
		return Nobody, v, "", refuse(NotFound, "There is no preview at this address; it may have expired.")
	}
	holder = Actor{holds: row.API + "@" + row.Number}
	v, err = l.view(holder).readable(ctx, holder.holds)
	return holder, v, row.ExpiresAt, err
}
