package ledger

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/promise"
	"oldledger/core/reliance"
	"oldledger/core/replay"
	"oldledger/ledger/records"
)

// Recording is exchanges of a consumer with an API that somebody recorded, kept without credentials.
type Recording struct {
	Consumer  string
	API       string
	Version   string // that answered
	Exchanges int
	Guards    bool // whether the gate replays it
	AddedAt   string
	AddedBy   string
	MaySet    bool // whether the actor may say whether it guards
}

// RecordingWish is a recording that somebody adds.
type RecordingWish struct {
	Consumer string
	Version  string    // that answered: "berths@1.2.0"
	Archive  io.Reader // HAR 1.2
	Guards   *bool     // nil leaves it as it is
}

// AddedRecording is what came of it.
type AddedRecording struct {
	Recording
	Elsewhere int // entries that are no calls of the API
	Alike     int // that say the same as another one, and are left out
	Wrong     []exchange.Wrong
}

// Bounds of recordings.
const (
	maxRecorded      = 500     // exchanges that are kept of one
	maxArchive       = 4 << 20 // bytes of them
	maxRecordings    = 200     // of one API
	maxGuards        = 20      // of one API
	maxReplays       = 256     // in memory
	maxLineupClients = 20

	maxLineupExchanges = 5_000 // that are replayed for one answer; the next one goes on
)

// AddRecording keeps the exchanges of a consumer with an API, in place of those that were kept of both: for who keeps the consumer, and
// for who may add calls of the API. Entries that are no calls of the version that answered are left out, credentials are masked.
func (l *Ledger) AddRecording(ctx context.Context, who Actor, wish RecordingWish) (AddedRecording, error) {
	w := l.view(who)
	v, row, err := w.recordable(ctx, wish.Consumer, wish.Version)
	if err != nil {
		return AddedRecording{}, err
	}
	if wish.Guards != nil {
		if err := mayIn(who, SetPromise, w.teamOf(v.API), v.API); err != nil {
			return AddedRecording{}, err
		}
	}
	added, archive, err := w.readRecording(ctx, v, wish.Archive)
	if err != nil {
		return added, err
	}
	err = w.act(ctx, v.API, func(w view) error {
		w.quiet()
		if _, _, err := w.recordable(ctx, wish.Consumer, v.Ref()); err != nil {
			return err
		}
		rec := records.Recording{
			Consumer: row.Name, API: v.API, Version: v.Number, Exchanges: added.Exchanges, Digest: digest(archive, nil), AddedAt: w.stamp(),
			AddedBy: who.Name,
		}
		if rec.Guards, err = w.guards(ctx, rec, wish.Guards); err != nil {
			return err
		}
		added.Recording = w.toRecording(rec)
		if err := w.rows.PutRecording(ctx, rec, archive); err != nil {
			return err
		}
		return w.appendJournal(ctx, "consumer.recorded", consumerSubject+row.Name, map[string]string{
			"api": v.API, "version": v.Number, "digest": rec.Digest, "exchanges": strconv.Itoa(rec.Exchanges),
			"guards": strconv.FormatBool(rec.Guards),
		})
	})
	return added, err
}

// readRecording reads what of an archive is to be kept of a version: its calls, each once, without credentials.
func (w view) readRecording(ctx context.Context, v Version, archive io.Reader) (added AddedRecording, kept []byte, err error) {
	c, err := w.contract(ctx, v)
	if err != nil {
		return added, nil, err
	}
	var all []*exchange.Exchange
	seen := map[string]bool{}
	learner := replay.NewLearner(c)
	read, err := exchange.Read(ctx, archive, func(e *exchange.Exchange) error {
		if !learner.Knows(e) {
			added.Elsewhere++
			return nil
		}
		m := e.Masked(learner.Carriers()...)
		key := m.Key()
		if seen[key] {
			added.Alike++
			return nil
		}
		seen[key] = true
		if all = append(all, m); len(all) > maxRecorded {
			return refuse(Invalid, "it holds more than %d different exchanges with %s; a recording shows what a client does, and not how often",
				maxRecorded, v.API)
		}
		return ctx.Err()
	})
	added.Wrong, added.Exchanges = read.Wrong, len(all)
	var cut *exchange.Cut
	switch {
	case errors.As(err, &cut):
		return added, nil, refuse(Invalid, "%v", err)
	case err != nil:
		return added, nil, err
	case len(all) == 0:
		return added, nil, refuse(Invalid, "none of its %d entries is a call of %s", read.Entries, v.Ref())
	}
	var text bytes.Buffer
	if err := exchange.Write(&text, "Old Ledger", w.options.Engine, all); err != nil {
		return added, nil, err
	}
	if text.Len() > maxArchive {
		return added, nil, refuse(Invalid, "its exchanges with %s take %d KB; at most %d are kept", v.API, text.Len()>>10, maxArchive>>10)
	}
	return added, text.Bytes(), nil
}

// guards tells whether the gate replays a recording that is about to be kept: as somebody wishes, or as with the one before.
func (w view) guards(ctx context.Context, rec records.Recording, wish *bool) (bool, error) {
	before, err := w.rows.Recordings(ctx, rec.API, "")
	if err != nil {
		return false, err
	}
	guards := false
	i := slices.IndexFunc(before, func(b records.Recording) bool { return b.Consumer == rec.Consumer })
	switch {
	case i < 0 && len(before) >= maxRecordings:
		return false, refuse(Conflict, "%d recordings of %s are kept; no more are taken", maxRecordings, rec.API)
	case wish != nil:
		guards = *wish
	case i >= 0:
		guards = before[i].Guards
	}
	if guards {
		err = fewGuards(before, rec.Consumer)
	}
	return guards, err
}

// recordable finds the version that answered a consumer of which the actor may keep a recording.
func (w view) recordable(ctx context.Context, consumer, ref string) (Version, records.Consumer, error) {
	if err := w.may(w.who, SeeConsumers, ""); err != nil {
		return Version{}, records.Consumer{}, err
	}
	v, err := w.readable(ctx, ref)
	if err != nil {
		return v, records.Consumer{}, err
	}
	row, _, err := w.knownConsumer(ctx, consumer)
	if err != nil {
		return v, row, err
	}
	if w.keeps(row) {
		return v, row, w.may(w.who, KeepConsumer, "")
	}
	return v, row, mayIn(w.who, AddCalls, w.teamOf(v.API), v.API)
}

// fewGuards refuses one guard too many.
func fewGuards(rows []records.Recording, but string) error {
	n := 0
	for _, r := range rows {
		if r.Guards && r.Consumer != but {
			n++
		}
	}
	if n >= maxGuards {
		return refuse(Conflict, "the gate replays the recordings of %d consumers; no more are taken", maxGuards)
	}
	return nil
}

func (w view) toRecording(r records.Recording) Recording {
	return Recording{
		Consumer: r.Consumer, API: r.API, Version: r.Version, Exchanges: r.Exchanges, Guards: r.Guards, AddedAt: r.AddedAt, AddedBy: r.AddedBy,
		MaySet: mayIn(w.who, SetPromise, w.teamOf(r.API), r.API) == nil,
	}
}

// recordingsOf are those of a consumer that the actor may know of.
func (w view) recordingsOf(ctx context.Context, c records.Consumer) ([]Recording, error) {
	rows, err := w.rows.Recordings(ctx, "", c.Name)
	all := []Recording{}
	for _, r := range rows {
		if w.knowsReliance(c, r.API) {
			all = append(all, w.toRecording(r))
		}
	}
	return all, err
}

// SetGuards says whether the gate of an API replays the recording of a consumer.
func (l *Ledger) SetGuards(ctx context.Context, who Actor, consumer, api string, guards bool) error {
	if err := l.may(who, SetPromise, api); err != nil {
		return err
	}
	return l.view(who).act(ctx, api, func(w view) error {
		w.quiet()
		rows, err := w.rows.Recordings(ctx, api, "")
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(rows, func(r records.Recording) bool { return r.Consumer == consumer }) {
			return refuse(NotFound, "there is no recording of %s with %s", consumer, api)
		}
		if guards {
			if err := fewGuards(rows, consumer); err != nil {
				return err
			}
		}
		if err := w.rows.SetGuards(ctx, consumer, api, guards); err != nil {
			return err
		}
		return w.appendJournal(ctx, "consumer.guarded", consumerSubject+consumer, map[string]string{
			"api": api, "guards": strconv.FormatBool(guards),
		})
	})
}

// DropRecording takes a recording away: for who keeps the consumer, and who may say what the API promises. One that guards is the API's
// team's to take away.
func (l *Ledger) DropRecording(ctx context.Context, who Actor, consumer, api string) error {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return err
	}
	return l.view(who).act(ctx, api, func(w view) error {
		w.quiet()
		r, err := w.recording(ctx, consumer, api)
		if err != nil {
			return err
		}
		row, err := w.rows.Consumer(ctx, consumer)
		if err != nil {
			return err
		}
		if r.Guards || !w.keeps(row) {
			if err := mayIn(who, SetPromise, w.teamOf(api), api); err != nil {
				return err
			}
		}
		if err := w.rows.DropRecording(ctx, consumer, api); err != nil {
			return err
		}
		return w.appendJournal(ctx, "consumer.recording-dropped", consumerSubject+consumer, map[string]string{"api": api})
	})
}

// recording finds one that the actor may know of.
func (w view) recording(ctx context.Context, consumer, api string) (records.Recording, error) {
	none := refuse(NotFound, "there is no recording of %s with %s", consumer, api)
	row, err := w.rows.Consumer(ctx, consumer)
	if err != nil {
		return records.Recording{}, notFound(err, "%s", none.Error())
	}
	rows, err := w.rows.Recordings(ctx, api, consumer)
	if err != nil {
		return records.Recording{}, err
	}
	if len(rows) == 0 || !w.knowsReliance(row, api) {
		return records.Recording{}, none
	}
	return rows[0], nil
}

// RecordingArchive is a recording as an archive (HAR 1.2), without credentials.
func (l *Ledger) RecordingArchive(ctx context.Context, who Actor, consumer, api string) ([]byte, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	if _, err := w.recording(ctx, consumer, api); err != nil {
		return nil, err
	}
	return w.rows.RecordingArchive(ctx, consumer, api)
}

// Replay holds the recording of a consumer against a version.
func (l *Ledger) Replay(ctx context.Context, who Actor, consumer, ref string) (*replay.Report, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return nil, err
	}
	r, err := w.recording(ctx, consumer, v.API)
	if err != nil {
		return nil, err
	}
	return w.replayed(ctx, r, v, nil)
}

// replaying is a replay that is asked for.
type replaying struct {
	recording   records.Recording
	version     Version // that answers, and the one that answered when it was recorded, as the actor reads them
	recorded    Version
	need        *reliance.Need
	undeclared  compare.Undeclared
	key         string // by what it follows from
	description *contract.Contract
}

// replaying finds what a replay follows from. description is what the version says, nil to read it where it is needed.
func (w view) replaying(ctx context.Context, r records.Recording, v Version, description *contract.Contract) (*replaying, error) {
	x := &replaying{recording: r, version: v, description: description}
	need, text, err := w.needIn(ctx, r)
	if err != nil {
		return nil, err
	}
	x.need = need
	o, err := w.asTold(ctx, v.API, compare.Options{})
	if err != nil {
		return nil, err
	}
	x.undeclared = o.Undeclared
	recorded, err := w.readable(ctx, r.API+"@"+r.Version)
	var refused *Error
	switch {
	case errors.As(err, &refused) && refused.Fault == NotFound: // it was a draft, or is no longer to be read: nobody knows what answered
		x.version, err = w.asRead(ctx, x.version)
	case err == nil:
		x.recorded, x.version, err = w.bothAsRead(ctx, recorded, x.version)
	}
	if err != nil {
		return nil, err
	}
	x.key = fmt.Sprint(r.Digest, " ", x.recorded.content(), " ", x.version.content(), " ", o.Undeclared, " ", text)
	return x, nil
}

// replayed replays a recording, once for the same contents. In a transaction nothing is computed.
func (w view) replayed(ctx context.Context, r records.Recording, v Version, description *contract.Contract) (*replay.Report, error) {
	x, err := w.replaying(ctx, r, v, description)
	if err != nil {
		return nil, err
	}
	return w.replay(ctx, x)
}

func (w view) replay(ctx context.Context, x *replaying) (*replay.Report, error) {
	if known, there := w.replays.Get(x.key); there {
		return known, nil
	}
	if w.rows.Writing() {
		return nil, errMoved
	}
	version := x.description
	var err error
	if version == nil {
		if version, err = w.contract(ctx, x.version); err != nil {
			return nil, err
		}
	}
	var before *contract.Contract
	if x.recorded.Number != "" {
		if before, err = w.contract(ctx, x.recorded); err != nil {
			return nil, err
		}
	}
	archive, err := w.rows.RecordingArchive(ctx, x.recording.Consumer, x.recording.API)
	if err != nil {
		return nil, err
	}
	return w.replayFlight.Do(ctx, x.key, func(ctx context.Context) (report *replay.Report, err error) {
		how := replay.Options{Recorded: before, Need: x.need, Refuses: x.undeclared == compare.Refused}
		waited := w.Heavily(ctx, func() {
			asked := replay.New(ctx, version, how)
			_, err = exchange.Read(ctx, bytes.NewReader(archive), func(e *exchange.Exchange) error {
				asked.Take(e)
				return ctx.Err()
			})
			report = asked.Report()
		})
		if err = cmp.Or(waited, err); err != nil {
			return nil, err
		}
		w.replays.Add(x.key, report)
		return report, nil
	})
}

// needIn is what the consumer of a recording says that it relies on of the API, with the text that says it; nil where it says nothing.
func (w view) needIn(ctx context.Context, r records.Recording) (*reliance.Need, string, error) {
	rows, err := w.rows.Reliances(ctx, r.API, r.Consumer)
	if err != nil || len(rows) == 0 {
		return nil, "", err
	}
	need, err := needOf(rows[0])
	return need, rows[0].Needs, err
}

// guard adds to a gate what no longer passes of the recordings that it replays: those of clients that were built for the line of a version.
func (w view) guard(ctx context.Context, v Version, c *contract.Contract, gate *promise.Gate, waived []string) error {
	rows, err := w.rows.Recordings(ctx, v.API, "")
	if err != nil {
		return err
	}
	for _, r := range rows {
		if !r.Guards || !builtFor(r.Version, v) || r.Version == v.Number {
			continue
		}
		report, err := w.replayed(ctx, r, v, c)
		if err != nil {
			return err
		}
		for _, f := range report.Findings {
			if f.Grade == compare.Breaking {
				gate.Guard(r.Consumer, r.Version, fails(r, f), waived)
			}
		}
	}
	return nil
}

// fails is what no longer passes of a recording, as a change that stands in the way.
func fails(r records.Recording, f *replay.Finding) *compare.Change {
	ch := &compare.Change{
		Kind: "exchange." + string(f.Kind), Backward: compare.Breaking, Forward: compare.Safe, Written: f.Operation, At: f.Location.String(),
		Location: f.Location, Title: fmt.Sprintf("what %s was recorded to do no longer passes: %s", r.Consumer, f.Title), Why: f.Message,
		Advice: []string{}, Reach: []string{}, Undecided: f.Undecided,
	}
	ch.Operation = calledKey(f.Operation)
	ch.ID = digest([]byte(r.Consumer+"\x00"+f.Operation+"\x00"+f.Title+"\x00"+ch.At), nil)[:12]
	return ch
}

// LineupClient is a consumer of which a recording is kept, and what of it each version of a lineup answers.
type LineupClient struct {
	Consumer  string
	Version   string // for which it was recorded
	Exchanges int
	Cells     []LineupPassed // in the order of the versions
}

// LineupPassed is how many of them pass; -1 where nobody looked yet, for there are many: who asks again learns of more.
type LineupPassed struct{ Passed, Findings int }

// LineupClients tells of the consumers of an API of which recordings are kept, and that the actor may know of, which versions answer them:
// of the versions of Lineup, in its order.
func (l *Ledger) LineupClients(ctx context.Context, who Actor, name string) ([]LineupClient, error) {
	w := l.view(who)
	api, err := w.api(ctx, name)
	if err != nil {
		return nil, err
	}
	rows, err := w.rows.Recordings(ctx, name, "")
	if err != nil {
		return nil, err
	}
	all, left := []LineupClient{}, maxLineupExchanges
	for _, r := range rows {
		row, err := w.rows.Consumer(ctx, r.Consumer)
		if err != nil {
			return nil, err
		}
		if !w.knowsReliance(row, name) || len(all) == maxLineupClients {
			continue
		}
		c := LineupClient{Consumer: r.Consumer, Version: r.Version, Exchanges: r.Exchanges}
		for _, v := range newest(api.Versions) {
			x, err := w.replaying(ctx, r, v, nil)
			if err != nil {
				return nil, err
			}
			if _, known := w.replays.Get(x.key); !known {
				if left -= r.Exchanges; left < 0 {
					c.Cells = append(c.Cells, LineupPassed{-1, 0})
					continue
				}
			}
			report, err := w.replay(ctx, x)
			if err != nil {
				return nil, err
			}
			c.Cells = append(c.Cells, LineupPassed{report.Passed, len(report.Findings)})
		}
		all = append(all, c)
	}
	return all, nil
}
