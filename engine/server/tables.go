package server

import (
	"fmt"
	"strings"

	"tovrel/core/dialect"
	"tovrel/core/value"
	"tovrel/engine"
)

// Words are the words of a text, as a set.
func Words(text string) map[string]bool { return words(text) }

// Describe is what rewriting queries and hints need to know of tables.
func Describe(tables []engine.Table) (dialect.Columns, []string) {
	var names []string
	for _, t := range tables {
		names = append(names, t.Name)
		for _, c := range t.Columns {
			names = append(names, c.Name)
		}
	}
	return ColumnsOf(tables), names
}

// ColumnsOf are tables' columns as rewriting queries needs them.
func ColumnsOf(tables []engine.Table) dialect.Columns {
	return dialect.ColumnsOf(DescribedColumns(tables))
}

// DescribedColumns are the columns of some tables one by one.
func DescribedColumns(tables []engine.Table) []dialect.Column {
	var all []dialect.Column
	for _, t := range tables {
		for _, c := range t.Columns {
			kind, _ := value.KindOfSQL(c.Type)
			all = append(all, dialect.Column{Table: t.Name, Name: c.Name, Kind: kind,
				Wide: strings.Contains(c.Type, "BIGINT") || strings.Contains(c.Type, "HUGEINT")})
		}
	}
	return all
}

// exactBelow is up to how many rows, as a server estimates them, a table is counted.
const exactBelow = 1_000_000

// Picked are the tables of a dataset among those of a server, the smaller ones counted: servers only estimate. It errs as count does.
func Picked(all []engine.Table, picked func(table string) bool, count func(table string) (int64, error)) ([]engine.Table, error) {
	var out []engine.Table
	for _, t := range all {
		if !picked(t.Name) {
			continue
		}
		if t.Rows < exactBelow {
			rows, err := count(t.Name)
			if err != nil {
				return nil, fmt.Errorf("table %s: %w", t.Name, err)
			}
			t.Rows = rows
		}
		out = append(out, t)
	}
	return out, nil
}
