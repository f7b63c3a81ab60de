package value

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// maxDepth is how deep a parsed value may nest.
const maxDepth = 200

// Parse reads one JSON text exactly, members in their order.
func Parse(text []byte) (*Value, error) {
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.UseNumber()
	v, err := parse(dec, 0)
	if err != nil {
		return nil, err
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return nil, errors.New("something follows the JSON value")
	}
	return v, nil
}

// UnmarshalJSON reads a value other than null; null leaves a nil *Value, as encoding/json has it.
func (v *Value) UnmarshalJSON(text []byte) error {
	read, err := Parse(text)
	if err != nil {
		return err
	}
	*v = *read
	return nil
}

func parse(dec *json.Decoder, depth int) (*Value, error) {
	if depth > maxDepth {
		return nil, fmt.Errorf("nested deeper than %d levels", maxDepth)
	}
	tok, err := dec.Token()
	if err != nil {
		return nil, err
	}
	switch t := tok.(type) {
	case bool:
		return Bool(t), nil
	case string:
		return Str(t), nil
	case json.Number:
		num, err := ParseNumber(t.String())
		if err != nil {
			return nil, err
		}
		return &Value{Kind: Number, Num: num, Text: t.String()}, nil
	case json.Delim:
		if t == '[' {
			return parseItems(dec, depth)
		}
		return parseMembers(dec, depth)
	}
	return NullValue, nil
}

func parseItems(dec *json.Decoder, depth int) (*Value, error) {
	v := Arr()
	for dec.More() {
		item, err := parse(dec, depth+1)
		if err != nil {
			return nil, err
		}
		v.Items = append(v.Items, item)
	}
	_, err := dec.Token()
	return v, err
}

func parseMembers(dec *json.Decoder, depth int) (*Value, error) {
	v := Obj()
	for dec.More() {
		name, err := dec.Token()
		if err != nil {
			return nil, err
		}
		member, err := parse(dec, depth+1)
		if err != nil {
			return nil, err
		}
		v.Members = append(v.Members, Member{Name: name.(string), Value: member}) // a key is always a string
	}
	_, err := dec.Token()
	return v, err
}
