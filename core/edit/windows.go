package edit

import (
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// windows are the mistakes in what a row is held against: all rows for those of its part, one of the tied rows for all of them; and
// mistakes of the same kind in a table that is joined with itself, and in a CASE that is counted.
func windows() []*Edit {
	return []*Edit{
		{Name: "drop-partition", Doc: "a row is held against all rows where those of its part were meant", Code: fault.GroupKeyMissing,
			Inverse: fault.GroupKeyExtra, make: dropPartition},
		{Name: "one-of-tied", Doc: "one of the tied rows stands for all of them, or the reverse", Code: fault.Limit, Inverse: fault.Limit,
			make: oneOfTied},
		{Name: "turn-self-join", Doc: "a table is joined with itself the wrong way round", Code: fault.JoinKey, Inverse: fault.JoinKey,
			make: turnSelfJoin},
		{Name: "counted-else", Doc: "a CASE with ELSE is counted, which counts every row", Code: fault.AggregateFunction,
			Inverse: fault.AggregateFunction, make: countedElse},
	}
}

// dropPartition drops a window's partitions, all of them and each alone.
func dropPartition(s Subject, at sql.Site) []Change {
	partitions := at.Node.Nodes(field.Partitions)
	if at.Node.Class() != ast.Window || len(partitions) == 0 {
		return nil
	}
	without := func(keep []any) Change {
		return altered(s, at, func(n *ast.Node) { n.Set(field.Partitions, keep) })
	}
	out := one(without([]any{}))
	for i := range partitions {
		if len(partitions) > 1 {
			keep := anyList(partitions)
			out = append(out, without(append(keep[:i:i], keep[i+1:]...)))
		}
	}
	return out
}

var ranks = map[ast.Kind]string{ast.WindowRank: "rank", ast.WindowRankDense: "dense_rank", ast.WindowRowNumber: "row_number"}

// oneOfTied numbers rows where they were ranked, and the reverse; in their own order, and in that of the other query's numbering.
func oneOfTied(s Subject, at sql.Site) []Change {
	if at.Node.Class() != ast.Window || ranks[at.Node.Kind()] == "" {
		return nil
	}
	to := ast.WindowRowNumber
	if at.Node.Kind() == ast.WindowRowNumber {
		to = ast.WindowRank
	}
	numbered := func(orders []any) Change {
		return altered(s, at, func(n *ast.Node) {
			n.Set(field.Type, to)
			rename(n, ranks[to])
			if orders != nil {
				n.Set(field.Orders, orders)
			}
		})
	}
	out := one(numbered(nil))
	if s.Other == nil {
		return out
	}
	for _, site := range s.Other.Sites() {
		if site.Node.Kind() == to && len(site.Node.Nodes(field.Orders)) > 0 {
			var orders []any
			for _, o := range site.Node.Nodes(field.Orders) {
				orders = append(orders, ast.Copy(o))
			}
			out = append(out, numbered(orders))
		}
	}
	return out
}

// turnSelfJoin swaps the columns of an equality of two readings of one table.
func turnSelfJoin(s Subject, at sql.Site) []Change {
	left, right := at.Node.Node(field.Left), at.Node.Node(field.Right)
	if at.Node.Kind() != ast.CompareEqual || sql.ColumnName(left) == "" || sql.ColumnName(right) == "" ||
		strings.EqualFold(sql.ColumnName(left), sql.ColumnName(right)) {
		return nil
	}
	a, b := left.Names(field.ColumnNames), right.Names(field.ColumnNames)
	const qualified = 2
	if len(a) != qualified || len(b) != qualified || strings.EqualFold(a[0], b[0]) || baseOf(s, a[0]) == "" || baseOf(s,
		a[0]) != baseOf(s, b[0]) {
		return nil
	}
	return one(altered(s, at, func(n *ast.Node) {
		n.Node(field.Left).Set(field.ColumnNames, []any{a[0], b[1]})
		n.Node(field.Right).Set(field.ColumnNames, []any{b[0], a[1]})
	}))
}

// baseOf is the table that a query calls by a name; "" for none, or several.
func baseOf(s Subject, name string) string {
	found := ""
	for _, site := range s.Tree.Sites() {
		if site.Node.Kind() != ast.BaseTable || !strings.EqualFold(aliasOf(site.Node), name) {
			continue
		}
		table := strings.ToLower(sql.TableName(site.Node))
		if found != "" && found != table {
			return ""
		}
		found = table
	}
	return found
}

// aliasOf is the name by which a query calls a table.
func aliasOf(table *ast.Node) string {
	if alias := table.Text(field.Alias); alias != "" {
		return alias
	}
	return sql.TableName(table)
}

// countedElse drops the ELSE of every CASE that a SELECT counts.
func countedElse(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.SelectNode {
		return nil
	}
	dropped := 0
	c := altered(s, at, func(n *ast.Node) {
		for _, item := range n.Nodes(field.SelectList) {
			_ = sql.Alter(item, func(node *ast.Node) *ast.Node {
				if node.FunctionName() == "count" && argument(node).Class() == ast.Case && argument(node).Node(field.ElseExpr) != nil &&
					argument(node).Node(field.ElseExpr).Node(field.Literal).Text(field.Kind) != "NULL_LITERAL" {
					argument(node).Set(field.ElseExpr, nullLiteral())
					dropped++
				}
				return node
			})
		}
	})
	if dropped == 0 {
		return nil
	}
	c.Before, c.After = "ELSE", ""
	return one(c)
}

func nullLiteral() *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Constant, field.Type: ast.ValueConstant, field.Alias: "",
		field.Literal: ast.New(ast.Fields{field.Kind: "NULL_LITERAL", field.Text: "NULL"})})
}
