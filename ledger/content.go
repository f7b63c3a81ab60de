package ledger

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// content is the text of a version as an actor gets it: as it was recorded or, from outside, without what its overlay hides.
type content struct {
	file   string // the entry's path
	text   []byte
	others []records.File
	digest string
	raml   bool
}

// maxPublic bounds what is kept in memory of what readers get in place of what was recorded.
const maxPublic = 64

// content reads a version.
func (w view) content(ctx context.Context, v Version) (content, error) {
	v, err := w.asRead(ctx, v)
	if err != nil {
		return content{}, err
	}
	if v.whole != "" {
		return w.public(ctx, v)
	}
	return w.recorded(ctx, v)
}

// recorded reads a version as it was recorded.
func (w view) recorded(ctx context.Context, v Version) (content, error) {
	c, err := w.rows.Content(ctx, v.Digest, v.File)
	return content{file: c.File, text: c.Text, others: c.Others, digest: c.Digest, raml: v.RAML()}, err
}

// asRead is a version with the digest and file of what the actor gets: those recorded unless the actor is from outside and something is
// hidden.
func (w view) asRead(ctx context.Context, v Version) (Version, error) {
	if v.whole != "" || v.kept.inside(w.who) {
		return v, nil
	}
	key := fmt.Sprintf("%s %s %d %s", v.Ref(), v.content(), w.Generation(w.who, v.API), v.kept.lacks(w.who))
	mayKeep := w.who.holds == "" && !w.rows.Writing()
	known, there := w.asReads.Get(key)
	if !there || !mayKeep {
		c, err := w.public(ctx, v)
		if err != nil {
			return v, err
		}
		known = publicName{c.digest, c.file}
		if mayKeep {
			w.asReads.Add(key, known)
		}
	}
	if known.digest != v.Digest {
		v.whole, v.Digest, v.File = v.Digest, known.digest, known.file
	}
	return v, nil
}

// publicName names the content that readers get.
type publicName struct{ digest, file string }

// maxPublicNames bounds those in memory.
const maxPublicNames = 50_000

func (w view) bothAsRead(ctx context.Context, a, b Version) (Version, Version, error) {
	a, err := w.asRead(ctx, a)
	if err == nil {
		b, err = w.asRead(ctx, b)
	}
	return a, b, err
}

// mayHide reports whether something may be hidden by a text: the name of the extension or of RAML's annotation is in it, or an escape or a
// trait's parameter by which it could be written.
func mayHide(text []byte, raml bool) bool {
	if bytes.Contains(text, []byte(strings.TrimPrefix(reference.HiddenField, "x-"))) || raml && bytes.Contains(text, []byte("<<")) {
		return true
	}
	for {
		i := bytes.IndexByte(text, '\\')
		if i < 0 || i+1 == len(text) {
			return false
		}
		if bytes.IndexByte([]byte("xuU\r\n"), text[i+1]) >= 0 {
			return true
		}
		text = text[min(i+2, len(text)):] // what is escaped begins no escape
	}
}

// public is the text of a version as readers from outside get it; its digest is the recorded one where nothing is hidden.
func (w view) public(ctx context.Context, v Version) (content, error) {
	over, err := w.overlayText(ctx, v, w.who.holds == v.Ref())
	if err != nil {
		return content{}, err
	}
	whole := cmp.Or(v.whole, v.Digest)
	lacks := v.kept.lacks(w.who)
	key := v.Ref() + " " + whole + " " + digest(over, nil) + " " + lacks
	if known, ok := w.publics.Get(key); ok {
		return known, nil
	}
	c, err := w.recorded(ctx, v)
	if err != nil {
		return content{}, err
	}
	suspect := lacks != "" || mayHide(c.text, v.RAML()) || mayHide(over, false) ||
		slices.ContainsFunc(c.others, func(f records.File) bool { return mayHide(f.Content, v.RAML()) })
	if suspect {
		if c, err = w.cut(ctx, v, c, over, lacks); err != nil {
			return content{}, err
		}
	}
	if c.digest == whole {
		w.publics.Add(key, content{digest: c.digest, file: c.file, raml: c.raml}) // the text is the one recorded
		return c, nil
	}
	w.publics.Add(key, c)
	return c, nil
}

// cut leaves out of a content what is hidden in it, or by an overlay, and the parts that it lacks for the actor.
func (w view) cut(ctx context.Context, v Version, c content, over []byte, lacks string) (content, error) {
	root, err := w.oneFile(ctx, v.Ref(), c)
	if err != nil {
		return c, err
	}
	shown, _, err := w.overlay(ctx, root, over)
	if err != nil {
		return c, err
	}
	lacking := lackedBy(lacks)
	public, hides := reference.Public(root, shown, lacking)
	if !hides {
		return c, nil
	}
	cut := content{file: c.file, raml: false}
	if c.raml {
		cut.file = "description.yaml"
	}
	cut.text = written(public, cut.file)
	cut.digest = digest(cut.text, nil)
	if lacking == nil {
		return cut, nil
	}
	// However it is written: what is for fewer is in no text that others get.
	return cut, w.readSet(ctx, cut.file, cut.text, nil, func(c *contract.Contract, _ *source.Set) error {
		for _, op := range c.All() {
			if lacking(op.Key(), op.Tags) {
				return fmt.Errorf("%s cannot be told without %s", v.Ref(), op.Key())
			}
		}
		return nil
	})
}

// cleared is an API as the actor may know it: without the versions that are not the actor's to see, without the notices that speak of none
// but those or of what is hidden, and without the names of what is not to be seen in the others.
func (w view) cleared(ctx context.Context, a API) (API, error) {
	if a.kept.inside(w.who) {
		return a, nil
	}
	a.Offered, a.Audiences = "", Audiences{}
	all := a.Versions
	a.Versions = slices.DeleteFunc(slices.Clone(all), func(v Version) bool { return !w.who.sees(v) })
	a.Title = titleOf(a)
	var notices []promise.Notice
	for _, n := range a.Notices {
		told, err := w.tells(ctx, a, n)
		if err != nil {
			return a, err
		}
		if !told {
			continue
		}
		notices = append(notices, w.discreet(a, all, n))
	}
	a.Notices = notices
	return a, nil
}

// tells reports whether a notice speaks of something that the actor may know of.
func (w view) tells(ctx context.Context, a API, n promise.Notice) (bool, error) {
	covered := slices.DeleteFunc(slices.Clone(a.Versions), func(v Version) bool { return !v.Open() || !n.Covers(v.Number, v.Line) })
	if len(covered) == 0 || n.Whole() {
		return len(covered) > 0, nil
	}
	hides := false
	for i, v := range covered {
		there, err := w.asRead(ctx, v)
		if err != nil {
			return false, err
		}
		covered[i] = there
		hides = hides || there.whole != ""
	}
	if !hides {
		return true, nil
	}
	for _, v := range covered {
		c, err := w.contract(ctx, v)
		if err != nil {
			return false, err
		}
		if _, there := n.Reach(c); there {
			return true, nil
		}
	}
	return false, nil
}

// discreet is a notice without the versions of its API that it names and the actor may not know of. all are those that there are.
func (w view) discreet(a API, all []Version, n promise.Notice) promise.Notice {
	readable := func(number string) bool {
		return slices.ContainsFunc(a.Versions, func(v Version) bool { return v.Number == number && w.who.reads(v) })
	}
	if from, to, ok := strings.Cut(n.Guide, ".."); ok && !(readable(from) && readable(to)) {
		n.Guide = ""
	}
	if name, number, _ := strings.Cut(n.ReplacedBy, "@"); name == a.Name && hasVersion(all, number) && !hasVersion(a.Versions, number) {
		n.ReplacedBy = ""
	}
	return n
}

// hasVersion reports whether versions have one of a number or line; any where that is "".
func hasVersion(all []Version, number string) bool {
	return slices.ContainsFunc(all, func(v Version) bool { return number == "" || v.Number == number || v.Line == number })
}

// abroad is an API without what its notices name of other APIs and the actor may not know of. What is kept of an API for all who see the
// same of it is not: they may see other things elsewhere.
func (w view) abroad(ctx context.Context, a API) (API, error) {
	if a.kept.inside(w.who) {
		return a, nil
	}
	for i, n := range a.Notices {
		name, number, _ := strings.Cut(n.ReplacedBy, "@")
		if name == a.Name || !apiName.MatchString(name) || w.keeping(name) == nobodys {
			continue // it is told in other words
		}
		there, err := w.whole().apiAsIs(ctx, name)
		if err != nil {
			return a, err
		}
		seen, err := w.apiAsIs(ctx, name)
		if err != nil {
			return a, err
		}
		if len(seen.Versions) == 0 || hasVersion(there.Versions, number) && !hasVersion(seen.Versions, number) {
			a.Notices = slices.Clone(a.Notices)
			a.Notices[i].ReplacedBy = ""
		}
	}
	return a, nil
}
