package profile

import (
	"fmt"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/value"
)

// mostly is the share of values that must show a pattern before it is taken for the column's.
const mostly = 0.9

// share is how much of a text column's rows have values that fit, among those whose values are known, and an example.
func share(c *Column, fits func(string) bool) (part float64, example string) {
	var all, fitting int64
	for _, v := range c.Values {
		all += v.Rows
		if fits(v.Text) {
			fitting += v.Rows
			if example == "" {
				example = v.Text
			}
		}
	}
	if all == 0 {
		return 0, ""
	}
	return float64(fitting) / float64(all), example
}

// nullLike are the words that people write where there is nothing.
var nullLike = map[string]bool{"n/a": true, "na": true, "null": true, "none": true, "nil": true, "-": true, "--": true,
	"?": true, "#n/a": true, "nan": true,
	"unknown": true, "not available": true, "tbd": true, ".": true, "": true, "(blank)": true, "missing": true}

func nullWords(_ *Table, c *Column) *Finding {
	if c.Kind != value.Text {
		return nil
	}
	var found []string
	var rows int64
	for _, v := range c.Values {
		if word := strings.ToLower(strings.TrimSpace(v.Text)); nullLike[word] {
			found = append(found, fmt.Sprintf("%q", v.Text))
			rows += v.Rows
		}
	}
	if len(found) == 0 || rows*2 > c.Filled() && c.Distinct > 1 {
		return nil
	}
	return &Finding{Severity: Warning, Code: "null-words",
		Message: fmt.Sprintf("%s a word that means nothing: %s; it counts and groups as a value",
			verb(rows, "row holds", "rows hold"), strings.Join(found, ", ")),
		Example: strings.Trim(found[0], `"`), Remedy: "read them as null with null-words: [" + strings.Join(found, ", ") +
			"] for the table in tovrel.yaml"}
}

var (
	plainNumber     = pattern.Of(`^\s*-?\d+(\.\d+)?\s*$`)
	thousandsNumber = pattern.Of(`^\s*-?\d{1,3}([,. '\x{2009}\x{a0}]\d{3})+([.,]\d+)?\s*$`)
	decimalComma    = pattern.Of(`^\s*-?\d+,\d+\s*$`)
	currencyNumber  = pattern.Of(`^\s*-?(€|\$|£|¥|EUR|USD|GBP|CHF)\s?-?[\d.,' ]*\d\s*$|^\s*-?[\d.,' ]*\d\s?(€|\$|£|` +
		`¥|EUR|USD|GBP|CHF)\s*$`)
	percentNumber = pattern.Of(`^\s*-?\d+([.,]\d+)?\s?%\s*$`)
	unitNumber    = pattern.Of(`^\s*-?\d+([.,]\d+)?\s?(kg|g|t|km|m|cm|mm|l|L|ml|h|min|s|days?|°C)\s*$`)
)

// numberForms are the ways in which people write numbers that a file then has as text.
var numberForms = []struct {
	pattern *pattern.Pattern
	words   string
}{{percentNumber, "with a percent sign"}, {currencyNumber, "with a currency"}, {unitNumber, "with their unit"},
	{thousandsNumber, "with separators of thousands"}, {decimalComma, "with a decimal comma"}}

func formattedNumbers(_ *Table, c *Column) *Finding {
	if c.Kind != value.Text || c.Distinct == 0 {
		return nil
	}
	formatted := func(s string) bool {
		for _, f := range numberForms {
			if f.pattern.MatchString(s) {
				return true
			}
		}
		return false
	}
	some, _ := share(c, formatted)
	part, _ := share(c, func(s string) bool {
		return formatted(s) || plainNumber.MatchString(s) || nullLike[strings.ToLower(strings.TrimSpace(s))]
	})
	if part < mostly || some == 0 {
		return nil
	}
	words, example := "", ""
	most := 0.0
	for _, f := range numberForms {
		if p, e := share(c, f.pattern.MatchString); p > most {
			most, words, example = p, f.words, e
		}
	}
	return &Finding{Severity: Error, Code: "numbers-as-text", Message: "holds numbers written " + words +
		": sums and comparisons on it fail or go by letters",
		Example: example, Remedy: "write plain numbers (1234.5) in the file, and the unit in the briefing"}
}

var (
	leadingZero = pattern.Of(`^-?0\d+$`)
	longNumber  = pattern.Of(`^\d{16,}$`)
)

// lostInformation says why a column that looks like numbers is kept as text.
func lostInformation(_ *Table, c *Column) *Finding {
	if c.Kind != value.Text || c.Distinct == 0 {
		return nil
	}
	if formattedNumbers(nil, c) != nil {
		return nil // it is numbers, written in another way
	}
	digits, _ := share(c, plainNumber.MatchString)
	zeros, zero := share(c, leadingZero.MatchString)
	long, number := share(c, longNumber.MatchString)
	switch {
	case digits >= 1 && zeros > 0:
		return &Finding{Severity: Hint, Code: "leading-zeros",
			Message: "holds digits with leading zeros and is kept as text: 007 is not 7", Example: zero,
			Remedy: "nothing where these are codes; else set types: {" + c.Name + ": integer}"}
	case digits >= 1 && long > 0:
		return &Finding{Severity: Hint, Code: "long-numbers", Message: "holds numbers too long to be exact and is kept as text",
			Example: number,
			Remedy:  "nothing where these are identifiers"}
	case digits > 0.5 && digits < 1:
		_, other := share(c, func(s string) bool {
			return !plainNumber.MatchString(s) && !nullLike[strings.ToLower(strings.TrimSpace(s))]
		})
		if other == "" {
			return nil
		}
		return &Finding{Severity: Error, Code: "mixed-types",
			Message: fmt.Sprintf("holds numbers and texts (%.0f %% numbers) and is kept as text", digits*100), Example: other,
			Remedy: "correct the other values, or name the words that mean nothing under null-words:"}
	}
	return nil
}

var slashDate = pattern.Of(`^\s*(\d{1,2})([/.-])(\d{1,2})([/.-])(\d{2}|\d{4})\s*$`)

func datesAsText(_ *Table, c *Column) *Finding {
	if c.Kind != value.Text {
		return nil
	}
	part, example := share(c, slashDate.MatchString)
	if part < mostly {
		return nil
	}
	first, second := 0, 0
	for _, v := range c.Values {
		if m := slashDate.FindStringSubmatch(v.Text); m != nil {
			a, b := atoi(m[1]), atoi(m[3])
			first, second = max(first, a), max(second, b)
		}
	}
	switch {
	case first > 12 && second > 12:
		return &Finding{Severity: Error, Code: "ambiguous-dates",
			Message: "holds dates with the day first in some rows and the month first in others", Example: example,
			Remedy: "write dates as 2031-06-30"}
	case first <= 12 && second <= 12:
		return &Finding{Severity: Error, Code: "ambiguous-dates", Message: "holds dates of which nothing tells day from month",
			Example: example, Remedy: "write dates as 2031-06-30"}
	}
	order := "day"
	if second > 12 {
		order = "month"
	}
	return &Finding{Severity: Error, Code: "dates-as-text", Message: "holds dates as text, the " + order +
		" first: they sort by letters and take no date function", Example: example, Remedy: "write dates as 2031-06-30"}
}

func atoi(s string) int {
	n := 0
	for _, r := range s {
		n = n*10 + int(r-'0')
	}
	return n
}

// categories bounds what counts as a column of categories.
const categories = 200

func isCategory(c *Column) bool {
	return c.Kind == value.Text && c.Distinct > 0 && c.Distinct <= categories && c.Distinct*2 <= c.Filled()+2
}

func spelling(_ *Table, c *Column) *Finding {
	if !isCategory(c) {
		return nil
	}
	written := map[string][]string{}
	var order []string
	for _, v := range c.Values {
		key := strings.Join(strings.Fields(strings.ToLower(v.Text)), " ")
		if written[key] == nil {
			order = append(order, key)
		}
		written[key] = append(written[key], fmt.Sprintf("%q", v.Text))
	}
	var example []string
	groups := 0
	for _, key := range order {
		spellings := map[string]bool{}
		for _, s := range written[key] {
			spellings[strings.TrimSpace(strings.Trim(s, `"`))] = true
		}
		if len(spellings) > 1 {
			groups++
			if example == nil {
				example = written[key]
			}
		}
	}
	if groups == 0 {
		return nil
	}
	return &Finding{Severity: Error, Code: "mixed-case", Message: verb(int64(groups), "category is", "categories are") +
		" spelled in more than one way: each spelling is a group of its own",
		Example: strings.Join(example, " / "), Remedy: "spell each category one way in the file"}
}

func outerSpaces(_ *Table, c *Column) *Finding {
	if c.Kind != value.Text {
		return nil
	}
	part, example := share(c, func(s string) bool { return strings.TrimSpace(s) != s && strings.TrimSpace(s) != "" })
	if part == 0 {
		return nil
	}
	return &Finding{Severity: Warning, Code: "outer-spaces",
		Message: "holds values with spaces before or behind: an exact comparison misses them", Example: fmt.Sprintf("%q", example),
		Remedy: "remove the spaces in the file"}
}

var (
	commaParts   = pattern.Of(`^[^,;/()]+, ?[^,;/()]+$`)
	slashParts   = pattern.Of(`^[^,;/()]+ [/|–-] [^,;/()]+$`)
	bracketParts = pattern.Of(`^[^,;/()]+ \([^()]+\)$`)
	codeInside   = pattern.Of(`\d`)
)

// severalFacts finds columns that hold two things in one text: a name with a code or number behind it, or two words that each
// recur with different partners.
func severalFacts(_ *Table, c *Column) *Finding {
	if c.Kind != value.Text || c.Distinct < 3 {
		return nil
	}
	if numbers, _ := share(c, decimalComma.MatchString); numbers >= mostly { // 1,5 is one number
		return nil
	}
	for _, form := range []struct {
		pattern *pattern.Pattern
		marks   string
	}{{commaParts, ","}, {slashParts, "/|–-"}, {bracketParts, "("}} {
		part, example := share(c, form.pattern.MatchString)
		if part >= mostly && separateFacts(c, form.marks) {
			return &Finding{Severity: Warning, Code: "several-facts",
				Message: "holds several facts in one column: none of them can be filtered or grouped alone", Example: example,
				Remedy: "split it into a column for each"}
		}
	}
	return nil
}

// separateFacts tells two facts from one name with a comma: the second part is coded, or both parts recur.
func separateFacts(c *Column, marks string) bool {
	left, right := map[string]bool{}, map[string]bool{}
	coded := 0
	for _, v := range c.Values {
		at := strings.IndexAny(v.Text, marks)
		if at < 0 {
			continue
		}
		a, b := strings.TrimSpace(v.Text[:at]), strings.TrimSpace(v.Text[at+1:])
		left[a], right[b] = true, true
		if codeInside.MatchString(b) != codeInside.MatchString(a) {
			coded++
		}
	}
	n := len(c.Values)
	return float64(coded) >= mostly*float64(n) || len(left) > 1 && len(right) > 1 && len(left)*3 <= n*2 && len(right)*3 <= n*2
}
