package cli

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"oldledger/client"
	"oldledger/core/source"
)

// account is a token kept for one ledger.
type account struct {
	Ledger string `json:"ledger"`
	Token  string `json:"token"`
}

// accountFile is where sign-in keeps its token.
func (a *app) accountFile() (string, error) {
	if dir := a.Getenv("OLDLEDGER_HOME"); dir != "" {
		return filepath.Join(dir, "account.json"), nil
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", err
	}
	return filepath.Join(dir, "oldledger", "account.json"), nil
}

// account reads what sign-in kept; it is empty where nobody signed in.
func (a *app) account() (account, error) {
	var acc account
	file, err := a.accountFile()
	if err != nil {
		return acc, err
	}
	text, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		return acc, nil
	}
	if err == nil {
		err = json.Unmarshal(text, &acc)
	}
	if err != nil {
		return acc, fmt.Errorf("%s cannot be read; sign in again: %w", file, err)
	}
	return acc, nil
}

func (a *app) keepAccount(acc account) error {
	file, err := a.accountFile()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return err
	}
	text, err := json.Marshal(acc)
	if err != nil {
		return err
	}
	return os.WriteFile(file, text, 0o600)
}

// client connects to the ledger that is named by option, environment, project file or sign-in, in this order.
func (a *app) client() (*client.Client, error) {
	acc, err := a.account()
	if err != nil {
		return nil, err
	}
	address, err := a.ledgerAddress(acc)
	if err != nil {
		return nil, err
	}
	if address == "" {
		return nil, usageError{errors.New("no ledger is named; use --ledger, OLDLEDGER_URL, or oldledger sign-in")}
	}
	token, err := a.token(acc, address)
	if err != nil {
		return nil, err
	}
	c, err := client.New(address, token)
	if err != nil {
		return nil, usageError{err}
	}
	return c, nil
}

// token is the one to send to an address. One from the environment goes to an address that is named there or by option; one that sign-in
// kept goes back to where it came from. A project file, which may be anybody's, leads neither elsewhere.
func (a *app) token(acc account, address string) (string, error) {
	named := a.ledger != "" || a.Getenv("OLDLEDGER_URL") != "" || acc.Ledger == address
	if token := a.Getenv("OLDLEDGER_TOKEN"); token != "" {
		if !named {
			return "", usageError{fmt.Errorf(
				"%s names the ledger %s, and OLDLEDGER_TOKEN is sent only where you say: set OLDLEDGER_URL=%s or --ledger, if you trust it",
				projectFile, address, address)}
		}
		return token, nil
	}
	if acc.Ledger == address {
		return acc.Token, nil
	}
	if acc.Token != "" && a.ledger == "" && a.Getenv("OLDLEDGER_URL") == "" {
		fmt.Fprintf(a.Err, "%s names the ledger %s; you are signed in at %s, so nobody is signed in there\n", projectFile, address, acc.Ledger)
	}
	return "", nil
}

// ledgerAddress is the first that is named: by option, environment, project file, or the last sign-in.
func (a *app) ledgerAddress(acc account) (string, error) {
	p, err := a.project()
	if err != nil {
		return "", err
	}
	return cmp.Or(a.ledger, a.Getenv("OLDLEDGER_URL"), p.Ledger, acc.Ledger), nil
}

// refused turns what the ledger answered into the exit status of a refusal.
func refused(err error) error {
	if err == nil {
		return nil
	}
	var usage usageError
	if errors.As(err, &usage) {
		return err
	}
	return &refusedError{err}
}

func (a *app) fetch(ctx context.Context, ref string) (*source.Set, error) {
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	files, err := c.Files(ctx, ref)
	if err != nil {
		return nil, refused(err)
	}
	if len(files) == 1 {
		return single(ref, []byte(files[0].Text))
	}
	texts := map[string][]byte{}
	for _, f := range files {
		texts[f.Path] = []byte(f.Text)
	}
	return source.OpenTexts(ctx, ref+"/", files[0].Path, texts)
}

func printf(a *app, format string, args ...any) error {
	_, err := fmt.Fprintf(a.Out, format, args...)
	return err
}
