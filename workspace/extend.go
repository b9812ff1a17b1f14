package workspace

import (
	"fmt"
	"path/filepath"
	"strings"

	"tovrel/core/source"
	"tovrel/core/yamldoc"
	"tovrel/files"
	"tovrel/trouble"
)

// Extended is the workspace with lines more in its tovrel.yaml, in the mapping under a path of keys; everything else in the file stays
// as it was. The function writes the file. The error says what the lines would break.
func (w *Workspace) Extended(at, entries []string) (next *Workspace, write func() error, err error) {
	path := filepath.Join(w.Root, ConfigName)
	text, err := files.Read(path, files.Document)
	if err != nil {
		return nil, nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", ConfigName, err)
	}
	added, err := addLines(text, at, entries)
	if err != nil {
		return nil, nil, err
	}
	next, problems := parse(added)
	if len(problems) > 0 {
		return nil, nil, trouble.As(trouble.Usage, fmt.Errorf("the files cannot be added:\n%w", problems))
	}
	next.Root = w.Root
	return next, func() error { return files.Replace(path, added) }, nil
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
			return nil, trouble.New(trouble.Usage, "%s:%d: %s has no braces of its own; add this there by hand: %s", ConfigName,
				place.Line, keys[0], strings.Join(entries, ", "))
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
