package usage

import "math"

// Trend is when calls end, if they go on becoming fewer as they did.
type Trend struct {
	Early, Late float64 // days after the last one; Late is +Inf where nobody can say that they end
}

// trendWeeks is of how many weeks a trend is made.
const trendWeeks = 8

// spread is the quantile of Student's distribution for 6 degrees of freedom within which four of five trends lie.
const spread = 1.440

// TrendOf draws a line through the calls of the last eight weeks, and says when it meets none: between the steepest and the flattest of the
// lines within which four of five lie. days are the calls of each day, the last one last. ok is false where there are no calls, too few
// days, or where they do not become fewer.
func TrendOf(days []int64) (t Trend, ok bool) {
	if len(days) < 7*trendWeeks {
		return t, false
	}
	days = days[len(days)-7*trendWeeks:]
	var weeks [trendWeeks]float64
	mean := 0.0
	for i, n := range days {
		weeks[i/7] += float64(n)
		mean += float64(n) / trendWeeks
	}
	if mean == 0 {
		return t, false
	}
	const middle = float64(trendWeeks-1) / 2
	across, along := 0.0, 0.0
	for i, n := range weeks {
		x := float64(i) - middle
		across += x * x
		along += x * (n - mean)
	}
	slope := along / across
	rest := 0.0
	for i, n := range weeks {
		off := n - mean - slope*(float64(i)-middle)
		rest += off * off
	}
	error := spread * math.Sqrt(rest/(trendWeeks-2)/across)
	if slope-error >= 0 {
		return t, false
	}
	// The lines pass through the mean of the weeks; the middle of the last week is 3 days before the last day.
	ends := func(slope float64) float64 {
		if slope >= 0 {
			return math.Inf(1)
		}
		return max(0, 7*(middle-mean/slope-(trendWeeks-1))-3)
	}
	return Trend{ends(slope - error), ends(slope + error)}, true
}
