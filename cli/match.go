package cli

import (
	"context"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/dataset/sample"
	"tovrel/trouble"
	"tovrel/view"
)

type matchOptions struct {
	expected, answer string
	rules            []string
}

func newMatchCmd(a *app) *cobra.Command {
	var o matchOptions
	cmd := &cobra.Command{
		Use: "match EXPECTED ANSWER", Short: "Tell whether one table file answers another", Args: usage(cobra.ExactArgs(2)),
		Long: "Compare two table files as a run compares an answer with what is expected. Read is what `tovrel data add` " +
			"reads: CSV in its\nkinds, TSV, JSON, JSON Lines, Parquet, Excel and SQLite. Exits 0 when they match and 1 when they do not.",
		RunE: func(cmd *cobra.Command, args []string) error {
			o.expected, o.answer = args[0], args[1]
			return a.match(cmd.Context(), o)
		},
	}
	cmd.Flags().StringArrayVar(&o.rules, "rules", nil,
		"a matching rule as KEY=VALUE, such as order=strict or order=ranked:litres desc; repeatable")
	fixed(cmd, "rules", "=", match.RuleKeys())
	return cmd
}

func (a *app) match(ctx context.Context, o matchOptions) error {
	var rules match.Rules
	for _, r := range o.rules {
		if err := rules.ParseRule(r); err != nil {
			return trouble.As(trouble.Usage, err)
		}
	}
	var expected, answer *table.Table
	g, ctx := errgroup.WithContext(ctx)
	g.Go(trouble.Safe(func() (err error) {
		expected, err = a.readAny(ctx, o.expected)
		return err
	}))
	g.Go(trouble.Safe(func() (err error) {
		answer, err = a.readAny(ctx, o.answer)
		return err
	}))
	if err := g.Wait(); err != nil {
		return err
	}
	if err := rules.CheckColumns(expected.Names()); err != nil {
		return trouble.As(trouble.Usage, err)
	}
	result := match.Match(expected, answer, rules, match.Known{Rounded: everyColumn(expected)})
	if err := a.show(view.Match(result)); err != nil {
		return err
	}
	if !result.Matched {
		return trouble.ErrFound
	}
	return nil
}

// everyColumn says that all columns of a table are as written, so that their numbers may be rounded.
func everyColumn(t *table.Table) []bool {
	flags := make([]bool, len(t.Columns))
	for i := range flags {
		flags[i] = true
	}
	return flags
}

// readAny reads a table file of any kind that samples may have, and says how it was read where that is not as usual.
func (a *app) readAny(ctx context.Context, path string) (*table.Table, error) {
	t, notes, err := sample.Plain(ctx, path)
	for _, n := range notes {
		a.say("%s: %s", path, n.Message)
	}
	return t, trouble.As(trouble.Unreadable, err)
}

// readTable reads a table file of a golden set.
func readTable(path string) (*table.Table, error) { return sample.Read(context.Background(), path) }
