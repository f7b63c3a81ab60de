// Command decode reads files as plain values and does nothing with them: what other work is measured against. Files that end in .json
// are decoded with encoding/json, others with the YAML library.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"

	"go.yaml.in/yaml/v3"
)

func main() {
	for _, name := range os.Args[1:] {
		if err := decode(name); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
	}
}

func decode(name string) error {
	text, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	var v any
	if strings.HasSuffix(name, ".json") {
		return json.Unmarshal(text, &v)
	}
	return yaml.Unmarshal(text, &v)
}
