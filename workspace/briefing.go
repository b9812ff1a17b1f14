package workspace

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"tovrel/core/briefing"
	"tovrel/core/profile"
	"tovrel/files"
	"tovrel/trouble"
)

// ReadBriefing reads a dataset's briefing; nil where it has none. Defects of the file are source.Problems. A file that is named and cannot
// be read is an error.
func (w *Workspace) ReadBriefing(d *Dataset) (*briefing.Briefing, error) {
	if d.Briefing == "" {
		return nil, nil
	}
	text, err := files.Read(w.Path(d.Briefing), files.Document)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, trouble.New(trouble.Unreadable,
			"%s: the briefing %s of dataset %s does not exist; write it with `tovrel data profile %s --write`", d.At,
			d.Briefing, d.Name, d.Name)
	}
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "the briefing %s cannot be read: %w", d.Briefing, err)
	}
	b, problems := briefing.Parse(d.Briefing, text)
	if len(problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	return b, nil
}

// WriteBriefing makes or extends a dataset's briefing by what was counted, and names it in tovrel.yaml where that does not name one.
// Everything that is there stays as it is. It gives the briefing's path. It errs, and writes nothing, where the briefing cannot be read
// or would not be read back as it was meant.
func (w *Workspace) WriteBriefing(d *Dataset, facts *profile.Dataset) (string, error) {
	path := d.Briefing
	if path == "" {
		path = filepath.ToSlash(filepath.Join("briefings", d.Name+".yaml"))
	}
	text, err := files.Read(w.Path(path), files.Document)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", trouble.New(trouble.Unreadable, "the briefing %s cannot be read: %w", path, err)
	}
	extended, err := briefing.Extend(path, text, facts)
	if err != nil {
		return "", trouble.As(trouble.Unreadable, err)
	}
	if string(extended) != string(text) {
		if err := os.MkdirAll(filepath.Dir(w.Path(path)), 0o755); err != nil {
			return "", trouble.New(trouble.Unreadable, "the folder of %s cannot be made: %w", path, err)
		}
		if err := files.Replace(w.Path(path), extended); err != nil {
			return "", err
		}
	}
	if d.Briefing != "" {
		return path, nil
	}
	_, write, err := w.Extended([]string{"datasets", d.Name}, []string{"briefing: " + path})
	if err != nil {
		return path, err
	}
	return path, write()
}
