package gallerytest

import (
	"fmt"
	"math/rand/v2"
	"strings"

	"tovrel/core/profile"
	"tovrel/core/profile/profiletest"
)

// columnNames are names as people give them, some that say what a column holds.
var columnNames = []string{"id", "farm_id", "farmId", "loads_id", "no", "number", "name", "code", "litres", "price_eur", "load [t]", "kg",
	"share", "rate_pct",
	"day", "day_id", "loaded_at", "year", "month", "active", "x", "Total", "farm", "parent_id", "zip", "phone"}

// cellMakers are ways to fill a column.
var cellMakers = []func(r *rand.Rand, i int) string{
	func(_ *rand.Rand, i int) string { return fmt.Sprint(i + 1) },
	func(r *rand.Rand, _ int) string { return fmt.Sprint(1 + r.IntN(12)) },
	func(r *rand.Rand, i int) string { return fmt.Sprint(i + 1 - r.IntN(20)/19) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d.%02d", r.IntN(900), r.IntN(100)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("0.%03d", r.IntN(1000)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d,%02d", r.IntN(900), r.IntN(100)) },
	func(r *rand.Rand, _ int) string { return []string{"red", "green", "blue"}[r.IntN(3)] },
	func(r *rand.Rand, _ int) string {
		return []string{"Red", "red", "n/a", "-", "∅", "green "}[r.IntN(6)]
	},
	func(_ *rand.Rand, i int) string { return fmt.Sprintf("Farm %c%d", 'A'+i%26, i) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("%03d", r.IntN(40)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("2031-%02d-%02d", 1+r.IntN(12), 1+r.IntN(28)) },
	func(r *rand.Rand, _ int) string {
		return fmt.Sprintf("2031-%02d-%02d 0%d:30:00", 1+r.IntN(12), 1+r.IntN(28), r.IntN(9))
	},
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("%02d.%02d.2031", 1+r.IntN(28), 1+r.IntN(12)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("%02d/%02d/2031", 1+r.IntN(12), 1+r.IntN(12)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprint(r.IntN(2) == 0) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d kg", r.IntN(90)) },
	func(r *rand.Rand, _ int) string {
		return fmt.Sprintf("%s (%d)", []string{"Aske", "Brill", "Cole"}[r.IntN(3)], r.IntN(9))
	},
	func(r *rand.Rand, _ int) string { return []string{"a, b", "c", "a, c"}[r.IntN(3)] },
	func(r *rand.Rand, _ int) string { return []string{"∅", "1"}[r.IntN(2)] },
	func(*rand.Rand, int) string { return "same" },
	func(r *rand.Rand, _ int) string { return fmt.Sprint(2025 + r.IntN(8)) },
	func(r *rand.Rand, _ int) string { return []string{"7", "8", "9", "10", "11", "x"}[r.IntN(6)] },
}

// Dataset has a few tables whose columns' names and cells are drawn apart from each other.
func Dataset(r *rand.Rand) *profile.Dataset {
	var tables []profiletest.Table
	for _, name := range []string{"farms", "loads", "Kinds of milk"}[:1+r.IntN(3)] {
		t := profiletest.Table{Name: name}
		var makers []func(*rand.Rand, int) string
		for _, at := range r.Perm(len(columnNames))[:2+r.IntN(6)] {
			t.Columns, makers = append(t.Columns, columnNames[at]), append(makers, cellMakers[r.IntN(len(cellMakers))])
		}
		for i := range []int{0, 1, 3, 12, 40, 150}[r.IntN(6)] {
			var row []string
			for _, make := range makers {
				cell := make(r, i)
				if r.IntN(30) == 0 {
					cell = "∅"
				}
				row = append(row, cell)
			}
			if r.IntN(40) == 0 {
				row = strings.Split(strings.Repeat("∅ ", len(row)-1)+"∅", " ")
			}
			t.Rows = append(t.Rows, row)
		}
		tables = append(tables, t)
	}
	return profiletest.Count("d", nil, tables...)
}
