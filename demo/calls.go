package demo

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"oldledger/core/usage"
	"oldledger/ledger"
)

// client is somebody who calls the harbour's APIs.
type client struct {
	user, agent string
	line        func(day int) float64 // which part of its calls of berths is of line 2, so many days after the demo's day
	calls       []habit
	from        int // the first day, after the demo's day
	until       int // the last one
	at          int // the hour in which all is done; -1 for by day
}

// habit is what a client calls about so many times a day. V stands for the line of berths; a # for a number, an @ for a letter.
type habit struct {
	times        float64
	method, path string
	status       int
}

const always = 1 << 20

func of(part float64) func(int) float64 { return func(int) float64 { return part } }

// ramp is a part that grows between two days.
func ramp(from, until int) func(int) float64 {
	return func(day int) float64 { return min(1, max(0, float64(day-from)/float64(until-from))) }
}

// clients are the harbour's consumers: one moves to line 2 as soon as it is there, one moves in the weeks after the demo's day, one only
// then, one has not moved a week before the sunset of dues, and one is known to nobody.
var clients = []client{
	{
		user: "-", agent: "LocksideBoards/2.4", line: ramp(48, 49), from: -always, until: always, at: -1,
		calls: []habit{{62, "GET", "/V/berths?quay=north", 200}, {9, "GET", "/V/quays", 200}, {31, "GET", "/V/berths/@#/availability", 200}, {2, "GET", "/V/berths/@#", 404}},
	},
	{
		user: "skerry", agent: "SkerryPlanner/5.2 (Saltmere; arm64)", line: ramp(-6, 62), from: -always, until: always, at: -1,
		calls: []habit{
			{24, "GET", "/V/berths", 200},
			{17, "GET", "/V/berths/@#/availability", 200},
			{6, "POST", "BOOK", 201},
			{1.5, "POST", "BOOK", 422},
			{4, "GET", "/V/bookings/b-#", 200},
			{1, "DELETE", "/V/bookings/b-#", 204},
			{28, "GET", "/v1/stations/s-#/tides", 200},
			{3, "GET", "/v1/stations", 200},
			{0.6, "GET", "/V/berths/@#", 503},
		},
	},
	{
		user: "customs-relay", agent: "relay/1.9", line: of(0), from: -always, until: 60, at: 2,
		calls: []habit{{21, "GET", "/v1/bookings/b-#/charges", 200}, {9, "GET", "/v1/dues?vessel=#", 200}, {1, "GET", "/v1/rates", 200}},
	},
	{
		user: "kiosk-4", agent: "QuayKiosk/7", line: ramp(-27, -13), from: -always, until: always, at: -1,
		calls: []habit{
			{18, "GET", "/V/berths", 200},
			{14, "POST", "BOOK", 201},
			{2, "POST", "BOOK", 409},
			{8, "GET", "/V/bookings/b-#", 200},
			{7, "PUT", "/V/bookings/b-#/arrival", 200},
			{3, "GET", "/V/bookings/b-#/charges", 200},
		},
	},
	{
		user: "-", agent: "pier-sync/0.3", line: of(0), from: -18, until: 20, at: -1,
		calls: []habit{{3, "GET", "/V/berths", 200}, {2, "GET", "/V/berths/@#/availability", 200}, {1, "GET", "/V/berths/@#/tide", 404}},
	},
	{
		user: "-", agent: "Mozilla/5.0 (X11)", line: of(0), from: -always, until: always, at: -1,
		calls: []habit{{0.7, "GET", "/robots.txt", 404}, {0.3, "GET", "/v3/berths", 404}},
	},
}

// tiller is the gateway through which pilotage is called: it writes lines of JSON, with the header that chooses the version.
var tiller = client{
	user: "nightwatch", agent: "nightwatch/3", from: -always, until: always, at: -1,
	calls: []habit{{22, "GET", "/pilotage/orders?state=open", 200}, {5, "GET", "/pilotage/orders/o-#", 200}, {2, "PUT", "/pilotage/orders/o-#/boarding-time", 200}},
}

// TillerMapping says what the lines of JSON of pilotage's gateway hold.
const TillerMapping = "{time: at, target: request, method: verb, status: answer, credential: key, agent: by, headers: {Harbour-Version: version}}"

// request is a call as a log tells it.
type request struct {
	at           time.Time
	client       *client
	method, path string
	status       int
}

// requests are the calls of some clients from one day to another, counted from the demo's day, in order. The same day gives the same calls.
func requests(of []client, today time.Time, from, until int) []request {
	var all []request
	for day := from; day <= until; day++ {
		date := today.AddDate(0, 0, day)
		random := rand.New(rand.NewChaCha8([32]byte(fmt.Appendf(nil, "%-32s", "calls "+date.Format(time.DateOnly)))))
		week := 1.0
		if date.Weekday() == time.Saturday || date.Weekday() == time.Sunday {
			week = 1.3 // sailors come at weekends
		}
		for i := range of {
			c := &of[i]
			if day < c.from || day > c.until {
				continue
			}
			for _, h := range c.calls {
				n := int(h.times*week*(0.8+0.4*random.Float64()) + random.Float64())
				for range n {
					r := request{client: c, method: h.method, status: h.status, at: date.Add(time.Duration(random.IntN(24*3600)) * time.Second)}
					if c.at >= 0 {
						r.at = date.Add(time.Duration(c.at)*time.Hour + time.Duration(random.IntN(1200))*time.Second)
					}
					second := c.line != nil && random.Float64() < c.line(day)
					r.path = spelt(h.path, second, random)
					all = append(all, r)
				}
			}
		}
	}
	slices.SortStableFunc(all, func(a, b request) int {
		return cmp.Or(a.at.Compare(b.at), strings.Compare(a.client.agent, b.client.agent))
	})
	return all
}

// spelt is the path of a habit, in one line of berths or the other.
func spelt(path string, second bool, random *rand.Rand) string {
	line := "v1"
	if second {
		line = "v2"
	}
	if path == "BOOK" { // since line 2 one books where bookings are
		if path = "/V/berths/@#/bookings"; second {
			path = "/V/bookings"
		}
	}
	var b strings.Builder
	for _, c := range path {
		switch c {
		case 'V':
			b.WriteString(line)
		case '#':
			fmt.Fprint(&b, 1+random.IntN(60))
		case '@':
			b.WriteByte(byte('a' + random.IntN(4)))
		default:
			b.WriteRune(c)
		}
	}
	return b.String()
}

// Log is the log of the harbour's gateway, in the Combined Log Format, from one day to another, counted from the demo's day.
func Log(today time.Time, from, until int) []byte {
	var b bytes.Buffer
	for i, r := range requests(clients, today.Truncate(24*time.Hour), from, until) {
		fmt.Fprintf(&b, "192.0.2.%d - %s [%s] \"%s %s HTTP/1.1\" %d %d \"-\" %q\n", i%250, r.client.user, r.at.Format("02/Jan/2006:15:04:05 -0700"), r.method,
			r.path, r.status, 200+i%700, r.client.agent)
		if i%9001 == 9000 {
			b.WriteString("192.0.2.9 - - [\x16\x03\x01\x02\n")
		}
	}
	return b.Bytes()
}

// tillerLog is the log of the gateway of pilotage.
func tillerLog(today time.Time, from, until int) ([]byte, error) {
	var b bytes.Buffer
	for _, r := range requests([]client{tiller}, today, from, until) {
		line, err := json.Marshal(map[string]any{
			"at": r.at.Format(time.RFC3339), "verb": r.method, "request": r.path, "answer": r.status, "key": r.client.user, "by": r.client.agent, "version": "1",
		})
		if err != nil {
			return nil, err
		}
		b.Write(append(line, '\n'))
	}
	return b.Bytes(), nil
}

// consumer makes a consumer that is recognised, by what its callers call themselves or by their credential, at the APIs of a team.
func consumer(name, team, title, note, at string, kind usage.Kind, value string) func(*player) error {
	return func(p *player) error {
		contacts := []string{name + "@saltmere.example"}
		wish := ledger.ConsumerWish{Title: &title, Note: &note, Team: &team, Contacts: &contacts}
		if err := p.ledger.PutConsumer(p.ctx, p.who, name, wish); err != nil {
			return err
		}
		return p.ledger.SetSigns(p.ctx, p.who, name, at, []ledger.Sign{{Kind: kind, Value: value}})
	}
}

// tally adds the logs of some days before the demo's day.
func tally(from, until int) func(*player) error {
	return func(p *player) error {
		_, err := p.ledger.AddLog(p.ctx, p.who, ledger.LogWish{Name: "harbour-gateway.log", Text: bytes.NewReader(Log(p.today, from, until))})
		if err != nil {
			return err
		}
		text, err := tillerLog(p.today, from, until)
		if err == nil {
			_, err = p.ledger.AddLog(p.ctx, p.who, ledger.LogWish{Name: "tiller.jsonl", Mapping: TillerMapping, APIs: []string{"pilotage"}, Text: bytes.NewReader(text)})
		}
		return err
	}
}
