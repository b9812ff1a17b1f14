package sqltext

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/twin"
	"tovrel/core/value"
)

// Dialect is how an engine writes what views over changed tables need: DuckDB's own words, or what SQLite has in their place. The zero
// value is DuckDB's.
type Dialect struct{ lite bool }

// In is the dialect of an engine by its name.
func In(engine string) Dialect { return Dialect{lite: engine == "sqlite"} }

// items are a table's columns, some of them replaced by expressions, and without the one that multiplies rows.
func (in Dialect) items(columns []string, replaced map[string]string, times bool) string {
	var out []string
	if !in.lite {
		star := "*"
		if times {
			star += " EXCLUDE (" + timesColumn + ")"
		}
		if len(replaced) == 0 {
			return star
		}
		for column, expression := range replaced {
			out = append(out, expression+" AS "+Name(column))
		}
		slices.Sort(out)
		return star + " REPLACE (" + strings.Join(out, ", ") + ")"
	}
	for _, c := range columns {
		if expression, is := replaced[c]; is {
			out = append(out, expression+" AS "+Name(c))
		} else {
			out = append(out, Name(c))
		}
	}
	return strings.Join(out, ", ")
}

// firsts adds conditions on windows to a FROM clause.
func (in Dialect) firsts(from string, conditions []string) string {
	switch {
	case len(conditions) == 0:
		return from
	case !in.lite:
		return from + " QUALIFY " + strings.Join(conditions, " AND ")
	}
	return " FROM (SELECT *, (" + strings.Join(conditions, " AND ") + `) AS "tovrel first"` + from + `) WHERE "tovrel first"`
}

// drawn is a number from 0 up to one below some, by chance and by the row: the same for the same seed.
func (in Dialect) drawn(seed, below int) string {
	if in.lite {
		const factor, prime = 1103515245, 2147483647
		return fmt.Sprintf("((rowid * %d + %d) %% %d) %% %d", factor, int64(uint32(seed))*12345, prime, below)
	}
	const apart = 1_000_003 // hash(rowid, seed) gives for all seeds the same halves
	return fmt.Sprintf("hash(rowid + %d) %% %d", int64(uint32(seed))*apart, below)
}

// Some are about one in so many of a table's rows, the same ones every time; all for 1. Most bounds them; 0 for no bound.
func (in Dialect) Some(table string, oneIn int64, most int) string {
	text := "SELECT * FROM " + Name(table)
	if oneIn > 1 {
		text += fmt.Sprintf(" WHERE %s = 0", in.drawn(0, int(oneIn)))
	}
	if most > 0 {
		text += fmt.Sprintf(" LIMIT %d", most)
	}
	return text
}

// literal is a text as a value of a type.
func (in Dialect) literal(text, kind string) string {
	if !in.lite {
		return Cast(&text, kind)
	}
	if of, known := value.KindOfSQL(kind); known && of.Number() {
		if _, isNumber := value.Rational(text); isNumber {
			return text
		}
	}
	return Text(text)
}

// tried is a text as a value of a type, or another expression where it is none.
func (in Dialect) tried(text, kind, otherwise string) string {
	if !in.lite {
		return fmt.Sprintf("coalesce(TRY_CAST(%s AS %s), %s)", Text(text), kind, otherwise)
	}
	if of, known := value.KindOfSQL(kind); known && of.Number() {
		if _, isNumber := value.Rational(text); !isNumber {
			return otherwise
		}
	}
	return in.literal(text, kind)
}

// as is an expression as a value of a type; SQLite's cells have types of their own.
func (in Dialect) as(expression, kind string) string {
	if in.lite {
		return expression
	}
	return fmt.Sprintf("CAST(%s AS %s)", expression, kind)
}

// later is a moment some months later.
func (in Dialect) later(column, kind string, months int) string {
	if !in.lite {
		return fmt.Sprintf("CAST(%s + INTERVAL (%d) MONTH AS %s)", column, months, kind)
	}
	const day = 10 // the length of a day as text
	return fmt.Sprintf("CASE WHEN length(%s) > %d THEN datetime(%s, '%+d months') ELSE date(%s, '%+d months') END", column, day, column,
		months, column, months)
}

func (in Dialect) row(s twin.Add) string {
	var cells []string
	for _, cell := range s.Cells {
		switch {
		case !in.lite:
			cells = append(cells, Cast(cell.Text, cell.Type))
		case cell.Text == nil:
			cells = append(cells, "NULL")
		default:
			cells = append(cells, in.literal(*cell.Text, cell.Type))
		}
	}
	return "(" + strings.Join(cells, ", ") + ")"
}
