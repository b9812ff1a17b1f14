package duckdb

import (
	"context"
	"errors"
	"strings"

	"tovrel/core/dialect"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/value"
	"tovrel/engine"
)

// rewritten is a query of another dialect as this engine's, with the rules that were used. What has no form here is no fault of the query.
func (d *Database) rewritten(ctx context.Context, query, from string) (text string, rules []string, err error) {
	if err := sql.CheckText(query); err != nil {
		return "", nil, err
	}
	if d.columns == nil {
		columns, err := d.describeColumns(ctx)
		if err != nil {
			return "", nil, err
		}
		d.columns = &columns
	}
	plain, err := dialect.Plain(query, from, *d.columns)
	if err != nil {
		return "", nil, foreign(err)
	}
	var serialised string
	if err := d.serialise.QueryRowContext(context.WithoutCancel(ctx), plain).Scan(&serialised); err != nil {
		return "", nil, err
	}
	tree, err := sql.Read([]byte(serialised))
	var refusal *sql.Refusal
	switch {
	case errors.As(err, &refusal):
		return "", nil, err
	case err != nil: // it may be right there
		return "", nil, foreign(err)
	}
	text, rules, err = dialect.Local(tree, from, *d.columns)
	if err != nil {
		return "", nil, foreign(err)
	}
	if rules == nil {
		rules = []string{}
	}
	return text, append(rules, "dialect/"+from), nil
}

// foreign is the failure of a query that its own dialect's server may run.
func foreign(err error) error {
	return &engine.Failure{Code: fault.EngineError, Message: err.Error(), Position: -1, Foreign: true}
}

// asForeign turns a failure of a rewritten query into one that is no fault of the query, unless its names or its size are to blame.
func asForeign(err error) error {
	var f *engine.Failure
	if !errors.As(err, &f) {
		return err
	}
	switch f.Code {
	case fault.UnknownTable, fault.UnknownColumn, fault.AmbiguousColumn, fault.Forbidden, fault.Catalogue, fault.TooSlow, fault.TooBig:
		return err
	}
	f.Foreign = true
	return err
}

func (d *Database) describeColumns(ctx context.Context) (out dialect.Columns, err error) {
	rows, err := d.conn.QueryContext(ctx, "SELECT table_name, column_name, data_type FROM duckdb_columns() WHERE NOT internal")
	if err != nil {
		return out, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	var all []dialect.Column
	for rows.Next() {
		var table, name, of string
		if err := rows.Scan(&table, &name, &of); err != nil {
			return out, err
		}
		kind, _ := value.KindOfSQL(of)
		all = append(all, dialect.Column{Table: table, Name: name, Kind: kind,
			Wide: strings.Contains(of, "BIGINT") || strings.Contains(of, "HUGEINT")})
	}
	return dialect.ColumnsOf(all), rows.Err()
}
