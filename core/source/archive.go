package source

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"strings"
)

// IsArchive tells by its first bytes whether content is a .zip or .tar.gz archive.
func IsArchive(content []byte) bool {
	return bytes.HasPrefix(content, []byte("PK\x03\x04")) || bytes.HasPrefix(content, []byte("\x1f\x8b"))
}

// Unpack reads the files of a .zip or .tar.gz archive, by their paths; a folder that holds all of them is left out of the paths.
// What an archive says of sizes is not believed: reading stops at the limits of a set. A path that leaves the archive's folder, a link, a
// device, or a name that stands twice is an error, and nothing is unpacked.
func Unpack(content []byte) (map[string][]byte, error) {
	u := &unpacking{files: map[string][]byte{}}
	read := u.tar
	if bytes.HasPrefix(content, []byte("PK")) {
		read = u.zip
	}
	if err := read(content); err != nil {
		return nil, fmt.Errorf("the archive cannot be read: %w", err)
	}
	if len(u.files) == 0 {
		return nil, errors.New("the archive holds no files")
	}
	return u.withoutTop(), nil
}

type unpacking struct {
	files map[string][]byte
	size  int
}

func (u *unpacking) zip(content []byte) error {
	r, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		return err
	}
	for _, f := range r.File {
		if f.Mode().IsDir() {
			continue
		}
		if !f.Mode().IsRegular() {
			return fmt.Errorf("%s is no ordinary file", f.Name)
		}
		body, err := f.Open()
		if err != nil {
			return fmt.Errorf("%s: %w", f.Name, err)
		}
		err = u.take(f.Name, body)
		body.Close()
		if err != nil {
			return err
		}
	}
	return nil
}

func (u *unpacking) tar(content []byte) error {
	unzipped, err := gzip.NewReader(bytes.NewReader(content))
	if err != nil {
		return err
	}
	r := tar.NewReader(io.LimitReader(unzipped, 2*MaxSetBytes)) // headers and padding count, too
	for {
		h, err := r.Next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		switch h.Typeflag {
		case tar.TypeDir, tar.TypeXGlobalHeader:
			continue
		case tar.TypeReg:
		default:
			return fmt.Errorf("%s is no ordinary file", h.Name)
		}
		if err := u.take(h.Name, r); err != nil {
			return err
		}
	}
}

// take reads one file within the limits.
func (u *unpacking) take(name string, body io.Reader) error {
	p := strings.TrimPrefix(name, "./")
	if strings.Contains(p, "__MACOSX/") || strings.HasSuffix(p, ".DS_Store") {
		return nil // what file managers leave behind
	}
	switch {
	case !Inside(p) || strings.ContainsAny(p, "\\\x00") || len(p) > 200:
		return fmt.Errorf("%q is no path of a file below the archive's folder", name)
	case u.files[p] != nil:
		return fmt.Errorf("%s stands twice", p)
	case len(u.files) == MaxFiles:
		return fmt.Errorf("it holds more than %d files", MaxFiles)
	}
	text, err := io.ReadAll(io.LimitReader(body, int64(min(MaxBytes, MaxSetBytes-u.size))+1))
	if err != nil {
		return fmt.Errorf("%s: %w", p, err)
	}
	if u.size += len(text); len(text) > MaxBytes || u.size > MaxSetBytes {
		return fmt.Errorf("unpacked, its files are larger than %d MB, or %s than %d MB", MaxSetBytes>>20, p, MaxBytes>>20)
	}
	if text == nil {
		text = []byte{}
	}
	u.files[p] = text
	return nil
}

// withoutTop leaves out a folder in which all files stand.
func (u *unpacking) withoutTop() map[string][]byte {
	top := ""
	for p := range u.files {
		folder, _, nested := strings.Cut(p, "/")
		if !nested || top != "" && folder != top {
			return u.files
		}
		top = folder
	}
	files := map[string][]byte{}
	for p, text := range u.files {
		files[strings.TrimPrefix(p, top+"/")] = text
	}
	return files
}
