package cli

import (
	"context"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/feedback"
	"tovrel/core/golden"
	"tovrel/core/source"
	"tovrel/dataset/sample"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/upkeep"
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
		Long: "Reads questions that users asked and rated, as JSON Lines or CSV with the fields question, query, text, chart,\nrating " +
			"(up, down, 1, -1, 4/5) and comment. Near-duplicates are joined. What no golden set of the dataset holds yet is " +
			"appended as a draft, which is never scored until\nyou take draft: true out; queries and words that were rated down are " +
			"kept under rejected:, also for questions that are there already. The\nsame file again adds nothing.",
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
	on, err := a.opened(ctx, w, target.Dataset, 1)
	if err != nil {
		return err
	}
	defer on.Close()
	h := upkeep.NewHarvest(sets, on)
	for _, c := range feedback.Gather(rated, upkeep.Held(sets)) {
		if err := h.Take(ctx, c); err != nil {
			return err
		}
	}
	if !o.dryRun {
		if err := files.WriteAll(h.Changes(w, isNew)); err != nil {
			return err
		}
	}
	forms := make([]view.HarvestForm, len(h.Taken))
	for i, taken := range h.Taken {
		forms[i] = view.HarvestForm(taken)
	}
	return a.show(view.Harvested(target.File, len(rated), forms, o.dryRun))
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
		return nil, false, trouble.New(trouble.Usage, "%s is about %s, not %s; name another file with --into", file, set.Dataset,
			o.dataset)
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
