package diagnose

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestSameForms: conditions and group keys that are two ways to write one thing are left out; those that are not stay.
func TestSameForms(t *testing.T) {
	days := func(column string) bool { return column == "paid_on" }
	for _, c := range []struct {
		lacks, has         string
		restLacks, restHas string
	}{
		{"paid_on < '2031-07-01'", "paid_on <= '2031-06-30'", "", ""},
		{"loaded_at < '2031-07-01'", "loaded_at <= '2031-06-30'", "loaded_at < '2031-07-01'", "loaded_at <= '2031-06-30'"},
		{"paid_on < '2031-07-01'", "paid_on <= '2031-06-29'", "paid_on < '2031-07-01'", "paid_on <= '2031-06-29'"},
		{"'2031-05-01' <= paid_on", "'2031-04-30' < paid_on", "", ""},
		{"'2031-05-01' <= loaded_at", "'2031-05-01 00:00:00' <= loaded_at", "", ""},
		{"2031 = year(loaded_at)", "'2031-01-01' <= loaded_at; loaded_at < '2032-01-01'", "", ""},
		{"2031 = year(loaded_at)", "'2031-01-01' <= loaded_at; loaded_at < '2031-12-31'", "2031 = year(loaded_at)",
			"loaded_at < '2031-12-31'"},
		{"'2031-05' = strftime(loaded_at, '%Y-%m')", "'2031-05-01' = date_trunc('month', loaded_at)", "", ""},
		{"'2031-04-01' = date_trunc('quarter', d)", "'2031-04-01' <= d; d < '2031-07-01'", "", ""},
		{"'done' = state", "state in ('done')", "", ""},
		{"'done' = state", "'void' = state", "'done' = state", "'void' = state"},
		{"'done' = state", "", "'done' = state", ""},
	} {
		lacks, has := sameForms(listed(c.lacks), listed(c.has), days)
		require.Equal(t, listed(c.restLacks), lacks, "%s | %s", c.lacks, c.has)
		require.Equal(t, listed(c.restHas), has, "%s | %s", c.lacks, c.has)
	}
}

func TestSameGroups(t *testing.T) {
	for _, c := range []struct{ lacks, has, restLacks, restHas string }{
		{"date_trunc('month', d)", "strftime(d, '%Y-%m')", "", ""},
		{"date_trunc('month', d)", "year(d); month(d)", "", ""},
		{"date_trunc('quarter', d)", "quarter(d); year(d)", "", ""},
		{"year(d)", "date_trunc('year', d)", "", ""},
		{"year(d)", "strftime(d, '%Y')", "", ""},
		{"date_trunc('month', d)", "month(d)", "date_trunc('month', d)", "month(d)"},
		{"date_trunc('month', d)", "strftime(e, '%Y-%m')", "date_trunc('month', d)", "strftime(e, '%Y-%m')"},
		{"harbour", "state", "harbour", "state"},
	} {
		lacks, has := sameGroups(listed(c.lacks), listed(c.has))
		require.Equal(t, listed(c.restLacks), lacks, c.has)
		require.Equal(t, listed(c.restHas), has, c.has)
	}
}

func TestTablesReadTwice(t *testing.T) {
	require.Equal(t, []string{"farms", "loads"},
		namesOf(map[string]int{"table loads": 2, "sub table loads": 1, "table farms": 1, "item x": 1, "sub where a = b": 1}))
}

func listed(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "; ")
}
