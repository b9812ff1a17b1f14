package twin_test

import (
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"time"

	"tovrel/core/twin"
	"tovrel/gallerytest"
)

// drawnColumns are rules by which columns are made of a row's number and of the columns before them.
var drawnColumns = []struct {
	name string
	cell func(r *rand.Rand, i int, before []string) string
}{
	{"id", func(_ *rand.Rand, i int, _ []string) string { return strconv.Itoa(100 + i) }},
	{"code", func(r *rand.Rand, _ int, _ []string) string { return []string{"a", "b", "c", "d"}[r.IntN(4)] }},
	{"label", func(_ *rand.Rand, _ int, before []string) string { return strings.ToUpper(last(before, 1)) + "!" }},
	{"n", func(r *rand.Rand, _ int, _ []string) string { return strconv.Itoa(r.IntN(50)) }},
	{"more", func(r *rand.Rand, _ int, before []string) string {
		return strconv.Itoa(whole(last(before, 1)) + r.IntN(9))
	}},
	{"total", func(_ *rand.Rand, _ int, before []string) string {
		return strconv.Itoa(whole(last(before, 1)) + whole(last(before, 2)))
	}},
	{"fewer", func(r *rand.Rand, _ int, before []string) string {
		return strconv.Itoa(max(0, whole(last(before, 2))-r.IntN(5)))
	}},
	{"price", func(r *rand.Rand, _ int, _ []string) string { return fmt.Sprintf("%d.%02d", r.IntN(9), 25*r.IntN(4)) }},
	{"day", func(r *rand.Rand, _ int, _ []string) string { return dayOf(r.IntN(400)) }},
	{"later", func(r *rand.Rand, _ int, before []string) string { return dayAfter(last(before, 1), 1+r.IntN(20)) }},
	{"due", func(_ *rand.Rand, _ int, before []string) string { return dayAfter(last(before, 2), 30) }},
	{"maybe", func(r *rand.Rand, _ int, before []string) string {
		if r.IntN(3) == 0 {
			return ""
		}
		return last(before, 3)
	}},
	{"flag", func(r *rand.Rand, _ int, _ []string) string { return strconv.FormatBool(r.IntN(4) > 0) }},
	{"fixed", func(*rand.Rand, int, []string) string { return "same" }},
	{"band", func(_ *rand.Rand, i int, _ []string) string { return strconv.Itoa(i / 10) }},
	{"place", func(_ *rand.Rand, i int, _ []string) string { return strconv.Itoa(i%10 + 1) }},
	{"far", func(r *rand.Rand, _ int, _ []string) string { return strconv.Itoa(r.IntN(2_000_000) - 1_000_000) }},
	{"tenfold", func(_ *rand.Rand, _ int, before []string) string { return strconv.Itoa(10 * whole(last(before, 1))) }},
}

// last is the cell so many places before the end; the first where there are fewer.
func last(cells []string, back int) string {
	if len(cells) == 0 {
		return "0"
	}
	return cells[max(0, len(cells)-back)]
}

func whole(text string) int {
	n, _ := strconv.Atoi(text)
	return n
}

func dayOf(n int) string {
	return time.Date(2030, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n).Format(time.DateOnly)
}

func dayAfter(day string, n int) string {
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return dayOf(n)
	}
	return at.AddDate(0, 0, n).Format(time.DateOnly)
}

// drawnTable is a table of some of the columns, by a seed.
func drawnTable(t *testing.T, seed uint64) twin.Rows {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 11)) //nolint:gosec // a test's
	var chosen []int
	for at := range drawnColumns {
		if at == 0 || r.IntN(3) > 0 {
			chosen = append(chosen, at)
		}
	}
	var names, amounts []string
	for _, at := range chosen {
		names = append(names, drawnColumns[at].name)
		switch drawnColumns[at].name {
		case "n", "more", "total", "fewer", "price", "far", "tenfold":
			amounts = append(amounts, drawnColumns[at].name)
		}
	}
	var rows [][]string
	for i := range 40 + int(seed)*7 {
		var row []string
		for _, at := range chosen {
			row = append(row, drawnColumns[at].cell(r, i, row))
		}
		rows = append(rows, row)
	}
	return rowsOf(t, "drawn", names, rows, amounts...)
}

// TestGallery holds the facts and the first twin of tables drawn by rule.
func TestGallery(t *testing.T) {
	var out []string
	for seed := range uint64(10) {
		rows := drawnTable(t, seed)
		facts := twin.Find([]twin.Rows{rows}, nil)
		unique, notNull, dependencies, references := facts.Count()
		out = append(out, fmt.Sprintf("# %d: %d rows; %d unique, %d not null, %d dependencies, %d references", seed, rows.Rows, unique,
			notNull, dependencies, references))
		for _, table := range facts.Tables {
			out = append(out, fmt.Sprintf("keys %v, blocks %v, pins %+v", table.Keys, table.Blocks, table.Pins))
			for i, c := range table.Columns {
				out = append(out, fmt.Sprintf("  %s %s, unique %t %t, nullable %t, %d from %s to %s, codes %v, fixed %t", c.Name, c.Kind,
					c.Unique, c.NearlyUnique, c.Nullable, c.Distinct, c.Min, c.Max, c.Codes, table.Fixed(i)))
			}
		}
		out = append(out, fmt.Sprintf("candidate keys %v", twin.CandidateKeys(rows)))
		bounds := []twin.Boundary{{Column: "n", Values: []string{"7"}}, {Column: "day", Values: []string{"2030-07-01"}, Others: []string{
			"later"}}, {Column: "code", Values: []string{"b"}}, {Column: "price", Values: []string{"2.50"}}}
		for _, table := range twin.Make(facts, bounds, int(seed)+1).Tables { //nolint:gosec // small
			out = append(out, fmt.Sprintf("order %+v, pinned %+v", table.Order, table.Pins))
			for _, step := range table.Steps {
				out = append(out, fmt.Sprintf("  %s %+v", strings.TrimPrefix(fmt.Sprintf("%T", step), "twin."), step))
			}
		}
	}
	gallerytest.Holds(t, "twins.txt", strings.Join(out, "\n")+"\n", *update)
}
