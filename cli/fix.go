package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"oldledger/core/edit"
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// maxRounds bounds how often a description is mended: what was mended can show what else is wrong.
const maxRounds = 5

// fix mends in the files of a description what can be mended without a thought, and tells what it mended. With dry it writes nothing, and
// tells what it would mend first.
func (a *app) fix(ctx context.Context, arg string, how checking) (source.Diagnostics, error) {
	if arg == "-" || a.isReference(arg) {
		return nil, usageError{fmt.Errorf("--fix mends files, and %s is none", arg)}
	}
	if info, err := os.Stat(a.path(arg)); err == nil && info.Mode().IsRegular() {
		head, err := readHead(a.path(arg))
		if err != nil {
			return nil, notRead(arg, err)
		}
		if source.IsArchive(head) {
			return nil, usageError{fmt.Errorf("--fix mends files, and %s is an archive; unpack it", arg)}
		}
	}
	var all source.Diagnostics
	for range maxRounds {
		mended, err := a.fixOnce(ctx, arg, how)
		if err != nil {
			return nil, err
		}
		if all = append(all, mended...); how.dry || len(mended) == 0 {
			break
		}
	}
	return all, nil
}

// fixOnce mends what can be mended together: the mistakes first, and what does not follow the house style when there are none.
func (a *app) fixOnce(ctx context.Context, arg string, how checking) (source.Diagnostics, error) {
	e, err := a.examine(ctx, arg, how)
	if err != nil {
		return nil, err
	}
	found, files := e.found, e.files
	mistakes := slices.DeleteFunc(slices.Clone(found), func(f *housestyle.Finding) bool { return f.Fix == nil })
	mended, err := a.mendFiles(files, how, func(f *source.File) ([]edit.Change, source.Diagnostics) {
		return mends(f, mistakes.Diagnostics(), how.least)
	})
	if err != nil || len(mended) > 0 && !how.dry {
		return mended, err
	}
	more, err := a.mendFiles(files, how, func(f *source.File) ([]edit.Change, source.Diagnostics) {
		bad := slices.DeleteFunc(slices.Clone(found), func(f *housestyle.Finding) bool { return f.Severity < how.least })
		changes, done := bad.Mend(f)
		for _, d := range done {
			d.Fix = &source.Fix{Title: d.Title()}
		}
		return changes, done.Diagnostics()
	})
	return append(mended, more...), err
}

// mendFiles writes the changes of files, and tells what they mend. With --dry-run it only tells.
func (a *app) mendFiles(files []*source.File, how checking, of func(*source.File) ([]edit.Change, source.Diagnostics)) (
	source.Diagnostics, error,
) {
	var mended source.Diagnostics
	for _, f := range files {
		changes, done := of(f)
		if len(changes) == 0 {
			continue
		}
		if !how.dry {
			if err := replaceFile(a.path(filepath.FromSlash(f.Name)), f.Text, edit.Apply(f.Text, changes)); err != nil {
				return nil, notRead(f.Name, err)
			}
		}
		mended = append(mended, done...)
	}
	return mended, nil
}

// mends are the changes of a file that mend what was found in it, and what they mend.
func mends(f *source.File, found source.Diagnostics, least source.Severity) ([]edit.Change, source.Diagnostics) {
	var fixes []*source.Fix
	of := map[*source.Fix]*source.Diagnostic{}
	for _, d := range found {
		if d.Fix != nil && d.Severity >= least {
			fixes = append(fixes, d.Fix)
			of[d.Fix] = d
		}
	}
	changes, done := edit.Fixes(f, fixes)
	mended := make(source.Diagnostics, len(done))
	for i, fix := range done {
		mended[i] = of[fix]
	}
	return changes, mended
}

// replaceFile writes another text in the place of the one that was read: all of it, or nothing. Where another one stands there by now, it
// refuses.
func replaceFile(name string, was, now []byte) error {
	name, err := filepath.EvalSymlinks(name)
	if err != nil {
		return err
	}
	info, err := os.Stat(name)
	if err != nil {
		return err
	}
	is, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	if !bytes.Equal(is, was) {
		return errors.New("it was changed meanwhile, and is left as it is")
	}
	written, err := os.CreateTemp(filepath.Dir(name), "."+filepath.Base(name)+"-*")
	if err != nil {
		return err
	}
	defer os.Remove(written.Name())
	_, err = written.Write(now)
	if err := errors.Join(err, written.Chmod(info.Mode().Perm()), written.Sync(), written.Close()); err != nil {
		return err
	}
	return os.Rename(written.Name(), name)
}

// showMended says what was mended, or would be.
func (a *app) showMended(b *strings.Builder, s style, mended source.Diagnostics, dry bool) {
	word := "mended"
	if dry {
		word = "would mend"
	}
	for _, d := range mended {
		fmt.Fprintf(b, "%s %s  %s: %s\n", s.bold(word), d.Place, d.Fix.Title, s.soft(d.Text))
	}
	if len(mended) > 0 {
		b.WriteString("\n")
	}
}
