package cli

import (
	"context"
	"encoding/csv"
	"io"
	"maps"
	"path/filepath"
	"slices"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

func newSetStrengthCmd(a *app) *cobra.Command {
	addRows := ""
	cmd := &cobra.Command{
		Use: "strength [SET or QUESTION…]", Short: "Tell how many wrong queries the expected answers would notice",
		ValidArgsFunction: a.completeQuestions,
		Long: "Edits each reference query as a translator would have got it wrong, and looks whether the " +
			"expected answer, under its rules and\nreadings, tells the edited query's result from the right one. Those that " +
			"it cannot tell apart are survivors. Left out are edits that\nnever change what is expected: of the order where " +
			"none was asked, and those that only write the same query in another form.\n--add-rows looks for rows that would " +
			"tell survivors apart, and writes them as CSV files, one for each table, for you to look at and to\nadd to the sample data.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.setStrength(cmd.Context(), args, addRows) },
	}
	cmd.Flags().StringVar(&addRows, "add-rows", "", "look for rows that would strengthen the answers, and write them into this folder")
	cmd.Flags().Lookup("add-rows").NoOptDefVal = "added-rows"
	return cmd
}

func (a *app) setStrength(ctx context.Context, names []string, addRows string) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	measured, err := a.strengths(ctx, w, names, addRows != "" || len(names) == 1)
	if err != nil {
		return err
	}
	if addRows != "" {
		if err := a.writeRows(w.FromHere(addRows), w, measured); err != nil {
			return err
		}
	}
	forms := make([]view.StrengthOf, len(measured))
	for i, s := range measured {
		forms[i] = view.StrengthOf{Question: s.Question, Edits: s.Edits, ToldApart: s.ToldApart, Why: s.Why,
			Survivors: []view.SurvivorForm{}, Codes: map[fault.Code]view.ToldForm{}}
		for code, told := range s.Codes {
			forms[i].Codes[code] = view.ToldForm(told)
		}
		for _, v := range s.Survivors {
			forms[i].Survivors = append(forms[i].Survivors,
				view.SurvivorForm{Edit: v.Edit, Code: v.Code, Query: v.Query, Row: rowForm(v.Row)})
		}
	}
	return a.show(view.StrengthScreen(forms, addRows != ""))
}

// strengths measures the strength of questions; none named for all.
func (a *app) strengths(ctx context.Context, w *workspace.Workspace, names []string, strengthen bool) ([]upkeep.Strength, error) {
	options := record.Options{Names: names, Brief: string(briefing.None)}
	questions, err := a.questions(w, options)
	if err != nil {
		return nil, err
	}
	plan, done, err := a.plan(ctx, w, options, questions)
	if err != nil {
		return nil, err
	}
	defer done()
	bar := a.progress("strength")
	n := 0
	measured, err := upkeep.Strengths(ctx, plan, func() {
		n++
		bar.step(n, len(questions))
	})
	bar.finish()
	if err != nil || !strengthen {
		return measured, trouble.As(trouble.Unreachable, err)
	}
	bar = a.progress("rows")
	for i := range measured {
		if err := upkeep.Strengthen(ctx, plan, &measured[i], i); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		bar.step(i+1, len(measured))
	}
	bar.finish()
	return measured, nil
}

func rowForm(r *upkeep.AddedRow) *view.RowForm {
	if r == nil {
		return nil
	}
	form := &view.RowForm{Table: r.Table, Columns: r.Columns, Why: r.Why}
	for i, cell := range r.Cells {
		if r.Null[i] {
			form.Cells = append(form.Cells, nil)
			continue
		}
		form.Cells = append(form.Cells, &cell)
	}
	return form
}

// writeRows writes the rows that strengthen answers, a file for each table of a dataset.
func (a *app) writeRows(folder string, w *workspace.Workspace, measured []upkeep.Strength) error {
	files := map[string][][]string{}
	for _, s := range measured {
		for _, r := range s.Rows {
			path := filepath.Join(folder, s.Chosen.Set.Dataset, r.Table+".csv")
			if files[path] == nil {
				files[path] = [][]string{r.Columns}
			}
			files[path] = append(files[path], r.Cells)
		}
	}
	paths := slices.Sorted(maps.Keys(files))
	for _, path := range paths {
		if err := writeFile(w.Path(path), func(f io.Writer) error { return csv.NewWriter(f).WriteAll(files[path]) }); err != nil {
			return err
		}
		a.say("Wrote %s: %d rows; look at them, and add them to the table's file.", path, len(files[path])-1)
	}
	if len(paths) == 0 {
		a.say("No row was found that tells a survivor apart.")
	}
	return nil
}
