package store

import "context"

// API is one row of apis.
type API struct {
	Name, Title, Team, Promise, CreatedAt string
	NoticeDays                            int // -1 for as many as the ledger has
}

func (a *API) columns() []any {
	return []any{&a.Name, &a.Title, &a.Team, &a.Promise, &a.CreatedAt, &a.NoticeDays}
}

// APIs lists all APIs by name.
func (r Rows) APIs(ctx context.Context) ([]API, error) {
	return many(ctx, r.q, (*API).columns, `SELECT name, title, team, promise, created_at, notice_days FROM apis ORDER BY name`)
}

// API reads one API.
func (r Rows) API(ctx context.Context, name string) (API, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT name, title, team, promise, created_at, notice_days FROM apis WHERE name = ?`, name), (*API).columns)
}

// PutAPI adds an API, or gives a known one a new title and team.
func (r Rows) PutAPI(ctx context.Context, a API) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO apis (name, title, team, promise, created_at, notice_days) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET title = excluded.title, team = excluded.team, promise = excluded.promise, notice_days = excluded.notice_days`,
		a.Name, a.Title, a.Team, a.Promise, a.CreatedAt, a.NoticeDays)
	return err
}

// Version is one row of versions. Content is left out of lists.
type Version struct {
	API, Number, Text, State, Title, Dialect, File, Digest string
	RecordedAt, RecordedBy, PublishedAt, PublishedBy       string
	UnpublishedAt, RetiredAt                               string
	Content                                                []byte
}

const versionColumns = `api, number, text, state, title, dialect, file, digest, recorded_at, recorded_by, published_at, published_by, unpublished_at, retired_at`

func (v *Version) columns() []any {
	return []any{&v.API, &v.Number, &v.Text, &v.State, &v.Title, &v.Dialect, &v.File, &v.Digest,
		&v.RecordedAt, &v.RecordedBy, &v.PublishedAt, &v.PublishedBy, &v.UnpublishedAt, &v.RetiredAt}
}

// Versions lists the versions of an API as they were recorded, without their contents; of all APIs where the name is "".
func (r Rows) Versions(ctx context.Context, api string) ([]Version, error) {
	return many(ctx, r.q, (*Version).columns, `SELECT `+versionColumns+` FROM versions WHERE api = ? OR ? = '' ORDER BY rowid`, api, api)
}

// Version reads one version with its content.
func (r Rows) Version(ctx context.Context, api, number string) (Version, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT `+versionColumns+`, content FROM versions WHERE api = ? AND number = ?`, api, number),
		func(v *Version) []any { return append(v.columns(), &v.Content) })
}

// PutVersion adds a version, or replaces a draft of the same number.
func (r Rows) PutVersion(ctx context.Context, v Version) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO versions (`+versionColumns+`, content) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, number) DO UPDATE SET
		  text = excluded.text, title = excluded.title, dialect = excluded.dialect, file = excluded.file, digest = excluded.digest,
		  recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by, content = excluded.content
		WHERE state = 'draft'`,
		v.API, v.Number, v.Text, v.State, v.Title, v.Dialect, v.File, v.Digest, v.RecordedAt, v.RecordedBy, v.PublishedAt, v.PublishedBy, v.UnpublishedAt, v.RetiredAt, v.Content)
	return err
}

// SetPublished turns a draft into a published version.
func (r Rows) SetPublished(ctx context.Context, api, number, at, by string) error {
	_, err := r.q.ExecContext(ctx, `
		UPDATE versions SET state = 'published', published_at = ?, published_by = ? WHERE api = ? AND number = ? AND state = 'draft'`,
		at, by, api, number)
	return err
}

// SetUnpublished says since when the reference of a published version is taken back; "" gives it back.
func (r Rows) SetUnpublished(ctx context.Context, api, number, at string) error {
	_, err := r.q.ExecContext(ctx, `UPDATE versions SET unpublished_at = ? WHERE api = ? AND number = ? AND state = 'published'`, at, api, number)
	return err
}

// SetRetired says since when a published version is retired.
func (r Rows) SetRetired(ctx context.Context, api, number, at string) error {
	_, err := r.q.ExecContext(ctx, `UPDATE versions SET retired_at = ? WHERE api = ? AND number = ? AND state = 'published'`, at, api, number)
	return err
}
