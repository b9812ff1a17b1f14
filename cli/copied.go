package cli

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"tovrel/answers"
	"tovrel/attempt"
	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/record"
	"tovrel/core/source"
	"tovrel/core/wording"
	"tovrel/history"
	"tovrel/translator/recorded"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

// versioned is how a translator is named.
var versioned = pattern.Of(`^[A-Za-z0-9][A-Za-z0-9._-]*@[A-Za-z0-9][A-Za-z0-9._-]*$`)

// importCopied makes a run of answers that somebody copied from a tool that cannot be connected: they are judged as the answers of any
// translator, and the questions that were not put to it are left out.
func (a *app) importCopied(ctx context.Context, name string, paths []string) error {
	if !versioned.MatchString(name) {
		return trouble.New(trouble.Usage, "--translator %q: name the tool with its version or its day, as in rival@2031-06", name)
	}
	w, err := a.open()
	if err != nil {
		return err
	}
	all, err := a.questions(w, record.Options{})
	if err != nil {
		return err
	}
	copied, asked, err := readCopied(ctx, paths, all)
	if err != nil {
		return err
	}
	store, err := makeHistory(ctx, w)
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // every attempt is committed by itself
	uid := copiedUID(name, copied)
	if id, has, err := store.ByUID(uid); err != nil || has {
		if err == nil {
			a.say("Run %d is this one already; `tovrel rescore %d` judges it by today's golden sets.", id, id)
			err = a.showStored(store, id)
		}
		return err
	}
	options := record.Options{Wordings: 1, Repeats: 1, Brief: string(w.Run.Brief)}
	if len(asked) < len(all) {
		for _, c := range asked {
			options.Only = append(options.Only, c.Name())
		}
		a.say("%d of %d questions have an answer; the others are left out.", len(asked), len(all))
	}
	plan, done, err := a.plan(ctx, w, options, asked)
	if err != nil {
		return err
	}
	defer done()
	plan.UID = uid
	t := &workspace.Translator{Name: name, Kind: "recorded", Parallel: workers(), File: strings.Join(paths, ", "), Thread: "own"}
	r, attempts, err := a.runWith(ctx, w, t, recorded.Copied(copied), plan, store, nil)
	if err != nil {
		return err
	}
	if err := a.show(view.Runs([]record.Summary{record.Summarise(r, attempts)})); err != nil {
		return err
	}
	return spoiledBy(attempt.Defects(attempts))
}

func (a *app) showStored(store *history.Store, id int) error {
	r, err := store.Find(fmt.Sprint(id))
	if err != nil {
		return err
	}
	attempts, err := store.Attempts(id)
	if err != nil {
		return err
	}
	return a.show(view.Runs([]record.Summary{record.Summarise(r, attempts)}))
}

// copiedUID names a run of copied answers by what they are: the same answers are the same run.
func copiedUID(name string, copied []answers.Answer) string {
	body, _ := json.Marshal([]any{"copied", name, copied}) // plain fields always encode
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:8])
}

// readCopied reads files of copied answers and finds the questions that they answer. Each answer gets the question's whole name.
func readCopied(ctx context.Context, paths []string, all []workspace.Chosen) ([]answers.Answer, []workspace.Chosen, error) {
	var copied []answers.Answer
	var problems source.Problems
	answered := map[string]string{} // by question, where
	for _, path := range paths {
		if !answers.Readable(path) {
			return nil, nil, trouble.New(trouble.Usage, "%s: copied answers are read from .csv and .xlsx; an exported run is imported "+
				"without --translator", path)
		}
		read, err := answers.Read(ctx, path, path)
		if err != nil {
			return nil, nil, err
		}
		for _, one := range read {
			where := fmt.Sprintf("%s, row %d", path, one.Line)
			problem := source.Problem{Position: source.Position{File: path, Line: one.Line}, Code: "copied-answer", Severity: source.Error}
			c, hint := questionNamed(all, one.Question)
			switch before, twice := answered[c.nameOr(one.Question)]; {
			case hint != "":
				problem.Message, problem.Remedy = fmt.Sprintf("no golden question is %q", one.Question), hint
				problems = append(problems, problem)
			case twice:
				problem.Message, problem.Remedy = fmt.Sprintf("%s is answered in %s already", one.Question, before), "keep one of them"
				problems = append(problems, problem)
			default:
				answered[c.nameOr("")], one.Question = where, c.nameOr("")
				copied = append(copied, one)
			}
		}
	}
	if len(problems) > 0 {
		return nil, nil, trouble.As(trouble.Unreadable, problems)
	}
	asked := slices.DeleteFunc(slices.Clone(all), func(c workspace.Chosen) bool { return answered[c.Name()] == "" })
	return copied, asked, nil
}

// found is a question that was looked for; without a set where none was found.
type found struct{ *workspace.Chosen }

func (f found) nameOr(other string) string {
	if f.Chosen == nil {
		return other
	}
	return f.Name()
}

// questionNamed finds a question by its name, its id or one of its wordings; the hint says what was probably meant.
func questionNamed(all []workspace.Chosen, said string) (found, string) {
	folded := wording.Fold(said)
	var hits []*workspace.Chosen
	var names []string
	for i := range all {
		c := &all[i]
		names = append(names, c.Name())
		if c.Name() == said {
			return found{c}, ""
		}
		if strings.EqualFold(c.Question.ID, said) || slices.ContainsFunc(c.Question.Wordings(), func(w string) bool {
			return wording.Fold(w) == folded
		}) {
			hits = append(hits, c)
		}
	}
	switch len(hits) {
	case 1:
		return found{hits[0]}, ""
	case 0:
		if strings.Contains(said, " ") {
			return found{}, "write it as the golden set does, or its id; `tovrel set list` lists them"
		}
		return found{}, near.Hint(said, names)
	}
	return found{}, fmt.Sprintf("several are, write which: %s or %s", hits[0].Name(), hits[1].Name())
}
