package ledger

import (
	"bytes"
	"context"
	"path"
	"regexp"
	"strconv"

	"oldledger/ledger/records"
)

// Picture is a picture that landing pages and footers show: of an API, or of the house where API is "".
type Picture struct {
	API    string
	Name   string // "quay.png"
	Size   int    // in bytes
	MadeBy string
	MadeAt string
}

// Limits of pictures.
const (
	maxPicture  = 512 << 10
	maxPictures = 60
)

// pictureKinds are the kinds of pictures, by the end of their names, with how each begins.
var pictureKinds = map[string]struct {
	mediaType string
	begins    []byte
	at        int // where it begins so
}{
	".png":  {"image/png", []byte("\x89PNG\r\n\x1a\n"), 0},
	".jpg":  {"image/jpeg", []byte("\xff\xd8\xff"), 0},
	".jpeg": {"image/jpeg", []byte("\xff\xd8\xff"), 0},
	".gif":  {"image/gif", []byte("GIF8"), 0},
	".webp": {"image/webp", []byte("WEBP"), 8},
	".svg":  {"image/svg+xml", []byte("<"), 0},
}

var pictureName = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,59}\.[a-z]{3,4}$`)

// MediaType is the media type of the picture.
func (p Picture) MediaType() string { return pictureKinds[path.Ext(p.Name)].mediaType }

// isPicture reports whether a text begins as the kind that the name says does.
func isPicture(name string, text []byte) bool {
	if path.Ext(name) == ".svg" {
		text = bytes.TrimLeft(text, "\xef\xbb\xbf \r\n\t")
	}
	kind := pictureKinds[path.Ext(name)]
	return len(text) >= kind.at && bytes.HasPrefix(text[kind.at:], kind.begins)
}

// Pictures lists the pictures of an API, or of the house where the name is "", by name.
func (l *Ledger) Pictures(ctx context.Context, who Actor, api string) ([]Picture, error) {
	w := l.view(who)
	if err := w.sees(ctx, api); err != nil {
		return nil, err
	}
	rows, err := w.rows.Pictures(ctx, api)
	all := []Picture{}
	for _, r := range rows {
		all = append(all, Picture{r.API, r.Name, r.Size, r.MadeBy, r.MadeAt})
	}
	return all, err
}

// Picture reads one.
func (l *Ledger) Picture(ctx context.Context, who Actor, api, name string) (Picture, []byte, error) {
	w := l.view(who)
	if err := w.sees(ctx, api); err != nil {
		return Picture{}, nil, err
	}
	r, err := w.rows.Picture(ctx, api, name)
	if err != nil {
		return Picture{}, nil, notFound(err, "there is no picture %s", name)
	}
	return Picture{r.API, r.Name, len(r.Bytes), r.MadeBy, r.MadeAt}, r.Bytes, nil
}

// sees refuses an API that the actor may not know of.
func (w view) sees(ctx context.Context, api string) error {
	if api == "" {
		return nil
	}
	_, err := w.api(ctx, api)
	return err
}

// PutPicture keeps a picture, in place of one of the same name. What is not of the kind that its name says is refused.
func (l *Ledger) PutPicture(ctx context.Context, who Actor, api, name string, text []byte) (Picture, error) {
	w := l.view(who)
	if err := l.may(who, Arrange, api); err != nil {
		return Picture{}, err
	}
	if err := w.sees(ctx, api); err != nil {
		return Picture{}, err
	}
	switch _, known := pictureKinds[path.Ext(name)]; {
	case !pictureName.MatchString(name) || !known:
		return Picture{}, refuse(Invalid, "%q is no name of a picture; one is made of small letters, digits and hyphens and ends in .png, .jpg, .gif, .webp or .svg, such as quay.png", name)
	case len(text) > maxPicture:
		return Picture{}, refuse(Invalid, "a picture has at most %d kB; %s has %d", maxPicture>>10, name, len(text)>>10)
	case !isPicture(name, text):
		return Picture{}, refuse(Invalid, "%s is no picture of the kind that its name says", name)
	}
	row := records.Picture{API: api, Name: name, Bytes: text, MadeBy: who.Name, MadeAt: l.stamp()}
	err := w.act(ctx, api, func(w view) error {
		there, err := w.rows.Pictures(ctx, api)
		if err != nil {
			return err
		}
		others := 0
		for _, p := range there {
			if p.Name != name {
				others++
			}
		}
		if others >= maxPictures {
			return refuse(Conflict, "there are %d pictures already, as many as may be; remove one first", others)
		}
		if err := w.rows.PutPicture(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "picture.kept", subjectOf(api), map[string]string{"name": name, "size": strconv.Itoa(len(text))})
	})
	return Picture{api, name, len(text), row.MadeBy, row.MadeAt}, err
}

// DropPicture removes a picture.
func (l *Ledger) DropPicture(ctx context.Context, who Actor, api, name string) error {
	w := l.view(who)
	if err := l.may(who, Arrange, api); err != nil {
		return err
	}
	if err := w.sees(ctx, api); err != nil {
		return err
	}
	return w.act(ctx, api, func(w view) error {
		if _, err := w.rows.Picture(ctx, api, name); err != nil {
			return notFound(err, "there is no picture %s", name)
		}
		if err := w.rows.DropPicture(ctx, api, name); err != nil {
			return err
		}
		return w.appendJournal(ctx, "picture.removed", subjectOf(api), map[string]string{"name": name})
	})
}

// subjectOf is what an act concerns, as the journal names it.
func subjectOf(api string) string {
	if api == "" {
		return "all APIs"
	}
	return api
}
