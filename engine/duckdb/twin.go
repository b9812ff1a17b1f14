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

// twinMemory bounds the memory in which a twin is made, in megabytes; what does not fit is put beside the file meanwhile.
const twinMemory = 2048

// Twin makes a perturbed copy of a frozen database in a new file, by a plan, and describes its tables; each is told how many of its steps
// are done. The original is only read. It errs where the file cannot be written or a step does not run.
func Twin(ctx context.Context, original, path string, plan twin.Plan, each func(done, total int)) (tables []engine.Table, err error) {
	var changes [][]string // by table
	total := 1             // the laws
	for i, t := range plan.Tables {
		w := twinWriter{name: t.Name, stage: stageOf(i), seed: plan.Seed}
		changes = append(changes, w.statements(t))
		total += len(changes[i]) + 1
	}
	done := 0
	step := func() { done++; each(done, total) }
	err = withFile(ctx, path+"?"+options.Encode(), func(conn *sql.Conn) error {
		bounded := fmt.Sprintf("SET memory_limit = '%dMB'; ", twinMemory)
		if _, err := conn.ExecContext(ctx, bounded+"ATTACH "+sqltext.Text(original)+" AS tovrel_original (READ_ONLY)"); err != nil {
			return err
		}
		for i, t := range plan.Tables {
			for _, statement := range changes[i] {
				if _, err := conn.ExecContext(ctx, statement); err != nil {
					return fmt.Errorf("table %s: %w\n%s", t.Name, err, statement)
				}
				step()
			}
		}
		if err := keepReferences(ctx, conn, plan); err != nil {
			return err
		}
		if err := keepLaws(ctx, conn, plan); err != nil {
			return err
		}
		step()
		for i, t := range plan.Tables {
			described, err := kept(ctx, conn, t.Name, stageOf(i))
			if err != nil {
				return fmt.Errorf("table %s: %w", t.Name, err)
			}
			tables = append(tables, described)
			step()
		}
		return nil
	})
	return tables, err
}

// kept stores a staged table and describes it.
func kept(ctx context.Context, conn *sql.Conn, name, stage string) (engine.Table, error) {
	if _, err := conn.ExecContext(ctx, fmt.Sprintf("CREATE TABLE main.%s AS SELECT * EXCLUDE (%s, %s) FROM %s ORDER BY %s; DROP TABLE %s",
		sqltext.Name(name), rowNumber, pinnedRow, stage, rowNumber, stage)); err != nil {
		return engine.Table{}, err
	}
	return describe(ctx, conn, name)
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
		rowNumber, sqltext.Pinned(t.Pins), pinnedRow, sqltext.Name(t.Name), order)
}

// chance is a number from 0 to 999 for a row, another for every step and seed.
func (w *twinWriter) chance(salt int) string {
	return fmt.Sprintf("(CASE WHEN %s THEN 1000 ELSE hash(%s, %d) %% 1000 END)", pinnedRow, rowNumber, (w.seed*1000+w.at)*10+salt)
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
			sqltext.InOrder(sqltext.Name(s.Other), s.Order))}
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

func (w *twinWriter) salt(s twin.Salt) []string {
	c := sqltext.Name(s.Column)
	v := fmt.Sprintf("CAST(%s AS %s)", sqltext.Text(s.Value), s.Type)
	fits := c + " IS NOT NULL" + sqltext.InOrder(v, s.Order)
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

// copyRows writes a new table: replacing many cells of one takes far longer.
func (w *twinWriter) copyRows(s twin.Copy) []string {
	var replaced []string
	for _, column := range s.Columns {
		c := sqltext.Name(column)
		replaced = append(replaced, fmt.Sprintf("CASE WHEN taken.k IS NULL THEN m.%s ELSE taken.%s END AS %s", c, c, c))
	}
	var columns []string
	for _, column := range s.Columns {
		columns = append(columns, sqltext.Name(column))
	}
	into := fmt.Sprintf("SELECT %s FROM %s WHERE %s < %d AND %s %% 2 = 1", rowNumber, w.stage, w.chance(0), s.Share*2, rowNumber)
	taken := fmt.Sprintf("SELECT %s + 1 AS k, %s FROM %s WHERE NOT %s AND %s + 1 IN (%s)", rowNumber, strings.Join(columns, ", "), w.stage,
		pinnedRow, rowNumber, into)
	return []string{
		fmt.Sprintf(`CREATE TEMP TABLE "tovrel copied" AS SELECT m.* REPLACE (%s) FROM %s m LEFT JOIN (%s) taken ON m.%s = taken.k`,
			strings.Join(replaced, ", "), w.stage, taken, rowNumber),
		fmt.Sprintf(`DROP TABLE %s; ALTER TABLE "tovrel copied" RENAME TO %s`, w.stage, w.stage),
	}
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
