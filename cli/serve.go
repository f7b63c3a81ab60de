package cli

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/cobra"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/server/provider"
	"oldledger/store"
)

const defaultListen = "127.0.0.1:8470"

func (a *app) serveCommand() *cobra.Command {
	var config string
	cmd := &cobra.Command{
		Use: "serve", GroupID: "run", Short: "Run a ledger", Args: cobra.NoArgs,
		Long: `Runs a ledger on one SQLite file. At the first start it makes an administrator and prints the password.

Every option can also be set as OLDLEDGER_… (--data as OLDLEDGER_DATA) and in a YAML file (--config).`,
		Example: "  oldledger serve --data ledger-data\n  oldledger serve --config ledger.yaml --listen 127.0.0.1:8471 --notice-days 90",
		RunE: func(cmd *cobra.Command, _ []string) error {
			k, err := a.settings(cmd.Flags(), config)
			if err != nil {
				return err
			}
			return a.run(cmd.Context(), k, nil)
		},
	}
	serviceFlags(cmd, "oldledger-data", "Old Ledger", "info")
	cmd.Flags().StringVar(&config, "config", "", "YAML file with settings")
	return cmd
}

func serviceFlags(cmd *cobra.Command, data, house, log string) {
	cmd.Flags().String("data", data, "folder for the records")
	cmd.Flags().String("listen", defaultListen, "address to listen on")
	cmd.Flags().String("house", house, "name above the published reference")
	cmd.Flags().Int("notice-days", 0, "how many days a notice must come before its sunset, for APIs without a period of their own")
	cmd.Flags().String("provider", "", "address of a provider of identities (OpenID Connect) by which people sign in")
	cmd.Flags().String("provider-client", "", "the ledger's id there")
	cmd.Flags().String("provider-secret", "", "the ledger's secret there; better said as OLDLEDGER_PROVIDER_SECRET, which no list of processes shows")
	cmd.Flags().String("provider-name", "the provider of identities", "what it is called on the sign-in page")
	cmd.Flags().String("provider-claim", "groups", "the claim that names somebody's groups")
	cmd.Flags().StringArray("provider-group", nil, "what a group is here: 'GROUP=lead of Quayside', or 'GROUP=auditor' for a role in all teams")
	cmd.Flags().String("public", "", "address at which readers reach the reference through a proxy: https://docs.saltmere.example/apis")
	cmd.Flags().String("log", log, "what the log tells: info is every request, warn and error what is wrong")
}

func (a *app) demoCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "demo", GroupID: "run", Short: "Run a ledger with a made-up harbour's APIs in it", Args: cobra.NoArgs,
		Long: `Plays the history of a made-up harbour's APIs into a ledger and runs it. Without --data it uses a temporary folder and
forgets everything at the end. When it answers, it prints where, and how to sign in.`,
		Example: "  oldledger demo\n  oldledger demo --listen 127.0.0.1:0 --day 2026-11-20\n  oldledger demo --calls 0..13 > next.log",
		RunE: func(cmd *cobra.Command, _ []string) error {
			k, err := a.settings(cmd.Flags(), "")
			if err != nil {
				return err
			}
			day := a.Now().UTC()
			if text := k.String("day"); text != "" {
				if day, err = time.Parse(time.DateOnly, text); err != nil {
					return usageError{fmt.Errorf("--day %q is no date; write one such as 2026-11-20", text)}
				}
			}
			if text := k.String("calls"); text != "" {
				return a.printLog(day, text)
			}
			if k.String("data") == "" {
				dir, err := os.MkdirTemp("", "oldledger-demo-")
				if err != nil {
					return err
				}
				defer os.RemoveAll(dir)
				if err := k.Set("data", dir); err != nil {
					return err
				}
			}
			return a.run(cmd.Context(), k, func(ctx context.Context, s *store.Store) error { return demo.Play(ctx, s, day) })
		},
	}
	serviceFlags(cmd, "", demo.House, "warn")
	cmd.Flags().String("day", "", "the demo's present day (default: today)")
	cmd.Flags().String("calls", "", "print what the harbour's gateway logs on some days, counted from that day, such as 0..13, and run nothing")
	return cmd
}

// printLog writes the log of the demo's gateway of some days.
func (a *app) printLog(day time.Time, span string) error {
	from, until, ok := strings.Cut(span, "..")
	first, err := strconv.Atoi(from)
	last, wrong := strconv.Atoi(until)
	if !ok || err != nil || wrong != nil || first > last || last-first > 400 {
		return usageError{fmt.Errorf("--calls %q are no days; write 0..13 for two weeks from the demo's day, -90..-1 for those before it", span)}
	}
	_, err = a.Out.Write(demo.Log(day, first, last))
	return err
}

// identitiesOf is by which provider people sign in.
func identitiesOf(k *koanf.Koanf) (provider.Options, error) {
	o := provider.Options{
		Issuer: k.String("provider"), Client: k.String("provider-client"), Secret: k.String("provider-secret"), Name: k.String("provider-name"),
		Claim: k.String("provider-claim"),
	}
	if o.Issuer == "" {
		return o, nil
	}
	at, err := url.Parse(o.Issuer)
	switch {
	case err != nil || at.Host == "" || at.Scheme != "https" && at.Scheme != "http":
		return o, usageError{fmt.Errorf("--provider is the address of a provider, such as https://accounts.saltmere.example, not %q", o.Issuer)}
	case at.Scheme == "http" && at.Hostname() != "localhost" && !net.ParseIP(at.Hostname()).IsLoopback():
		return o, usageError{fmt.Errorf("--provider %s: what a provider says goes by https alone", o.Issuer)}
	case o.Client == "":
		return o, usageError{errors.New("--provider needs the id that the ledger has there: --provider-client")}
	}
	groups := k.Strings("provider-group")
	if one, alone := k.Get("provider-group").(string); alone {
		groups = strings.Split(one, "\n")
	}
	for _, text := range groups {
		g, err := ledger.ParseGroupRole(text)
		if err != nil {
			return o, usageError{fmt.Errorf("--provider-group: %w", err)}
		}
		o.Groups = append(o.Groups, g)
	}
	return o, nil
}

// serviceGC lets a service keep a little more in memory, and gather less often what it can give back; GOGC has the last word.
const serviceGC = 200

// run opens the records, prepares them, and serves until the process is told to stop.
func (a *app) run(ctx context.Context, k *koanf.Koanf, play func(context.Context, *store.Store) error) (err error) {
	data := a.path(k.String("data"))
	var level slog.Level
	if err := level.UnmarshalText([]byte(k.String("log"))); err != nil {
		return usageError{fmt.Errorf("--log is info, warn or error, not %q", k.String("log"))}
	}
	public, err := publicAddress(k.String("public"))
	if err != nil {
		return err
	}
	identities, err := identitiesOf(k)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(data, 0o700); err != nil {
		return fmt.Errorf("make the folder for the records: %w", err)
	}
	if a.Getenv("GOGC") == "" {
		debug.SetGCPercent(serviceGC)
	}
	unlock, err := hold(data, k.String("listen"), a.Now())
	if err != nil {
		return err
	}
	defer unlock()
	s, err := store.Open(ctx, filepath.Join(data, "ledger.sqlite"))
	if err != nil {
		return err
	}
	defer func() {
		if cerr := s.Close(); err == nil {
			err = cerr
		}
	}()
	engine, err := engine()
	if err != nil {
		return err
	}
	l := ledger.New(s, ledger.Options{Now: a.Now, Random: rand.Reader, Engine: engine, NoticeDays: k.Int("notice-days")})
	var welcome string
	if err := l.TakeOver(ctx); err != nil {
		return err
	}
	if play != nil {
		if err := play(ctx, s); err != nil {
			return fmt.Errorf("play the demo: %w", err)
		}
		welcome = demo.SignInHelp
	} else if welcome, err = a.welcome(ctx, l); err != nil {
		return err
	}
	listener, err := (&net.ListenConfig{}).Listen(ctx, "tcp", k.String("listen"))
	if err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	base := "http://" + listener.Addr().String()
	proxied := public != nil
	if !proxied {
		public = &url.URL{Scheme: "http", Host: listener.Addr().String()}
	}
	log := slog.New(slog.NewTextHandler(a.Err, &slog.HandlerOptions{Level: level}))
	srv, err := server.New(server.Options{Ledger: l, House: k.String("house"), Public: public, Proxied: proxied, Log: log, Provider: identities})
	if err != nil {
		return errors.Join(err, listener.Close())
	}
	if err := printf(a, "reference  %s/reference/\nconsole    %s/console/\n%sready %s/\n", base, base, strings.ReplaceAll(welcome, "ADDR", base), base); err != nil {
		return err
	}
	return srv.Serve(ctx, listener)
}

func publicAddress(text string) (*url.URL, error) {
	if text == "" {
		return nil, nil
	}
	u, err := url.Parse(text)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || u.RawQuery != "" || u.Fragment != "" {
		return nil, usageError{fmt.Errorf("--public %q is no address; write one such as https://docs.saltmere.example/apis", text)}
	}
	return u, nil
}

// engine names this build, by its bytes: what another build computed is not taken for its own.
func engine() (string, error) {
	path, err := os.Executable()
	if err != nil {
		return "", fmt.Errorf("find the program: %w", err)
	}
	f, err := os.Open(path)
	if err != nil {
		return "", fmt.Errorf("read the program: %w", err)
	}
	defer f.Close()
	h := xxhash.New() // it tells builds apart, and guards against nobody
	if _, err := io.Copy(h, f); err != nil {
		return "", fmt.Errorf("read the program: %w", err)
	}
	return fmt.Sprintf("%016x", h.Sum64()), nil
}

// welcome makes the first administrator, where there is nobody yet, and says how to sign in.
func (a *app) welcome(ctx context.Context, l *ledger.Ledger) (string, error) {
	password, err := l.FirstAdmin(ctx)
	if err != nil || password == "" {
		return "", err
	}
	return fmt.Sprintf("sign in    admin, with the password %s (shown this once)\n", password), nil
}
