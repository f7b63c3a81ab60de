// Package source turns the text of a description, YAML 1.2 or JSON (RFC 8259), into a tree in which every
// node knows its file, line, column and JSON Pointer (RFC 6901).
//
//	file, err := source.Parse("berths.yaml", text)
//	info := file.Root.Get("info")
//	info.Get("version").Place() // berths.yaml:4:12, /info/version
//
// A description of several files is a Set, which opens what its files refer to, below one folder and nowhere else.
//
// What is wrong with a text or a description is told as Diagnostics: each with its rule, its severity, its range, and what would be right.
// A text that is not YAML or JSON, a key that stands twice, an alias that never ends, and inputs beyond the limits are refused.
package source

import (
	"fmt"
	"sync"
)

// Limits of what is read. They are generous for descriptions and tight for attacks.
const (
	MaxBytes   = 80 << 20  // bytes of one text
	MaxDepth   = 2_000     // levels of nesting
	MaxNodes   = 3_000_000 // values of all files of a set together, aliases counted where they are used
	MaxAliased = 200_000   // those of them that aliases and merge keys made
)

// File is one parsed text.
type File struct {
	Name string // as messages write it
	Text []byte
	Root *Node

	path      string // within its set
	nodes     int    // values that it holds
	outer     *File  // of which a string holds this text
	indexing  sync.Mutex
	blocked   sync.Once
	lineIndex lineIndex
	columns   []int32 // by blocks, once a long line was asked for: code points before it in its line
	starts    []int32 // and its offset
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
