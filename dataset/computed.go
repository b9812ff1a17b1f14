package dataset

import (
	"context"
	"encoding/hex"
	"errors"
	"slices"
	"strings"

	"github.com/zeebo/blake3"

	"tovrel/core/source"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/workspace"
)

// computedFile stands for the file of a table that is computed.
const computedFile = "(computed)"

// computedSource is where a computed table comes from: its query.
func computedSource(t workspace.Table) FrozenSource {
	sum := blake3.Sum256([]byte(t.SQL))
	return FrozenSource{t.Name, computedFile, hex.EncodeToString(sum[:])}
}

// computed are a dataset's computed tables in their order. The error is at the table's place in tovrel.yaml.
func computed(ctx context.Context, d *workspace.Dataset) ([]duckdb.Computed, error) {
	var all []duckdb.Computed
	for _, t := range d.Tables {
		if t.SQL != "" {
			all = append(all, duckdb.Computed{Table: t.Name, SQL: t.SQL, Hides: t.HideSources})
		}
	}
	ordered, err := duckdb.Ordered(ctx, all, d.AsOf)
	return ordered, atTable(d, err)
}

// atTable puts what is wrong with a computed table at its place in tovrel.yaml.
func atTable(d *workspace.Dataset, err error) error {
	var wrong *duckdb.ComputeError
	if !errors.As(err, &wrong) {
		return err
	}
	for _, t := range d.Tables {
		if t.Name == wrong.Table {
			return source.Problems{{Position: t.At, Code: "bad-computed-table", Severity: source.Error,
				Message: "table " + t.Name + " cannot be computed: " + wrong.Error(),
				Remedy:  "correct its sql: a query over the other tables of the dataset"}}
		}
	}
	return err
}

// compute adds the computed tables to a frozen copy that is being made.
func compute(ctx context.Context, d *workspace.Dataset, f *Frozen) error {
	var err error
	if f.Computed, err = computed(ctx, d); err != nil {
		return err
	}
	tables, err := duckdb.Compute(ctx, f.Path, f.Computed)
	f.Tables = append(f.Tables, tables...)
	return atTable(d, err)
}

// Stored are the tables of a frozen copy that are not computed.
func (f *Frozen) Stored() []engine.Table {
	return slices.DeleteFunc(slices.Clone(f.Tables), func(t engine.Table) bool { return f.isComputed(t.Name) })
}

func (f *Frozen) isComputed(table string) bool {
	return slices.ContainsFunc(f.Computed, func(c duckdb.Computed) bool { return c.Table == table })
}

// Hidden are the tables that computed ones hide, in lower case.
func (f *Frozen) Hidden() map[string]bool {
	out := map[string]bool{}
	for _, c := range f.Computed {
		for _, read := range c.Reads {
			if c.Hides {
				out[strings.ToLower(read)] = true
			}
		}
	}
	return out
}

// recomputed adds the computed tables to a twin of a frozen copy, and gives its tables in the order of the copy's.
func recomputed(ctx context.Context, f *Frozen, path string, stored []engine.Table) ([]engine.Table, error) {
	ordered, err := duckdb.Ordered(ctx, f.Computed, f.AsOf)
	if err != nil {
		return nil, err
	}
	tables, err := duckdb.Compute(ctx, path, ordered)
	if err != nil {
		return nil, err
	}
	all := append(stored, tables...)
	place := map[string]int{}
	for i, t := range f.Tables {
		place[t.Name] = i
	}
	slices.SortStableFunc(all, func(a, b engine.Table) int { return place[a.Name] - place[b.Name] })
	return all, nil
}
