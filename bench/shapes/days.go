package main

import "time"

// firstDay is the first day of the data.
var firstDay = time.Date(firstYear, time.January, 1, 0, 0, 0, 0, time.UTC)

var givenNames = []string{"Ada", "Bruno", "Cleo", "Dario", "Edda", "Falk", "Greta", "Hugo", "Ines", "Jonas", "Karla", "Lenz"}

// monthEdges are the last and the first days of months.
var monthEdges = func() []int {
	var out []int
	for m := range 12 * years {
		first := int(firstDay.AddDate(0, m, 0).Sub(firstDay).Hours() / 24)
		out = append(out, max(0, first-1), first)
	}
	return out
}()

// period is a stretch of whole months.
type period struct {
	from   time.Time
	months int
}

func (p period) bounds() (from, to string) {
	return p.from.Format("2006-01-02"), p.from.AddDate(0, p.months, 0).Format("2006-01-02")
}

// moved is a period so many months later.
func (p period) moved(months int) period { return period{p.from.AddDate(0, months, 0), p.months} }

// periodOf reads a period off its bounds.
func periodOf(from, to string) (period, bool) {
	f, err := time.Parse("2006-01-02", from)
	if err != nil {
		return period{}, false
	}
	for _, months := range []int{1, 3, 12} {
		p := period{f, months}
		if _, until := p.bounds(); until == to && f.Day() == 1 {
			return p, true
		}
	}
	return period{}, false
}
