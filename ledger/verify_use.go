package ledger

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"oldledger/ledger/records"
)

// toldLog is a log as the journal tells of it.
type toldLog struct{ digest, bytes string }

// count enters that calls were added.
func (a *account) count(d map[string]string) error {
	a.logs[d["log"]] = toldLog{d["digest"], d["bytes"]}
	piece := map[string]int64{}
	if err := json.Unmarshal([]byte(d["counted"]), &piece); err != nil {
		return fmt.Errorf("the calls of log %s: %w", d["log"], err)
	}
	for api, n := range piece {
		a.calls[api] += n
	}
	return nil
}

// againstConsumers holds the consumers, and by what they are recognised, against the journal.
func (a *account) againstConsumers(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Consumers(ctx)
	if err != nil {
		return "", err
	}
	for _, row := range rows {
		said, there := a.consumers[row.Name]
		if !there {
			return fmt.Sprintf("the consumer %s is not in the journal", row.Name), nil
		}
		for key, is := range consumerDetail(row) {
			if said[key] != is {
				return fmt.Sprintf("the consumer %s is not as the journal says", row.Name), nil
			}
		}
	}
	if len(rows) < len(a.consumers) {
		return "a consumer of the journal is not there", nil
	}
	signs, err := r.Signs(ctx)
	if err != nil {
		return "", err
	}
	of := map[string][]records.Sign{}
	for _, s := range signs {
		of[signKey(s.Consumer, s.Team)] = append(of[signKey(s.Consumer, s.Team)], s)
	}
	for key, list := range a.signs {
		if signList(of[key]) != list {
			return fmt.Sprintf("by what %s is recognised is not what the journal says", strings.ReplaceAll(key, "\n", " at ")), nil
		}
		delete(of, key)
	}
	for key := range of {
		return fmt.Sprintf("by what %s is recognised is not in the journal", strings.ReplaceAll(key, "\n", " at ")), nil
	}
	return "", nil
}

func signKey(consumer, team string) string { return consumer + "\n" + team }

// againstCalls holds the logs and the calls against the journal, each counted from its own rows.
func (a *account) againstCalls(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Logs(ctx, 0)
	if err != nil {
		return "", err
	}
	for _, row := range rows {
		id := strconv.FormatInt(row.ID, 10)
		if said, there := a.logs[id]; !there || said != (toldLog{row.Digest, strconv.FormatInt(row.Length, 10)}) {
			return fmt.Sprintf("the log %s is not as the journal says", id), nil
		}
	}
	if len(rows) != len(a.logs) {
		return "a log of the journal is not there", nil
	}
	uses, err := r.Uses(ctx, "", "")
	if err != nil {
		return "", err
	}
	sums := map[string]int64{}
	for _, u := range uses {
		sums[u.API] += u.Calls
	}
	for api, said := range a.calls {
		sum, err := callsOf(ctx, r, api)
		if err != nil {
			return "", err
		}
		if sums[api] != said || sum != said {
			return fmt.Sprintf("the journal tells of %d calls of %s, and %d are kept", said, api, min(sum, sums[api])), nil
		}
		delete(sums, api)
	}
	for api := range sums {
		return fmt.Sprintf("the calls of %s are not in the journal", api), nil
	}
	return "", nil
}

// callsOf adds up all calls of an API.
func callsOf(ctx context.Context, r records.Rows, api string) (sum int64, err error) {
	rows, err := r.Calls(ctx, api, records.Months{From: -1 << 30, Until: 1 << 30})
	if err != nil {
		return 0, err
	}
	for _, row := range rows {
		var d days
		if err := d.add(row.Days); err != nil {
			return 0, err
		}
		for _, n := range d {
			sum += n
		}
	}
	return sum, nil
}
