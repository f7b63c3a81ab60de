package cli

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/gofrs/flock"
)

// hold takes a folder of records for one service. The lock goes with the process, however that ends; the file beside it says who holds it.
func hold(folder, address string, now time.Time) (release func(), err error) {
	lock := flock.New(filepath.Join(folder, "service.lock"))
	holder := filepath.Join(folder, "service.txt")
	taken, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("take the folder of the records: %w", err)
	}
	if !taken {
		who, err := os.ReadFile(holder)
		if err != nil {
			who = []byte("another service")
		}
		return nil, &inputError{fmt.Errorf("%s is held by %s; stop it first, or use another folder with --data", folder,
			strings.TrimSpace(string(who)))}
	}
	host, err := os.Hostname()
	if err == nil {
		err = os.WriteFile(holder, fmt.Appendf(nil, "process %d on %s, at %s since %s\n", os.Getpid(), host, address,
			now.UTC().Format(time.RFC3339)), 0o600)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("take the folder of the records: %w", err), lock.Unlock())
	}
	return func() { _ = errors.Join(os.Remove(holder), lock.Unlock()) }, nil // both go with the process, too
}
