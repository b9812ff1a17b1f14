package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/feedback"
	"tovrel/core/golden"
	"tovrel/core/source"
	"tovrel/dataset/sample"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type harvestOptions struct {
	into, dataset string
	dryRun        bool
}

func newHarvestCmd(a *app) *cobra.Command {
	o := harvestOptions{}
	cmd := &cobra.Command{
		Use: "harvest FILE", Short: "Turn users' rated questions into draft questions", Args: usage(cobra.ExactArgs(1)),
		Long: "Reads questions that users asked and rated, as JSON Lines or CSV with the fields question, query, rating (up, down, 1, -1, 4/5) and\ncomment. Near-duplicates are joined. What no golden set of the dataset holds yet is appended as a draft, which is never scored until\nyou take draft: true out; queries that were rated down are kept under rejected:, also for questions that are there already. The\nsame file again adds nothing.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.harvest(cmd.Context(), o, args[0]) },
	}
	f := cmd.Flags()
	f.StringVar(&o.into, "into", "golden/harvest.md", "the golden set that drafts are appended to; begun where it does not exist")
	f.StringVar(&o.dataset, "dataset", "", "the dataset that was asked (default: that of the golden set, or the only one)")
	f.BoolVar(&o.dryRun, "dry-run", false, "only show what would be added")
	_ = cmd.RegisterFlagCompletionFunc("dataset", a.completeDatasets)
	return cmd
}

func (a *app) harvest(ctx context.Context, o harvestOptions, path string) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	rated, err := readFeedback(path)
	if err != nil {
		return err
	}
	into := w.FromHere(o.into)
	if o.into == "golden/harvest.md" {
		into = o.into
	}
	target, isNew, err := a.harvestInto(w, o, into)
	if err != nil {
		return err
	}
	sets, err := a.harvestSets(w, target, isNew)
	if err != nil {
		return err
	}
	d, err := w.Dataset(target.Dataset)
	if err != nil {
		return err
	}
	frozen, err := a.freeze(ctx, w, d)
	if err != nil {
		return err
	}
	pool := a.pool(frozen, d.Limits, 1)
	defer pool.Close()
	h := &harvesting{sets: sets, now: append([]*golden.Set(nil), sets...), target: len(sets) - 1, pool: pool}
	for _, c := range feedback.Gather(rated, heldBy(sets)) {
		if err := h.take(ctx, c); err != nil {
			return err
		}
	}
	if !o.dryRun {
		if err := h.write(w, isNew); err != nil {
			return err
		}
	}
	return a.show(view.Harvested(target.File, len(rated), h.forms, o.dryRun))
}

// readFeedback reads rated questions by the file's ending.
func readFeedback(path string) ([]feedback.Rated, error) {
	var rated []feedback.Rated
	var problems source.Problems
	switch strings.ToLower(filepath.Ext(path)) {
	case ".jsonl", ".ndjson":
		body, err := readText(path)
		if err != nil {
			return nil, err
		}
		rated, problems = feedback.ParseLines(path, []byte(body))
	case ".csv":
		sheets, err := sample.WorkbookSheets(path)
		if err != nil {
			return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
		}
		rated, problems = feedback.ParseRows(path, sheets[0].Rows)
	default:
		return nil, trouble.New(trouble.Usage, "%s: rated questions are read from files that end in .jsonl or .csv", path)
	}
	if len(problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	return rated, nil
}

// harvestInto is the golden set that drafts are appended to, begun where it does not exist.
func (a *app) harvestInto(w *workspace.Workspace, o harvestOptions, file string) (*golden.Set, bool, error) {
	if o.dataset == "" && len(w.Datasets) == 1 {
		o.dataset = w.Datasets[0].Name
	}
	set, isNew, err := a.setToExtend(w, setAddOptions{dataset: o.dataset}, file)
	if err == nil && o.dataset != "" && set.Dataset != o.dataset {
		return nil, false, trouble.New(trouble.Usage, "%s is about %s, not %s; name another file with --into", file, set.Dataset, o.dataset)
	}
	return set, isNew, err
}

// harvestSets are all golden sets of the target's dataset, the target last.
func (a *app) harvestSets(w *workspace.Workspace, target *golden.Set, isNew bool) ([]*golden.Set, error) {
	files, err := w.SetFiles()
	if err != nil {
		return nil, err
	}
	var out []*golden.Set
	if len(files) > 0 {
		sets, err := a.sets(w, nil)
		if err != nil {
			return nil, err
		}
		for _, s := range sets {
			if s.Dataset == target.Dataset && s.File != target.File {
				out = append(out, s)
			}
			if s.File == target.File && !isNew {
				target = s
			}
		}
	}
	return append(out, target), nil
}

func heldBy(sets []*golden.Set) []feedback.Known {
	var out []feedback.Known
	for _, s := range sets {
		for _, q := range s.All() {
			if q.After == nil {
				out = append(out, feedback.Known{Name: s.QuestionName(q), Wordings: q.Wordings(), Rejected: q.Rejected})
			}
		}
	}
	return out
}

// harvesting takes candidates over. Sets are parsed anew after each change.
type harvesting struct {
	sets, now []*golden.Set // as they were read, and as they are
	target    int
	pool      expect.Queries
	forms     []view.HarvestForm
}

func (h *harvesting) take(ctx context.Context, c feedback.Candidate) error {
	form := view.HarvestForm{Question: c.Holds, Text: c.Question, Asked: c.Asked, Wordings: len(c.AlsoAsked) + 1, Rejected: len(c.Rejected), State: "held"}
	if c.Holds != "" {
		defer func() { h.forms = append(h.forms, form) }()
		if len(c.Rejected) == 0 {
			return nil
		}
		form.State = "rejected added"
		return h.reject(c)
	}
	note := fmt.Sprintf("Asked %d times.", c.Asked)
	if c.Asked == 1 {
		note = "Asked once."
	}
	query := c.Query
	if query != "" {
		_, err := h.pool.Query(ctx, engine.Request{SQL: query})
		if _, failed := expect.Failure(err); failed {
			query = ""
			note += " The query that answered it does not run here."
		} else if err != nil {
			return err
		}
	}
	if query != "" && !c.RatedUp {
		note += " Nobody rated its query."
	}
	for _, comment := range c.Comments {
		note += "\n\n> " + golden.Escape(comment)
	}
	set := h.now[h.target]
	id := set.FreeID(c.Question)
	form.Question, form.State, form.Query = set.Name+"/"+id, "draft", query
	h.forms = append(h.forms, form)
	return h.change(h.target, func(set *golden.Set) ([]byte, error) {
		return set.Add(golden.New{ID: id, Text: c.Question, Note: note, Answered: golden.Answered{Query: query}, Settings: []golden.Setting{
			{Key: "draft", Value: "true"}, {Key: "also-asked", Value: golden.List(c.AlsoAsked)}, {Key: "rejected", Value: golden.List(c.Rejected)}}})
	})
}

// reject keeps queries that were rated down with a question that is there.
func (h *harvesting) reject(c feedback.Candidate) error {
	name, id, _ := strings.Cut(c.Holds, "/")
	for i, set := range h.now {
		if set.Name == name {
			return h.change(i, func(set *golden.Set) ([]byte, error) {
				q := questionOf(set, id)
				return set.EditQuestion(q, golden.Edit{Settings: []golden.Setting{{Key: "rejected", Value: golden.List(append(append([]string(nil), q.Rejected...), c.Rejected...))}}})
			})
		}
	}
	return nil
}

func (h *harvesting) change(at int, edit func(*golden.Set) ([]byte, error)) error {
	text, err := edit(h.now[at])
	if err != nil {
		return trouble.New(trouble.Usage, "%s cannot take it: %w", h.now[at].File, err)
	}
	h.now[at], _ = golden.Parse(h.now[at].File, text) // every edit is read back before
	return nil
}

// write writes all sets that changed, or none.
func (h *harvesting) write(w *workspace.Workspace, isNew bool) error {
	var changes []files.Change
	for i, set := range h.now {
		text := set.Text()
		switch {
		case string(text) == string(h.sets[i].Text()):
		case i == h.target && isNew:
			changes = append(changes, files.Change{Path: w.Path(set.File), Text: text, New: true})
		default:
			changes = append(changes, w.SetFile(h.sets[i], text))
		}
	}
	return files.WriteAll(changes)
}
