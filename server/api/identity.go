package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/source"
	"oldledger/ledger"
)

// maxBody bounds a request: the largest description, or all its files, and a little for what is around it.
func maxBody(r *http.Request) int64 {
	if isLog(r) {
		return maxLog
	}
	if strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/") {
		return source.MaxSetBytes + 1<<20
	}
	return source.MaxBytes + 1<<20
}

const (
	// SessionPerson is the key under which a session keeps who signed in.
	SessionPerson = "person"
	// SessionBy is the key under which it keeps that a provider signed them in.
	SessionBy = "provider"
	// SessionSeeing is the key under which it keeps as whom they look.
	SessionSeeing = "seeing"

	contextActor  = "actor"
	contextSecret = "secret" // set where the answer holds one
)

// crossOrigin refuses writes that a browser sends on behalf of another site.
var crossOrigin = http.NewCrossOriginProtection()

// identify finds who asks: by token, else by session.
func (a *API) identify(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		r.Body = http.MaxBytesReader(c.Response(), r.Body, maxBody(r))
		who, err := a.who(c)
		if err == nil {
			err = lookingAway(r, who)
		}
		if err != nil {
			return err
		}
		c.Set(contextActor, who)
		c.Response().Header().Set("Cache-Control", "private, no-cache") // what one may read, another may not
		return next(c)
	}
}

func (a *API) who(c *echo.Context) (ledger.Actor, error) {
	r := c.Request()
	if h := r.Header.Get("Authorization"); h != "" {
		token, ok := strings.CutPrefix(h, "Bearer ")
		if !ok {
			return ledger.Nobody, &ledger.Error{Fault: ledger.SignInFirst, Text: "send a token as Authorization: Bearer olt_…"}
		}
		return a.ledger.TokenActor(r.Context(), token)
	}
	if err := crossOrigin.Check(r); err != nil {
		return ledger.Nobody, &ledger.Error{Fault: ledger.Forbidden, Text: "this request was made by another site"}
	}
	who, err := a.bySession(r.Context())
	if err != nil {
		return who, err
	}
	return a.seeing(r, who)
}

func (a *API) bySession(ctx context.Context) (ledger.Actor, error) {
	name := a.sessions.GetString(ctx, SessionPerson)
	if name == "" {
		return ledger.Nobody, nil
	}
	return a.ledger.Actor(ctx, name)
}

// seeing is as whom somebody looks who signed in; themselves where they look as nobody else, or are about to stop.
func (a *API) seeing(r *http.Request, who ledger.Actor) (ledger.Actor, error) {
	as := a.sessions.GetString(r.Context(), SessionSeeing)
	if as == "" || who.Name == "" || ofThemselves(r) {
		return who, nil
	}
	return a.ledger.SeeAs(r.Context(), who, as)
}

// ofThemselves reports whether a request is about who somebody is, whoever they look as.
func ofThemselves(r *http.Request) bool {
	return slices.Contains([]string{"/api/v1/me/view", "/api/v1/sign-in", "/api/v1/sign-out"}, r.URL.Path)
}

// lookingAway refuses what somebody does who looks as another, but for looking as themselves again.
func lookingAway(r *http.Request, who ledger.Actor) error {
	if who.Seeing() == "" || r.Method == http.MethodGet || r.Method == http.MethodHead || ofThemselves(r) {
		return nil
	}
	return &ledger.Error{Fault: ledger.Forbidden, Text: "you look as " + who.Seeing() + ", and change nothing meanwhile"}
}

// Who is who asks for what changes nothing, by token or session; nobody where the session is none, or that of somebody who left.
func (a *API) Who(r *http.Request) (ledger.Actor, error) {
	if token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
		return a.ledger.TokenActor(r.Context(), token)
	}
	c, err := r.Cookie(a.sessions.Cookie.Name)
	if err != nil {
		return ledger.Nobody, nil //nolint:nilerr // it sent none
	}
	return a.ledger.SessionActor(r.Context(), c.Value)
}

// actor is who asks.
func actor(c *echo.Context) ledger.Actor {
	who, _ := c.Get(contextActor).(ledger.Actor)
	return who
}

// recorder keeps what a handler answers, to give the same answer again.
type recorder struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (r *recorder) WriteHeader(status int) {
	r.status = status
	r.ResponseWriter.WriteHeader(status)
}

func (r *recorder) Write(p []byte) (int, error) {
	r.body.Write(p)
	return r.ResponseWriter.Write(p)
}

func (r *recorder) Unwrap() http.ResponseWriter { return r.ResponseWriter }

// once answers a write that comes again under the same Idempotency-Key as it was answered the first time.
func (a *API) once(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		key := r.Header.Get("Idempotency-Key")
		who := actor(c)
		if key == "" || r.Method != http.MethodPost || who.Name == "" || isLog(r) { // a log is known again by what is in it
			return next(c)
		}
		if len(key) > 200 {
			return &ledger.Error{Fault: ledger.Invalid, Text: "an Idempotency-Key has at most 200 characters"}
		}
		body, err := io.ReadAll(r.Body)
		if err != nil {
			return err
		}
		r.Body = io.NopCloser(bytes.NewReader(body))
		request := fingerprint(r, body)
		known, err := a.ledger.Claim(r.Context(), who, key, request)
		if err != nil {
			return err
		}
		if known != nil {
			if len(known.Body) == 0 && known.Status != http.StatusNoContent {
				return &ledger.Error{Fault: ledger.Conflict, Text: "this was carried out before; its answer held a secret, and is not kept"}
			}
			c.Response().Header().Set("Idempotency-Replayed", "true")
			return c.Blob(known.Status, "application/json", known.Body)
		}
		rec := &recorder{ResponseWriter: c.Response()}
		c.SetResponse(rec)
		var answer *ledger.Answer
		acted := next(c)
		if acted == nil {
			answer = &ledger.Answer{Status: rec.status, Body: rec.body.Bytes()}
			if c.Get(contextSecret) != nil {
				answer.Body = nil
			}
		}
		// Whoever asked may have gone; what came of it is kept all the same.
		kept := a.ledger.Answered(context.WithoutCancel(r.Context()), who, key, request, answer)
		return errors.Join(acted, kept)
	}
}

// fingerprint names what a request asks for. The parts of a form count, not the text that divides them, which is another each time.
func fingerprint(r *http.Request, body []byte) string {
	h := sha256.New()
	put := func(text []byte) {
		fmt.Fprintf(h, "%d\n", len(text))
		h.Write(text)
	}
	put([]byte(r.URL.RequestURI()))
	kind, parameters, err := mime.ParseMediaType(r.Header.Get("Content-Type"))
	if err != nil || !strings.HasPrefix(kind, "multipart/") || !putParts(multipart.NewReader(bytes.NewReader(body), parameters["boundary"]),
		put) {
		put(body)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// putParts puts the parts of a form, and tells whether it is one.
func putParts(parts *multipart.Reader, put func([]byte)) bool {
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			return true
		}
		if err != nil {
			return false
		}
		text, err := io.ReadAll(part)
		if err != nil {
			return false
		}
		put([]byte(part.FormName()))
		put([]byte(part.FileName()))
		put(text)
	}
}
