package cause

import (
	"context"
	"fmt"
	"hash/fnv"
	"strings"
	"time"

	"tovrel/core/diagnose"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
)

const (
	// saltedRows is how many rows of each table a salted twin has at most.
	saltedRows = 50_000
	// plain is how many rows keep a column's own value, for each that gets one of the salt's.
	plain = 1
)

// salted runs a query on a salted twin of the data: a view over the tables' first rows in which many values of the compared columns
// are overwritten and, where tables are joined, some rows are gone. The view is written as common table expressions of the tables'
// names, so that nothing is stored. A nil table is a query that does not run there.
func (e *Search) salted(ctx context.Context, t *sql.Tree, salts []diagnose.Salt, limit time.Duration) (*table.Table, error) {
	got, err := e.Run(ctx, t, limit)
	if err != nil || got.Text == "" {
		return nil, err
	}
	timed, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	result, err := e.pool.Query(timed, engine.Request{SQL: e.saltedSQL(got.Text, t.TablesRead(), salts)})
	failure, failed := expect.Failure(err)
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case timed.Err() != nil || failed && failure.Code == fault.TooSlow:
		return nil, diagnose.ErrSlow
	case failed:
		return nil, nil
	}
	return result.Table, err
}

func (e *Search) saltedSQL(sql string, read []string, salts []diagnose.Salt) string {
	var twins []string
	for _, name := range read {
		seed := seedOf(name) // by the name: the same rows whatever other tables a query reads
		source, known := e.Types[name]
		if !known {
			continue // a CTE
		}
		var replaced []string
		for j, salt := range salts {
			for _, c := range source.Columns {
				if strings.EqualFold(c.Name, salt.Column) {
					replaced = append(replaced, saltedColumn(c.Name, c.Type, salt.Values, seed+j))
				}
			}
		}
		stars := "*"
		if len(replaced) > 0 {
			stars += " REPLACE (" + strings.Join(replaced, ", ") + ")"
		}
		rows := fmt.Sprintf("rowid < %d", saltedRows)
		if len(read) > 1 {
			rows += fmt.Sprintf(" AND hash(rowid, %d) %% 5 <> 0", seed-1)
		}
		twins = append(twins, fmt.Sprintf("%s AS MATERIALIZED (SELECT %s FROM main.%s WHERE %s)", expect.Quoted(name), stars,
			expect.Quoted(name), rows))
	}
	return "WITH " + strings.Join(twins, ", ") + " SELECT * FROM (" + strings.TrimRight(strings.TrimSpace(sql), ";") + ")"
}

func seedOf(name string) int {
	h := fnv.New32a()
	_, _ = h.Write([]byte(name)) // a hash takes everything
	return int(h.Sum32())
}

// saltedColumn overwrites a column's values in many rows, chosen by the row's number.
func saltedColumn(name, kind string, values []string, seed int) string {
	var b strings.Builder
	fmt.Fprintf(&b, "CASE hash(rowid, %d) %% %d", seed, len(values)*(1+plain))
	for i, v := range values {
		fmt.Fprintf(&b, " WHEN %d THEN coalesce(TRY_CAST('%s' AS %s), %s)", i, strings.ReplaceAll(v, "'", "''"), kind, expect.Quoted(name))
	}
	fmt.Fprintf(&b, " ELSE %s END AS %s", expect.Quoted(name), expect.Quoted(name))
	return b.String()
}
