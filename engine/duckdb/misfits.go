package duckdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"

	"tovrel/core/source"
)

// misfitLines is of how many cells that do not fit the lines are named, for each column and file.
const misfitLines = 3

// misfits tells the cells that do not fit the type that the user gave their column, a problem for each file.
func (l *loading) misfits(ctx context.Context, column int) (source.Problems, error) {
	var problems source.Problems
	name := l.names[column]
	for _, s := range l.source.Samples {
		rows, err := l.conn.QueryContext(ctx, "SELECT line, cell, count(*) OVER () FROM (SELECT row_number() OVER () + ? AS "+
			"line, "+l.cell(name)+" AS cell, ("+l.fits(column)+") IS NOT TRUE AS bad FROM "+
			reading(s, "")+") WHERE bad ORDER BY line LIMIT ?", s.Skip+1, misfitLines)
		if err != nil {
			return nil, err
		}
		var lines []int
		var first string
		var count int
		for rows.Next() {
			var line int
			var cell string
			if err := rows.Scan(&line, &cell, &count); err != nil {
				return nil, errors.Join(err, rows.Close())
			}
			if len(lines) == 0 {
				first = cell
			}
			lines = append(lines, s.Line(line))
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return nil, err
		}
		if count > 0 {
			problems = append(problems, source.Problem{Position: source.Position{File: s.File, Line: lines[0]},
				Code: "type-mismatch", Severity: source.Error,
				Message: fmt.Sprintf("column %s: %q is no %s%s", name, clip(first), l.columns[column].Kind,
					otherLines(lines, count)), Remedy: "correct the values, or the type under types: in tovrel.yaml"})
		}
	}
	return problems, nil
}

// otherLines tells where a problem of the first of the lines is met again; count is of all such cells.
func otherLines(lines []int, count int) string {
	if count == 1 {
		return ""
	}
	words := make([]string, len(lines))
	for i, n := range lines {
		words[i] = fmt.Sprint(n)
	}
	where := fmt.Sprintf("; %d cells are not, lines %s", count, strings.Join(words, ", "))
	if count > len(lines) {
		where += " …"
	}
	return where
}

var rejectWords = map[string]string{"MISSING COLUMNS": "too few columns", "TOO MANY COLUMNS": "too many columns",
	"UNQUOTED VALUE": "a quote that is not closed or stands in the middle of a value", "LINE SIZE OVER MAXIMUM": "too long a line",
	"INVALID ENCODING": "bytes that are not UTF-8"}

// rejected lists the rows that could not be read.
func rejected(ctx context.Context, conn *sql.Conn, s *Sample) error {
	rows, err := conn.QueryContext(ctx, "SELECT line, any_value(error_type::VARCHAR), any_value(csv_line), count(*) OVER () "+
		"FROM reject_errors GROUP BY line ORDER BY line LIMIT ?", maxRejects)
	if err != nil {
		return err
	}
	var problems source.Problems
	total := 0
	for rows.Next() {
		var line int
		var kind, text sql.NullString
		if err := rows.Scan(&line, &kind, &text, &total); err != nil {
			return errors.Join(err, rows.Close())
		}
		words := rejectWords[strings.ToUpper(kind.String)]
		if words == "" {
			words = strings.ToLower(kind.String)
		}
		problems = append(problems, source.Problem{Position: source.Position{File: s.File, Line: s.Line(line)},
			Code: "unreadable-row", Severity: source.Error,
			Message: "this row cannot be read: it has " + words, Remedy: "correct the row", Excerpt: clip(text.String)})
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	if total > len(problems) {
		problems = append(problems, source.Problem{Position: source.Position{File: s.File}, Code: "unreadable-row", Severity: source.Error,
			Message: fmt.Sprintf("and %d more rows cannot be read", total-len(problems))})
	}
	if len(problems) > 0 {
		return problems
	}
	_, err = conn.ExecContext(ctx, "DROP TABLE IF EXISTS reject_errors; DROP TABLE IF EXISTS reject_scans")
	return err
}

func clip(text string) string {
	text, _, _ = strings.Cut(text, "\n")
	if r := []rune(text); len(r) > 100 {
		return string(r[:99]) + "…"
	}
	return text
}
