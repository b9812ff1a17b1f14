package match

import (
	"bytes"
	"math"
	"math/big"
	"strconv"
	"strings"

	"github.com/zeebo/xxh3"

	"tovrel/core/table"
	"tovrel/core/value"
)

// relative is how far floats may lie apart and be the same number: of the larger of the two, and of the largest
// magnitude in the column (so that a difference of large floats that is nearly zero is zero).
const relative = 1e-9

// mode is how the numbers of a column are compared.
type mode uint8

const (
	byValue         mode = iota // the same value: clause (a) of shown, or exact
	expectedRounded             // clause (b): the answer rounded to the expected column's decimals
	answerRounded               // clause (c): the expected column rounded to the answer's decimals
	byDistance                  // rel and abs: within a distance
	byDigits                    // digits: both rounded to a number of decimals
)

// comparer compares the cells of one pair of aligned columns.
type comparer struct {
	e, a     lane
	exact    bool // equal cells have equal hashes
	strict   bool // floats by value alone
	mode     mode
	decimals int
	limit    float64       // clause (a): absolute tolerance from the column's largest magnitude
	rel, abs float64       // byDistance
	ticks    *big.Rat      // byDistance over exact numbers: abs in ticks, nil for rel
	ec, ac   *table.Column // the cells themselves, for the rounding modes
	remark   Remark        // what reading the answer so would have to be remarked; "" for nothing
}

// newComparer chooses how a pair of columns is compared. Rounded is to how many decimals the expected numbers are already
// rounded, 0 for not at all.
func newComparer(expected, answer *table.Column, r columnRules, rounded int) *comparer {
	e, a := meet(expected, answer, r)
	c := &comparer{e: e, a: a, exact: e.class != classFloat, ec: expected, ac: answer}
	numbers := expected.Type.Kind.Number() && answer.Type.Kind.Number()
	if r.numbers == "exact" {
		c.exact, c.strict = true, true
		return c
	}
	if e.class == classFloat {
		c.limit = relative * math.Max(largest(&e), largest(&a))
	}
	switch {
	case r.numbers != "shown":
		if numbers && (expected.Type.Kind != value.Int || r.narrow) {
			c.loosen(r)
		}
	case rounded >= 1 && numbers:
		c.mode, c.decimals, c.exact = expectedRounded, rounded, false
	}
	return c
}

// loosen compares under rel, abs or digits.
func (c *comparer) loosen(r columnRules) {
	amount, _ := r.amount.Float64()
	c.exact = false
	switch r.numbers {
	case "rel":
		c.mode, c.rel = byDistance, amount
	case "abs":
		c.mode, c.abs = byDistance, amount
		if c.e.class == classTicks {
			unscaled, scale := r.amount.Unscaled()
			c.ticks = new(big.Rat).SetFrac(unscaled, new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil))
			c.ticks.Mul(c.ticks, new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(c.e.scale)), nil)))
		}
	case "digits":
		digits, _ := r.amount.Small()
		c.mode, c.decimals = byDigits, int(digits)
	}
}

// asAnswerRounded is the comparer under clause (c), or nil where the clause does not apply: the expected column is whole
// or has no more decimals than the answer shows.
func (c *comparer) asAnswerRounded(r columnRules) *comparer {
	if r.numbers != "shown" || c.mode != byValue && c.mode != expectedRounded || !c.ec.Type.Kind.Number() ||
		!c.ac.Type.Kind.Number() || c.ec.Type.Kind == value.Int {
		return nil
	}
	d := max(2, mostDecimals(c.ac))
	if d >= mostDecimals(c.ec) {
		return nil
	}
	out := *c
	out.mode, out.decimals, out.exact, out.remark = answerRounded, d, false, Rounded
	return &out
}

// equal compares the cells of an expected and an answer row.
func (c *comparer) equal(i, j int) bool {
	if c.e.null(i) || c.a.null(j) {
		return c.e.null(i) && c.a.null(j)
	}
	switch c.mode {
	case expectedRounded:
		return c.sameValue(i, j) || roundsTo(numberAt(c.ac, j), numberAt(c.ec, i), c.decimals)
	case answerRounded:
		return c.shownAs(i, j)
	case byDistance:
		return c.sameValue(i, j) || c.near(i, j)
	case byDigits:
		return c.sameValue(i, j) || c.sameDigits(i, j)
	}
	return c.sameValue(i, j)
}

// numberAt is a cell's number; zero for nothing, where nothing counts as zero: it comes here for no other reason.
func numberAt(c *table.Column, row int) value.Value {
	if c.IsNull(row) {
		return value.OfInt(0)
	}
	return c.Value(row)
}

// sameValue is clause (a). The cells are not null.
func (c *comparer) sameValue(i, j int) bool {
	switch c.e.class {
	case classTicks:
		return c.e.ticks[i] == c.a.ticks[j]
	case classText:
		return c.e.texts[i] == c.a.texts[j]
	}
	x, y := c.e.floats[i], c.a.floats[j]
	if x == y || math.IsNaN(x) && math.IsNaN(y) {
		return true
	}
	if c.strict || math.IsInf(x, 0) || math.IsInf(y, 0) {
		return false
	}
	d := math.Abs(x - y)
	return d <= c.limit || d <= relative*math.Max(math.Abs(x), math.Abs(y))
}

// near compares under rel or abs; exact numbers exactly.
func (c *comparer) near(i, j int) bool {
	if c.e.class == classTicks {
		x, y := c.e.ticks[i], c.a.ticks[j]
		if c.ticks != nil {
			d := new(big.Int).Sub(big.NewInt(x), big.NewInt(y))
			return new(big.Rat).SetInt(d.Abs(d)).Cmp(c.ticks) <= 0
		}
		return math.Abs(float64(x)-float64(y)) <= c.rel*math.Max(math.Abs(float64(x)), math.Abs(float64(y)))
	}
	if c.e.class != classFloat {
		return false
	}
	x, y := c.e.floats[i], c.a.floats[j]
	slack := 1 + relative // what binary fractions make of a decimal distance
	return math.Abs(x-y) <= slack*math.Max(c.abs, c.rel*math.Max(math.Abs(x), math.Abs(y)))
}

func (c *comparer) sameDigits(i, j int) bool {
	e, a := numberAt(c.ec, i), numberAt(c.ac, j)
	return value.CompareNumbers(value.RoundHalfUp(e, c.decimals), value.RoundHalfUp(a, c.decimals)) == 0 ||
		value.CompareNumbers(value.RoundHalfEven(e, c.decimals), value.RoundHalfEven(a, c.decimals)) == 0
}

// shownAs is clause (c) for one cell.
func (c *comparer) shownAs(i, j int) bool {
	e, a := numberAt(c.ec, i), numberAt(c.ac, j)
	if !roundsTo(e, a, c.decimals) {
		return false
	}
	x, _ := e.Float64()
	y, _ := a.Float64()
	if math.Abs(x-y) > 0.005*math.Abs(x) {
		return false
	}
	between := math.Abs(x) > 0 && math.Abs(x) < 1
	return !between || y != 0 && math.Abs(y) != 1
}

// roundsTo tells whether a number rounded to some decimals, half up or half even, is another.
func roundsTo(from, to value.Value, decimals int) bool {
	target, ok := to.Exact()
	if !ok {
		return false
	}
	return value.CompareNumbers(value.RoundHalfUp(from, decimals), target) == 0 ||
		value.CompareNumbers(value.RoundHalfEven(from, decimals), target) == 0
}

// width is how far from a position an equal cell can lie at most, generously; positions are those of lane.position.
func (c *comparer) width(at float64) float64 {
	w := c.limit + 4*relative*math.Abs(at)
	switch c.mode {
	case expectedRounded, answerRounded, byDigits:
		w += 2 * math.Pow10(-c.decimals) * c.e.unit()
	case byDistance:
		w += 2*c.abs*c.e.unit() + 2*c.rel*math.Abs(at)/math.Max(1e-9, 1-math.Min(c.rel, 0.999))
	}
	if math.IsInf(at, 0) || math.IsNaN(w) || c.rel >= 0.999 {
		return math.MaxFloat64
	}
	return w
}

// nullHash stands for a null in a row's hash.
const nullHash = 0x9e3779b97f4a7c15

// mixInto adds a lane's cells to the hashes of their rows.
func (l *lane) mixInto(hashes []uint64) {
	for row := range hashes {
		h := uint64(nullHash)
		if !l.null(row) {
			h = l.hash(row)
		}
		hashes[row] = mix(hashes[row]*31 + h)
	}
}

func (l *lane) hash(row int) uint64 {
	switch l.class {
	case classTicks:
		return mix(uint64(l.ticks[row]))
	case classText:
		return xxh3.HashString(l.texts[row])
	}
	f := l.floats[row]
	switch {
	case f == 0:
		f = 0 // -0 is 0
	case math.IsNaN(f):
		f = math.NaN()
	}
	return mix(math.Float64bits(f))
}

// mix spreads the bits of a hash: the finaliser of the splitmix64 generator
// (Steele, Lea, Flood: Fast splittable pseudorandom number generators, 2014).
func mix(x uint64) uint64 {
	x ^= x >> 30
	x *= 0xbf58476d1ce4e5b9
	x ^= x >> 27
	x *= 0x94d049bb133111eb
	return x ^ x>>31
}

func largest(l *lane) float64 {
	m := 0.0
	for i, f := range l.floats {
		if a := math.Abs(f); a > m && !math.IsInf(a, 0) && !l.null(i) {
			m = a
		}
	}
	return m
}

// mostDecimals is the largest number of decimals that a number column shows, trailing zeros aside.
func mostDecimals(c *table.Column) int {
	most := 0
	for i := range c.Len() {
		most = max(most, decimalsOf(c, i))
	}
	return most
}

func decimalsOf(c *table.Column, row int) int {
	v := c.Value(row)
	if ticks, small := v.Small(); small {
		decimals := c.Type.Scale
		for ; decimals > 0 && ticks%10 == 0; decimals-- {
			ticks /= 10
		}
		return decimals
	}
	if f, ok := v.Float64(); ok && math.Abs(f) >= 1e-6 && math.Abs(f) < 1e15 { // written out without an exponent
		var digits [40]byte
		text := strconv.AppendFloat(digits[:0], f, 'f', -1, 64)
		if point := bytes.IndexByte(text, '.'); point >= 0 {
			return len(text) - point - 1
		}
		return 0
	}
	text := v.String()
	if strings.ContainsAny(text, "eIN") { // an exponent, or no number
		exact, ok := v.Exact()
		if !ok {
			return 0
		}
		text = exact.String()
	}
	_, frac, _ := strings.Cut(text, ".")
	return len(strings.TrimRight(frac, "0"))
}
