package sql

import (
	"errors"
	"maps"
	"sort"
	"strings"
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
	sort.Strings(out)
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
	node  map[string]any
	sees  map[string]cte
	items map[string]string
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

func (c *canonical) countTables(root map[string]any) {
	_ = walk(root, func(node map[string]any) error { // never fails
		if text(node, "type") == "BASE_TABLE" {
			c.tables[strings.ToLower(tableName(node))]++
		}
		return nil
	})
}

func tableName(node map[string]any) string {
	if path, _ := object(node, "qualified_name")["path"].([]any); len(path) > 0 {
		name, _ := path[len(path)-1].(string)
		return name
	}
	return text(node, "table_name")
}

// query adds the features of a SELECT or a set operation, and gives its items by name. Where says what it is a part of: "" for the
// outermost one and what is merged into it.
func (c *canonical) query(node map[string]any, outer scope, where string) map[string]string {
	if c.tangled {
		return nil
	}
	s := scope{ctes: withCTEs(node, outer.ctes)}
	switch text(node, "type") {
	case "SELECT_NODE":
		return c.selectOf(node, s, outer, where)
	case "RECURSIVE_CTE_NODE":
		return c.recursive(node, s, where)
	}
	c.add(where+"set", text(node, "setop_type")+" "+boolText(node["setop_all"]))
	var items map[string]string
	for i, child := range list(node, "children") {
		got := c.query(child, s, where)
		if i == 0 {
			items = got
		}
	}
	c.modifiers(node, s, nil, where)
	return items
}

// withCTEs are the CTEs that a query sees: its own ones over those around it.
func withCTEs(node map[string]any, around map[string]cte) map[string]cte {
	own := list(object(node, "cte_map"), "map")
	if len(own) == 0 {
		return around
	}
	seen := around
	for _, entry := range own {
		value := object(entry, "value")
		inner := object(value, "query_node")
		if inner == nil {
			inner = object(object(value, "query"), "node")
		}
		seen = withCTE(seen, text(entry, "key"), cte{node: inner, sees: seen})
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
func (c *canonical) recursive(node map[string]any, s scope, where string) map[string]string {
	c.add(where+"recursion", boolText(node["union_all"]))
	items := c.query(object(node, "left"), s, where)
	if items == nil {
		items = map[string]string{}
	}
	s.ctes = withCTE(s.ctes, text(node, "cte_name"), cte{items: items})
	c.query(object(node, "right"), s, where)
	return items
}

func (c *canonical) selectOf(node map[string]any, s, outer scope, where string) map[string]string {
	if from := object(node, "from_table"); from != nil {
		c.from(from, &s, where)
	}
	s.sources = append(s.sources[:len(s.sources):len(s.sources)], outer.sources...) // a correlated subquery sees the names around it
	c.conditions(where+"where", object(node, "where_clause"), s)
	items, names := c.items(node, s, where)
	c.groups(node, s, items, where)
	c.conditions(where+"having", object(node, "having"), s)
	c.conditions(where+"qualify", object(node, "qualify"), s)
	c.modifiers(node, s, items, where)
	return names
}

func boolText(v any) string {
	if b, _ := v.(bool); b {
		return "all"
	}
	return ""
}

// from adds tables and join conditions. An inner join's condition is one like any other.
func (c *canonical) from(node map[string]any, s *scope, where string) {
	alias := strings.ToLower(text(node, "alias"))
	switch text(node, "type") {
	case "BASE_TABLE":
		c.table(node, alias, s, where)
	case "SUBQUERY":
		inner := object(object(node, "subquery"), "node")
		s.sources = append(s.sources, source{alias: alias, items: c.merge(inner, s.ctes, where)})
	case "JOIN":
		c.from(object(node, "left"), s, where)
		c.from(object(node, "right"), s, where)
		kind := where + "where"
		if joined := text(node, "join_type"); joined != "INNER" {
			kind = where + strings.ToLower(joined) + " join"
			c.add(kind, "")
		}
		names, _ := node["using_columns"].([]any)
		for _, n := range names {
			name, _ := n.(string)
			c.conditions(kind, Compare("COMPARE_EQUAL", Name("", name), Name("", name)), *s)
		}
		c.conditions(kind, object(node, "condition"), *s)
	default:
		c.add(where+"from", strings.ToLower(text(node, "type")))
	}
}

// table adds a base table, or what the CTE of that name is.
func (c *canonical) table(node map[string]any, alias string, s *scope, where string) {
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
func qualified(node map[string]any) bool {
	path, _ := object(node, "qualified_name")["path"].([]any)
	return len(path) > 1
}

// merge adds the features of a CTE or derived table to those of what reads it, and gives its items.
func (c *canonical) merge(node map[string]any, ctes map[string]cte, where string) map[string]string {
	c.merges++
	if c.merges > mostMerged {
		c.tangled = true
	}
	c.merged++
	defer func() { c.merged-- }()
	return c.query(node, scope{ctes: ctes}, where)
}

// conditions adds the parts of an AND, each with its own parts.
func (c *canonical) conditions(kind string, expression map[string]any, s scope) {
	if expression == nil {
		return
	}
	switch text(expression, "type") {
	case "CONJUNCTION_AND":
		for _, child := range list(expression, "children") {
			c.conditions(kind, child, s)
		}
		return
	case "COMPARE_BETWEEN":
		for _, half := range halves(expression) {
			c.conditions(kind, half, s)
		}
		return
	}
	c.condition(kind, c.expression(expression, s), expression, s)
}

func (c *canonical) condition(kind, written string, expression map[string]any, s scope) {
	c.add(kind, written)
	c.parts(expression, s)
}

// parts adds every part of an expression, and the features of its subqueries.
func (c *canonical) parts(expression map[string]any, s scope) {
	if expression == nil {
		return
	}
	for _, child := range children(expression) {
		if isConstant := text(child, "class") == "CONSTANT" || text(object(child, "child"), "class") == "CONSTANT"; isConstant || text(child, "class") == "TYPE" {
			continue
		}
		c.add("part", c.expression(child, s))
		c.parts(child, s)
	}
	if text(expression, "class") == "SUBQUERY" {
		c.query(object(object(expression, "subquery"), "node"), s, "sub ")
	}
}

// halves are the two comparisons that a BETWEEN stands for.
func halves(between map[string]any) []map[string]any {
	input := object(between, "input")
	return []map[string]any{Compare("COMPARE_LESSTHANOREQUALTO", object(between, "lower"), input), Compare("COMPARE_LESSTHANOREQUALTO", input, object(between, "upper"))}
}

// children are the expressions directly inside another.
func children(expression map[string]any) []map[string]any {
	if text(expression, "type") == "COMPARE_BETWEEN" {
		return halves(expression)
	}
	var out []map[string]any
	var keys []string
	for k := range expression {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		if k == "subquery" || k == "type_expr" {
			continue
		}
		switch x := expression[k].(type) {
		case map[string]any:
			if text(x, "class") != "" {
				out = append(out, x)
			}
		case []any:
			for _, item := range x {
				child, _ := item.(map[string]any)
				if inner := object(child, "expression"); inner != nil {
					child = inner
				}
				if when := object(child, "when_expr"); when != nil {
					out = append(out, when)
					child = object(child, "then_expr")
				}
				if text(child, "class") != "" {
					out = append(out, child)
				}
			}
		}
	}
	return out
}

// items adds the select items; it gives them in order and by name.
func (c *canonical) items(node map[string]any, s scope, where string) ([]string, map[string]string) {
	var items []string
	names := map[string]string{}
	for _, item := range list(node, "select_list") {
		written := c.expression(item, s)
		items = append(items, written)
		if name := strings.ToLower(itemName(item)); name != "" {
			names[name] = written
		}
		if text(item, "class") == "STAR" {
			for _, src := range s.sources {
				for name, inner := range src.items {
					if _, taken := names[name]; !taken {
						names[name] = inner
					}
				}
			}
		}
		if where == "" {
			if c.merged == 0 || text(item, "class") != "COLUMN_REF" {
				c.add("item", written)
			}
			c.parts(item, s)
		}
	}
	return items, names
}

func (c *canonical) groups(node map[string]any, s scope, items []string, where string) {
	if text(node, "aggregate_handling") == "FORCE_AGGREGATES" {
		for i, item := range list(node, "select_list") {
			if !hasAggregate(item) {
				c.add(where+"group", items[i])
			}
		}
	}
	for _, g := range list(node, "group_expressions") {
		written := c.expression(g, s)
		if at := findItem(g, list(node, "select_list")); at >= 0 {
			written = items[at]
		}
		c.add(where+"group", written)
	}
}

func (c *canonical) modifiers(node map[string]any, s scope, items []string, where string) {
	for _, m := range list(node, "modifiers") {
		switch text(m, "type") {
		case "DISTINCT_MODIFIER":
			c.add(where+"distinct", "")
		case "ORDER_MODIFIER":
			for i, order := range list(m, "orders") {
				written := c.expression(object(order, "expression"), s)
				if at := findItem(object(order, "expression"), list(node, "select_list")); at >= 0 && at < len(items) {
					written = items[at]
				}
				direction := ""
				if text(order, "type") == "DESCENDING" {
					direction = " desc"
				}
				c.add(where+"order", string(rune('1'+i))+" "+written+direction)
			}
		case "LIMIT_MODIFIER":
			c.add(where+"limit", c.expression(object(m, "limit"), s)+" "+c.expression(object(m, "offset"), s))
		}
	}
}
