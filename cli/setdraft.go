package cli

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"tovrel/core/draft"
	"tovrel/core/golden"
	"tovrel/core/profile"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

type setDraftOptions struct {
	count  int
	file   string
	dryRun bool
}

func newSetDraftCmd(a *app) *cobra.Command {
	var o setDraftOptions
	cmd := &cobra.Command{
		Use: "draft DATASET", Short: "Propose starter questions with their answers, as drafts", Args: usage(cobra.ExactArgs(1)),
		Long: "Propose questions of different kinds from the dataset's profile and briefing, each with a reference query and " +
			"its computed answer, and\nadd them to a golden set as drafts: no run scores them until somebody has read them " +
			"and taken draft: true away. Columns that no\ngolden set asks about come first; what is there already stays and " +
			"is not proposed again.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.setDraft(cmd.Context(), o, args[0]) },
	}
	f := cmd.Flags()
	f.IntVar(&o.count, "count", 15, "how many questions")
	f.StringVarP(&o.file, "file", "o", "", "the golden set to add them to (default: golden/DATASET-drafts.md)")
	f.BoolVar(&o.dryRun, "dry-run", false, "only show what would be added")
	cmd.ValidArgsFunction = a.completeDatasets
	return cmd
}

func (a *app) setDraft(ctx context.Context, o setDraftOptions, name string) error {
	if o.count < 1 {
		return trouble.New(trouble.Usage, "--count %d: propose at least one question", o.count)
	}
	w, err := a.open()
	if err != nil {
		return err
	}
	d, err := w.Dataset(name)
	if err != nil {
		return err
	}
	if o.file == "" {
		o.file = filepath.ToSlash(filepath.Join("golden", name+"-drafts.md"))
	}
	set, isNew, err := a.setToExtend(w, setAddOptions{dataset: name}, w.FromHere(o.file))
	if err != nil {
		return err
	}
	if set.Dataset != name {
		return trouble.New(trouble.Usage, "%s is about the dataset %s, not %s", o.file, set.Dataset, name)
	}
	text, drafted, err := a.drafts(ctx, w, d, set, o.count)
	if err != nil {
		return err
	}
	if err := a.show(view.Drafted(set.File, drafted, o.dryRun)); err != nil || o.dryRun || len(drafted) == 0 {
		return err
	}
	file := w.SetFile(set, text)
	if isNew {
		file = files.Change{Path: w.Path(set.File), Text: text, New: true}
	}
	return files.WriteAll([]files.Change{file})
}

// drafts adds proposals whose answers are worth having to a set's text.
func (a *app) drafts(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, set *golden.Set,
	count int) ([]byte, []view.DraftForm, error) {
	on, err := a.opened(ctx, w, d.Name, workers())
	if err != nil {
		return nil, nil, err
	}
	defer on.Close()
	facts, err := surveyed(ctx, on)
	if err != nil {
		return nil, nil, err
	}
	said, err := w.ReadBriefing(d)
	if err != nil {
		return nil, nil, err
	}
	asked, covered, err := a.askedAbout(ctx, w, d, on, facts)
	if err != nil {
		return nil, nil, err
	}
	text := set.Text()
	var out []view.DraftForm
	for _, q := range draft.Propose(facts, said, covered) {
		if len(out) == count {
			break
		}
		if asked[q.SQL] {
			continue
		}
		answer, err := draftAnswer(ctx, on, q.SQL)
		if err != nil {
			return nil, nil, err
		}
		if answer == "" {
			continue
		}
		id := set.FreeID(q.Text)
		text, err = set.Add(golden.New{ID: id, Text: q.Text, Settings: []golden.Setting{{Key: "draft", Value: "true"}},
			Answered: golden.Answered{Query: q.SQL, Table: answer}})
		if err != nil {
			return nil, nil, trouble.New(trouble.Usage, "%s cannot take the question %q: %w", set.File, q.Text, err)
		}
		if set, _ = golden.Parse(set.File, text); set == nil {
			return nil, nil, trouble.New(trouble.Internal, "the drafts cannot be read back")
		}
		out = append(out, view.DraftForm{Question: set.Name + "/" + id, Kind: q.Kind, Text: q.Text, Query: q.SQL})
	}
	return text, out, nil
}

// draftAnswer is a proposal's answer as a golden table; "" where it does not run, finds nothing, or does not fit a document.
func draftAnswer(ctx context.Context, q expect.Queries, sql string) (string, error) {
	result, err := q.Query(ctx, engine.Request{SQL: sql})
	if _, failed := expect.Failure(err); failed {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	t := result.Table
	if t.Rows() == 0 || t.Rows() > upkeep.FitsDocument || t.Rows() == 1 && t.Columns[len(t.Columns)-1].IsNull(0) {
		return "", nil
	}
	text, err := golden.FormatTable(t)
	if err != nil {
		return "", nil // a line break in a cell: it does not fit
	}
	return text, nil
}

// askedAbout are the reference queries of all golden sets on a dataset, drafts among them, and the columns that those which are scored
// read.
func (a *app) askedAbout(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, q expect.Queries,
	facts *profile.Dataset) (asked map[string]bool, covered map[profile.Place]bool, err error) {
	asked, covered = map[string]bool{}, map[profile.Place]bool{}
	files, err := w.SetFiles()
	if errors.Is(err, fs.ErrNotExist) {
		return asked, covered, nil
	}
	if err != nil {
		return nil, nil, err
	}
	sets, _, err := w.ReadSets(files) // their own defects are for `set check`
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, nil, err
	}
	for _, s := range sets {
		if s.Dataset != d.Name {
			continue
		}
		for _, question := range s.All() {
			asked[question.Answer.Query] = true
		}
	}
	trees, err := expect.ReferenceTrees(ctx, q, sets, d.Name)
	if err != nil {
		return nil, nil, err
	}
	for _, t := range facts.Tables {
		for _, c := range t.Columns {
			for _, tree := range trees {
				if tree.Reads(t.Name, c.Name) {
					covered[profile.Place{Table: t.Name, Column: c.Name}] = true
				}
			}
		}
	}
	return asked, covered, nil
}
