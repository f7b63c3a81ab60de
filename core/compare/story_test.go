package compare_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/url"
	"slices"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/tools/cases"
)

// storyVersion is a version as its makers wrote it: what its server reads and answers, and what its clients send.
type storyVersion struct {
	number string
	fields []string // that it knows, of requests and answers alike
	filter bool     // whether it knows ?vessel=
	sends  []string // what its clients send
}

var storyVersions = []storyVersion{
	{"1.0.0", []string{"vessel", "length"}, false, []string{`{"vessel":"Ida"}`, `{"vessel":"Ida","length":11.4}`}},
	{"1.1.0", []string{"vessel", "length", "note"}, true, []string{`{"vessel":"Ida"}`, `{"vessel":"Ida","length":11.4,"note":"late"}`}},
	{
		"1.2.0",
		[]string{"vessel", "length", "lengthOverall", "note"},
		true,
		[]string{
			`{"vessel":"Ida"}`, `{"vessel":"Ida","length":11.4,"lengthOverall":11.4,"note":"late"}`,
			`{"vessel":"Ida","lengthOverall":11.4}`,
		},
	},
	{
		"2.0.0",
		[]string{"vessel", "lengthOverall", "note"},
		true,
		[]string{`{"vessel":"Ida"}`, `{"vessel":"Ida","lengthOverall":11.4,"note":"late"}`},
	},
}

// request is what a server decodes: each version reads the fields that it knows.
type request struct {
	Vessel        *string  `json:"vessel,omitempty"`
	Length        *float64 `json:"length,omitempty"`
	LengthOverall *float64 `json:"lengthOverall,omitempty"`
	Note          *string  `json:"note,omitempty"`
}

// serve starts the server of a version. One that refuses answers 400 to a field that it does not know.
func (v storyVersion) serve(t *testing.T, undeclared compare.Undeclared) string {
	var kept []map[string]any
	mux := http.NewServeMux()
	mux.HandleFunc("POST /bookings", func(w http.ResponseWriter, r *http.Request) {
		var sent map[string]json.RawMessage
		if err := json.NewDecoder(r.Body).Decode(&sent); err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		for name := range sent {
			if slices.Contains(v.fields, name) {
				continue
			}
			if undeclared == compare.Refused {
				http.Error(w, "unknown field "+name, http.StatusBadRequest)
				return
			}
			delete(sent, name)
		}
		text, err := json.Marshal(sent)
		if err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		var known request
		strict := json.NewDecoder(bytes.NewReader(text))
		strict.DisallowUnknownFields()
		if err := strict.Decode(&known); err != nil || known.Vessel == nil {
			http.Error(w, fmt.Sprint("vessel must be there: ", err), http.StatusBadRequest)
			return
		}
		booking := map[string]any{"id": fmt.Sprint(len(kept) + 1)}
		for name, value := range sent {
			booking[name] = value
		}
		kept = append(kept, booking)
		w.WriteHeader(http.StatusCreated)
		require.NoError(t, json.NewEncoder(w).Encode(booking))
	})
	mux.HandleFunc("GET /bookings", func(w http.ResponseWriter, r *http.Request) {
		found := []map[string]any{}
		for _, vessel := range []string{"Ida", "Nereus"} {
			if wanted := r.URL.Query().Get("vessel"); wanted == "" || !v.filter || wanted == vessel {
				all := map[string]any{"id": vessel, "vessel": vessel, "length": 11.4, "lengthOverall": 11.4, "note": "late"}
				maps.DeleteFunc(all, func(name string, _ any) bool { return name != "id" && !slices.Contains(v.fields, name) })
				found = append(found, all)
			}
		}
		require.NoError(t, json.NewEncoder(w).Encode(found))
	})
	s := httptest.NewServer(mux)
	t.Cleanup(s.Close)
	return s.URL
}

// What a client meets.
const (
	goesWell = iota
	loses    // nothing is refused, and something of what was meant is gone
	fails
)

// book sends every request that clients of the version send, and reads the answers as they do: what they do not know they ignore.
func (v storyVersion) book(t *testing.T, server string) (worst int) {
	for _, body := range v.sends {
		r, err := http.Post(server+"/bookings", "application/json", bytes.NewReader([]byte(body)))
		require.NoError(t, err)
		var answer, sent map[string]any
		require.NoError(t, json.Unmarshal([]byte(body), &sent))
		decoded := json.NewDecoder(r.Body).Decode(&answer)
		require.NoError(t, r.Body.Close())
		if r.StatusCode != http.StatusCreated || decoded != nil || answer["id"] == nil {
			return fails
		}
		for name, value := range sent {
			if answer[name] != value {
				worst = loses
			}
		}
	}
	return worst
}

// list asks with all that clients of the version can ask for, and looks for all fields that they know.
func (v storyVersion) list(t *testing.T, server string) int {
	query := url.Values{}
	if v.filter {
		query.Set("vessel", "Ida")
	}
	r, err := http.Get(server + "/bookings?" + query.Encode())
	require.NoError(t, err)
	var found []map[string]any
	decoded := json.NewDecoder(r.Body).Decode(&found)
	require.NoError(t, r.Body.Close())
	if r.StatusCode != http.StatusOK || decoded != nil {
		return fails
	}
	for _, booking := range found {
		if v.filter && booking["vessel"] != "Ida" || slices.ContainsFunc(v.fields, func(name string) bool { return booking[name] == nil }) {
			return loses
		}
	}
	return goesWell
}

// TestStory sends every client to every server, once as servers that ignore what they do not know and once as servers that refuse it. What
// happens to each call is what the comparison says of its operation, and the lineup of the two versions.
func TestStory(t *testing.T) {
	t.Parallel()
	a, err := txtar.ParseFile("testdata/story/versions.txtar")
	require.NoError(t, err)
	contracts := make([]*contract.Contract, len(storyVersions))
	members := make([]compare.Member, len(storyVersions))
	for i, v := range storyVersions {
		set, err := cases.Set(a, v.number+".yaml")
		require.NoError(t, err)
		contracts[i], err = format.Read(set)
		require.NoError(t, err)
		members[i] = compare.MemberOf(v.number, contracts[i])
	}
	met := map[compare.Grade]int{compare.Breaking: fails, compare.Hazard: loses, compare.Safe: goesWell, compare.Editorial: goesWell}
	seen := map[int]int{}
	for _, undeclared := range []compare.Undeclared{compare.Ignored, compare.Refused} {
		o := compare.Options{Undeclared: undeclared}
		lineup, err := compare.LineUp(members, o, func(i, j int) (*compare.Comparison, error) {
			return compare.Contracts(contracts[i], contracts[j], o), nil
		})
		require.NoError(t, err)
		for i, client := range storyVersions {
			for j, server := range storyVersions {
				at := server.serve(t, undeclared)
				got := map[string]int{"POST /bookings": client.book(t, at), "GET /bookings": client.list(t, at)}
				worst := 0
				for operation, happened := range got {
					said := compare.Editorial
					for _, ch := range compare.Contracts(contracts[i], contracts[j], o).Changes { // the client is of the old one
						if slices.Contains(ch.Reach, operation) {
							said = max(said, ch.Backward)
						}
					}
					require.Equal(t, met[said], happened, "%s: a client of %s calls %s of %s: %s", undeclared, client.number, operation, server.number,
						said)
					worst = max(worst, happened)
					seen[happened]++
				}
				if i != j {
					require.Equal(t, met[lineup.Cells[i][j].Grade], worst, "%s: %s at %s", undeclared, client.number, server.number)
				}
			}
		}
	}
	require.Len(t, seen, 3, "all of it happens")
}
