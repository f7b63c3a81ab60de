package server_test

import (
	"net/http"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/client"
	"oldledger/demo"
	"oldledger/ledger"
)

// asked is one way to call a route, so that whoever may is not refused for who asks, and nothing is changed: what may be done is asked for
// with what is then wrong.
type asked struct {
	path string // below the interface
	body string
	act  ledger.Act // that it takes; "" where everybody may
	seen bool       // whether what it is about is hidden from whoever may not: it answers as what is not there
}

// everyRoute is each route of the interface, by method and path as the description has it. A route that is missing fails the test.
var everyRoute = map[string]asked{
	"GET /me":                               {path: "/me", act: ledger.SeePeople},
	"PUT /me/password":                      {path: "/me/password", body: `{"old": "x", "new": "y"}`, act: ledger.SetPassword},
	"GET /me/sessions":                      {path: "/me/sessions", act: ledger.SeePeople},
	"DELETE /me/sessions":                   {path: "/me/sessions", act: ledger.SetPassword},
	"POST /people/{person}/invitation":      {path: "/people/nobody/invitation", act: ledger.SetPeople},
	"POST /invitations":                     {path: "/invitations", body: `{"key": "none"}`},
	"POST /sign-in":                         {path: "/sign-in", body: `{"name": "x"}`},
	"POST /sign-out":                        {path: "/sign-out"},
	"PUT /me/view":                          {path: "/me/view", body: `{"as": "nobody"}`, act: ledger.SetPassword},
	"DELETE /me/view":                       {path: "/me/view"},
	"GET /me/feed":                          {path: "/me/feed", act: ledger.SeePeople},
	"POST /me/feed":                         {path: "/me/feed", act: ledger.MakeToken},
	"DELETE /me/feed":                       {path: "/me/feed", act: ledger.MakeToken},
	"POST /tokens":                          {path: "/tokens", body: `{"label": ""}`, act: ledger.MakeToken},
	"GET /tokens":                           {path: "/tokens", act: ledger.SeePeople},
	"DELETE /tokens/{token}":                {path: "/tokens/none", act: ledger.MakeToken},
	"GET /waiting":                          {path: "/waiting", act: ledger.SeeWaiting},
	"GET /people":                           {path: "/people", act: ledger.SeePeople},
	"POST /people":                          {path: "/people", body: `{"name": "X", "full": "X", "password": ""}`, act: ledger.SetPeople},
	"PATCH /people/{person}":                {path: "/people/nobody", body: `{"role": "reader"}`, act: ledger.SetPeople},
	"DELETE /people/{person}":               {path: "/people/nobody", act: ledger.SetPeople},
	"GET /teams":                            {path: "/teams", act: ledger.SeePeople},
	"POST /teams":                           {path: "/teams", body: `{"name": ""}`, act: ledger.SetTeams},
	"DELETE /teams/{team}":                  {path: "/teams/None", act: ledger.SetTeams},
	"PUT /teams/{team}/members/{person}":    {path: "/teams/Quayside/members/nobody", body: `{"role": "reader"}`, act: ledger.SetMembers},
	"DELETE /teams/{team}/members/{person}": {path: "/teams/Quayside/members/nobody", act: ledger.SetMembers},
	"GET /style":                            {path: "/style", act: ledger.SeeStyle},
	"PUT /style":                            {path: "/style", body: `{"text": "", "reason": "", "version": 0}`, act: ledger.SetHouse},
	"GET /teams/{team}/style":               {path: "/teams/Quayside/style", act: ledger.ReadInside},
	"PUT /teams/{team}/style":               {path: "/teams/Quayside/style", body: `{"text": "x: y", "reason": "", "version": 0}`, act: ledger.SetStyle},
	"GET /apis/{api}/style":                 {path: "/apis/berths/style", act: ledger.ReadInside},
	"PUT /apis/{api}/style":                 {path: "/apis/berths/style", body: `{"text": "x: y", "reason": "", "version": 0}`, act: ledger.SetStyle},
	"GET /rules":                            {path: "/rules", act: ledger.SeeStyle},
	"GET /vocabulary":                       {path: "/vocabulary", act: ledger.SeeStyle},
	"GET /apis/{api}/calling":               {path: "/apis/berths/calling", act: ledger.ReadInside},
	"GET /versions/{ref}/findings":          {path: "/versions/berths@2.1.0/findings", act: ledger.ReadInside},
	"POST /versions/{ref}/mending":          {path: "/versions/berths@2.1.0/mending", body: `{"findings": ["none"], "digest": "x"}`, act: ledger.Record},
	"GET /consumers":                        {path: "/consumers", act: ledger.SeeConsumers},
	"GET /consumers/{consumer}":             {path: "/consumers/none", act: ledger.SeeConsumers},
	"PATCH /consumers/{consumer}":           {path: "/consumers/X", body: `{}`, act: ledger.KeepConsumer},
	"DELETE /consumers/{consumer}":          {path: "/consumers/none", act: ledger.KeepConsumer},
	"PUT /consumers/{consumer}/signs":       {path: "/consumers/none/signs", body: `{"team": "Quayside", "knownBy": []}`, act: ledger.SaveConsumers},
	"DELETE /consumers/{consumer}/apis/{api}/lines/{line}":             {path: "/consumers/none/apis/none/lines/1?reason=x", act: ledger.AskForUse},
	"POST /consumers/{consumer}/apis/{api}/credentials":                {path: "/consumers/none/apis/none/credentials", body: `{"overlap": -2}`, act: ledger.KeepConsumer},
	"DELETE /consumers/{consumer}/apis/{api}/credentials/{credential}": {path: "/consumers/none/apis/none/credentials/none", act: ledger.KeepConsumer},
	"GET /apis/{api}/plans":                                            {path: "/apis/berths/plans"},
	"PUT /apis/{api}/plans/{plan}":                                     {path: "/apis/berths/plans/x", body: `{"quota": -1}`, act: ledger.SetPlans},
	"DELETE /apis/{api}/plans/{plan}":                                  {path: "/apis/berths/plans/none", act: ledger.SetPlans},
	"POST /apis/{api}/carrying-over":                                   {path: "/apis/berths/carrying-over", body: `{"from": "7", "to": "8"}`, act: ledger.DecideUse},
	"GET /requests":                                                    {path: "/requests", act: ledger.SeeConsumers},
	"POST /requests":                                                   {path: "/requests", body: `{}`, act: ledger.AskForUse},
	"POST /requests/{request}/decisions":                               {path: "/requests/1/decisions", body: `{"api": "berths", "state": "x"}`, act: ledger.DecideUse},
	"GET /grants":                                                      {path: "/grants", act: ledger.SeeConsumers},
	"GET /consumers/{consumer}/guides":                                 {path: "/consumers/none/guides", act: ledger.SeeConsumers},
	"PUT /consumers/{consumer}/guides/steps":                           {path: "/consumers/none/guides/steps", body: `{}`, act: ledger.KeepConsumer},
	"GET /consumers/{consumer}/reliance":                               {path: "/consumers/none/reliance", act: ledger.SeeConsumers},
	"PUT /consumers/{consumer}/reliance":                               {path: "/consumers/none/reliance", body: `{"text": "relies: {}"}`, act: ledger.KeepConsumer},
	"GET /consumers/{consumer}/recordings/{api}":                       {path: "/consumers/quay-kiosk/recordings/berths", act: ledger.SeeConsumers},
	"PUT /consumers/{consumer}/recordings/{api}":                       {path: "/consumers/none/recordings/berths?version=2.0.0", body: `{}`, act: ledger.SeeConsumers},
	"PATCH /consumers/{consumer}/recordings/{api}":                     {path: "/consumers/none/recordings/berths", body: `{"guards": true}`, act: ledger.SetPromise},
	"DELETE /consumers/{consumer}/recordings/{api}":                    {path: "/consumers/none/recordings/berths", act: ledger.SeeConsumers},
	"GET /consumers/{consumer}/replay":                                 {path: "/consumers/quay-kiosk/replay?against=berths@2.0.0", act: ledger.SeeConsumers},
	"GET /apis/{api}/lineup/clients":                                   {path: "/apis/berths/lineup/clients"},
	"GET /logs":                                                        {path: "/logs", act: ledger.SeeConsumers},
	"POST /logs":                                                       {path: "/logs?of=berths&mapping=x", body: `x`, act: ledger.AddCalls},
	"GET /unmatched":                                                   {path: "/unmatched", act: ledger.SeeConsumers},
	"GET /apis/{api}/use":                                              {path: "/apis/berths/use", act: ledger.SeeCalls},
	"GET /impact":                                                      {path: "/impact?old=berths@2.0.0&new=berths@2.1.0", act: ledger.SeeImpact},
	"GET /overview":                                                    {path: "/overview", act: ledger.SeeConsumers},
	"GET /readiness":                                                   {path: "/readiness?of=berths@1", act: ledger.SeeCalls},
	"GET /apis":                                                        {path: "/apis"},
	"GET /apis/{api}":                                                  {path: "/apis/berths"},
	"PATCH /apis/{api}":                                                {path: "/apis/berths", body: `{"promise": "x", "reason": "r"}`, act: ledger.SetPromise},
	"DELETE /apis/{api}":                                               {path: "/apis/berths", act: ledger.Discard},
	"GET /audience":                                                    {path: "/audience", act: ledger.SeePeople},
	"PATCH /audience":                                                  {path: "/audience", body: `{}`, act: ledger.SetAudience},
	"PATCH /apis/{api}/audience":                                       {path: "/apis/berths/audience", body: `{}`, act: ledger.SetAudience},
	"GET /shelves":                                                     {path: "/shelves"},
	"PATCH /shelves/{shelf}":                                           {path: "/shelves/x", body: `{"title": ""}`, act: ledger.Shelve},
	"DELETE /shelves/{shelf}":                                          {path: "/shelves/none", act: ledger.Shelve},
	"PUT /shelves/{shelf}/apis/{api}":                                  {path: "/shelves/none/apis/berths", body: `{}`, act: ledger.Place},
	"DELETE /shelves/{shelf}/apis/{api}":                               {path: "/shelves/none/apis/berths", act: ledger.Place},
	"GET /apis/{api}/links":                                            {path: "/apis/berths/links", act: ledger.SetAudience},
	"POST /apis/{api}/links":                                           {path: "/apis/berths/links", body: `{"label": ""}`, act: ledger.SetAudience},
	"DELETE /apis/{api}/links/{link}":                                  {path: "/apis/berths/links/none", act: ledger.SetAudience},
	"GET /apis/{api}/history":                                          {path: "/apis/berths/history"},
	"GET /apis/{api}/lineup":                                           {path: "/apis/berths/lineup"},
	"POST /recordings":                                                 {path: "/recordings?api=berths", body: described210, act: ledger.Record},
	"POST /dry-runs":                                                   {path: "/dry-runs?api=berths", body: described210, act: ledger.DryRun},
	"GET /versions/{ref}":                                              {path: "/versions/berths@2.1.0", act: ledger.ReadInside, seen: true},
	"DELETE /versions/{ref}":                                           {path: "/versions/berths@2.0.0", act: ledger.Discard},
	"GET /versions/{ref}/description":                                  {path: "/versions/berths@2.1.0/description", act: ledger.ReadInside, seen: true},
	"GET /versions/{ref}/files":                                        {path: "/versions/berths@2.1.0/files", act: ledger.ReadInside, seen: true},
	"GET /versions/{ref}/revisions":                                    {path: "/versions/berths@2.1.0/revisions", act: ledger.ReadInside},
	"GET /versions/{ref}/gate":                                         {path: "/versions/berths@2.1.0/gate", act: ledger.ReadInside},
	"POST /versions/{ref}/publication":                                 {path: "/versions/berths@2.0.0/publication", body: `{"waivers": [{"change": "x"}]}`, act: ledger.Publish},
	"DELETE /versions/{ref}/publication":                               {path: "/versions/berths@2.1.0/publication", body: `{"reason": ""}`, act: ledger.Publish},
	"POST /versions/{ref}/retirement":                                  {path: "/versions/berths@2.0.0/retirement", body: `{"reason": ""}`, act: ledger.Publish},
	"GET /versions/{ref}/wording":                                      {path: "/versions/berths@2.1.0/wording", act: ledger.ReadInside},
	"GET /versions/{ref}/overlay":                                      {path: "/versions/berths@1.2.0/overlay", act: ledger.ReadInside},
	"PUT /versions/{ref}/overlay":                                      {path: "/versions/berths@2.1.0/overlay", body: `{}`, act: ledger.Word},
	"DELETE /versions/{ref}/overlay":                                   {path: "/versions/berths@2.1.0/overlay", act: ledger.Word},
	"POST /versions/{ref}/overlay/shown":                               {path: "/versions/berths@2.1.0/overlay/shown", body: `{}`, act: ledger.Word},
	"GET /versions/{ref}/previews":                                     {path: "/versions/berths@2.1.0/previews", act: ledger.ReadInside},
	"POST /versions/{ref}/previews":                                    {path: "/versions/berths@2.1.0/previews", body: `{"days": -1}`, act: ledger.SharePreview},
	"DELETE /versions/{ref}/previews/{preview}":                        {path: "/versions/berths@2.1.0/previews/none", act: ledger.SharePreview},
	"GET /looks/{api}":                                                 {path: "/looks/berths"},
	"PUT /looks/{api}":                                                 {path: "/looks/berths", body: `{"font": "x"}`, act: ledger.Arrange},
	"GET /looks/{api}/pictures":                                        {path: "/looks/berths/pictures"},
	"PUT /looks/{api}/pictures/{picture}":                              {path: "/looks/berths/pictures/x", body: `x`, act: ledger.Arrange},
	"DELETE /looks/{api}/pictures/{picture}":                           {path: "/looks/berths/pictures/x", act: ledger.Arrange},
	"GET /notices":                                                     {path: "/notices"},
	"POST /notices":                                                    {path: "/notices", body: `{"ref": "berths"}`, act: ledger.Announce},
	"PATCH /notices/{id}":                                              {path: "/notices/1", body: `{"sunset": "x"}`, act: ledger.Announce},
	"GET /versions/{ref}/headers":                                      {path: "/versions/berths@1.2.0/headers"},
	"GET /comparison":                                                  {path: "/comparison?old=berths@2.0.0&new=berths@2.1.0", act: ledger.ReadInside, seen: true},
	"GET /guide":                                                       {path: "/guide?old=berths@2.0.0&new=berths@2.1.0", act: ledger.ReadInside, seen: true},
	"PUT /guide/texts":                                                 {path: "/guide/texts", body: `{"old": "berths@1.2.0", "new": "berths@2.0.0", "anchor": "none", "text": "x"}`, act: ledger.Word},
	"GET /journal":                                                     {path: "/journal", act: ledger.SeeJournal},
	"GET /journal/checkpoint":                                          {path: "/journal/checkpoint", act: ledger.SeeJournal},
	"GET /journal/export":                                              {path: "/journal/export", act: ledger.SeeJournal},
	"GET /versions/{ref}/proof":                                        {path: "/versions/berths@2.0.0/proof"},
	"GET /journal/verification":                                        {path: "/journal/verification", act: ledger.Verify},
	"GET /description.yaml":                                            {path: "/description.yaml"},
}

// described210 is what is recorded as no version: it has a number that is published.
const described210 = "openapi: 3.1.0\ninfo: {title: Berth Booking, version: 2.0.0}\npaths: {}\n"

// TestEveryRoute calls every route as everybody: nobody, who is in no team, each role in the team, in another one and in all, by a token.
// Whoever may is not refused for who they are; for whoever may not, it answers 401, 403, or as what is not there.
func TestEveryRoute(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	text, err := os.ReadFile("api/api.go")
	require.NoError(t, err)
	routed := 0
	for _, m := range regexp.MustCompile(`g\.(GET|POST|PUT|PATCH|DELETE)\("([^"]*)"`).FindAllStringSubmatch(string(text), -1) {
		route := m[1] + " " + regexp.MustCompile(`:(\w+)`).ReplaceAllString(m[2], "{$1}")
		require.Contains(t, everyRoute, route, "who may call it?")
		routed++
	}
	require.Equal(t, routed, len(everyRoute), "a route is in the table, and gone")

	type caller struct {
		person ledger.Person
		team   string // whose role it is
	}
	callers := map[string]caller{"": {}, "none": {}}
	for _, role := range append([]ledger.Role{ledger.Admin, ledger.Auditor}, ledger.TeamRoles...) {
		callers["all-"+string(role)] = caller{person: ledger.Person{Role: role}}
	}
	for _, role := range ledger.TeamRoles {
		for _, team := range []string{"Quayside", "Navigation"} {
			callers[strings.ToLower(team)+"-"+string(role)] = caller{ledger.Person{Teams: map[string]ledger.Role{team: role}}, team}
		}
	}
	tokens := map[string]string{"": ""}
	for name, c := range callers {
		if name == "" {
			continue
		}
		require.NoError(t, l.AddPerson(t.Context(), ledger.Itself, ledger.Person{Name: name, Full: name, Role: c.person.Role}, demo.Password))
		for team, role := range c.person.Teams {
			require.NoError(t, l.PutMember(t.Context(), ledger.Itself, team, name, role))
		}
		tokens[name] = token(t, l, name)
	}
	before, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)
	for route, ask := range everyRoute {
		method, _, _ := strings.Cut(route, " ")
		for name, c := range callers {
			if route == "POST /sign-in" { // it is asked before anybody is known; who guesses is slowed elsewhere
				continue
			}
			got := send(t, method, base+"/api/v1"+ask.path, tokens[name], nil, strings.NewReader(ask.body)).StatusCode
			// Some acts are everybody's who is signed in; some concern no API, and ask for a role in all teams.
			roles := ledger.Access[ask.act]
			may := ask.act == "" || name != "" && (slices.Contains(roles, c.person.Role) || c.team == "Quayside" && slices.Contains(roles, c.person.Teams[c.team]))
			switch ask.act {
			case ledger.SetPeople, ledger.SetTeams, ledger.Shelve, ledger.Verify, ledger.SetHouse:
				may = slices.Contains(roles, c.person.Role)
			}
			if route == "PATCH /audience" {
				may = slices.Contains(roles, c.person.Role)
			}
			switch ask.act {
			case ledger.SetPeople, ledger.SetTeams, ledger.SetMembers, ledger.MakeToken, ledger.SetPassword:
				if name != "" { // no usual token does these
					require.Equal(t, http.StatusForbidden, got, "%s as %s", route, name)
					continue
				}
			}
			refused := got == http.StatusUnauthorized || got == http.StatusForbidden
			switch {
			case may:
				require.False(t, refused, "%s as %q answers %d", route, name, got)
				require.Less(t, got, 500, route)
			case ask.seen:
				require.Equal(t, http.StatusNotFound, got, "%s as %q", route, name)
			case name == "":
				require.Contains(t, []int{http.StatusUnauthorized, http.StatusNotFound}, got, "%s as nobody", route)
			case ask.act == ledger.ReadInside:
				require.Contains(t, []int{http.StatusForbidden, http.StatusNotFound}, got, "%s as %s", route, name)
			default:
				require.Equal(t, http.StatusForbidden, got, "%s as %s", route, name)
			}
		}
	}
	after, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)
	require.Equal(t, before, after, "nothing was done")

	// Shut to all but its team, it answers everybody else as an API that is not there does, to the letter.
	require.NoError(t, l.SetAudience(t.Context(), ledger.Itself, "berths", ledger.AudienceWish{Published: &ledger.Audience{}}))
	asked := 0
	for route, ask := range everyRoute {
		method, _, _ := strings.Cut(route, " ")
		if method != http.MethodGet || !strings.Contains(ask.path, "berths") {
			continue
		}
		asked++
		for name, c := range callers {
			status, body := answered(t, base+"/api/v1"+ask.path, tokens[name])
			if c.person.Role != ledger.NoRole || c.team == "Quayside" {
				require.NotEqual(t, http.StatusNotFound, status, "%s as %q", route, name)
				continue
			}
			none, missing := answered(t, base+"/api/v1"+strings.ReplaceAll(ask.path, "berths", "absent"), tokens[name])
			require.Equal(t, none, status, "%s as %q", route, name)
			require.Equal(t, missing, strings.ReplaceAll(body, "berths", "absent"), "%s as %q", route, name)
			require.NotContains(t, strings.ToLower(body), "berth booking", "%s as %q", route, name)
		}
	}
	require.Greater(t, asked, 15)
}

// answered is how an address answers who sends a token, but for the name of the request.
func answered(t *testing.T, address, token string) (status int, body string) {
	t.Helper()
	res := send(t, http.MethodGet, address, token, nil, nil)
	return res.StatusCode, regexp.MustCompile(`"trace":"[^"]*"`).ReplaceAllString(res.text, "")
}

// TestOddTeams makes, fills and dissolves teams whose names mean something in an address.
func TestOddTeams(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	admin, err := l.Actor(t.Context(), "imke")
	require.NoError(t, err)
	secret, err := l.MakeToken(t.Context(), admin, ledger.TokenWish{Label: "test", Scopes: []ledger.Scope{ledger.ScopeAdminister}})
	require.NoError(t, err)
	c, err := client.New(base, secret)
	require.NoError(t, err)
	for _, name := range []string{"a/b=c", "50%", "a%2Fb", "Hafen & Söhne", "what?", "#1", ".."} {
		require.NoError(t, c.AddTeam(t.Context(), name), name)
		require.NoError(t, c.PutMember(t.Context(), name, "jonas", "lead"), name)
		teams, err := l.Teams(t.Context(), admin)
		require.NoError(t, err)
		require.True(t, slices.ContainsFunc(teams, func(t ledger.Team) bool { return t.Name == name && len(t.Members) == 1 }), name)
		require.NoError(t, c.DropMember(t.Context(), name, "jonas"), name)
		require.NoError(t, c.DropTeam(t.Context(), name), name)
	}
}
