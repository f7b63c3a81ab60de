package ledger

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/sample"
	"oldledger/ledger/records"
)

// Looks is how the reference of an API looks: its own, or that of all APIs without looks of their own. What is "" or empty is as usual.
type Looks struct {
	Accent     string              `json:"accent,omitempty"`     // the colour of links and marks on light paper: "#2b4a7e"
	AccentDark string              `json:"accentDark,omitempty"` // the same on dark paper; made from Accent where it is ""
	Font       string              `json:"font,omitempty"`       // one of Fonts
	Logo       string              `json:"logo,omitempty"`       // a data: address of a PNG or SVG picture
	Landing    string              `json:"landing,omitempty"`    // CommonMark, above the overview of each version; of the house, above the list of all APIs
	Footer     string              `json:"footer,omitempty"`     // CommonMark, below every page
	Languages  []LanguageOfSamples `json:"languages,omitempty"`  // those of the samples, in their order
	Parents    []string            `json:"parents,omitempty"`    // the addresses whose pages may hold pages of the reference
	Unlisted   bool                `json:"unlisted,omitempty"`   // search engines are asked to stay away
	MadeBy     string              `json:"madeBy,omitempty"`
	MadeAt     string              `json:"madeAt,omitempty"`
}

// LanguageOfSamples is a language that samples are written in, with the team's own template for it where it has one (see core/sample).
type LanguageOfSamples struct {
	ID       string `json:"id"`
	Template string `json:"template,omitempty"`
}

// Fonts are the faces that a reference can be set in: the serif of the ledger, its sans throughout, or what the reader's system has.
var Fonts = []string{"literata", "plex", "system"}

// The papers that an accent stands on, and the contrast that a text needs (WCAG 2.2, 1.4.3).
const (
	lightPaper  = "#f4efe3"
	darkPaper   = "#20252f"
	minContrast = 4.5
)

// Limits of looks.
const (
	maxLogo    = 64 << 10
	maxText    = 20_000
	maxParents = 20
)

// Looks reads how an API looks; that of all APIs where the name is "" or the API has no looks of its own.
func (l *Ledger) Looks(ctx context.Context, who Actor, api string) (Looks, error) {
	w := l.view(who)
	if api != "" {
		if _, err := w.api(ctx, api); err != nil {
			return Looks{}, err
		}
	}
	return w.looks(ctx, api)
}

func (w view) looks(ctx context.Context, api string) (Looks, error) {
	for _, name := range []string{api, ""} {
		row, err := w.rows.Looks(ctx, name)
		if errors.Is(err, records.ErrNotFound) {
			continue
		}
		if err != nil {
			return Looks{}, err
		}
		looks := Looks{}
		err = json.Unmarshal([]byte(row.Settings), &looks)
		looks.MadeBy, looks.MadeAt = row.MadeBy, row.MadeAt
		if name != api {
			looks.Landing = "" // what greets on the shelf greets there alone
		}
		return looks, err
	}
	return Looks{}, nil
}

// PutLooks keeps how an API looks. Colours that are hard to read, pictures of other kinds, and templates that do not work are refused.
func (l *Ledger) PutLooks(ctx context.Context, who Actor, api string, looks Looks) (Looks, error) {
	w := l.view(who)
	if err := l.may(who, Arrange, api); err != nil {
		return looks, err
	}
	if api != "" {
		if _, err := w.api(ctx, api); err != nil {
			return looks, err
		}
	}
	if err := looks.check(); err != nil {
		return looks, err
	}
	looks.MadeBy, looks.MadeAt = "", ""
	settings, err := json.Marshal(looks)
	if err != nil {
		return looks, err
	}
	row := records.Looks{API: api, Settings: string(settings), MadeBy: who.Name, MadeAt: l.stamp()}
	err = w.act(ctx, api, func(w view) error {
		if err := w.rows.PutLooks(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "looks.changed", subjectOf(api), map[string]string{"accent": looks.Accent, "font": looks.Font})
	})
	looks.MadeBy, looks.MadeAt = row.MadeBy, row.MadeAt
	return looks, err
}

func (k *Looks) check() error {
	if k.Accent == "" && k.AccentDark != "" {
		return refuse(Invalid, "an accent for dark paper needs one for light paper, too")
	}
	if k.Accent != "" {
		if k.AccentDark == "" {
			k.AccentDark = lighten(k.Accent)
		}
		for _, pair := range [][2]string{{k.Accent, lightPaper}, {k.AccentDark, darkPaper}} {
			if !colour.MatchString(pair[0]) {
				return refuse(Invalid, "%q is no colour; write one such as #2b4a7e", pair[0])
			}
			if c := contrast(pair[0], pair[1]); c < minContrast {
				return refuse(Invalid, "%s on %s has a contrast of %.1f; a text needs %.1f", pair[0], pair[1], c, minContrast)
			}
		}
	}
	if k.Font != "" && !slices.Contains(Fonts, k.Font) {
		return refuse(Invalid, "%q is none of the fonts %s", k.Font, strings.Join(Fonts, ", "))
	}
	if err := checkLogo(k.Logo); err != nil {
		return err
	}
	for _, text := range []string{k.Landing, k.Footer} {
		if len(text) > maxText {
			return refuse(Invalid, "a text of the looks has at most %d characters", maxText)
		}
	}
	if _, err := k.Samples(); err != nil {
		return refuse(Invalid, "%v", err)
	}
	if len(k.Parents) > maxParents {
		return refuse(Invalid, "at most %d addresses may hold pages of the reference", maxParents)
	}
	for _, p := range k.Parents {
		u, err := url.Parse(p)
		if err != nil || !hostName.MatchString(u.Host) || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" ||
			strings.TrimSuffix(p, "/") != u.Scheme+"://"+u.Host || strings.ContainsAny(p, " ;,'\"") {
			return refuse(Invalid, "%q is no address of a site; write one such as https://intranet.saltmere.example", p)
		}
	}
	return nil
}

// hostName is one host, with a port or without: no pattern for many.
var hostName = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9.-]*(:[0-9]+)?$`)

var colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

func checkLogo(logo string) error {
	if logo == "" {
		return nil
	}
	kind, data, ok := strings.Cut(strings.TrimPrefix(logo, "data:"), ";base64,")
	picture, err := base64.StdEncoding.DecodeString(data)
	switch {
	case !ok || !strings.HasPrefix(logo, "data:") || err != nil || kind != "image/png" && kind != "image/svg+xml":
		return refuse(Invalid, "a logo is a PNG or SVG picture, as an address that begins with data:image/png;base64, or data:image/svg+xml;base64,")
	case len(picture) > maxLogo:
		return refuse(Invalid, "a logo has at most %d kB", maxLogo>>10)
	case kind == "image/png" && !strings.HasPrefix(string(picture), "\x89PNG\r\n"):
		return refuse(Invalid, "the logo is no PNG picture")
	}
	return nil
}

// Samples are the languages that samples are written in, with the team's templates.
func (k *Looks) Samples() ([]sample.Language, error) {
	if len(k.Languages) == 0 {
		return sample.Languages, nil
	}
	var ids []string
	for _, c := range k.Languages {
		if slices.Contains(ids, c.ID) {
			return nil, errors.New("samples in " + c.ID + " are asked for twice")
		}
		ids = append(ids, c.ID)
	}
	all, err := sample.Choose(ids)
	if err != nil {
		return nil, err
	}
	for i, c := range k.Languages {
		if c.Template == "" {
			continue
		}
		if len(c.Template) > maxText {
			return nil, errors.New("the template of " + c.ID + " is too long")
		}
		if all[i], err = sample.Adapt(all[i], c.Template); err != nil {
			return nil, err
		}
	}
	return all, nil
}
