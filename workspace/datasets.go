package workspace

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/value"
	"tovrel/core/yamldoc"
	"tovrel/dataset/sample"
)

var datasetName = pattern.Of(`^[A-Za-z0-9][A-Za-z0-9._-]*$`)

// IsDatasetName tells whether a text can be a dataset's name.
func IsDatasetName(text string) bool { return datasetName.MatchString(text) }

func (c *config) datasets(n yamldoc.Node) {
	for _, e := range c.Entries(n, "datasets") {
		if !IsDatasetName(e.Key) {
			c.Report(e.At, "bad-name", fmt.Sprintf("%q cannot be a dataset's name", e.Key),
				"use letters, digits, dots, dashes and underscores")
		}
		fields := c.Fields(e.Value, "dataset "+e.Key, datasetKeys)
		d := &Dataset{Name: e.Key, At: c.Position(e.At), Limits: c.w.Limits}
		c.limits(fields["limits"], &d.Limits)
		if f := fields["as-of"]; f != nil {
			d.AsOf = c.Text(f, "as-of")
			if !isMoment(d.AsOf) {
				c.Report(f, "bad-date", "as-of must be a date or timestamp", "write it as 2031-06-30 or 2031-06-30 12:00:00")
			}
		}
		if f := fields["briefing"]; f != nil {
			d.Briefing = c.Text(f, "briefing")
		}
		if f := fields["share-values"]; f != nil {
			d.ShareValues = c.Bool(f, "share-values")
		}
		c.contents(e, fields, d)
		c.w.Datasets = append(c.w.Datasets, d)
	}
}

// contents reads what a dataset is made of: tables of files, or a database.
func (c *config) contents(e yamldoc.Entry, fields map[string]yamldoc.Node, d *Dataset) {
	switch {
	case fields["connect"] != nil && fields["run-on"] != nil:
		c.Report(fields["run-on"], "run-on-and-connect", fmt.Sprintf("dataset %s both lives on a server and is loaded into one", e.Key),
			"keep either connect: or run-on: with tables:")
	case fields["connect"] != nil && fields["tables"] != nil && !slices.Contains(connectedKinds, c.Text(fields["connect"], "connect")):
		c.Report(fields["tables"], "tables-and-connect", fmt.Sprintf("dataset %s has both tables and a database", e.Key),
			"keep either tables: or connect: with dsn:")
	case fields["connect"] != nil:
		c.connect(e, fields, d)
	case fields["dsn"] != nil && fields["run-on"] == nil:
		c.Report(fields["dsn"], "connect-missing", "dsn: needs connect:",
			"add connect: with the kind of database, or run-on: with the kind of server")
	case yamldoc.IsNull(fields["tables"]):
		c.Report(e.At, "tables-missing", fmt.Sprintf("dataset %s has no tables", e.Key), "add tables: with a name and a file for each")
	}
	for _, key := range []string{"schema", "edits"} {
		if fields[key] != nil && !d.Live() {
			c.Report(fields[key], "option-without-use", key+": is for datasets that are a server's database (connect:)", "leave it out")
		}
	}
	if d.Connect == "" {
		if fields["run-on"] != nil {
			c.onServer(e, fields, d)
		}
		for _, t := range c.Entries(fields["tables"], "tables") {
			d.Tables = append(d.Tables, c.table(t))
		}
	}
}

// fileKinds are the databases of a file that a dataset can be.
var fileKinds = []string{"duckdb", "sqlite"}

func (c *config) connect(e yamldoc.Entry, fields map[string]yamldoc.Node, d *Dataset) {
	d.Connect = c.Text(fields["connect"], "connect")
	switch known := slices.Concat(fileKinds, connectedKinds); {
	case !slices.Contains(known, d.Connect):
		c.Report(fields["connect"], "unknown-database", fmt.Sprintf("there is no database %q", d.Connect), near.Hint(d.Connect, known))
	case slices.Contains(connectedKinds, d.Connect):
		c.connected(e, fields, d)
	case fields["dsn"] == nil:
		c.Report(e.At, "dsn-missing", fmt.Sprintf("dataset %s names no database", e.Key),
			"add dsn: with the path of the file, or ${NAME} of an environment variable that holds it")
	default:
		d.File = c.expanded(fields["dsn"], "dsn")
	}
}

var variable = pattern.Of(`\$\{([A-Za-z_][A-Za-z0-9_]*)\}`)

// expanded reads a text in which ${NAME} stands for an environment variable.
func (c *config) expanded(n yamldoc.Node, what string) string {
	return variable.ReplaceAllStringFunc(c.Text(n, what), func(name string) string {
		name = name[2 : len(name)-1]
		text, set := os.LookupEnv(name)
		if !set {
			c.Report(n, "variable-missing", fmt.Sprintf("%s: the environment variable %s is not set", what, name),
				"set it, or write the path itself")
		}
		return text
	})
}

func isMoment(text string) bool {
	for _, kind := range []value.Kind{value.Date, value.Timestamp, value.TimestampTZ} {
		if _, err := value.Parse(text, value.Type{Kind: kind}); err == nil {
			return true
		}
	}
	return false
}

func (c *config) table(e yamldoc.Entry) Table {
	t := Table{Name: e.Key, At: c.Position(e.Value)}
	file := e.Value
	if yamldoc.IsMapping(e.Value) {
		fields := c.Fields(e.Value, "table "+e.Key, tableKeys)
		if fields["sql"] != nil {
			return c.computed(e, fields)
		}
		if f := fields["hide-sources"]; f != nil {
			c.Report(f, "option-without-use", "hide-sources: is for computed tables (sql:)", "leave it out")
		}
		if file = fields["file"]; file == nil {
			c.Report(e.At, "file-missing", fmt.Sprintf("table %s names no file", e.Key), "add file: PATH")
			return t
		}
		c.options(fields, &t)
	}
	t.File = c.Text(file, "table "+e.Key)
	t.At = c.Position(file)
	if ending := filepath.Ext(t.File); !sample.Readable(t.File) && !strings.Contains(ending, "*") {
		c.Report(file, "unknown-format", fmt.Sprintf("%s: files ending in %q are not read", t.File, ending), "the endings are "+
			strings.Join(sample.Endings(), ", "))
	}
	if lower := strings.ToLower(t.File); len(t.Types) > 0 && (strings.HasSuffix(lower, ".parquet") || strings.HasSuffix(lower, ".duckdb")) {
		c.Report(file, "types-without-use", "types: are for files that bring none; Parquet and DuckDB files have their own",
			"leave them out")
	}
	return t
}

// computed reads a table that is a query over the others.
func (c *config) computed(e yamldoc.Entry, fields map[string]yamldoc.Node) Table {
	t := Table{Name: e.Key, At: c.Position(fields["sql"]), SQL: strings.TrimSpace(c.Text(fields["sql"], "sql"))}
	if t.SQL == "" {
		c.Report(fields["sql"], "sql-missing", fmt.Sprintf("table %s has an empty query", e.Key), "write a SELECT over the other tables")
	}
	for _, key := range slices.Sorted(maps.Keys(fields)) {
		switch {
		case fields[key] == nil || key == "sql":
		case key == "hide-sources":
			t.HideSources = c.Bool(fields[key], key)
		default:
			c.Report(fields[key], "option-without-use", fmt.Sprintf("table %s is computed: %s: is for tables of files", e.Key, key),
				"leave it out")
		}
	}
	return t
}

// options reads how a table's file is written, where that is said.
func (c *config) options(fields map[string]yamldoc.Node, t *Table) {
	t.Types = golden.ReadTypes(c.Reader, fields["types"])
	t.NullWords = c.Texts(fields["null-words"], "null-words")
	for key, into := range map[string]*string{"table": &t.Options.Inside, "sheet": &t.Options.Sheet,
		"delimiter": &t.Options.Delimiter, "encoding": &t.Options.Encoding} {
		if f := fields[key]; f != nil {
			*into = c.Text(f, key)
		}
	}
	for key, known := range map[string][]string{"decimal": {",", "."}, "thousands": {",", ".", "'", " "}} {
		if f := fields[key]; f != nil {
			text := c.oneOf(f, key, known)
			if key == "decimal" && text == "," {
				t.Options.Decimal = text
			}
			if key == "thousands" {
				t.Options.Thousands = text
			}
		}
	}
	if t.Options.Thousands != "" && t.Options.Thousands == t.Options.Decimal || t.Options.Thousands == "." && t.Options.Decimal == "" {
		c.Report(fields["thousands"], "same-mark", "decimal: and thousands: are the same mark", "name different ones")
	}
	if f := fields["date-format"]; f != nil {
		t.Options.DateFormat = c.Text(f, "date-format")
		if err := sample.CheckDateFormat(t.Options.DateFormat); err != nil {
			c.Report(f, "bad-date-format", err.Error(), "")
		}
	}
	if f := fields["skip-last"]; f != nil {
		t.Options.SkipLast = c.Whole(f, "skip-last", 0)
	}
	if f := fields["header-row"]; f != nil {
		t.Options.HeaderRow = c.Whole(f, "header-row", 1)
	}
}
