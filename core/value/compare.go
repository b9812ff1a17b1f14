package value

import (
	"math"
	"math/big"
	"strings"
)

// Compare orders two values: nulls last, numbers by exact value, texts by bytes, times by instant; values of
// unlike kinds by kind. NaN is the largest number and equals itself; -0 equals 0.
func Compare(a, b Value) int {
	if a.kind == Null || b.kind == Null {
		return compareInts(boolInt(a.kind == Null), boolInt(b.kind == Null))
	}
	if a.kind.Number() && b.kind.Number() {
		return CompareNumbers(a, b)
	}
	if isInstant(a.kind) && isInstant(b.kind) {
		return compareInts(a.Micros(), b.Micros())
	}
	if a.kind != b.kind {
		return compareInts(rank(a.kind), rank(b.kind))
	}
	switch a.kind {
	case Text, Blob, JSON:
		return strings.Compare(a.text, b.text)
	case Interval:
		return compareInts(a.roughMicros(), b.roughMicros())
	}
	return compareInts(a.num, b.num)
}

// CompareNumbers orders two numbers by exact value; floats meet exact numbers as the rationals that they are.
func CompareNumbers(a, b Value) int {
	if a.big == nil && b.big == nil && a.kind != Float && b.kind != Float && a.scale == b.scale {
		return compareInts(a.num, b.num)
	}
	x, xf := nonFinite(a)
	y, yf := nonFinite(b)
	if xf || yf {
		return compareFloats(x, y)
	}
	if a.kind == Float && b.kind == Float {
		return compareFloats(x, y)
	}
	return a.rat().Cmp(b.rat())
}

// nonFinite gives a number as a float, and whether it is NaN or infinite.
func nonFinite(v Value) (float64, bool) {
	f, _ := v.Float64()
	return f, v.kind == Float && (math.IsNaN(f) || math.IsInf(f, 0))
}

func compareFloats(x, y float64) int {
	switch {
	case math.IsNaN(x) || math.IsNaN(y):
		return compareInts(boolInt(math.IsNaN(x)), boolInt(math.IsNaN(y)))
	case x < y:
		return -1
	case x > y:
		return 1
	}
	return 0
}

// rank orders the kinds among each other. Instants have one place, for they are ordered by when they are.
func rank(k Kind) int64 {
	if isInstant(k) {
		return int64(Date)
	}
	return int64(k)
}

func isInstant(k Kind) bool { return k == Date || k == Timestamp || k == TimestampTZ }

// Micros is the instant of a date (at midnight) or timestamp in microseconds since 1970-01-01.
func (v Value) Micros() int64 {
	if v.kind == Date {
		if v.num > math.MaxInt64/dayMicros || v.num < math.MinInt64/dayMicros {
			return v.num // an infinite date
		}
		return v.num * dayMicros
	}
	return v.num
}

const dayMicros = 86_400_000_000

// IntervalParts gives an interval's months, days and microseconds.
func (v Value) IntervalParts() (months, days int32, us int64) { return v.scale, v.days, v.num }

// roughMicros takes a month as 30 days, as the engine does when it orders intervals.
func (v Value) roughMicros() int64 {
	return (int64(v.scale)*30+int64(v.days))*dayMicros + v.num
}

// RoundHalfUp and RoundHalfEven round an exact or float number to a number of decimals.
// A float is rounded by its shortest decimal form, which is what people see.
func RoundHalfUp(v Value, decimals int) Value { return round(v, decimals, false) }

// RoundHalfEven rounds ties to the even neighbour; see RoundHalfUp.
func RoundHalfEven(v Value, decimals int) Value { return round(v, decimals, true) }

func round(v Value, decimals int, even bool) Value {
	exact, ok := v.Exact()
	if !ok {
		return v
	}
	unscaled, scale := exact.Unscaled()
	if scale <= decimals {
		return exact
	}
	unit := pow10(scale - decimals)
	quotient, rest := new(big.Int).QuoRem(unscaled, unit, new(big.Int))
	twice := new(big.Int).Abs(rest)
	twice.Lsh(twice, 1)
	c := twice.Cmp(unit)
	if c > 0 || c == 0 && (!even || quotient.Bit(0) == 1) {
		quotient.Add(quotient, big.NewInt(int64(unscaled.Sign())))
	}
	return OfBigDecimal(quotient, max(decimals, 0))
}

// Exact gives a number as integer or decimal: a float by its shortest decimal form. False for NaN,
// infinities and kinds that are not numbers.
func (v Value) Exact() (Value, bool) {
	switch v.kind {
	case Int, Decimal:
		return v, true
	case Float:
		f := math.Float64frombits(uint64(v.num))
		if math.IsNaN(f) || math.IsInf(f, 0) {
			return v, false
		}
		return parseExact(formatFloat(f))
	}
	return v, false
}

func compareInts(a, b int64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

func boolInt(b bool) int64 {
	if b {
		return 1
	}
	return 0
}

// Shift multiplies a number by 10^digits and gives it in a type: float, or an exact one whose scale holds it. Null stays null.
func Shift(v Value, digits int, t Type) Value {
	if v.IsNull() {
		return v
	}
	if v.kind == Float {
		f, _ := v.Float64()
		return OfFloat(f * math.Pow10(digits))
	}
	unscaled, scale := v.Unscaled()
	add := t.Scale - scale + digits
	if add < 0 {
		return OfBigDecimal(new(big.Int).Quo(unscaled, pow10(-add)), t.Scale)
	}
	return OfBigDecimal(new(big.Int).Mul(unscaled, pow10(add)), t.Scale)
}
