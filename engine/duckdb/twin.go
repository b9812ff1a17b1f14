package duckdb

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// Twin makes a perturbed copy of a frozen database in a new file, by a plan, and describes its tables. The original is only read. It
// errs where the file cannot be written or a step does not run.
func Twin(ctx context.Context, original, path string, plan twin.Plan) (tables []engine.Table, err error) {
	err = withFile(ctx, path+"?"+options.Encode(), func(conn *sql.Conn) error {
		if _, err := conn.ExecContext(ctx, "ATTACH "+sqltext.Text(original)+" AS tovrel_original (READ_ONLY)"); err != nil {
			return err
		}
		for i, t := range plan.Tables {
			w := twinWriter{name: t.Name, stage: stageOf(i), seed: plan.Seed}
			for _, statement := range w.statements(t) {
				if _, err := conn.ExecContext(ctx, statement); err != nil {
					return fmt.Errorf("table %s: %w\n%s", t.Name, err, statement)
				}
			}
		}
		if err := keepReferences(ctx, conn, plan); err != nil {
			return err
		}
		if err := keepLaws(ctx, conn, plan); err != nil {
			return err
		}
		for i, t := range plan.Tables {
			statement := fmt.Sprintf("CREATE TABLE main.%s AS SELECT * EXCLUDE (%s, %s) FROM %s ORDER BY %s; DROP TABLE %s",
				sqltext.Name(t.Name), rowNumber, pinnedRow, stageOf(i), rowNumber, stageOf(i))
			if _, err := conn.ExecContext(ctx, statement); err != nil {
				return fmt.Errorf("table %s: %w", t.Name, err)
			}
			described, err := describe(ctx, conn, t.Name)
			if err != nil {
				return err
			}
			tables = append(tables, described)
		}
		return nil
	})
	return tables, err
}

// rowNumber is the column of a staged table that numbers its rows.
const rowNumber = sqltext.RowNumber

// pinnedRow is the column that tells which of its rows stay as they are.
const pinnedRow = `"tovrel pinned"`

func stageOf(i int) string { return fmt.Sprintf(`"tovrel stage %d"`, i) }

// roundsOfReferences bounds how often removing a row may remove others.
const roundsOfReferences = 20

// keepReferences removes the rows whose parent is gone, and those that refer to these in turn. What had no parent in the original keeps
// none.
func keepReferences(ctx context.Context, conn *sql.Conn, plan twin.Plan) error {
	stages := map[string]string{}
	for i, t := range plan.Tables {
		stages[t.Name] = stageOf(i)
	}
	for range roundsOfReferences {
		removed := int64(0)
		for _, l := range plan.Links {
			from, to, key := sqltext.Name(l.From.Column), stages[l.To.Table], sqltext.Name(l.To.Column)
			done, err := conn.ExecContext(ctx, fmt.Sprintf("DELETE FROM %s WHERE %s IN (SELECT %s FROM "+
				"tovrel_original.main.%s WHERE %s IS NOT NULL EXCEPT SELECT %s FROM %s WHERE %s IS NOT NULL)",
				stages[l.From.Table], from, key, sqltext.Name(l.To.Table), key, key, to, key))
			if err != nil {
				return err
			}
			n, _ := done.RowsAffected()
			removed += n
		}
		if removed == 0 {
			return nil
		}
	}
	return nil
}

// twinWriter writes the statements of one table's steps.
type twinWriter struct {
	name, stage string
	seed, at    int
}

func (w *twinWriter) statements(t twin.TablePlan) []string {
	out := []string{fmt.Sprintf("CREATE TEMP TABLE %s AS %s", w.stage, original(t))}
	var deals []twin.Deal
	steps := t.Steps
	for len(steps) > 0 {
		deal, is := steps[0].(twin.Deal)
		if !is {
			break
		}
		deals, steps = append(deals, deal), steps[1:]
	}
	out = append(out, w.deals(deals)...)
	for _, s := range steps {
		w.at++
		out = append(out, w.write(s)...)
	}
	return out
}

// original is a query of a table as it was, its rows numbered in their order.
func original(t twin.TablePlan) string {
	order := "rowid"
	if t.Order != "" {
		order = sqltext.Name(t.Order) + ", rowid"
	}
	return fmt.Sprintf("SELECT row_number() OVER (ORDER BY %s) - 1 AS %s, %s AS %s, * FROM tovrel_original.main.%s ORDER BY %s", order,
		rowNumber, pinned(t.Pins), pinnedRow, sqltext.Name(t.Name), order)
}

// chance is a number from 0 to 999 for a row, another for every step and seed.
func (w *twinWriter) chance(salt int) string {
	return fmt.Sprintf("(CASE WHEN %s THEN 1000 ELSE hash(%s, %d) %% 1000 END)", pinnedRow, rowNumber, (w.seed*1000+w.at)*10+salt)
}

// pinned tells which rows stay as they are.
func pinned(pins []twin.Pinned) string {
	var out strings.Builder
	out.WriteString("false")
	for _, p := range pins {
		c := sqltext.Name(p.Column)
		if p.Null {
			out.WriteString(fmt.Sprintf(" OR %s IS NULL", c))
		} else if p.Value != "" {
			out.WriteString(fmt.Sprintf(" OR coalesce(CAST(%s AS VARCHAR) = %s, false)", c, sqltext.Text(p.Value)))
		} else {
			out.WriteString(fmt.Sprintf(" OR (%s IS NOT NULL AND count(*) OVER (PARTITION BY %s) > 1)", c, c))
		}
	}
	return out.String()
}

func (w *twinWriter) write(s twin.Step) []string {
	switch s := s.(type) {
	case twin.Jitter:
		return w.jitter(s)
	case twin.Salt:
		return w.salt(s)
	case twin.Meet:
		return []string{w.update(s.Column, sqltext.Name(s.Other), w.chance(0)+
			fmt.Sprintf(" < %d AND %s IS NOT NULL AND %s IS NOT NULL", s.Share, sqltext.Name(s.Column), sqltext.Name(s.Other))+
			order(sqltext.Name(s.Other), s.Order))}
	case twin.Land:
		return w.land(s)
	case twin.Blank:
		return []string{w.update(s.Column, "NULL", w.chance(0)+fmt.Sprintf(" < %d", s.Share))}
	case twin.Copy:
		return w.copyRows(s)
	case twin.Drop:
		return w.drop(s)
	case twin.Orphan:
		return w.orphan(s)
	case twin.Swap:
		return []string{w.update(s.Column, w.oneOf(s.Values, s.Type, rowNumber),
			fmt.Sprintf("%s < %d AND %s IS NOT NULL", w.chance(0), s.Share, sqltext.Name(s.Column)))}
	case twin.Extreme:
		return w.extreme(s)
	case twin.Clear:
		return w.clear(s)
	case twin.Distinct:
		return w.distinct(s)
	}
	return nil
}

func (w *twinWriter) update(column, to, where string) string {
	return fmt.Sprintf("UPDATE %s SET %s = %s WHERE %s", w.stage, sqltext.Name(column), to, where)
}

// take updates columns from a query that gives k, the row, and the columns.
func (w *twinWriter) take(columns []string, from string) string {
	var sets []string
	for _, c := range columns {
		sets = append(sets, sqltext.Name(c)+" = taken."+sqltext.Name(c))
	}
	return fmt.Sprintf("UPDATE %s SET %s FROM (%s) taken WHERE %s = taken.k", w.stage, strings.Join(sets, ", "), from, rowNumber)
}

func prefixed(alias string, columns []string) string {
	var out []string
	for _, c := range columns {
		out = append(out, alias+"."+sqltext.Name(c))
	}
	return strings.Join(out, ", ")
}

// deals turn the cells around among the chosen rows, each step in an order by chance: a new table, for replacing most rows of one
// takes far longer.
func (w *twinWriter) deals(steps []twin.Deal) []string {
	var replaced, windows []string
	for i, s := range steps {
		w.at++
		window := fmt.Sprintf("w%d", i)
		chosen := fmt.Sprintf("%s < %d", w.chance(0), s.Share)
		windows = append(windows, fmt.Sprintf("%s AS (PARTITION BY %s ORDER BY hash(%s, %d), %s ROWS BETWEEN UNBOUNDED "+
			"PRECEDING AND UNBOUNDED FOLLOWING)", window, chosen, rowNumber, (w.seed*1000+w.at)*10+1, rowNumber))
		for _, column := range s.Columns {
			c := sqltext.Name(column)
			replaced = append(replaced, fmt.Sprintf("CASE WHEN NOT (%s) THEN %s WHEN lead(%s) OVER %s IS NULL THEN "+
				"first_value(%s) OVER %s ELSE lead(%s) OVER %s END AS %s", chosen, c, rowNumber, window, c, window, c, window, c))
		}
	}
	if len(replaced) == 0 {
		return nil
	}
	return []string{
		fmt.Sprintf(`CREATE TEMP TABLE "tovrel dealt" AS SELECT * REPLACE (%s) FROM %s WINDOW %s`, strings.Join(replaced, ", "),
			w.stage, strings.Join(windows, ", ")),
		fmt.Sprintf(`DROP TABLE %s; ALTER TABLE "tovrel dealt" RENAME TO %s`, w.stage, w.stage),
	}
}

func (w *twinWriter) jitter(s twin.Jitter) []string {
	c := sqltext.Name(s.Column)
	factor := fmt.Sprintf("(1 + (CAST(hash(%s, %d) %% 2001 AS DOUBLE) - 1000) / 10000)", rowNumber, (w.seed*1000+w.at)*10+1)
	moved := fmt.Sprintf("round(CAST(%s AS DOUBLE) * %s, %d)", c, factor, s.Decimals)
	inside := fmt.Sprintf("%s BETWEEN %s AND %s", moved, s.Low, s.High) // what would leave the range stays, rather than gather at its end
	return []string{w.update(s.Column, moved, fmt.Sprintf("%s < %d AND %s <> 0 AND %s", w.chance(0), s.Share, c, inside))}
}

// order is the condition under which a new value keeps its order with other columns.
func order(v string, o twin.Order) string {
	var out strings.Builder
	for _, c := range o.NotAbove {
		out.WriteString(fmt.Sprintf(" AND (%s IS NULL OR %s <= %s)", sqltext.Name(c), v, sqltext.Name(c)))
	}
	for _, c := range o.NotBelow {
		out.WriteString(fmt.Sprintf(" AND (%s IS NULL OR %s >= %s)", sqltext.Name(c), v, sqltext.Name(c)))
	}
	return out.String()
}

func (w *twinWriter) salt(s twin.Salt) []string {
	c := sqltext.Name(s.Column)
	v := fmt.Sprintf("CAST(%s AS %s)", sqltext.Text(s.Value), s.Type)
	fits := c + " IS NOT NULL" + order(v, s.Order)
	chosen := fmt.Sprintf("%s < %d", w.chance(0), s.Share)
	few := fmt.Sprintf("%s IN (SELECT %s FROM %s WHERE NOT %s AND %s ORDER BY hash(%s, %d) LIMIT 2)", rowNumber, rowNumber,
		w.stage, pinnedRow, fits, rowNumber, (w.seed*1000+w.at)*10+1)
	return []string{w.update(s.Column, v, fits+" AND ("+chosen+" OR "+few+")")}
}

// One row in so many is moved onto a value, within bounds.
const landedOf, landedLeast, landedMost = 100, 3, 500

func (w *twinWriter) land(s twin.Land) []string {
	c := sqltext.Name(s.Column)
	v := fmt.Sprintf("CAST(%s AS %s)", sqltext.Text(s.Value), s.Type)
	compare, direction := ">", "ASC"
	if s.Room == twin.MayRise {
		compare, direction = "<", "DESC"
	}
	next := fmt.Sprintf("SELECT %s FROM %s WHERE %s %s %s ORDER BY %s %s, %s %s LIMIT (SELECT least(%d, greatest(%d, "+
		"count(*) // %d)) FROM %s)",
		rowNumber, w.stage, c, compare, v, c, direction, rowNumber, direction, landedMost, landedLeast, landedOf, w.stage)
	var sets strings.Builder
	sets.WriteString(c + " = " + v)
	for _, other := range s.Along {
		by := fmt.Sprintf("(%s - %s)", v, c)
		if s.Type == "DATE" {
			by = "CAST(" + by + " AS INTEGER)"
		}
		sets.WriteString(fmt.Sprintf(", %s = %s + %s", sqltext.Name(other), sqltext.Name(other), by))
	}
	return []string{fmt.Sprintf("UPDATE %s SET %s WHERE NOT %s AND %s IN (%s)", w.stage, sets.String(), pinnedRow, rowNumber, next)}
}

// oneOf is one of some values, by chance: the same wherever some expressions are.
func (w *twinWriter) oneOf(values []string, kind, by string) string {
	var list []string
	for _, v := range values {
		list = append(list, sqltext.Text(v))
	}
	return fmt.Sprintf("CAST([%s][1 + CAST(hash(%s, %d) %% %d AS BIGINT)] AS %s)", strings.Join(list, ", "), by,
		(w.seed*1000+w.at)*10+1, len(values), kind)
}

func (w *twinWriter) extreme(s twin.Extreme) []string {
	amount := sqltext.Name(s.Amount)
	year := "0"
	if s.Year != "" {
		year = "coalesce(year(" + sqltext.Name(s.Year) + "), 0)"
	}
	to := "NULL"
	if len(s.Values) > 0 { // the same for all rows of an extreme: one that kept its value would hide the others
		to = w.oneOf(s.Values, s.Type, year+", "+amount)
	}
	ends := fmt.Sprintf("SELECT %s AS y, max(%s) AS high, min(%s) AS low FROM %s WHERE NOT %s GROUP BY 1", year, amount, amount,
		w.stage, pinnedRow)
	rows := fmt.Sprintf("SELECT %s FROM %s JOIN (%s) ends ON y = %s WHERE NOT %s AND (%s = high OR %s = low)", rowNumber,
		w.stage, ends, year, pinnedRow, amount, amount)
	return []string{w.update(s.Column, to, rowNumber+" IN ("+rows+")")}
}

func (w *twinWriter) clear(s twin.Clear) []string {
	ref, c := sqltext.Name(s.Reference), sqltext.Name(s.Column)
	var where strings.Builder
	where.WriteString("true")
	for _, bound := range []struct{ value, compare string }{{s.From, ">="}, {s.Before, "<"}, {s.Is, "="}, {s.IsNot, "<>"}} {
		if bound.value != "" {
			where.WriteString(fmt.Sprintf(" AND %s %s CAST(%s AS %s)", c, bound.compare, sqltext.Text(bound.value), s.Type))
		}
	}
	if s.Nulls {
		where.WriteString(" AND " + c + " IS NULL")
	}
	chosen := fmt.Sprintf("SELECT %s FROM %s WHERE %s IS NOT NULL GROUP BY 1 HAVING count(*) > count(*) FILTER (%s) ORDER BY "+
		"hash(%s, %d), 1 LIMIT (SELECT greatest(1, count(DISTINCT %s) * %d // 1000) FROM %s)", ref, w.stage, ref, where.String(), ref,
		(w.seed*1000+w.at)*10, ref, s.Share, w.stage)
	return []string{fmt.Sprintf("DELETE FROM %s WHERE (SELECT count(DISTINCT %s) FROM %s) >= 5 AND NOT %s AND %s AND %s IN (%s)", w.stage,
		ref, w.stage, pinnedRow, where.String(), ref, chosen)}
}

func (w *twinWriter) copyRows(s twin.Copy) []string {
	into := fmt.Sprintf("SELECT %s AS k, %s - 1 AS d FROM %s WHERE %s < %d AND %s %% 2 = 1", rowNumber, rowNumber, w.stage,
		w.chance(0), s.Share*2, rowNumber)
	return []string{w.take(s.Columns, fmt.Sprintf("SELECT m.k, %s FROM (%s) m JOIN %s s ON s.%s = m.d AND NOT s.%s",
		prefixed("s", s.Columns), into, w.stage, rowNumber, pinnedRow))}
}

func (w *twinWriter) drop(s twin.Drop) []string {
	covering := []string{fmt.Sprintf("SELECT min(%s) FROM %s", rowNumber, w.stage)}
	for _, c := range s.Values {
		covering = append(covering, fmt.Sprintf("SELECT min(%s) FROM %s GROUP BY %s", rowNumber, w.stage, sqltext.Name(c)))
	}
	for _, c := range s.Months {
		covering = append(covering, fmt.Sprintf("SELECT min(%s) FROM %s GROUP BY substr(CAST(%s AS VARCHAR), 1, 7)", rowNumber,
			w.stage, sqltext.Name(c)),
			fmt.Sprintf("SELECT min(%s) FROM %s WHERE %s = (SELECT min(%s) FROM %s)", rowNumber, w.stage, sqltext.Name(c),
				sqltext.Name(c), w.stage),
			fmt.Sprintf("SELECT min(%s) FROM %s WHERE %s = (SELECT max(%s) FROM %s)", rowNumber, w.stage, sqltext.Name(c),
				sqltext.Name(c), w.stage))
	}
	return []string{fmt.Sprintf("DELETE FROM %s WHERE %s < %d AND %s NOT IN (SELECT * FROM (%s) covering(k) WHERE k IS NOT "+
		"NULL)", w.stage, w.chance(0), s.Share, rowNumber, strings.Join(covering, " UNION ALL "))}
}

func (w *twinWriter) orphan(s twin.Orphan) []string {
	ref, key := sqltext.Name(s.Reference), sqltext.Name(s.Key)
	parents := "tovrel_original.main." + sqltext.Name(s.Parent)
	chosen := fmt.Sprintf("SELECT %s FROM %s WHERE %s IN (SELECT %s FROM %s) ORDER BY hash(%s, %d), %s LIMIT (SELECT "+
		"greatest(1, count(DISTINCT %s) * %d // 1000) FROM %s)", key, parents, key, ref, w.stage, key, (w.seed*1000+w.at)*10,
		key, ref, s.Share, w.stage)
	return []string{fmt.Sprintf("DELETE FROM %s WHERE (SELECT count(DISTINCT %s) FROM %s) >= 3 AND %s IN (SELECT * FROM (%s))",
		w.stage, ref, w.stage, ref, chosen)}
}

func (w *twinWriter) distinct(s twin.Distinct) []string {
	var all, filled []string
	for _, c := range s.Columns {
		all, filled = append(all, sqltext.Name(c)), append(filled, sqltext.Name(c)+" IS NOT NULL")
	}
	return []string{fmt.Sprintf("DELETE FROM %s WHERE %s IN (SELECT %s FROM %s WHERE %s QUALIFY row_number() OVER (PARTITION "+
		"BY %s ORDER BY %s) > 1)", w.stage, rowNumber, rowNumber, w.stage,
		strings.Join(filled, " AND "), strings.Join(all, ", "), rowNumber)}
}
