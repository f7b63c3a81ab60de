package site

import (
	"context"
	"encoding/base64"
	"errors"
	"net/http"
	"strings"

	"oldledger/ledger"
)

// houseAddress stands for the house in addresses, where an API's name stands else.
const houseAddress = "_"

// picture answers a picture of an API, else of the house, whose looks an API may have. One that could run something is kept from it.
func (s *Site) picture(ctx context.Context, who ledger.Actor, api, name string) (page, error) {
	if api == houseAddress {
		api = ""
	}
	if api != "" {
		a, err := s.ledger.API(ctx, who, api)
		if err != nil {
			return page{}, err
		}
		if len(published(a)) == 0 {
			return page{}, errNowhere
		}
	}
	p, text, err := s.ledger.Picture(ctx, who, api, name)
	var missing *ledger.Error
	if api != "" && errors.As(err, &missing) {
		p, text, err = s.ledger.Picture(ctx, who, "", name)
	}
	if err != nil {
		return page{}, err
	}
	h := http.Header{"Content-Type": {p.MediaType()}, "X-Content-Type-Options": {"nosniff"}}
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	return page{http.StatusOK, h, text}, nil
}

// pictured is an author's text (CommonMark) with its pictures, which it names as pictures/quay.png. api is "" for the house.
func pictured(text, api string) string {
	if api == "" {
		api = houseAddress
	}
	return strings.ReplaceAll(markdown(text), `src="pictures/`, `src="/reference/`+api+`/pictures/`)
}

// inPlace is a picture as an address of its own, for what is read without the service; "" for one that is not there.
func (x *export) inPlace(ctx context.Context, address string) (string, error) {
	v, nowhere := parseTarget(address)
	if nowhere != nil || v.version != "pictures" || len(v.rest) != 1 {
		return "", nil //nolint:nilerr // an address of another kind
	}
	p, err := x.site.picture(ctx, x.edition.Reader, v.api, v.rest[0])
	var missing *ledger.Error
	if errors.As(err, &missing) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	return "data:" + p.header.Get("Content-Type") + ";base64," + base64.StdEncoding.EncodeToString(p.body), nil
}
