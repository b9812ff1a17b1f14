package sql

import "sort"

// Kinds name what a query is made of, for sorting questions: "join", "window", "nesting", "set operation", "aggregate", "grouping",
// "having", "date arithmetic", "outer join", "top n"; sorted.
func (t *Tree) Kinds() []string {
	found := map[string]bool{}
	selects := 0
	for _, site := range t.Sites() {
		node := site.Node
		switch kind := text(node, "type"); {
		case kind == "JOIN":
			found["join"] = true
			if joined := text(node, "join_type"); joined != "INNER" {
				found["outer join"] = true
			}
		case kind == "SELECT_NODE":
			selects++
			found["having"] = found["having"] || object(node, "having") != nil
			found["grouping"] = found["grouping"] || len(list(node, "group_expressions")) > 0
		case kind == "SET_OPERATION_NODE":
			found["set operation"] = true
		case kind == "LIMIT_MODIFIER":
			found["top n"] = true
		case text(node, "class") == "WINDOW":
			found["window"] = true
		case text(node, "class") == "FUNCTION":
			found["aggregate"] = found["aggregate"] || aggregates[functionName(node)]
			found["date arithmetic"] = found["date arithmetic"] || dateFunctions[functionName(node)]
		}
	}
	found["nesting"] = selects > 1 && !found["set operation"] || selects > 2
	var out []string
	for kind, is := range found {
		if is {
			out = append(out, kind)
		}
	}
	sort.Strings(out)
	return out
}

var dateFunctions = map[string]bool{"date_trunc": true, "date_part": true, "datepart": true, "date_diff": true, "datediff": true, "date_sub": true, "date_add": true,
	"year": true, "quarter": true, "month": true, "week": true, "day": true, "dayofweek": true, "isodow": true, "age": true, "to_days": true, "to_months": true, "last_day": true}
