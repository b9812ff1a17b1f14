package edit

import (
	"maps"
	"math/big"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/value"
)

// literals are the mistakes in what is compared with.
func literals() []*Edit {
	return []*Edit{
		{Name: "other-literal", Doc: "another value is compared with", Code: fault.FilterValue, Inverse: fault.FilterValue,
			make: otherLiteral},
		{Name: "shift-date", Doc: "a date is off by a day, a month or a year", Code: fault.TimeWindow,
			Inverse: fault.TimeWindow, make: shiftDate},
		{Name: "other-date-column", Doc: "another date is meant", Code: fault.TimeWindow, Inverse: fault.TimeWindow, make: otherDateColumn},
	}
}

// compared tells literals that something is compared with: not limits, not places.
func compared(at sql.Site) bool {
	if at.Parent.Class() == ast.Function && timeFunctions[at.Parent.FunctionName()] {
		return false // the unit of date_trunc('month', day)
	}
	return at.Node.Class() == ast.Constant && (at.In(field.Where) || at.In(field.Having) || at.In(field.Condition) ||
		at.In(field.Filter) || at.In(field.Qualify) || at.In(field.CaseChecks))
}

// timeFunctions have literals that say how, not what.
var timeFunctions = map[string]bool{"date_trunc": true, "date_part": true, "datepart": true, "date_diff": true,
	"datediff": true, "date_add": true, "strftime": true, "strptime": true}

// otherLiteral takes values from the other query, the column's own values, and other cases of the same word.
func otherLiteral(s Subject, at sql.Site) []Change {
	if !compared(at) {
		return nil
	}
	kind, text := literal(at.Node)
	seen := map[string]bool{text: true}
	var out []Change
	for _, with := range candidates(s, at, kind, text) {
		if seen[with] {
			continue
		}
		seen[with] = true
		node := ast.Copy(at.Node)
		node.Set(field.Literal, ast.New(ast.Fields{field.Kind: kind, field.Text: with}))
		tree, places := s.Tree.EveryWhere(at.Node, node)
		c := replace(s, at, node)
		c.Code = literalCode(text, with)
		if c.Code == fault.FilterValue && at.In(field.Having) {
			c.Code = fault.Having
		}
		out = append(out, c)
		if places > 1 {
			c.Tree = tree
			out = append(out, c)
		}
	}
	return out
}

func literal(node *ast.Node) (kind, text string) {
	l := node.Node(field.Literal)
	return l.Text(field.Kind), l.Text(field.Text)
}

func candidates(s Subject, at sql.Site, kind, text string) []string {
	var out []string
	if s.Other != nil {
		for _, site := range s.Other.Sites() {
			if site.Node.Class() == ast.Constant && compared(site) {
				if k, t := literal(site.Node); k == kind && comparable(s, at, site, text, t) {
					out = append(out, t)
				}
			}
		}
	}
	if kind == "STRING" {
		out = append(out, strings.ToUpper(text), strings.ToLower(text))
		if text != "" {
			out = append(out, capitalised(text))
		}
		if column := comparedColumn(at); column != "" && s.Values != nil {
			out = append(out, s.Values(column)...)
		}
	}
	return out
}

// comparable tells whether a value of the other query may stand in a place: a text only where it is compared with the same column
// there, or with one that this query does not compare at all; a date only for a date.
func comparable(s Subject, at, there sql.Site, text, with string) bool {
	if kind, _ := literal(at.Node); kind != "STRING" {
		return true
	}
	_, isDate := dateOf(text)
	if _, withDate := dateOf(with); isDate || withDate {
		return isDate == withDate
	}
	column := comparedColumn(there)
	if column == "" || strings.EqualFold(column, comparedColumn(at)) {
		return true
	}
	for _, site := range s.Tree.Sites() {
		if compared(site) && strings.EqualFold(comparedColumn(site), column) {
			return false
		}
	}
	return true
}

// comparedColumn is the column that a literal is compared with; "" for none.
func comparedColumn(at sql.Site) string {
	for _, key := range []field.Field{field.Left, field.Right, field.Input} {
		if name := sql.ColumnName(at.Parent.Node(key)); name != "" {
			return name
		}
	}
	for _, child := range at.Parent.Nodes(field.Children) {
		if name := sql.ColumnName(child); name != "" {
			return name
		}
	}
	return ""
}

// literalCode is the fault of one value for another: a day beside is the edge, another date another period, ten times as much a factor.
func literalCode(was, is string) fault.Code {
	before, okBefore := dateOf(was)
	after, okAfter := dateOf(is)
	if okBefore && okAfter {
		if days := after.Sub(before).Hours() / 24; days >= -1 && days <= 1 {
			return fault.Boundary
		}
		return fault.TimeWindow
	}
	x, okX := value.Rational(was)
	y, okY := value.Rational(is)
	if okX && okY && x.Sign() > 0 && y.Sign() > 0 {
		if isYear(x) && isYear(y) {
			return fault.TimeWindow
		}
		ratio := new(big.Rat).Quo(x, y)
		for _, power := range []int64{10, 100, 1000, 1_000_000} {
			if ratio.Cmp(big.NewRat(power, 1)) == 0 || ratio.Cmp(big.NewRat(1, power)) == 0 {
				return fault.OffByFactor
			}
		}
	}
	return fault.FilterValue
}

func isYear(r *big.Rat) bool {
	return r.IsInt() && r.Cmp(big.NewRat(1900, 1)) >= 0 && r.Cmp(big.NewRat(2100, 1)) <= 0
}

func dateOf(text string) (time.Time, bool) {
	for _, layout := range []string{"2006-01-02", "2006-01-02 15:04:05"} {
		if t, err := time.Parse(layout, text); err == nil {
			return t, true
		}
	}
	return time.Time{}, false
}

func shiftDate(s Subject, at sql.Site) []Change {
	if !compared(at) {
		return nil
	}
	kind, text := literal(at.Node)
	date, ok := dateOf(text)
	if !ok || kind != "STRING" {
		return nil
	}
	layout := "2006-01-02"
	if len(text) > len(layout) {
		layout = "2006-01-02 15:04:05"
	}
	var out []Change
	for _, shift := range []struct {
		years, months, days int
		code                fault.Code
	}{{0, 0, 1, fault.Boundary}, {0, 0, -1, fault.Boundary}, {0, 1, 0, fault.TimeWindow}, {0, -1, 0, fault.TimeWindow},
		{1, 0, 0, fault.TimeWindow}, {-1, 0, 0, fault.TimeWindow}} {
		node := ast.Copy(at.Node)
		node.Set(field.Literal, ast.New(ast.Fields{field.Kind: kind,
			field.Text: date.AddDate(shift.years, shift.months, shift.days).Format(layout)}))
		c := replace(s, at, node)
		c.Code = shift.code
		out = append(out, c)
	}
	return out
}

// otherDateColumn takes another date of the same tables, in one place and in all.
func otherDateColumn(s Subject, at sql.Site) []Change {
	name := sql.ColumnName(at.Node)
	if name == "" || at.In(field.UsingColumns) {
		return nil
	}
	var out []Change
	for _, table := range slices.Sorted(maps.Keys(s.Columns)) {
		columns := s.Columns[table]
		if kindOf(columns, name) != Time {
			continue
		}
		for _, c := range columns {
			if c.Kind != Time || strings.EqualFold(c.Name, name) {
				continue
			}
			node := renamed(at.Node, c.Name)
			out = append(out, replace(s, at, node))
			if tree, places := s.Tree.EveryWhere(at.Node, node); places > 1 {
				change := replace(s, at, node)
				change.Tree = tree
				out = append(out, change)
			}
		}
	}
	return out
}

func kindOf(columns []Column, name string) Kind {
	for _, c := range columns {
		if strings.EqualFold(c.Name, name) {
			return c.Kind
		}
	}
	return Other
}

// capitalised is a word with a capital letter and small ones.
func capitalised(word string) string {
	first, size := utf8.DecodeRuneInString(word)
	return string(unicode.ToUpper(first)) + strings.ToLower(word[size:])
}

// renamed is a column reference to another column of the same table.
func renamed(node *ast.Node, name string) *ast.Node {
	out := ast.Copy(node)
	names := out.Names(field.ColumnNames)
	names[len(names)-1] = name
	out.Set(field.ColumnNames, names)
	return out
}
