package edit

import (
	"slices"
	"strconv"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// difference is the fault of one expression in place of another, by the innermost place at which they differ; sure where that place says
// it, and not only that the two are not the same.
func difference(s Subject, was, is *ast.Node) (code fault.Code, sure bool) {
	a, b := peeled(was), peeled(is)
	if alike(a, b) {
		return wrapping(was, is), true
	}
	if code := scaling(a, b); code != "" {
		return code, true
	}
	if ratioOfSums(a) && meanOfRatio(b) || ratioOfSums(b) && meanOfRatio(a) {
		return fault.RatioOfAverages, true
	}
	if x, y := sql.ColumnName(a), sql.ColumnName(b); x != "" && y != "" {
		return columnCode(s, x, y), true
	}
	if aggregates(a) && aggregates(b) {
		return aggregateDifference(s, a, b)
	}
	x, y := parts(a), parts(b)
	if a.Class() != b.Class() || a.Kind() != b.Kind() || a.FunctionName() != b.FunctionName() || len(x) != len(y) {
		return shapeDifference(s, a, b)
	}
	return partsDifference(s, x, y)
}

// partsDifference is what all parts that differ have in common.
func partsDifference(s Subject, x, y []*ast.Node) (fault.Code, bool) {
	if reordered(x, y) {
		return fault.Formula, true
	}
	found, sure := fault.Code(""), true
	for i := range x {
		if alike(x[i], y[i]) {
			continue
		}
		if x[i].Class() == ast.Constant || y[i].Class() == ast.Constant {
			return fault.Formula, true
		}
		code, certain := difference(s, x[i], y[i])
		if found != "" && code != found {
			return fault.Formula, false
		}
		found, sure = code, sure && certain
	}
	if found == "" {
		return fault.Formula, false
	}
	return found, sure
}

// reordered tells the same parts in another order.
func reordered(x, y []*ast.Node) bool {
	left := slices.Clone(y)
	for _, part := range x {
		at := slices.IndexFunc(left, func(n *ast.Node) bool { return alike(part, n) })
		if at < 0 {
			return false
		}
		left = slices.Delete(left, at, at+1)
	}
	return !allAlike(x, y)
}

// shapeDifference is the fault of expressions that are built otherwise: of times alone, another time; of the same columns, another formula.
func shapeDifference(s Subject, a, b *ast.Node) (fault.Code, bool) {
	x, y := sql.ColumnsIn(a), sql.ColumnsIn(b)
	if isMoment(s, x) && isMoment(s, y) {
		if between(s, x) && between(s, y) { // how far moments are apart
			return fault.Formula, true
		}
		return fault.TimeWindow, true
	}
	shared := slices.ContainsFunc(x, func(name string) bool { return slices.Contains(y, name) })
	if !shared && len(x) > 0 && len(y) > 0 {
		return fault.WrongMeasure, true
	}
	among := func(some, all []string) bool {
		return !slices.ContainsFunc(some, func(name string) bool { return !slices.Contains(all, name) })
	}
	return fault.Formula, len(x) > 0 && len(y) > 0 && (among(x, y) || among(y, x)) && !conditional(a) && !conditional(b)
}

// between tells whether columns have several times among them.
func between(s Subject, columns []string) bool {
	times := map[string]bool{}
	for _, name := range columns {
		if isMoment(s, []string{name}) {
			times[strings.ToLower(name)] = true
		}
	}
	return len(times) > 1
}

// conditional tells an expression with conditions of its own: these may be what differs.
func conditional(node *ast.Node) bool {
	found := false
	_ = ast.Walk(node, func(n *ast.Node) error { // never fails
		found = found || n.Class() == ast.Case || n.Node(field.Filter) != nil
		return nil
	})
	return found
}

// isMoment tells whether columns have a time among them, and no aggregate is made of them.
func isMoment(s Subject, columns []string) bool {
	for _, name := range columns {
		for _, table := range s.Columns {
			if kindOf(table, name) == Time {
				return true
			}
		}
	}
	return false
}

func alike(a, b *ast.Node) bool {
	return sql.Canonical(unqualified(bareOf(a))) == sql.Canonical(unqualified(bareOf(b)))
}

// bareOf is a copy without a name.
func bareOf(node *ast.Node) *ast.Node {
	out := ast.Copy(node)
	out.Set(field.Alias, "")
	return out
}

// peeled is an expression without what only says how it is shown: rounding, a value for nothing, a type.
func peeled(node *ast.Node) *ast.Node {
	for inner := unwrapped(node); inner != nil; inner = unwrapped(node) {
		node = inner
	}
	return node
}

// wrapping is the fault of expressions that differ only in how they are shown.
func wrapping(was, is *ast.Node) fault.Code {
	count := func(node *ast.Node, of func(*ast.Node) bool) int {
		n := 0
		for ; node != nil; node = unwrapped(node) {
			if of(node) {
				n++
			}
		}
		return n
	}
	coalesced := func(n *ast.Node) bool { return n.Kind() == ast.OperatorCoalesce }
	if count(was, coalesced) != count(is, coalesced) {
		return fault.NullHandling
	}
	return fault.Rounding
}

func unwrapped(node *ast.Node) *ast.Node {
	switch {
	case node.FunctionName() == "round":
		return argument(node)
	case node.Kind() == ast.OperatorCoalesce && len(node.Nodes(field.Children)) > 0:
		return node.Nodes(field.Children)[0]
	case node.Class() == ast.Cast:
		return node.Node(field.Child)
	}
	return nil
}

// product is what an expression multiplies and divides by.
type product struct {
	above, below []string
	constant     float64
	whole        bool // a division is one of whole numbers
}

func productOf(node *ast.Node) product {
	p := product{constant: 1}
	p.take(node, true)
	slices.Sort(p.above)
	slices.Sort(p.below)
	return p
}

func (p *product) take(node *ast.Node, above bool) {
	node = peeled(node)
	name := node.FunctionName()
	if sides := operands(node); sides != nil && (name == "*" || name == "/" || name == "//") {
		p.whole = p.whole || name == "//"
		p.take(sides[0], above)
		p.take(sides[1], above == (name == "*"))
		return
	}
	_, text := literal(node)
	if f, err := strconv.ParseFloat(text, 64); err == nil && node.Class() == ast.Constant && f != 0 {
		if !above {
			f = 1 / f
		}
		p.constant *= f
		return
	}
	if node.Node(field.Filter) != nil { // of which rows is another question
		node = ast.Copy(node)
		node.Drop(field.Filter)
	}
	written := sql.Canonical(unqualified(bareOf(node)))
	if above {
		p.above = append(p.above, written)
	} else {
		p.below = append(p.below, written)
	}
}

// scaling is the fault of expressions that are the same product but for a constant, or for how they divide; "" for any others.
func scaling(a, b *ast.Node) fault.Code {
	x, y := productOf(a), productOf(b)
	switch {
	case !slices.Equal(x.above, y.above) || !slices.Equal(x.below, y.below):
		return ""
	case x.whole != y.whole:
		return fault.Rounding
	case x.constant != y.constant:
		return fault.OffByFactor
	}
	return ""
}

// parts are the expressions right below one.
func parts(node *ast.Node) []*ast.Node {
	var out []*ast.Node
	for _, a := range node.Nodes(field.Arguments) {
		if e := a.Node(field.Expression); e != nil {
			out = append(out, e)
		}
	}
	out = append(out, node.Nodes(field.Children)...)
	for _, f := range []field.Field{field.Child, field.Left, field.Right} {
		if n := node.Node(f); n != nil {
			out = append(out, n)
		}
	}
	return out
}

// aggregates tells a call of an aggregate, also over a window.
func aggregates(node *ast.Node) bool {
	return sql.IsAggregate(node.FunctionName()) || strings.HasPrefix(node.FunctionName(), "count")
}

// aggregateDifference is the fault of one aggregate for another.
func aggregateDifference(s Subject, was, is *ast.Node) (fault.Code, bool) {
	a, b := was.FunctionName(), is.FunctionName()
	counts := strings.HasPrefix(a, "count") && strings.HasPrefix(b, "count")
	filtered, filteredNow := was.Node(field.Filter) != nil, is.Node(field.Filter) != nil
	parted, partedNow := len(was.Nodes(field.Partitions)), len(is.Nodes(field.Partitions))
	switch {
	case was.Is(field.Distinct) != is.Is(field.Distinct):
		return fault.Distinct, true
	case counts && a != b:
		return fault.NullHandling, true
	case a != b:
		return fault.AggregateFunction, true
	case filtered && !filteredNow:
		return fault.FilterMissing, true
	case !filtered && filteredNow:
		return fault.FilterExtra, true
	case parted > partedNow:
		return fault.GroupKeyMissing, true
	case parted < partedNow:
		return fault.GroupKeyExtra, true
	}
	x, y := parts(was), parts(is)
	if len(x) != len(y) {
		return fault.Formula, false
	}
	switch same := allAlike(x, y); {
	case same && filtered:
		return fault.FilterValue, true
	case same:
		return fault.WrongOrder, len(was.Nodes(field.Orders)) > 0
	}
	if code, sure := partsDifference(s, x, y); code != fault.Label {
		return code, sure
	}
	return fault.WrongMeasure, true
}

func allAlike(x, y []*ast.Node) bool {
	for i := range x {
		if !alike(x[i], y[i]) {
			return false
		}
	}
	return true
}

// columnCode is the fault of one column for another: a text, and a time, is no measure.
func columnCode(s Subject, was, is string) fault.Code {
	kinds := map[Kind]bool{}
	for _, columns := range s.Columns {
		for _, name := range []string{was, is} {
			kinds[kindOf(columns, name)] = true
		}
	}
	switch {
	case kinds[Time]:
		return fault.TimeWindow
	case kinds[Text] || isKeyName(was) || isKeyName(is):
		return fault.Label
	}
	return fault.WrongMeasure
}

func ratioOfSums(node *ast.Node) bool {
	sides := operands(node)
	return sides != nil && node.FunctionName() == "/" && sides[0].FunctionName() == "sum" && sides[1].FunctionName() == "sum"
}

func meanOfRatio(node *ast.Node) bool {
	return node.FunctionName() == "avg" && argument(node).FunctionName() == "/"
}
