package store

import "context"

// GuideText is one row of guide_texts.
type GuideText struct{ API, Pair, Anchor, Title, Text, MadeBy, MadeAt string }

func (g *GuideText) columns() []any {
	return []any{&g.API, &g.Pair, &g.Anchor, &g.Title, &g.Text, &g.MadeBy, &g.MadeAt}
}

// GuideTexts lists what was written into the guides of an API, the newest first.
func (r Rows) GuideTexts(ctx context.Context, api string) ([]GuideText, error) {
	return many(ctx, r.q, (*GuideText).columns, `SELECT api, pair, anchor, title, text, made_by, made_at FROM guide_texts WHERE api = ? ORDER BY made_at DESC, anchor`, api)
}

// PutGuideText keeps a text in place of the one before.
func (r Rows) PutGuideText(ctx context.Context, g GuideText) error {
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO guide_texts (api, pair, anchor, title, text, made_by, made_at) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (api, pair, anchor) DO UPDATE SET title = excluded.title, text = excluded.text, made_by = excluded.made_by, made_at = excluded.made_at`,
		g.API, g.Pair, g.Anchor, g.Title, g.Text, g.MadeBy, g.MadeAt)
	return err
}

// DropGuideText takes a text away.
func (r Rows) DropGuideText(ctx context.Context, api, pair, anchor string) error {
	_, err := r.q.ExecContext(ctx, `DELETE FROM guide_texts WHERE api = ? AND pair = ? AND anchor = ?`, api, pair, anchor)
	return err
}
