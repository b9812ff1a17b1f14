package cli

import (
	"context"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/expect"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

func newSetCmd(a *app) *cobra.Command {
	cmd := &cobra.Command{Use: "set", Short: "List and check golden sets", Args: cobra.ArbitraryArgs, RunE: group}
	cmd.AddCommand(newSetListCmd(a), newSetCheckCmd(a), newSetStrengthCmd(a), newSetRefreshCmd(a), newSetCoverageCmd(a),
		newSetAddCmd(a), newSetDraftCmd(a), newSetExportCmd(a), newSetImportCmd(a))
	return cmd
}

func newSetListCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "list [FILE…]", Short: "The questions of golden sets",
		RunE: func(_ *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			sets, err := a.sets(w, args)
			if err != nil {
				return err
			}
			return a.show(view.Questions(sets))
		},
	}
}

// sets reads golden sets that must be free of errors.
func (a *app) sets(w *workspace.Workspace, files []string) ([]*golden.Set, error) {
	sets, problems, err := readSets(w, files)
	if err != nil {
		return nil, err
	}
	if problems.Errors() > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	return sets, nil
}

func readSets(w *workspace.Workspace, files []string) ([]*golden.Set, source.Problems, error) {
	if len(files) == 0 {
		found, err := w.SetFiles()
		if err != nil {
			return nil, nil, err
		}
		if len(found) == 0 {
			return nil, nil, trouble.New(trouble.Unreadable, "the workspace has no golden sets; write one as golden/NAME.md")
		}
		files = found
	} else {
		files = append([]string(nil), files...)
		for i, f := range files {
			files[i] = w.FromHere(f)
		}
	}
	return w.ReadSets(files)
}

type setCheckOptions struct {
	strict, advice bool
	files          []string
}

func newSetCheckCmd(a *app) *cobra.Command {
	var o setCheckOptions
	cmd := &cobra.Command{
		Use: "check [FILE…]", Short: "Find defects of golden sets, and run their reference queries",
		RunE: func(cmd *cobra.Command, args []string) error {
			o.files = args
			return a.setCheck(cmd.Context(), o)
		},
	}
	cmd.Flags().BoolVar(&o.strict, "strict", false, "warnings make the check fail too")
	cmd.Flags().BoolVar(&o.advice, "advice", false, "also list what could be better, such as tags that are used once")
	return cmd
}

func (a *app) setCheck(ctx context.Context, o setCheckOptions) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	sets, problems, err := readSets(w, o.files)
	if err != nil {
		return err
	}
	questions := 0
	for _, s := range sets {
		questions += len(s.All())
		d, err := w.Dataset(s.Dataset)
		if err != nil || !s.Sound {
			continue // reported already; its queries wait until it can be read
		}
		found, err := a.checkSet(ctx, w, d, s)
		if err != nil {
			return err
		}
		problems = append(problems, found...)
	}
	if problems.Errors() == 0 {
		problems = append(problems, golden.Warnings(sets, func(name string) bool {
			d, err := w.Dataset(name)
			return err == nil && d.AsOf != ""
		})...)
	}
	found, err := a.checkDecisions(ctx, w, sets, problems.Errors() == 0)
	if err != nil {
		return err
	}
	problems = append(problems, found...)
	problems.Sort()
	if err := a.show(view.Check(questions, problems, o.advice,
		func(at source.Position) string { return questionAt(sets, at) })); err != nil {
		return err
	}
	if problems.Errors() > 0 || o.strict && problems.Count(source.Warning) > 0 {
		return trouble.ErrFound
	}
	return nil
}

// checkSet runs a set's reference queries.
func (a *app) checkSet(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, s *golden.Set) (source.Problems, error) {
	on, err := a.opened(ctx, w, d.Name, workers())
	if err != nil {
		return nil, err
	}
	defer on.Close()
	said, err := w.ReadBriefing(d)
	if err != nil {
		return nil, err
	}
	twins, done, err := a.keptTwins(w, d, on.frozen)
	defer done()
	if err != nil {
		return nil, err
	}
	ground, err := a.ground(ctx, w, on, briefing.Full)
	if err != nil {
		return nil, err
	}
	return upkeep.Check(ctx, upkeep.Checking{Queries: on, Server: serverOf(on.dataset), Read: expectedFiles(w), Briefing: said,
		Told: ground.Told, Rules: w.Rules,
		Twins: twins, Parallel: workers()}, s)
}

// questionAt names the question in whose section a place is.
func questionAt(sets []*golden.Set, at source.Position) string {
	name := ""
	for _, s := range sets {
		if s.File != at.File {
			continue
		}
		for _, q := range s.All() {
			if q.At.Line <= at.Line && q.ID != "" {
				name = s.QuestionName(q)
			}
		}
	}
	return name
}

// expectedFiles reads the expected files of golden sets.
func expectedFiles(w *workspace.Workspace) expect.Tables {
	return func(s *golden.Set, answer golden.Answer) (*table.Table, error) {
		return readTable(w.ExpectedPath(s, answer))
	}
}

// queryError gives a failed query of the user's own its place.
func queryError(sql string, err error) error {
	return trouble.As(kindOf(err), expect.Placed(sql, err))
}

func kindOf(err error) trouble.Kind {
	if _, failed := expect.Failure(err); failed {
		return trouble.Usage
	}
	return trouble.Unreachable
}

// serverOf is the dialect of the server into which a dataset's sample is loaded; "" for none.
func serverOf(d *workspace.Dataset) string {
	if d.Server == nil || !d.Server.Sample {
		return ""
	}
	return d.Server.Kind
}
