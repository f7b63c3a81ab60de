package cli

import (
	"os"

	"golang.org/x/term"
)

// terminal reports whether f is a terminal, and how wide it is.
func terminal(f *os.File) (color bool, width int) {
	fd := int(f.Fd())
	if !term.IsTerminal(fd) {
		return false, 0
	}
	width, _, err := term.GetSize(fd)
	if err != nil {
		width = 0
	}
	return true, width
}

// interactive reports whether there is somebody to ask.
func (a *app) interactive() bool {
	f, ok := a.In.(*os.File)
	return ok && term.IsTerminal(int(f.Fd()))
}
