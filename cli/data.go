package cli

import (
	"context"
	"io"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/golden"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/files"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newDataCmd(a *app) *cobra.Command {
	cmd := &cobra.Command{Use: "data", Short: "Import, freeze and query sample data", Args: cobra.ArbitraryArgs, RunE: group}
	cmd.AddCommand(newDataAddCmd(a), newDataListCmd(a), newDataFreezeCmd(a), newDataProfileCmd(a), newDataInspectCmd(a),
		newDataQueryCmd(a), newDataTwinCmd(a), newDataTidyCmd(a))
	return cmd
}

func newDataListCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "list", Short: "Datasets with their tables, and whether they are frozen", Args: usage(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			return a.listDatasets(cmd.Context(), w, w.Datasets)
		},
	}
}

func (a *app) listDatasets(ctx context.Context, w *workspace.Workspace, datasets []*workspace.Dataset) error {
	var rows []view.Dataset
	for _, d := range datasets {
		state, frozen, err := a.data(w).FreezeState(d)
		row := datasetRow(d, state, frozen, err)
		if state == dataset.IsStale {
			a.say("Comparing %s with its frozen copy …", d.Name)
			changes, err := a.data(w).Changes(ctx, d, frozen)
			if err != nil {
				row.Problem = err.Error()
			}
			for _, c := range changes {
				row.Changes = append(row.Changes, view.DatasetChange(c))
			}
		}
		rows = append(rows, row)
	}
	return a.show(view.Datasets(rows))
}

func datasetRow(d *workspace.Dataset, state dataset.State, frozen *dataset.Frozen, problem error) view.Dataset {
	row := view.Dataset{Name: d.Name, State: string(state), AsOf: d.AsOf, Tables: []view.DatasetTable{}}
	known := map[string]engine.Table{}
	if frozen != nil {
		row.Fingerprint = frozen.Fingerprint
		for _, t := range frozen.Tables {
			known[t.Name] = t
		}
	}
	if problem != nil {
		row.Problem = problem.Error()
	}
	for _, t := range tablesOf(d, frozen) {
		item := view.DatasetTable{Name: t.Name, File: t.File, Rows: -1, Columns: []table.ColumnHead{}}
		if k, ok := known[t.Name]; ok {
			item.Rows = k.Rows
			for _, c := range k.Columns {
				item.Columns = append(item.Columns, table.ColumnHead{Name: c.Name, Type: value.SQLWord(c.Type)})
			}
		}
		row.Tables = append(row.Tables, item)
	}
	return row
}

// tablesOf are a dataset's tables as tovrel.yaml names them, or those of its database.
func tablesOf(d *workspace.Dataset, frozen *dataset.Frozen) []workspace.Table {
	if d.Connect == "" || frozen == nil {
		return d.Tables
	}
	var tables []workspace.Table
	for _, t := range frozen.Tables {
		tables = append(tables, workspace.Table{Name: t.Name, File: d.File})
	}
	return tables
}

func newDataFreezeCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "freeze [NAME…]", ValidArgsFunction: a.completeDatasets, Short: "Freeze datasets, so that every run sees the same rows",
		RunE: func(cmd *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			datasets := w.Datasets
			if len(args) > 0 {
				datasets = nil
			}
			for _, name := range args {
				d, err := w.Dataset(name)
				if err != nil {
					return err
				}
				datasets = append(datasets, d)
			}
			for _, d := range datasets {
				if _, err := a.freeze(cmd.Context(), w, d); err != nil {
					return err
				}
			}
			return a.listDatasets(cmd.Context(), w, datasets)
		},
	}
}

func newDataQueryCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "query NAME SQL|FILE.sql|-", Short: "Run a query on a dataset, in the sandbox that translators' queries run in",
		ValidArgsFunction: a.completeDatasets, Args: usage(cobra.ExactArgs(2)),
		Long: "The query is given as it is, in a file that ends in .sql, or, with -, on the standard input.",
		RunE: func(cmd *cobra.Command, args []string) error {
			sql, err := a.queryOf(args[1])
			if err != nil {
				return err
			}
			w, err := a.open()
			if err != nil {
				return err
			}
			on, err := a.opened(cmd.Context(), w, args[0], 1)
			if err != nil {
				return err
			}
			defer on.Close()
			result, err := on.Query(cmd.Context(), engine.Request{SQL: sql, Dialect: on.dataset.Dialect()})
			if err != nil {
				return queryError(sql, err)
			}
			return a.showRows(result.Table)
		},
	}
}

// queryOf gives the query that an argument is, or that stands in the file or on the standard input that it names.
func (a *app) queryOf(arg string) (string, error) {
	var text []byte
	var err error
	switch {
	case arg == "-":
		text, err = io.ReadAll(io.LimitReader(a.In, files.Document))
	case strings.EqualFold(filepath.Ext(arg), ".sql") && !strings.ContainsAny(arg, "\n;"):
		text, err = files.Read(arg, files.Document)
	default:
		return arg, nil
	}
	if err != nil {
		return "", trouble.New(trouble.Unreadable, "the query cannot be read: %s", err)
	}
	sql := strings.TrimPrefix(string(text), "\ufeff")
	if strings.TrimSpace(sql) == "" {
		return "", trouble.New(trouble.Usage, "%s has no query", map[bool]string{true: "the standard input", false: arg}[arg == "-"])
	}
	return sql, nil
}

// showRows writes a result; as Markdown in the form of a golden set's table, ready to paste.
func (a *app) showRows(t *table.Table) error {
	if render.Format(a.output) != render.Markdown {
		return a.show(view.Rows(t))
	}
	formatted, err := golden.FormatTable(t)
	if err != nil {
		return trouble.As(trouble.Usage, err)
	}
	return a.show(view.Written(formatted))
}
