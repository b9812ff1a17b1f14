package diagnose

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/pattern"
	"tovrel/core/sql"
)

// structure names how two queries differ, where no edit gives the answer: a hint, which is possible and never more. The part that
// says most about what was asked comes first: the tables, what is measured, for whom, of which rows. What cannot have to do with the
// cells and rows that differ is not said, and a difference of form is none.
func structure(c Case) []fault.Fault {
	if c.Reference == nil || c.Answer == nil {
		return nil
	}
	right, err := c.Reference.Features()
	if err != nil {
		return nil
	}
	wrong, err := c.Answer.Features()
	if err != nil {
		return nil
	}
	lacks, has := byKind(wrong.Missing(right)), byKind(right.Missing(wrong))
	lacks["table"], has["table"] = only(namesOf(right), namesOf(wrong)), only(namesOf(wrong), namesOf(right))
	lacks["where"], has["where"] = sameForms(unqualified(lacks["where"]), unqualified(has["where"]), c.isDay)
	lacks["group"], has["group"] = sameGroups(lacks["group"], has["group"])
	rows, cells := differing(c)
	var out []fault.Fault
	for _, look := range []struct {
		at       func(lacks, has map[string][]string) (fault.Code, string)
		relevant bool
	}{{tablesDiffer, true}, {itemsDiffer, cells}, {groupsDiffer, rows && groups(right) == groups(wrong)},
		{conditionsDiffer, sameElse(lacks, has)}, {limitsDiffer, rows}} {
		if !look.relevant {
			continue
		}
		if code, words := look.at(lacks, has); code != "" && !(code == fault.JoinFanOut && !multiplied(c)) {
			out = append(out, fault.Fault{Code: code, Certainty: fault.Possible, Evidence: words})
		}
	}
	return out
}

// sameElse tells whether no query measures something in another's place, and none has a condition that has many forms on one side alone:
// only then is a condition that differs the cause more often than not.
func sameElse(lacks, has map[string][]string) bool {
	if len(measured(lacks["item"])) > 0 && len(measured(has["item"])) > 0 {
		return false
	}
	return len(plain(lacks["where"])) == len(lacks["where"]) && len(plain(has["where"])) == len(has["where"])
}

// groups tells whether a query groups at all: where only one of two does, the other may have windows in place of groups.
func groups(f sql.Features) bool {
	for feature := range f {
		if strings.HasPrefix(feature, "group ") {
			return true
		}
	}
	return false
}

// multiplied tells whether an answer may count rows more than once: its numbers come to more than what was expected.
func multiplied(c Case) bool {
	return c.Expected == nil || c.Got == nil || smaller(c.Expected, c.Got)
}

// isDay tells whether every column of a name holds dates without a time.
func (c Case) isDay(name string) bool {
	name = name[strings.LastIndex(name, ".")+1:]
	found := false
	for _, columns := range c.Columns {
		for _, column := range columns {
			if strings.EqualFold(column.Name, name) {
				if !column.Day {
					return false
				}
				found = true
			}
		}
	}
	return found
}

// differing tells whether rows and whether cells differ between what was expected and what came; both where that is not known.
func differing(c Case) (rows, cells bool) {
	if c.Expected == nil || c.Got == nil {
		return true, true
	}
	r := match.Match(c.Expected, c.Got, c.Rules, c.Known)
	for _, pair := range r.Columns {
		cells = cells || pair.Answer < 0
	}
	return len(r.Missing)+len(r.ExtraRows) > 0, cells || len(r.Cells) > 0 || len(r.Missing) > 0 && len(r.ExtraRows) > 0
}

// byKind sorts features by their first word.
func byKind(features []string) map[string][]string {
	out := map[string][]string{}
	for _, f := range features {
		kind, what, _ := strings.Cut(f, " ")
		out[kind] = append(out[kind], what)
	}
	return out
}

func quoted(all []string) string {
	const most = 3
	var out []string
	for _, s := range all[:min(most, len(all))] {
		out = append(out, "`"+withoutBrackets(s)+"`")
	}
	if len(all) > most {
		out = append(out, fmt.Sprintf("and %d more", len(all)-most))
	}
	return strings.Join(out, ", ")
}

// withoutBrackets is a canonical text without the brackets that people leave out: around all of it, and doubled ones.
func withoutBrackets(s string) string {
	var open []int
	closes := map[int]int{} // of an opening bracket
	for i := range len(s) {
		switch {
		case s[i] == '(':
			open = append(open, i)
		case s[i] == ')' && len(open) > 0:
			closes[open[len(open)-1]] = i
			open = open[:len(open)-1]
		}
	}
	drop := map[int]bool{}
	for from, to := range closes {
		doubled := from > 0 && s[from-1] == '(' && closes[from-1] == to+1
		if doubled || from == 0 && to == len(s)-1 {
			drop[from], drop[to] = true, true
		}
	}
	var b strings.Builder
	for i := range len(s) {
		if !drop[i] {
			b.WriteByte(s[i])
		}
	}
	return b.String()
}

// differs says what stands where something else belongs.
func differs(verb string, lacks, has []string) string {
	switch {
	case len(has) == 0:
		return fmt.Sprintf("the reference %s %s, the answer does not", verb, quoted(lacks))
	case len(lacks) == 0:
		return fmt.Sprintf("the answer %s %s, the reference does not", verb, quoted(has))
	}
	return fmt.Sprintf("the answer %s %s where %s belongs", verb, quoted(has), quoted(lacks))
}

func tablesDiffer(lacks, has map[string][]string) (fault.Code, string) {
	switch l, h := lacks["table"], has["table"]; {
	case len(l) > 0:
		return fault.JoinMissing, differs("reads", l, h)
	case len(h) > 0:
		return fault.JoinFanOut, differs("reads", l, h)
	}
	return "", ""
}

func itemsDiffer(lacks, has map[string][]string) (fault.Code, string) {
	l, h := measured(lacks["item"]), measured(has["item"])
	if len(l) == 0 || len(h) == 0 {
		return "", ""
	}
	words := differs("shows", l, h)
	right, wrong := functionOf(l[0]), functionOf(h[0])
	switch {
	case right == "" || wrong == "":
		return "", "" // that two formulas are not written alike says nothing: it was right once in ten times
	case right == "count" && wrong == "count":
		return "", "" // whether the column has nulls is not known here
	case right != wrong:
		return fault.AggregateFunction, words
	}
	return fault.WrongMeasure, words
}

// measured are the items that are an expression, not a bare column.
func measured(items []string) []string {
	var out []string
	for _, i := range items {
		if strings.ContainsAny(i, "(*/+-") {
			out = append(out, i)
		}
	}
	return out
}

// functionOf is the aggregate that an item is, and nothing else; "" for a formula.
func functionOf(item string) string {
	name, rest, _ := strings.Cut(item, "(")
	if !sql.IsAggregate(name) && name != "count" || strings.Count(rest, "(") != strings.Count(rest, ")")-1 ||
		!strings.HasSuffix(rest, ")") {
		return ""
	}
	depth := 1
	for i, r := range rest {
		depth += map[rune]int{'(': 1, ')': -1}[r]
		if depth == 0 && i < len(rest)-1 {
			return ""
		}
	}
	return name
}

func groupsDiffer(lacks, has map[string][]string) (fault.Code, string) {
	switch l, h := lacks["group"], has["group"]; {
	case len(l) > 0:
		return fault.GroupKeyMissing, differs("groups by", l, h)
	case len(h) > 0:
		return fault.GroupKeyExtra, differs("groups by", l, h)
	}
	return "", ""
}

// joinsColumns tells the equality of two columns.
var joinsColumns = pattern.Of(`^[a-z_][\w.]* = [a-z_][\w.]*$`)

func conditionsDiffer(lacks, has map[string][]string) (fault.Code, string) {
	switch l, h := plain(lacks["where"]), plain(has["where"]); {
	case len(l) > 0 && len(h) > 0 && joinsColumns.MatchString(l[0]) && joinsColumns.MatchString(h[0]):
		return fault.JoinKey, differs("joins on", l, h)
	case len(l) > 0 && len(h) > 0:
		return fault.FilterValue, differs("takes rows with", l, h)
	case len(l) > 0:
		return fault.FilterMissing, differs("takes rows with", l, h)
	case len(h) > 0:
		return fault.FilterExtra, differs("takes rows with", l, h)
	}
	return "", ""
}

// manyForms tells conditions on subqueries, windows and aggregates: these have so many forms that a difference says nothing.
var manyForms = pattern.Of(`subquery| over |\b(sum|avg|min|max|count)\(`)

// plain are the other conditions.
func plain(conditions []string) []string {
	return slices.DeleteFunc(slices.Clone(conditions), manyForms.MatchString)
}

// qualifier is the table of a column.
var qualifier = pattern.Of(`\b[a-z_]\w*\.([a-z_])`)

// unqualified are conditions whose columns are without their table, which one query may need and the other not.
func unqualified(conditions []string) []string {
	var out []string
	for _, c := range conditions {
		out = append(out, qualifier.ReplaceAllString(c, "$1"))
	}
	return out
}

func limitsDiffer(lacks, has map[string][]string) (fault.Code, string) {
	l, h := lacks["limit"], has["limit"]
	if len(l) == 0 && len(h) == 0 {
		return "", ""
	}
	return fault.Limit, differs("keeps rows to the limit", l, h)
}
