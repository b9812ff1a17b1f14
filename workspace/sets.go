package workspace

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/engine"
	"tovrel/files"
	"tovrel/trouble"
)

// SetFiles lists the golden sets' files, sorted, relative to the workspace. It errs where the folder cannot be read.
func (w *Workspace) SetFiles() ([]string, error) {
	paths, err := filepath.Glob(filepath.Join(w.Root, "golden", "*.md"))
	if err != nil {
		return nil, trouble.As(trouble.Unreadable, err)
	}
	slices.Sort(paths)
	for i, p := range paths {
		paths[i] = filepath.Join("golden", filepath.Base(p))
	}
	return paths, nil
}

// ReadSets parses golden sets' files and gives all their defects, also those that only show among several files. It errs where a file
// cannot be read.
func (w *Workspace) ReadSets(paths []string) ([]*golden.Set, source.Problems, error) {
	var sets []*golden.Set
	var problems source.Problems
	named := map[string]string{}
	for _, file := range paths {
		text, err := files.Read(w.Path(file), files.Document)
		if err != nil {
			return nil, nil, trouble.New(trouble.Unreadable, "golden set %s cannot be read: %w", file, err)
		}
		set, found := golden.Parse(file, text)
		problems = append(problems, found...)
		if before := named[set.Name]; before != "" && set.Name != "" {
			problems = append(problems, setProblem(set, "duplicate-set",
				fmt.Sprintf("the set's name %q is already used in %s", set.Name, before), "give one of them another name"))
		}
		named[set.Name] = file
		if _, err := w.Dataset(set.Dataset); err != nil && set.Dataset != "" {
			problems = append(problems, setProblem(set, "unknown-dataset", err.Error(), ""))
		}
		problems = append(problems, w.fileProblems(set)...)
		sets = append(sets, set)
	}
	return sets, append(problems, w.strayFiles(sets)...), nil
}

// strayFiles finds files in folders of expected answers that no question expects. The sets must be all of those that are there.
func (w *Workspace) strayFiles(sets []*golden.Set) source.Problems {
	present, err := w.SetFiles()
	if err != nil || len(present) > len(sets) {
		return nil // only some sets were read
	}
	used, folders := map[string]bool{}, map[string]bool{}
	for _, s := range sets {
		for _, q := range s.All() {
			answers := []golden.Answer{q.Answer}
			for _, r := range q.Readings {
				answers = append(answers, r.Answer)
			}
			for _, a := range answers {
				if a.File != "" {
					used[w.ExpectedPath(s, a)] = true
				}
			}
		}
		folders[filepath.Join(filepath.Dir(w.Path(s.File)), "answers")] = true
	}
	for path := range used {
		if folder := filepath.Dir(path); filepath.Base(folder) != "golden" {
			folders[folder] = true
		}
	}
	var problems source.Problems
	for folder := range folders {
		files, err := os.ReadDir(folder)
		if err != nil {
			continue // there is none
		}
		for _, f := range files {
			path := filepath.Join(folder, f.Name())
			ending := strings.ToLower(filepath.Ext(path))
			if used[path] || f.IsDir() || ending != ".csv" && ending != ".parquet" {
				continue
			}
			name, err := filepath.Rel(w.Root, path)
			if err != nil {
				name = path
			}
			problems = append(problems, source.Problem{Position: source.Position{File: name}, Code: "stray-file", Severity: source.Warning,
				Message: "no question expects this file", Remedy: "name it with expected: in a question's settings, or remove it"})
		}
	}
	return problems
}

// fileProblems finds expected files that are missing.
func (w *Workspace) fileProblems(set *golden.Set) source.Problems {
	var problems source.Problems
	check := func(a golden.Answer) {
		if a.File == "" {
			return
		}
		if _, err := os.Stat(w.ExpectedPath(set, a)); err != nil {
			problems = append(problems, source.Problem{Position: a.FileAt, Code: "expected-file-missing", Severity: source.Error,
				Message: fmt.Sprintf("the expected file %s does not exist", a.File), Remedy: "correct the path, relative to the golden set",
				Excerpt: source.Line(set.Text(), a.FileAt.Line)})
		}
	}
	for _, q := range set.All() {
		check(q.Answer)
		for _, r := range q.Readings {
			check(r.Answer)
		}
		if dialect := w.dialect(set.Dataset); q.Dialect != "" && q.Dialect != dialect {
			problems = append(problems, source.Problem{Position: q.At, Code: "other-dialect", Severity: source.Error,
				Message: fmt.Sprintf("the reference query of %s is for %s, and the dataset lives on %s", q.ID, q.Dialect,
					dialect), Remedy: "write it in the dataset's dialect"})
		}
	}
	return problems
}

// dialect is the engine that a dataset lives on.
func (w *Workspace) dialect(dataset string) string {
	if d, err := w.Dataset(dataset); err == nil {
		return d.Dialect()
	}
	return engine.DuckDB
}

// ExpectedPath is where an answer's expected file is: beside the golden set.
func (w *Workspace) ExpectedPath(set *golden.Set, a golden.Answer) string {
	return filepath.Join(filepath.Dir(w.Path(set.File)), a.File)
}

func setProblem(set *golden.Set, code, message, remedy string) source.Problem {
	line := 1
	for i, l := range strings.Split(string(set.Text()), "\n") {
		if strings.HasPrefix(l, "golden-set:") && code == "duplicate-set" || strings.HasPrefix(l, "dataset:") && code == "unknown-dataset" {
			line = i + 1
			break
		}
	}
	return source.Problem{Position: source.Position{File: set.File, Line: line, Column: 1}, Code: code, Severity: source.Error,
		Message: message, Remedy: remedy, Excerpt: source.Line(set.Text(), line)}
}

// Chosen is a question to ask, with its set.
type Chosen struct {
	Set      *golden.Set
	Question *golden.Question
}

// Name is the question's name in the workspace.
func (c Chosen) Name() string { return c.Set.QuestionName(c.Question) }

// isNamed tells whether a name is a question's; one with parameters is also meant by its name without them, in all its combinations.
func (c Chosen) isNamed(name string, isSet bool) bool {
	q := c.Question
	base := q.Base != nil && (c.Set.QuestionName(q.Base) == name || q.Base.ID == name && !isSet)
	return c.Name() == name || q.ID == name && !isSet || base
}

// Choose selects questions by the names of sets and questions; no names choose all. Follow-ups come with their question. A question may
// be named without its set where only one has it, and no set has that name. Drafts are never chosen. It errs for a name that nothing has,
// with the nearest.
func Choose(sets []*golden.Set, names []string) ([]Chosen, error) {
	var all []Chosen
	for _, s := range sets {
		for _, q := range s.Each() {
			if !q.Draft {
				all = append(all, Chosen{s, q})
			}
		}
	}
	if len(names) == 0 {
		return all, nil
	}
	wanted := map[*golden.Question]bool{}
	for _, name := range names {
		if err := want(all, name, wanted); err != nil {
			return nil, err
		}
	}
	var chosen []Chosen
	for _, c := range all {
		if wanted[c.Question] || c.Question.After != nil && wanted[c.Question.After] {
			wanted[c.Question] = true
			chosen = append(chosen, c)
		}
	}
	return chosen, nil
}

// WithTags keeps the questions that have all of some tags, of their own or of their set; follow-ups go with their question. It errs
// where no question has them.
func WithTags(chosen []Chosen, tags []string) ([]Chosen, error) {
	if len(tags) == 0 {
		return chosen, nil
	}
	var out []Chosen
	var known []string
	for _, c := range chosen {
		root := c.Question
		for root.After != nil {
			root = root.After
		}
		has := append(append([]string(nil), c.Set.Tags...), root.Tags...)
		known = append(known, has...)
		all := true
		for _, tag := range tags {
			all = all && contains(has, tag)
		}
		if all {
			out = append(out, c)
		}
	}
	if len(out) == 0 {
		return nil, trouble.New(trouble.Usage, "no chosen question has %s %s; %s", map[bool]string{true: "the tag",
			false: "all of the tags"}[len(tags) == 1],
			strings.Join(tags, " and "), near.Hint(tags[0], slices.Compact(slices.Sorted(slices.Values(known)))))
	}
	return out, nil
}

func want(all []Chosen, name string, wanted map[*golden.Question]bool) error {
	var known, ambiguous []string
	found := map[string]bool{}
	isSet := slices.ContainsFunc(all, func(c Chosen) bool { return c.Set.Name == name })
	for _, c := range all {
		known = append(known, c.Name())
		if c.Set.Name == name || c.isNamed(name, isSet) {
			wanted[c.Question] = true
			found[c.Set.Name] = true
			ambiguous = append(ambiguous, c.Name())
		}
	}
	switch {
	case len(found) == 0:
		hint := near.Name(name, known)
		if hint == "" {
			return trouble.New(trouble.Usage, "unknown set or question %q; `tovrel set list` lists them", name)
		}
		return trouble.New(trouble.Usage, "unknown set or question %q; did you mean %q?", name, hint)
	case len(found) > 1:
		return trouble.New(trouble.Usage, "several sets have a question %q; name it with its set, such as %s", name, ambiguous[0])
	}
	return nil
}

// FromHere gives a path that was named on the command line as one of the workspace, where it lies in it.
func (w *Workspace) FromHere(path string) string {
	absolute, err := filepath.Abs(path)
	if err != nil {
		return path
	}
	if _, err := os.Stat(absolute); err != nil {
		return path
	}
	root, err := filepath.Abs(w.Root)
	if err != nil {
		return absolute
	}
	if relative, err := filepath.Rel(root, absolute); err == nil && !strings.HasPrefix(relative, "..") {
		return relative
	}
	return absolute
}

// SetFile is the file of a golden set with a new text; it must still be as it was read.
func (w *Workspace) SetFile(set *golden.Set, text []byte) files.Change {
	return files.Change{Path: w.Path(set.File), Text: text, Was: append([]byte{}, set.Text()...)}
}

// WriteSet writes a golden set's new text, whole or not at all. A file that changed since it was read is left alone. It errs as
// files.WriteAll does.
func (w *Workspace) WriteSet(set *golden.Set, text []byte) error {
	return files.WriteAll([]files.Change{w.SetFile(set, text)})
}
