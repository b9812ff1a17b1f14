// Package dialect rewrites queries between the embedded engine's dialect and others. A query of another dialect is put into words that the
// embedded parser reads (Plain) and then given its meaning here (Local); a tree of the embedded dialect is written for a server (Write).
// Both go by rules (rules/*.txt), which are an allow list: what has no rule has no form, and that is said. It also recognises what other
// dialects call things in a query that does not run (foreign.go). It parses and runs nothing.
package dialect

import (
	"bufio"
	"bytes"
	"embed"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
)

// The dialects. Embedded is that of the embedded engine.
const (
	Embedded   = "duckdb"
	Postgres   = "postgres"
	MySQL      = "mysql"
	SQLite     = "sqlite"
	ClickHouse = "clickhouse"
	Trino      = "trino"
	TSQL       = "tsql"
	BigQuery   = "bigquery"
	Snowflake  = "snowflake"
	Spark      = "spark"
)

// names are the dialects that a translator may write.
var names = []string{Embedded, Postgres, MySQL, SQLite, ClickHouse, Trino, TSQL, BigQuery, Snowflake, Spark}

// Names are the dialects that a translator may write, in the order in which they are told.
func Names() []string { return slices.Clone(names) }

// Known tells whether a text names a dialect.
func Known(name string) bool { return slices.Contains(names, name) }

// Where nulls stand when nothing is said.
const (
	nullsLast     = iota // always
	nullsLargest         // last going up, first going down
	nullsSmallest        // first going up, last going down
)

// grammar is what sets a dialect apart beside the names of its functions.
type grammar struct {
	nulls int
	// wholeDivision is that whole numbers divided give a whole number; plusJoins that + joins texts; looseLike that LIKE knows no case;
	// bitwise that ^ is of bits.
	wholeDivision, plusJoins, looseLike, bitwise bool
	format                                       int // its style of formats of times
	// Names in backquotes, names in brackets, texts in double quotes, and backslashes in texts.
	backquotes, brackets, doubleTexts, backslashes bool
	hashComments, rawTexts                         bool // rawTexts: r'…' is a text without backslashes
}

// moreTypes are names of types in some dialects, as the embedded engine calls them.
var moreTypes = map[string]map[string]string{
	Postgres: {"FLOAT": "DOUBLE", "REAL": "FLOAT", "NUMERIC": "DECIMAL(38,12)", "DECIMAL": "DECIMAL(38,12)"},
	Trino:    {"REAL": "FLOAT", "DECIMAL": "DECIMAL(38,0)"},
	MySQL: {"SIGNED": "BIGINT", "UNSIGNED": "UBIGINT", "CHAR": "VARCHAR", "DATETIME": "TIMESTAMP", "NCHAR": "VARCHAR", "BINARY": "BLOB",
		"DECIMAL": "DECIMAL(10,0)", "NUMERIC": "DECIMAL(10,0)"},
	SQLite: {"REAL": "DOUBLE", "INT": "BIGINT", "INTEGER": "BIGINT", "NUMERIC": "DOUBLE", "DECIMAL": "DOUBLE"},
	ClickHouse: {"INT8": "TINYINT", "INT16": "SMALLINT", "INT32": "INTEGER", "INT64": "BIGINT", "UINT8": "UTINYINT", "UINT16": "USMALLINT",
		"UINT32": "UINTEGER", "UINT64": "UBIGINT", "FLOAT32": "FLOAT", "FLOAT64": "DOUBLE", "STRING": "VARCHAR", "DATETIME": "TIMESTAMP",
		"DATE32": "DATE"},
	TSQL: {"BIT": "BOOLEAN", "DATETIME": "TIMESTAMP", "DATETIME2": "TIMESTAMP", "MONEY": "DECIMAL(19,4)", "DECIMAL": "DECIMAL(18,0)",
		"NUMERIC": "DECIMAL(18,0)", "NVARCHAR": "VARCHAR",
		"SMALLDATETIME": "TIMESTAMP", "FLOAT": "DOUBLE"},
	BigQuery: {"INT64": "BIGINT", "FLOAT64": "DOUBLE", "STRING": "VARCHAR", "NUMERIC": "DECIMAL(38,9)", "BOOL": "BOOLEAN", "BYTES": "BLOB",
		"DATETIME": "TIMESTAMP", "TIMESTAMP": "TIMESTAMPTZ"},
	Snowflake: {"NUMBER": "DECIMAL(38,0)", "DECIMAL": "DECIMAL(38,0)", "NUMERIC": "DECIMAL(38,0)", "STRING": "VARCHAR", "FLOAT": "DOUBLE",
		"TIMESTAMP_NTZ": "TIMESTAMP", "DATETIME": "TIMESTAMP",
		"TIMESTAMP_TZ": "TIMESTAMPTZ"},
	Spark: {"STRING": "VARCHAR", "LONG": "BIGINT", "BYTE": "TINYINT", "SHORT": "SMALLINT", "DECIMAL": "DECIMAL(10,0)"},
}

var grammars = map[string]grammar{
	Postgres: {nulls: nullsLargest, wholeDivision: true, format: toChar},
	MySQL: {bitwise: true, nulls: nullsSmallest, format: percent, backquotes: true, doubleTexts: true, backslashes: true,
		hashComments: true},
	SQLite: {bitwise: true, nulls: nullsSmallest, wholeDivision: true, looseLike: true, format: strftime, backquotes: true,
		brackets: true},
	ClickHouse: {nulls: nullsLast, format: house, backquotes: true, backslashes: true},
	Trino:      {nulls: nullsLast, wholeDivision: true, format: letters},
	TSQL: {looseLike: true, bitwise: true, nulls: nullsSmallest, wholeDivision: true, plusJoins: true, format: letters,
		brackets: true},
	BigQuery: {bitwise: true, nulls: nullsSmallest, format: strftime, backquotes: true, doubleTexts: true, backslashes: true,
		hashComments: true,
		rawTexts:     true},
	Snowflake: {nulls: nullsLargest, format: toChar, backslashes: true},
	Spark:     {nulls: nullsSmallest, format: letters, backquotes: true, doubleTexts: true, backslashes: true},
}

//go:embed rules
var ruleFiles embed.FS

// rules are templates by the name of a function and how many arguments it takes: "name/2", "name/*" for any, "name/unit" where the
// first argument is that unit of time.
type rules map[string]string

// unheldMark stands before the template of a rule that was never held against a server, in a dialect whose other rules were.
const unheldMark = "~ "

// rulesOf reads a file of rules. What cannot be read is a mistake of the program's own, and stops it.
func rulesOf(file string) rules {
	out := marked(file)
	for call, template := range out {
		out[call] = strings.TrimPrefix(template, unheldMark)
	}
	return out
}

// marked are the rules of a file with their marks.
func marked(file string) rules {
	body, err := ruleFiles.ReadFile("rules/" + file + ".txt")
	if err != nil {
		return nil
	}
	out := rules{}
	lines := bufio.NewScanner(bytes.NewReader(body))
	for lines.Scan() {
		line := strings.TrimSpace(lines.Text())
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		call, template, ok := strings.Cut(line, "  ")
		if !ok || out[call] != "" {
			panic(fmt.Sprintf("rules/%s.txt: %q has no template, or is there twice", file, line))
		}
		out[call] = strings.TrimSpace(template)
	}
	return out
}

// checked are the dialects of which every rule without the mark was held against a server: what a query gives there, it gives here.
var checked = map[string]bool{Embedded: true, Postgres: true, MySQL: true, ClickHouse: true}

// Unchecked are those of some rules by which a query of a dialect was rewritten that were never held against a server of that kind. What
// all dialects share needs none.
func Unchecked(name string, used []string) []string {
	all := marked("from-" + name)
	return slices.DeleteFunc(slices.Clone(used), func(rule string) bool {
		if checked[name] {
			return !strings.HasPrefix(all[rule], unheldMark)
		}
		return sharedRules()[rule] != "" && all[rule] == ""
	})
}

// sharedRules are the rules that all dialects share.
var sharedRules = sync.OnceValue(func() rules { return rulesOf("shared") })

// RulesTo and RulesFrom are the names of the rules by which functions are written in a dialect, and read from it.
func RulesTo(name string) []string { return slices.Sorted(maps.Keys(toRules()[name])) }

// RulesFrom are those of reading; see RulesTo. What all dialects share is not among them.
func RulesFrom(name string) []string { return slices.Sorted(maps.Keys(rulesOf("from-" + name))) }

// Refused tells a rule that says that a function of a dialect has no form here.
func Refused(name, rule string) bool { return rulesOf("from-" + name)[rule] == "!" }
