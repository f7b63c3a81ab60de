package cli

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/knadh/koanf/parsers/yaml"
	"github.com/knadh/koanf/providers/env/v2"
	"github.com/knadh/koanf/providers/file"
	"github.com/knadh/koanf/providers/posflag"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/pflag"

	"oldledger/core/project"
)

// projectFile names the ledger of a project, in the folder where commands are run.
const projectFile = project.File

// project is what the project file says; it is empty where there is none.
func (a *app) project() (*project.Project, error) {
	a.ours.Do(func() { a.says, a.saysNot = a.readProject() })
	return a.says, a.saysNot
}

// inProject is what the project file says of a description that is named by its file; nothing where it names another.
func (a *app) inProject(file string) (project.API, error) {
	p, err := a.project()
	if err != nil {
		return project.API{}, err
	}
	i := slices.IndexFunc(p.APIs, func(api project.API) bool { return path.Clean(api.File) == path.Clean(filepath.ToSlash(file)) })
	if i < 0 {
		return project.API{}, nil
	}
	return p.APIs[i], nil
}

func (a *app) readProject() (*project.Project, error) {
	f, err := os.Open(a.path(projectFile))
	if errors.Is(err, fs.ErrNotExist) {
		return &project.Project{}, nil
	}
	if err != nil {
		return nil, notRead(projectFile, err)
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, project.MaxBytes+1))
	switch {
	case err != nil:
		return nil, notRead(projectFile, err)
	case len(text) > project.MaxBytes:
		return nil, usageError{fmt.Errorf("%s has more than %d KB", projectFile, project.MaxBytes>>10)}
	}
	p, err := project.Read(projectFile, text)
	if err != nil {
		return nil, usageError{err}
	}
	return p, nil
}

// settings reads a command's options: what is set on the command line, else OLDLEDGER_…, else the YAML file, else the default.
func (a *app) settings(flags *pflag.FlagSet, path string) (*koanf.Koanf, error) {
	k := koanf.New(".")
	if path != "" {
		err := k.Load(file.Provider(a.path(path)), yaml.Parser())
		if errors.Is(err, fs.ErrNotExist) {
			return nil, usageError{fmt.Errorf("there is no settings file %s", path)}
		}
		if err != nil {
			return nil, usageError{fmt.Errorf("%s: %w", path, err)}
		}
		for _, key := range k.Keys() {
			if flags.Lookup(key) == nil {
				return nil, usageError{fmt.Errorf("%s: %q is no setting; see oldledger serve --help", path, key)}
			}
		}
	}
	const prefix = "OLDLEDGER_"
	environment := env.Provider(".", env.Opt{
		Prefix:      prefix,
		EnvironFunc: func() []string { return a.environment(flags, prefix) },
		TransformFunc: func(key, value string) (string, any) {
			return strings.ReplaceAll(strings.ToLower(strings.TrimPrefix(key, prefix)), "_", "-"), value
		},
	})
	if err := k.Load(environment, nil); err != nil {
		return nil, err
	}
	return k, k.Load(posflag.Provider(flags, ".", k), nil)
}

// environment lists the variables that name options of the command.
func (a *app) environment(flags *pflag.FlagSet, prefix string) []string {
	var vars []string
	flags.VisitAll(func(f *pflag.Flag) {
		name := prefix + strings.ToUpper(strings.ReplaceAll(f.Name, "-", "_"))
		if v := a.Getenv(name); v != "" {
			vars = append(vars, name+"="+v)
		}
	})
	return vars
}
