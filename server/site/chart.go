package site

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"oldledger/core/promise"
	"oldledger/ledger"
)

// A chart is a drawing of what leaves when: a row for each line of an API or for each notice, over the months. Beside it stands a table
// that says the same.
type chart struct {
	title           string
	marks           []mark
	from, to, today time.Time
	at              int // of the next row
}

// The measures of a chart, in the units of its drawing.
const (
	chartWidth = 920
	chartLeft  = 6
	chartRight = 170 // for what stands behind the last mark
	rowHeight  = 46
	headHeight = 30
)

// newChart begins a chart of all that happens between the first and the last of some days.
func newChart(today time.Time, days ...string) *chart {
	c := &chart{from: today.AddDate(0, -1, 0), to: today.AddDate(0, 2, 0), today: today, at: headHeight}
	for _, text := range days {
		if len(text) < len(time.DateOnly) {
			continue
		}
		if d, err := time.Parse(time.DateOnly, text[:len(time.DateOnly)]); err == nil {
			if d.Before(c.from) {
				c.from = d
			}
			if d.After(c.to) {
				c.to = d
			}
		}
	}
	return c
}

// x is where a day stands; one that cannot be read stands at the end.
func (c *chart) x(day string) int {
	d, err := time.Parse(time.DateOnly, day[:min(len(day), len(time.DateOnly))])
	if err != nil {
		d = c.to
	}
	return c.place(d)
}

func (c *chart) place(d time.Time) int {
	share := d.Sub(c.from).Hours() / c.to.Sub(c.from).Hours()
	return chartLeft + int(share*float64(chartWidth-chartLeft-chartRight))
}

// mark is one thing on a chart: a circle where it has a radius, a line where it has a path, else a text.
type mark struct {
	class, path, text, radius string
	x, y                      int
}

func (c *chart) textAt(x, y int, class, text string) {
	c.marks = append(c.marks, mark{class: class, text: text, x: x, y: y})
}

func (c *chart) stroke(class, format string, args ...any) {
	c.marks = append(c.marks, mark{class: class, path: fmt.Sprintf(format, args...)})
}

// notice draws a row: from when on it holds, and when what it speaks of leaves.
func (c *chart) notice(n promise.Notice, name string) {
	from, y := c.x(n.Since), c.at+26
	c.textAt(from, c.at+14, "what", name)
	class, end := "leaving", c.place(c.to)
	if n.Sunset != "" {
		end = c.x(n.Sunset)
	}
	if n.Overdue(c.today) {
		class = "overdue"
	}
	c.stroke(class, "M%d %dH%d", from, y, end)
	if n.Sunset != "" {
		c.stroke("stop", "M%d %dv14", end, y-7)
		c.textAt(end+6, y+5, "when", day(n.Sunset))
	} else {
		c.textAt(end+6, y+5, "when", "no date yet")
	}
	c.at += rowHeight
}

// line draws a row: the versions of one line, until it leaves.
func (c *chart) line(name string, versions []ledger.Version) {
	y, begin := c.at+26, c.x(versions[0].PublishedAt)
	end, class, leaves := c.place(c.today), "live", ""
	for _, v := range versions {
		if v.Sunset != "" {
			leaves = v.Sunset
		}
	}
	if leaves != "" {
		end, class = c.x(leaves), "leaving"
	}
	turn := min(end, c.place(c.today))
	c.stroke("live", "M%d %dH%d", begin, y, turn)
	c.stroke(class, "M%d %dH%d", turn, y, end)
	if leaves != "" {
		c.stroke("stop", "M%d %dv14", end, y-7)
		c.textAt(end+6, y+5, "when", "line "+name+" leaves "+day(leaves))
	} else {
		c.textAt(end+10, y+5, "when", "line "+name)
	}
	last := -100
	for _, v := range versions {
		x := c.x(v.PublishedAt)
		c.marks = append(c.marks, mark{radius: "5", x: x, y: y})
		if x-last > 40 { // those in between are in the table
			c.textAt(x-4, c.at+14, "what", v.Number)
			last = x
		}
	}
	c.at += rowHeight
}

// finish puts the months and today behind the rows.
func (c *chart) finish(title string) *chart {
	c.title = title
	rows := c.marks
	c.marks = nil
	months := int(c.to.Sub(c.from).Hours()/24/30)/10 + 1
	for d := time.Date(c.from.Year(), c.from.Month()+1, 1, 0, 0, 0, 0, time.UTC); d.Before(c.to); d = d.AddDate(0, months, 0) {
		x := c.place(d)
		c.stroke("grid", "M%d 20V%d", x, c.at)
		c.textAt(x+3, 14, "month", d.Format("Jan 2006"))
	}
	x := c.place(c.today)
	c.stroke("today", "M%d 0V%d", x, c.at)
	c.textAt(x+4, c.at+4, "today", "today")
	c.marks = append(c.marks, rows...)
	return c
}

// viewBox is the size of the drawing.
func (c *chart) viewBox() string { return fmt.Sprintf("0 0 %d %d", chartWidth, c.at+6) }

// sunsetChart draws the calendar of all that leaves.
func sunsetChart(notices []promise.Notice, today time.Time) *chart {
	var days []string
	for _, n := range notices {
		days = append(days, n.Since, n.Sunset)
	}
	c := newChart(today, days...)
	for _, n := range notices {
		c.notice(n, n.Subject())
	}
	return c.finish("What leaves, and when, over the months; the table says the same")
}

// lifeChart draws an API's versions and its notices on one time line. versions are those that readers see, the newest first.
func lifeChart(a ledger.API, versions []ledger.Version, today time.Time) *chart {
	var days, lines []string
	of := map[string][]ledger.Version{}
	for _, v := range slices.Backward(versions) {
		days = append(days, v.PublishedAt, v.Sunset)
		if of[v.Line] == nil {
			lines = append(lines, v.Line)
		}
		of[v.Line] = append(of[v.Line], v)
	}
	for _, n := range a.Notices {
		days = append(days, n.Since, n.Sunset)
	}
	c := newChart(today, days...)
	for _, name := range lines {
		c.line(name, of[name])
	}
	for _, n := range a.Notices {
		name := strings.TrimLeft(strings.TrimPrefix(n.Subject(), a.Name), ", ")
		if name == "" {
			name = "all of " + a.Title
		}
		c.notice(n, name)
	}
	return c.finish("The versions of " + a.Title + " and what of it leaves, over the months; the tables say the same")
}
