// Package provider is a provider of identities (OpenID Connect) for tests, on loopback. It signs everybody in as the one that the test
// says, and can be made to answer wrongly in the ways that a test needs.
package provider

import (
	"crypto"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"math/big"
	"net/http"
	"net/http/httptest"
	"net/url"
	"sync"
	"testing"
	"time"
)

// Provider is one that runs until its test ends.
type Provider struct {
	URL string

	mu       sync.Mutex
	who      map[string]any // claims of whoever signs in next
	key      *ecdsa.PrivateKey
	kid      string
	codes    map[string]grant
	approved bool // whether whoever uses a device has entered the code
	down     bool
	web      *httptest.Server
}

type grant struct{ nonce, challenge string }

// Client is the id that the provider knows the ledger by.
const Client = "ledger-of-saltmere"

// New starts one.
func New(t testing.TB) *Provider {
	p := &Provider{codes: map[string]grant{}}
	p.Rotate()
	mux := http.NewServeMux()
	mux.HandleFunc("/.well-known/openid-configuration", p.configuration)
	mux.HandleFunc("/keys", p.keys)
	mux.HandleFunc("/authorize", p.authorize)
	mux.HandleFunc("/token", p.token)
	mux.HandleFunc("/device", p.device)
	p.web = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		p.mu.Lock()
		down := p.down
		p.mu.Unlock()
		if down {
			http.Error(w, "down", http.StatusBadGateway)
			return
		}
		mux.ServeHTTP(w, r)
	}))
	p.URL = p.web.URL
	t.Cleanup(p.web.Close)
	return p
}

// Is says who signs in from now on: claims in place of the usual ones (sub, name, groups, exp, aud, nonce, iss).
func (p *Provider) Is(claims map[string]any) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.who = claims
}

// Rotate makes another key, and forgets the one before.
func (p *Provider) Rotate() {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		panic(err)
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.key, p.kid = key, word()
}

// Forge signs from now on with a key that the provider does not tell.
func (p *Provider) Forge() {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		panic(err)
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.key = key
	p.kid = "unknown"
}

// Down has the provider answer nothing, or answer again.
func (p *Provider) Down(down bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.down = down
}

// Approve has somebody enter the code of a device.
func (p *Provider) Approve() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.approved = true
}

func word() string {
	raw := make([]byte, 16)
	if _, err := rand.Read(raw); err != nil {
		panic(err)
	}
	return base64.RawURLEncoding.EncodeToString(raw)
}

func answer(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v) // whoever asked has gone
}

func (p *Provider) configuration(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, map[string]any{
		"issuer": p.URL, "authorization_endpoint": p.URL + "/authorize", "token_endpoint": p.URL + "/token", "jwks_uri": p.URL + "/keys",
		"device_authorization_endpoint": p.URL + "/device", "end_session_endpoint": p.URL + "/out?tenant=harbour",
		"id_token_signing_alg_values_supported": []string{"ES256"},
	})
}

func (p *Provider) keys(w http.ResponseWriter, _ *http.Request) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.kid == "unknown" {
		answer(w, http.StatusOK, map[string]any{"keys": []any{}})
		return
	}
	coordinate := func(n *big.Int) string { return base64.RawURLEncoding.EncodeToString(n.FillBytes(make([]byte, 32))) }
	answer(w, http.StatusOK, map[string]any{"keys": []any{map[string]any{
		"kty": "EC", "crv": "P-256", "alg": "ES256", "use": "sig", "kid": p.kid, "x": coordinate(p.key.X), "y": coordinate(p.key.Y),
	}}})
}

// authorize asks nobody.
func (p *Provider) authorize(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	if q.Get("client_id") != Client || q.Get("response_type") != "code" || q.Get("code_challenge_method") != "S256" || q.Get("state") == "" {
		http.Error(w, "wrong", http.StatusBadRequest)
		return
	}
	code := word()
	p.mu.Lock()
	p.codes[code] = grant{q.Get("nonce"), q.Get("code_challenge")}
	p.mu.Unlock()
	http.Redirect(w, r, q.Get("redirect_uri")+"?"+url.Values{"code": {code}, "state": {q.Get("state")}}.Encode(), http.StatusFound)
}

func (p *Provider) token(w http.ResponseWriter, r *http.Request) {
	refuse := func(why string) { answer(w, http.StatusBadRequest, map[string]string{"error": why}) }
	if err := r.ParseForm(); err != nil {
		refuse("invalid_request")
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	nonce := ""
	switch r.Form.Get("grant_type") {
	case "authorization_code":
		g, there := p.codes[r.Form.Get("code")]
		delete(p.codes, r.Form.Get("code"))
		sum := sha256.Sum256([]byte(r.Form.Get("code_verifier")))
		if !there || base64.RawURLEncoding.EncodeToString(sum[:]) != g.challenge {
			refuse("invalid_grant")
			return
		}
		nonce = g.nonce
	case "urn:ietf:params:oauth:grant-type:device_code":
		if !p.approved {
			refuse("authorization_pending")
			return
		}
	default:
		refuse("unsupported_grant_type")
		return
	}
	answer(w, http.StatusOK, map[string]any{"access_token": word(), "token_type": "Bearer", "id_token": p.signed(nonce)})
}

func (p *Provider) device(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, map[string]any{
		"device_code": word(), "user_code": "TIDE-1200", "verification_uri": p.URL + "/enter", "expires_in": 300, "interval": 1,
	})
}

// signed is an ID token (JWS, RFC 7515) of whoever signs in.
func (p *Provider) signed(nonce string) string {
	claims := map[string]any{
		"iss": p.URL, "aud": Client, "sub": "subject-1", "nonce": nonce, "iat": time.Now().Unix(), "exp": time.Now().Add(time.Hour).Unix(),
	}
	for name, value := range p.who {
		claims[name] = value
	}
	part := func(v any) string {
		text, err := json.Marshal(v)
		if err != nil {
			panic(err)
		}
		return base64.RawURLEncoding.EncodeToString(text)
	}
	text := part(map[string]string{"alg": "ES256", "kid": p.kid, "typ": "JWT"}) + "." + part(claims)
	sum := crypto.SHA256.New()
	sum.Write([]byte(text))
	r, s, err := ecdsa.Sign(rand.Reader, p.key, sum.Sum(nil))
	if err != nil {
		panic(err)
	}
	return text + "." + base64.RawURLEncoding.EncodeToString(append(r.FillBytes(make([]byte, 32)), s.FillBytes(make([]byte, 32))...))
}
