package sql

import (
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// Reading is a base table where a query reads it, with what the query says of its rows. Names are in lower case.
type Reading struct {
	Table  string
	Tested bool // only whether rows exist is asked: within EXISTS or IN
	Outer  bool // a row without a counterpart here is kept
	Held   []Held
	Tied   []Tied
}

// Held is a condition on columns of one reading alone.
type Held struct {
	Columns   []string  // in order
	Condition string    // as SQL, its columns without their table
	Node      *ast.Node // the same
	Part      bool      // rows that do not meet it are kept: it stands in a FILTER or a CASE
}

// Tied is a column that must equal one of another reading.
type Tied struct {
	Column string
	Other  *Reading
	With   string // the other's column
}

// Use is a column that a query reads for more than a condition.
type Use struct {
	Reading *Reading
	Column  string
	As      Role
}

// Role is what a column is read for.
type Role uint8

// The roles of columns.
const (
	Shown    Role = iota // its values are shown, or ordered by
	Measured             // within an aggregate
	Grouped              // its values make groups
	Parted               // its values make the parts of a window
)

// Readings are all tables that a query reads, and the columns that it uses.
type Readings struct {
	Tables []*Reading
	Uses   []Use
}

// Readings resolves a query's columns, through aliases, CTEs and derived tables, to tables of which it is told the columns (all names in
// lower case). What cannot be resolved is left out: a column that is computed of several tables, and a table that is not known.
func (t *Tree) Readings(columns map[string][]string) Readings {
	r := &reader{columns: columns}
	r.query(t.root, around{}, false)
	return r.out
}

// given is what a name in FROM gives: a base table, or columns of a query.
type given struct {
	alias   string
	reading *Reading             // nil for a query
	columns map[string]derivedOf // of a query
}

// derivedOf is a column of a query: an expression over columns of one reading; a nil reading for any other.
type derivedOf struct {
	reading    *Reading
	expression *ast.Node
}

// around is what names mean at a place in a query.
type around struct {
	given []given
	ctes  map[string]cte
}

type reader struct {
	columns map[string][]string
	out     Readings
	depth   int
	read    int // queries so far: a chain of CTEs that each read the one before twice doubles with every link
}

// deepest bounds how deep CTEs and derived tables are followed.
const deepest = 40

func (r *reader) query(node *ast.Node, outer around, tested bool) map[string]derivedOf {
	r.read++
	if node == nil || r.depth > deepest || r.read > mostMerged {
		return nil
	}
	r.depth++
	defer func() { r.depth-- }()
	here := around{ctes: withCTEs(node, outer.ctes)}
	if node.Kind() != ast.SelectNode {
		var first map[string]derivedOf
		for i, child := range append(node.Nodes(field.Children), node.Node(field.Left), node.Node(field.Right)) {
			if child == nil || child.Kind() != ast.SelectNode && child.Kind() != ast.SetOperationNode {
				continue
			}
			if got := r.query(child, around{outer.given, here.ctes}, tested); i == 0 {
				first = got
				if node.Kind() == ast.RecursiveCteNode {
					here.ctes = withCTE(here.ctes, node.Text(field.CteName), cte{rows: first})
				}
			}
		}
		return first
	}
	if from := node.Node(field.FromTable); from != nil {
		r.from(from, &here, tested)
	}
	here.given = append(here.given[:len(here.given):len(here.given)], outer.given...)
	r.held(node.Node(field.Where), here, false)
	r.held(node.Node(field.Having), here, false)
	r.held(node.Node(field.Qualify), here, false)
	r.expression(node.Node(field.Having), here, Measured)
	r.expression(node.Node(field.Qualify), here, Shown)
	for _, key := range node.Nodes(field.GroupExpressions) {
		r.expression(meant(key, node), here, Grouped)
	}
	for _, m := range node.Nodes(field.Modifiers) {
		for _, order := range m.Nodes(field.Orders) {
			r.expression(order.Node(field.Expression), here, Shown)
		}
	}
	return r.items(node, here)
}

// items reads the select list, and gives its columns.
func (r *reader) items(node *ast.Node, here around) map[string]derivedOf {
	out := map[string]derivedOf{}
	for _, item := range node.Nodes(field.SelectList) {
		if item.Class() == ast.Star {
			for _, g := range here.given {
				r.all(g, out)
			}
			continue
		}
		role := Shown
		if node.Text(field.AggregateHandling) == "FORCE_AGGREGATES" && !hasAggregate(item) {
			role = Grouped
		}
		r.expression(item, here, role)
		out[strings.ToLower(itemName(item))] = r.derived(item, here)
	}
	return out
}

// all adds every column of what FROM gives.
func (r *reader) all(g given, out map[string]derivedOf) {
	if g.reading == nil {
		for name, d := range g.columns {
			out[name] = d
		}
		return
	}
	for _, name := range r.columns[g.reading.Table] {
		if _, known := out[name]; !known {
			out[name] = derivedOf{g.reading, Name("", name)}
		}
	}
}

func (r *reader) from(node *ast.Node, here *around, tested bool) {
	alias := strings.ToLower(node.Text(field.Alias))
	switch node.Kind() {
	case ast.BaseTable:
		name := strings.ToLower(tableName(node))
		if alias == "" {
			alias = name
		}
		if known, isCTE := here.ctes[name]; isCTE && !qualified(node) {
			columns := known.rows
			if known.node != nil {
				columns = r.query(known.node, around{ctes: known.sees}, tested)
			}
			here.given = append(here.given, given{alias: alias, columns: columns})
			return
		}
		if _, known := r.columns[name]; !known {
			return
		}
		reading := &Reading{Table: name, Tested: tested}
		r.out.Tables = append(r.out.Tables, reading)
		here.given = append(here.given, given{alias: alias, reading: reading})
	case ast.Subquery:
		inner := node.Node(field.Subquery).Node(field.Node)
		here.given = append(here.given, given{alias: alias, columns: r.query(inner, around{here.given, here.ctes}, tested)})
	case ast.Join:
		r.join(node, here, tested)
	}
}

func (r *reader) join(node *ast.Node, here *around, tested bool) {
	joined := node.Text(field.JoinType)
	before := len(r.out.Tables)
	r.from(node.Node(field.Left), here, tested)
	middle, sources := len(r.out.Tables), len(here.given)
	r.from(node.Node(field.Right), here, tested)
	optional := map[string][2]int{"LEFT": {middle, len(r.out.Tables)}, "RIGHT": {before, middle}, "FULL": {before,
		len(r.out.Tables)}}[joined]
	for i := optional[0]; i < optional[1]; i++ {
		r.out.Tables[i].Outer = true
	}
	if joined == "SEMI" || joined == "ANTI" {
		for i := middle; i < len(r.out.Tables); i++ {
			r.out.Tables[i].Tested = true
		}
	}
	for _, name := range node.Names(field.UsingColumns) {
		left, right := r.find(here.given[:sources], strings.ToLower(name)), r.find(here.given[sources:], strings.ToLower(name))
		r.tie(left, right)
	}
	r.held(node.Node(field.Condition), *here, false)
}

// tie notes that two columns are equal.
func (r *reader) tie(a, b derivedOf) {
	x, y := columnName(a.expression), columnName(b.expression)
	if a.reading == nil || b.reading == nil || a.reading == b.reading || x == "" || y == "" {
		return
	}
	a.reading.Tied = append(a.reading.Tied, Tied{strings.ToLower(x), b.reading, strings.ToLower(y)})
	b.reading.Tied = append(b.reading.Tied, Tied{strings.ToLower(y), a.reading, strings.ToLower(x)})
}

// find is the column of a name; no reading where it is none of one reading.
func (r *reader) find(in []given, name string) derivedOf {
	for _, g := range in {
		if g.reading == nil {
			if d, known := g.columns[name]; known {
				return d
			}
		} else if slices.Contains(r.columns[g.reading.Table], name) {
			return derivedOf{g.reading, Name("", name)}
		}
	}
	return derivedOf{}
}

// column is what a reference to a column means.
func (r *reader) column(reference *ast.Node, here around) derivedOf {
	names := reference.Names(field.ColumnNames)
	name := strings.ToLower(columnName(reference))
	if len(names) < 2 {
		return r.find(here.given, name)
	}
	qualifier := strings.ToLower(names[len(names)-2])
	for i, g := range here.given {
		if g.alias == qualifier {
			return r.find(here.given[i:i+1], name)
		}
	}
	return derivedOf{}
}

// derived is an expression over columns of one reading, without their table; no reading where it is over several, or aggregates.
func (r *reader) derived(expression *ast.Node, here around) derivedOf {
	if expression == nil || hasAggregate(expression) {
		return derivedOf{}
	}
	var of *Reading
	whole := true
	var replace func(v any) any
	replace = func(v any) any {
		switch x := v.(type) {
		case *ast.Node:
			if x.Class() == ast.Window || x.Class() == ast.Subquery || x.Class() == ast.Star {
				whole = false
				return x
			}
			if x.Class() == ast.ColumnRef {
				d := r.column(x, here)
				if d.reading == nil || of != nil && of != d.reading || large(d.expression) {
					whole = false
					return x
				}
				of = d.reading
				return ast.Copy(d.expression)
			}
			out := x.Plain()
			for _, f := range x.Fields() {
				out.Set(f, replace(x.Get(f)))
			}
			return out
		case []any:
			list := make([]any, len(x))
			for i, child := range x {
				list[i] = replace(child)
			}
			return list
		}
		return v
	}
	out, _ := replace(expression).(*ast.Node)
	if !whole || of == nil {
		return derivedOf{}
	}
	out.Set(field.Alias, "")
	return derivedOf{of, out}
}

// large tells an expression that is not written out where a column stands for it: one that uses another twice is twice as large.
func large(expression *ast.Node) bool {
	const most = 1000
	n := 0
	return ast.Walk(expression, func(*ast.Node) error {
		if n++; n > most {
			return ErrTangled
		}
		return nil
	}) != nil
}

// held notes a condition, its parts one by one.
func (r *reader) held(condition *ast.Node, here around, part bool) {
	for _, c := range Conditions(condition) {
		if c.Kind() == ast.CompareEqual {
			a, b := r.derived(c.Node(field.Left), here), r.derived(c.Node(field.Right), here)
			r.tie(a, b)
		}
		r.subqueries(c, here)
		d := r.derived(c, here)
		if d.reading == nil {
			continue
		}
		text, ok := format.Fragment(d.expression)
		columns := ColumnsIn(d.expression)
		if !ok || len(columns) == 0 {
			continue
		}
		d.reading.Held = append(d.reading.Held, Held{columns, text, d.expression, part})
	}
}

// ColumnsIn are the different columns of an expression, in order and in lower case.
func ColumnsIn(expression *ast.Node) []string {
	var out []string
	_ = ast.Walk(expression, func(n *ast.Node) error { // never fails
		if n.Class() == ast.ColumnRef {
			out = append(out, strings.ToLower(columnName(n)))
		}
		return nil
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// subqueries reads the queries within an expression. Where one is only asked for rows, its tables are tested.
func (r *reader) subqueries(expression *ast.Node, here around) {
	if expression == nil {
		return
	}
	if expression.Class() == ast.Subquery {
		kind := expression.Text(field.SubqueryType)
		inner := expression.Node(field.Subquery).Node(field.Node)
		columns := r.query(inner, here, kind != "SCALAR")
		if items := inner.Nodes(field.SelectList); kind == "ANY" && len(items) > 0 {
			r.tie(r.derived(expression.Node(field.Child), here), columns[strings.ToLower(itemName(items[0]))])
		}
		return
	}
	for v := range expression.Values {
		switch x := v.(type) {
		case *ast.Node:
			r.subqueries(x, here)
		case []any:
			for _, child := range x {
				if n, ok := child.(*ast.Node); ok {
					r.subqueries(n, here)
				}
			}
		}
	}
}

// expression notes what columns are used for, and the conditions within: of a FILTER, and of a CASE.
func (r *reader) expression(e *ast.Node, here around, role Role) {
	switch {
	case e == nil:
		return
	case e.Class() == ast.ColumnRef:
		d := r.column(e, here)
		if d.reading != nil {
			for _, name := range ColumnsIn(d.expression) {
				r.out.Uses = append(r.out.Uses, Use{d.reading, name, role})
			}
		}
		return
	case e.Class() == ast.Subquery:
		r.subqueries(e, here)
		return
	case e.Class() == ast.Function && IsAggregate(e.FunctionName()):
		role = Measured
	}
	r.held(e.Node(field.Filter), here, true)
	for _, check := range e.Nodes(field.CaseChecks) {
		r.held(check.Node(field.WhenExpr), here, true)
		r.expression(check.Node(field.ThenExpr), here, role)
	}
	for _, f := range e.Fields() {
		if f == field.Filter || f == field.CaseChecks {
			continue
		}
		role := role
		if f == field.Partitions {
			role = Parted
		}
		switch x := e.Get(f).(type) {
		case *ast.Node:
			r.expression(x, here, role)
		case []any:
			for _, child := range x {
				if n, ok := child.(*ast.Node); ok {
					r.expression(n, here, role)
				}
			}
		}
	}
}

// DistinctColumns are the columns that a query counts once for each value, in order and in lower case.
func (t *Tree) DistinctColumns() []string {
	var out []string
	_ = ast.Walk(t.root, func(n *ast.Node) error { // never fails
		if n.Class() == ast.Function && n.Is(field.Distinct) {
			out = append(out, ColumnsIn(n)...)
		}
		return nil
	})
	slices.Sort(out)
	return slices.Compact(out)
}
