package dialect

import (
	"strings"

	"tovrel/core/pattern"
)

// Foreign is something of another dialect.
type Foreign struct {
	Dialects string // whose it is, in words
	Local    string // what it is here, in words or as a call
	rename   string // the local function of the same arguments; "" where a name alone does not do
}

// functions are common functions of the main dialects that the embedded engine does not have, with their local equivalent.
var functions = map[string]Foreign{
	"date_format":       {"MySQL", "strftime(date, format) with % codes", ""},
	"str_to_date":       {"MySQL", "strptime(text, format)", ""},
	"curdate":           {"MySQL", "current_date", "today"},
	"ifnull":            {"MySQL and SQLite", "coalesce(a, b)", "coalesce"},
	"nvl":               {"Oracle", "coalesce(a, b)", "coalesce"},
	"nvl2":              {"Oracle", "CASE WHEN a IS NOT NULL THEN b ELSE c END", ""},
	"to_char":           {"Oracle and PostgreSQL", "strftime(date, format) with % codes", ""},
	"to_date":           {"Oracle and PostgreSQL", "strptime(text, format)::DATE, or CAST(text AS DATE)", ""},
	"to_number":         {"Oracle and PostgreSQL", "CAST(text AS DECIMAL)", ""},
	"sysdate":           {"Oracle", "current_timestamp", "now"},
	"add_months":        {"Oracle and Snowflake", "date + INTERVAL n MONTH", ""},
	"months_between":    {"Oracle", "date_diff('month', a, b)", ""},
	"wm_concat":         {"Oracle", "string_agg(text, ',')", "string_agg"},
	"getdate":           {"SQL Server", "current_timestamp", "now"},
	"isnull":            {"SQL Server", "coalesce(a, b)", "coalesce"},
	"datename":          {"SQL Server", "monthname(date) or dayname(date)", ""},
	"dateadd":           {"SQL Server and Snowflake", "date + INTERVAL n unit", ""},
	"eomonth":           {"SQL Server", "last_day(date)", "last_day"},
	"charindex":         {"SQL Server", "strpos(text, part)", ""},
	"convert":           {"SQL Server and MySQL", "CAST(value AS type)", ""},
	"stuff":             {"SQL Server", "string_agg(text, separator)", ""},
	"iif":               {"SQL Server", "CASE WHEN a THEN b ELSE c END, or if(a, b, c)", "if"},
	"safe_divide":       {"BigQuery", "a / nullif(b, 0)", ""},
	"format_date":       {"BigQuery", "strftime(date, format)", ""},
	"parse_date":        {"BigQuery", "strptime(text, format)::DATE", ""},
	"timestamp_trunc":   {"BigQuery", "date_trunc('month', timestamp)", ""},
	"approx_quantiles":  {"BigQuery", "quantile_cont(value, share)", ""},
	"zeroifnull":        {"Snowflake and Teradata", "coalesce(a, 0)", ""},
	"div0":              {"Snowflake", "coalesce(a / nullif(b, 0), 0)", ""},
	"iff":               {"Snowflake", "if(a, b, c)", "if"},
	"to_varchar":        {"Snowflake", "CAST(value AS VARCHAR)", ""},
	"ratio_to_report":   {"Oracle and Snowflake", "a / sum(a) OVER ()", ""},
	"julianday":         {"SQLite", "julian(date)", "julian"},
	"unixepoch":         {"SQLite", "epoch(timestamp)", "epoch"},
	"from_unixtime":     {"MySQL, Trino and Spark", "to_timestamp(seconds)", "to_timestamp"},
	"unix_timestamp":    {"MySQL and Spark", "epoch(timestamp)", "epoch"},
	"approx_distinct":   {"Trino", "approx_count_distinct(value)", "approx_count_distinct"},
	"approx_percentile": {"Trino and Spark", "approx_quantile(value, share)", "approx_quantile"},
	"date_parse":        {"Trino", "strptime(text, format)", ""},
	"percentile":        {"Spark", "quantile_cont(value, share)", "quantile_cont"},
	"collect_list":      {"Spark", "list(value)", "list"},
	"collect_set":       {"Spark", "list(DISTINCT value)", ""},
	"size":              {"Spark", "len(list)", "len"},
}

// Function recognises a function of another dialect.
func Function(name string) (Foreign, bool) {
	f, known := functions[strings.ToLower(name)]
	return f, known
}

// Renamed is the local function that takes the same arguments; "" for none.
func (f Foreign) Renamed() string { return f.rename }

// syntaxes are pieces of other dialects that do not parse here.
var syntaxes = []struct {
	pattern *pattern.Pattern
	foreign Foreign
}{
	{pattern.Of("(?i)`[^`]+`"), Foreign{Dialects: "MySQL and BigQuery", Local: `names in double quotes`}},
	{pattern.Of(`(?i)\bSELECT\s+(DISTINCT\s+)?TOP\s*\(?\s*\d+`), Foreign{Dialects: "SQL Server", Local: "LIMIT n at the end"}},
	{pattern.Of(`\[[A-Za-z_][^\]]*\]\s*(\.|,|FROM|AS|$)`), Foreign{Dialects: "SQL Server", Local: "names in double quotes"}},
	{pattern.Of(`(?i)\bLIMIT\s+\d+\s*,\s*\d+`), Foreign{Dialects: "MySQL", Local: "LIMIT n OFFSET m"}},
	{pattern.Of(`(?i)\bROWNUM\b`), Foreign{Dialects: "Oracle", Local: "LIMIT n, or row_number() OVER ()"}},
	{pattern.Of(`(?i)\bFROM\s+DUAL\b`), Foreign{Dialects: "Oracle and MySQL", Local: "no FROM at all"}},
	{pattern.Of(`(?i)\(\s*\+\s*\)`), Foreign{Dialects: "Oracle", Local: "LEFT JOIN"}},
	{pattern.Of(`(?i)\bMINUS\s+SELECT\b`), Foreign{Dialects: "Oracle", Local: "EXCEPT SELECT"}},
	{pattern.Of(`(?i)\bCONNECT\s+BY\b`), Foreign{Dialects: "Oracle", Local: "WITH RECURSIVE"}},
	{pattern.Of(`(?i)\bINTERVAL\s+\d+\s+(DAY|MONTH|YEAR)S?\s*\)`),
		Foreign{Dialects: "MySQL", Local: "date - INTERVAL n DAY, without DATE_SUB"}},
	{pattern.Of(`(?i)\bWITH\s*\(\s*NOLOCK\s*\)`), Foreign{Dialects: "SQL Server", Local: "nothing: reading locks nothing here"}},
	{pattern.Of(`(?i)\bSTRUCT\s*<`), Foreign{Dialects: "BigQuery", Local: "{'name': value}"}},
	{pattern.Of(`(?i)\bFETCH\s+(FIRST|NEXT)\s+\d+\s+ROWS?\s+WITH\s+TIES\b`),
		Foreign{Dialects: "PostgreSQL and Oracle", Local: "QUALIFY rank() OVER (ORDER BY …) <= n"}},
}

// Syntax recognises syntax of another dialect in a query that does not parse, and gives the piece.
func Syntax(sql string) (piece string, f Foreign, ok bool) {
	for _, s := range syntaxes {
		if found := s.pattern.FindString(sql); found != "" {
			return strings.TrimSpace(found), s.foreign, true
		}
	}
	return "", Foreign{}, false
}
