package store

import (
	"context"
	"errors"

	"oldledger/ledger/records"
)

const apiColumns = `name, team, promise, created_at, notice_days, offered, switcher, versioning, undeclared`

func ofAPI(a *records.API) []any {
	return []any{&a.Name, &a.Team, &a.Promise, &a.CreatedAt, &a.NoticeDays, &a.Offered, &a.Switcher, &a.Versioning, &a.Undeclared}
}

func (r rows) APIs(ctx context.Context) ([]records.API, error) {
	return many(ctx, r.q, ofAPI, `SELECT `+apiColumns+` FROM apis ORDER BY name`)
}

func (r rows) API(ctx context.Context, name string) (records.API, error) {
	return one(ctx, r.q, ofAPI, `SELECT `+apiColumns+` FROM apis WHERE name = ?`, name)
}

func (r rows) PutAPI(ctx context.Context, a records.API) error {
	return r.exec(ctx, `
		INSERT INTO apis (`+apiColumns+`) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET team = excluded.team, promise = excluded.promise, notice_days = excluded.notice_days,
			offered = excluded.offered, switcher = excluded.switcher, versioning = excluded.versioning,
			undeclared = excluded.undeclared`,
		a.Name, a.Team, a.Promise, a.CreatedAt, a.NoticeDays, a.Offered, a.Switcher, a.Versioning, a.Undeclared)
}

// ofOneAPI are the tables that keep something of an API alone, under its name.
var ofOneAPI = []string{"line_promises", "looks", "pictures", "guide_texts", "audiences", "links", "stands", "plans", "reliances", "recordings"}

func (r rows) DropAPI(ctx context.Context, name string) error {
	if err := r.DropCards(ctx, name); err != nil {
		return err
	}
	if err := r.exec(ctx, `DELETE FROM openings WHERE link IN (SELECT hash FROM links WHERE api = ?)`, name); err != nil {
		return err
	}
	for _, table := range ofOneAPI {
		if err := r.exec(ctx, `DELETE FROM `+table+` WHERE api = ?`, name); err != nil {
			return err
		}
	}
	return r.change(ctx, `DELETE FROM apis WHERE name = ?`, name)
}

func (r rows) LinePromises(ctx context.Context, api string) ([]records.LinePromise, error) {
	return many(ctx, r.q, func(p *records.LinePromise) []any { return []any{&p.API, &p.Line, &p.Promise} },
		`SELECT api, line, promise FROM line_promises WHERE api = ? OR ? = '' ORDER BY api, line`, api, api)
}

func (r rows) PutLinePromise(ctx context.Context, p records.LinePromise) error {
	if p.Promise == "" {
		return r.exec(ctx, `DELETE FROM line_promises WHERE api = ? AND line = ?`, p.API, p.Line)
	}
	return r.exec(ctx, `INSERT INTO line_promises (api, line, promise) VALUES (?, ?, ?)
		ON CONFLICT (api, line) DO UPDATE SET promise = excluded.promise`, p.API, p.Line, p.Promise)
}

const revisionColumns = `r.id, r.api, r.number, r.text, r.title, r.dialect, r.file, r.digest, r.recorded_at, r.recorded_by, r.message, r.origin`

func ofRevision(r *records.Revision) []any {
	return []any{&r.ID, &r.Of, &r.As, &r.Text, &r.Title, &r.Dialect, &r.File, &r.Digest, &r.RecordedAt, &r.RecordedBy, &r.Message, &r.Origin}
}

const versionQuery = `
	SELECT v.api, v.number, v.state, v.published_at, v.published_by, v.unpublished_at, v.retired_at, ` + revisionColumns + `
	FROM versions v JOIN revisions r ON r.id = v.revision`

func ofVersion(v *records.Version) []any {
	return append([]any{&v.API, &v.Number, &v.State, &v.PublishedAt, &v.PublishedBy, &v.UnpublishedAt, &v.RetiredAt},
		ofRevision(&v.Revision)...)
}

func (r rows) Versions(ctx context.Context, api string) ([]records.Version, error) {
	if api == "" {
		return many(ctx, r.q, ofVersion, versionQuery+` ORDER BY v.rowid`)
	}
	return many(ctx, r.q, ofVersion, versionQuery+` WHERE v.api = ? ORDER BY v.rowid`, api)
}

func (r rows) Version(ctx context.Context, api, number string) (records.Version, error) {
	return one(ctx, r.q, ofVersion, versionQuery+` WHERE v.api = ? AND v.number = ?`, api, number)
}

func (r rows) PutDraft(ctx context.Context, v records.Version) error {
	return r.change(ctx, `
		INSERT INTO versions (api, number, revision) VALUES (?, ?, ?)
		ON CONFLICT (api, number) DO UPDATE SET revision = excluded.revision WHERE state = 'draft'`, v.API, v.Number, v.ID)
}

func (r rows) DropDraft(ctx context.Context, v records.Version) error {
	for _, table := range []string{"overlays", "previews"} {
		if err := r.exec(ctx, `DELETE FROM `+table+` WHERE api = ? AND number = ?`, v.API, v.Number); err != nil {
			return err
		}
	}
	if err := r.change(ctx, `DELETE FROM versions WHERE api = ? AND number = ? AND state = 'draft' AND revision = ?`, v.API, v.Number,
		v.ID); err != nil {
		return err
	}
	recorded, err := r.Revisions(ctx, v.API, v.Number)
	if err != nil {
		return err
	}
	if err := r.exec(ctx, `DELETE FROM revisions WHERE api = ? AND number = ?`, v.API, v.Number); err != nil {
		return err
	}
	for _, was := range recorded {
		if err := r.dropContent(ctx, was.Digest, was.File); err != nil {
			return err
		}
	}
	return nil
}

// dropContent takes a content away, unless another revision has it.
func (r rows) dropContent(ctx context.Context, digest, file string) error {
	for _, table := range []string{"content_files", "contents"} {
		if err := r.exec(ctx, `DELETE FROM `+table+` WHERE digest = ? AND file = ? AND NOT EXISTS (
			SELECT 1 FROM revisions r WHERE r.digest = ? AND r.file = ?)`, digest, file, digest, file); err != nil {
			return err
		}
	}
	return nil
}

func (r rows) MoveVersion(ctx context.Context, v records.Version, to string) error {
	return r.change(ctx, `
		UPDATE versions SET state = ?, published_at = ?, published_by = ?, unpublished_at = ?, retired_at = ?
		WHERE api = ? AND number = ? AND state = ? AND revision = ?`,
		to, v.PublishedAt, v.PublishedBy, v.UnpublishedAt, v.RetiredAt, v.API, v.Number, v.State, v.ID)
}

func (r rows) Revisions(ctx context.Context, api, number string) ([]records.Revision, error) {
	return many(ctx, r.q, ofRevision, `SELECT `+revisionColumns+` FROM revisions r WHERE r.api = ? AND r.number = ? ORDER BY r.id DESC`, api,
		number)
}

func (r rows) AddRevision(ctx context.Context, n records.Revision, c records.Content) (int64, error) {
	if err := r.addContent(ctx, c); err != nil {
		return 0, err
	}
	res, err := r.q.ExecContext(ctx, `
		INSERT INTO revisions (api, number, text, title, dialect, file, digest, recorded_at, recorded_by, message, origin) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		n.Of, n.As, n.Text, n.Title, n.Dialect, c.File, c.Digest, n.RecordedAt, n.RecordedBy, n.Message, n.Origin)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

// addContent keeps a content, unless it is kept already.
func (r rows) addContent(ctx context.Context, c records.Content) error {
	err := r.change(ctx, `INSERT INTO contents (digest, file, text) VALUES (?, ?, ?) ON CONFLICT DO NOTHING`, c.Digest, c.File, c.Text)
	if errors.Is(err, records.ErrStale) {
		return nil
	}
	if err != nil {
		return err
	}
	for _, f := range c.Others {
		if err := r.exec(ctx, `INSERT INTO content_files (digest, file, path, content) VALUES (?, ?, ?, ?)`, c.Digest, c.File, f.Path,
			f.Content); err != nil {
			return err
		}
	}
	return nil
}

func ofContent(c *records.Content) []any { return []any{&c.Digest, &c.File, &c.Text} }

func (r rows) Content(ctx context.Context, digest, file string) (records.Content, error) {
	c, err := one(ctx, r.q, ofContent, `SELECT digest, file, text FROM contents WHERE digest = ? AND file = ?`, digest, file)
	if err == nil {
		c.Others, err = r.contentFiles(ctx, digest, file)
	}
	return c, err
}

func (r rows) contentFiles(ctx context.Context, digest, file string) ([]records.File, error) {
	return many(ctx, r.q, func(f *records.File) []any { return []any{&f.Path, &f.Content} },
		`SELECT path, content FROM content_files WHERE digest = ? AND file = ? ORDER BY path`, digest, file)
}

func (r rows) Contents(ctx context.Context, each func(records.Content) error) error {
	type name struct{ digest, file string }
	names, err := many(ctx, r.q, func(n *name) []any { return []any{&n.digest, &n.file} },
		`SELECT DISTINCT digest, file FROM revisions ORDER BY digest, file`)
	if err != nil {
		return err
	}
	for _, n := range names {
		c, err := r.Content(ctx, n.digest, n.file)
		if errors.Is(err, records.ErrNotFound) {
			c, err = records.Content{Digest: n.digest, File: n.file}, nil // it is missing, and so not what its digest says
		}
		if err == nil {
			err = each(c)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
