package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"github.com/knadh/koanf/parsers/yaml"
	"github.com/knadh/koanf/providers/env/v2"
	"github.com/knadh/koanf/providers/file"
	"github.com/knadh/koanf/providers/posflag"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/pflag"
)

// projectFile names the ledger of a project, in the folder where commands are run.
const projectFile = ".oldledger.yaml"

// project is what a project file says.
type project struct {
	Ledger string
	Style  string   // the file of the house style
	Check  []string // the descriptions that check takes without being told
}

// projectKeys are the settings of a project file.
var projectKeys = []string{"check", "ledger", "style"}

// project reads the project file; it is empty where there is none.
func (a *app) project() (project, error) {
	k := koanf.New(".")
	err := k.Load(file.Provider(a.path(projectFile)), yaml.Parser())
	if errors.Is(err, fs.ErrNotExist) {
		return project{}, nil
	}
	if err != nil {
		return project{}, usageError{fmt.Errorf("%s: %w", projectFile, err)}
	}
	for _, key := range k.Keys() {
		if !slices.Contains(projectKeys, key) {
			return project{}, usageError{fmt.Errorf("%s: %q is no setting; it may say ledger: http://…, style: a file, check: [descriptions]",
				projectFile, key)}
		}
	}
	p := project{Ledger: k.String("ledger"), Style: k.String("style"), Check: k.Strings("check")}
	if one := k.String("check"); one != "" && len(p.Check) == 0 {
		p.Check = []string{one}
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
