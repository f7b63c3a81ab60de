// Package client is the Go client of a ledger's HTTP interface. The command line uses no other way in.
package client

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/wire"
)

// Client talks to one ledger.
type Client struct {
	base  string
	token string
	http  *http.Client

	cookies []string // of a session
}

// New makes a client for the ledger at base, such as http://127.0.0.1:8470. The token may be "" for reading.
func New(base, token string) (*Client, error) {
	u, err := url.Parse(base)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return nil, fmt.Errorf("%q is no address of a ledger; write one such as http://127.0.0.1:8470", base)
	}
	return &Client{base: strings.TrimRight(base, "/") + "/api/v1", token: token, http: &http.Client{Timeout: 2 * time.Minute}}, nil
}

// Refusal is an answer of the ledger that says no (RFC 9457).
type Refusal struct{ wire.Problem }

func (r *Refusal) Error() string {
	if r.Detail == "" {
		return fmt.Sprintf("the ledger answered %d", r.Status)
	}
	return r.Detail
}

// maxAnswer bounds what is read of an answer.
const maxAnswer = 256 << 20

// do sends a request and reads a JSON answer into out, or its bytes where out is a *[]byte or an io.Writer, which takes any size.
func (c *Client) do(ctx context.Context, method, path string, query url.Values, header http.Header, body io.Reader, out any) (http.Header,
	error,
) {
	address := c.base + path
	if len(query) > 0 {
		address += "?" + query.Encode()
	}
	req, err := http.NewRequestWithContext(ctx, method, address, body)
	if err != nil {
		return nil, err
	}
	for name, values := range header {
		req.Header[name] = values
	}
	if c.token != "" {
		req.Header.Set("Authorization", "Bearer "+c.token)
	}
	for _, cookie := range c.cookies {
		req.Header.Add("Cookie", cookie)
	}
	resp, err := c.http.Do(req)
	if err != nil {
		return nil, fmt.Errorf("the ledger cannot be reached: %w", err)
	}
	defer resp.Body.Close()
	if to, streams := out.(io.Writer); streams && resp.StatusCode < 400 {
		if _, err := io.Copy(to, resp.Body); err != nil {
			return nil, fmt.Errorf("take the answer of the ledger: %w", err)
		}
		return resp.Header, nil
	}
	text, err := io.ReadAll(io.LimitReader(resp.Body, maxAnswer+1))
	if err != nil {
		return nil, fmt.Errorf("read the answer of the ledger: %w", err)
	}
	if len(text) > maxAnswer {
		return nil, fmt.Errorf("the answer of the ledger is larger than %d MB", maxAnswer>>20)
	}
	if resp.StatusCode >= 400 {
		refusal := &Refusal{wire.Problem{Status: resp.StatusCode}}
		if json.Unmarshal(text, refusal) != nil {
			refusal.Detail = fmt.Sprintf("the ledger answered %s", resp.Status)
		}
		return resp.Header, refusal
	}
	switch into := out.(type) {
	case nil:
		return resp.Header, nil
	case *[]byte:
		*into = text
		return resp.Header, nil
	}
	if err := json.Unmarshal(text, out); err != nil {
		return resp.Header, fmt.Errorf("the answer of the ledger cannot be read: %w", err)
	}
	return resp.Header, nil
}

func get[T any](ctx context.Context, c *Client, path string, query url.Values) (T, error) {
	var out T
	_, err := c.do(ctx, http.MethodGet, path, query, nil, nil, &out)
	return out, err
}

// listed reads all of a list that comes in pages (RFC 8288).
func listed[T any](ctx context.Context, c *Client, path string) ([]T, error) {
	all := []T{}
	query := url.Values{"limit": {"1000"}}
	for {
		var page wire.Items[T]
		header, err := c.do(ctx, http.MethodGet, path, query, nil, nil, &page)
		if err != nil {
			return nil, err
		}
		all = append(all, page.Items...)
		cursor, err := cursorOf(header)
		if err != nil || cursor == "" {
			return all, err
		}
		query.Set("cursor", cursor)
	}
}

// cursorOf is where the next page of a list begins; "" behind the last.
func cursorOf(header http.Header) (string, error) {
	address, more := strings.CutSuffix(header.Get("Link"), `>; rel="next"`)
	if !more {
		return "", nil
	}
	next, err := url.Parse(strings.TrimPrefix(address, "<"))
	if err != nil {
		return "", fmt.Errorf("the answer of the ledger does not say where it goes on: %w", err)
	}
	return next.Query().Get("cursor"), nil
}

func post[T any](ctx context.Context, c *Client, path string, query url.Values, in any) (T, error) {
	var out T
	body, err := json.Marshal(in)
	if err != nil {
		return out, err
	}
	_, err = c.do(ctx, http.MethodPost, path, query, http.Header{"Content-Type": {"application/json"}}, bytes.NewReader(body), &out)
	return out, err
}

// SignIn exchanges a name and a password for a token with a label.
func (c *Client) SignIn(ctx context.Context, name, password, label string) (string, error) {
	signedIn, err := c.Session(ctx, name, password)
	if err != nil {
		return "", err
	}
	made, err := post[wire.Token](ctx, signedIn, "/tokens", nil, map[string]string{"label": label})
	return made.Token, err
}

// Session signs in with a password. The client that it returns acts for the person until SignOut: for what no token may.
func (c *Client) Session(ctx context.Context, name, password string) (*Client, error) {
	body, err := json.Marshal(map[string]string{"name": name, "password": password})
	if err != nil {
		return nil, err
	}
	signedIn := *c
	signedIn.token = ""
	answer, err := signedIn.do(ctx, http.MethodPost, "/sign-in", nil, http.Header{"Content-Type": {"application/json"}}, bytes.NewReader(body), nil)
	if err != nil {
		return nil, err
	}
	for _, cookie := range (&http.Response{Header: answer}).Cookies() {
		signedIn.cookies = append(signedIn.cookies, cookie.Name+"="+cookie.Value)
	}
	return &signedIn, nil
}

// SignOut ends a session.
func (c *Client) SignOut(ctx context.Context) error {
	_, err := c.do(ctx, http.MethodPost, "/sign-out", nil, nil, nil, nil)
	return err
}

// Me reads who asks.
func (c *Client) Me(ctx context.Context) (wire.Person, error) {
	return get[wire.Person](ctx, c, "/me", nil)
}

// Waiting reads what waits for whoever is signed in.
func (c *Client) Waiting(ctx context.Context) (wire.Waiting, error) {
	return get[wire.Waiting](ctx, c, "/waiting", nil)
}

// APIs lists all APIs that the caller may see.
func (c *Client) APIs(ctx context.Context) ([]wire.API, error) {
	return listed[wire.API](ctx, c, "/apis")
}

// API reads one API.
func (c *Client) API(ctx context.Context, name string) (wire.API, error) {
	return get[wire.API](ctx, c, "/apis/"+url.PathEscape(name), nil)
}

// Version reads the version that a reference names.
func (c *Client) Version(ctx context.Context, ref string) (wire.Version, error) {
	return get[wire.Version](ctx, c, "/versions/"+url.PathEscape(ref), nil)
}

// Description reads the text of a version.
func (c *Client) Description(ctx context.Context, ref string) ([]byte, error) {
	var text []byte
	_, err := c.do(ctx, http.MethodGet, "/versions/"+url.PathEscape(ref)+"/description", nil, nil, nil, &text)
	return text, err
}

// Files reads all files of a version as they were recorded, the entry first.
func (c *Client) Files(ctx context.Context, ref string) ([]wire.File, error) {
	return get[[]wire.File](ctx, c, "/versions/"+url.PathEscape(ref)+"/files", nil)
}

// Submission is a description to record.
type Submission struct {
	API, Version, Team string
	File               string // the entry: its path from the folder of the description
	Text               []byte
	Others             map[string][]byte // the other files, by their paths
	Message            string            // why it is recorded
	Origin             wire.Origin
}

// Size is how much its texts hold, in bytes.
func (s Submission) Size() int {
	n := len(s.Text)
	for _, text := range s.Others {
		n += len(text)
	}
	return n
}

// send hands a submission in: as its text alone, or as a form with a part for each file.
func (s Submission) send(ctx context.Context, c *Client, path string) (wire.Recorded, error) {
	var rec wire.Recorded
	kind, body := "application/yaml", bytes.NewBuffer(s.Text)
	if len(s.Others) > 0 {
		body = &bytes.Buffer{}
		w := multipart.NewWriter(body)
		parts := []string{s.File}
		for name := range s.Others {
			parts = append(parts, name)
		}
		slices.Sort(parts[1:])
		for _, name := range parts {
			text := s.Others[name]
			if name == s.File {
				text = s.Text
			}
			part, err := w.CreateFormField(name)
			if err != nil {
				return rec, err
			}
			if _, err := part.Write(text); err != nil {
				return rec, err
			}
		}
		if err := w.Close(); err != nil {
			return rec, err
		}
		kind = w.FormDataContentType()
	}
	_, err := c.do(ctx, http.MethodPost, path, s.query(), http.Header{"Content-Type": {kind}}, body, &rec)
	return rec, err
}

func (s Submission) query() url.Values {
	q := url.Values{}
	for key, v := range map[string]string{
		"api": s.API, "version": s.Version, "team": s.Team, "file": s.File,
		"message": s.Message, "from": s.Origin.From, "commit": s.Origin.Commit, "build": s.Origin.Build,
	} {
		if v != "" {
			q.Set(key, v)
		}
	}
	return q
}

// Record keeps a description as a draft.
func (c *Client) Record(ctx context.Context, s Submission) (wire.Recorded, error) {
	return s.send(ctx, c, "/recordings")
}

// Revisions lists what was recorded of a version, the newest first.
func (c *Client) Revisions(ctx context.Context, ref string) ([]wire.Revision, error) {
	list, err := get[wire.Items[wire.Revision]](ctx, c, of(ref, "/revisions"), nil)
	return list.Items, err
}

// DryRun says what recording a description would do.
func (c *Client) DryRun(ctx context.Context, s Submission) (wire.Recorded, error) {
	return s.send(ctx, c, "/dry-runs")
}

// Publish publishes a draft; a Refusal with a Gate, Mistakes or Credentials says what stands in the way.
func (c *Client) Publish(ctx context.Context, ref string, waivers []wire.Waive, allowed ...wire.Exception) (wire.Version, error) {
	wish := wire.Publication{Waivers: append([]wire.Waive{}, waivers...), Allowed: append([]wire.Exception{}, allowed...)}
	return post[wire.Version](ctx, c, of(ref, "/publication"), nil, wish)
}

// Deprecate makes a notice.
func (c *Client) Deprecate(ctx context.Context, a wire.Announcement) (promise.Notice, error) {
	return post[promise.Notice](ctx, c, "/notices", nil, a)
}

// Compare compares two recorded versions.
func (c *Client) Compare(ctx context.Context, old, new, reading string) (*compare.Comparison, error) {
	return get[*compare.Comparison](ctx, c, "/comparison", url.Values{"old": {old}, "new": {new}, "reading": {reading}})
}

// History reads what each version of an API changed, the newest first.
func (c *Client) History(ctx context.Context, name string) ([]wire.Release, error) {
	list, err := get[wire.Items[wire.Release]](ctx, c, "/apis/"+url.PathEscape(name)+"/history", nil)
	return list.Items, err
}

// Discard takes a draft away.
func (c *Client) Discard(ctx context.Context, ref string) error {
	_, err := c.do(ctx, http.MethodDelete, of(ref, ""), nil, nil, nil, nil)
	return err
}

// DiscardAPI takes an API away that has drafts at most.
func (c *Client) DiscardAPI(ctx context.Context, api string) error {
	_, err := c.do(ctx, http.MethodDelete, "/apis/"+url.PathEscape(api), nil, nil, nil, nil)
	return err
}

// Lineup reads which version of an API can replace which.
func (c *Client) Lineup(ctx context.Context, api string) (*compare.Lineup, error) {
	return get[*compare.Lineup](ctx, c, "/apis/"+url.PathEscape(api)+"/lineup", nil)
}

// Journal reads the entries that are asked for (actor, api, act, from, until; each may be missing) from behind after.
func (c *Client) Journal(ctx context.Context, asked url.Values, after int64, limit int) ([]wire.Entry, error) {
	q := url.Values{"cursor": {fmt.Sprint(after)}, "limit": {fmt.Sprint(limit)}}
	for name, value := range asked {
		q[name] = value
	}
	list, err := get[wire.Items[wire.Entry]](ctx, c, "/journal", q)
	return list.Items, err
}

// VerifyJournal checks the journal's chain, up to and beyond a head that was kept, "" for none.
func (c *Client) VerifyJournal(ctx context.Context, head string) (wire.Verification, error) {
	return get[wire.Verification](ctx, c, "/journal/verification", url.Values{"head": {head}})
}
