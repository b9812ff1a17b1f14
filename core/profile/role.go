package profile

import (
	"fmt"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/value"
)

// Role is what a column is used for.
type Role string

// The roles, as a briefing writes them.
const (
	Measure   Role = "measure"
	Dimension Role = "dimension"
	Time      Role = "time"
	Key       Role = "key"
)

// Roles lists the roles.
func Roles() []string { return []string{string(Measure), string(Dimension), string(Time), string(Key)} }

var (
	keyName  = pattern.Of(`(?i:(^|[_ -])(id|no|nr|num|number|code|key|uuid|guid|barcode|sku|iban))$|[a-z0-9](Id|ID)$`)
	yearName = pattern.Of(`(?i)(^|[_ ])(year|yr|fy)($|[_ ])`)
)

// fewValues is how many distinct whole numbers still look like codes rather than amounts.
const fewValues = 12

// RoleOf infers a column's role, and says why.
func RoleOf(d *Dataset, t *Table, c *Column) (Role, string) {
	for _, l := range d.Links {
		switch (Place{t.Name, c.Name}) {
		case l.From:
			return Key, fmt.Sprintf("its values are those of %s", l.To)
		case l.To:
			return Key, fmt.Sprintf("%s refers to it", l.From)
		}
	}
	named := keyName.MatchString(c.Name)
	switch {
	case c.Kind.Temporal():
		return Time, "its type is " + c.Kind.String()
	case c.Unique() && named && c.Rows > 1:
		return Key, "every row has a value of its own, and it is named like a key"
	case c.Kind == value.Bool:
		return Dimension, "it is true or false"
	case c.Kind.Number():
		return roleOfNumbers(c, named)
	case c.Kind == value.Text && c.Unique() && c.Rows > 1 && t.Columns[0] == c && named:
		return Key, "every row has a text of its own, and it is the first column"
	}
	return Dimension, fmt.Sprintf("it is %s with %d values", c.Kind, c.Distinct)
}

// roleOfNumbers infers the role of a column of numbers; named tells one that is named like a key.
func roleOfNumbers(c *Column, named bool) (Role, string) {
	if c.Kind == value.Int {
		switch {
		case years(c):
			return Time, "its values are years"
		case named:
			return Key, "it holds whole numbers and is named like a key"
		case c.Distinct <= fewValues && c.Rows > 4*fewValues && !counts(c.Name):
			return Dimension, fmt.Sprintf("it holds only %d whole numbers", c.Distinct)
		}
	}
	return Measure, "its type is " + c.Kind.String() + " and its values vary"
}

var measureName = pattern.Of(`(?i)(amount|total|price|cost|fee|qty|quantity|count|litres|liters|weight|volume|score|` +
	`pct|percent|rate|days|hours|minutes)`)

// counts tells whether a name speaks of an amount, be it a small one: a word for one, a unit at its end, or things in the plural.
func counts(name string) bool {
	if measureName.MatchString(name) || UnitIn(name) != "" || unitEnding.MatchString(name) {
		return true
	}
	words := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return r == '_' || r == ' ' || r == '-' })
	if len(words) == 0 {
		return false
	}
	last := words[len(words)-1]
	return strings.HasSuffix(last, "s") && len(last) > 3 && !strings.HasSuffix(last, "ss") && !strings.HasSuffix(last, "us") &&
		!strings.HasSuffix(last, "is")
}

// unitEnding are units that are too short to be told from words but at the end of a name.
var unitEnding = pattern.Of(`(?i)[_ ](min|mins|sec|secs|ms|s|h|hr|hrs|d|km|m|cm|mm|kg|g|t|l|ml|kwh|mwh|eur|usd|gbp|` +
	`chf|n|no of|cnt|num)$`)

// years tells whether whole numbers are years, by name and range.
func years(c *Column) bool {
	low, okLow := c.Min.Small()
	high, okHigh := c.Max.Small()
	return okLow && okHigh && yearName.MatchString(c.Name) && low >= 1800 && high <= 2200
}

// Candidates are the pairs of columns that may join: a column that names another table's unique one, of the same kind. They
// are to be counted.
func Candidates(d *Dataset) []Link {
	var out []Link
	shared := sharedKeys(d)
	for _, to := range d.Tables {
		for _, key := range to.Columns {
			if !nearlyUnique(key) || key.Rows < 2 || key.Kind != value.Int && key.Kind != value.Text {
				continue
			}
			for _, from := range d.Tables {
				for _, c := range from.Columns {
					if strings.EqualFold(c.Name, key.Name) && shared[strings.ToLower(key.Name)] > mostSharing {
						continue
					}
					if from != to && class(c.Kind) == class(key.Kind) &&
						(refers(c.Name, to.Name, key.Name) || mayHold(key, c)) && !(c.Unique() && later(from, to)) {
						out = append(out, Link{From: Place{from.Name, c.Name}, To: Place{to.Name, key.Name}})
					}
				}
			}
		}
	}
	return out
}

// mostSharing is in how many tables a key of one name may stand before the name says nothing: each numbers its own rows by it.
const mostSharing = 20

// sharedKeys counts the tables that have a key of a name, in lower case.
func sharedKeys(d *Dataset) map[string]int {
	out := map[string]int{}
	for _, t := range d.Tables {
		for _, c := range t.Columns {
			if nearlyUnique(c) && c.Rows > 1 {
				out[strings.ToLower(c.Name)]++
			}
		}
	}
	return out
}

// mayHold tells whether a column of another name can have nothing but values of a key: texts that vary, and lie between its least and
// largest. Whether they are all there is to be counted; whole numbers would meet by chance.
func mayHold(key, c *Column) bool {
	const fewest = 3
	if key.Kind != value.Text || c.Kind != value.Text || !key.Unique() || c.Distinct < fewest || c.Distinct > key.Distinct || c.Unique() {
		return false
	}
	return value.Compare(c.Min, key.Min) >= 0 && value.Compare(c.Max, key.Max) <= 0
}

// Named tells whether the names of a link mean the same; else only values speak for it, and all of them must.
func (l Link) Named() bool { return refers(l.From.Column, l.To.Table, l.To.Column) }

// nearlyUnique tells a key, also one with a few rows that were entered twice.
func nearlyUnique(c *Column) bool { return c.Nulls == 0 && c.Distinct*100 >= c.Rows*95 }

// later keeps one of the two directions in which tables with the same unique column could refer to each other: to the larger.
func later(from, to *Table) bool {
	return from.Rows > to.Rows || from.Rows == to.Rows && from.Name > to.Name
}

func class(k value.Kind) int {
	if k.Number() {
		return 1
	}
	return 2
}

// refers tells whether a column's name means a table's key: the same name, or the table's name with the key's.
func refers(name, table, key string) bool {
	n, k := plain(name), plain(key)
	if n == k {
		return n != "id" && (keyName.MatchString(key) && len(n) > 2 || len(n) > 4)
	}
	one := singular(plain(table))
	if n == one && keyName.MatchString(key) { // loads.article is articles.code
		return true
	}
	return n == one+k || n == plain(table)+k || (k == "id" || k == one+"id") && (n == one || n == one+"id") ||
		strings.HasSuffix(n, k) && len(k) > 4 && keyName.MatchString(key)
}

// plain is a name without case and underscores.
func plain(name string) string {
	return strings.NewReplacer("_", "", " ", "", "-", "").Replace(strings.ToLower(name))
}

func singular(name string) string {
	switch {
	case strings.HasSuffix(name, "ies"):
		return strings.TrimSuffix(name, "ies") + "y"
	case strings.HasSuffix(name, "s") && !strings.HasSuffix(name, "ss"):
		return strings.TrimSuffix(name, "s")
	}
	return name
}
