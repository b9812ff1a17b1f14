package match

import (
	"strconv"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/value"
)

// periodPairs are the ways to read a pair of columns as periods: texts, dates and the numbers and names of months, quarters and
// weekdays are other ways to write the same groups, where the columns themselves make them so.
func periodPairs(e, a *table.Column) [][2]*table.Column {
	var out [][2]*table.Column
	fe, fa := instants(e), instants(a)
	if fe != nil && fa != nil && (fe != e || fa != a) { // as they stand they are compared already
		out = append(out, [2]*table.Column{fe, fa})
	}
	pe, le := periods(e)
	pa, la := periods(a)
	switch {
	case le != "" && le == la:
		out = append(out, [2]*table.Column{pe, pa})
	case le != "" && fa != nil:
		out = append(out, [2]*table.Column{pe, fa})
	case fe != nil && la != "":
		out = append(out, [2]*table.Column{fe, pa})
	}
	if e.Type.Kind == value.Int && a.Type.Kind == value.Int {
		return out // numbers are what they are
	}
	for _, c := range cycles {
		re, ra := c.read(e, pe, fe), c.read(a, pa, fa)
		if re.goesWith(ra) {
			out = append(out, [2]*table.Column{re.column, ra.column})
		}
	}
	return out
}

// instants is a column of dates and times as it is, or read from ISO texts; nil for any other.
func instants(c *table.Column) *table.Column {
	if instant(c.Type.Kind) {
		return c
	}
	if c.Type.Kind != value.Text || c.Len() == 0 {
		return nil
	}
	for _, kind := range []value.Kind{value.Date, value.Timestamp, value.TimestampTZ} {
		out := table.NewColumn(c.Name, value.Type{Kind: kind}, c.Len())
		some := false
		for i := range c.Len() {
			v := value.Value{}
			if !c.IsNull(i) {
				var err error
				if v, err = value.Parse(cellText(c, i), out.Type); err != nil {
					if v, err = value.Parse(cellText(c, i), value.Type{Kind: value.Date}); err != nil || kind != value.Timestamp {
						break
					}
					v = value.OfTimestamp(v.Micros())
				}
				some = true
			}
			out.Append(v)
		}
		if some && out.Len() == c.Len() {
			return out
		}
	}
	return nil
}

// periods reads a column as the first days of periods, with their length ("year", "half", "quarter", "month", "week"); nil where a cell
// is no period, or lengths are mixed.
func periods(c *table.Column) (*table.Column, string) {
	if c.Type.Kind != value.Text && c.Type.Kind != value.Int || c.Len() == 0 {
		return nil, ""
	}
	out := table.NewColumn(c.Name, value.Type{Kind: value.Date}, c.Len())
	length := ""
	for i := range c.Len() {
		if c.IsNull(i) {
			out.AppendNull()
			continue
		}
		start, l := columnPeriod(cellText(c, i))
		if l == "" || length != "" && l != length {
			return nil, ""
		}
		length = l
		out.Append(start)
	}
	if length == "" {
		return nil, ""
	}
	return out, length
}

// cycle is a part of a larger period that comes again: a month of a year.
type cycle struct {
	word        string                                // what a column of its numbers is called
	name        func(text string) (int, bool)         // the number of a name
	least, most int                                   // of its numbers
	of          func(month, day int) (n int, ok bool) // of a period's first day; false where it begins none
}

var cycles = []cycle{
	{"month", monthNumber, 1, 12, func(month, day int) (int, bool) { return month, day == 1 }},
	{"quarter", quarterNumber, 1, 4, func(month, day int) (int, bool) { return (month + 2) / 3, day == 1 && month%3 == 1 }},
	{"day", weekdayNumber, 0, 7, func(int, int) (int, bool) { return 0, false }},
}

// inCycle is a column read as numbers of a cycle.
type inCycle struct {
	column *table.Column
	told   bool // by names, by periods, by the column's name or by their number; a number or two alone may be anything
	sure   bool // more than by their number
	whole  bool // read from periods that are known in full: two of these are compared as they are
}

// read gives a column's cells as numbers of the cycle: its names, its numbers, or what its periods are in it, where no two periods of
// the column are the same in the cycle. The column is nil where it is none of these. goesWith tells whether two columns, read so, may
// be compared: at least one of them surely is of the cycle, and not both are whole numbers.
func (c inCycle) goesWith(o inCycle) bool {
	return c.column != nil && o.column != nil && c.told && o.told && (c.sure || o.sure) && !(c.whole && o.whole)
}

func (c cycle) read(column, periods, instants *table.Column) inCycle {
	if out := c.numbers(column); out.column != nil {
		return out
	}
	if periods == nil {
		periods = instants
	}
	if periods == nil {
		return inCycle{}
	}
	return inCycle{c.ofPeriods(periods), true, true, true}
}

// numbers reads a column of names or numbers.
func (c cycle) numbers(column *table.Column) inCycle {
	if column.Type.Kind != value.Text && column.Type.Kind != value.Int || column.Len() == 0 {
		return inCycle{}
	}
	called := strings.Contains(strings.ToLower(column.Name), c.word)
	out := inCycle{table.NewColumn(column.Name, value.Type{Kind: value.Int}, column.Len()), called, called, false}
	different := map[int]bool{}
	for i := range column.Len() {
		if column.IsNull(i) {
			out.column.AppendNull()
			continue
		}
		text := cellText(column, i)
		n, named := c.name(text)
		if !named {
			var err error
			if n, err = strconv.Atoi(text); err != nil || n < c.least || n > c.most || len(text) > 2 {
				return inCycle{}
			}
			if c.least == 0 && n == c.most {
				n = 0 // Sunday is 0 or 7
			}
		}
		different[n] = true
		out.sure = out.sure || named
		out.column.Append(value.OfInt(int64(n)))
	}
	out.told = out.sure || len(different) >= enoughNumbers
	return out
}

// enoughNumbers is how many different numbers there must be for them to be months where nothing says so: a count of 5 is no May.
const enoughNumbers = 3

func (c cycle) ofPeriods(starts *table.Column) *table.Column {
	out := table.NewColumn(starts.Name, value.Type{Kind: value.Int}, starts.Len())
	whole := map[int64]int64{} // the one period that is a number in the cycle
	for i := range starts.Len() {
		if starts.IsNull(i) {
			out.AppendNull()
			continue
		}
		us := starts.Value(i).Micros()
		if us%dayMicros != 0 {
			return nil
		}
		_, month, day := value.Civil(us / dayMicros)
		n, begins := c.of(month, day)
		if !begins {
			return nil
		}
		if before, known := whole[int64(n)]; known && before != us {
			return nil
		}
		whole[int64(n)] = us
		out.Append(value.OfInt(int64(n)))
	}
	return out
}

const dayMicros = 86_400_000_000

var (
	yearForm    = pattern.Of(`^(\d{4})$`)
	monthForm   = pattern.Of(`^(\d{4})(?:[-/]|-?[Mm])(\d{1,2})$`)
	monthFirst  = pattern.Of(`^(\d{1,2})[-/](\d{4})$`)
	monthDigits = pattern.Of(`^(\d{4})(\d{2})$`)
	quarterForm = pattern.Of(`^(?i:(\d{4})[-/ ]?Q([1-4])|Q([1-4])[-/ ]?(\d{4}))$`)
	halfForm    = pattern.Of(`^(?i:(\d{4})[-/ ]?H([12])|H([12])[-/ ]?(\d{4}))$`)
	weekForm    = pattern.Of(`^(?i:(\d{4})-?W(\d{1,2}))$`)
	namedForm   = pattern.Of(`^([A-Za-z]+)\.?,?[- ](\d{4})$`)
	yearNamed   = pattern.Of(`^(\d{4})[- ]([A-Za-z]+)\.?$`)
	quarterName = pattern.Of(`^(?i:Q([1-4])|quarter ([1-4])|([1-4])\. quarter|([1-4])(?:st|nd|rd|th) quarter)$`)
)

// columnPeriod is ReadPeriod for a cell of a column that is read as a whole: six digits may be a year and a month.
func columnPeriod(text string) (start value.Value, length string) {
	if m := monthDigits.FindStringSubmatch(text); m != nil {
		return readPeriod(m[1] + "-" + m[2])
	}
	return readPeriod(text)
}

// readPeriod reads a period's text ("2031", "2031-H1", "2031-Q2", "2031-05", "5/2031", "May 2031", "2031-W07") as its first day and its
// length; "" for none.
func readPeriod(text string) (start value.Value, length string) {
	year, month := "", 0
	if m := yearForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[1], 1, "year"
	} else if m := monthForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[1], digits(m[2]), "month"
	} else if m := monthFirst.FindStringSubmatch(text); m != nil {
		year, month, length = m[2], digits(m[1]), "month"
	} else if m := quarterForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[1]+m[4], 3*digits(m[2]+m[3])-2, "quarter"
	} else if m := halfForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[1]+m[4], 6*digits(m[2]+m[3])-5, "half"
	} else if m := weekForm.FindStringSubmatch(text); m != nil {
		return weekStart(digits(m[1]), digits(m[2]))
	} else if m := namedForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[2], monthNamed(m[1]), "month"
	} else if m := yearNamed.FindStringSubmatch(text); m != nil {
		year, month, length = m[1], monthNamed(m[2]), "month"
	}
	if length == "" || month < 1 || month > 12 {
		return value.Value{}, ""
	}
	start, err := value.Parse(year+"-"+twoDigits(month)+"-01", value.Type{Kind: value.Date})
	if err != nil {
		return value.Value{}, ""
	}
	return start, length
}

// weekStart is the Monday of an ISO week: the first week of a year is the one with the 4th of January.
func weekStart(year, week int) (value.Value, string) {
	fourth, err := value.Parse(strconv.Itoa(year)+"-01-04", value.Type{Kind: value.Date})
	if err != nil || week < 1 || week > 53 {
		return value.Value{}, ""
	}
	day := fourth.Micros() / dayMicros
	monday := day - (day+3)%7 // the first day of all was a Thursday
	return value.OfDate(monday + int64(7*(week-1))), "week"
}

// digits is the number of digits that a pattern found.
func digits(text string) int {
	n, _ := strconv.Atoi(text)
	return n
}

func twoDigits(n int) string {
	if n < 10 {
		return "0" + strconv.Itoa(n)
	}
	return strconv.Itoa(n)
}

var monthNames = []string{"january", "february", "march", "april", "may", "june", "july", "august", "september", "october",
	"november", "december"}

// monthNamed is the number of a month by its English name or its first three letters; 0 for none.
func monthNamed(name string) int {
	lower := strings.ToLower(name)
	for i, full := range monthNames {
		if lower == full || lower == full[:3] || lower == "sept" && i == 8 {
			return i + 1
		}
	}
	return 0
}

func monthNumber(text string) (int, bool) {
	n := monthNamed(text)
	return n, n > 0
}

// quarterNumber is the number of a quarter by a name such as "Q2".
func quarterNumber(text string) (int, bool) {
	m := quarterName.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	return digits(strings.Join(m[1:], "")), true
}

var weekdayNames = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// weekdayNumber is the number of a weekday, Sunday being 0, by its English name or its first three letters.
func weekdayNumber(text string) (int, bool) {
	lower := strings.ToLower(text)
	for i, full := range weekdayNames {
		if lower == full || lower == full[:3] {
			return i, true
		}
	}
	return 0, false
}
