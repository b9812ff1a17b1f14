// Package workspace reads a workspace: tovrel.yaml, the golden sets, and the frozen datasets under .tovrel. It asks no
// translator and runs no query.
package workspace

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"tovrel/core/briefing"
	"tovrel/core/diagnose"
	"tovrel/core/match"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/value"
	"tovrel/core/versus"
	"tovrel/dataset/sample"
	"tovrel/engine"
	"tovrel/files"
	"tovrel/trouble"
)

// ConfigName is the file that makes a folder a workspace.
const ConfigName = "tovrel.yaml"

// Workspace is a folder with tovrel.yaml, read.
type Workspace struct {
	Root        string
	Datasets    []*Dataset    // in the order of the file
	Translators []*Translator // in the order of the file
	Rules       match.Rules
	Run         RunSettings
	Limits      engine.Limits
	Gate        versus.Gate
	History     string // path of the history
	// HistoryVariable is the environment variable that names the history instead; "" for none.
	HistoryVariable string
}

// Dataset is a named group of sample tables.
type Dataset struct {
	Name        string
	At          source.Position
	AsOf        string // ISO date or timestamp; "" for none
	Tables      []Table
	Connect     string    // "sqlite" or "duckdb" where the dataset is a database file of its own; then it has no tables here
	File        string    // of that database
	Server      *OnServer // where its queries run on a server; nil for the embedded engines
	Briefing    string    // path; "" for none
	ShareValues bool
	Limits      engine.Limits
}

// Table is one sample table.
type Table struct {
	Name      string
	At        source.Position
	File      string // as written: a path, or a pattern that several files match
	Types     map[string]value.Kind
	Options   sample.Options
	NullWords []string // read as null

	SQL         string // of a computed table; "" for one of a file
	HideSources bool   // what a computed table reads is not told to translators
}

// Translator is what is under test.
type Translator struct {
	Name     string // name@version
	At       source.Position
	Kind     string
	Parallel int           // asks at once
	Timeout  time.Duration // of one ask
	Dialect  string        // "" for the dataset's
	Rate     float64       // asks a second; 0 for no bound
	Retries  int
	Price    Price
	Thread   string // own or golden
	Protocol int    // version of the protocol
	Score    string // the part that is judged; "" for the first that is there

	Run         []string          // command, mcp: the program and its arguments
	Keep        bool              // command: one process for all asks
	Env         []string          // command, mcp: names of environment variables that pass
	Dir         string            // command, mcp: where it runs; the workspace by default
	File        string            // recorded
	URL         string            // http, chat, mcp
	Headers     map[string]string // http, chat, mcp; ${NAME} is not replaced yet
	Model       string            // chat
	Prompt      string            // chat: path of a template; "" for the default
	Temperature *float64          // chat
	Key         string            // chat: ${NAME}, not replaced yet
	Tool        string            // mcp
	Version     string            // pocket
	Quirks      []string          // pocket
	Seed        int               // pocket
}

// Price is what tokens cost, per million.
type Price struct{ Input, Output float64 }

// Budget bounds a run; zero is no bound.
type Budget struct {
	Money  float64
	Tokens int64
}

// RunSettings are the defaults of runs.
type RunSettings struct {
	Parallel   int
	Timeout    time.Duration
	Brief      briefing.Level
	Wordings   int // of each question at most; 0 for all
	Repeats    int
	Budget     Budget
	Twins      int             // of each dataset, on which right answers are tried again
	TellAtMost int             // tables, to each question
	Diagnose   diagnose.Budget // of the search for one wrong answer's cause; no runs for none
}

// Find gives the nearest folder at or above a start that holds tovrel.yaml. It errs where there is none.
func Find(start string) (string, error) {
	dir, err := filepath.Abs(start)
	if err != nil {
		return "", trouble.As(trouble.Unreadable, err)
	}
	for {
		if _, err := os.Stat(filepath.Join(dir, ConfigName)); err == nil {
			return dir, nil
		}
		parent := filepath.Dir(dir)
		if parent == dir {
			return "", trouble.New(trouble.Unreadable,
				"no %s here or in a folder above; go to a workspace, name one with --workspace DIR, or begin one here with "+
					"`tovrel init`", ConfigName)
		}
		dir = parent
	}
}

// Open reads the workspace in a folder. Defects of tovrel.yaml are source.Problems. A folder without one is an error.
func Open(root string) (*Workspace, error) {
	text, err := files.Read(filepath.Join(root, ConfigName), files.Document)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, trouble.New(trouble.Unreadable, "%s has no %s; name a workspace with --workspace DIR", root, ConfigName)
	}
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", ConfigName, err)
	}
	w, problems := parse(text)
	if len(problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	w.Root = root
	return w, nil
}

// Relative is a path below the workspace as people are told of it; one that is not below it stays.
func (w *Workspace) Relative(path string) string {
	relative, err := filepath.Rel(w.Root, path)
	if err != nil || strings.HasPrefix(relative, "..") {
		return path
	}
	return filepath.ToSlash(relative)
}

// Path makes a path of the workspace absolute.
func (w *Workspace) Path(path string) string {
	if filepath.IsAbs(path) {
		return path
	}
	return filepath.Join(w.Root, path)
}

// State is the folder for frozen datasets and history; it is made when it is missing. It errs where it cannot be made.
func (w *Workspace) State() (string, error) {
	dir := filepath.Join(w.Root, ".tovrel")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", trouble.New(trouble.Unreadable, "the folder %s cannot be made: %w", dir, err)
	}
	ignore := filepath.Join(dir, ".gitignore")
	if _, err := os.Stat(ignore); errors.Is(err, fs.ErrNotExist) {
		if err := os.WriteFile(ignore, []byte("*\n"), 0o644); err != nil {
			return "", trouble.New(trouble.Unreadable, "%s cannot be written: %w", ignore, err)
		}
	}
	return dir, nil
}

// Dataset finds a dataset by name. It errs where there is none, with the nearest name.
func (w *Workspace) Dataset(name string) (*Dataset, error) {
	var names []string
	for _, d := range w.Datasets {
		if d.Name == name {
			return d, nil
		}
		names = append(names, d.Name)
	}
	return nil, unknown("dataset", name, names)
}

// TranslatorNames lists the translators of tovrel.yaml.
func (w *Workspace) TranslatorNames() []string {
	var names []string
	for _, t := range w.Translators {
		names = append(names, t.Name)
	}
	return names
}

// Translator finds a translator by its name and version; a name alone is enough where it has one version. It errs with trouble.Usage,
// naming what is near, where there is none or the name alone does not tell.
func (w *Workspace) Translator(name string) (*Translator, error) {
	var names []string
	var found []*Translator
	for _, t := range w.Translators {
		if t.Name == name {
			return t, nil
		}
		if base, _, _ := strings.Cut(t.Name, "@"); base == name {
			found = append(found, t)
		}
		names = append(names, t.Name)
	}
	if len(found) == 1 {
		return found[0], nil
	}
	return nil, unknown("translator", name, names)
}

func unknown(what, name string, known []string) error {
	if len(known) == 0 {
		return trouble.New(trouble.Usage, "unknown %s %q; %s has none", what, name, ConfigName)
	}
	return trouble.New(trouble.Usage, "unknown %s %q; %s", what, name, near.Hint(name, known))
}

// Plural is "1 row" or "3 rows".
func Plural(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}
