package housestyle

import (
	"fmt"
	"reflect"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// element is one part of a description that rules speak of, where its author wrote it. It is a value of the language of conditions;
// its type is its kind.
type element struct {
	x      *examination
	kind   *kind
	node   *source.Node // what a finding points at
	name   string
	part   any              // of what the contract holds: *contract.Operation for one, nil where the schema is all
	schema *contract.Schema // of those that have one
	of     *element         // in which it stands
	role   string           // as what it stands there, where the name does not say it: "items"
	owner  *contract.Schema // of a field: which declares it
	ways   ways

	conjuncts []*contract.Schema  // of schema, from when they are first asked for
	own       [1]*contract.Schema // where there is only one
}

// ways are the directions in which the values of a schema travel.
type ways uint8

const (
	sent     ways = 1 << iota // from clients: in requests
	received                  // by clients: in responses
)

// called is the element as a message names it: "the field berthId".
func (e *element) called() string {
	switch e.kind.name {
	case "api":
		return "the API"
	case "operation":
		return e.part.(*contract.Operation).Written()
	case "path":
		return e.name
	case "schema":
		switch {
		case e.role == "items" && e.of != nil:
			return "an item of " + e.of.called()
		case e.schema.Name != "":
			return "the type " + e.schema.Name
		case e.of != nil:
			return e.of.called()
		}
		return "a schema"
	case "body":
		return "the body of " + e.of.called()
	case "response":
		return "the answer " + e.name
	case "content":
		if e.of == nil {
			return e.name
		}
		return "the " + e.name + " of " + e.of.called()
	case "parameter", "header":
		return "the " + e.kind.name + " " + e.name
	case "scheme":
		return "the security scheme " + e.name
	case "node":
		if e.name == "" {
			return "the text"
		}
		return e.name
	}
	return "the " + e.kind.name + " " + e.name
}

// ConvertToNative makes no Go value of it: nothing asks for one.
func (e *element) ConvertToNative(t reflect.Type) (any, error) {
	return nil, fmt.Errorf("%s cannot be had as %v", e.kind.name, t)
}

// ConvertToType converts to its own type, and to text.
func (e *element) ConvertToType(t ref.Type) ref.Val {
	switch t {
	case types.StringType:
		return types.String(e.called())
	case types.TypeType:
		return e.kind.celType
	case e.kind.celType:
		return e
	}
	return types.NewErr("%s is no %s", e.kind.name, t.TypeName())
}

// Equal reports whether both are one element.
func (e *element) Equal(other ref.Val) ref.Val {
	o, ok := other.(*element)
	return types.Bool(ok && o.kind == e.kind && o.node == e.node && o.name == e.name)
}

// Type is its kind.
func (e *element) Type() ref.Type { return e.kind.celType }

// Value is the element itself.
func (e *element) Value() any { return e }
