// Package described holds what a service is asked and answers, in its tests, against its own description.
package described

import (
	"bytes"
	"io"
	"mime"
	"net/http"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/server/api"
)

// described answers by a service.
type described struct {
	t          testing.TB
	next       http.Handler
	operations []operation
}

type operation struct {
	*contract.Operation
	path *regexp.Regexp
}

var ownOperations = sync.OnceValue(func() []operation {
	f, err := source.Parse("description.yaml", api.Description)
	if err != nil {
		panic(err)
	}
	c, err := openapi.Read(f)
	if err != nil {
		panic(err)
	}
	var all []operation
	for _, op := range c.Operations {
		pattern := regexp.MustCompile(`\\\{[^/]*?\\\}`).ReplaceAllString(regexp.QuoteMeta(op.Path), `[^/]*`)
		all = append(all, operation{op, regexp.MustCompile("^/api/v1" + pattern + "$")})
	}
	return all
})

// Handler is a service of which every request that is carried out, and every answer, is held against the interface's own description: what
// does not hold fails the test.
func Handler(t testing.TB, next http.Handler) http.Handler {
	return &described{t, next, ownOperations()}
}

func (d *described) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if !strings.HasPrefix(r.URL.Path, "/api/v1/") || r.URL.Path == "/api/v1/description.yaml" || r.ContentLength > 4<<20 {
		d.next.ServeHTTP(w, r)
		return
	}
	var sent bytes.Buffer
	if r.Body != nil {
		r.Body = struct {
			io.Reader
			io.Closer
		}{io.TeeReader(r.Body, &sent), r.Body}
	}
	packed := r.Header.Get("Accept-Encoding")
	r.Header.Del("Accept-Encoding") // so that the answer can be read here
	kept := &keeping{ResponseWriter: w}
	d.next.ServeHTTP(kept, r)
	r.Header.Set("Accept-Encoding", packed)
	d.check(r, sent.Bytes(), kept)
}

// keeping keeps an answer on its way.
type keeping struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (k *keeping) WriteHeader(status int) {
	k.status = status
	k.ResponseWriter.WriteHeader(status)
}

func (k *keeping) Write(p []byte) (int, error) {
	if k.status == 0 {
		k.status = http.StatusOK
	}
	k.body.Write(p)
	return k.ResponseWriter.Write(p)
}

func (k *keeping) Unwrap() http.ResponseWriter { return k.ResponseWriter }

func (d *described) check(r *http.Request, sent []byte, answer *keeping) {
	method := r.Method
	if method == http.MethodHead {
		method = http.MethodGet
	}
	i := slices.IndexFunc(d.operations, func(op operation) bool { return op.Method == method && op.path.MatchString(r.URL.EscapedPath()) })
	call := r.Method + " " + r.URL.RequestURI()
	if i < 0 {
		if answer.status != http.StatusNotFound && answer.status != http.StatusMethodNotAllowed {
			d.t.Errorf("%s is answered with %d, and its description knows nothing of it", call, answer.status)
		}
		return
	}
	op := d.operations[i]
	response := responseOf(op.Operation, answer.status)
	if response == nil {
		d.t.Errorf("%s is answered with %d, which is not described", call, answer.status)
		return
	}
	if answer.body.Len() > 0 && r.Method != http.MethodHead {
		d.holds(call+", the answer", response.Content, answer.Header().Get("Content-Type"), answer.body.Bytes(), shape.Role{Sends: true})
	}
	if answer.status < 300 && op.Body != nil && len(sent) > 0 {
		d.holds(call+", the request", op.Body.Content, r.Header.Get("Content-Type"), sent, shape.Role{Request: true, Sends: true})
	}
}

func responseOf(op *contract.Operation, status int) *contract.Response {
	for _, wanted := range []string{strconv.Itoa(status), "default"} {
		for _, r := range op.Responses {
			if r.Status == wanted {
				return r
			}
		}
	}
	return nil
}

// holds checks a body against the media type that it says it is. A request that does not say is not held.
func (d *described) holds(what string, content []*contract.Media, kind string, body []byte, role shape.Role) {
	name, _, err := mime.ParseMediaType(kind)
	if err != nil || name == "application/x-www-form-urlencoded" { // what a library writes that was not told
		return
	}
	i := slices.IndexFunc(content, func(m *contract.Media) bool { return m.Type == name })
	if i < 0 {
		d.t.Errorf("%s is %s, which is not described", what, name)
		return
	}
	if content[i].Schema == nil || !strings.HasSuffix(name, "json") {
		return
	}
	v, err := value.Parse(body)
	if err != nil {
		d.t.Errorf("%s: %v", what, err)
		return
	}
	space := shape.NewSpace(shape.Declared, nil)
	if holds, known := space.Contains(space.Lower(content[i].Schema, role), v); !known || !holds {
		d.t.Errorf("%s is not what its description says: %.400s", what, body)
	}
}
