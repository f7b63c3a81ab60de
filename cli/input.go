package cli

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/source"
)

// description is one input: its files, and what they say.
type description struct {
	name     string // what the person wrote
	set      *source.Set
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

// describe reads a file and those that it refers to, standard input, or a version in the ledger.
func (a *app) describe(ctx context.Context, arg string) (*description, error) {
	defer a.at("reading %s", arg)()
	set, err := a.files(ctx, arg)
	if err != nil {
		return nil, err
	}
	c, err := format.Read(set)
	if err != nil {
		return nil, err
	}
	return &description{name: arg, set: set, contract: c}, nil
}

// describeBoth reads the two inputs of a command.
func (a *app) describeBoth(ctx context.Context, args []string) (old, new *description, err error) {
	if args[0] == "-" && args[1] == "-" {
		return nil, nil, usageError{errors.New("standard input can be one of the two descriptions, not both")}
	}
	// Both at once: reading is most of the work.
	var newErr error
	done := make(chan struct{})
	go func() {
		new, newErr = a.describe(ctx, args[1])
		close(done)
	}()
	old, err = a.describe(ctx, args[0])
	<-done
	return old, new, cmp.Or(err, newErr)
}

// files opens what an argument names.
func (a *app) files(ctx context.Context, arg string) (*source.Set, error) {
	api, err := a.inProject(arg)
	if err != nil {
		return nil, err
	}
	return a.filesBelow(ctx, arg, cmp.Or(a.below, api.Root))
}

// filesBelow opens what an argument names, with all files in a folder where it names one.
func (a *app) filesBelow(ctx context.Context, arg, below string) (*source.Set, error) {
	switch {
	case arg == "-":
		text, err := io.ReadAll(io.LimitReader(a.In, source.MaxBytes+1))
		if err != nil {
			return nil, err
		}
		return single("standard-input", text)
	case a.isReference(arg):
		return a.fetch(ctx, arg)
	}
	return a.folder(ctx, arg, below)
}

func single(name string, text []byte) (*source.Set, error) {
	f, err := source.Parse(name, text)
	if err != nil {
		return nil, err
	}
	return source.SetOf(f), nil
}

// folder opens a file as the entry of a set: what it refers to may stand in its folder and below, or in the folder
// below where one is named.
func (a *app) folder(ctx context.Context, arg, below string) (*source.Set, error) {
	given := filepath.ToSlash(arg)
	folder, entry := path.Split(given)
	if below != "" {
		rel, err := relative(a.path(below), a.path(arg))
		if err != nil || !filepath.IsLocal(rel) {
			return nil, usageError{fmt.Errorf("%s is not below --root %s", arg, below)}
		}
		folder, entry = strings.TrimSuffix(filepath.ToSlash(below), "/")+"/", filepath.ToSlash(rel)
		if before, is := strings.CutSuffix(given, entry); is {
			folder = before // as it was given
		}
	}
	dir := a.path(cmp.Or(below, folder, "."))
	if info, err := os.Stat(a.path(arg)); err == nil && info.IsDir() {
		return a.whole(ctx, arg)
	}
	text, err := readBelow(dir, entry)
	if err != nil {
		return nil, notRead(arg, err)
	}
	if source.IsArchive(text) {
		return unpacked(ctx, arg, text)
	}
	return source.Open(ctx, folder, entry, func(p string) ([]byte, error) {
		if p == entry {
			return text, nil
		}
		text, err := readBelow(dir, p)
		if errors.Is(err, os.ErrNotExist) {
			return nil, source.ErrNoFile
		}
		return text, err
	})
}

// relative is a path from a folder, whichever of both are absolute.
func relative(from, to string) (string, error) {
	from, err := filepath.Abs(from)
	if err != nil {
		return "", err
	}
	if to, err = filepath.Abs(to); err != nil {
		return "", err
	}
	return filepath.Rel(from, to)
}

// whole opens a folder as a set whose entry is the one file in it that is a description of its own.
func (a *app) whole(ctx context.Context, arg string) (*source.Set, error) {
	dir := a.path(arg)
	heads := map[string][]byte{}
	err := fs.WalkDir(os.DirFS(dir), ".", func(p string, entry fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case entry.IsDir() && p != "." && strings.HasPrefix(entry.Name(), "."):
			return fs.SkipDir
		case !entry.Type().IsRegular():
			return nil
		case len(heads) == source.MaxFiles:
			return fmt.Errorf("it holds more than %d files", source.MaxFiles)
		}
		head, err := readHead(filepath.Join(dir, filepath.FromSlash(p)))
		heads[p] = head
		return err
	})
	if err != nil {
		return nil, notRead(arg, err)
	}
	entry, err := format.Entry(heads)
	if err != nil {
		return nil, &inputError{fmt.Errorf("%s: %w", arg, err)}
	}
	return source.Open(ctx, strings.TrimSuffix(filepath.ToSlash(arg), "/")+"/", entry, func(p string) ([]byte, error) {
		text, err := readBelow(dir, p)
		if errors.Is(err, os.ErrNotExist) {
			return nil, source.ErrNoFile
		}
		return text, err
	})
}

// headBytes is as much of a file as tells whether it is a description.
const headBytes = 4 << 10

func readHead(name string) ([]byte, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, headBytes))
}

// unpacked opens an archive in the same way.
func unpacked(ctx context.Context, arg string, content []byte) (*source.Set, error) {
	texts, err := source.Unpack(content)
	if err == nil {
		var entry string
		if entry, err = format.Entry(texts); err == nil {
			return source.OpenTexts(ctx, filepath.ToSlash(arg)+"/", entry, texts)
		}
	}
	return nil, &inputError{fmt.Errorf("%s: %w", arg, err)}
}

// notRead says of a file only what a person can mend.
func notRead(name string, err error) error {
	var p *os.PathError
	if errors.As(err, &p) {
		err = p.Err
	}
	return &inputError{fmt.Errorf("%s: %w", name, err)}
}

// readBelow reads a file of a folder: at most a little more than the largest description, so that the reader can say that
// it is too large. os.Root keeps symbolic links from leading out of the folder.
func readBelow(dir, p string) ([]byte, error) {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	info, err := root.Stat(filepath.FromSlash(p))
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() { // opening a pipe would wait for whoever writes to it
		return nil, errors.New("it is no file; what another program writes is read from standard input, as -")
	}
	f, err := root.Open(filepath.FromSlash(p))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var text bytes.Buffer
	text.Grow(int(min(info.Size(), source.MaxBytes)) + bytes.MinRead)
	_, err = text.ReadFrom(io.LimitReader(f, source.MaxBytes+1))
	return text.Bytes(), err
}
