package duckdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"

	query "tovrel/core/sql"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// Computed is a table that is a query over the others of its dataset.
type Computed struct {
	Table string   `json:"table"`
	SQL   string   `json:"sql"`
	Reads []string `json:"reads"` // the tables that it reads
	Hides bool     `json:"hides,omitempty"`
	text  string   // what runs: as of the dataset's today
}

// ComputeError is what is wrong with a computed table.
type ComputeError struct {
	Table string
	Err   error
}

func (e *ComputeError) Error() string { return e.Err.Error() }
func (e *ComputeError) Unwrap() error { return e.Err }

// Ordered are computed tables in the order of what they read, each looked at by the gate like a query of a translator. The error is
// *ComputeError: of a query that is none, or of tables that read each other in a circle.
func Ordered(ctx context.Context, all []Computed, asOf string) ([]Computed, error) {
	if len(all) == 0 {
		return nil, nil
	}
	parser, err := NewParser()
	if err != nil {
		return nil, err
	}
	named := map[string]int{}
	all = slices.Clone(all)
	for i := range all {
		named[strings.ToLower(all[i].Table)] = i
		if err := parser.complete(ctx, &all[i], asOf); err != nil {
			return nil, &ComputeError{all[i].Table, err}
		}
	}
	var out []Computed
	state := make([]int, len(all)) // 0 not seen, 1 on the way, 2 done
	var visit func(i int, way []string) error
	visit = func(i int, way []string) error {
		way = append(way, all[i].Table)
		switch state[i] {
		case 1:
			return &ComputeError{all[i].Table, fmt.Errorf("computed tables read each other in a circle: %s", strings.Join(way, " reads "))}
		case 2:
			return nil
		}
		state[i] = 1
		for _, read := range all[i].Reads {
			if k, is := named[strings.ToLower(read)]; is {
				if err := visit(k, way); err != nil {
					return err
				}
			}
		}
		state[i] = 2
		out = append(out, all[i])
		return nil
	}
	for i := range all {
		if err := visit(i, nil); err != nil {
			return nil, err
		}
	}
	return out, errors.Join(parser.conn.Close(), parser.db.Close())
}

// complete has a computed table's query pass the gate, and finds what it reads and the text that runs.
func (p *Parser) complete(ctx context.Context, c *Computed, asOf string) error {
	if err := query.CheckText(c.SQL); err != nil {
		return err
	}
	serialised, err := p.Parse(ctx, c.SQL)
	if err != nil {
		return err
	}
	tree, err := query.Read(serialised)
	if err != nil {
		return err
	}
	if err := tree.Check(nil); err != nil {
		return err
	}
	c.Reads, c.text = tree.TablesRead(), c.SQL
	if !tree.SeeToday(query.TodayOf(asOf), c.SQL) {
		return nil
	}
	if serialised, err = tree.Serialised(); err != nil {
		return err
	}
	return p.conn.QueryRowContext(ctx, "SELECT json_deserialize_sql(?::JSON)", string(serialised)).Scan(&c.text)
}

// Compute adds computed tables, in their order, to a database file that has the tables that they read, and describes them. It errs where a
// query does not run (*ComputeError), or the file cannot be written.
func Compute(ctx context.Context, path string, ordered []Computed) (tables []engine.Table, err error) {
	if len(ordered) == 0 {
		return nil, nil
	}
	err = withFile(ctx, path+"?"+options.Encode(), func(conn *sql.Conn) error {
		for _, c := range ordered {
			if _, err := conn.ExecContext(ctx,
				"CREATE TABLE main."+sqltext.Name(c.Table)+" AS "+strings.TrimRight(strings.TrimSpace(c.text),
					";")); err != nil {
				return &ComputeError{c.Table, errors.New(messageOf(readError(err)))}
			}
			t, err := describe(ctx, conn, c.Table)
			if err != nil {
				return err
			}
			tables = append(tables, t)
		}
		return nil
	})
	return tables, err
}
