package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// description is one input: the text, and what it says.
type description struct {
	name     string // what the person wrote
	text     []byte
	contract *contract.Contract
}

// isReference tells a reference such as berths@1.4.0 from a path. A file of that name wins.
func (a *app) isReference(arg string) bool {
	if arg == "-" || !strings.Contains(arg, "@") || strings.ContainsAny(arg, `/\`) {
		return false
	}
	_, err := os.Stat(a.path(arg))
	return err != nil
}

func (a *app) path(arg string) string {
	if filepath.IsAbs(arg) {
		return arg
	}
	return filepath.Join(a.Dir, arg)
}

// describe reads a file, standard input, or a version in the ledger.
func (a *app) describe(ctx context.Context, arg string) (*description, error) {
	name, text, err := a.text(ctx, arg)
	if err != nil {
		return nil, err
	}
	file, err := source.Parse(name, text)
	if err != nil {
		return nil, err
	}
	c, err := openapi.Read(file)
	if err != nil {
		return nil, err
	}
	return &description{name: arg, text: text, contract: c}, nil
}

// describeBoth reads the two inputs of a command.
func (a *app) describeBoth(ctx context.Context, args []string) (old, new *description, err error) {
	if old, err = a.describe(ctx, args[0]); err != nil {
		return nil, nil, err
	}
	new, err = a.describe(ctx, args[1])
	return old, new, err
}

func (a *app) text(ctx context.Context, arg string) (name string, text []byte, err error) {
	switch {
	case arg == "-":
		text, err = io.ReadAll(io.LimitReader(a.In, source.MaxBytes+1))
		return "standard-input", text, err
	case a.isReference(arg):
		return a.fetch(ctx, arg)
	}
	text, err = readFile(a.path(arg))
	if err != nil {
		var p *os.PathError
		if errors.As(err, &p) {
			err = p.Err
		}
		return "", nil, &inputError{fmt.Errorf("%s: %v", arg, err)}
	}
	return arg, text, nil
}

// readFile reads at most a little more than the largest description, so that the reader can say that it is too large.
func readFile(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, source.MaxBytes+1))
}
