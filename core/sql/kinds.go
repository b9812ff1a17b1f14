package sql

import (
	"slices"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Kinds name what a query is made of, for sorting questions: "join", "window", "nesting", "set operation", "aggregate", "grouping",
// "having", "date arithmetic", "outer join", "top n"; sorted.
func (t *Tree) Kinds() []string {
	found := map[string]bool{}
	selects := 0
	for _, site := range t.Sites() {
		node := site.Node
		switch kind := node.Kind(); {
		case kind == ast.Join:
			found["join"] = true
			if joined := node.Text(field.JoinType); joined != "INNER" {
				found["outer join"] = true
			}
		case kind == ast.SelectNode:
			selects++
			found["having"] = found["having"] || node.Has(field.Having)
			found["grouping"] = found["grouping"] || len(node.Nodes(field.GroupExpressions)) > 0
		case kind == ast.SetOperationNode:
			found["set operation"] = true
		case kind == ast.LimitModifier:
			found["top n"] = true
		case node.Class() == ast.Window:
			found["window"] = true
		case node.Class() == ast.Function:
			found["aggregate"] = found["aggregate"] || aggregates[node.FunctionName()]
			found["date arithmetic"] = found["date arithmetic"] || dateFunctions[node.FunctionName()]
		}
	}
	found["nesting"] = selects > 1 && !found["set operation"] || selects > 2
	var out []string
	for kind, is := range found {
		if is {
			out = append(out, kind)
		}
	}
	slices.Sort(out)
	return out
}

var dateFunctions = map[string]bool{"date_trunc": true, "date_part": true, "datepart": true, "date_diff": true,
	"datediff": true, "date_sub": true, "date_add": true,
	"year": true, "quarter": true, "month": true, "week": true, "day": true, "dayofweek": true, "isodow": true, "age": true,
	"to_days": true, "to_months": true, "last_day": true}
