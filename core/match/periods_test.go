package match_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/core/value"
)

// writings are the ways to write the first day of a period, by the period's length; those of one length mean the same.
var writings = map[string][]func(time.Time) string{
	"month": {
		func(d time.Time) string { return d.Format("2006-01") }, func(d time.Time) string { return d.Format("2006-01-02") },
		func(d time.Time) string { return d.Format("January 2006") }, func(d time.Time) string { return d.Format("Jan 2006") },
		func(d time.Time) string { return d.Format("2006 January") }, func(d time.Time) string { return d.Format("01/2006") },
		func(d time.Time) string { return d.Format("2006/01") }, func(d time.Time) string { return d.Format("200601") },
		func(d time.Time) string { return d.Format("2006-M01") }, func(d time.Time) string { return d.Format("2006-01-02 15:04:05") },
	},
	"quarter": {
		func(d time.Time) string { return fmt.Sprintf("%d-Q%d", d.Year(), quarter(d)) },
		func(d time.Time) string { return fmt.Sprintf("Q%d %d", quarter(d), d.Year()) },
		func(d time.Time) string { return fmt.Sprintf("%dQ%d", d.Year(), quarter(d)) },
		func(d time.Time) string { return d.Format("2006-01-02") },
	},
	"year": {func(d time.Time) string { return d.Format("2006") }, func(d time.Time) string { return d.Format("2006-01-02") }},
}

// parts are the ways to write a period within its year.
var parts = map[string][]func(time.Time) string{
	"month": {func(d time.Time) string { return d.Format("January") }, func(d time.Time) string { return d.Format("Jan") },
		func(d time.Time) string { return fmt.Sprint(int(d.Month())) }},
	"quarter": {func(d time.Time) string { return fmt.Sprintf("Q%d", quarter(d)) },
		func(d time.Time) string { return fmt.Sprint(quarter(d)) }},
}

func quarter(d time.Time) int { return (int(d.Month()) + 2) / 3 }

var lengths = map[string]int{"month": 1, "quarter": 3, "year": 12} // in months

// grouped makes a table of a group and a measure, whose columns' types are found as in a file.
func grouped(starts []time.Time, write func(time.Time) string) *table.Table {
	var rows [][]table.Cell
	for i, d := range starts {
		rows = append(rows, []table.Cell{{Text: write(d)}, {Text: fmt.Sprint(1000 + 7*i)}})
	}
	t, err := table.FromRows([]string{"grp", "total"}, rows)
	if err != nil {
		panic(err)
	}
	return t
}

// TestPeriodsByAnyName: a period written one way meets the same one written another way, and never another period.
func TestPeriodsByAnyName(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		length := rapid.SampledFrom([]string{"month", "quarter", "year"}).Draw(r, "length")
		count := rapid.IntRange(2, 12).Draw(r, "count")
		first := time.Date(2029, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, lengths[length]*rapid.IntRange(0, 20).Draw(r, "from"), 0)
		var starts []time.Time
		for i := range count {
			starts = append(starts, first.AddDate(0, i*lengths[length], 0))
		}
		ways := append([]func(time.Time) string{}, writings[length]...)
		within := starts[0].Year() == starts[count-1].Year()
		if within {
			ways = append(ways, parts[length]...)
		}
		e, a := rapid.SampledFrom(ways).Draw(r, "expected"), rapid.SampledFrom(ways).Draw(r, "answer")
		expected, answer := grouped(starts, e), grouped(starts, a)
		for _, t := range []*table.Table{expected, answer} {
			t.Columns[0].Name = length
		}
		if expected.Columns[0].Type.Kind == value.Int && answer.Columns[0].Type.Kind == value.Int && e(starts[0]) != a(starts[0]) {
			return // numbers are what they are: 203105 is no 5
		}
		require.True(r, match.Match(expected, answer, match.Rules{}, match.Known{}).Matched, "%s beside %s",
			expected.Columns[0].Value(0), answer.Columns[0].Value(0))

		moved := append([]time.Time{}, starts...)
		moved[count-1] = moved[count-1].AddDate(1, 0, 0) // the same month of another year
		full := rapid.SampledFrom(writings[length]).Draw(r, "full")
		require.False(r, match.Match(grouped(starts, full), grouped(moved, full), match.Rules{}, match.Known{}).Matched)
		swapped := append([]time.Time{}, starts...)
		swapped[0], swapped[1] = swapped[1], swapped[0]
		require.False(r, match.Match(expected, grouped(swapped, a), match.Rules{}, match.Known{}).Matched)
	})
}

// TestPeriodsThatAreNotTheSame: a part of a year is the period only where no other one of the column is the same part; numbers that nothing
// calls months are what they are.
func TestPeriodsThatAreNotTheSame(t *testing.T) {
	for _, c := range []struct{ reason, expected, answer, rules string }{
		{"a count is no month", "n/5", "n/May", ""},
		{"nor the first day of one", "n/1", "day/2031-01-01", ""},
		{"nor are two", "n/1/2", "d/2031-01-01/2031-02-01", ""},
		{"a count is no year", "n/2029", "n/1", ""},
		{"nor a year and a month", "n/202901", "n/1", ""},
		{"two Mays", "m n/2030-05 1/2031-05 2", "m n/5 1/5 2", ""},
		{"two Mays by name", "m n/May 1/May 2", "m n/2030-05-01 1/2031-05-01 2", ""},
		{"not the first day", "m n/2031-05 1/2031-06 2", "m n/2031-05-01 1/2031-06-02 2", ""},
		{"codes are no months", "code n/01 1/02 2", "code n/1 1/2 2", ""},
		{"another month", "m n/5 1/6 2", "m n/May 1/July 2", ""},
		{"read strictly", "m n/2031-05 1/2031-06 2", "m n/May-2031 1/June-2031 2", "format=strict"},
		{"other lengths", "m n/2031-Q1 1/2031-Q2 2", "m n/2031-01 1/2031-04 2", ""},
		{"a month that is none", "m n/2031-13 1/2031-14 2", "m n/2031-M13 1/2031-M14 2", ""},
	} {
		var rules match.Rules
		if c.rules != "" {
			require.NoError(t, rules.ParseRule(c.rules))
		}
		require.False(t, match.Match(tableOf(c.expected), tableOf(c.answer), rules, match.Known{}).Matched, c.reason)
	}
}

// TestOtherWritings: what stands in texts on both sides is read as a whole column; weeks, weekdays and zones too.
func TestOtherWritings(t *testing.T) {
	for _, c := range []struct {
		reason           string
		expected, answer []string
		want             bool
	}{
		{"weeks", []string{"2031-W01", "2031-W02"}, []string{"2030-12-30", "2031-01-06"}, true},
		{"other weeks", []string{"2031-W01", "2031-W02"}, []string{"2031-01-06", "2031-01-13"}, false},
		{"weekdays from Sunday", []string{"Monday", "Sunday"}, []string{"1", "0"}, true},
		{"weekdays from Monday", []string{"Mon", "Sun"}, []string{"1", "7"}, true},
		{"halves", []string{"2031-H1", "2031-H2"}, []string{"H1 2031", "H2 2031"}, true},
		{"days and midnights in texts", []string{"2031-05-01", "2031-05-02"}, []string{"2031-05-01T00:00:00", "2031-05-02T00:00:00"}, true},
		{"a month and its first day in texts", []string{"2031-05", "2031-06"}, []string{"2031-05-01", "2031-06-01"}, true},
		{"the same moment in two zones", []string{"2031-05-01T10:00:00+02:00", "2031-05-02T10:00:00+02:00"},
			[]string{"2031-05-01T08:00:00Z", "2031-05-02T08:00:00Z"}, true},
		{"the same clock in two zones", []string{"2031-05-01T10:00:00+02:00", "2031-05-02T10:00:00+02:00"},
			[]string{"2031-05-01T10:00:00Z", "2031-05-02T10:00:00Z"}, false},
		{"not a whole column", []string{"2031-05-01", "later"}, []string{"2031-05-01T00:00:00", "later"}, false},
	} {
		texts := func(cells []string) *table.Table {
			t := &table.Table{Columns: []*table.Column{table.NewColumn("day", value.Type{Kind: value.Text}, len(cells))}}
			for _, c := range cells {
				t.Columns[0].AppendText(c)
			}
			return t
		}
		require.Equal(t, c.want, match.Match(texts(c.expected), texts(c.answer), match.Rules{}, match.Known{}).Matched, c.reason)
	}
}
