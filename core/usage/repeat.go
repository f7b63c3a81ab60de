package usage

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"hash"
	"slices"
)

// headLength is by how much of their beginnings logs are told apart early.
const headLength = 64 << 10

// Known is a log that was counted before.
type Known struct {
	Length int64    // of its text, in bytes
	Digest string   // SHA-256 of it, in hexadecimal
	Head   string   // the same of its first 64 KB
	APIs   []string // for which it was counted
}

// watch follows the text of a log, and finds known logs with which it begins.
type watch struct {
	hash   hash.Hash
	length int64
	head   string
	ahead  []mark
	cuts   []cut
}

// mark is a place at which a known log is what this one is so far, or is not.
type mark struct {
	at    int64
	head  bool
	known *Known
}

// cut is a place up to which a log repeats another one.
type cut struct {
	at   int64
	apis []string
}

func newWatch(known []Known) *watch {
	w := &watch{hash: sha256.New()}
	for i := range known {
		k := &known[i]
		if k.Length > headLength {
			w.ahead = append(w.ahead, mark{headLength, true, k})
		} else if k.Length > 0 {
			w.ahead = append(w.ahead, mark{k.Length, false, k})
		}
	}
	w.sort()
	return w
}

func (w *watch) sort() {
	slices.SortStableFunc(w.ahead, func(a, b mark) int { return cmp.Compare(a.at, b.at) })
}

// pass goes on by a text.
func (w *watch) pass(text []byte) {
	for len(text) > 0 {
		n := int64(len(text))
		if len(w.ahead) > 0 {
			n = min(n, w.ahead[0].at-w.length)
		}
		if w.length < headLength {
			n = min(n, headLength-w.length)
		}
		w.hash.Write(text[:n]) // never fails
		w.length, text = w.length+n, text[n:]
		if w.length == headLength {
			w.head = w.digest()
		}
		w.hold()
	}
}

// hold decides the marks at this place.
func (w *watch) hold() {
	if len(w.ahead) == 0 || w.ahead[0].at > w.length {
		return
	}
	is := w.digest()
	for len(w.ahead) > 0 && w.ahead[0].at == w.length {
		m := w.ahead[0]
		w.ahead = w.ahead[1:]
		switch {
		case m.head && m.known.Head == is:
			w.ahead = append(w.ahead, mark{m.known.Length, false, m.known})
			w.sort()
		case !m.head && m.known.Digest == is:
			w.cuts = append(w.cuts, cut{w.length, m.known.APIs})
		}
	}
}

// beginnings are cuts at the end of a text that is shorter than logs that begin with the same 64 KB: no two logs do.
func (w *watch) beginnings() (all []cut) {
	for _, m := range w.ahead {
		if !m.head && m.known.Length > headLength {
			all = append(all, cut{w.length, m.known.APIs})
		}
	}
	return all
}

func (w *watch) digest() string { return hex.EncodeToString(w.hash.Sum(nil)) }

// identity is what the text was so far.
func (w *watch) identity() Known {
	k := Known{Length: w.length, Digest: w.digest(), Head: w.head}
	k.Head = cmp.Or(k.Head, k.Digest)
	return k
}

// take gives the cuts up to a place.
func (w *watch) take(upTo int64) []cut {
	n := 0
	for n < len(w.cuts) && w.cuts[n].at <= upTo {
		n++
	}
	taken := w.cuts[:n]
	w.cuts = w.cuts[n:]
	return taken
}
