package housestyle

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestGrowsFast(t *testing.T) {
	for _, p := range []string{
		`^(a+)+$`, `^(?:a+)+$`, `^(a*)*$`, `^(a|aa)+$`, `^(\w|\d)*!$`, `^([a-z]+-?)*x$`, `^(?:[a-z]*-?)*x$`, `(x+x+)+y`, `^(.*)*,$`,
		`^(([a-z])+.)+[A-Z]([a-z])+$`, `^(a?b?)*c$|d`, `^([^,]*|[^;]*)*$`, `^(a|b|ab)*c$`, `^(]|[]a])*$`,
	} {
		assert.True(t, growsFast(p), p)
	}
	for _, p := range []string{
		`^[a-z]+(-[a-z]+)*$`, `^\d{1,3}(\.\d{1,3}){3}$`, `(a+)+`, `^(a|b)*$`, `^[A-Z]{2}\d{1,20}$`, `^([a-z]+,)*$`, `^(a?)*$`, `^[^@]+@[^@]+$`,
		`^(?=.*x).*$`, `(`, ``, `^(\d+)(,\d+)*$`, `^a*b*c*$`, `^((a|b)c)*$`,
		"^" + strings.Repeat("(.*)", 70) + "$", // took minutes once
		"^(" + strings.Repeat("[a-b]", 75) + "|" + strings.Repeat("[c-d]", 75) + ")*$",
	} {
		assert.False(t, growsFast(p), p)
	}
}
