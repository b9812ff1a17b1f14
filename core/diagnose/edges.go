package diagnose

import (
	"slices"
	"strings"
	"time"

	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// literals are the constants of conditions, as texts.
func literals(all []sql.Held) []string {
	var out []string
	for _, h := range all {
		_ = ast.Walk(h.Node, func(n *ast.Node) error { // never fails
			if n.Class() == ast.Constant {
				out = append(out, n.Node(field.Literal).Text(field.Text))
			}
			return nil
		})
	}
	return out
}

// soleValue is the text that a column must equal; "" for other conditions.
func soleValue(all []sql.Held) string {
	if len(all) != 1 || all[0].Node.Kind() != ast.CompareEqual {
		return ""
	}
	if found := literals(all); len(found) == 1 {
		return found[0]
	}
	return ""
}

// sameEdges tells conditions that differ at their edges alone: each literal of one is a literal of the other, or a day from it.
func sameEdges(a, b []sql.Held) bool {
	x, y := literals(a), literals(b)
	if len(x) == 0 || len(y) == 0 {
		return false
	}
	near := func(these, those []string) bool {
		for _, one := range these {
			if !slices.ContainsFunc(those, func(other string) bool { return one == other || besides(one, other) }) {
				return false
			}
		}
		return true
	}
	return near(x, y) && near(y, x)
}

// besides tells moments that are no more than a day apart.
func besides(a, b string) bool {
	x, okX := moment(a)
	y, okY := moment(b)
	return okX && okY && x.Sub(y).Abs() <= 24*time.Hour
}

func moment(text string) (time.Time, bool) {
	text = strings.Replace(text, "T", " ", 1)
	for _, layout := range []string{"2006-01-02", "2006-01-02 15:04:05", "2006-01-02 15:04"} {
		if t, err := time.Parse(layout, text); err == nil {
			return t, true
		}
	}
	return time.Time{}, false
}
