package server_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestOnceAtTheSameMoment sends one request many times at once under one Idempotency-Key: it is carried out once, and every answer is that
// of the one that was, or says that it is under way.
func TestOnceAtTheSameMoment(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "imke")
	before, err := l.Notices(t.Context(), ledger.Itself, "tides")
	require.NoError(t, err)
	key := map[string]string{"Idempotency-Key": "all at once"}
	answers := make([]answer, 12)
	var group sync.WaitGroup
	for i := range answers {
		group.Go(func() {
			answers[i] = send(t, "POST", base+"/api/v1/notices", editor, key, strings.NewReader(`{"ref": "tides", "reason": "The moon moved."}`))
		})
	}
	group.Wait()
	made := map[string]bool{}
	for _, a := range answers {
		switch a.StatusCode {
		case http.StatusCreated:
			made[a.text] = true
		case http.StatusConflict:
			require.Contains(t, a.text, "problems/under-way")
		default:
			require.Fail(t, a.text)
		}
	}
	require.Len(t, made, 1)
	after, err := l.Notices(t.Context(), ledger.Itself, "tides")
	require.NoError(t, err)
	require.Len(t, after, len(before)+1)
}

// TestOnceOfAForm sends one form twice: what divides its parts is another text each time, and the request the same.
func TestOnceOfAForm(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "teodor")
	form := func(text string) answer {
		var b bytes.Buffer
		w := multipart.NewWriter(&b)
		part, err := w.CreateFormField("quays.yaml")
		require.NoError(t, err)
		_, err = part.Write([]byte(text))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		return send(t, "POST", base+"/api/v1/recordings", editor, map[string]string{
			"Idempotency-Key": "form",
			"Content-Type":    w.FormDataContentType(),
		}, &b)
	}
	first := form("openapi: 3.1.0\ninfo: {title: Quays, version: 1.0.0}\npaths: {}\n")
	require.Equal(t, http.StatusCreated, first.StatusCode, first.text)
	again := form("openapi: 3.1.0\ninfo: {title: Quays, version: 1.0.0}\npaths: {}\n")
	require.Equal(t, first.text, again.text)
	require.Equal(t, "true", again.Header.Get("Idempotency-Replayed"))
	require.Equal(t, http.StatusConflict, form("openapi: 3.1.0\ninfo: {title: Quays, version: 1.0.1}\npaths: {}\n").StatusCode)
}

// TestOnceKeepsNoSecret repeats a request whose answer was the key of a preview: the key is not told again, and what was refused may be
// sent again.
func TestOnceKeepsNoSecret(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "teodor")
	show := func(days string) answer {
		return send(t, "POST", base+"/api/v1/versions/berths@2.1.0/previews", editor, map[string]string{"Idempotency-Key": "show"},
			strings.NewReader(`{"days": `+days+`}`))
	}
	require.Equal(t, http.StatusUnprocessableEntity, show("900").StatusCode)
	require.Equal(t, http.StatusCreated, show("9").StatusCode, "the key of what was refused is free")
	again := show("9")
	require.Equal(t, http.StatusConflict, again.StatusCode)
	require.Contains(t, again.text, "its answer held a secret, and is not kept")
}

// TestSecretsAreNotKept looks for what signs people in where it is kept.
func TestSecretsAreNotKept(t *testing.T) {
	t.Parallel()
	base, l, path := startDemoAt(t)
	editor := token(t, l, "teodor")
	signed := send(t, "POST", base+"/api/v1/sign-in", "", nil, strings.NewReader(`{"name": "imke", "password": "saltmere-demo"}`))
	require.Equal(t, http.StatusOK, signed.StatusCode)
	cookie := signed.Cookies()[0].Value
	shown := send(t, "POST", base+"/api/v1/versions/berths@2.1.0/previews", editor, map[string]string{"Idempotency-Key": "k"},
		strings.NewReader(`{}`))
	require.Equal(t, http.StatusCreated, shown.StatusCode)
	preview := strings.Split(strings.Split(shown.text, "/preview/")[1], "/")[0]
	kept := ""
	for _, file := range []string{path, path + "-wal"} {
		kept += read(t, file)
	}
	for name, secret := range map[string]string{"token": editor, "session": cookie, "preview": preview, "password": "saltmere-demo"} {
		require.NotEmpty(t, secret)
		require.NotContains(t, kept, secret, name)
	}
	require.Contains(t, kept, "berths@2.1.0", "the records were looked into")
	require.Equal(t, http.StatusOK, send(t, "GET", base+"/api/v1/me", "", map[string]string{"Cookie": "oldledger=" + cookie}, nil).StatusCode)
}
