// Package claimtest draws replies in words from a seed: templates × values × noise × writings of numbers. What each is worth is known
// from how it was made.
package claimtest

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"tovrel/core/claim"
	"tovrel/core/table"
)

// Reply is a drawn reply with what is expected of it.
type Reply struct {
	Kind     string // of question
	Made     string // how it was made
	Right    bool
	Text     string
	Expected claim.Expected
}

// Draw draws replies, about as many right as wrong.
func Draw(seed uint64, count int) []Reply {
	d := &drawing{Rand: rand.New(rand.NewPCG(seed, 20))}
	var out []Reply
	for len(out) < count {
		if d.IntN(4) == 0 {
			out = append(out, d.more()...)
			continue
		}
		q := d.question()
		out = append(out, q.right(), q.wrong())
	}
	return out[:count]
}

type drawing struct{ *rand.Rand }

func pick[T any](d *drawing, all ...T) T { return all[d.IntN(len(all))] }

// writing is how a reply writes its numbers.
type writing struct{ thousands, decimal string }

var writings = []writing{{",", "."}, {",", "."}, {",", "."}, {"", "."}, {".", ","}, {" ", ","}, {"\u202f", ","}, {"'", "."}}

// number writes a number with so many decimals.
func (w writing) number(x float64, decimals int) string {
	plain := fmt.Sprintf("%.*f", decimals, math.Abs(x))
	whole, part, _ := strings.Cut(plain, ".")
	var groups []string
	for len(whole) > 3 && w.thousands != "" {
		groups = append([]string{whole[len(whole)-3:]}, groups...)
		whole = whole[:len(whole)-3]
	}
	text := strings.Join(append([]string{whole}, groups...), w.thousands)
	if part != "" {
		text += w.decimal + part
	}
	if x < 0 {
		text = "-" + text
	}
	return text
}

// question is a drawn question: names with a number each, of which the first rows are asked.
type question struct {
	*drawing
	kind     string
	text     string
	noun     string // what the numbers count, behind them
	singular string // what a name is called
	column   string
	unit     string
	names    []string
	values   []float64
	asked    int // rows
	decimals int
	share    bool
	named    bool // the names are asked too
	valued   bool // the numbers are asked
	ranked   bool
	style    writing
	money    bool
	lie      bool // the numbers are not the true ones
}

var (
	places = []string{"North Vale", "South Vale", "Hamlet", "Old Lock", "Brook End", "Cold Ash", "Tarn Side", "Upper Mill", "St Ives",
		"Fen Edge"}
	people = []string{"Ada Moss", "Ben Hale", "Cy Lowe", "Dora Finch", "Eli Stone", "Fay Reed", "Gus Orme", "Hanna Pike", "Ivo Lang"}
	tools  = []string{"belt sander", "tile cutter", "long ladder", "cordless drill", "hedge trimmer", "jigsaw", "wet vacuum",
		"spirit level"}
	status  = []string{"accepted", "rejected", "pending", "cancelled", "returned"}
	seasons = []string{"2026", "2027", "2028", "2029", "2030", "2031"}
	calends = []string{"January", "February", "March", "April", "June", "July", "August", "September", "October", "November", "December"}
)

// question draws one.
func (d *drawing) question() question {
	q := question{drawing: d, named: true, valued: true, style: pick(d, writings...)}
	q.subject()
	q.measure()
	q.numbers()
	q.ask()
	return q
}

// subject draws what the rows are.
func (q *question) subject() {
	all := []struct {
		singular string
		names    []string
	}{{"district", places}, {"member", people}, {"tool", tools}, {"status", status}, {"year", seasons}, {"month", calends}, {"farm",
		places}}
	s := pick(q.drawing, all...)
	q.singular = s.singular
	for _, i := range q.Perm(len(s.names))[:3+q.IntN(min(4, len(s.names)-3+1))] {
		q.names = append(q.names, s.names[i])
	}
}

// measure draws what is counted or measured.
func (q *question) measure() {
	switch q.IntN(5) {
	case 0, 1:
		q.noun = pick(q.drawing, "loads", "trips", "visits", "loans", "lab tests", "people", "bookings")
		q.column = pick(q.drawing, "n", strings.ReplaceAll(q.noun, " ", "_"), "count")
	case 2:
		q.noun, q.column, q.unit, q.decimals = "litres", "litres", "L", pick(q.drawing, 0, 1, 2)
	case 3:
		q.noun, q.column, q.unit, q.decimals, q.money = "euro", pick(q.drawing, "paid", "fees_eur", "net_payment"), "EUR", 2, true
	case 4:
		q.noun, q.column, q.share, q.decimals = "%", pick(q.drawing, "share", "late_share", "rate"), true, 4
	}
}

// numbers draws a number for each name, the largest first, no two near each other.
func (q *question) numbers() {
	top := math.Pow(10, 1+4.5*q.Float64())
	if q.share {
		top = 0.9
	}
	for range q.names {
		x := top * (0.85 + 0.1*q.Float64())
		top = x * (0.55 + 0.3*q.Float64())
		scale := math.Pow10(q.decimals)
		x = math.Round(x*scale) / scale
		if q.decimals == 0 && len(q.values) > 0 && x >= q.values[len(q.values)-1] {
			x = q.values[len(q.values)-1] - 1
		}
		q.values = append(q.values, math.Max(x, 0))
	}
}

// ask draws which rows and columns are asked.
func (q *question) ask() {
	measured := map[bool]string{true: "the share of late " + pick(q.drawing, "loads", "trips"), false: "the number of " + q.noun}[q.share]
	if q.unit != "" {
		measured = "the total of " + q.noun
	}
	switch q.IntN(6) {
	case 0: // one number
		q.kind, q.named, q.asked = "one number", false, 1
		q.text = "What is " + measured + pick(q.drawing, "?", " in "+pick(q.drawing, "2025", "May 2025")+"?")
		if !q.share && q.unit == "" {
			q.text = "How many " + q.noun + " were there?"
		}
	case 1:
		q.kind, q.asked, q.ranked = "first with number", 1, true
		q.text = fmt.Sprintf("Which %s has the highest figure for %s, and what is it?", q.singular, measured)
	case 2:
		q.kind, q.asked, q.ranked, q.valued = "first", 1, true, false
		q.text = fmt.Sprintf("Which %s has the highest figure for %s?", q.singular, measured)
	case 3:
		q.kind, q.asked, q.ranked = "first three", min(3, len(q.names)-1), true
		q.text = fmt.Sprintf("What are the top %d by %s, with their figures?", q.asked, measured)
	default:
		q.kind, q.asked = "each", len(q.names)
		q.text = fmt.Sprintf("What is %s for each %s?", measured, q.singular)
	}
}

// expected is what the question expects.
func (q question) expected() claim.Expected {
	full := q.table(len(q.names))
	e := claim.Expected{Table: q.table(q.asked), Question: q.text, Ranked: q.ranked}
	if q.asked < len(q.names) && q.named {
		e.Full = full
	}
	if q.unit != "" {
		e.Units = []string{"", q.unit}
		if !q.named {
			e.Units = e.Units[1:]
		}
	}
	return e
}

func (q question) table(rows int) *table.Table {
	var names []string
	if q.named {
		names = append(names, q.singular)
	}
	if q.valued {
		names = append(names, q.column)
	}
	var cells [][]table.Cell
	for i := range rows {
		var row []table.Cell
		if q.named {
			row = append(row, table.Cell{Text: q.names[i], Literal: q.singular != "year"})
		}
		if q.valued {
			row = append(row, table.Cell{Text: fmt.Sprintf("%.*f", q.decimals, q.values[i])})
		}
		cells = append(cells, row)
	}
	t, err := table.FromRows(names, cells)
	if err != nil {
		panic(err)
	}
	return t
}

// said is a value as the reply writes it, with its unit.
func (q question) said(x float64) string {
	if q.share {
		return q.style.number(100*x, 2) + pick(q.drawing, " %", "%", " percent", " per cent")
	}
	decimals := q.decimals
	text := q.style.number(x, decimals)
	switch {
	case q.money:
		return pick(q.drawing, text+" euro", "€"+text, text+" €", "EUR "+text)
	case q.unit == "L":
		return text + pick(q.drawing, " litres", " L", " liters")
	}
	return text + " " + q.noun
}

// bare is a value without its unit.
func (q question) bare(x float64) string {
	if q.share {
		return q.said(x)
	}
	return q.style.number(x, q.decimals)
}

// right draws a right reply.
func (q question) right() Reply {
	made, text := q.reply()
	return Reply{Kind: q.kind, Made: made, Right: true, Text: text, Expected: q.expected()}
}

// sums is the total of the asked values.
func (q question) total(rows int) float64 {
	sum := 0.0
	for _, x := range q.values[:rows] {
		sum += x
	}
	return sum
}

// wrong draws a reply that is wrong: the question as it would be answered were something else true.
func (q question) wrong() Reply {
	how := q.IntN(7)
	if made, text := q.wrongOutright(how); made != "" {
		return Reply{Kind: q.kind, Made: made, Text: text, Expected: q.expected()}
	}
	lie := q
	lie.lie = true
	lie.values, lie.names = slices.Clone(q.values), slices.Clone(q.names)
	made := lie.spoil(how)
	form, text := lie.reply()
	return Reply{Kind: q.kind, Made: made + ", " + form, Text: text, Expected: q.expected()}
}

// wrongOutright writes a reply that is wrong in its words; "" where the way does not go with the question.
func (q question) wrongOutright(how int) (made, text string) {
	one := q.named && q.asked == 1
	switch {
	case how == 2 && one:
		return "the second named first", q.secondFirst()
	case how == 3 && one:
		return "denied", q.denied()
	case how == 4 && q.valued && q.asked > 1 && !q.share:
		return "the total alone", fmt.Sprintf(pick(q.drawing, "In total it is %s.", "All in all there are %s.", "The total comes to %s."),
			q.said(q.total(q.asked)))
	case how == 5 && q.valued && !q.named && !strings.Contains(q.text, "2025"):
		other := q.values[0] * pick(q.drawing, 0.8, 1.2, 0.93)
		return "another period", fmt.Sprintf(pick(q.drawing, "%s in 2024.", "In 2024 it was %s.", "For May 2024: %s"), q.said(other))
	}
	return "", ""
}

// spoil makes a question's names and numbers false.
func (q *question) spoil(how int) (made string) {
	several := q.named && q.asked > 1
	switch {
	case how == 0 && several && q.valued:
		q.values[0], q.values[1] = q.values[1], q.values[0]
		return "numbers swapped"
	case how == 1 && q.named, !q.valued:
		q.names[0], q.names[1] = q.names[1], q.names[0]
		return "names swapped"
	case how == 6 && several:
		drop := q.IntN(q.asked)
		q.names, q.values = slices.Delete(q.names, drop, drop+1), slices.Delete(q.values, drop, drop+1)
		q.asked--
		return "a row is missing"
	}
	at := q.IntN(q.asked)
	q.values[at] = q.changed(q.values[at])
	return "a number changed"
}

// changed is another number: a digit more, two digits changed places, a share or a factor off.
func (q question) changed(x float64) float64 {
	scale := math.Pow10(q.decimals)
	for {
		y := pick(q.drawing, x+pick(q.drawing, 1.0, -1.0, 2.0, 10.0)/min(scale, 100), x*pick(q.drawing, 1.1, 0.9, 1.5, 10, 0.1, 2))
		if y = math.Round(y*scale) / scale; y > 0 && math.Abs(y-x) > 0.9/scale && (!q.share || math.Abs(y-x) >= 0.0009 && y < 1) {
			return y
		}
	}
}

func (q question) secondFirst() string {
	a, b := q.names[0], q.names[1]
	return fmt.Sprintf(pick(q.drawing, "%[2]s comes first, ahead of %[1]s.", "%[2]s, followed by %[1]s.",
		"The top %[3]s is %[2]s; %[1]s is second.",
		"%[2]s beats %[1]s."), a, b, q.singular)
}

func (q question) denied() string {
	return fmt.Sprintf(pick(q.drawing, "It is not %[1]s.", "Not %[1]s but %[2]s.", "%[2]s rather than %[1]s.",
		"%[1]s is not the one; it is %[2]s."),
		q.names[0], q.names[1])
}
