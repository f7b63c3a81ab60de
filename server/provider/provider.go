// Package provider signs people in by a provider of identities: OpenID Connect Core 1.0, by the authorization code with PKCE (RFC 7636),
// state and nonce; and, where somebody has no browser, by the device grant (RFC 8628).
//
// The provider is asked for its configuration when the first one signs in, and again where it did not answer; its keys are read again when
// a signature names one that is not known. What it says of somebody becomes a person of the ledger (ledger.ProviderSignIn).
package provider

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/coreos/go-oidc/v3/oidc"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"
	"golang.org/x/oauth2"

	"oldledger/ledger"
	"oldledger/server/api"
	"oldledger/server/trace"
	"oldledger/server/tries"
)

// Options of signing in by a provider.
type Options struct {
	Issuer string             // its address; "" for no provider
	Client string             // the ledger's id there
	Secret string             // "" for a public client
	Name   string             // what it is called on the sign-in page
	Claim  string             // of the ID token that names somebody's groups
	Groups []ledger.GroupRole // what those are here; none where the ledger says itself who is what

	Ledger   *ledger.Ledger
	Sessions *scs.SessionManager
	Public   *url.URL
	Tries    *tries.Tries // of who begins to sign in elsewhere: each is a question to the provider
	Log      *slog.Logger
}

// Provider answers below /sign-in.
type Provider struct {
	Options
	http    *http.Client
	waiting *lru.Cache[string, *oauth2.DeviceAuthResponse] // who signs in without a browser

	mu       sync.Mutex
	found    *oidc.Provider
	failed   error
	failedAt time.Time
}

const (
	callback   = "/sign-in/provider/callback"
	patience   = 10 * time.Second // that the provider has for an answer
	again      = 3 * time.Second  // before one is asked again that did not
	maxAnswer  = 1 << 20
	maxWaiting = 1000
	away       = 10 * time.Minute // that somebody has at the provider
	poll       = 20 * time.Second // how long a request waits for somebody who signs in elsewhere

	// The keys of what a session keeps while somebody is away.
	keyState, keyNonce, keyVerifier, keyTo = "provider-state", "provider-nonce", "provider-verifier", "provider-to"
)

// New makes the sign-in.
func New(o Options) (*Provider, error) {
	p := &Provider{Options: o, http: &http.Client{Timeout: patience, Transport: bounded{http.DefaultTransport}}}
	var err error
	p.waiting, err = lru.New[string, *oauth2.DeviceAuthResponse](maxWaiting)
	return p, err
}

// bounded lets no answer be longer than one should be.
type bounded struct{ next http.RoundTripper }

// RoundTrip asks.
func (b bounded) RoundTrip(r *http.Request) (*http.Response, error) {
	res, err := b.next.RoundTrip(r)
	if err == nil {
		res.Body = struct {
			io.Reader
			io.Closer
		}{io.LimitReader(res.Body, maxAnswer), res.Body}
	}
	return res, err
}

// Register adds the routes to e.
func (p *Provider) Register(e *echo.Echo) {
	e.GET("/sign-in/ways", p.ways)
	e.GET("/sign-in/provider", p.leave)
	e.GET(callback, p.back)
	e.GET("/sign-in/provider/out", p.out)
	e.POST("/sign-in/provider/device", p.device)
	e.POST("/sign-in/provider/device/wait", p.wait)
}

// ways tells how one can sign in beside a name and a password.
func (p *Provider) ways(c *echo.Context) error {
	name := ""
	if p.Issuer != "" {
		name = p.Name
	}
	return c.JSON(http.StatusOK, map[string]string{"provider": name})
}

var (
	errNone = &ledger.Error{Fault: ledger.NotFound, Text: "This ledger signs nobody in by a provider; sign in with a name and a password."}
	errDown = &ledger.Error{Fault: ledger.Unavailable, Text: "The provider of identities does not answer; try again in a while, or sign in with a password."}
)

// discovered is the provider with its configuration.
func (p *Provider) discovered(ctx context.Context) (*oidc.Provider, *oauth2.Config, error) {
	if p.Issuer == "" {
		return nil, nil, errNone
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.found == nil {
		if time.Since(p.failedAt) < again {
			return nil, nil, p.down(ctx, p.failed)
		}
		found, err := oidc.NewProvider(oidc.ClientContext(context.WithoutCancel(ctx), p.http), p.Issuer)
		if err != nil {
			p.failed, p.failedAt = err, time.Now()
			return nil, nil, p.down(ctx, err)
		}
		p.found = found
	}
	return p.found, &oauth2.Config{
		ClientID: p.Client, ClientSecret: p.Secret, Endpoint: p.found.Endpoint(),
		RedirectURL: strings.TrimSuffix(p.Public.String(), "/") + callback, Scopes: []string{oidc.ScopeOpenID, "profile", "email"},
	}, nil
}

// down tells the log why the provider cannot be asked, and whoever asks that it cannot.
func (p *Provider) down(ctx context.Context, err error) error {
	trace.Of(ctx).Err = fmt.Errorf("the provider of identities: %w", err)
	return errDown
}

// leave sends a browser to the provider; to is where it comes back to in the end.
func (p *Provider) leave(c *echo.Context) error {
	ctx := c.Request().Context()
	_, config, err := p.discovered(ctx)
	if err != nil {
		return p.told(c, err)
	}
	state, nonce, verifier := oauth2.GenerateVerifier(), oauth2.GenerateVerifier(), oauth2.GenerateVerifier()
	for key, value := range map[string]string{keyState: state, keyNonce: nonce, keyVerifier: verifier, keyTo: within(c.QueryParam("to"))} {
		p.Sessions.Put(ctx, key, value)
	}
	if p.Sessions.GetString(ctx, api.SessionPerson) == "" {
		p.Sessions.SetDeadline(ctx, time.Now().Add(away))
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.Redirect(http.StatusFound, config.AuthCodeURL(state, oidc.Nonce(nonce), oauth2.S256ChallengeOption(verifier)))
}

// within is an address of this service; the console's first page in place of any other.
func within(to string) string {
	if !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.ContainsAny(to, "\\\r\n") {
		return "/console/"
	}
	return to
}

// back takes a browser in that comes back from the provider. What it left with is good for one time.
func (p *Provider) back(c *echo.Context) error {
	ctx, q := c.Request().Context(), c.Request().URL.Query()
	c.Response().Header().Set("Cache-Control", "no-store")
	c.Response().Header().Set("Referrer-Policy", "no-referrer")
	state, nonce := p.Sessions.PopString(ctx, keyState), p.Sessions.PopString(ctx, keyNonce)
	verifier, to := p.Sessions.PopString(ctx, keyVerifier), p.Sessions.PopString(ctx, keyTo)
	switch {
	case state == "" || subtle.ConstantTimeCompare([]byte(state), []byte(q.Get("state"))) != 1:
		return p.told(c, &ledger.Error{Fault: ledger.Invalid, Text: "This sign-in was not begun in this browser, or was finished before; begin again."})
	case q.Get("error") != "":
		return p.told(c, &ledger.Error{Fault: ledger.SignInFirst, Text: "The provider did not sign you in: " + plain(q.Get("error"), q.Get("error_description"))})
	}
	found, config, err := p.discovered(ctx)
	if err != nil {
		return p.told(c, err)
	}
	token, err := config.Exchange(oidc.ClientContext(ctx, p.http), q.Get("code"), oauth2.VerifierOption(verifier))
	if err != nil {
		return p.told(c, p.refusal(ctx, err))
	}
	who, ends, err := p.known(ctx, found, token, &nonce, c.RealIP())
	if err != nil {
		return p.told(c, err)
	}
	if err := p.Sessions.RenewToken(ctx); err != nil {
		return err
	}
	p.Sessions.Put(ctx, api.SessionPerson, who.Name)
	p.Sessions.Put(ctx, api.SessionBy, true)
	p.Sessions.Remove(ctx, api.SessionSeeing)
	p.Sessions.SetDeadline(ctx, ends)
	return c.Redirect(http.StatusFound, to)
}

// out tells where whoever was signed in by the provider signs out there, too (OpenID Connect RP-Initiated Logout 1.0); nothing where they
// were not, or the provider has no such place. Who signs out here and stays signed in there is in again with one press.
func (p *Provider) out(c *echo.Context) error {
	ctx, to := c.Request().Context(), ""
	c.Response().Header().Set("Cache-Control", "no-store")
	if p.Sessions.GetBool(ctx, api.SessionBy) {
		var err error
		if to, err = p.endOfSession(ctx); err != nil {
			trace.Of(ctx).Err = err // they sign out here at least
		}
	}
	return c.JSON(http.StatusOK, map[string]string{"to": to})
}

func (p *Provider) endOfSession(ctx context.Context) (string, error) {
	found, _, err := p.discovered(ctx)
	if err != nil {
		return "", err
	}
	var has struct {
		Place string `json:"end_session_endpoint"`
	}
	if err := found.Claims(&has); err != nil || has.Place == "" {
		return "", err
	}
	to, err := url.Parse(has.Place)
	if err != nil || to.Scheme != "https" && to.Scheme != "http" {
		return "", fmt.Errorf("the provider of identities ends sessions at %q, which is no address", has.Place)
	}
	q := to.Query()
	q.Set("client_id", p.Client)
	q.Set("post_logout_redirect_uri", strings.TrimSuffix(p.Public.String(), "/")+"/console/sign-in")
	to.RawQuery = q.Encode()
	return to.String(), nil
}

// plain is what a provider says, without what could be read as something else.
func plain(parts ...string) string {
	text := strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune("<>&\"'", r) {
			return -1
		}
		return r
	}, strings.Trim(strings.Join(parts, ", "), ", "))
	return text[:min(len(text), 200)]
}

// refusal is why a code was not taken.
func (p *Provider) refusal(ctx context.Context, err error) error {
	var refused *oauth2.RetrieveError
	if errors.As(err, &refused) && refused.Response != nil && refused.Response.StatusCode < 500 {
		trace.Of(ctx).Err = fmt.Errorf("the provider of identities: %s", plain(refused.ErrorCode))
		return &ledger.Error{Fault: ledger.SignInFirst, Text: "The provider does not take this sign-in; begin again."}
	}
	return p.down(ctx, err)
}

// maxSession is how long a session lasts at most by one word of the provider. After it, and at the latest when the word itself ends, the
// provider is asked again: who was taken out of a group is out here, too.
const maxSession = time.Hour

// known is the person of an ID token, and until when the provider's word holds. nonce is what the sign-in was begun with; nil for the
// device grant, which has none.
func (p *Provider) known(ctx context.Context, found *oidc.Provider, token *oauth2.Token, nonce *string, address string) (
	ledger.Actor, time.Time, error,
) {
	wrong := func(why error) (ledger.Actor, time.Time, error) {
		trace.Of(ctx).Err = fmt.Errorf("the word of the provider: %w", why)
		return ledger.Nobody, time.Time{}, &ledger.Error{Fault: ledger.SignInFirst, Text: "What the provider says cannot be trusted; begin again."}
	}
	raw, _ := token.Extra("id_token").(string)
	if raw == "" {
		return wrong(errors.New("it has no ID token"))
	}
	word, err := found.Verifier(&oidc.Config{ClientID: p.Client}).Verify(oidc.ClientContext(ctx, p.http), raw)
	if err != nil {
		return wrong(err)
	}
	if nonce != nil && (*nonce == "" || subtle.ConstantTimeCompare([]byte(*nonce), []byte(word.Nonce)) != 1) {
		return wrong(errors.New("its nonce is another"))
	}
	var claims map[string]json.RawMessage
	if err := word.Claims(&claims); err != nil {
		return wrong(err)
	}
	id := ledger.Identity{
		Issuer: word.Issuer, Subject: word.Subject, Name: text(claims, "preferred_username", "email"), Full: text(claims, "name", "preferred_username"),
		Groups: list(claims[p.Claim]),
	}
	who, err := p.Ledger.ProviderSignIn(ctx, id, p.Groups, address)
	ends := time.Now().Add(maxSession)
	if word.Expiry.Before(ends) {
		ends = word.Expiry
	}
	return who, ends, err
}

// text is the first of some claims that is a text.
func text(claims map[string]json.RawMessage, names ...string) string {
	for _, name := range names {
		var value string
		if json.Unmarshal(claims[name], &value) == nil && value != "" {
			return value
		}
	}
	return ""
}

// list is a claim that names groups: a list of texts, or one text.
func list(claim json.RawMessage) []string {
	var all []string
	if json.Unmarshal(claim, &all) == nil {
		return all
	}
	var one string
	if json.Unmarshal(claim, &one) == nil {
		return []string{one}
	}
	return nil
}

// device begins a sign-in elsewhere: it tells the address and the code that somebody enters there.
func (p *Provider) device(c *echo.Context) error {
	ctx := c.Request().Context()
	found, config, err := p.discovered(ctx)
	if err != nil {
		return err
	}
	if wait, _ := p.Tries.Begin("sign-in elsewhere", c.RealIP(), time.Now()); wait > 0 {
		c.Response().Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		return &ledger.Error{Fault: ledger.TooOften, Text: "too many began to sign in from here; wait " + wait.Round(time.Second).String()}
	}
	if found.Endpoint().DeviceAuthURL == "" {
		return &ledger.Error{Fault: ledger.NotFound, Text: "the provider has no way for who has no browser; make a token in the console, and set OLDLEDGER_TOKEN"}
	}
	begun, err := config.DeviceAuth(oidc.ClientContext(ctx, p.http))
	if err != nil {
		return p.refusal(ctx, err)
	}
	var random [24]byte
	if _, err := rand.Read(random[:]); err != nil {
		return err
	}
	handle := base64.RawURLEncoding.EncodeToString(random[:])
	p.waiting.Add(handle, begun)
	return c.JSON(http.StatusOK, map[string]any{
		"handle": handle, "address": begun.VerificationURI, "code": begun.UserCode, "whole": begun.VerificationURIComplete,
	})
}

// wait waits a while for somebody who signs in elsewhere: 202 where they have not yet, and else a token that acts for them.
func (p *Provider) wait(c *echo.Context) error {
	ctx := c.Request().Context()
	var in struct{ Handle, Label string }
	if err := json.NewDecoder(io.LimitReader(c.Request().Body, 4<<10)).Decode(&in); err != nil {
		return &ledger.Error{Fault: ledger.Invalid, Text: "send handle and label as JSON"}
	}
	found, config, err := p.discovered(ctx)
	if err != nil {
		return err
	}
	begun, there := p.waiting.Get(in.Handle)
	if !there {
		return &ledger.Error{Fault: ledger.NotFound, Text: "no such sign-in is under way; it may have ended: begin again"}
	}
	waiting, cancel := context.WithTimeout(ctx, poll)
	defer cancel()
	token, err := config.DeviceAccessToken(oidc.ClientContext(waiting, p.http), begun)
	if errors.Is(err, context.DeadlineExceeded) && (begun.Expiry.IsZero() || time.Now().Before(begun.Expiry)) {
		return c.NoContent(http.StatusAccepted)
	}
	p.waiting.Remove(in.Handle)
	if err != nil {
		return p.refusal(ctx, err)
	}
	who, _, err := p.known(ctx, found, token, nil, c.RealIP())
	if err != nil {
		return err
	}
	secret, err := p.Ledger.MakeToken(ctx, who, ledger.TokenWish{Label: in.Label})
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.JSON(http.StatusOK, map[string]string{"token": secret, "name": who.Name})
}

// told leads a browser whose sign-in was refused back to the sign-in page, which says why.
func (p *Provider) told(c *echo.Context, err error) error {
	var refused *ledger.Error
	if !errors.As(err, &refused) {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.Redirect(http.StatusFound, "/console/sign-in?"+url.Values{"why": {refused.Text}}.Encode())
}
