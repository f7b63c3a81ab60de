package ledger

import (
	"fmt"
	"strconv"
	"strings"
	"time"
)

const secondsADay = 24 * 60 * 60

// days are the calls on each day of a month.
type days [31]int64

// add adds calls as a row has them.
func (d *days) add(text string) error {
	i := 0
	for one := range strings.SplitSeq(text, ",") {
		n, err := strconv.ParseInt(one, 10, 64)
		if err != nil || i >= len(d) {
			return fmt.Errorf("%q are no calls of a month", text)
		}
		d[i] += n
		i++
	}
	return nil
}

// String is how a row has them: up to the last day on which there were any.
func (d *days) String() string {
	last := 0
	for i, n := range d {
		if n != 0 {
			last = i
		}
	}
	texts := make([]string, last+1)
	for i := range texts {
		texts[i] = strconv.FormatInt(d[i], 10)
	}
	return strings.Join(texts, ",")
}

// monthOf is the month of a day, since January 1970, and the day within it, from 0.
func monthOf(day int64) (month, within int) {
	t := time.Unix(day*secondsADay, 0).UTC()
	return (t.Year()-1970)*12 + int(t.Month()) - 1, t.Day() - 1
}

// firstOf is the first day of a month, since 1970.
func firstOf(month int) int64 {
	return time.Date(1970, time.Month(month+1), 1, 0, 0, 0, 0, time.UTC).Unix() / secondsADay
}

// dayText is a day as people read it.
func dayText(day int64) string { return time.Unix(day*secondsADay, 0).UTC().Format(time.DateOnly) }

// dayOf is a day as people write it.
func dayOf(text string) (int64, error) {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return 0, refuse(Invalid, "%q is no day; write 2026-11-27", text)
	}
	return t.Unix() / secondsADay, nil
}
