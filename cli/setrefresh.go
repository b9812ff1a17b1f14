package cli

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

type refreshOptions struct {
	files       []string
	dryRun, yes bool
}

func newSetRefreshCmd(a *app) *cobra.Command {
	var o refreshOptions
	cmd := &cobra.Command{
		Use: "refresh [FILE…]", Short: "Compute the expected answers again, and show what changes",
		Long: "Runs the reference queries and shows cell by cell what differs from the tables that are written beside them; " +
			"asks before it writes\n(--yes where nobody can be asked). Only the bytes of the tables change. Where an earlier " +
			"run tells, it says whether the data changed or\nthe query. Answers without a reference query are listed for review.",
		RunE: func(cmd *cobra.Command, args []string) error {
			o.files = args
			return a.setRefresh(cmd.Context(), o)
		},
	}
	cmd.Flags().BoolVar(&o.dryRun, "dry-run", false, "only show what would change")
	cmd.Flags().BoolVar(&o.yes, "yes", false, "write without asking")
	return cmd
}

func (a *app) setRefresh(ctx context.Context, o refreshOptions) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	sets, err := a.sets(w, o.files)
	if err != nil {
		return err
	}
	var forms []view.RefreshedForm
	var changes []setChange
	changed := 0
	for _, set := range sets {
		refreshed, because, err := a.refreshSet(ctx, w, set)
		if err != nil {
			return err
		}
		change := setChange{set: set, tables: map[*golden.Answer]string{}}
		for _, r := range refreshed {
			form := refreshedForm(set, r, because)
			if form.Writes() {
				if err := change.add(r); err != nil {
					form.State, form.Why = view.RefreshFails, err.Error()
				}
			}
			if form.Writes() {
				changed++
			}
			forms = append(forms, form)
		}
		changes = append(changes, change)
	}
	if err := a.show(view.Refresh(forms, o.dryRun)); err != nil || o.dryRun || changed == 0 {
		return err
	}
	if ok, err := a.confirmed(o.yes, "Write these answers?"); err != nil || !ok {
		return err
	}
	var writes []files.Change
	for _, c := range changes {
		more, err := c.changed(w)
		if err != nil {
			return err
		}
		writes = append(writes, more...)
	}
	return files.WriteAll(writes)
}

// refreshSet computes a set's answers, and tells for each question what has changed since the newest run that asked it.
func (a *app) refreshSet(ctx context.Context, w *workspace.Workspace,
	set *golden.Set) ([]upkeep.Refreshed, func(*golden.Question) string, error) {
	on, err := a.opened(ctx, w, set.Dataset, workers())
	if err != nil {
		return nil, nil, err
	}
	defer on.Close()
	refreshed, err := upkeep.Refresh(ctx, on, expectedFiles(w), set, workers())
	if err != nil {
		return nil, nil, trouble.As(trouble.Unreachable, err)
	}
	ground, err := a.ground(ctx, w, on, briefing.None)
	if err != nil {
		return nil, nil, err
	}
	plan := attempt.Plan{Places: map[string]*attempt.Place{set.Dataset: attempt.NewPlace(ground, on, expectedFiles(w))}, Rules: w.Rules}
	before, err := lastGrounds(ctx, w)
	if err != nil {
		return nil, nil, err
	}
	return refreshed, func(q *golden.Question) string {
		was, asked := before[set.QuestionName(q)]
		now := attempt.GroundOf(plan, workspace.Chosen{Set: set, Question: q})
		switch {
		case !asked:
			return ""
		case was.Expected != now.Expected && was.Data != now.Data:
			return "query and data"
		case was.Expected != now.Expected:
			return "query"
		case was.Data != now.Data:
			return "data"
		}
		return "table"
	}, nil
}

// lastGrounds are what questions rested on in the newest run that asked them.
func lastGrounds(ctx context.Context, w *workspace.Workspace) (map[string]record.Ground, error) {
	out := map[string]record.Ground{}
	store, err := openHistory(ctx, w)
	if err != nil {
		var kind *trouble.Error
		if errors.As(err, &kind) && kind.Kind == trouble.Usage { // no run yet
			return out, nil
		}
		return nil, err
	}
	defer store.Close() //nolint:errcheck // only read
	runs, err := store.Runs()
	for _, r := range runs {
		maps.Copy(out, r.Grounds)
	}
	return out, err
}

func refreshedForm(set *golden.Set, r upkeep.Refreshed, because func(*golden.Question) string) view.RefreshedForm {
	out := view.RefreshedForm{Question: set.QuestionName(r.Question), Reading: r.Reading, File: set.File,
		Line: r.Question.At.Line, State: view.RefreshSame, Cells: []view.CellForm{}}
	switch {
	case r.Failure != nil:
		out.State, out.Why = view.RefreshFails, r.Failure.Error()
	case r.Answer.Empty():
		out.State = view.RefreshNone
	case r.Answer.Query == "":
		out.State = view.RefreshByHand
	case r.Answer.Table == nil && r.Answer.File == "":
		out.State, out.Added = view.RefreshNew, r.Now.Rows()
	case r.Differs:
		out.State, out.Because = view.RefreshChanged, because(r.Question)
		for _, c := range r.Match.Cells {
			out.Cells = append(out.Cells, view.CellForm{Row: c.ExpectedRow + 1, Column: r.Written.Columns[c.Column].Name,
				Was: c.Expected.String(), Is: c.Answer.String()})
		}
		out.Added, out.Gone = len(r.Match.ExtraRows), len(r.Match.Missing)
		if r.Written == nil {
			out.Why = "what is written cannot be read"
		} else if len(out.Cells)+out.Added+out.Gone == 0 {
			out.Why = r.Match.Why
		}
	}
	return out
}

// setChange is what refreshing writes of one set.
type setChange struct {
	set    *golden.Set
	tables map[*golden.Answer]string
	files  []upkeep.Refreshed
}

func (c *setChange) add(r upkeep.Refreshed) error {
	if r.Answer.Table == nil && r.Answer.File != "" {
		if ending := strings.ToLower(filepath.Ext(r.Answer.File)); ending != ".csv" {
			return fmt.Errorf("its file %s is not CSV: write it by hand", r.Answer.File)
		}
		c.files = append(c.files, r)
		return nil
	}
	if r.Answer.Table == nil && r.Now.Rows() > upkeep.FitsDocument {
		return fmt.Errorf("%d rows are too many for the document: name a CSV file with `expected`", r.Now.Rows())
	}
	text, err := golden.FormatTable(r.Now)
	c.tables[r.Answer] = text
	return err
}

// changed are the files that the change writes.
func (c setChange) changed(w *workspace.Workspace) ([]files.Change, error) {
	var changes []files.Change
	for _, r := range c.files {
		text, err := upkeep.TableCSV(r.Now)
		if err != nil {
			return nil, err
		}
		changes = append(changes, files.Change{Path: w.ExpectedPath(c.set, *r.Answer), Text: text})
	}
	if len(c.tables) == 0 {
		return changes, nil
	}
	text, err := c.set.ReplaceTables(c.tables)
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "%s: %w", c.set.File, err)
	}
	return append(changes, w.SetFile(c.set, text)), nil
}
