package dataset

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"tovrel/core/pattern"
	"tovrel/dataset/sample"
	"tovrel/trouble"
	"tovrel/workspace"
)

// AddTables adds files as tables of a dataset, new or known, to tovrel.yaml: the dataset is frozen with them first, and only then the
// file is written, with everything else in it as it was. It gives the workspace as it is then. It errs, and writes nothing, where a
// name is taken or cannot be one, a file cannot be read, or the dataset cannot be frozen with it.
func (s *Store) AddTables(ctx context.Context, dataset string, files []string,
	tool string) (*workspace.Workspace, *workspace.Dataset, error) {
	if !workspace.IsDatasetName(dataset) {
		return nil, nil, trouble.New(trouble.Usage,
			"%q cannot be a dataset's name; use letters, digits, dots, dashes and underscores", dataset)
	}
	var entries []string
	for _, file := range files {
		lines, err := s.entries(ctx, dataset, file)
		if err != nil {
			return nil, nil, err
		}
		entries = append(entries, lines...)
	}
	next, write, err := s.Extended([]string{"datasets", dataset, "tables"}, entries)
	if err != nil {
		return nil, nil, err
	}
	d, err := next.Dataset(dataset)
	if err != nil {
		return nil, nil, err
	}
	if _, _, err := Of(next).Freeze(ctx, d, tool); err != nil {
		return nil, nil, err
	}
	return next, d, write()
}

var notInName = pattern.Of(`[^a-z0-9_]+`)

// entries are the lines of a file's tables: one under the file's name, or one for each table or sheet inside it. A pattern is one
// table of several files.
func (s *Store) entries(ctx context.Context, dataset, file string) ([]string, error) {
	absolute, err := filepath.Abs(file)
	if err != nil {
		return nil, trouble.As(trouble.Unreadable, err)
	}
	if found, err := filepath.Glob(absolute); err != nil || len(found) == 0 {
		return nil, trouble.New(trouble.Unreadable, "the file %s does not exist or cannot be read", file)
	}
	inside, err := sample.Tables(ctx, absolute)
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", file, err)
	}
	path := s.relative(absolute)
	stem := strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
	key, single := "table", len(inside) == 1
	if strings.EqualFold(filepath.Ext(file), ".xlsx") {
		key = "sheet"
	}
	if len(inside) == 0 || single && key == "sheet" {
		value := fmt.Sprintf("%q", path)
		writing, err := sample.GuessWriting(absolute)
		if err != nil {
			return nil, trouble.As(trouble.Unreadable, err)
		}
		if said := writing.Entries(); len(said) > 0 {
			value = fmt.Sprintf("{file: %q, %s}", path, strings.Join(said, ", "))
		}
		return s.entry(dataset, stem, file, value)
	}
	var all []string
	for _, name := range inside {
		lines, err := s.entry(dataset, name, file, fmt.Sprintf("{file: %q, %s: %q}", path, key, name))
		if err != nil {
			return nil, err
		}
		all = append(all, lines...)
	}
	return all, nil
}

func (s *Store) entry(dataset, stem, file, value string) ([]string, error) {
	name := tableName(stem)
	if d, err := s.Dataset(dataset); err == nil {
		for _, t := range d.Tables {
			if t.Name == name {
				return nil, trouble.New(trouble.Usage,
					"dataset %s already has a table %s (%s); rename %s, or change tovrel.yaml by hand", dataset, name, t.File, file)
			}
		}
	}
	return []string{name + ": " + value}, nil
}

// tableName makes a table's name of a file's or sheet's.
func tableName(stem string) string {
	name := strings.Trim(notInName.ReplaceAllString(strings.ToLower(stem), "_"), "_")
	if name == "" || name[0] >= '0' && name[0] <= '9' {
		name = "t_" + name
	}
	return name
}

// relative is a path from the workspace, where the file lies in it.
func (s *Store) relative(absolute string) string {
	root, err := filepath.Abs(s.Root)
	if err != nil {
		return absolute
	}
	relative, err := filepath.Rel(root, absolute)
	if err != nil || strings.HasPrefix(relative, "..") {
		relative = absolute
	}
	return filepath.ToSlash(relative)
}
