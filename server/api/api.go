// Package api is the HTTP interface of a ledger: /api/v1, JSON in and out, problem details (RFC 9457) for every error.
// description.yaml beside this file describes it in OpenAPI 3.1.
//
// A handler decodes, calls one method of the ledger, and encodes. Reading needs no sign-in; every write needs a session
// or a token (Authorization: Bearer).
package api

import (
	_ "embed"
	"log/slog"
	"net/http"
	"net/url"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/server/tries"
)

// Description is the interface's own OpenAPI description. The console's types are made from it.
//
//go:generate sh -c "cd ../.. && go run ./tools/wiretypes server/api/description.yaml > console/src/data/types.ts"
//go:embed description.yaml
var Description []byte

// API answers /api/v1.
type API struct {
	ledger   *ledger.Ledger
	public   *url.URL
	sessions *scs.SessionManager
	log      *slog.Logger
	tries    *tries.Tries
}

// Options of the interface.
type Options struct {
	Ledger   *ledger.Ledger
	Public   *url.URL // where readers reach the service
	Sessions *scs.SessionManager
	Tries    *tries.Tries // of passwords
	Log      *slog.Logger
}

// New makes the interface.
func New(o Options) *API {
	return &API{ledger: o.Ledger, public: o.Public, sessions: o.Sessions, log: o.Log, tries: o.Tries}
}

// Register adds the routes to e.
func (a *API) Register(e *echo.Echo) {
	e.HTTPErrorHandler = a.fail
	g := e.Group("/api/v1", a.identify, a.once)
	g.GET("/description.yaml", a.description)
	g.POST("/sign-in", a.signIn)
	g.POST("/sign-out", a.signOut)
	g.GET("/me", a.me)
	g.PUT("/me/password", a.changePassword)
	g.GET("/me/sessions", a.sessionsOf)
	g.DELETE("/me/sessions", a.endSessions)
	g.PUT("/me/view", a.see)
	g.DELETE("/me/view", a.seeNoMore)
	g.GET("/me/feed", a.feed)
	g.POST("/me/feed", a.makeFeed)
	g.DELETE("/me/feed", a.dropFeed)
	g.GET("/tokens", a.tokens)
	g.POST("/tokens", a.makeToken)
	g.DELETE("/tokens/:token", a.dropToken)

	g.GET("/waiting", a.waiting)

	g.GET("/people", a.people)
	g.POST("/people", a.addPerson)
	g.PATCH("/people/:person", a.setRole)
	g.DELETE("/people/:person", a.dropPerson)
	g.POST("/people/:person/invitation", a.invite)
	g.POST("/invitations", a.invited)
	g.GET("/teams", a.teams)
	g.POST("/teams", a.addTeam)
	g.DELETE("/teams/:team", a.dropTeam)
	g.PUT("/teams/:team/members/:person", a.putMember)
	g.DELETE("/teams/:team/members/:person", a.dropMember)

	g.GET("/audience", a.audience)
	g.PATCH("/audience", a.setAudience)
	g.PATCH("/apis/:api/audience", a.setAudience)
	g.GET("/apis/:api/links", a.links)
	g.POST("/apis/:api/links", a.makeLink)
	g.DELETE("/apis/:api/links/:link", a.withdrawLink)

	g.GET("/shelves", a.shelves)
	g.PATCH("/shelves/:shelf", a.setShelf)
	g.DELETE("/shelves/:shelf", a.dropShelf)
	g.PUT("/shelves/:shelf/apis/:api", a.place)
	g.DELETE("/shelves/:shelf/apis/:api", a.unplace)

	g.GET("/style", a.style)
	g.PUT("/style", a.putStyle)
	g.GET("/teams/:team/style", a.style)
	g.PUT("/teams/:team/style", a.putStyle)
	g.GET("/apis/:api/style", a.style)
	g.PUT("/apis/:api/style", a.putStyle)
	g.GET("/rules", a.rules)
	g.GET("/vocabulary", a.vocabulary)
	g.GET("/versions/:ref/findings", a.findings)
	g.POST("/versions/:ref/mending", a.mend)

	g.GET("/consumers", a.consumers)
	g.GET("/consumers/:consumer", a.consumer)
	g.PATCH("/consumers/:consumer", a.setConsumer)
	g.DELETE("/consumers/:consumer", a.dropConsumer)
	g.PUT("/consumers/:consumer/signs", a.setSigns)
	g.GET("/consumers/:consumer/guides", a.consumerGuides)
	g.PUT("/consumers/:consumer/guides/steps", a.setTick)
	g.GET("/consumers/:consumer/reliance", a.reliance)
	g.PUT("/consumers/:consumer/reliance", a.setReliance)
	g.GET("/consumers/:consumer/recordings/:api", a.recording)
	g.PUT("/consumers/:consumer/recordings/:api", a.addRecording)
	g.PATCH("/consumers/:consumer/recordings/:api", a.setGuards)
	g.DELETE("/consumers/:consumer/recordings/:api", a.dropRecording)
	g.GET("/consumers/:consumer/replay", a.replay)
	g.DELETE("/consumers/:consumer/apis/:api/lines/:line", a.endGrant)
	g.POST("/consumers/:consumer/apis/:api/credentials", a.makeCredential)
	g.DELETE("/consumers/:consumer/apis/:api/credentials/:credential", a.endCredential)
	g.GET("/apis/:api/plans", a.plans)
	g.PUT("/apis/:api/plans/:plan", a.putPlan)
	g.DELETE("/apis/:api/plans/:plan", a.dropPlan)
	g.POST("/apis/:api/carrying-over", a.carryOver)
	g.GET("/requests", a.requests)
	g.POST("/requests", a.ask)
	g.POST("/requests/:request/decisions", a.decide)
	g.GET("/grants", a.grants)
	g.GET("/logs", a.logs)
	g.POST("/logs", a.addLog)
	g.GET("/unmatched", a.unmatched)
	g.GET("/apis/:api/use", a.use)
	g.GET("/impact", a.impact)
	g.GET("/readiness", a.ready)
	g.GET("/overview", a.overview)

	g.GET("/apis", a.apis)
	g.GET("/apis/:api", a.api)
	g.GET("/apis/:api/calling", a.calling)
	g.GET("/apis/:api/history", a.history)
	g.GET("/apis/:api/lineup", a.lineup)
	g.GET("/apis/:api/lineup/clients", a.lineupClients)
	g.POST("/recordings", a.record)
	g.POST("/dry-runs", a.dryRun)
	g.GET("/versions/:ref", a.version)
	g.DELETE("/versions/:ref", a.discard)
	g.GET("/versions/:ref/description", a.text)
	g.GET("/versions/:ref/files", a.files)
	g.GET("/versions/:ref/revisions", a.revisions)
	g.GET("/versions/:ref/gate", a.gate)
	g.POST("/versions/:ref/publication", a.publish)
	g.DELETE("/versions/:ref/publication", a.unpublish)
	g.POST("/versions/:ref/retirement", a.retire)
	g.GET("/versions/:ref/wording", a.overlayView)
	g.GET("/versions/:ref/overlay", a.overlay)
	g.PUT("/versions/:ref/overlay", a.putOverlay)
	g.DELETE("/versions/:ref/overlay", a.dropOverlay)
	g.POST("/versions/:ref/overlay/shown", a.showOverlay)
	g.GET("/versions/:ref/previews", a.previewLinks)
	g.POST("/versions/:ref/previews", a.createPreviewLink)
	g.DELETE("/versions/:ref/previews/:preview", a.withdrawPreview)
	g.GET("/looks/:api", a.looks)
	g.PUT("/looks/:api", a.putLooks)
	g.GET("/looks/:api/pictures", a.pictures)
	g.PUT("/looks/:api/pictures/:picture", a.putPicture)
	g.DELETE("/looks/:api/pictures/:picture", a.dropPicture)
	g.GET("/notices", a.notices)
	g.POST("/notices", a.deprecate)
	g.PATCH("/notices/:id", a.amend)
	g.PATCH("/apis/:api", a.setAPI)
	g.DELETE("/apis/:api", a.discardAPI)
	g.GET("/versions/:ref/headers", a.headers)
	g.GET("/comparison", a.compare)
	g.GET("/guide", a.guide)
	g.PUT("/guide/texts", a.writeGuide)
	g.GET("/journal", a.journal)
	g.GET("/journal/verification", a.verify)
	g.GET("/journal/checkpoint", a.checkpoint)
	g.GET("/journal/export", a.exportJournal)
	g.GET("/versions/:ref/proof", a.proof)
	g.Any("/*", func(*echo.Context) error {
		return &ledger.Error{Fault: ledger.NotFound, Text: "there is nothing at this address; /api/v1/description.yaml lists what there is"}
	})
}

func (a *API) description(c *echo.Context) error {
	return c.Blob(http.StatusOK, "application/yaml", Description)
}
