package store

import "context"

// File is one file of a version beside its entry.
type File struct {
	Path    string
	Content []byte
}

// Files reads the files of a version beside its entry, by their paths.
func (r Rows) Files(ctx context.Context, api, number string) ([]File, error) {
	return many(ctx, r.q, func(f *File) []any { return []any{&f.Path, &f.Content} },
		`SELECT path, content FROM files WHERE api = ? AND number = ? ORDER BY path`, api, number)
}

// PutFiles replaces the files of a version.
func (r Rows) PutFiles(ctx context.Context, api, number string, files []File) error {
	if _, err := r.q.ExecContext(ctx, `DELETE FROM files WHERE api = ? AND number = ?`, api, number); err != nil {
		return err
	}
	for _, f := range files {
		if _, err := r.q.ExecContext(ctx, `INSERT INTO files (api, number, path, content) VALUES (?, ?, ?, ?)`, api, number, f.Path, f.Content); err != nil {
			return err
		}
	}
	return nil
}
