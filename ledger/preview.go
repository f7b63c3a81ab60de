package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"io"
	"time"

	"oldledger/store"
)

// Showing is an address at which a version can be read before its readers see it, for whoever knows the address.
type Showing struct {
	Version   string `json:"version"`
	Path      string `json:"path"` // below the service's address
	ExpiresAt string `json:"expiresAt"`
}

// How long an address of a preview holds.
const (
	usualShowing = 7
	maxShowing   = 90
)

// Show makes an address for a version with its overlay's draft. It holds for so many days, 7 where days is 0.
func (l *Ledger) Show(ctx context.Context, by Person, ref string, days int) (Showing, error) {
	if err := mayWrite(by); err != nil {
		return Showing{}, err
	}
	if days == 0 {
		days = usualShowing
	}
	if days < 1 || days > maxShowing {
		return Showing{}, refuse(Invalid, "the address of a preview holds for 1 to %d days, not %d", maxShowing, days)
	}
	v, err := l.Resolve(ctx, ref)
	if err != nil {
		return Showing{}, err
	}
	var random [24]byte
	if _, err := io.ReadFull(l.options.Random, random[:]); err != nil {
		return Showing{}, err
	}
	key := base64.RawURLEncoding.EncodeToString(random[:])
	now := l.options.Now().UTC()
	ends := now.AddDate(0, 0, days).Format(time.RFC3339)
	err = l.store.Write(ctx, func(r store.Rows) error {
		row := store.Preview{Hash: showingHash(key), API: v.API, Number: v.Number, MadeBy: by.Name, MadeAt: l.stamp(), ExpiresAt: ends}
		if err := r.AddPreview(ctx, row, l.stamp()); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "preview.made", v.Ref(), map[string]string{"until": ends})
	})
	return Showing{v.Ref(), "/preview/" + key + "/", ends}, err
}

func showingHash(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:])
}

// Shown finds the version that a preview's address shows, and until when. An address that has expired is as one that never was.
func (l *Ledger) Shown(ctx context.Context, key string) (v Version, until string, err error) {
	row, err := l.store.Read().Preview(ctx, showingHash(key))
	if err != nil {
		return v, "", notFound(err, "There is no preview at this address; it may have expired.")
	}
	if row.ExpiresAt <= l.stamp() {
		return v, "", refuse(NotFound, "There is no preview at this address; it may have expired.")
	}
	v, err = l.Resolve(ctx, row.API+"@"+row.Number)
	return v, row.ExpiresAt, err
}
