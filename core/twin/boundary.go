package twin

import (
	"cmp"
	"maps"
	"math/big"
	"slices"
	"strings"

	"tovrel/core/sql"
	"tovrel/core/value"
)

// Boundary is what reference queries compare a column with.
type Boundary struct {
	Column string   // in lower case; queries do not always name its table
	Values []string // literals, as texts
	Others []string // columns that it is compared with, in lower case
}

// Boundaries gathers them from queries, in order. The value of an expression without columns is asked for; "" where it has none.
func Boundaries(trees []*sql.Tree, valueOf func(formula string) string) []Boundary {
	values, others := map[string]map[string]bool{}, map[string]map[string]bool{}
	add := func(into map[string]map[string]bool, column, what string) {
		column = strings.ToLower(column)
		if into[column] == nil {
			into[column] = map[string]bool{}
		}
		into[column][what] = true
	}
	for _, t := range trees {
		for _, c := range t.Compared() {
			if c.Formula != "" {
				c.Literal = valueOf(c.Formula)
			}
			switch {
			case c.Other != "":
				add(others, c.Column, strings.ToLower(c.Other))
			case c.Year:
				if year, ok := new(big.Int).SetString(c.Literal, 10); ok && year.IsInt64() && len(c.Literal) == 4 {
					add(values, c.Column, c.Literal+"-01-01")
					add(values, c.Column, new(big.Int).Add(year, big.NewInt(1)).String()+"-01-01")
				}
			case c.Literal != "":
				add(values, c.Column, c.Literal)
			}
		}
	}
	columns := map[string]bool{}
	for c := range values {
		columns[c] = true
	}
	for c := range others {
		columns[c] = true
	}
	var out []Boundary
	for c := range columns {
		out = append(out, Boundary{Column: c, Values: sorted(values[c]), Others: sorted(others[c])})
	}
	slices.SortFunc(out, func(a, b Boundary) int { return cmp.Compare(a.Column, b.Column) })
	return out
}

func sorted(set map[string]bool) []string {
	out := slices.Sorted(maps.Keys(set))
	return out
}

// beside are a boundary's values on a column, exactly and one unit to each side, as texts in the column's own type; none where they are
// outside of what the column holds.
func (c *Column) beside(literal string) []string {
	switch {
	case c.Kind.Number() && c.Amount:
		return c.inside(numbersBeside(literal, c.Decimals), value.Type{Kind: value.Decimal, Scale: c.Decimals})
	case c.Kind.Temporal() && c.Kind != value.Time:
		return c.inside(c.momentsBeside(literal), value.Type{Kind: c.Kind})
	case c.seen[literal]:
		return []string{literal}
	}
	return nil
}

// mostCuts bounds the parts that a column is cut into.
const mostCuts = 12

// cuts are the literals that lie within a column's range, in order.
func (c *Column) cuts(literals []string) []string {
	kind := value.Type{Kind: c.Kind}
	compare := value.Compare
	if c.Kind.Number() {
		kind, compare = value.Type{Kind: value.Decimal, Scale: max(c.Decimals, 6)}, value.CompareNumbers
	}
	var kept []string
	parsed := map[string]value.Value{}
	for _, text := range literals {
		v, err := value.Parse(text, kind)
		if moment, ok := momentOf(text); ok && c.Kind.Temporal() && c.Kind != value.Date {
			v, err = moment, nil
		}
		if err == nil && compare(v, c.Min) > 0 && compare(v, c.Max) <= 0 {
			kept, parsed[text] = append(kept, text), v
		}
	}
	slices.SortStableFunc(kept, func(a, b string) int { return compare(parsed[a], parsed[b]) })
	return kept[:min(len(kept), mostCuts)]
}

// Beside are the values of literals, exactly and one unit to each side, as texts of a column of an engine's type.
func Beside(engineType string, literals []string) []string {
	kind := strings.ToUpper(engineType)
	var out []string
	for _, l := range literals {
		switch {
		case strings.HasPrefix(kind, "DATE"):
			out = append(out, (&Column{Kind: value.Date}).momentsBeside(l)...)
		case strings.HasPrefix(kind, "TIMESTAMP"):
			out = append(out, (&Column{Kind: value.Timestamp}).momentsBeside(l)...)
		case strings.HasPrefix(kind, "VARCHAR"), kind == "TEXT", kind == "BOOLEAN":
			out = append(out, l)
			if days := (&Column{Kind: value.Date}).momentsBeside(l); len(l) == len("2031-01-01") && len(days) > 0 {
				out = append(out, days[1:]...) // texts that are days
			}
		default:
			decimals := 0
			if _, fraction, has := strings.Cut(l, "."); has {
				decimals = len(fraction)
			}
			out = append(out, numbersBeside(l, decimals)...)
		}
	}
	return out
}

// Along is a moment of a row that moves as far as another one of it did, as texts; false where one of them is none.
func Along(moment, from, to string) (string, bool) {
	at, isMoment := momentOf(moment)
	was, wasMoment := momentOf(from)
	is, willBe := momentOf(to)
	if !isMoment || !wasMoment || !willBe {
		return "", false
	}
	moved := value.OfTimestamp(at.Micros() + is.Micros() - was.Micros()).String()
	return moved[:min(len(moved), max(len(moment), len("2031-06-30")))], true
}

// inside keeps the values that lie within the column's range.
func (c *Column) inside(texts []string, kind value.Type) []string {
	var out []string
	for _, text := range texts {
		v, err := value.Parse(text, kind)
		if err != nil {
			continue
		}
		compare := value.Compare
		if c.Kind.Number() {
			compare = value.CompareNumbers
		}
		if compare(v, c.Min) >= 0 && compare(v, c.Max) <= 0 {
			out = append(out, text)
		}
	}
	return out
}

func numbersBeside(literal string, decimals int) []string {
	n, ok := value.Rational(literal)
	if !ok {
		return nil
	}
	unit := new(big.Rat).SetFrac(big.NewInt(1), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(decimals)), nil))
	on := n.FloatString(decimals)
	exact, ok := value.Rational(on)
	if !ok {
		return nil
	}
	if exact.Cmp(n) != 0 { // the column cannot hold it: what is next to it below and above
		return []string{on, new(big.Rat).Add(n, unit).FloatString(decimals)}
	}
	return []string{on, new(big.Rat).Sub(n, unit).FloatString(decimals), new(big.Rat).Add(n, unit).FloatString(decimals)}
}

// momentOf reads a date or a timestamp.
func momentOf(text string) (value.Value, bool) {
	for _, kind := range []value.Kind{value.Timestamp, value.Date} {
		if v, err := value.Parse(text, value.Type{Kind: kind}); err == nil {
			return value.OfTimestamp(v.Micros()), true
		}
	}
	return value.Value{}, false
}

func (c *Column) momentsBeside(literal string) []string {
	v, ok := momentOf(literal)
	if !ok {
		return nil
	}
	const day, second = int64(86400e6), int64(1e6)
	at := v.Micros()
	if c.Kind == value.Date {
		days := at / day
		return []string{value.OfDate(days).String(), value.OfDate(days - 1).String(), value.OfDate(days + 1).String()}
	}
	unit := second
	if c.Midnight {
		unit = day
	}
	out := []string{value.OfTimestamp(at).String(), value.OfTimestamp(at - unit).String(), value.OfTimestamp(at + unit).String()}
	if !c.Midnight && at%day == 0 {
		out = append(out, value.OfTimestamp(at+day/2).String()) // within the day that a bound names
	}
	return out
}
