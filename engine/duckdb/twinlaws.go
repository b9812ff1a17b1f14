package duckdb

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"tovrel/core/twin"
	"tovrel/engine/sqltext"
)

// How many times what breaks a law is put back as it was: first the rows alone, then the tables that the law is about, and in the end all.
const roundsOfRows, roundsOfTables, roundsOfLaws = 5, 7, 8

// keepLaws puts back, as it was in the original, what breaks a law: rows with their group, and what they refer to. What is left is lawful:
// in the end all tables are as they were.
func keepLaws(ctx context.Context, conn *sql.Conn, plan twin.Plan) error {
	m := mender{conn: conn, plan: plan, stages: map[string]string{}, originals: map[string]string{}}
	for i, t := range plan.Tables {
		m.stages[t.Name], m.originals[t.Name] = stageOf(i), original(t)
	}
	m.laws = sqltext.Laws{From: func(table string) string { return m.stages[table] }}
	changed := map[string]bool{} // tables, since their laws were held against them
	for name := range m.stages {
		changed[name] = true
	}
	for round := range roundsOfLaws {
		m.changed = map[string]bool{}
		for _, l := range plan.Laws {
			if !changed[l.Table] && !changed[l.Other.Table] {
				continue
			}
			if err := m.mend(ctx, l, round); err != nil {
				return fmt.Errorf("the fact %q: %w", l.Words(), err)
			}
		}
		if changed = m.changed; len(changed) == 0 {
			return nil
		}
	}
	return nil
}

// mender puts rows of staged tables back as they were.
type mender struct {
	conn              *sql.Conn
	plan              twin.Plan
	stages, originals map[string]string // by table
	laws              sqltext.Laws
	changed           map[string]bool // tables, in this round
}

// brokenRows is a table of the numbers of rows that break a law.
const brokenRows = `"tovrel broken"`

// mend puts back what breaks a law more often than in the original.
func (m *mender) mend(ctx context.Context, l twin.Law, round int) error {
	if err := m.run(ctx, "CREATE OR REPLACE TEMP TABLE "+brokenRows+" AS "+m.laws.Breaking(l)); err != nil {
		return err
	}
	var n int64
	if err := m.conn.QueryRowContext(ctx, "SELECT count(*) FROM "+brokenRows).Scan(&n); err != nil || n <= l.Broken {
		return err
	}
	switch {
	case round < roundsOfRows:
		return m.rows(ctx, l)
	case round < roundsOfTables:
		tables := []string{l.Table}
		if l.Other.Table != "" && l.Other.Table != l.Table {
			tables = append(tables, l.Other.Table)
		}
		return m.tables(ctx, tables)
	}
	var all []string
	for _, t := range m.plan.Tables {
		all = append(all, t.Name)
	}
	return m.tables(ctx, all)
}

// rows puts back the rows that break a law, the other rows of their groups, and the rows that they referred to.
func (m *mender) rows(ctx context.Context, l twin.Law) error {
	m.changed[l.Table] = true
	stage, was := m.stages[l.Table], "("+m.originals[l.Table]+")"
	chosen := fmt.Sprintf("%s IN (FROM %s)", rowNumber, brokenRows)
	if l.By != "" {
		by := sqltext.Name(l.By)
		chosen = fmt.Sprintf("(%s OR %s IN (SELECT %s FROM %s WHERE %s))", chosen, by, by, was, chosen)
	}
	statements := []string{
		fmt.Sprintf(`CREATE OR REPLACE TEMP TABLE "tovrel back" AS SELECT * FROM %s WHERE %s`, was, chosen),
		fmt.Sprintf(`DELETE FROM %s WHERE %s IN (SELECT %s FROM "tovrel back")`, stage, rowNumber, rowNumber),
		fmt.Sprintf(`INSERT INTO %s SELECT * FROM "tovrel back"`, stage),
	}
	if key := parentKey(l); key != "" {
		m.changed[l.Other.Table] = true
		parents, were := m.stages[l.Other.Table], "("+m.originals[l.Other.Table]+")"
		met := fmt.Sprintf(`%s IN (SELECT %s FROM "tovrel back")`, sqltext.Name(key), sqltext.Name(l.Columns[0]))
		statements = append(statements,
			fmt.Sprintf("DELETE FROM %s WHERE %s IN (SELECT %s FROM %s WHERE %s)", parents, rowNumber, rowNumber, were, met),
			fmt.Sprintf("INSERT INTO %s SELECT * FROM %s WHERE %s", parents, were, met))
	}
	return m.run(ctx, statements...)
}

// parentKey is the key of the table that a law's column refers to; "" where it is about one table.
func parentKey(l twin.Law) string {
	switch l.Kind {
	case twin.Refers:
		return l.Other.Column
	case twin.OrderedAcross:
		return l.Values[0]
	}
	return ""
}

// tables puts whole tables back.
func (m *mender) tables(ctx context.Context, names []string) error {
	var statements []string
	for _, name := range names {
		m.changed[name] = true
		statements = append(statements, "DELETE FROM "+m.stages[name], "INSERT INTO "+m.stages[name]+" "+m.originals[name])
	}
	return m.run(ctx, statements...)
}

func (m *mender) run(ctx context.Context, statements ...string) error {
	for _, statement := range statements {
		if _, err := m.conn.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("%w\n%s", err, strings.TrimSpace(statement))
		}
	}
	return nil
}
