package profile

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Severity tells how much a finding hurts.
type Severity string

// The severities, the worst first.
const (
	Error   Severity = "error"   // answers will be wrong
	Warning Severity = "warning" // questions will be misunderstood or need care
	Hint    Severity = "hint"    // worth a look
)

// Finding is something in the data that will hurt, where it is, and what to do.
type Finding struct {
	Severity Severity `json:"severity"`
	Code     string   `json:"code"`
	Table    string   `json:"table"`
	Column   string   `json:"column,omitempty"`
	File     string   `json:"file,omitempty"`
	Line     int      `json:"line,omitempty"`
	Message  string   `json:"message"`
	Example  string   `json:"example,omitempty"`
	Remedy   string   `json:"remedy"`
}

// check looks at one table for one kind of defect.
type check func(d *Dataset, t *Table) []Finding

// checks are all of them; each is a small function of its own.
var checks = []check{totalsRow, blankRows, nameChecks, columnChecks, keyNotUnique}

// columnCheck looks at one column; what it reports needs no place.
type columnCheck func(t *Table, c *Column) *Finding

// columnCheckers are in the order of what they explain: the first that speaks about a column's texts ends the others that would
// say the same in other words.
var columnCheckers = []columnCheck{nullWords, formattedNumbers, lostInformation, datesAsText, spelling, outerSpaces,
	severalFacts, nearConstant, unitInName}

// Inspect gives all findings, the worst first, then by table, column and code.
func Inspect(d *Dataset) []Finding {
	var all []Finding
	for _, t := range d.Tables {
		for _, look := range checks {
			all = append(all, look(d, t)...)
		}
	}
	all = append(all, orphans(d)...)
	Sort(all)
	return all
}

var rank = map[Severity]int{Error: 0, Warning: 1, Hint: 2}

// Sort orders findings: the worst first, then by table, line, column and code.
func Sort(all []Finding) {
	slices.SortStableFunc(all, func(a, b Finding) int {
		return cmp.Or(cmp.Compare(rank[a.Severity], rank[b.Severity]), strings.Compare(a.Table, b.Table), cmp.Compare(a.Line, b.Line),
			strings.Compare(a.Column, b.Column), strings.Compare(a.Code, b.Code))
	})
}

func columnChecks(_ *Dataset, t *Table) []Finding {
	var out []Finding
	for _, c := range t.Columns {
		for _, look := range columnCheckers {
			if f := look(t, c); f != nil {
				f.Table, f.Column = t.Name, c.Name
				out = append(out, *f)
			}
		}
	}
	return out
}

func blankRows(_ *Dataset, t *Table) []Finding {
	if t.Blank == 0 {
		return nil
	}
	return []Finding{{Severity: Warning, Code: "blank-rows", Table: t.Name, Message: verb(t.Blank, "row holds", "rows hold") +
		" nothing but nulls", Remedy: "remove them from the file"}}
}

func orphans(d *Dataset) []Finding {
	var out []Finding
	for _, l := range d.Links {
		if l.Orphans == 0 || l.Orphans*2 > l.Rows {
			continue
		}
		f := Finding{Severity: Warning, Code: "orphans", Table: l.From.Table, Column: l.From.Column,
			Message: fmt.Sprintf("%d of %d rows without a counterpart in %s: an inner join drops them", l.Orphans, l.Rows, l.To),
			Remedy:  "add the missing rows, or say in the briefing's notes what they mean"}
		if len(l.Examples) > 0 {
			f.Example = l.Examples[0]
		}
		out = append(out, f)
	}
	return out
}

func keyNotUnique(d *Dataset, t *Table) []Finding {
	var out []Finding
	for i, c := range t.Columns {
		own := plain(c.Name) == "id" || plain(c.Name) == singular(plain(t.Name))+"id" || i == 0 &&
			keyName.MatchString(c.Name) && !refersElsewhere(d, t, c)
		repeated := c.Filled() - c.Distinct
		if !own || repeated <= 0 || repeated*4 > c.Filled() {
			continue
		}
		f := Finding{Severity: Error, Code: "key-not-unique", Table: t.Name, Column: c.Name,
			Message: "looks like the table's key, but " + verb(repeated, "row repeats", "rows repeat") +
				" a value: joins on it multiply rows",
			Remedy: "remove the repeated rows, or say in the briefing what tells them apart"}
		if len(c.Values) > 0 && c.Values[0].Rows > 1 {
			f.Example = fmt.Sprintf("%s occurs %d times", c.Values[0].Text, c.Values[0].Rows)
		}
		out = append(out, f)
	}
	return out
}

// verb is "1 row holds" or "3 rows hold".
func verb(n int64, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func refersElsewhere(d *Dataset, t *Table, c *Column) bool {
	for _, l := range d.Links {
		if l.From == (Place{t.Name, c.Name}) {
			return true
		}
	}
	return false
}
