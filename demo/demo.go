// Package demo plays the history of a made-up harbour's APIs into a ledger, through the same doors that people use. The
// same day handed in makes the same ledger.
package demo

import (
	"context"
	"embed"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"path"
	"strings"
	"time"

	"oldledger/core/guide"
	"oldledger/core/usage"
	"oldledger/ledger"
	"oldledger/server/api"
	"oldledger/store"
)

//go:embed harbour-style.yaml berths/*.yaml pilotage/*.yaml pilotage/overlays commons/*.yaml tides dues recordings
var files embed.FS

// House is the name above the demo's reference.
const House = "Saltmere Harbour"

// Password is the sign-in of everyone in the demo, which listens on loopback and holds nothing real.
const Password = "saltmere-demo"

// SignInHelp says how to sign in to the demo, and how partners read what is for them; ADDR stands for its address.
var SignInHelp = "sign in    imke (admin), teodor (lead of Quayside), jonas (reviewer) or mika (who uses berths), with the password " + Password + "\n" +
	"partners   ADDR" + LinkPath + " has pilotage, with the same password\n"

var people = []ledger.Person{
	{Name: "imke", Full: "Imke Aldous", Role: ledger.Admin, Teams: map[string]ledger.Role{"Platform": ledger.Lead}},
	{Name: "teodor", Full: "Teodor Brand", Teams: map[string]ledger.Role{"Quayside": ledger.Lead, "Navigation": ledger.Reader}},
	{Name: "sanna", Full: "Sanna Varga", Teams: map[string]ledger.Role{"Navigation": ledger.Lead}},
	{Name: "jonas", Full: "Jonas Wick", Role: ledger.Reviewer},
	{Name: "mika", Full: "Mika Sund"}, // who writes the Skerry Planner
}

var teams = []string{"Navigation", "Platform", "Quayside"}

// act is one thing that somebody does, so many days before the demo's day.
type act struct {
	daysAgo int
	by      string
	do      func(*player) error
}

// player does the acts at their times.
type player struct {
	ctx    context.Context
	store  *store.Store
	ledger *ledger.Ledger
	now    time.Time
	today  time.Time
	who    ledger.Actor
}

func (p *player) date(days int) string { return p.today.AddDate(0, 0, days).Format(time.DateOnly) }

func record(team, path string) func(*player) error {
	return func(p *player) error {
		text, err := files.ReadFile(path)
		if err != nil {
			return err
		}
		_, err = p.ledger.Record(p.ctx, p.who, ledger.Submission{Team: team, File: path, Text: text})
		return err
	}
}

// recordFolder records a description of several files: the entry, and all that stands beside and below it.
func recordFolder(team, api, entry string) func(*player) error {
	return func(p *player) error {
		folder := path.Dir(entry)
		s := ledger.Submission{Team: team, API: api, File: path.Base(entry), Others: map[string][]byte{}}
		err := fs.WalkDir(files, folder, func(at string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return err
			}
			text, err := files.ReadFile(at)
			if at == entry {
				s.Text = text
			} else {
				s.Others[strings.TrimPrefix(at, folder+"/")] = text
			}
			return err
		})
		if err == nil {
			_, err = p.ledger.Record(p.ctx, p.who, s)
		}
		return err
	}
}

// recordOwn records the description of the ledger's own interface.
func recordOwn(p *player) error {
	_, err := p.ledger.Record(p.ctx, p.who, ledger.Submission{Team: "Platform", File: "ledger.yaml", Text: api.Description})
	return err
}

func publish(ref string) func(*player) error {
	return func(p *player) error {
		_, err := p.ledger.Publish(p.ctx, p.who, ref, nil)
		return err
	}
}

// waive publishes in spite of all that stands in the way, for one reason.
func waive(ref, reason string) func(*player) error {
	return func(p *player) error {
		gate, err := p.ledger.Gate(p.ctx, p.who, ref)
		if err != nil {
			return err
		}
		var waives []ledger.Waive
		for _, o := range gate.Obstacles {
			waives = append(waives, ledger.Waive{Change: o.Change.ID, Reason: reason})
		}
		if len(waives) == 0 {
			return errors.New("nothing stands in the way of " + ref)
		}
		_, err = p.ledger.Publish(p.ctx, p.who, ref, waives)
		return err
	}
}

// word shows readers a version with an overlay.
func word(ref, path string) func(*player) error {
	return func(p *player) error {
		text, err := files.ReadFile(path)
		if err == nil {
			_, err = p.ledger.PutOverlay(p.ctx, p.who, ref, string(text), "")
		}
		if err == nil {
			_, err = p.ledger.ShowOverlay(p.ctx, p.who, ref)
		}
		return err
	}
}

// explain writes into the guide between two versions, to the step of that title or, where there is none, to the introduction.
func explain(old, new, title, text string) func(*player) error {
	return func(p *player) error {
		t := ledger.GuideText{Old: old, New: new, Anchor: guide.Intro, Text: text}
		g, err := p.ledger.Guide(p.ctx, p.who, old, new)
		if err != nil {
			return err
		}
		for _, s := range g.Must {
			if s.Title == title {
				t.Anchor = s.Change.ID
			}
		}
		if title != "" && t.Anchor == guide.Intro {
			return errors.New("the guide has no step " + title)
		}
		_, err = p.ledger.WriteGuide(p.ctx, p.who, t)
		return err
	}
}

func notice(a ledger.Announcement, sunsetIn int) func(*player) error {
	return func(p *player) error {
		a := a
		a.Sunset = p.date(sunsetIn)
		_, err := p.ledger.Deprecate(p.ctx, p.who, a)
		return err
	}
}

// open opens an API to some groups of readers.
func open(api, reason string, to ...ledger.Group) func(*player) error {
	return func(p *player) error {
		audience := ledger.Audience(to)
		return p.ledger.SetAudience(p.ctx, p.who, api, ledger.AudienceWish{Published: &audience, Reason: reason})
	}
}

// shelf makes a shelf for some groups of readers.
func shelf(name, title, landing string, to ...ledger.Group) func(*player) error {
	return func(p *player) error {
		audience := ledger.Audience(to)
		return p.ledger.PutShelf(p.ctx, p.who, name, ledger.ShelfWish{Title: &title, Landing: &landing, Audience: &audience})
	}
}

// called says how callers choose the version of an API.
func called(api, scheme, undeclared string) func(*player) error {
	return func(p *player) error {
		return p.ledger.Set(p.ctx, p.who, api, ledger.Settings{Versioning: &scheme, Undeclared: &undeclared})
	}
}

// handOver gives a consumer to a person.
func handOver(consumer, person string) func(*player) error {
	return func(p *player) error {
		return p.ledger.PutConsumer(p.ctx, p.who, consumer, ledger.ConsumerWish{Person: &person})
	}
}

// offer makes a plan.
func offer(plan ledger.Plan) func(*player) error {
	return func(p *player) error { return p.ledger.PutPlan(p.ctx, p.who, plan) }
}

// ask asks for the use of APIs.
func ask(consumer, purpose string, items ...ledger.RequestedAPI) func(*player) error {
	return func(p *player) error {
		_, err := p.ledger.Ask(p.ctx, p.who, ledger.RequestWish{Consumer: consumer, Purpose: purpose, Items: items})
		return err
	}
}

// decide decides one of the APIs of a request.
func decide(request int64, api, line string, state ledger.RequestState, reason string) func(*player) error {
	return func(p *player) error {
		return p.ledger.Decide(p.ctx, p.who, ledger.Decision{Request: request, API: api, Line: line, State: state, Reason: reason})
	}
}

// style has the house keep a style.
func style(path, reason string) func(*player) error {
	return func(p *player) error {
		text, err := files.ReadFile(path)
		if err != nil {
			return err
		}
		_, err = p.ledger.PutStyle(p.ctx, p.who, ledger.StyleScope{}, string(text), reason, 0)
		return err
	}
}

// place has an API, or some versions of it, stand on a shelf.
func place(api, shelf string, versions ...string) func(*player) error {
	return func(p *player) error { return p.ledger.Place(p.ctx, p.who, shelf, api, versions) }
}

// linkKey is what the key of the demo's link is made of: everybody may know it, as they know the passwords.
const linkKey = "for the skerry planner.."

// LinkPath is where whoever knows Password reads pilotage, below the service's address.
var LinkPath = "/open/" + base64.RawURLEncoding.EncodeToString([]byte(linkKey)) + "/"

// link makes the link by which partners read pilotage.
func link(p *player) error {
	l := ledger.New(p.store, ledger.Options{Now: func() time.Time { return p.now }, Random: strings.NewReader(linkKey)})
	made, _, err := l.MakeLink(p.ctx, p.who, "pilotage", ledger.LinkWish{Label: "Skerry Planner", Password: Password, Days: 365})
	if err == nil && made.Path != LinkPath {
		err = fmt.Errorf("the demo's link is at %s", made.Path)
	}
	return err
}

var history = []act{
	{330, "imke", record("Platform", "commons/1.0.0.yaml")},
	{329, "imke", publish("commons@1.0.0")},
	{329, "imke", recordOwn},
	{329, "imke", publish("ledger@0.1.0")},
	{324, "sanna", recordFolder("Navigation", "", "tides/1.0.0/tides.raml")},
	{322, "sanna", publish("tides@1.0.0")},
	{320, "teodor", recordFolder("Quayside", "dues", "dues/1.0.0/dues.raml")},
	{319, "teodor", publish("dues@1.0.0")},
	{316, "teodor", record("Quayside", "berths/1.0.0.yaml")},
	{314, "teodor", publish("berths@1.0.0")},
	{300, "sanna", record("Navigation", "pilotage/0.9.0.yaml")},
	{299, "sanna", publish("pilotage@0.9.0")},
	{262, "teodor", record("Quayside", "dues/1.1.0.yaml")},
	{260, "teodor", publish("dues@1.1.0")},
	{226, "teodor", record("Quayside", "berths/1.1.0.yaml")},
	{225, "teodor", publish("berths@1.1.0")},
	{212, "sanna", recordFolder("Navigation", "", "tides/1.1.0/tides.raml")},
	{210, "sanna", publish("tides@1.1.0")},
	{201, "sanna", record("Navigation", "pilotage/1.0.0.yaml")},
	{198, "sanna", publish("pilotage@1.0.0")},
	{150, "imke", record("Platform", "commons/1.1.0.yaml")},
	{150, "imke", publish("commons@1.1.0")},
	{150, "imke", open("commons", "Components are for those who write descriptions here.", ledger.SignedIn)},
	{106, "teodor", record("Quayside", "berths/1.2.0.yaml")},
	{104, "teodor", publish("berths@1.2.0")},
	{104, "teodor", notice(ledger.Announcement{
		Ref: "berths@1.2.0", Line: true, Field: "Vessel.length", ReplacedBy: "lengthOverall",
		Reason: "Length was read as the waterline length by some and as the length overall by others.",
	}, 98)},
	{104, "teodor", notice(ledger.Announcement{
		Ref: "berths@1.2.0", Line: true, Operation: "cancelByLetter", ReplacedBy: "Cancel a booking",
		Reason: "Hardly anybody asks for the letter any more.",
	}, 10)},
	{61, "sanna", record("Navigation", "pilotage/1.1.0.yaml")},
	{60, "imke", waive("pilotage@1.1.0", "All four receivers were asked; none of them acts on the reason of a closure.")},
	{59, "sanna", open("pilotage", "Orders are between us and those who take them.", ledger.LinkHolder, ledger.OfTeam("Quayside"))},
	{59, "sanna", link},
	{52, "sanna", word("pilotage@1.1.0", "pilotage/overlays/1.1.0.yaml")},
	{48, "sanna", record("Navigation", "tides/1.2.0.yaml")},
	{47, "sanna", publish("tides@1.2.0")},
	{34, "teodor", record("Quayside", "berths/2.0.0.yaml")},
	{30, "teodor", publish("berths@2.0.0")},
	{29, "teodor", notice(ledger.Announcement{
		Ref: "dues", ReplacedBy: "berths@2.0.0",
		Reason: "Berth Booking computes the dues of a stay itself since its line 2, under Charges.",
	}, 12)},
	{29, "imke", notice(ledger.Announcement{
		Ref: "berths@1.2.0", Line: true, ReplacedBy: "berths@2.0.0", Guide: "1.2.0..2.0.0",
		Reason: "Line 2 is out. Line 1 is answered until everybody has moved.",
	}, 98)},
	{28, "teodor", explain("berths@1.2.0", "berths@2.0.0", "",
		"Plan half a day. Change the **address** first, then the body of a booking; both lines are answered meanwhile, so you may move call by call.")},
	{28, "teodor", explain("berths@1.2.0", "berths@2.0.0", "lengthOverall must now be there",
		"Measure from stem to stern, fenders not counted. If you only know the waterline length, ask the skipper: the quay is booked by what it must hold.")},
	{27, "imke", shelf("skippers", "For skippers", "Berths and tides for those who come by sea. New here? Begin with *Book a berth*.", ledger.Everyone)},
	{27, "teodor", place("berths", "skippers", "2")},
	{27, "sanna", place("tides", "skippers")},
	{26, "imke", shelf("inside", "Inside the house", "What only we build on.", ledger.SignedIn)},
	{26, "imke", place("commons", "inside")},
	{26, "sanna", place("pilotage", "inside")},
	{25, "imke", style("harbour-style.yaml", "As settled with the leads of all teams.")},
	{24, "teodor", called("berths", "path /v{line}", "ignored")},
	{24, "teodor", called("dues", "path /v{line}", "")},
	{24, "sanna", called("tides", "path /v{line}", "")},
	{24, "sanna", called("pilotage", "header Harbour-Version {line} else 1", "")},
	{23, "imke", consumer("lockside-boards", "Platform", "Lockside Boards", "Arrival displays at the locks.", "", usage.ByAgent, "LocksideBoards/*")},
	{23, "imke", consumer("skerry-planner", "", "Skerry Planner", "The sailors' app: berths, and tides on the way.", "", usage.ByCredential, "skerry")},
	{23, "teodor", consumer("customs-relay", "Quayside", "Customs Relay", "A nightly batch for the customs house.", "Quayside", usage.ByCredential, "customs-relay")},
	{23, "teodor", consumer("quay-kiosk", "Quayside", "Quay Kiosk", "Where skippers book who come unannounced.", "Quayside", usage.ByCredential, "kiosk-*")},
	{23, "sanna", consumer("nightwatch", "Navigation", "Nightwatch", "Calls pilots out at night.", "Navigation", usage.ByCredential, "nightwatch")},
	{22, "imke", handOver("skerry-planner", "mika")},
	{22, "teodor", offer(ledger.Plan{
		API: "berths", Name: "Regular", Quota: 5000, Per: "day", Asks: []string{"Where does it run?"}, Audience: ledger.Audience{ledger.SignedIn}, Issues: true,
		Terms: "Berths are held for **those who come**. Who books and stays away three times is called.",
	})},
	{22, "sanna", offer(ledger.Plan{API: "tides", Name: "Open", Audience: ledger.Audience{ledger.SignedIn}, Terms: "The moon is everybody's."})},
	{21, "mika", ask("skerry-planner", "Sailors find a berth for the night, and water under their keel.",
		ledger.RequestedAPI{API: "berths", Line: "1", Plan: "Regular", Answers: []string{"On sailors' phones."}},
		ledger.RequestedAPI{API: "tides", Line: "1", Plan: "Open"})},
	{20, "teodor", decide(1, "berths", "1", ledger.Approved, "")},
	{20, "sanna", decide(1, "tides", "1", ledger.Approved, "Welcome aboard.")},
	{18, "mika", relies("skerry-planner")},
	{18, "mika", recorded("skerry-planner", "berths@1.2.0")},
	{12, "teodor", recorded("quay-kiosk", "berths@2.0.0")},
	{3, "mika", ask("skerry-planner", "We move to line 2 before the summer.",
		ledger.RequestedAPI{API: "berths", Line: "2", Plan: "Regular", Answers: []string{"On sailors' phones, as before."}})},
	{2, "teodor", record("Quayside", "berths/2.1.0-draft.yaml")},
	{1, "imke", tally(-91, -2)},
}

// Play plays the history into a store, as seen on a day. A store that already holds it is left as it is.
func Play(ctx context.Context, s *store.Store, day time.Time) error {
	p := &player{ctx: ctx, store: s, today: day.Truncate(24 * time.Hour)}
	p.ledger = ledger.New(s, ledger.Options{Now: func() time.Time { return p.now }, Random: repeatable(day)})
	if _, err := p.ledger.Actor(ctx, people[0].Name); err == nil {
		return nil
	}
	p.now = p.today.AddDate(0, 0, -340).Add(9 * time.Hour)
	byName := map[string]ledger.Actor{}
	for _, team := range teams {
		if err := p.ledger.AddTeam(ctx, ledger.Itself, team); err != nil {
			return fmt.Errorf("make %s: %w", team, err)
		}
	}
	for _, who := range people {
		byName[who.Name] = ledger.By(who)
		if err := p.ledger.AddPerson(ctx, ledger.Itself, who, Password); err != nil {
			return fmt.Errorf("add %s: %w", who.Name, err)
		}
		for _, team := range teams {
			if who.Teams[team] == ledger.NoRole {
				continue
			}
			if err := p.ledger.PutMember(ctx, ledger.Itself, team, who.Name, who.Teams[team]); err != nil {
				return fmt.Errorf("put %s into %s: %w", who.Name, team, err)
			}
		}
	}
	open := ledger.AudienceWish{Published: &ledger.Audience{ledger.Everyone}, Reason: "Sailors read it, too."}
	if err := p.ledger.SetAudience(ctx, byName["imke"], "", open); err != nil {
		return fmt.Errorf("open the reference: %w", err)
	}
	for i, a := range history {
		p.now = p.today.AddDate(0, 0, -a.daysAgo).Add(9*time.Hour + time.Duration(i)*time.Minute)
		p.who = byName[a.by]
		if err := a.do(p); err != nil {
			return fmt.Errorf("act %d, %d days ago: %w", i+1, a.daysAgo, err)
		}
	}
	return nil
}

// repeatable is a random source that gives the same on the same day. It makes no secret that matters.
func repeatable(day time.Time) io.Reader {
	return rand.NewChaCha8([32]byte([]byte(fmt.Sprintf("%-32s", "saltmere "+day.Format(time.DateOnly)))))
}
