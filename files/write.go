package files

import (
	"bytes"
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"tovrel/trouble"
)

// Change is a file to write, and what must stand there before.
type Change struct {
	Path string
	Text []byte
	Was  []byte // what was read from it; nil where it does not matter
	New  bool   // it must not be there yet
}

// WriteAll writes some files, all of them or none: each is written beside its place first, and what was put in place is put back where
// a later one cannot be. No file is ever half written. It errs with the first file that cannot be written.
func WriteAll(files []Change) error {
	var scratch []string
	defer func() {
		for _, path := range scratch {
			_ = os.Remove(path) // gone already, where it was put in place
		}
	}()
	before := make([][]byte, len(files))
	for i, f := range files {
		var err error
		if before[i], err = f.present(); err != nil {
			return err
		}
		path, err := f.beside()
		if path != "" {
			scratch = append(scratch, path)
		}
		if err != nil {
			return f.unwritable(err)
		}
	}
	for i, f := range files {
		if err := os.Rename(scratch[i], f.Path); err != nil {
			return errors.Join(f.unwritable(err), putBack(files[:i], before))
		}
	}
	return nil
}

// TakeBack undoes changes that were written, all of them or none: a file that has changed since is left alone, and is an error. What was
// not there before is removed.
func TakeBack(written []Change) error {
	var back []Change
	var gone []Change
	for _, f := range written {
		was := Change{Path: f.Path, Text: f.Was, Was: f.Text}
		if f.Was == nil {
			if _, err := was.present(); err != nil {
				return err
			}
			gone = append(gone, was)
			continue
		}
		back = append(back, was)
	}
	if err := WriteAll(back); err != nil {
		return err
	}
	for _, f := range gone {
		if err := os.Remove(f.Path); err != nil {
			return trouble.New(trouble.Unreadable, "%s cannot be removed: %w", f.Path, err)
		}
	}
	return nil
}

// present is what stands in a file's place; nil for nothing. The error is that it is not what it must be.
func (f Change) present() ([]byte, error) {
	present, err := os.ReadFile(f.Path)
	missing := errors.Is(err, fs.ErrNotExist)
	switch {
	case err == nil && f.New:
		return nil, trouble.New(trouble.Unreadable, "%s has appeared meanwhile; nothing was written, try again", f.Path)
	case missing && f.Was == nil:
		return nil, nil
	case err != nil:
		return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w; nothing was written", f.Path, err)
	case f.Was != nil && !bytes.Equal(present, f.Was):
		return nil, trouble.New(trouble.Unreadable, "%s has changed since it was read; nothing was written, try again", f.Path)
	}
	return append([]byte{}, present...), nil
}

// beside writes the text into a file beside the place, with the rights of what stands there.
func (f Change) beside() (path string, err error) {
	if err := os.MkdirAll(filepath.Dir(f.Path), 0o755); err != nil {
		return "", err
	}
	rights := fs.FileMode(0o644)
	if info, err := os.Stat(f.Path); err == nil {
		rights = info.Mode().Perm()
	}
	prefix := "." + filepath.Base(f.Path) + ".part-"
	SweepScratch(filepath.Dir(f.Path), prefix)
	scratch, err := os.CreateTemp(filepath.Dir(f.Path), prefix+ScratchMark())
	if err != nil {
		return "", err
	}
	_, err = scratch.Write(f.Text)
	return scratch.Name(), errors.Join(err, scratch.Chmod(rights), scratch.Sync(), scratch.Close())
}

// putBack undoes what was put in place; nil text stands for a file that was not there.
func putBack(files []Change, before [][]byte) error {
	var failed error
	for i, f := range files {
		if before[i] == nil {
			failed = errors.Join(failed, os.Remove(f.Path))
			continue
		}
		old := Change{Path: f.Path, Text: before[i]}
		path, err := old.beside()
		if err == nil {
			err = os.Rename(path, f.Path)
		}
		failed = errors.Join(failed, err)
	}
	return failed
}

func (f Change) unwritable(err error) error {
	return trouble.New(trouble.Unreadable, "%s cannot be written: %w; nothing was changed", f.Path, err)
}

// Replace writes a file whole or not at all. It errs as WriteAll does.
func Replace(path string, body []byte) error { return WriteAll([]Change{{Path: path, Text: body}}) }
