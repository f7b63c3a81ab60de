package contract

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/Masterminds/semver/v3"
)

var (
	versionText = regexp.MustCompile(`^v?\d+(\.\d+){0,2}$|^v?\d+\.\d+\.\d+(-[0-9A-Za-z.-]+)?(\+[0-9A-Za-z.-]+)?$`)
	datedText   = regexp.MustCompile(`^(\d{4}-\d{2}-\d{2})(?:-([0-9A-Za-z.-]+))?$`)
)

// ParseVersion reads a version number: SemVer 2.0.0, the short forms v1, 1 and 1.2 as 1.0.0 and 1.2.0, and dates, 2026-03-01 and
// 2026-04-01-preview, which come in their order behind all others.
func ParseVersion(text string) (*semver.Version, error) {
	wrong := fmt.Errorf("%q is not a version number; write one such as 1.4.0, or a date such as 2026-03-01", clipped(text))
	if len(text) > 100 {
		return nil, wrong
	}
	if m := datedText.FindStringSubmatch(text); m != nil {
		day, err := time.Parse(time.DateOnly, m[1])
		if err != nil || day.Year() < firstYear {
			return nil, wrong
		}
		major, err := strconv.ParseUint(day.Format(datedNumber), 10, 64)
		if err != nil {
			return nil, wrong
		}
		v, err := semver.StrictNewVersion(strings.TrimSuffix(fmt.Sprintf("%d.0.0-%s", major, m[2]), "-"))
		if err != nil {
			return nil, wrong
		}
		return v, nil
	}
	if !versionText.MatchString(text) {
		return nil, wrong
	}
	v, err := semver.NewVersion(strings.TrimPrefix(text, "v"))
	if err != nil {
		return nil, wrong
	}
	return v, nil
}

// A date is kept as a major number: 2026-03-01 is 20260301.0.0.
const (
	datedNumber = "20060102"
	firstYear   = 1970
)

// Dated is the day of a version that is a date.
func Dated(v *semver.Version) (day time.Time, dated bool) {
	if v.Minor() != 0 || v.Patch() != 0 {
		return day, false
	}
	day, err := time.Parse(datedNumber, strconv.FormatUint(v.Major(), 10))
	return day, err == nil && day.Year() >= firstYear
}

// NumberText writes a version number as ParseVersion reads it: 1.4.0, or the date.
func NumberText(v *semver.Version) string {
	day, dated := Dated(v)
	if !dated {
		return v.String()
	}
	text := day.Format(time.DateOnly)
	if v.Prerelease() != "" {
		text += "-" + v.Prerelease()
	}
	return text
}

// LineOf is the line of a version: its major number. Every date is a line of its own.
func LineOf(v *semver.Version) string {
	if day, dated := Dated(v); dated {
		return day.Format(time.DateOnly)
	}
	return strconv.FormatUint(v.Major(), 10)
}

func clipped(s string) string {
	if len(s) > 60 {
		return s[:60] + "…"
	}
	return s
}
