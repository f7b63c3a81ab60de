package api

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/source"
	"oldledger/ledger"
	"oldledger/store"
)

// maxBody bounds a request: the largest description, or all its files, and a little for what is around it.
func maxBody(r *http.Request) int64 {
	if strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/") {
		return source.MaxSetBytes + 1<<20
	}
	return source.MaxBytes + 1<<20
}

const (
	sessionPerson = "person" // the key under which a session keeps who signed in
	contextActor  = "actor"
)

// crossOrigin refuses writes that a browser sends on behalf of another site.
var crossOrigin = http.NewCrossOriginProtection()

// identify finds who asks: by token, else by session.
func (a *API) identify(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		r.Body = http.MaxBytesReader(c.Response(), r.Body, maxBody(r))
		who, err := a.who(c)
		if err != nil {
			return err
		}
		c.Set(contextActor, who)
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
	name := a.sessions.GetString(r.Context(), sessionPerson)
	if name == "" {
		return ledger.Nobody, nil
	}
	return a.ledger.Actor(r.Context(), name)
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
		if key == "" || r.Method != http.MethodPost || who.Name == "" {
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
		h := sha256.New()
		h.Write([]byte(r.URL.RequestURI() + "\n"))
		h.Write(body)
		request := hex.EncodeToString(h.Sum(nil))
		known, ok, err := a.ledger.Answered(r.Context(), who, key, request)
		if err != nil {
			return err
		}
		if ok {
			c.Response().Header().Set("Idempotency-Replayed", "true")
			return c.Blob(known.Status, "application/json", known.Body)
		}
		rec := &recorder{ResponseWriter: c.Response()}
		c.SetResponse(rec)
		if err := next(c); err != nil {
			return err
		}
		return a.ledger.KeepAnswer(r.Context(), who, key, store.Answer{Request: request, Status: rec.status, Body: rec.body.Bytes()})
	}
}
