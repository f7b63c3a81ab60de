package ledger

import (
	"context"
	"fmt"
	"maps"
	"strconv"
	"strings"

	"oldledger/ledger/records"
)

// toldRecording is a recording as the journal tells of it.
type toldRecording struct{ version, digest, exchanges, guards string }

func reliedKey(consumer, api string) string { return consumer + "\n" + api }

// rely enters what a consumer says or shows that it relies on.
func (a *account) rely(consumer, act string, d map[string]string) {
	key := reliedKey(consumer, d["api"])
	switch act {
	case "relies":
		a.relied[key] = d["digest"]
	case "relies-no-more":
		delete(a.relied, key)
	case "recorded":
		a.recorded[key] = toldRecording{d["version"], d["digest"], d["exchanges"], d["guards"]}
	case "recording-dropped":
		delete(a.recorded, key)
	case "guarded":
		r := a.recorded[key]
		r.guards = d["guards"]
		a.recorded[key] = r
	}
}

// relyNoMore forgets what consumers rely on.
func (a *account) relyNoMore(is func(consumer, api string) bool) {
	of := func(key string) bool {
		consumer, api, _ := strings.Cut(key, "\n")
		return is(consumer, api)
	}
	maps.DeleteFunc(a.relied, func(key, _ string) bool { return of(key) })
	maps.DeleteFunc(a.recorded, func(key string, _ toldRecording) bool { return of(key) })
}

// againstReliances holds what consumers rely on against the journal.
func (a *account) againstReliances(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Reliances(ctx, "", "")
	if err != nil {
		return "", err
	}
	for _, row := range rows {
		if a.relied[reliedKey(row.Consumer, row.API)] != relianceDigest(row) {
			return fmt.Sprintf("what %s relies on of %s is not what the journal says", row.Consumer, row.API), nil
		}
	}
	if len(rows) != len(a.relied) {
		return "what a consumer of the journal relies on is not there", nil
	}
	recordings, err := r.Recordings(ctx, "", "")
	if err != nil {
		return "", err
	}
	for _, row := range recordings {
		archive, err := r.RecordingArchive(ctx, row.Consumer, row.API)
		if err != nil {
			return "", err
		}
		is := toldRecording{row.Version, digest(archive, nil), strconv.Itoa(row.Exchanges), strconv.FormatBool(row.Guards)}
		if is.digest != row.Digest || a.recorded[reliedKey(row.Consumer, row.API)] != is {
			return fmt.Sprintf("the recording of %s with %s is not as the journal says", row.Consumer, row.API), nil
		}
	}
	if len(recordings) != len(a.recorded) {
		return "a recording of the journal is not there", nil
	}
	return "", nil
}
