// Package value holds typed cells: null, boolean, integer, exact decimal, float, text, date, time,
// timestamp, interval, blob and JSON. Integers and decimals of any size are exact and never pass
// through floats. The package does not compare under tolerance; core/match does.
package value

import (
	"math"
	"math/big"
)

// Kind is the kind of a cell or column.
type Kind uint8

// The kinds, in the order in which types are printed.
const (
	Null Kind = iota
	Bool
	Int
	Decimal
	Float
	Text
	Date
	Time
	Timestamp
	TimestampTZ
	Interval
	Blob
	JSON // a list, struct or map, as JSON text
)

var kindNames = [...]string{"null", "boolean", "integer", "decimal", "float", "text", "date", "time",
	"timestamp", "timestamptz", "interval", "blob", "json"}

// String is the name that outputs show, such as "integer".
func (k Kind) String() string { return kindNames[k] }

// Number tells whether cells of this kind are numbers.
func (k Kind) Number() bool { return k == Int || k == Decimal || k == Float }

// Textual tells texts from the other kinds.
func (k Kind) Textual() bool { return k == Text }

// Temporal tells dates and times from the other kinds.
func (k Kind) Temporal() bool { return k == Date || k == Time || k == Timestamp || k == TimestampTZ }

// KindNamed finds a kind by its name.
func KindNamed(name string) (Kind, bool) {
	for i, n := range kindNames {
		if n == name {
			return Kind(i), true
		}
	}
	return Null, false
}

// Type is the type of a column: its kind, and the digits after the point for decimals.
type Type struct {
	Kind  Kind
	Scale int
}

// String is the name of the type's kind.
func (t Type) String() string { return t.Kind.String() }

// Value is one immutable cell. The zero Value is null.
type Value struct {
	kind  Kind
	scale int32 // Decimal: digits after the point; Interval: months
	days  int32 // Interval: days
	num   int64 // Bool, Int, Decimal (unscaled), Date (days), Time, Timestamp, Interval (microseconds); Float: its bits
	text  string
	big   *big.Int // Int and Decimal (unscaled) that num does not hold
}

// OfBool makes a boolean.
func OfBool(b bool) Value {
	if b {
		return Value{kind: Bool, num: 1}
	}
	return Value{kind: Bool}
}

// OfInt makes an integer.
func OfInt(i int64) Value { return Value{kind: Int, num: i} }

// OfBig makes an integer of any size.
func OfBig(i *big.Int) Value { return OfBigDecimal(i, 0) }

// OfDecimal makes unscaled × 10^-scale. A scale of 0 makes an integer.
func OfDecimal(unscaled int64, scale int) Value {
	if scale == 0 {
		return OfInt(unscaled)
	}
	return Value{kind: Decimal, num: unscaled, scale: int32(scale)}
}

// OfBigDecimal makes unscaled × 10^-scale of any size. A scale of 0 makes an integer.
func OfBigDecimal(unscaled *big.Int, scale int) Value {
	if unscaled.IsInt64() {
		return OfDecimal(unscaled.Int64(), scale)
	}
	kind := Decimal
	if scale == 0 {
		kind = Int
	}
	return Value{kind: kind, scale: int32(scale), big: unscaled}
}

// OfFloat makes a float.
func OfFloat(f float64) Value { return Value{kind: Float, num: int64(math.Float64bits(f))} }

// OfText makes a text.
func OfText(s string) Value { return Value{kind: Text, text: s} }

// OfBlob makes a blob from its bytes.
func OfBlob(b string) Value { return Value{kind: Blob, text: b} }

// OfJSON makes a list, struct or map from its JSON text.
func OfJSON(s string) Value { return Value{kind: JSON, text: s} }

// OfDate makes a date from days since 1970-01-01.
func OfDate(days int64) Value { return Value{kind: Date, num: days} }

// OfTime makes a time of day from microseconds since midnight.
func OfTime(us int64) Value { return Value{kind: Time, num: us} }

// OfTimestamp makes a timestamp without zone from microseconds since 1970-01-01.
func OfTimestamp(us int64) Value { return Value{kind: Timestamp, num: us} }

// OfTimestampTZ makes an instant from microseconds since 1970-01-01 UTC.
func OfTimestampTZ(us int64) Value { return Value{kind: TimestampTZ, num: us} }

// OfInterval makes an interval from its three parts.
func OfInterval(months, days int32, us int64) Value {
	return Value{kind: Interval, scale: months, days: days, num: us}
}

// Kind is the value's kind.
func (v Value) Kind() Kind { return v.kind }

// IsNull tells whether the value is null.
func (v Value) IsNull() bool { return v.kind == Null }

// Type is the value's type.
func (v Value) Type() Type {
	if v.kind == Decimal {
		return Type{Decimal, int(v.scale)}
	}
	return Type{Kind: v.kind}
}

// Small gives the 64-bit payload: the integer, unscaled decimal, days or microseconds; false when it does not fit or
// the kind has none.
func (v Value) Small() (int64, bool) {
	switch v.kind {
	case Bool, Int, Decimal, Date, Time, Timestamp, TimestampTZ:
		return v.num, v.big == nil
	}
	return 0, false
}

// Unscaled gives an integer or decimal as unscaled × 10^-scale; nil for other kinds. The caller must not change it.
func (v Value) Unscaled() (unscaled *big.Int, scale int) {
	if v.kind != Int && v.kind != Decimal {
		return nil, 0
	}
	if v.big != nil {
		return v.big, int(v.scale)
	}
	return big.NewInt(v.num), int(v.scale)
}

// Float64 gives a number as the nearest float; false for other kinds.
func (v Value) Float64() (float64, bool) {
	switch v.kind {
	case Float:
		return math.Float64frombits(uint64(v.num)), true
	case Int, Decimal:
		if v.big == nil && v.kind == Int {
			return float64(v.num), true
		}
		if v.big == nil && v.scale <= 22 && v.num > -1<<53 && v.num < 1<<53 {
			return float64(v.num) / math.Pow10(int(v.scale)), true // both exact, so one rounding
		}
		f, _ := v.rat().Float64()
		return f, true
	}
	return 0, false
}

// Str is the payload of a text, blob or JSON value, else "".
func (v Value) Str() string { return v.text }

// rat is the exact rational of an integer, decimal or finite float.
func (v Value) rat() *big.Rat {
	if v.kind == Float {
		return new(big.Rat).SetFloat64(math.Float64frombits(uint64(v.num)))
	}
	unscaled, scale := v.Unscaled()
	return new(big.Rat).SetFrac(unscaled, pow10(scale))
}

func pow10(n int) *big.Int { return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil) }
