package versioning_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/versioning"
)

func version(t *testing.T, text string) versioning.Version {
	t.Helper()
	n, err := contract.ParseVersion(text)
	require.NoError(t, err)
	return versioning.Version{Number: n, Text: text}
}

func TestParse(t *testing.T) {
	t.Parallel()
	for text, says := range map[string]string{
		"path /v{line}":                                           "by the path, with /v2",
		"path /berths/v{line}":                                    "by the path, with /berths/v2",
		"path /{minor}":                                           "by the path, with /2.1",
		"header Harbour-Version {version}":                        "by the header Harbour-Version: 2.1.0-rc.1",
		"header Harbour-Version {text}":                           "by the header Harbour-Version: 2.1.0-rc.1",
		"query version {line} else 1":                             "by the query, with version=2",
		"media-type version {line}":                               "by the media type, with version=2",
		"host v{line}.api.saltmere.example":                       "by the host, with v2.api.saltmere.example",
		"host api.saltmere.example:80{line}":                      "by the host, with api.saltmere.example:802",
		"media-type application/vnd.saltmere.berths.v{line}+json": "by the media type, with application/vnd.saltmere.berths.v2+json",
		"": "",
	} {
		s, err := versioning.Parse(text)
		require.NoError(t, err, text)
		require.Equal(t, text, s.String())
		require.Equal(t, says, s.Says(version(t, "2.1.0-rc.1")))
	}
	s, err := versioning.Parse("  path   /v{line}  ")
	require.NoError(t, err)
	require.Equal(t, "path /v{line}", s.String())
	for text, want := range map[string]string{
		"pth /v{line}":            `did you mean "path"?`,
		"cookie version {line}":   "write path, header, query, media-type or host",
		"path":                    "such as path /v{line}",
		"path v{line}":            `"v{line}" cannot be`,
		"path /v2":                `"/v2" is the same for every version`,
		"path /v{major}":          "nothing stands for {major}; write {line}, {minor}, {version}, {text}",
		"path /v{line}/":          "cannot be",
		"header {line}":           "such as header Harbour-Version",
		"header Bad: {line}":      "cannot be the name of a header",
		"query version {line} 1":  "does not say",
		"media-type json{line}":   "a parameter of it",
		"media-type a/b/v{line}":  "cannot be",
		"host v{line}.api/berths": "cannot be",
		"header X {line}\r\nY: 1": "does not say",
		"header X v{":             "is the same for every version",
		"header X v{line":         "is the same for every version",
		"header X {line}}":        "cannot be",
	} {
		_, err := versioning.Parse(text)
		require.ErrorContains(t, err, want, text)
	}
}

func TestMeans(t *testing.T) {
	t.Parallel()
	for usual, means := range map[string]bool{"2": true, "2.1.0": true, "1": false, "2.0.0": false} {
		s, err := versioning.Parse("header Harbour-Version {line} else " + usual)
		require.NoError(t, err)
		require.Equal(t, means, s.Means(version(t, "2.1.0")), usual)
	}
	require.False(t, versioning.Scheme{}.Means(version(t, "2.1.0")))
}
