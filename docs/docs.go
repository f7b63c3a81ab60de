// Package docs holds the manual, so that the service can show it beside what it explains.
package docs

import "embed"

// Manual is the pages of the manual in CommonMark, and the files that they lead to.
//
//go:embed manual
var Manual embed.FS
