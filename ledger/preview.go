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
	ID        string // names it without giving it away
	Path      string // below the service's address; told once, "" in a list
	MadeBy    string
	MadeAt    string
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
	row := records.PreviewLink{Hash: linkHash(key), API: v.API, Number: v.Number, MadeBy: who.Name, MadeAt: l.stamp(), ExpiresAt: ends}
	err = l.store.Write(ctx, func(r records.Rows) error {
		if err := r.AddPreviewLink(ctx, row, l.stamp()); err != nil {
			return err
		}
		return w.in(r).appendJournal(ctx, "preview.made", v.Ref(), map[string]string{"until": ends})
	})
	made := previewLink(row)
	made.Path = "/preview/" + key + "/"
	return made, err
}

// linkID is how many characters of its hash name a link.
const linkID = 12

func previewLink(row records.PreviewLink) PreviewLink {
	return PreviewLink{
		Version: row.API + "@" + row.Number, ID: row.Hash[:linkID], MadeBy: row.MadeBy, MadeAt: row.MadeAt, ExpiresAt: row.ExpiresAt,
	}
}

// PreviewLinks lists the addresses at which a version is shown and that still hold, the newest first.
func (l *Ledger) PreviewLinks(ctx context.Context, who Actor, ref string) ([]PreviewLink, error) {
	v, err := l.view(who).inside(ctx, ref)
	if err != nil {
		return nil, err
	}
	rows, err := l.store.Read().PreviewLinks(ctx, v.API, v.Number)
	links := []PreviewLink{}
	for _, row := range rows {
		if row.ExpiresAt > l.stamp() {
			links = append(links, previewLink(row))
		}
	}
	return links, err
}

// WithdrawPreview ends an address at which a version is shown, by its id: whoever holds it reads nothing there any more.
func (l *Ledger) WithdrawPreview(ctx context.Context, who Actor, ref, id string) error {
	w := l.view(who)
	if err := l.may(who, SharePreview, apiOf(ref)); err != nil {
		return err
	}
	v, err := w.resolve(ctx, ref)
	if err != nil {
		return err
	}
	return l.store.Write(ctx, func(r records.Rows) error {
		all, err := r.PreviewLinks(ctx, v.API, v.Number)
		if err != nil {
			return err
		}
		for _, row := range all {
			if row.Hash[:linkID] != id {
				continue
			}
			if err := r.DropPreviewLink(ctx, row.Hash); err != nil {
				return err
			}
			return w.in(r).appendJournal(ctx, "preview.withdrawn", v.Ref(), map[string]string{"preview": id})
		}
		return refuse(NotFound, "%s has no preview %s", v.Ref(), id)
	})
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
	holder = Actor{holds: row.API + "@" + row.Number, reading: true}
	if !l.keeping(row.API).holdsPreview(holder) { // its team shows drafts to nobody any more
		return Nobody, v, "", refuse(NotFound, "There is no preview at this address; it may have expired.")
	}
	v, err = l.view(holder).readable(ctx, holder.holds)
	return holder, v, row.ExpiresAt, err
}
