package source

import (
	"context"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"
)

// Limits of a set of files.
const (
	MaxFiles    = 2000
	MaxSetBytes = 128 << 20
)

// Opener gives the text of one file of a set by its path below the set's folder, slashes between its steps.
// A file that is not there is ErrNoFile.
type Opener func(path string) ([]byte, error)

// ErrNoFile is what an Opener answers where there is no file.
var ErrNoFile = errors.New("there is no such file")

// Set is the files of one description: the entry, and what the entry and the others refer to, all below one folder.
// Files are opened when they are first asked for.
type Set struct {
	Entry *File

	folder string // how the folder is written in front of the names of its files
	open   Opener
	files  map[string]*File
	faults map[string]error
	size   int
	tally  *tally
}

// SetOf is the set of a single file: references may not leave it.
func SetOf(f *File) *Set {
	entry := path.Base(f.Name)
	s := &Set{
		Entry: f, folder: strings.TrimSuffix(f.Name, entry), files: map[string]*File{entry: f}, faults: map[string]error{},
		tally: &tally{ctx: context.Background(), nodes: f.nodes},
	}
	f.path = entry
	return s
}

// Open opens a set by the path of its entry. Messages name its files with folder in front: "demo/tides/".
// The error is Diagnostics when the entry cannot be parsed, and the opener's own when it cannot be opened.
// Whoever reads the set stops when ctx ends, with its error.
func Open(ctx context.Context, folder, entry string, open Opener) (*Set, error) {
	s := &Set{folder: folder, open: open, files: map[string]*File{}, faults: map[string]error{}, tally: &tally{ctx: ctx}}
	f, err := s.File(entry)
	s.Entry = f
	return s, err
}

// OpenTexts opens a set whose texts are at hand, by their paths.
func OpenTexts(ctx context.Context, folder, entry string, texts map[string][]byte) (*Set, error) {
	return Open(ctx, folder, entry, func(p string) ([]byte, error) {
		text, ok := texts[p]
		if !ok {
			return nil, ErrNoFile
		}
		return text, nil
	})
}

// File opens the file at a path below the set's folder. A path that leaves the folder, or that stands for no file, is an error
// that says so; a text that cannot be parsed is Diagnostics.
func (s *Set) File(p string) (*File, error) { return s.opened(p, parse) }

// Size is how many values the files hold that were opened so far.
func (s *Set) Size() int { return s.tally.nodes }

// Err is the error of the set's context: nil while whoever reads it may go on.
func (s *Set) Err() error { return s.tally.ctx.Err() }

// Text opens a file that is no description, such as a page of words: its root is one string.
func (s *Set) Text(p string) (*File, error) { return s.opened(p, plain) }

func (s *Set) opened(p string, parse func(name string, text []byte, t *tally) (*File, error)) (*File, error) {
	if f := s.files[p]; f != nil {
		return f, nil
	}
	if err := s.faults[p]; err != nil {
		return nil, err
	}
	f, err := s.load(p, parse)
	if err != nil {
		s.faults[p] = err
		return nil, err
	}
	f.path = p
	s.files[p] = f
	return f, nil
}

func (s *Set) load(p string, parse func(name string, text []byte, t *tally) (*File, error)) (*File, error) {
	switch {
	case !Inside(p):
		return nil, fmt.Errorf("%s is outside the folder of the description", p)
	case s.open == nil:
		return nil, fmt.Errorf("%s is not in the set: the description was given as a single file", p)
	case len(s.files) == MaxFiles:
		return nil, fmt.Errorf("the description has more than %d files", MaxFiles)
	}
	text, err := s.open(p)
	if errors.Is(err, ErrNoFile) {
		return nil, fmt.Errorf("there is no such file in %s", s.where())
	}
	if err != nil {
		return nil, err
	}
	if s.size += len(text); s.size > MaxSetBytes {
		return nil, fmt.Errorf("the files of the description are more than %d MB together", MaxSetBytes>>20)
	}
	return parse(s.folder+p, text, s.tally)
}

// Inside reports whether a path stays below the folder it starts from, in its plainest spelling and on every system: no "..", no leading
// slash, no backslash, no control character.
func Inside(p string) bool {
	return !strings.Contains(p, `\`) && !strings.ContainsFunc(p, unicode.IsControl) && p != "" && p != "." && p != ".." &&
		path.Clean(p) == p && !strings.HasPrefix(p, "../") && !strings.HasPrefix(p, "/")
}

func (s *Set) where() string {
	if s.folder == "" {
		return "the folder of the description"
	}
	return s.folder
}

// Files lists the files that were opened: the entry first, the others by their paths.
func (s *Set) Files() []*File {
	all := make([]*File, 0, len(s.files))
	for _, f := range s.files {
		all = append(all, f)
	}
	slices.SortFunc(all, func(a, b *File) int {
		switch {
		case a == s.Entry:
			return -1
		case b == s.Entry:
			return 1
		}
		return strings.Compare(a.path, b.path)
	})
	return all
}
