package duckdb

import (
	"fmt"

	"tovrel/core/value"
)

// columnType is a column's type with the engine's name of it.
type columnType struct {
	value.Type
	sql string
}

// fits is a condition that every cell of a column's type meets. Where the type was inferred it must lose nothing: a number
// must come back as it was written.
func (l *loading) fits(column int) string {
	c, cell := l.columns[column], l.cell(l.names[column])
	cast := "TRY_CAST(" + cell + " AS " + c.sql + ")"
	return "(" + cell + ") IS NULL OR " + condition(c, cell, cast)
}

func condition(c loadColumn, cell, cast string) string {
	if c.given {
		return cast + " IS NOT NULL"
	}
	switch c.Kind {
	case value.Int, value.Decimal, value.Date:
		return cast + "::VARCHAR = " + cell
	case value.Float:
		return cast + " IS NOT NULL AND NOT regexp_matches(" + cell + `, '^\s|\s$|^-?0[0-9]|^\+|_|^-?[0-9]{16,}')`
	case value.Bool:
		return "lower(" + cell + ") IN ('true', 'false')"
	case value.TimestampTZ:
		return cast + " IS NOT NULL AND regexp_matches(" + cell + `, '^[0-9]{4}-.*(Z|[+-][0-9:]+)$')`
	case value.Blob, value.JSON:
		return cast + " IS NOT NULL"
	}
	return cast + " IS NOT NULL AND regexp_matches(" + cell + `, '^[0-9]{2}([0-9]{2}-|:)[0-9:. T-]*$')`
}

// engineType names a type for the engine.
func engineType(t value.Type) columnType {
	switch t.Kind {
	case value.Bool:
		return columnType{t, "BOOLEAN"}
	case value.Int:
		return columnType{t, "BIGINT"}
	case value.Decimal:
		return columnType{t, fmt.Sprintf("DECIMAL(18,%d)", min(t.Scale, 18))}
	case value.Float:
		return columnType{t, "DOUBLE"}
	case value.Date:
		return columnType{t, "DATE"}
	case value.Time:
		return columnType{t, "TIME"}
	case value.Timestamp:
		return columnType{t, "TIMESTAMP"}
	case value.TimestampTZ:
		return columnType{t, "TIMESTAMPTZ"}
	case value.Blob:
		return columnType{t, "BLOB"}
	case value.JSON:
		return columnType{t, "JSON"}
	}
	return columnType{value.Type{Kind: value.Text}, "VARCHAR"}
}

// wider is the next type to try for a column that does not hold.
func wider(t columnType) columnType {
	switch t.Kind {
	case value.Int, value.Decimal:
		return engineType(value.Type{Kind: value.Float})
	case value.Date:
		return engineType(value.Type{Kind: value.Timestamp})
	}
	return engineType(value.Type{Kind: value.Text})
}
