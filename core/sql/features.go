package sql

import (
	"errors"
	"maps"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Features are what a query does, as a bag: its tables, conditions, select items, group keys, order and limit, and every part of
// an expression. Two queries that differ in form alone have the same features: aliases, CTEs and derived tables, USING or ON,
// BETWEEN or two comparisons and the order of operands do not show.
type Features map[string]int

// mostMerged bounds how often CTEs and derived tables are merged into what reads them: a chain of CTEs that each read the one before
// twice doubles with every link.
const mostMerged = 2000

// mostWritten bounds, in bytes, what columns of derived tables are written out as: what such a column stands for is written at every
// use, and one that uses another twice is twice as long.
const mostWritten = 16 << 20

// ErrTangled says that a query's parts refer to each other so often that its features cannot be written out.
var ErrTangled = errors.New("the query's derived tables refer to each other too often to be compared")

// Features reads a query's features. The error is ErrTangled.
func (t *Tree) Features() (Features, error) {
	c := &canonical{features: Features{}, tables: map[string]int{}}
	c.countTables(t.root)
	c.query(t.root, scope{}, "")
	if c.tangled {
		return nil, ErrTangled
	}
	return c.features, nil
}

// SameFeatures tells whether two queries differ in form alone. Queries whose features cannot be told are not the same.
func (t *Tree) SameFeatures(other *Tree) bool {
	own, err := t.Features()
	if err != nil {
		return false
	}
	others, err := other.Features()
	return err == nil && own.Distance(others) == 0
}

// Distance is how many features two queries do not share.
func (f Features) Distance(g Features) int {
	d := 0
	for k, n := range f {
		if m := g[k]; n > m {
			d += n - m
		}
	}
	for k, n := range g {
		if m := f[k]; n > m {
			d += n - m
		}
	}
	return d
}

// Missing lists the features that another query has and this one has not, sorted.
func (f Features) Missing(g Features) []string {
	var out []string
	for k, n := range g {
		if n > f[k] {
			out = append(out, k)
		}
	}
	slices.Sort(out)
	return out
}

// canonical gathers features.
type canonical struct {
	features Features
	tables   map[string]int // how often a base table occurs
	merged   int            // how deep in CTEs and derived tables, which are merged into what reads them
	merges   int            // how many were merged so far
	written  int            // bytes of the expressions that columns of derived tables stand for
	tangled  bool           // a bound was hit: the features are not whole
}

// source is what a name in FROM stands for: a base table, or the items of a derived one.
type source struct {
	alias string
	table string
	items map[string]string // canonical expressions by column name; nil for a base table
}

// scope is what names mean in a SELECT: those of its FROM, then those around it, and the CTEs around it.
type scope struct {
	sources []source
	ctes    map[string]cte
}

// cte is what the name of a CTE stands for, with the CTEs that it sees itself: those before it, and never itself. A recursive one that
// is being read has no node and the items of its first part.
type cte struct {
	node  *ast.Node
	sees  map[string]cte
	items map[string]string
	rows  map[string]derivedOf // of a recursive one's second part: the rows so far
}

// named finds a source by its name; the nearest one where several have it.
func (s scope) named(alias string) (source, bool) {
	for _, src := range s.sources {
		if src.alias == alias {
			return src, true
		}
	}
	return source{}, false
}

func (c *canonical) add(kind, text string) { c.features[kind+" "+text]++ }

// standsFor is what a column of a derived table stands for; its name alone once the bound is hit.
func (c *canonical) standsFor(name, expression string) string {
	c.written += len(expression)
	if c.written > mostWritten {
		c.tangled = true
		return name
	}
	return expression
}

func (c *canonical) countTables(root *ast.Node) {
	_ = ast.Walk(root, func(node *ast.Node) error { // never fails
		if node.Kind() == ast.BaseTable {
			c.tables[strings.ToLower(tableName(node))]++
		}
		return nil
	})
}

func tableName(node *ast.Node) string {
	if path := node.Node(field.QualifiedName).Items(field.Path); len(path) > 0 {
		name, _ := path[len(path)-1].(string)
		return name
	}
	return node.Text(field.TableName)
}

// query adds the features of a SELECT or a set operation, and gives its items by name. Where says what it is a part of: "" for the
// outermost one and what is merged into it.
func (c *canonical) query(node *ast.Node, outer scope, where string) map[string]string {
	if c.tangled {
		return nil
	}
	s := scope{ctes: withCTEs(node, outer.ctes)}
	switch node.Kind() {
	case ast.SelectNode:
		return c.selectOf(node, s, outer, where)
	case ast.RecursiveCteNode:
		return c.recursive(node, s, where)
	}
	c.add(where+"set", node.Text(field.SetopType)+" "+allText(node.Is(field.SetopAll)))
	var items map[string]string
	for i, child := range node.Nodes(field.Children) {
		got := c.query(child, s, where)
		if i == 0 {
			items = got
		}
	}
	c.modifiers(node, s, nil, where)
	return items
}

// withCTEs are the CTEs that a query sees: its own ones over those around it.
func withCTEs(node *ast.Node, around map[string]cte) map[string]cte {
	own := node.Node(field.CteMap).Nodes(field.Map)
	if len(own) == 0 {
		return around
	}
	seen := around
	for _, entry := range own {
		value := entry.Node(field.Value)
		inner := value.Node(field.QueryNode)
		if inner == nil {
			inner = value.Node(field.Query).Node(field.Node)
		}
		seen = withCTE(seen, entry.Text(field.Key), cte{node: inner, sees: seen})
	}
	return seen
}

// withCTE is a copy of some CTEs with one more.
func withCTE(known map[string]cte, name string, one cte) map[string]cte {
	out := maps.Clone(known)
	if out == nil {
		out = map[string]cte{}
	}
	out[strings.ToLower(name)] = one
	return out
}

// recursive adds the features of both parts of a recursive CTE; in its second one the name stands for the rows so far.
func (c *canonical) recursive(node *ast.Node, s scope, where string) map[string]string {
	c.add(where+"recursion", allText(node.Is(field.UnionAll)))
	items := c.query(node.Node(field.Left), s, where)
	if items == nil {
		items = map[string]string{}
	}
	s.ctes = withCTE(s.ctes, node.Text(field.CteName), cte{items: items})
	c.query(node.Node(field.Right), s, where)
	return items
}

func (c *canonical) selectOf(node *ast.Node, s, outer scope, where string) map[string]string {
	if from := node.Node(field.FromTable); from != nil {
		c.from(from, &s, where)
	}
	s.sources = append(s.sources[:len(s.sources):len(s.sources)], outer.sources...) // a correlated subquery sees the names around it
	c.conditions(where+"where", node.Node(field.Where), s)
	items, names := c.items(node, s, where)
	c.groups(node, s, items, where)
	c.conditions(where+"having", node.Node(field.Having), s)
	c.conditions(where+"qualify", node.Node(field.Qualify), s)
	c.modifiers(node, s, items, where)
	return names
}

func allText(all bool) string {
	if all {
		return "all"
	}
	return ""
}

// from adds tables and join conditions. An inner join's condition is one like any other.
func (c *canonical) from(node *ast.Node, s *scope, where string) {
	alias := strings.ToLower(node.Text(field.Alias))
	switch node.Kind() {
	case ast.BaseTable:
		c.table(node, alias, s, where)
	case ast.Subquery:
		inner := node.Node(field.Subquery).Node(field.Node)
		s.sources = append(s.sources, source{alias: alias, items: c.merge(inner, s.ctes, where)})
	case ast.Join:
		c.from(node.Node(field.Left), s, where)
		c.from(node.Node(field.Right), s, where)
		kind := where + "where"
		if joined := node.Text(field.JoinType); joined != "INNER" {
			kind = where + strings.ToLower(joined) + " join"
			c.add(kind, "")
		}
		for _, name := range node.Names(field.UsingColumns) {
			c.conditions(kind, Compare(ast.CompareEqual, Name("", name), Name("", name)), *s)
		}
		c.conditions(kind, node.Node(field.Condition), *s)
	default:
		c.add(where+"from", strings.ToLower(node.Kind().String()))
	}
}

// table adds a base table, or what the CTE of that name is.
func (c *canonical) table(node *ast.Node, alias string, s *scope, where string) {
	name := strings.ToLower(tableName(node))
	if alias == "" {
		alias = name
	}
	known, isCTE := s.ctes[name]
	if isCTE && !qualified(node) {
		c.tables[name]--
		items := known.items
		if known.node != nil {
			items = c.merge(known.node, known.sees, where)
		}
		s.sources = append(s.sources, source{alias: alias, items: items})
		return
	}
	c.add(where+"table", name)
	s.sources = append(s.sources, source{alias: alias, table: name})
}

// qualified tells whether a table is named with its schema, which a CTE never is.
func qualified(node *ast.Node) bool {
	path := node.Node(field.QualifiedName).Items(field.Path)
	return len(path) > 1
}

// merge adds the features of a CTE or derived table to those of what reads it, and gives its items.
func (c *canonical) merge(node *ast.Node, ctes map[string]cte, where string) map[string]string {
	c.merges++
	if c.merges > mostMerged {
		c.tangled = true
	}
	c.merged++
	defer func() { c.merged-- }()
	return c.query(node, scope{ctes: ctes}, where)
}

// conditions adds the parts of an AND, each with its own parts.
func (c *canonical) conditions(kind string, expression *ast.Node, s scope) {
	if expression == nil {
		return
	}
	switch expression.Kind() {
	case ast.ConjunctionAnd:
		for _, child := range expression.Nodes(field.Children) {
			c.conditions(kind, child, s)
		}
		return
	case ast.CompareBetween:
		for _, half := range halves(expression) {
			c.conditions(kind, half, s)
		}
		return
	}
	c.condition(kind, c.expression(expression, s), expression, s)
}

func (c *canonical) condition(kind, written string, expression *ast.Node, s scope) {
	c.add(kind, written)
	c.parts(expression, s)
}

// parts adds every part of an expression, and the features of its subqueries.
func (c *canonical) parts(expression *ast.Node, s scope) {
	if expression == nil {
		return
	}
	for _, child := range children(expression) {
		if isConstant := child.Class() == ast.Constant || child.Node(field.Child).Class() == ast.Constant; isConstant ||
			child.Class() == ast.TypeExpression {
			continue
		}
		c.add("part", c.expression(child, s))
		c.parts(child, s)
	}
	if expression.Class() == ast.Subquery {
		c.query(expression.Node(field.Subquery).Node(field.Node), s, "sub ")
	}
}

// children are the expressions directly inside another.
func children(expression *ast.Node) []*ast.Node {
	if expression.Kind() == ast.CompareBetween {
		return halves(expression)
	}
	if either := alternatives(expression); len(either) == 1 {
		return children(either[0])
	} else if len(either) > 1 {
		return either
	}
	var out []*ast.Node
	for _, f := range expression.Fields() {
		if f == field.Subquery || f == field.TypeExpr {
			continue
		}
		switch x := expression.Get(f).(type) {
		case *ast.Node:
			if x.Class() != ast.None {
				out = append(out, x)
			}
		case []any:
			for _, item := range x {
				child, _ := item.(*ast.Node)
				if inner := child.Node(field.Expression); inner != nil {
					child = inner
				}
				if when := child.Node(field.WhenExpr); when != nil {
					out = append(out, when)
					child = child.Node(field.ThenExpr)
				}
				if child.Class() != ast.None {
					out = append(out, child)
				}
			}
		}
	}
	return out
}

// items adds the select items; it gives them in order and by name.
func (c *canonical) items(node *ast.Node, s scope, where string) ([]string, map[string]string) {
	var items []string
	names := map[string]string{}
	for _, item := range node.Nodes(field.SelectList) {
		written := c.expression(item, s)
		items = append(items, written)
		if name := strings.ToLower(itemName(item)); name != "" {
			names[name] = written
		}
		if item.Class() == ast.Star {
			for _, src := range s.sources {
				for name, inner := range src.items {
					if _, taken := names[name]; !taken {
						names[name] = inner
					}
				}
			}
		}
		if where == "" {
			if c.merged == 0 || item.Class() != ast.ColumnRef {
				c.add("item", written)
			}
			c.parts(item, s)
		}
	}
	return items, names
}

func (c *canonical) groups(node *ast.Node, s scope, items []string, where string) {
	if node.Text(field.AggregateHandling) == "FORCE_AGGREGATES" {
		for i, item := range node.Nodes(field.SelectList) {
			if !hasAggregate(item) {
				c.add(where+"group", items[i])
			}
		}
	}
	for _, g := range node.Nodes(field.GroupExpressions) {
		written := c.expression(g, s)
		if at := findItem(g, node.Nodes(field.SelectList)); at >= 0 {
			written = items[at]
		}
		c.add(where+"group", written)
	}
}

func (c *canonical) modifiers(node *ast.Node, s scope, items []string, where string) {
	for _, m := range node.Nodes(field.Modifiers) {
		switch m.Kind() {
		case ast.DistinctModifier:
			c.add(where+"distinct", "")
		case ast.OrderModifier:
			for i, order := range m.Nodes(field.Orders) {
				written := c.expression(order.Node(field.Expression), s)
				if at := findItem(order.Node(field.Expression), node.Nodes(field.SelectList)); at >= 0 && at < len(items) {
					written = items[at]
				}
				direction := ""
				if order.Kind() == ast.Descending {
					direction = " desc"
				}
				c.add(where+"order", string(rune('1'+i))+" "+written+direction)
			}
		case ast.LimitModifier:
			c.add(where+"limit", c.expression(m.Node(field.Limit), s)+" "+c.expression(m.Node(field.Offset), s))
		}
	}
}
