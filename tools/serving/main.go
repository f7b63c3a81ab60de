// Command serving compares how fast the reference of a large description is served with how fast nginx serves the same bytes: both on
// loopback, one after the other, with wrk. It needs wrk and nginx; it prints the two rates and their ratio.
package main

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"time"

	"oldledger/tools/large"
)

const page = "/reference/everything-in-the-harbour/1.0.0/operations/putThing7"

func main() {
	if err := run(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(ctx context.Context) error {
	dir, err := os.MkdirTemp("", "serving")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	base, stop, err := startLedger(ctx, dir)
	if err != nil {
		return err
	}
	defer stop()
	packed, err := fetch(base + page)
	if err != nil {
		return err
	}
	static, stopStatic, err := startStatic(ctx, dir, packed)
	if err != nil {
		return err
	}
	defer stopStatic()
	if same, err := fetch(static + page); err != nil || !bytes.Equal(same, packed) {
		return fmt.Errorf("nginx serves %d bytes, not the same %d: %w", len(same), len(packed), err)
	}
	fmt.Printf("%d bytes, compressed\n", len(packed))
	time.Sleep(5 * time.Second) // until all pages are prepared
	var ratios []float64
	for i := range 7 {
		ours, err := rate(ctx, base+page)
		if err != nil {
			return err
		}
		theirs, err := rate(ctx, static+page)
		if err != nil {
			return err
		}
		ratios = append(ratios, ours/theirs)
		fmt.Printf("run %d: the reference %.0f requests a second, nginx %.0f: %.2f\n", i+1, ours, theirs, ours/theirs)
	}
	slices.Sort(ratios)
	fmt.Printf("median %.2f\n", ratios[len(ratios)/2])
	return nil
}

// startLedger starts the service with the large description published.
func startLedger(ctx context.Context, dir string) (string, func(), error) {
	address, err := free()
	if err != nil {
		return "", nil, err
	}
	binary, err := filepath.Abs("bin/oldledger")
	if err != nil {
		return "", nil, err
	}
	description := filepath.Join(dir, "large.json")
	if err := os.WriteFile(description, []byte(large.Description(large.Operations, nil).Indented()), 0o600); err != nil {
		return "", nil, err
	}
	// nginx writes no log of requests either
	serve := exec.CommandContext(ctx, binary, "serve", "--data", filepath.Join(dir, "data"), "--listen", address, "--log", "warn")
	var out bytes.Buffer
	serve.Stdout, serve.Stderr = &out, &out
	if err := serve.Start(); err != nil {
		return "", nil, err
	}
	stop := func() { _ = serve.Process.Signal(os.Interrupt); _ = serve.Wait() }
	base := "http://" + address
	if err := await(base + "/readyz"); err != nil {
		stop()
		return "", nil, err
	}
	password := regexp.MustCompile(`password (\S+)`).FindStringSubmatch(out.String())
	if password == nil {
		stop()
		return "", nil, fmt.Errorf("the service printed no password: %s", out.String())
	}
	env := append(os.Environ(), "OLDLEDGER_URL="+base, "HOME="+dir, "XDG_CONFIG_HOME="+dir)
	for _, args := range [][]string{
		{"sign-in"},
		{"record", description},
		{"publish", "everything-in-the-harbour@1.0.0"},
	} {
		c := exec.CommandContext(ctx, binary, args...)
		c.Env = env
		c.Stdin = bytes.NewBufferString(password[1] + "\n")
		if text, err := c.CombinedOutput(); err != nil {
			stop()
			return "", nil, fmt.Errorf("%v: %w: %s", args, err, text)
		}
	}
	return base, stop, nil
}

// startStatic starts nginx with the same page in a folder, compressed beforehand.
func startStatic(ctx context.Context, dir string, packed []byte) (string, func(), error) {
	address, err := free()
	if err != nil {
		return "", nil, err
	}
	z, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return "", nil, err
	}
	text, err := io.ReadAll(z)
	if err != nil {
		return "", nil, err
	}
	file := filepath.Join(dir, "www", page)
	config := filepath.Join(dir, "nginx.conf")
	settings := fmt.Sprintf(`daemon off; worker_processes auto; pid %[1]s/nginx.pid; error_log stderr crit;
events { worker_connections 256; }
http { access_log off; sendfile on; tcp_nopush on; gzip_static on; keepalive_requests 1000000; default_type text/html; client_body_temp_path %[1]s/body;
proxy_temp_path %[1]s/proxy; fastcgi_temp_path %[1]s/fastcgi; uwsgi_temp_path %[1]s/uwsgi; scgi_temp_path %[1]s/scgi;
server { listen %[2]s; root %[1]s/www; } }
`, dir, address)
	for name, content := range map[string][]byte{file: text, file + ".gz": packed, config: []byte(settings)} {
		if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
			return "", nil, err
		}
		if err := os.WriteFile(name, content, 0o644); err != nil {
			return "", nil, err
		}
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		return "", nil, err
	}
	c := exec.CommandContext(ctx, "nginx", "-c", config, "-p", dir)
	c.Stderr = os.Stderr
	if err := c.Start(); err != nil {
		return "", nil, err
	}
	stop := func() { _ = c.Process.Signal(os.Interrupt); _ = c.Wait() }
	return "http://" + address, stop, await("http://" + address + page)
}

func free() (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	return l.Addr().String(), l.Close()
}

// await waits until an address answers.
func await(address string) error {
	deadline := time.Now().Add(20 * time.Second)
	for {
		r, err := http.Get(address)
		if err == nil {
			r.Body.Close()
			if r.StatusCode == http.StatusOK {
				return nil
			}
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("%s does not answer: %w", address, err)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// fetch reads a page as it is sent, compressed.
func fetch(address string) ([]byte, error) {
	req, err := http.NewRequest(http.MethodGet, address, nil)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Accept-Encoding", "gzip")
	r, err := http.DefaultClient.Do(req)
	if err != nil {
		return nil, err
	}
	defer r.Body.Close()
	if r.StatusCode != http.StatusOK || r.Header.Get("Content-Encoding") != "gzip" {
		return nil, fmt.Errorf("%s answers %s, %q", address, r.Status, r.Header.Get("Content-Encoding"))
	}
	return io.ReadAll(r.Body)
}

var requests = regexp.MustCompile(`Requests/sec:\s+([0-9.]+)`)

// rate asks wrk for requests a second.
func rate(ctx context.Context, address string) (float64, error) {
	out, err := exec.CommandContext(ctx, "wrk", "-t2", "-c32", "-d4s", "-H", "Accept-Encoding: gzip", address).CombinedOutput()
	if err != nil {
		return 0, fmt.Errorf("wrk: %w: %s", err, out)
	}
	m := requests.FindSubmatch(out)
	if m == nil || bytes.Contains(out, []byte("Non-2xx")) {
		return 0, fmt.Errorf("wrk says: %s", out)
	}
	return strconv.ParseFloat(string(m[1]), 64)
}
