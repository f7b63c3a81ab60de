// Package project reads the file by which a repository says what its descriptions are: of which APIs, in which files, and what they are
// held against.
//
//	ledger: https://ledger.saltmere.example
//	style: harbour-style.yaml
//	apis:
//	  berths: berths/berths.yaml
//	  tides: {file: tides/api.raml, root: tides, team: Navigation}
package project

import (
	"path"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/source"
)

// File is its name, in the folder where commands are run.
const File = ".oldledger.yaml"

// Limits of a project file.
const (
	MaxBytes = 1 << 20
	maxAPIs  = 2_000
)

// Project is what a project file says; paths are from its folder, with slashes.
type Project struct {
	Ledger string
	Style  string   // the file of the house style
	Check  []string // the descriptions that are checked, where they are others than those of the APIs
	APIs   []API    // in the order of the file
}

// API is an API whose description stands in the repository.
type API struct {
	Name string
	File string // with which the description begins
	Root string // the folder in which all of its files stand; "" for that of the first
	Team string // that keeps it, where the ledger does not know it yet; "" for the person's own
}

// Checked are the descriptions that are checked: those that are named for it, else those of the APIs.
func (p *Project) Checked() []string {
	if len(p.Check) > 0 {
		return p.Check
	}
	var all []string
	for _, a := range p.APIs {
		all = append(all, a.File)
	}
	return all
}

// nothing is a text that says nothing.
var nothing = regexp.MustCompile(`^(\s*(#[^\n]*)?(\n|$))*$`)

// Read reads a project file of a name. The error is a source.Diagnostics that names all that is wrong, or says why it is no YAML.
func Read(name string, text []byte) (*Project, error) {
	if nothing.Match(text) {
		return &Project{}, nil
	}
	f, err := source.Parse(name, text)
	if err != nil {
		return nil, err
	}
	r := &reading{}
	p := r.project(f.Root)
	if len(r.Wrong) > 0 {
		return nil, r.Wrong.Sorted(f.Name)
	}
	return p, nil
}

type reading struct{ source.Expecting }

// file reads the path of a file or folder of the repository.
func (r *reading) file(n *source.Node, what string) string {
	text := r.Text(n, what)
	if text != "" && (path.IsAbs(text) || strings.Contains(text, `\`) || text != "." && !source.Inside(path.Clean(text))) {
		r.Tell(n.Wrong(source.Syntax, "%s leads out of the folder of this file; write a path from it, with slashes", text))
		return ""
	}
	return text
}

func (r *reading) project(root *source.Node) *Project {
	p := &Project{}
	switch {
	case root.Kind == source.Null: // an empty file
		return p
	case root.Kind != source.Mapping:
		r.Tell(root.Wrong(source.Syntax, "a project file is an object with ledger, style, check or apis; here stands %s", root.Kind))
		return p
	}
	for _, m := range root.Members {
		switch m.Key {
		case "ledger":
			p.Ledger = r.Text(m.Value, "the address of a ledger")
		case "style":
			p.Style = r.Text(m.Value, "the path of a file with a house style")
		case "check":
			p.Check = r.check(m.Value)
		case "apis":
			p.APIs = r.apis(m.Value)
		default:
			r.Unknown(m.Value, m.Key, "ledger", "style", "check", "apis")
		}
	}
	return p
}

// check reads the descriptions to check: a list, or one.
func (r *reading) check(n *source.Node) []string {
	if n.Kind != source.Sequence {
		return []string{r.Text(n, "a description, or a list of them")}
	}
	var all []string
	for _, one := range n.Items() {
		all = append(all, r.Text(one, "a description"))
	}
	return all
}

// Name is what an API may be called.
var Name = regexp.MustCompile(`^[a-z][a-z0-9-]{0,62}$`)

func (r *reading) apis(n *source.Node) []API {
	var all []API
	for _, m := range r.Entries(n, "an object that names APIs, such as berths: berths.yaml", maxAPIs) {
		if !Name.MatchString(m.Key) {
			r.Tell(m.Value.KeyWrong(source.Syntax,
				"%s is no name of an API: it has small letters, digits and hyphens, and begins with a letter", m.Key))
			continue
		}
		if slices.ContainsFunc(all, func(a API) bool { return a.Name == m.Key }) {
			r.Tell(m.Value.KeyWrong(source.Syntax, "%s stands here twice", m.Key))
			continue
		}
		all = append(all, r.api(m.Key, m.Value))
	}
	return all
}

func (r *reading) api(name string, n *source.Node) API {
	a := API{Name: name}
	if n.Kind != source.Mapping {
		a.File = r.file(n, "the path of its description")
		return a
	}
	for _, m := range n.Members {
		switch m.Key {
		case "file":
			a.File = r.file(m.Value, "the path of its description")
		case "root":
			a.Root = r.file(m.Value, "the folder in which all of its files stand")
		case "team":
			a.Team = r.Text(m.Value, "the name of a team")
		default:
			r.Unknown(m.Value, m.Key, "file", "root", "team")
		}
	}
	switch rel, below := strings.CutPrefix(path.Clean(a.File), path.Clean(a.Root)+"/"); {
	case n.Get("file") == nil:
		r.Tell(n.Wrong(source.Syntax, "it lacks file, the path of its description"))
	case a.Root != "" && a.Root != "." && a.File != "" && (!below || rel == ""):
		r.Tell(n.Get("root").Wrong(source.Syntax, "%s does not stand below %s", a.File, a.Root))
	}
	return a
}
