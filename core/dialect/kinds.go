package dialect

import (
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/value"
)

// kind is what of an expression's type decides how operators on it are written.
type kind uint8

const (
	unknown  kind = iota
	whole         // a whole number of less than 64 bits
	wide          // a whole number of 64 bits
	broken        // a number with decimals, exact
	floating      // a number with decimals that is not
	text
	day
	moment
	span // an interval
	other
)

func (k kind) isWhole() bool { return k == whole || k == wide }
func (k kind) isTime() bool  { return k == day || k == moment }

func kindOf(c Column) kind { return kindOfValue(c.Kind, c.Wide) }

// kindOfValue is the kind of values of a kind; wide are whole numbers of 64 bits.
func kindOfValue(of value.Kind, isWide bool) kind {
	switch of {
	case value.Int:
		if isWide {
			return wide
		}
		return whole
	case value.Decimal:
		return broken
	case value.Float:
		return floating
	case value.Text:
		return text
	case value.Date:
		return day
	case value.Timestamp, value.TimestampTZ:
		return moment
	case value.Interval:
		return span
	case value.Null:
		return unknown
	}
	return other
}

// resultKinds are the kinds of what functions give, where that does not depend on their arguments.
var resultKinds = map[string]kind{"count": wide, "count_star": wide, "length": wide, "avg": broken, "lower": text, "upper": text,
	"concat": text, "substr": text, "substring": text, "trim": text, "replace": text, "strftime": text,
	"date_format": text, "current_date": day, "today": day,
	"now": moment, "current_timestamp": moment, "year": wide, "month": wide, "day": wide, "quarter": wide, "date_part": wide,
	"row_number": wide, "rank": wide, "dense_rank": wide, "median": floating, "sqrt": floating, "last_day": day, "make_date": day,
	"date":    day,
	"to_char": text, "getdate": moment, "curdate": day, "datediff": wide, "date_diff": wide, "date_trunc": moment, "str_to_date": day,
	"format": text, "left": text, "right": text, "ltrim": text, "rtrim": text, "stddev": floating, "count_if": wide, "countif": wide,
	"hour": wide, "minute": wide, "second": wide, "week": wide, "dayofweek": wide, "dayofyear": wide, "dayofmonth": wide, "weekday": wide,
	"weekofyear": wide, "isodow": wide, "isoyear": wide, "yearweek": wide, "extract": wide, "char_length": wide, "character_length": wide,
	"len": wide, "instr": wide, "locate": wide, "strpos": wide, "timestampdiff": wide, "unix_timestamp": wide, "datepart": wide,
	"dayname": text, "monthname": text, "concat_ws": text, "lcase": text, "ucase": text, "lpad": text, "rpad": text, "reverse": text,
	"string_agg": text, "group_concat": text, "ntile": wide, "sysdate": moment, "to_date": day}

// likeFirst are functions that give what their first argument is.
var likeFirst = map[string]bool{"min": true, "max": true, "coalesce": true, "ifnull": true, "isnull": true, "nvl": true, "nullif": true,
	"abs": true, "lag": true, "lead": true, "first_value": true, "last_value": true, "greatest": true, "least": true, "any_value": true,
	"date_add": true, "date_sub": true, "round": true, "floor": true, "ceil": true, "mod": true}

// kindOf is an expression's kind; unknown where it cannot be told.
func (c Columns) kindOf(e *ast.Node) kind {
	switch e.Class() {
	case ast.ColumnRef:
		path := e.Names(field.ColumnNames)
		if len(path) == 0 {
			return unknown
		}
		return c.kinds[strings.ToLower(path[len(path)-1])]
	case ast.Constant:
		switch e.Node(field.Literal).Text(field.Kind) {
		case "INTEGER":
			return whole
		case "NUMERIC":
			return broken
		case "STRING":
			return text
		}
	case ast.Cast:
		return kindOfType(e.Node(field.TypeExpr).Text(field.TypeName))
	case ast.Case:
		checks := e.Nodes(field.CaseChecks)
		if len(checks) > 0 {
			return c.common(checks[0].Node(field.ThenExpr), e.Node(field.ElseExpr))
		}
	case ast.Operator:
		if e.Kind() == ast.OperatorCoalesce && len(e.Nodes(field.Children)) > 0 {
			return c.kindOf(e.Nodes(field.Children)[0])
		}
	case ast.Function, ast.Window:
		return c.kindOfCall(e)
	}
	return unknown
}

// common is the kind of two branches, of which the second may be nothing.
func (c Columns) common(a, b *ast.Node) kind {
	first := c.kindOf(a)
	if b == nil || b.Node(field.Literal).Text(field.Kind) == "NULL_LITERAL" || c.kindOf(b) == first {
		return first
	}
	if second := c.kindOf(b); first.isWhole() && second.isWhole() {
		return max(first, second)
	} else if first == floating || second == floating {
		return floating
	} else if (first == broken || second == broken) && first != unknown && second != unknown {
		return broken
	}
	return unknown
}

func (c Columns) kindOfCall(e *ast.Node) kind {
	called, arguments := e.FunctionName(), e.Nodes(field.Arguments)
	at := func(i int) kind { return c.kindOf(arguments[i].Node(field.Expression)) }
	if e.Is(field.IsOperator) && len(arguments) == 2 {
		return operated(called, at(0), at(1))
	}
	switch {
	case strings.HasPrefix(called, "to_") && len(arguments) == 1 && intervalUnits[called] != "":
		return span
	case called == "-" && len(arguments) == 1, likeFirst[called] && len(arguments) > 0:
		return at(0)
	case called == "avg" && len(arguments) == 1 && at(0) == floating:
		return floating
	case called == "sum" && len(arguments) == 1:
		return map[kind]kind{whole: wide, wide: broken, broken: broken, floating: floating}[at(0)]
	}
	return resultKinds[called]
}

// operated is the kind of what an operator gives.
func operated(operator string, a, b kind) kind {
	switch operator {
	case "||", "->>":
		return text
	case "+", "-", "*", "%", "/", "//":
	default:
		return unknown
	}
	if a.isTime() {
		return moved(operator, a, b)
	}
	switch {
	case a.isWhole() && b.isWhole():
		return max(a, b)
	case a == unknown || b == unknown:
		return unknown
	case a == text && b == text && operator == "+":
		return text
	case a == floating || b == floating:
		return floating
	}
	return broken
}

// moved is the kind of a day or a moment plus or minus something.
func moved(operator string, a, b kind) kind {
	switch {
	case b == span:
		return moment
	case operator == "-" && a == day && b == day:
		return whole
	case operator == "-" && b.isTime():
		return span
	case b.isWhole():
		return a
	}
	return unknown
}

func kindOfType(name string) kind {
	name = strings.ToUpper(name)
	of, _ := value.KindOfSQL(name)
	if k := kindOfValue(of, strings.Contains(name, "BIG") || name == "INT8"); k != other {
		return k
	}
	return unknown
}
