package cli_test

import (
	"bufio"
	"context"
	"crypto/sha256"
	"errors"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/client"
	"oldledger/wire"
)

// serveProcess runs this test binary as the service on a data folder, and returns its address once it is ready.
func serveProcess(t *testing.T, data string) (*exec.Cmd, string) {
	t.Helper()
	return serveWith(t, exec.Command(os.Args[0], "-test.run=^TestServeAsProcess$"), data)
}

// serveWith runs the service by a command of one's own.
func serveWith(t *testing.T, cmd *exec.Cmd, data string) (*exec.Cmd, string) {
	t.Helper()
	cmd.Env = append(os.Environ(), "OLDLEDGER_TEST_SERVE="+data)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if address, ok := strings.CutPrefix(lines.Text(), "ready "); ok {
			go func() {
				for lines.Scan() {
				}
			}()
			return cmd, strings.TrimSuffix(address, "/")
		}
	}
	t.Fatal("the service did not get ready")
	return nil, ""
}

// kills is how often TestKilled kills the service.
var kills = flag.Int("kills", 100, "how often the service is killed")

// belief is what somebody who writes knows of one thing: what was answered for sure, and what may have happened when the answer did not
// come.
type belief struct{ sure, maybe string }

func (b belief) allows(found string) bool { return found == b.sure || found == b.maybe }

// answered takes down how an act was answered.
func (b *belief) answered(err error) error {
	if err == nil {
		b.sure = b.maybe
	}
	var refused *client.Refusal
	if errors.As(err, &refused) {
		b.maybe = b.sure
	}
	return err
}

// writer does one thing after the other to an API of its own, and takes down what was answered.
type writer struct {
	api      string
	random   *rand.Rand
	versions map[string]belief // "draft 3f2a…" or "published 3f2a…", by number
	notices  [2]int            // at least and at most
	latest   int
}

// act does something at random. An error is that the service is gone, or a refusal that the state explains.
func (w *writer) act(ctx context.Context, c *client.Client) error {
	number := fmt.Sprintf("%d.0.0", w.latest)
	b, there := w.versions[number]
	state, _, _ := strings.Cut(b.sure, " ")
	switch n := w.random.IntN(10); {
	case !there || n < 2 && state != "draft":
		w.latest++
		return w.record(ctx, c, fmt.Sprintf("%d.0.0", w.latest))
	case n < 5 && state == "draft":
		return w.record(ctx, c, number)
	case n < 7 && state != "published":
		return w.move(number, "published", func(ref string) error { _, err := c.Publish(ctx, ref, nil); return err })
	case n < 8 && state == "published":
		return w.move(number, "unpublished", func(ref string) error { _, err := c.Unpublish(ctx, ref, "for a while"); return err })
	case n < 9 && state == "published":
		w.notices[1]++
		_, err := c.Deprecate(ctx, wire.Announcement{Ref: w.api + "@" + number, Operation: "read", Reason: "It leaves."})
		if err == nil {
			w.notices[0]++
		}
		return err
	}
	_, err := c.PutOverlay(ctx, w.api+"@"+number, fmt.Appendf(nil,
		"overlay: 1.0.0\ninfo: {title: W, version: 1.0.0}\nactions: [{target: $.info, update: {description: %d}}]\n", w.random.IntN(1000)))
	return err
}

func (w *writer) record(ctx context.Context, c *client.Client, number string) error {
	text := fmt.Appendf(nil, "openapi: 3.1.0\ninfo: {title: %s, version: %s, description: '%d'}\npaths: {/a: {get: {operationId: read, responses: {'200': {description: A.}}}}}\n",
		w.api, number, w.random.IntN(1_000_000))
	b := w.versions[number]
	b.maybe = fmt.Sprintf("draft %x", sha256.Sum256(text))
	w.versions[number] = b
	_, err := c.Record(ctx, client.Submission{API: w.api, Text: text, Message: "round and round"})
	return w.answered(number, err)
}

func (w *writer) move(number, state string, do func(ref string) error) error {
	b := w.versions[number]
	_, digest, _ := strings.Cut(b.sure, " ")
	b.maybe = state + " " + digest
	w.versions[number] = b
	return w.answered(number, do(w.api+"@"+number))
}

func (w *writer) answered(number string, err error) error {
	b := w.versions[number]
	err = b.answered(err)
	w.versions[number] = b
	return err
}

// look holds what is there against what was answered, and goes on from what is there.
func (w *writer) look(t *testing.T, ctx context.Context, c *client.Client) {
	t.Helper()
	found := map[string]string{}
	api, err := c.API(ctx, w.api)
	var refused *client.Refusal
	if !errors.As(err, &refused) {
		require.NoError(t, err)
	}
	for _, v := range api.Versions {
		state := v.State
		if state == wire.Deprecated {
			state = wire.Published
		}
		found[v.Number] = state + " " + v.Digest
		_, err := c.Description(ctx, v.Ref())
		require.NoError(t, err, v.Ref())
	}
	for number, b := range w.versions {
		require.True(t, b.allows(found[number]), "%s@%s is %q; %q was answered, and %q asked for", w.api, number, found[number], b.sure, b.maybe)
		if found[number] == "" {
			delete(w.versions, number)
			w.latest--
		}
	}
	require.Len(t, found, len(w.versions), "nothing is there that nobody asked for")
	for number, is := range found {
		w.versions[number] = belief{is, is}
	}
	require.GreaterOrEqual(t, len(api.Notices), w.notices[0])
	require.LessOrEqual(t, len(api.Notices), w.notices[1])
	w.notices = [2]int{len(api.Notices), len(api.Notices)}
}

// opener says who reads an API, where it stands and by which style it is judged, one after the other, and takes down what was answered.
type opener struct {
	random                           *rand.Rand
	audience, stand, switcher, style belief
	styled                           int    // versions of its style
	links                            [2]int // at least and at most
}

const opened = "opened"

// begin records what it opens, and makes the shelf.
func (o *opener) begin(ctx context.Context, c *client.Client) error {
	_, err := c.Record(ctx, client.Submission{API: opened, Text: []byte("openapi: 3.1.0\ninfo: {title: O, version: 1.0.0}\npaths: {}\n")})
	return errors.Join(err, c.SetShelf(ctx, "shelf", wire.ShelfWish{}))
}

func (o *opener) act(ctx context.Context, c *client.Client) error {
	picked := func(words ...string) []string {
		return slices.DeleteFunc(words, func(string) bool { return o.random.IntN(2) == 0 })
	}
	switch n := o.random.IntN(10); {
	case n < 3:
		groups := picked("link", "signed-in")
		o.audience.maybe = strings.Join(groups, " ")
		return o.audience.answered(c.SetAudience(ctx, opened, wire.AudienceWish{Published: &groups}))
	case n < 4:
		o.stand.maybe = ""
		return o.stand.answered(c.Unplace(ctx, "shelf", opened))
	case n < 6:
		versions := picked("1", "1.0.0")
		o.stand.maybe = "on " + strings.Join(versions, " ")
		return o.stand.answered(c.Place(ctx, "shelf", opened, versions))
	case n < 7:
		versions := picked("1", "1.0.0")
		o.switcher.maybe = strings.Join(versions, " ")
		_, err := c.Set(ctx, opened, wire.Settings{Switcher: &versions})
		return o.switcher.answered(err)
	case n < 9:
		o.style.maybe = fmt.Sprintf("house-style: S%d\nreleases: {notice: %d}\n", o.styled, o.random.IntN(100))
		err := o.style.answered(c.PutStyle(ctx, "", opened, wire.StyleWish{Text: o.style.maybe, Reason: "as settled", Version: o.styled}))
		if err == nil {
			o.styled++
		}
		return err
	}
	o.links[1]++
	_, err := c.MakeLink(ctx, opened, wire.LinkWish{Label: "somebody", Password: "long enough"})
	if err == nil {
		o.links[0]++
	}
	return err
}

// look holds what is there against what was answered, and goes on from what is there.
func (o *opener) look(t *testing.T, ctx context.Context, c *client.Client) {
	t.Helper()
	api, err := c.API(ctx, opened)
	require.NoError(t, err)
	shelves, err := c.Shelves(ctx)
	require.NoError(t, err)
	links, err := c.Links(ctx, opened)
	require.NoError(t, err)
	style, err := c.Style(ctx, "", opened)
	require.NoError(t, err)
	o.styled = style.Version
	stand := ""
	for _, s := range shelves[0].Stands {
		stand = "on " + strings.Join(s.Versions, " ")
	}
	for found, b := range map[string]*belief{
		"audience " + strings.Join(api.Audience.Published, " "): &o.audience, "stand " + stand: &o.stand,
		"switcher " + strings.Join(api.Switcher, " "): &o.switcher, "style " + style.Text: &o.style,
	} {
		what, is, _ := strings.Cut(found, " ")
		require.True(t, b.allows(is), "%s is %q; %q was answered, and %q asked for", what, is, b.sure, b.maybe)
		*b = belief{is, is}
	}
	require.GreaterOrEqual(t, len(links), o.links[0])
	require.LessOrEqual(t, len(links), o.links[1])
	o.links = [2]int{len(links), len(links)}
}

// TestKilled kills the service at random moments while several write to it, all kinds of things at once, and say who reads: it starts again
// each time, the journal holds and the records are as it says, nothing that was answered is lost, and nothing is half there.
func TestKilled(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	ctx := context.Background()
	data := t.TempDir()
	token := firstToken(t, data)
	seed := uint64(20261127)
	random := rand.New(rand.NewPCG(seed, 1))
	writers := make([]*writer, 4)
	for i := range writers {
		writers[i] = &writer{api: fmt.Sprintf("api-%d", i), random: rand.New(rand.NewPCG(seed, uint64(i)+2)), versions: map[string]belief{}}
	}
	who := &opener{random: rand.New(rand.NewPCG(seed, 99)), audience: belief{"everyone", "everyone"}}
	acts, head := atomic.Int64{}, ""
	for round := range *kills + 1 {
		process, base := serveProcess(t, data)
		c, err := client.New(base, token)
		require.NoError(t, err)
		v, err := c.VerifyJournal(ctx, head)
		require.NoError(t, err)
		require.True(t, v.Intact, "round %d: %s", round, v.Why)
		head = v.Head
		for _, w := range writers {
			w.look(t, ctx, c)
		}
		if round == 0 {
			require.NoError(t, who.begin(ctx, c))
		}
		who.look(t, ctx, c)
		if round == *kills {
			require.NoError(t, process.Process.Signal(os.Interrupt))
			require.NoError(t, process.Wait())
			break
		}
		kill := time.AfterFunc(time.Duration(random.IntN(120_000))*time.Microsecond, func() { process.Process.Kill() })
		var group sync.WaitGroup
		acting := []func(context.Context, *client.Client) error{who.act}
		for _, w := range writers {
			acting = append(acting, w.act)
		}
		for _, act := range acting {
			group.Go(func() {
				for {
					err := act(ctx, c)
					var refused *client.Refusal
					if err != nil && !errors.As(err, &refused) {
						return // the service is gone
					}
					acts.Add(1)
				}
			})
		}
		group.Wait()
		process.Wait() // it was killed
		kill.Stop()
	}
	require.Greater(t, acts.Load(), int64(*kills), "there was something to kill")
	t.Logf("%d acts were answered, %d times the service was killed", acts.Load(), *kills)
}
