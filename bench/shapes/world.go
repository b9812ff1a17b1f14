package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
)

// world is a schema with its data: a family of names, and traits that are drawn.
type world struct {
	family
	dice    *rand.Rand
	name    string
	day     bool // events have a day, not a time
	orphans bool // some events have no party
	feeGaps bool // some fees are not known
	events  int
	rows    map[string][]string // by role, as CSV
}

const (
	firstYear, years = 2029, 3
	// asOf is the day on which questions are asked.
	asOf = "2031-12-31"
)

// newWorld draws a schema and its data.
func newWorld(f family, number int, dice *rand.Rand) *world {
	w := &world{family: f, dice: dice, name: fmt.Sprintf("%s%d", f.name, number), day: dice.IntN(3) == 0, orphans: dice.IntN(3) > 0,
		feeGaps: dice.IntN(3) > 0, events: []int{900, 2500, 6000}[dice.IntN(3)], rows: map[string][]string{}}
	w.fill()
	return w
}

// col is the name of a column.
func (w *world) col(c column) string {
	for i, name := range columnsOf[c.role] {
		if name == c.name {
			return w.columns[c.role][i]
		}
	}
	panic("no column " + c.role + "." + c.name)
}

func (w *world) add(role string, cells ...any) {
	out := make([]string, len(cells))
	for i, c := range cells {
		out[i] = fmt.Sprint(c)
	}
	w.rows[role] = append(w.rows[role], strings.Join(out, ","))
}

func pick[T any](dice *rand.Rand, from []T) T { return from[dice.IntN(len(from))] }

// skewed picks an early one more often.
func skewed[T any](dice *rand.Rand, from []T) T {
	return from[min(dice.IntN(len(from)), dice.IntN(len(from)))]
}

func (w *world) date(from, days int) string {
	n := from + w.dice.IntN(days)
	return dayText(n)
}

// dayText is a day, counted from the first one of the data.
func dayText(n int) string {
	return firstDay.AddDate(0, 0, n).Format("2006-01-02")
}

// facts that hold in the data: a fee is no more than its amount; what is booked is booked before; keys occur once and are met; a place
// and a kind may have no events.
func (w *world) fill() {
	d := w.dice
	for i, name := range w.places {
		for n := range 3 {
			w.add("P", i*3+n+1, fmt.Sprintf("%s %d", name, n+1), w.places[(i+n)%len(w.places)]+" side", w.date(-4000, 3000),
				10+d.IntN(90))
		}
	}
	places := 3*len(w.places) - 1 // the last has no events
	for i, label := range w.kinds {
		w.add("K", strings.ToUpper(label[:2])+fmt.Sprint(i), label, w.groups[i%len(w.groups)], 5+d.IntN(200))
	}
	w.add("K", "ZZ", "Discontinued", w.groups[0], 9) // without events
	parties := w.events / (4 + d.IntN(8))
	for i := range parties {
		home := fmt.Sprint(1 + d.IntN(places))
		if d.IntN(12) == 0 {
			home = ""
		}
		w.add("C", i+1, fmt.Sprintf("%s %d", pick(d, givenNames), 100+i), skewed(d, w.segments), home, w.date(-900, 1600))
	}
	active := parties * 9 / 10
	line := 0
	for i := range w.events {
		line = w.event(i+1, active, places, line)
	}
}

func (w *world) event(id, parties, places, line int) int {
	d := w.dice
	party := fmt.Sprint(1 + min(d.IntN(parties), d.IntN(parties)))
	if w.orphans && d.IntN(20) == 0 {
		party = ""
	}
	day := d.IntN(365 * years)
	if d.IntN(25) == 0 { // at the edges of months, where mistakes with bounds show
		day = monthEdges[d.IntN(len(monthEdges))]
	}
	at := dayText(day)
	if !w.day {
		at = fmt.Sprintf("%s %02d:%02d:00", at, d.IntN(24), 5*d.IntN(12))
		if d.IntN(15) == 0 {
			at = dayText(day) + " 00:00:00"
		}
	}
	cents := 500 + d.IntN(40000)
	if d.IntN(30) == 0 {
		cents = 0
	}
	fee := fmt.Sprintf("%.2f", float64(cents*d.IntN(30)/100)/100)
	if w.feeGaps && d.IntN(6) == 0 {
		fee = ""
	}
	kind := strings.SplitN(w.rows["K"][min(d.IntN(len(w.kinds)), d.IntN(len(w.kinds)))], ",", 2)[0]
	w.add("E", id, party, kind, 1+d.IntN(places), skewed(d, w.statuses), at, dayText(day-d.IntN(45)), fmt.Sprintf("%d.%02d", cents/100,
		cents%100), fee, 1+min(d.IntN(9), d.IntN(9)), d.IntN(9) == 0)
	for range max(0, d.IntN(5)-1) {
		line++
		w.add("L", line, id, skewed(d, w.items), 1+d.IntN(6), fmt.Sprintf("%d.%02d", d.IntN(60), d.IntN(100)))
	}
	return line
}

// write writes the tables as CSV.
func (w *world) write(dir string) error {
	for _, role := range roles {
		text := strings.Join(w.columns[role], ",") + "\n" + strings.Join(w.rows[role], "\n") + "\n"
		if err := os.WriteFile(filepath.Join(dir, w.tables[role]+".csv"), []byte(text), 0o600); err != nil {
			return err
		}
	}
	return nil
}
