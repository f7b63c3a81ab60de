package contract

import (
	"fmt"
	"regexp"
	"strings"

	"github.com/Masterminds/semver/v3"
)

var versionText = regexp.MustCompile(`^v?\d+(\.\d+){0,2}$|^v?\d+\.\d+\.\d+(-[0-9A-Za-z.-]+)?(\+[0-9A-Za-z.-]+)?$`)

// ParseVersion reads a version number: SemVer 2.0.0, and the short forms v1, 1 and 1.2 as 1.0.0 and 1.2.0.
func ParseVersion(text string) (*semver.Version, error) {
	if !versionText.MatchString(text) || len(text) > 100 {
		return nil, fmt.Errorf("%q is not a version number; write one such as 1.4.0", clipped(text))
	}
	v, err := semver.NewVersion(strings.TrimPrefix(text, "v"))
	if err != nil {
		return nil, fmt.Errorf("%q is not a version number; write one such as 1.4.0", clipped(text))
	}
	return v, nil
}

func clipped(s string) string {
	if len(s) > 60 {
		return s[:60] + "…"
	}
	return s
}
