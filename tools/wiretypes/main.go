// Command wiretypes writes the types of the console from the description of the HTTP interface:
//
//	go run ./tools/wiretypes server/api/description.yaml > console/src/data/types.ts
package main

import (
	"fmt"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(args []string) error {
	if len(args) != 1 {
		return fmt.Errorf("usage: wiretypes DESCRIPTION")
	}
	text, err := os.ReadFile(args[0])
	if err != nil {
		return err
	}
	types, err := Types(args[0], text)
	if err != nil {
		return err
	}
	_, err = os.Stdout.WriteString(types)
	return err
}

// Types are the schemas of a description as TypeScript, in its order.
func Types(name string, text []byte) (string, error) {
	f, err := source.Parse(name, text)
	if err != nil {
		return "", err
	}
	c, err := openapi.Read(f)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	b.WriteString("// Made from server/api/description.yaml by `go generate ./server/api`; do not edit.\n")
	for _, s := range c.Schemas {
		b.WriteString("\n")
		if s.Description != "" {
			fmt.Fprintf(&b, "// %s\n", strings.Join(strings.Fields(s.Description), " "))
		}
		fmt.Fprintf(&b, "export type %s = %s\n", s.Name, written(s, true, ""))
	}
	return b.String(), nil
}

// written is a schema as a type. whole asks for what a named schema says itself, and not for its name.
func written(s *contract.Schema, whole bool, margin string) string {
	if s == nil || s.Bool != nil {
		return "unknown"
	}
	if s.Name != "" && !whole {
		return s.Name
	}
	var parts []string
	if s.Ref != nil {
		parts = append(parts, written(s.Ref, false, margin))
	}
	for _, part := range s.AllOf {
		parts = append(parts, written(part, false, margin))
	}
	if own := itself(s, margin); own != "" {
		parts = append(parts, own)
	}
	if len(parts) == 0 {
		return "unknown"
	}
	return strings.Join(parts, " & ")
}

// itself is what a schema says beside its references; "" for nothing.
func itself(s *contract.Schema, margin string) string {
	if s.Const != nil {
		return literal(s.Const)
	}
	if s.HasEnum {
		values := make([]string, len(s.Enum))
		for i, v := range s.Enum {
			values[i] = literal(v)
		}
		return strings.Join(values, " | ")
	}
	var kinds []string
	for _, t := range s.Types {
		kinds = append(kinds, ofKind(s, t, margin))
	}
	if len(s.Types) == 0 && len(s.Properties) > 0 {
		kinds = append(kinds, object(s, margin))
	}
	return strings.Join(slices.Compact(kinds), " | ")
}

func ofKind(s *contract.Schema, kind, margin string) string {
	switch kind {
	case "integer", "number":
		return "number"
	case "array":
		item := written(s.Items, false, margin)
		if strings.ContainsAny(item, "|&") && !strings.HasPrefix(item, "{") {
			item = "(" + item + ")"
		}
		return item + "[]"
	case "object":
		return object(s, margin)
	}
	return kind // string, boolean and null are called the same
}

var plainName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_]*$`)

func object(s *contract.Schema, margin string) string {
	if len(s.Properties) == 0 {
		return "Record<string, " + written(s.AdditionalProperties, false, margin) + ">"
	}
	inner := margin + "  "
	var b strings.Builder
	b.WriteString("{\n")
	for _, p := range s.Properties {
		if d := p.Schema.Description; d != "" {
			fmt.Fprintf(&b, "%s// %s\n", inner, strings.Join(strings.Fields(d), " "))
		}
		name := p.Name
		if !plainName.MatchString(name) {
			name = strconv.Quote(name)
		}
		if !slices.Contains(s.Required, p.Name) {
			name += "?"
		}
		fmt.Fprintf(&b, "%s%s: %s\n", inner, name, written(p.Schema, false, inner))
	}
	return b.String() + margin + "}"
}

func literal(n *source.Node) string {
	if n.Kind == source.String {
		return "'" + strings.NewReplacer(`\`, `\\`, `'`, `\'`, "\n", `\n`).Replace(n.Text) + "'"
	}
	return n.Value().String()
}
