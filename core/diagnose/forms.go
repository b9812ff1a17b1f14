package diagnose

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"tovrel/core/pattern"
)

// sameForms leaves out of two lists of conditions what they have in common once both are written in one form: a difference of form is
// no cause. Days tells columns that hold dates without a time.
func sameForms(lacks, has []string, days func(column string) bool) (restLacks, restHas []string) {
	return withoutCommon(lacks, has, func(conditions []string) [][]string {
		var out [][]string
		for _, c := range conditions {
			out = append(out, oneForm(c, days))
		}
		return out
	})
}

// withoutCommon leaves out the entries whose forms both lists have. Forms gives for each entry what it stands for: several conditions for a
// range.
func withoutCommon(lacks, has []string, forms func([]string) [][]string) (restLacks, restHas []string) {
	lf, hf := forms(lacks), forms(has)
	all := func(of [][]string) []string { return slices.Concat(of...) }
	keep := func(entries []string, own [][]string, others []string) []string {
		var out []string
		for i, e := range entries {
			if slices.ContainsFunc(own[i], func(f string) bool { return !slices.Contains(others, f) }) {
				out = append(out, e)
			}
		}
		return out
	}
	return keep(lacks, lf, all(hf)), keep(has, hf, all(lf))
}

var (
	column = `([a-z_][\w.]*)`
	day    = `'(\d{4}-\d{2}-\d{2})(?:[ t]00:00:00)?'`
	upTo   = pattern.Of(`^` + column + ` (<=?) ` + day + `$`)
	fromOn = pattern.Of(`^` + day + ` (<=?) ` + column + `$`)
	ofYear = pattern.Of(`^'?(\d{4})'? = (?:year\(` + column + `\)|extract\('year', ` + column + `\)|strftime\(` +
		column + `, '%Y'\))$`)
	ofMonth    = pattern.Of(`^'(\d{4})-(\d{2})' = strftime\(` + column + `, '%Y-%m'\)$`)
	truncated  = pattern.Of(`^` + day + ` = date_trunc\('(year|quarter|month)', ` + column + `\)$`)
	oneOf      = pattern.Of(`^` + column + ` in \(([^,()]+)\)$`)
	monthParts = pattern.Of(`^(year|month|quarter)\(` + column + `\)$`)
	monthText  = pattern.Of(`^strftime\(` + column + `, '%Y-%m'\)$`)
	truncation = pattern.Of(`^date_trunc\('(month|quarter|year)', ` + column + `\)$`)
	yearText   = pattern.Of(`^strftime\(` + column + `, '%Y'\)$`)
)

// oneForm is a condition as the comparisons that it stands for: from a day on, and before another. A condition of another kind stands for
// itself.
func oneForm(condition string, days func(column string) bool) []string {
	if m := upTo.FindStringSubmatch(condition); m != nil {
		if m[2] == "<=" && days(m[1]) {
			return []string{m[1] + " < '" + moved(m[3], 0, 1) + "'"}
		}
		return []string{m[1] + " " + m[2] + " '" + m[3] + "'"}
	}
	if m := fromOn.FindStringSubmatch(condition); m != nil {
		if m[2] == "<" && days(m[3]) {
			return []string{"'" + moved(m[1], 0, 1) + "' <= " + m[3]}
		}
		return []string{"'" + m[1] + "' " + m[2] + " " + m[3]}
	}
	if m := ofYear.FindStringSubmatch(condition); m != nil {
		return span(m[1]+"-01-01", 12, m[2]+m[3]+m[4])
	}
	if m := ofMonth.FindStringSubmatch(condition); m != nil {
		return span(m[1]+"-"+m[2]+"-01", 1, m[3])
	}
	if m := truncated.FindStringSubmatch(condition); m != nil {
		return span(m[1], map[string]int{"year": 12, "quarter": 3, "month": 1}[m[2]], m[3])
	}
	if m := oneOf.FindStringSubmatch(condition); m != nil {
		sides := []string{m[1], m[2]}
		slices.Sort(sides)
		return []string{sides[0] + " = " + sides[1]}
	}
	return []string{condition}
}

// span are the comparisons of a time that lasts so many months.
func span(from string, months int, column string) []string {
	return []string{"'" + from + "' <= " + column, column + " < '" + moved(from, months, 0) + "'"}
}

// moved is a day some months and days later; a text that is no day stays.
func moved(day string, months, days int) string {
	d, err := time.Parse("2006-01-02", day)
	if err != nil {
		return day
	}
	return d.AddDate(0, months, days).Format("2006-01-02")
}

// sameGroups leaves out of two lists of group keys those that make the same groups: a year and a month beside each other are what a date
// cut off at its month is.
func sameGroups(lacks, has []string) (restLacks, restHas []string) {
	return withoutCommon(lacks, has, func(keys []string) [][]string {
		out := make([][]string, len(keys))
		parts := map[string]int{} // by column: a bit for its year, its month, its quarter
		for _, k := range keys {
			if m := monthParts.FindStringSubmatch(k); m != nil {
				parts[m[2]] |= map[string]int{"year": 1, "month": 2, "quarter": 4}[m[1]]
			}
		}
		for i, k := range keys {
			out[i] = []string{k}
			if m := monthParts.FindStringSubmatch(k); m != nil {
				switch parts[m[2]] {
				case 1, 3, 5:
					out[i] = []string{"to the " + strconv.Itoa(parts[m[2]]) + " of " + m[2]}
				}
			} else if m := monthText.FindStringSubmatch(k); m != nil {
				out[i] = []string{"to the 3 of " + m[1]}
			} else if m := truncation.FindStringSubmatch(k); m != nil {
				out[i] = []string{"to the " + map[string]string{"year": "1", "month": "3", "quarter": "5"}[m[1]] + " of " + m[2]}
			} else if m := yearText.FindStringSubmatch(k); m != nil {
				out[i] = []string{"to the 1 of " + m[1]}
			}
		}
		return out
	})
}

// namesOf are the different tables among features, also those of subqueries: read once or twice is the same table.
func namesOf(features map[string]int) []string {
	var out []string
	for f := range features {
		if kind, name, _ := strings.Cut(strings.TrimPrefix(f, "sub "), " "); kind == "table" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// only lists what the first has and the second has not.
func only(a, b []string) []string {
	return slices.DeleteFunc(slices.Clone(a), func(s string) bool { return slices.Contains(b, s) })
}
