package workspace

import (
	"fmt"
	"os"
	"path"
	"slices"
	"strings"

	"tovrel/core/near"
	"tovrel/core/yamldoc"
	"tovrel/engine"
	"tovrel/trouble"
)

// OnServer is where a dataset's queries run, where that is a database server.
type OnServer struct {
	Kind     string   // "postgres", "mysql", "clickhouse" or "trino"
	Variable string   // of the environment, which holds the DSN
	Schema   string   // of connect:; "" for the connection's own
	Patterns []string // of the tables that a connected dataset has; nil for all
	Edits    int      // how many queries a diagnosis may run on a connected server
	Sample   bool     // the frozen sample is loaded into a schema of Tovrel's own (run-on:); else the database as it is (connect:)
}

// defaultEdits is how many queries a diagnosis may run on a connected server where nothing is said.
const defaultEdits = 20

// sampleKinds are the servers into which a sample can be loaded, connectedKinds those whose database can be a dataset.
var (
	sampleKinds    = []string{"postgres", "mysql", "clickhouse"}
	connectedKinds = append(slices.Clone(sampleKinds), "trino")
)

// At is the place with its DSN, which is read from the environment when it is needed. It errs where the variable is not set.
func (s *OnServer) At(dataset string) (engine.Server, error) {
	dsn, set := os.LookupEnv(s.Variable)
	if !set || dsn == "" {
		return engine.Server{}, trouble.New(trouble.Unreachable,
			"dataset %s lives on a server, and the environment variable %s is not set; "+
				"set it to the server's DSN", dataset, s.Variable)
	}
	return engine.Server{DSN: dsn, Schema: s.Schema}, nil
}

// Picks tells whether a table of the server belongs to the dataset.
func (s *OnServer) Picks(table string) bool {
	return len(s.Patterns) == 0 || slices.ContainsFunc(s.Patterns, func(p string) bool {
		fits, err := path.Match(strings.ToLower(p), strings.ToLower(table))
		return err == nil && fits
	})
}

// Live tells a dataset that is a server's database as it is: it has no frozen copy.
func (d *Dataset) Live() bool { return d.Server != nil && !d.Server.Sample }

// Dialect is the dialect that queries on the dataset are written in where a translator names none.
func (d *Dataset) Dialect() string {
	switch {
	case d.Server != nil:
		return d.Server.Kind
	case d.Connect != "":
		return d.Connect
	}
	return engine.DuckDB
}

// onServer reads run-on: with its DSN.
func (c *config) onServer(e yamldoc.Entry, fields map[string]yamldoc.Node, d *Dataset) {
	kind := c.Text(fields["run-on"], "run-on")
	if !slices.Contains(sampleKinds, kind) {
		c.Report(fields["run-on"], "unknown-database", fmt.Sprintf("there is no server %q", kind), near.Hint(kind, sampleKinds))
		return
	}
	d.Server = &OnServer{Kind: kind, Variable: c.variable(e, fields["dsn"], kind), Sample: true}
}

// connected reads connect: to a server, with its DSN, its schema and the patterns of its tables.
func (c *config) connected(e yamldoc.Entry, fields map[string]yamldoc.Node, d *Dataset) {
	d.Server = &OnServer{Kind: d.Connect, Variable: c.variable(e, fields["dsn"], d.Connect), Edits: defaultEdits}
	if f := fields["schema"]; f != nil {
		d.Server.Schema = c.Text(f, "schema")
	}
	if f := fields["edits"]; f != nil {
		d.Server.Edits = c.Whole(f, "edits", 0)
	}
	if f := fields["tables"]; f != nil {
		d.Server.Patterns = c.Texts(f, "tables")
		for i, n := range c.Items(f, "tables") {
			if i < len(d.Server.Patterns) {
				if _, err := path.Match(d.Server.Patterns[i], ""); err != nil {
					c.Report(n, "bad-pattern", fmt.Sprintf("the pattern %q cannot be read", d.Server.Patterns[i]),
						"write * for any run of characters, such as sales_*")
				}
			}
		}
	}
}

// variable is the environment variable that a DSN is in: a DSN holds a secret, and has no place in the file.
func (c *config) variable(e yamldoc.Entry, n yamldoc.Node, kind string) string {
	if n == nil {
		c.Report(e.At, "dsn-missing", fmt.Sprintf("dataset %s names no server", e.Key),
			"add dsn: ${NAME} with the environment variable that holds it")
		return ""
	}
	text := strings.TrimSpace(c.Text(n, "dsn"))
	found := variable.FindStringSubmatch(text)
	if found == nil || found[0] != text {
		c.Report(n, "secret-in-file", fmt.Sprintf("the DSN of a %s server holds a secret, and has no place in this file", kind),
			"put it into an environment variable, and write dsn: ${NAME}")
		c.Problems[len(c.Problems)-1].Excerpt = "" // it would show the secret
		return ""
	}
	return found[1]
}
