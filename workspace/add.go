package workspace

import (
	"context"
	"fmt"
	"path/filepath"
	"regexp"
	"strings"

	"tovrel/core/source"
	"tovrel/core/yamldoc"
	"tovrel/inputfile"
	"tovrel/samplefile"
	"tovrel/trouble"
)

// AddTables adds files as tables of a dataset, new or known, to tovrel.yaml: the dataset is frozen with them first, and only
// then the file is written, with everything else in it as it was. It gives the workspace as it is then.
func (w *Workspace) AddTables(ctx context.Context, dataset string, files []string, tool string) (*Workspace, *Dataset, error) {
	path := filepath.Join(w.Root, ConfigName)
	text, err := inputfile.Read(path, inputfile.Document)
	if err != nil {
		return nil, nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", ConfigName, err)
	}
	if !datasetName.MatchString(dataset) {
		return nil, nil, trouble.New(trouble.Usage, "%q cannot be a dataset's name; use letters, digits, dots, dashes and underscores", dataset)
	}
	var entries []string
	for _, file := range files {
		lines, err := w.entries(ctx, dataset, file)
		if err != nil {
			return nil, nil, err
		}
		entries = append(entries, lines...)
	}
	added, err := addLines(text, []string{"datasets", dataset, "tables"}, entries)
	if err != nil {
		return nil, nil, err
	}
	next, problems := parse(added)
	if len(problems) > 0 {
		return nil, nil, trouble.As(trouble.Usage, fmt.Errorf("the files cannot be added:\n%w", problems))
	}
	next.Root = w.Root
	d, err := next.Dataset(dataset)
	if err != nil {
		return nil, nil, err
	}
	if _, _, err := next.Freeze(ctx, d, tool); err != nil {
		return nil, nil, err
	}
	return next, d, replaceFile(path, added)
}

var notInName = regexp.MustCompile(`[^a-z0-9_]+`)

// entries are the lines of a file's tables: one under the file's name, or one for each table or sheet inside it. A pattern is one
// table of several files.
func (w *Workspace) entries(ctx context.Context, dataset, file string) ([]string, error) {
	absolute, err := filepath.Abs(file)
	if err != nil {
		return nil, trouble.As(trouble.Unreadable, err)
	}
	if found, err := filepath.Glob(absolute); err != nil || len(found) == 0 {
		return nil, trouble.New(trouble.Unreadable, "the file %s does not exist or cannot be read", file)
	}
	inside, err := samplefile.Tables(ctx, absolute)
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", file, err)
	}
	path := w.relative(absolute)
	stem := strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
	key, single := "table", len(inside) == 1
	if strings.EqualFold(filepath.Ext(file), ".xlsx") {
		key = "sheet"
	}
	if len(inside) == 0 || single && key == "sheet" {
		value := fmt.Sprintf("%q", path)
		writing, err := samplefile.GuessWriting(absolute)
		if err != nil {
			return nil, trouble.As(trouble.Unreadable, err)
		}
		if said := writing.Entries(); len(said) > 0 {
			value = fmt.Sprintf("{file: %q, %s}", path, strings.Join(said, ", "))
		}
		return w.entry(dataset, stem, file, value)
	}
	var all []string
	for _, name := range inside {
		lines, err := w.entry(dataset, name, file, fmt.Sprintf("{file: %q, %s: %q}", path, key, name))
		if err != nil {
			return nil, err
		}
		all = append(all, lines...)
	}
	return all, nil
}

func (w *Workspace) entry(dataset, stem, file, value string) ([]string, error) {
	name := tableName(stem)
	if d, err := w.Dataset(dataset); err == nil {
		for _, t := range d.Tables {
			if t.Name == name {
				return nil, trouble.New(trouble.Usage, "dataset %s already has a table %s (%s); rename %s, or change tovrel.yaml by hand", dataset, name, t.File, file)
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
func (w *Workspace) relative(absolute string) string {
	root, err := filepath.Abs(w.Root)
	if err != nil {
		return absolute
	}
	relative, err := filepath.Rel(root, absolute)
	if err != nil || strings.HasPrefix(relative, "..") {
		relative = absolute
	}
	return filepath.ToSlash(relative)
}

// addLines puts lines into the mapping under a path of keys, adding the keys that are missing. A mapping that is written in braces is
// extended within them; empty ones give way to lines.
func addLines(text []byte, at, entries []string) ([]byte, error) {
	lines := strings.Split(strings.TrimRight(string(text), "\n"), "\n")
	r, root := yamldoc.Read(ConfigName, text, text, 0)
	node, found := root, 0
	line, column := 0, 0
	for found < len(at) {
		next := entryOf(r, node, at[found])
		if next == nil {
			break
		}
		place := r.Position(next.At)
		node, line, column = next.Value, place.Line, place.Column
		found++
		if yamldoc.IsNull(node) {
			break
		}
		if brace, inBraces := r.Braces(node); inBraces {
			if isEmpty, ok := emptied(lines, place, brace); ok && isEmpty {
				break
			}
			return insideBraces(lines, r, node, brace, at[found:], entries)
		}
	}
	indent := 0
	end := len(lines)
	if found > 0 {
		end, indent = blockEnd(lines, line, column)
	}
	var added []string
	for i, key := range at[found:] {
		added = append(added, strings.Repeat(" ", indent+2*i)+key+":")
	}
	for _, e := range entries {
		added = append(added, strings.Repeat(" ", indent+2*(len(at)-found))+e)
	}
	out := append(append(append([]string(nil), lines[:end]...), added...), lines[end:]...)
	return []byte(strings.Join(out, "\n") + "\n"), nil
}

func entryOf(r *yamldoc.Reader, node yamldoc.Node, key string) *yamldoc.Entry {
	for _, e := range r.Entries(node, ConfigName) {
		if e.Key == key {
			return &e
		}
	}
	return nil
}

// emptied takes the braces of an empty mapping out of the line of its key; false where they stand elsewhere.
func emptied(lines []string, key, brace source.Position) (isEmpty, ok bool) {
	if key.Line != brace.Line {
		return false, false
	}
	runes := []rune(lines[brace.Line-1])
	open := brace.Column - 2
	for open >= 0 && runes[open] == ' ' {
		open--
	}
	if open < 0 || runes[open] != '{' {
		return false, true
	}
	lines[brace.Line-1] = strings.TrimRight(string(runes[:open]), " ") + string(runes[brace.Column:])
	return true, true
}

// insideBraces writes entries before the brace that closes a mapping, under the keys that are missing; where a mapping within it has the
// next key, into that one.
func insideBraces(lines []string, r *yamldoc.Reader, node yamldoc.Node, brace source.Position, keys, entries []string) ([]byte, error) {
	for len(keys) > 0 {
		next := entryOf(r, node, keys[0])
		if next == nil {
			break
		}
		inner, inBraces := r.Braces(next.Value)
		if !inBraces {
			place := r.Position(next.At)
			return nil, trouble.New(trouble.Usage, "%s:%d: %s has no braces of its own; add this there by hand: %s", ConfigName, place.Line, keys[0], strings.Join(entries, ", "))
		}
		node, brace, keys = next.Value, inner, keys[1:]
	}
	added := strings.Join(entries, ", ")
	for i := len(keys) - 1; i >= 0; i-- {
		added = keys[i] + ": {" + added + "}"
	}
	if len(r.Entries(node, ConfigName)) > 0 {
		added = ", " + added
	}
	runes := []rune(lines[brace.Line-1])
	at := brace.Column - 1
	for at > 0 && runes[at-1] == ' ' {
		at--
	}
	lines[brace.Line-1] = string(runes[:at]) + added + string(runes[at:])
	return []byte(strings.Join(lines, "\n") + "\n"), nil
}

// blockEnd finds the line behind a key's block, and how far its entries are indented. The key stands in a line and column
// counted from 1.
func blockEnd(lines []string, line, column int) (end, indent int) {
	end, indent = line, column+1
	first := true
	for i := line; i < len(lines); i++ {
		trimmed := strings.TrimLeft(lines[i], " ")
		depth := len(lines[i]) - len(trimmed)
		if trimmed == "" || strings.HasPrefix(trimmed, "#") {
			continue
		}
		if depth < column {
			break
		}
		if first {
			indent, first = depth, false
		}
		end = i + 1
	}
	return end, indent
}

// replaceFile writes a file whole or not at all.
func replaceFile(path string, body []byte) error { return WriteFiles([]File{{Path: path, Text: body}}) }
