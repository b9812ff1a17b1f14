package claim

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// cellAt is a place in the expected table.
type cellAt struct{ row, column int }

// judging is a text that is held against what is expected.
type judging struct {
	w          *wanted
	sentences  []*sentence
	numbers    []*said
	mentions   []*mention
	met        map[cellAt]bool
	quotient   map[*said]bool
	byQuotient []cellAt
	against    []string // what contradicts
	doubts     []string // what could be the answer too
	floating   []string // what could be, and stands with no row of several
	unchecked  []string
	rounded    bool
	read       bool              // something was claimed
	first      map[*mention]bool // said to be the first
	lower      map[*mention]bool // said to come behind
}

// judge holds sentences against what is expected.
func (w *wanted) judge(all []*sentence) Finding {
	j := &judging{w: w, sentences: all, met: map[cellAt]bool{}}
	if n := claimsIn(all, w); n > maxClaims {
		return Finding{Verdict: Unsure, TooLong: true, Why: fmt.Sprintf("the reply has %d names and numbers; at most %d are judged", n,
			maxClaims)}
	}
	for _, s := range all {
		s.found, s.said = s.mentions(w), s.saidIn(w)
		j.mentions = append(j.mentions, s.found...)
		j.numbers = append(j.numbers, s.said...)
	}
	j.places()
	j.correct()
	j.carry()
	switch {
	case w.Table.Rows() == 0:
		return j.nothing()
	case w.cells == 1 && w.Table.Columns[0].Type.Kind == value.Bool:
		return j.yesNo()
	}
	j.quotients()
	j.read = slices.ContainsFunc(j.numbers, func(c *said) bool { return c.n.worded && c.n.value == 0 && c.n.text != "no" })
	j.meet()
	j.meetNames()
	j.otherNames()
	j.otherNumbers()
	j.order()
	return j.finding()
}

// claimsIn counts the names and numbers of a text.
func claimsIn(all []*sentence, w *wanted) int {
	n := 0
	for _, s := range all {
		for _, t := range s.tokens {
			if t.kind == amount && !t.rank || len(w.namesAt(t)) > 0 {
				n++
			}
		}
	}
	return n
}

// finding is the verdict, in the order of precedence: contradicted, doubtful, met.
func (j *judging) finding() Finding {
	f := Finding{Closeness: j.closeness(), Unchecked: j.unchecked, Rounded: j.rounded, against: j.against}
	missing := j.missing()
	switch {
	case len(j.against) > 0:
		f.Why = j.against[0]
	case len(j.doubts) > 0:
		f.Verdict, f.Why = Unsure, j.doubts[0]
	case missing == "" && len(j.floating) > 0:
		f.Verdict, f.Why = Unsure, j.floating[0]
	case missing == "":
		f.Verdict, f.Why = Right, "the reply states every expected value"
	case !j.read:
		f.Verdict, f.Why = Unsure, "no claim could be read from the reply"
	default:
		f.Why = "the reply does not state " + missing
	}
	return f
}

func (j *judging) closeness() float64 {
	if j.w.cells == 0 {
		return 0
	}
	return float64(len(j.met)) / float64(j.w.cells)
}

// missing names the first expected cell that is not met; "" where all are.
func (j *judging) missing() string {
	t := j.w.Table
	for row := range t.Rows() {
		for column := range t.Columns {
			if !j.met[cellAt{row, column}] {
				return j.cell(row, column)
			}
		}
	}
	return ""
}

// cell is an expected cell in words.
func (j *judging) cell(row, column int) string {
	t := j.w.Table
	c := t.Columns[column]
	shown := c.Value(row).String()
	if c.Type.Kind.Number() && !c.IsNull(row) {
		shown = table.DisplayNumber(c.Value(row), table.DisplayDecimals(c))
	}
	text := c.Name + " " + shown
	for _, c := range j.w.named {
		if c != column && t.Rows() > 1 {
			return text + " of " + t.Columns[c].Value(row).String()
		}
	}
	return text
}

// fit tells how a number states an expected cell.
func (j *judging) fit(c *said, row, column int) fit {
	x, ok := numberOf(j.w.Table, row, column)
	if !ok {
		return misses
	}
	fraction, ratio := j.w.ratio(column)
	n := c.n
	switch {
	case n.percent && fraction:
		n = n.hundredth()
	case n.fraction && ratio && !fraction:
		n.value *= 100
		if math.Abs(n.value-x) <= 1 {
			return rounded
		}
		return misses
	}
	if c.down && n.value > 0 && (x < 0 || j.asksDelta() && !j.w.asksAny(downStems)) {
		n.value = -n.value // "fell by 3 %"
	}
	return n.states(x, j.w.Table.Columns[column].Type.Kind == value.Int)
}

// rowsOf are the expected rows that a number may be of; tied tells that names say so.
func (j *judging) rowsOf(c *said) (rows []int, tied bool) {
	if len(c.ties) > 0 {
		return rowsWith(j.w.Table, c.ties), true
	}
	if j.w.Table.Rows() == 1 || len(j.w.named) == 0 {
		return everyRow(j.w.Table), false
	}
	return nil, false
}

// meet finds for each number the expected cell that it states.
func (j *judging) meet() {
	for _, wants := range []relation{sameUnit, noUnit, unknownUnit} {
		for _, c := range j.numbers {
			if c.met || c.negated || c.dropped || c.delta && !j.asksDelta() || c.part || c.total && j.w.Table.Rows() > 1 &&
				len(c.ties) == 0 {
				continue
			}
			rows, _ := j.rowsOf(c)
			j.meetIn(c, rows, wants)
		}
	}
	for _, cell := range j.byQuotient {
		if !j.met[cell] && !j.saidInUnit(cell) {
			j.met[cell], j.read = true, true
		}
	}
	for row := range j.w.Table.Rows() {
		for _, column := range j.w.numbered {
			if j.w.Table.Columns[column].IsNull(row) && !j.given(row, column) {
				j.met[cellAt{row, column}] = true
			}
		}
	}
}

// given tells whether a number is said of a row whose cell is empty.
func (j *judging) given(row, column int) bool {
	return slices.ContainsFunc(j.numbers, func(c *said) bool {
		rows, _ := j.rowsOf(c)
		return !c.met && !c.negated && !c.dropped && !c.delta && !c.total && c.n.value != 0 && len(rows) == 1 && rows[0] == row &&
			j.w.relation(c, column) >= noUnit
	})
}

// saidInUnit tells whether a number was said in a cell's own unit, beside which a quotient does not count.
func (j *judging) saidInUnit(cell cellAt) bool {
	for _, c := range j.numbers {
		if !j.quotient[c] && !c.negated && !c.dropped && j.w.relation(c, cell.column) == sameUnit && (c.n.percent || c.n.fraction) {
			return true
		}
	}
	return false
}

// meetIn takes the best unmet cell of some rows that a number of a relation states.
func (j *judging) meetIn(c *said, rows []int, wants relation) {
	best, at := loosely, cellAt{}
	for _, row := range rows {
		for _, column := range j.w.numbered {
			cell := cellAt{row, column}
			if j.met[cell] || j.w.relation(c, column) != wants {
				continue
			}
			if f := j.fit(c, row, column); f > best {
				best, at = f, cell
			}
		}
	}
	if best == loosely {
		return
	}
	j.read = true
	if c.period != nil {
		j.doubts = append(j.doubts, fmt.Sprintf("%q gives the expected %s for %s, of which the question does not speak", clip(c.s.text),
			j.cell(at.row, at.column), c.period.text))
		c.met = true
		return
	}
	c.met, j.met[at] = true, true
	j.rounded = j.rounded || best == rounded
}

// deltaStems and downStems are the words by which a question asks for a difference, and for a fall.
var (
	deltaStems = stemmed(setOf(
		"gain grow growth rise increase decrease fall drop change differ difference compare lose improve decline more less fewer " +
			"higher lower gap margin reduce shrink win"))
	downStems = stemmed(setOf("decrease fall drop lose loss decline less fewer lower reduce shrink shortfall deficit"))
)

// asksDelta tells whether the question asks for a difference.
func (j *judging) asksDelta() bool {
	return j.w.asksAny(deltaStems) || len(j.w.numbered) == 1 && len(j.w.named) == 0 && j.deltaNamed()
}

// asksAny tells whether a word of the question is one of some stems.
func (w *wanted) asksAny(all map[string]bool) bool {
	for s := range w.questionStems {
		if all[s] {
			return true
		}
	}
	return false
}

func (j *judging) deltaNamed() bool {
	for s := range j.w.nameWords[j.w.numbered[0]] {
		if deltaWords[s] || strings.HasPrefix(s, "diff") || strings.HasPrefix(s, "chang") || strings.HasPrefix(s, "growth") {
			return true
		}
	}
	return false
}

// otherNumbers looks at the numbers that meet nothing: they support, contradict, could be the answer, or stay unchecked.
func (j *judging) otherNumbers() {
	for _, c := range j.numbers {
		if c.met || c.negated || c.dropped || c.weak() && !j.denies(c) {
			continue
		}
		j.read = true
		switch {
		case j.w.asks(c.n.value):
		case j.loose(c):
			j.doubt(c)
		case !j.supports(c):
			j.weigh(c)
		}
	}
}

// weak tells a number that is hardly one: a small one in words without a noun of the measure.
func (c *said) weak() bool { return c.n.worded && !c.n.fraction && c.n.value < 13 }

// denies tells whether a weak number takes the place of an asked one.
func (j *judging) denies(c *said) bool {
	rows, tied := j.rowsOf(c)
	if len(rows) == 0 || !tied && j.w.Table.Rows() > 1 {
		return false
	}
	return j.sameMeasure(c)
}

// loose tells whether a number may be meant for an expected cell: in another writing, rounded without a word of it, as the end of a
// range.
func (j *judging) loose(c *said) bool {
	rows, _ := j.rowsOf(c)
	for _, row := range rows {
		for _, column := range j.w.numbered {
			if !j.met[cellAt{row, column}] && j.w.relation(c, column) != otherUnit && (j.fit(c, row, column) == loosely || j.ranges(c,
				row, column)) {
				return true
			}
		}
	}
	return false
}

// weigh judges a number that is neither met nor true otherwise.
func (j *judging) weigh(c *said) {
	rows, tied := j.rowsOf(c)
	switch {
	case c.period != nil || c.delta || c.part || c.whole, tied && len(rows) == 0, c.other && !tied:
		j.leave(c)
	case len(rows) > 0:
		j.weighIn(c, rows, tied || j.w.Table.Rows() == 1)
	case !c.total && j.couldBe(c, everyRow(j.w.Table)): // it stands with no row of several
		j.floating = append(j.floating, c.couldBe())
	default:
		j.leave(c)
	}
}

// weighIn judges a number that stands with some rows; sure says that it is theirs.
func (j *judging) weighIn(c *said, rows []int, sure bool) {
	unmet, related := cellAt{-1, -1}, false
	for _, row := range rows {
		for _, column := range j.w.numbered {
			r := j.w.relation(c, column)
			met := j.met[cellAt{row, column}]
			if r != otherUnit && met && j.fit(c, row, column) >= loosely {
				return // said again
			}
			related = related || r == noUnit || r == sameUnit
			if r != otherUnit && !met && unmet.row < 0 {
				unmet = cellAt{row, column}
			}
		}
	}
	switch {
	case unmet.row >= 0 && related && sure:
		j.against = append(j.against,
			fmt.Sprintf("%q says %s where %s is expected", clip(c.s.text), c.n.text, j.cell(unmet.row, unmet.column)))
	case related && !c.total && j.couldBe(c, rows):
		j.doubt(c)
	default:
		j.leave(c)
	}
}

// ranges tells whether a number is an end of a range that holds an expected cell.
func (j *judging) ranges(c *said, row, column int) bool {
	x, ok := numberOf(j.w.Table, row, column)
	if !ok || c.until == nil {
		return false
	}
	low, high := math.Min(c.n.value, c.until.value), math.Max(c.n.value, c.until.value)
	if fraction, _ := j.w.ratio(column); fraction && (c.n.percent || c.until.percent) {
		x *= 100
	}
	return low <= x && x <= high
}

func (j *judging) leave(c *said) {
	if !c.weak() {
		j.unchecked = append(j.unchecked, c.n.text)
	}
}

func (j *judging) doubt(c *said) {
	j.doubts = append(j.doubts, c.couldBe())
}

func (c *said) couldBe() string {
	return fmt.Sprintf("%q: %s could be the answer too", clip(c.s.text), c.n.text)
}

// couldBe tells whether a number has the unit of an expected cell, or none, and lies within a factor of ten of it.
func (j *judging) couldBe(c *said, rows []int) bool {
	for _, row := range rows {
		for _, column := range j.w.numbered {
			if r := j.w.relation(c, column); r != sameUnit && r != noUnit {
				continue
			}
			x, ok := numberOf(j.w.Table, row, column)
			y := c.n.value
			if fraction, _ := j.w.ratio(column); fraction && c.n.percent {
				y /= 100
			}
			if ok && (x == y || x*y > 0 && x/y < 10 && y/x < 10) {
				return true
			}
		}
	}
	return false
}

// clip is a sentence, shortened.
func clip(text string) string {
	const most = 90
	text = strings.TrimSpace(text)
	if r := []rune(text); len(r) > most {
		return string(r[:most]) + "…"
	}
	return text
}
