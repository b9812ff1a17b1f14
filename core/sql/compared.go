package sql

import "strings"

// Comparison is a column that a condition compares with a literal or with another column.
type Comparison struct {
	Column  string
	Literal string // as text
	Other   string // the other column; "" for a literal
	Year    bool   // it is the year of the column that is compared
	Formula string // an expression without columns, as text, in place of a literal
}

// Compared lists what a query's conditions compare columns with, casts left out.
func (t *Tree) Compared() []Comparison {
	var out []Comparison
	for _, site := range t.Sites() {
		out = append(out, compared(site.Node)...)
	}
	return out
}

func compared(node map[string]any) []Comparison {
	var sides []map[string]any
	switch {
	case text(node, "class") == "COMPARISON" || text(node, "type") == "COMPARE_BETWEEN":
		for _, key := range []string{"left", "right", "input", "lower", "upper"} {
			sides = append(sides, object(node, key))
		}
	case text(node, "type") == "COMPARE_IN" || text(node, "type") == "COMPARE_NOT_IN":
		sides = list(node, "children")
	}
	var columns []Comparison
	var literals, formulas []string
	for _, side := range sides {
		side = withoutCasts(side)
		name, year := columnName(side), false
		if inner := children(side); functionName(side) == "year" && len(inner) == 1 {
			name, year = columnName(withoutCasts(inner[0])), true
		}
		switch {
		case name != "" && !clockWords[strings.ToLower(name)]:
			columns = append(columns, Comparison{Column: name, Year: year})
		case text(side, "class") == "CONSTANT":
			literals = append(literals, text(object(side, "literal"), "text"))
		case side != nil && !hasColumn(side):
			formulas = append(formulas, Fragment(side))
		}
	}
	var out []Comparison
	for i, c := range columns {
		for _, l := range literals {
			out = append(out, Comparison{Column: c.Column, Year: c.Year, Literal: l})
		}
		for _, f := range formulas {
			out = append(out, Comparison{Column: c.Column, Year: c.Year, Formula: f})
		}
		for j, other := range columns {
			if i != j && !c.Year && !other.Year {
				out = append(out, Comparison{Column: c.Column, Other: other.Column})
			}
		}
	}
	return out
}

func withoutCasts(node map[string]any) map[string]any {
	for inner := object(node, "child"); inner != nil; inner = object(node, "child") {
		node = inner
	}
	return node
}

// hasColumn tells whether an expression rests on data.
func hasColumn(expression map[string]any) bool {
	found := false
	_ = walk(expression, func(node map[string]any) error {
		name := columnName(node)
		found = found || name != "" && !clockWords[strings.ToLower(name)] || text(node, "class") == "SUBQUERY"
		return nil
	})
	return found
}

// clockWords are names that an engine reads as the clock where no column has them.
var clockWords = map[string]bool{"current_date": true, "current_timestamp": true, "localtimestamp": true}
