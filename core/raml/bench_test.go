package raml_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"oldledger/core/raml"
	"oldledger/core/source"
)

// large makes a description of 100 files and about 2 MB: libraries of types and traits, and resources that use them.
func large() map[string][]byte {
	files := map[string][]byte{}
	var root strings.Builder
	root.WriteString("#%RAML 1.0\ntitle: Harbour Stores\nmediaType: application/json\nuses:\n")
	for l := range 40 {
		fmt.Fprintf(&root, "  lib%d: lib/lib%d.raml\n", l, l)
		files[fmt.Sprintf("lib/lib%d.raml", l)] = []byte(library(l))
	}
	for f := range 59 {
		fmt.Fprintf(&root, "/store%d: !include stores/store%d.raml\n", f, f)
		files[fmt.Sprintf("stores/store%d.raml", f)] = []byte(stores(f))
	}
	files["api.raml"] = []byte(root.String())
	return files
}

const words = "Where the thing lies and what it is for, as the storekeeper wrote it down when it came in by the quay."

func library(l int) string {
	var b strings.Builder
	b.WriteString("#%RAML 1.0 Library\ntypes:\n")
	for t := range 12 {
		fmt.Fprintf(&b, "  Thing%d:\n    description: %s\n    properties:\n", t, words)
		for p := range 9 {
			fmt.Fprintf(&b, "      part%d%s:\n        type: %s\n        description: %s\n", p, []string{"", "?"}[p%2],
				[]string{"string", "integer", "number", "date-only", "string[]"}[p%5], words)
		}
		if t > 0 {
			fmt.Fprintf(&b, "      before?: Thing%d\n", t-1)
		}
	}
	b.WriteString("traits:\n  paged:\n    queryParameters:\n      limit?:\n        type: integer\n        maximum: <<most>>\n        description: " +
		words + "\n")
	fmt.Fprintf(&b, "resourceTypes:\n  kept%d:\n    get:\n      description: All <<resourcePathName>>.\n      responses:\n        200:\n          body: <<item>>[]\n    post?:\n      body: <<item>>\n",
		l)
	return b.String()
}

func stores(f int) string {
	var b strings.Builder
	for i := range 40 {
		lib := (f + i) % 40
		fmt.Fprintf(&b, "/shelves%d:\n  description: %s\n  type: {lib%d.kept%d: {item: lib%d.Thing%d}}\n  get:\n    displayName: List shelves\n    is: [{lib%d.paged: {most: %d}}]\n",
			i, words, lib, lib, lib, i%12, lib, 10+i%3*10)
		fmt.Fprintf(&b, "    queryParameters:\n      since?:\n        type: date-only\n        description: %s\n  post:\n    description: %s\n    responses:\n      201:\n        description: %s\n",
			words, words, words)
	}
	return b.String()
}

// BenchmarkRead measures reading against decoding the same texts into plain maps, in one run.
func BenchmarkRead(b *testing.B) {
	files := large()
	size := 0
	for _, text := range files {
		size += len(text)
	}
	require.Len(b, files, 100)
	var read, decode time.Duration
	for b.Loop() {
		start := time.Now()
		for _, text := range files {
			var v any
			require.NoError(b, yaml.Unmarshal([]byte(strings.ReplaceAll(string(text), "!include ", "")), &v))
		}
		decode += time.Since(start)
		start = time.Now()
		set, err := source.OpenTexts(context.Background(), "", "api.raml", files)
		require.NoError(b, err)
		c, err := raml.Read(set)
		require.NoError(b, err)
		require.Len(b, c.Operations, 59*40*2)
		read += time.Since(start)
	}
	b.ReportMetric(float64(read)/float64(decode), "x-decode")
	b.ReportMetric(float64(size)/(1<<20), "MB")
	b.ReportMetric(0, "ns/op")
}
