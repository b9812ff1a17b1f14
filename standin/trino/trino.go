// Package trino is a stand-in for a Trino server: its HTTP protocol over a dataset of the embedded engine, which reads queries of that
// dialect. It knows one catalog with one schema, and of the catalogue's tables what a client needs that lists tables.
package trino

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"tovrel/core/fault"
	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
)

// Catalog and Schema are the only ones.
const (
	Catalog = "stand_in"
	Schema  = "main"
)

// statementPath is where queries are sent, and their pages fetched.
const statementPath = "/v1/statement"

// pageRows is how many rows a page has, pageWait how long it waits for a query that runs, abandoned after which time a result that nobody
// fetches is forgotten.
const (
	abandoned = 5 * time.Minute
	pageRows  = 1000
	pageWait  = 500 * time.Millisecond
)

// Queries runs queries on a dataset. It is *engine.Pool.
type Queries interface {
	Query(ctx context.Context, r engine.Request) (engine.Result, error)
}

// Server is the stand-in. It is an http.Handler.
type Server struct {
	queries Queries
	tables  []engine.Table

	mu      sync.Mutex
	running map[string]*query
	last    int
}

// New makes one over a dataset's tables.
func New(queries Queries, tables []engine.Table) *Server {
	return &Server{queries: queries, tables: tables, running: map[string]*query{}}
}

// Running is how many queries are neither done nor cancelled.
func (s *Server) Running() (n int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, q := range s.running {
		select {
		case <-q.done:
		default:
			n++
		}
	}
	return n
}

// query is one that runs, or whose rows are fetched.
type query struct {
	cancel context.CancelFunc
	done   chan struct{}
	result *table.Table
	err    error
}

// column, failure and page are the protocol's.
type column struct {
	Name      string    `json:"name"`
	Type      string    `json:"type"`
	Signature signature `json:"typeSignature"`
}

type signature struct {
	RawType   string `json:"rawType"`
	Arguments []any  `json:"arguments"`
}

type failure struct {
	Message   string `json:"message"`
	ErrorCode int    `json:"errorCode"`
	ErrorName string `json:"errorName"`
	ErrorType string `json:"errorType"`
}

type page struct {
	ID      string         `json:"id"`
	InfoURI string         `json:"infoUri"`
	NextURI string         `json:"nextUri,omitempty"`
	Columns []column       `json:"columns,omitempty"`
	Data    [][]any        `json:"data,omitempty"`
	Stats   map[string]any `json:"stats"`
	Error   *failure       `json:"error,omitempty"`
	Update  string         `json:"updateType,omitempty"`
}

// ServeHTTP implements http.Handler.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	rest, is := strings.CutPrefix(r.URL.Path, statementPath)
	switch {
	case !is:
		http.NotFound(w, r)
	case r.Method == http.MethodPost && rest == "":
		s.begin(w, r)
	case r.Method == http.MethodGet:
		s.fetch(w, r, strings.Trim(rest, "/"))
	case r.Method == http.MethodDelete:
		id, _, _ := strings.Cut(strings.Trim(rest, "/"), "/")
		s.end(id)
		w.WriteHeader(http.StatusNoContent)
	default:
		http.Error(w, "no such method", http.StatusMethodNotAllowed)
	}
}

// begin starts a query, and says where its pages are.
func (s *Server) begin(w http.ResponseWriter, r *http.Request) {
	body, err := io.ReadAll(io.LimitReader(r.Body, 1<<20))
	if err != nil || r.Header.Get("X-Trino-User") == "" {
		http.Error(w, "a statement and X-Trino-User are needed", http.StatusBadRequest)
		return
	}
	sql := strings.TrimSpace(string(body))
	switch upper := strings.ToUpper(sql); {
	case strings.HasPrefix(upper, "START TRANSACTION"):
		w.Header().Set("X-Trino-Started-Transaction-Id", "stand-in-transaction")
		send(w, page{ID: "transaction", Stats: state("FINISHED"), Update: "START TRANSACTION"})
		return
	case upper == "ROLLBACK" || upper == "COMMIT":
		w.Header().Set("X-Trino-Clear-Transaction-Id", "true")
		send(w, page{ID: "transaction", Stats: state("FINISHED"), Update: upper})
		return
	}
	ctx, cancel := context.WithCancel(context.WithoutCancel(r.Context()))
	if limit, err := time.ParseDuration(property(r.Header.Get("X-Trino-Session"), "query_max_run_time")); err == nil {
		ctx, cancel = context.WithTimeoutCause(ctx, limit, errLate)
	}
	q := &query{cancel: cancel, done: make(chan struct{})}
	s.mu.Lock()
	s.last++
	id := fmt.Sprintf("stand_in_%05d", s.last)
	s.running[id] = q
	s.mu.Unlock()
	go func() {
		defer close(q.done)
		q.result, q.err = s.answer(ctx, sql)
		if errors.Is(context.Cause(ctx), errLate) {
			q.err = errLate
		}
		time.AfterFunc(abandoned, func() { s.end(id) })
	}()
	send(w, page{ID: id, NextURI: s.at(r, id, 0), Stats: state("QUEUED")})
}

var errLate = errors.New("the query exceeded its maximum run time")

// property is a property of a session as its header lists them.
func property(header, name string) string {
	for part := range strings.SplitSeq(header, ",") {
		if key, value, _ := strings.Cut(strings.TrimSpace(part), "="); key == name {
			return value
		}
	}
	return ""
}

func state(name string) map[string]any {
	return map[string]any{"state": name, "scheduled": name != "QUEUED", "nodes": 1}
}

func (s *Server) at(r *http.Request, id string, row int) string {
	return "http://" + r.Host + statementPath + "/" + id + "/" + strconv.Itoa(row)
}

// end forgets a query, and stops it where it runs.
func (s *Server) end(id string) {
	s.mu.Lock()
	q := s.running[id]
	delete(s.running, id)
	s.mu.Unlock()
	if q != nil {
		q.cancel()
	}
}

// fetch sends the page of a query that begins at a row.
func (s *Server) fetch(w http.ResponseWriter, r *http.Request, place string) {
	id, number, _ := strings.Cut(place, "/")
	row, err := strconv.Atoi(number)
	s.mu.Lock()
	q := s.running[id]
	s.mu.Unlock()
	if q == nil || err != nil {
		http.Error(w, "there is no such query", http.StatusNotFound)
		return
	}
	select {
	case <-q.done:
	case <-time.After(pageWait):
		send(w, page{ID: id, NextURI: s.at(r, id, row), Stats: state("RUNNING")})
		return
	case <-r.Context().Done():
		return
	}
	if q.err != nil {
		s.end(id)
		send(w, page{ID: id, Stats: state("FAILED"), Error: failed(q.err)})
		return
	}
	p := page{ID: id, Columns: columnsOf(q.result), Stats: state("RUNNING")}
	last := min(row+pageRows, q.result.Rows())
	for i := row; i < last; i++ {
		p.Data = append(p.Data, cellsOf(q.result, i))
	}
	if last < q.result.Rows() {
		p.NextURI = s.at(r, id, last)
	} else {
		p.Stats = state("FINISHED")
		s.end(id)
	}
	send(w, p)
}

func send(w http.ResponseWriter, p page) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(p) // a client that went away is no fault of ours
}

// What a client asks of the catalogue.
var (
	asksColumns  = pattern.Of(`(?i)\binformation_schema\.columns\b`)
	asksSchemata = pattern.Of(`(?i)\binformation_schema\.schemata\b`)
	asksCatalogs = pattern.Of(`(?i)\bsystem\.metadata\.catalogs\b`)
	asksVersion  = pattern.Of(`(?i)^SELECT version\(\)$`)
)

// answer runs a query on the dataset, or answers of the catalogue.
func (s *Server) answer(ctx context.Context, sql string) (*table.Table, error) {
	switch {
	case asksColumns.MatchString(sql):
		return s.catalogue()
	case asksSchemata.MatchString(sql):
		return texts([]string{"schema_name"}, [][]string{{"information_schema"}, {"hidden"}})
	case asksCatalogs.MatchString(sql):
		return texts([]string{"catalog_name"}, [][]string{{"system"}, {"elsewhere"}})
	case asksVersion.MatchString(sql):
		return texts([]string{"version"}, [][]string{{"stand-in"}})
	}
	r, err := s.queries.Query(ctx, engine.Request{SQL: sql, Dialect: "trino"})
	return r.Table, err
}

// catalogue lists the columns of all tables.
func (s *Server) catalogue() (*table.Table, error) {
	var rows [][]string
	for _, t := range s.tables {
		for _, c := range t.Columns {
			kind, _ := value.KindOfSQL(c.Type)
			name := typeNames[kind]
			if kind == value.Decimal {
				name = strings.ToLower(c.Type)
			}
			rows = append(rows, []string{t.Name, c.Name, name})
		}
	}
	return texts([]string{"table_name", "column_name", "data_type"}, rows)
}

func texts(names []string, rows [][]string) (*table.Table, error) {
	out := &table.Table{}
	for i, name := range names {
		c := table.NewColumn(name, value.Type{Kind: value.Text}, len(rows))
		for _, row := range rows {
			c.AppendText(row[i])
		}
		out.Columns = append(out.Columns, c)
	}
	return out, nil
}

// typeNames are the protocol's names of kinds.
var typeNames = map[value.Kind]string{value.Bool: "boolean", value.Int: "bigint", value.Float: "double", value.Text: "varchar",
	value.Date: "date", value.Time: "time(6)", value.Timestamp: "timestamp(6)", value.TimestampTZ: "timestamp(6) with time zone",
	value.Blob: "varbinary", value.JSON: "json", value.Null: "unknown"}

func columnsOf(t *table.Table) []column {
	var out []column
	for _, c := range t.Columns {
		name := typeNames[c.Type.Kind]
		switch {
		case c.Type.Kind == value.Decimal:
			name = fmt.Sprintf("decimal(38,%d)", c.Type.Scale)
		case name == "":
			name = "varchar"
		}
		raw, sizes, _ := strings.Cut(name, "(")
		arguments := []any{}
		sizes, behind, _ := strings.Cut(sizes, ")")
		for size := range strings.SplitSeq(sizes, ",") {
			if n, err := strconv.Atoi(size); err == nil {
				arguments = append(arguments, map[string]any{"kind": "LONG", "value": n})
			}
		}
		out = append(out, column{c.Name, name, signature{raw + behind, arguments}})
	}
	return out
}

// cellsOf is a row as the protocol writes it.
func cellsOf(t *table.Table, row int) []any {
	out := make([]any, len(t.Columns))
	for i, v := range t.Row(row) {
		switch v.Kind() {
		case value.Null:
		case value.Bool:
			out[i] = v.String() == "true"
		case value.Int:
			out[i] = json.Number(v.String())
		case value.Float:
			if f, ok := v.Float64(); ok && f-f == 0 {
				out[i] = f
			} else {
				out[i] = v.String()
			}
		case value.Blob:
			out[i] = []byte(v.Str())
		case value.TimestampTZ:
			out[i] = strings.TrimSuffix(v.String(), "Z") + " UTC"
		default:
			out[i] = v.String()
		}
	}
	return out
}

// errorNames are the protocol's names of faults.
var errorNames = map[fault.Code]string{fault.Syntax: "SYNTAX_ERROR", fault.UnknownTable: "TABLE_NOT_FOUND",
	fault.UnknownColumn: "COLUMN_NOT_FOUND", fault.UnknownFunction: "FUNCTION_NOT_FOUND", fault.AmbiguousColumn: "AMBIGUOUS_NAME",
	fault.UngroupedColumn: "EXPRESSION_NOT_AGGREGATE", fault.TypeMismatch: "TYPE_MISMATCH", fault.TooSlow: "EXCEEDED_TIME_LIMIT",
	fault.TooBig: "EXCEEDED_LOCAL_MEMORY_LIMIT", fault.Forbidden: "PERMISSION_DENIED"}

// quotedName is the name that an error of the embedded engine is about.
var quotedName = pattern.Of(`(?:name|column|Table with name) "?(\w+)"?`)

func failed(err error) *failure {
	f := &failure{Message: err.Error(), ErrorCode: 65536, ErrorName: "GENERIC_INTERNAL_ERROR", ErrorType: "INTERNAL_ERROR"}
	var of *engine.Failure
	switch {
	case errors.Is(err, errLate):
		f.ErrorName, f.ErrorType = "EXCEEDED_TIME_LIMIT", "INSUFFICIENT_RESOURCES"
	case errors.As(err, &of) && of.Foreign:
		f.ErrorName, f.ErrorType, f.Message = "NOT_SUPPORTED", "USER_ERROR", of.Message
	case errors.As(err, &of) && errorNames[of.Code] != "":
		f.ErrorName, f.ErrorType, f.Message = errorNames[of.Code], "USER_ERROR", of.Message
		if name := quotedName.FindStringSubmatch(of.Message); name != nil {
			f.Message = fmt.Sprintf("'%s' cannot be resolved: %s", name[1], of.Message)
		}
	}
	return f
}
