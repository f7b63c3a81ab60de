// Package source turns the text of a description, YAML 1.2 or JSON (RFC 8259), into a tree in which every
// node knows its file, line, column and JSON Pointer (RFC 6901).
//
//	file, err := source.Parse("berths.yaml", text)
//	info := file.Root.Get("info")
//	info.Get("version").Place() // berths.yaml:4:12, /info/version
//
// A description of several files is a Set, which opens what its files refer to, below one folder and nowhere else.
//
// What is not YAML or JSON, a key that stands twice, an alias that never ends, and inputs beyond the limits
// are Problems: each with its place and what would be right.
package source

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Limits of one file. They are generous for descriptions and tight for attacks.
const (
	MaxBytes = 32 << 20  // bytes of text
	MaxDepth = 200       // levels of nesting
	MaxNodes = 1_500_000 // nodes, aliases expanded
)

// File is one parsed text.
type File struct {
	Name string // as messages write it
	Text []byte
	Root *Node

	path string // within its set
}

// Path is the file's place in its set, below the set's folder.
func (f *File) Path() string { return f.path }

// Place is where something stands: a file, a line and a column (both from 1), and a JSON Pointer.
type Place struct {
	File    string `json:"file"`
	Pointer string `json:"pointer"`
	Line    int    `json:"line"`
	Column  int    `json:"column"`
}

func (p Place) String() string { return fmt.Sprintf("%s:%d:%d", p.File, p.Line, p.Column) }

// Problem is something wrong in a text, at its place.
type Problem struct {
	Place Place
	Text  string // what is wrong, and what would be right
}

func (p *Problem) Error() string { return p.Place.String() + ": " + p.Text }

// Problems are all that is wrong with an input, in the order of their places. As an error it reads one line each.
type Problems []*Problem

func (ps Problems) Error() string {
	lines := make([]string, len(ps))
	for i, p := range ps {
		lines[i] = p.Error()
	}
	return strings.Join(lines, "\n")
}

// maxTold is how many problems one reading tells: more would hide the first.
const maxTold = 50

// Told is what a reading tells of its problems: sorted, those of the entry's file first, without repetitions, and not too many.
func (ps Problems) Told(entry string) Problems {
	all := slices.Clone(ps)
	slices.SortStableFunc(all, func(a, b *Problem) int {
		if a.Place.File != b.Place.File {
			switch entry {
			case a.Place.File:
				return -1
			case b.Place.File:
				return 1
			}
			return cmp.Compare(a.Place.File, b.Place.File)
		}
		return cmp.Or(cmp.Compare(a.Place.Line, b.Place.Line), cmp.Compare(a.Place.Column, b.Place.Column))
	})
	all = slices.CompactFunc(all, func(a, b *Problem) bool { return *a == *b })
	return all[:min(len(all), maxTold)]
}
