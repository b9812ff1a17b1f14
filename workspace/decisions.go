package workspace

import (
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"tovrel/core/decision"
	"tovrel/core/source"
	"tovrel/files"
	"tovrel/trouble"
)

// decisionsDir is where decisions stand.
const decisionsDir = "golden/decisions"

// Decisions reads what people decided about replies. Lines that cannot be read are given as problems; the others count. It errs where a
// file cannot be read.
func (w *Workspace) Decisions() (*decision.Kept, source.Problems, error) {
	paths, err := filepath.Glob(filepath.Join(w.Root, decisionsDir, "*.jsonl"))
	if err != nil {
		return nil, nil, trouble.As(trouble.Unreadable, err)
	}
	slices.Sort(paths)
	var all []decision.Decision
	var problems source.Problems
	for _, path := range paths {
		name := decisionsDir + "/" + filepath.Base(path)
		body, err := files.Read(path, files.Document)
		if err != nil {
			return nil, nil, trouble.New(trouble.Unreadable, "the decisions %s cannot be read: %w", name, err)
		}
		read, found := decision.Read(name, body)
		all, problems = append(all, read...), append(problems, found...)
	}
	kept := decision.Keep(all)
	return kept, append(problems, kept.Disagreements()...), nil
}

// DecisionsFile is the file of the decisions about a question's set, with what stands in it; nil where it is not there.
func (w *Workspace) DecisionsFile(question string) (name string, body []byte, err error) {
	set, _, _ := strings.Cut(question, "/")
	name = decisionsDir + "/" + set + ".jsonl"
	body, err = files.Read(w.Path(name), files.Document)
	if errors.Is(err, fs.ErrNotExist) {
		return name, nil, nil
	}
	return name, body, err
}

// AddDecisions appends decisions to the files of their sets, all of them or none, and gives the files' names.
func (w *Workspace) AddDecisions(all []decision.Decision) ([]string, error) {
	changes, names, err := w.DecisionChanges(all)
	if err != nil {
		return nil, err
	}
	return names, files.WriteAll(changes)
}

// DecisionChanges are the changes that append decisions to the files of their sets, with the files' names. The folder is made.
func (w *Workspace) DecisionChanges(all []decision.Decision) ([]files.Change, []string, error) {
	texts, was := map[string][]byte{}, map[string][]byte{}
	var names []string
	for _, d := range all {
		name, body, err := w.DecisionsFile(d.Question)
		if err != nil {
			return nil, nil, trouble.New(trouble.Unreadable, "the decisions %s cannot be read: %w", name, err)
		}
		if _, begun := texts[name]; !begun {
			names = append(names, name)
			was[name] = body
			texts[name] = slices.Clone(body)
			if n := len(body); n > 0 && body[n-1] != '\n' {
				texts[name] = append(texts[name], '\n')
			}
		}
		line, err := json.Marshal(d)
		if err != nil {
			return nil, nil, trouble.As(trouble.Unreadable, err)
		}
		texts[name] = append(append(texts[name], line...), '\n')
	}
	var changes []files.Change
	for _, name := range names {
		changes = append(changes, files.Change{Path: w.Path(name), Text: texts[name], Was: was[name], New: was[name] == nil})
	}
	if len(changes) > 0 {
		if err := os.MkdirAll(w.Path(decisionsDir), 0o750); err != nil {
			return nil, nil, trouble.As(trouble.Unreadable, err)
		}
	}
	return changes, names, nil
}
