package value_test

import (
	"encoding/json"
	"math"
	"math/big"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/value"
)

// anyValue draws values of all kinds, with few distinct contents, so that equal ones and neighbours meet.
func anyValue() *rapid.Generator[value.Value] {
	small := rapid.Int64Range(-3, 3)
	return rapid.OneOf(
		rapid.Just(value.Value{}),
		rapid.Map(rapid.Bool(), value.OfBool),
		rapid.Map(small, value.OfInt),
		rapid.Map(small, func(i int64) value.Value { return value.OfInt(math.MaxInt64 - 3 + i) }),
		rapid.Map(small, func(i int64) value.Value { return value.OfDecimal(i*25, 2) }),
		rapid.Map(small, func(i int64) value.Value { return value.OfFloat(float64(i) / 4) }),
		rapid.SampledFrom([]value.Value{value.OfFloat(math.NaN()), value.OfFloat(math.Inf(1)), value.OfFloat(math.Inf(-1)),
			value.OfFloat(math.Copysign(0, -1)), value.OfFloat(1 << 53), value.OfInt(1<<53 + 1),
			value.OfBig(new(big.Int).Lsh(big.NewInt(3), 90))}),
		rapid.Map(rapid.SampledFrom([]string{"", "a", "b", "ä", "B"}), value.OfText),
		rapid.Map(rapid.SampledFrom([]string{"", "\x00", "a"}), value.OfBlob),
		rapid.Map(small, value.OfDate),
		rapid.Map(small, func(i int64) value.Value { return value.OfTime((i + 3) * 1e6) }),
		rapid.Map(small, func(i int64) value.Value { return value.OfTimestamp(i * 43_200_000_000) }),
		rapid.Map(small, func(i int64) value.Value { return value.OfTimestampTZ(i * 43_200_000_000) }),
		rapid.Map(small, func(i int64) value.Value { return value.OfInterval(int32(i), 0, 0) }),
		rapid.Map(small, func(i int64) value.Value { return value.OfInterval(0, int32(i*30), 0) }),
	)
}

// TestTotalOrder: Compare orders all values, of whatever kinds, in one way.
func TestTotalOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b, c := anyValue().Draw(t, "a"), anyValue().Draw(t, "b"), anyValue().Draw(t, "c")
		require.Zero(t, value.Compare(a, a), "%s", a)
		require.Equal(t, value.Compare(a, b), -value.Compare(b, a), "%s %s", a, b)
		if value.Compare(a, b) <= 0 && value.Compare(b, c) <= 0 {
			require.LessOrEqual(t, value.Compare(a, c), 0, "%s %s %s", a, b, c)
		}
		if value.Compare(a, b) == 0 {
			require.Equal(t, value.Compare(a, c), value.Compare(b, c), "%s %s %s", a, b, c)
		}
	})
}

// TestOrder holds the order where people would ask for it.
func TestOrder(t *testing.T) {
	nan := value.OfFloat(math.NaN())
	for _, ordered := range [][]value.Value{
		{value.OfFloat(math.Inf(-1)), value.OfInt(-5), value.OfDecimal(-49, 1), value.OfFloat(-0.5), value.OfInt(0), value.OfDecimal(1, 2),
			value.OfFloat(0.1), value.OfInt(math.MaxInt64), value.OfBig(new(big.Int).Lsh(big.NewInt(1), 80)), value.OfFloat(math.Inf(1)),
			nan, {}},
		{value.OfText("A"), value.OfText("a"), value.OfText("aa"), value.OfText("ä"), {}},
		{value.OfBool(false), value.OfBool(true), {}},
		{value.OfDate(-1), value.OfTimestamp(-1), value.OfDate(0), value.OfTimestamp(1), value.OfTimestampTZ(2), value.OfDate(1), {}},
		{value.OfInterval(0, 29, 0), value.OfInterval(1, 0, 0), value.OfInterval(0, 30, 1), value.OfInterval(12, 0, 0), {}},
		{value.OfTime(0), value.OfTime(1), {}},
	} {
		for i := range ordered {
			for j := range ordered {
				want := min(1, max(-1, i-j))
				require.Equal(t, want, value.Compare(ordered[i], ordered[j]), "%s %s", ordered[i], ordered[j])
			}
		}
	}
	require.Negative(t, value.Compare(value.OfTimestamp(5), value.OfTime(3)), "a time of day is after all instants, as after a date")
	require.Negative(t, value.Compare(value.OfDate(0), value.OfTime(3)))
	require.Zero(t, value.Compare(value.OfFloat(0), value.OfFloat(math.Copysign(0, -1))), "-0 is 0")
	require.Zero(t, value.Compare(nan, value.OfFloat(-math.NaN())), "NaN equals itself")
	require.Zero(t, value.Compare(value.OfDate(1), value.OfTimestamp(86_400_000_000)), "a day is its midnight")
	require.Zero(t, value.Compare(value.OfInterval(1, 0, 0), value.OfInterval(0, 30, 0)), "a month counts as 30 days")
	require.Zero(t, value.Compare(value.OfInterval(0, 1, 0), value.OfInterval(0, 0, 86_400_000_000)))
}

// TestNumbersAsFractions: numbers compare as fractions do, exactly.
func TestNumbersAsFractions(t *testing.T) {
	number := rapid.OneOf(
		rapid.Map(rapid.Int64(), value.OfInt),
		rapid.Custom(func(t *rapid.T) value.Value {
			return value.OfDecimal(rapid.Int64().Draw(t, "unscaled"), rapid.IntRange(0, 12).Draw(t, "scale"))
		}),
		rapid.Map(rapid.Float64Range(-1e20, 1e20), value.OfFloat),
	)
	fraction := func(v value.Value) *big.Rat {
		if f, ok := v.Float64(); ok && v.Kind() == value.Float {
			return new(big.Rat).SetFloat64(f)
		}
		unscaled, scale := v.Unscaled()
		return new(big.Rat).SetFrac(unscaled, new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil))
	}
	rapid.Check(t, func(t *rapid.T) {
		a, b := number.Draw(t, "a"), number.Draw(t, "b")
		require.Equal(t, fraction(a).Cmp(fraction(b)), value.CompareNumbers(a, b), "%s %s", a, b)
		near := value.OfFloat(math.Nextafter(must(a.Float64()), math.Inf(1)))
		require.Equal(t, fraction(a).Cmp(fraction(near)), value.CompareNumbers(a, near), "%s %s", a, near)
	})
}

func must[T any](v T, ok bool) T {
	if !ok {
		panic("not ok")
	}
	return v
}

// TestRoundingAsFractions: rounding gives the nearest number of those decimals, ties away from zero or to the even neighbour.
func TestRoundingAsFractions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		unscaled, scale := rapid.Int64Range(-10_000_000, 10_000_000).Draw(t, "unscaled"), rapid.IntRange(0, 6).Draw(t, "scale")
		decimals := rapid.IntRange(0, 6).Draw(t, "decimals")
		v := value.OfDecimal(unscaled, scale)
		unit := big.NewRat(1, int64(math.Pow10(decimals)))
		exact := big.NewRat(unscaled, int64(math.Pow10(scale)))
		for even, got := range map[bool]value.Value{false: value.RoundHalfUp(v, decimals), true: value.RoundHalfEven(v, decimals)} {
			rounded, ok := value.Rational(got.String())
			require.True(t, ok)
			off := new(big.Rat).Sub(rounded, exact)
			half := new(big.Rat).Mul(unit, big.NewRat(1, 2))
			require.LessOrEqual(t, new(big.Rat).Abs(off).Cmp(half), 0, "%s to %d is %s", v, decimals, got)
			require.True(t, new(big.Rat).Quo(rounded, unit).IsInt() || scale <= decimals, "%s to %d is %s", v, decimals, got)
			if new(big.Rat).Abs(off).Cmp(half) == 0 && scale > decimals {
				if even {
					require.Zero(t, new(big.Rat).Quo(rounded, unit).Num().Bit(0), "%s to %d is %s", v, decimals, got)
				} else {
					require.Equal(t, exact.Sign(), off.Sign(), "%s to %d is %s", v, decimals, got)
				}
			}
		}
	})
	for _, v := range []value.Value{value.OfText("1.55"), {}, value.OfFloat(math.NaN()), value.OfFloat(math.Inf(1))} {
		require.Equal(t, v.String(), value.RoundHalfUp(v, 1).String(), "what is no number stays")
	}
}

// TestCalendar: dates are those of the calendar, both ways, over four thousand years.
func TestCalendar(t *testing.T) {
	for days := int64(-800_000); days < 700_000; days += 97 {
		want := time.Unix(days*86_400, 0).UTC()
		year, month, day := value.Civil(days)
		require.Equal(t, []int{want.Year(), int(want.Month()), want.Day()}, []int{year, month, day}, "%d", days)
		if year >= 1 && year <= 9999 {
			v, err := value.Parse(want.Format(time.DateOnly), value.Type{Kind: value.Date})
			require.NoError(t, err)
			require.Equal(t, value.OfDate(days), v)
			require.Equal(t, want.Format(time.DateOnly), v.String())
		}
	}
}

// TestNoDates: what looks like a date and is none.
func TestNoDates(t *testing.T) {
	for _, text := range []string{"2031-02-29", "2031-13-01", "2031-00-10", "2031-04-31", "2031-06-00", "1900-02-29", "2031-1-01",
		"2031/01/01",
		"31-01-2031", "2031-01-01 ", "20310101", "2031-0a-01", "", "+031-01-01", "-031-01-01"} {
		_, err := value.Parse(text, value.Type{Kind: value.Date})
		require.Error(t, err, text)
	}
	for _, text := range []string{"2028-02-29", "2000-02-29", "2031-12-31", "0001-01-01"} {
		_, err := value.Parse(text, value.Type{Kind: value.Date})
		require.NoError(t, err, text)
	}
}

// TestClockTexts holds the forms in which times and instants are read, and what they are written as.
func TestClockTexts(t *testing.T) {
	for _, c := range []struct {
		kind       value.Kind
		text, want string // "" for not readable
	}{
		{value.Time, "07:05", "07:05:00"}, {value.Time, "07:05:09", "07:05:09"}, {value.Time, "23:59:59.5", "23:59:59.5"},
		{value.Time, "24:00:00", ""}, {value.Time, "7:05", ""}, {value.Time, "07-05", ""}, {value.Time, "", ""},
		{value.Timestamp, "2031-06-30 07:05", "2031-06-30 07:05:00"}, {value.Timestamp, "2031-06-30T07:05:09.25", "2031-06-30 07:05:09.25"},
		{value.Timestamp, "2031-06-31 07:05", ""}, {value.Timestamp, "2031-06-30", ""}, {value.Timestamp, "2031-06-30 07:05Z", ""},
		{value.TimestampTZ, "2031-06-30 07:05Z", "2031-06-30 07:05:00Z"}, {value.TimestampTZ, "2031-06-30T07:05:00+02:00",
			"2031-06-30 05:05:00Z"},
		{value.TimestampTZ, "2031-06-30 07:05:00-0130", "2031-06-30 08:35:00Z"}, {value.TimestampTZ, "2031-06-30 07:05:00+02",
			"2031-06-30 05:05:00Z"},
		{value.TimestampTZ, "2031-06-30 07:05:00", ""},
		{value.Bool, "true", "true"}, {value.Bool, "False", "false"}, {value.Bool, "yes", ""}, {value.Bool, "1", ""},
		{value.Blob, `\x00ff`, `\x00ff`}, {value.Blob, "00ff", ""}, {value.Blob, `\x0`, ""},
		{value.Int, "12", "12"}, {value.Int, "12.0", ""}, {value.Int, "1e2", "100"},
		{value.Null, "NULL", "NULL"}, {value.Null, "null", ""},
		{value.Float, "Infinity", "Infinity"}, {value.Float, "-Infinity", "-Infinity"}, {value.Float, "NaN", "NaN"}, {value.Float, "inf",
			""},
	} {
		v, err := value.Parse(c.text, value.Type{Kind: c.kind})
		if c.want == "" {
			require.Error(t, err, "%s %q", c.kind, c.text)
			continue
		}
		require.NoError(t, err, "%s %q", c.kind, c.text)
		require.Equal(t, c.want, v.String(), "%s %q", c.kind, c.text)
	}
}

// TestDecimals: a decimal text takes the type's scale, or does not fit it.
func TestDecimals(t *testing.T) {
	two := value.Type{Kind: value.Decimal, Scale: 2}
	for text, want := range map[string]string{"1": "1.00", "1.5": "1.50", "-0.05": "-0.05", "1e1": "10.00", "1.25e1": "12.50"} {
		v, err := value.Parse(text, two)
		require.NoError(t, err, text)
		require.Equal(t, want, v.String(), text)
	}
	for _, text := range []string{"1.555", "x", "", "1,5", "01.50"} {
		_, err := value.Parse(text, two)
		require.Error(t, err, text)
	}
}

// TestUnheld: numbers that no type holds are told from texts and from numbers.
func TestUnheld(t *testing.T) {
	for text, unheld := range map[string]bool{"1e400": true, "-1E999": true, strings.Repeat("9", 301): true, strings.Repeat("9",
		300): false,
		"1e308": false, "12": false, "abc": false, "": false, "1e400x": false} {
		require.Equal(t, unheld, value.Unheld(text), text)
		if unheld {
			_, plain := value.PlainNumber(text)
			require.False(t, plain, text)
		}
	}
}

// TestJSON: every value is valid JSON; numbers within 2^53 and finite floats are numbers, what would lose digits is a text.
func TestJSON(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := anyValue().Draw(t, "value")
		require.True(t, json.Valid(v.JSON()), "%s", v.JSON())
		require.Equal(t, "x"+string(v.JSON()), string(v.AppendJSON([]byte("x"))))
	})
	for want, v := range map[string]value.Value{
		"null": {}, "true": value.OfBool(true), "12": value.OfInt(12), "0.5": value.OfFloat(0.5), `"a\"b"`: value.OfText(`a"b`),
		"9007199254740992": value.OfInt(1 << 53), `"9007199254740993"`: value.OfInt(1<<53 + 1), `"NaN"`: value.OfFloat(math.NaN()),
		`"2031-06-30"`: value.OfDate(22460), `"1.50"`: value.OfDecimal(150, 2), `"<&>"`: value.OfText("<&>"),
	} {
		require.JSONEq(t, want, string(v.JSON()), "%s", v)
	}
}

// TestShift: a power of ten keeps the digits.
func TestShift(t *testing.T) {
	two := value.Type{Kind: value.Decimal, Scale: 2}
	for _, c := range []struct {
		v      value.Value
		digits int
		kind   value.Type
		want   string
	}{
		{value.OfInt(5), 2, value.Type{Kind: value.Int}, "500"}, {value.OfInt(500), -2, two, "5.00"}, {value.OfDecimal(12345, 4), 2, two,
			"123.45"},
		{value.OfDecimal(150, 2), 0, two, "1.50"}, {value.OfFloat(0.25), 2, value.Type{Kind: value.Float}, "25"}, {value.Value{}, 3, two,
			"NULL"},
	} {
		require.Equal(t, c.want, value.Shift(c.v, c.digits, c.kind).String(), "%s by %d", c.v, c.digits)
	}
}

// TestKinds holds the words of kinds and what they are.
func TestKinds(t *testing.T) {
	for k := value.Null; ; k++ {
		name := k.String()
		back, ok := value.KindNamed(name)
		require.True(t, ok, name)
		require.Equal(t, k, back)
		require.False(t, k.Number() && k.Temporal(), name)
		if k == value.Interval {
			break
		}
	}
	_, ok := value.KindNamed("colour")
	require.False(t, ok)
	for kind, number := range map[value.Kind]bool{value.Int: true, value.Decimal: true, value.Float: true, value.Bool: false,
		value.Text: false, value.Date: false} {
		require.Equal(t, number, kind.Number(), kind)
	}
	for kind, temporal := range map[value.Kind]bool{value.Date: true, value.Time: true, value.Timestamp: true, value.TimestampTZ: true,
		value.Text: false, value.Int: false} {
		require.Equal(t, temporal, kind.Temporal(), kind)
	}
}
