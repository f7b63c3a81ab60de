package contract

import (
	"regexp"
	"strings"
)

var notInName = regexp.MustCompile(`[^a-z0-9]+`)

// ShortName is what the API is called in addresses: as its description says, or made from its title; "" where that has no letters.
func (c *Contract) ShortName() string {
	if c.Name != "" {
		return c.Name
	}
	s := strings.Trim(notInName.ReplaceAllString(strings.ToLower(c.Title), "-"), "-")
	return s[:min(len(s), 63)]
}
