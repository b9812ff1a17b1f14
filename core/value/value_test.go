package value_test

import (
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/value"
)

// TestRoundTrip: what a value prints, its type reads back as the same value.
func TestRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.OneOf(
			rapid.Map(rapid.Bool(), value.OfBool),
			rapid.Map(rapid.Int64(), value.OfInt),
			rapid.Map(rapid.Int64(), func(i int64) value.Value { return value.OfDecimal(i, 4) }),
			rapid.Map(rapid.Float64(), value.OfFloat),
			rapid.Map(rapid.String(), value.OfText),
			rapid.Map(rapid.Int64Range(-700_000, 2_000_000), value.OfDate),
			rapid.Map(rapid.Int64Range(0, 86_399_999_999), value.OfTime),
			rapid.Map(rapid.Int64Range(-60_000_000_000_000_000, 200_000_000_000_000_000), value.OfTimestamp),
			rapid.Map(rapid.Int64Range(-60_000_000_000_000_000, 200_000_000_000_000_000), value.OfTimestampTZ),
			rapid.Map(rapid.String(), value.OfBlob),
		).Draw(t, "value")
		back, err := value.Parse(v.String(), v.Type())
		require.NoError(t, err)
		require.Zero(t, value.Compare(v, back), "%s came back as %s", v, back)
	})
}

// TestPlainNumbers: only canonical forms are numbers, so that codes stay text.
func TestPlainNumbers(t *testing.T) {
	for text, decimals := range map[string]int{"0": 0, "-5": 0, "12.50": 2, "0.5": 1, "1e6": -1, "2.5E-3": -1} {
		got, ok := value.PlainNumber(text)
		require.True(t, ok, text)
		require.Equal(t, decimals, got, text)
	}
	for _, text := range []string{"", "-", "007", "+1", ".5", "5.", "1,000", "1e", "0x1", " 1", "1 "} {
		_, ok := value.PlainNumber(text)
		require.False(t, ok, text)
	}
}

// TestExactNumbers: integers and decimals beyond 2^53 never pass through floats.
func TestExactNumbers(t *testing.T) {
	big1, _ := new(big.Int).SetString("123456789012345678901234567890", 10)
	require.Equal(t, "123456789012345678901234567890", value.OfBig(big1).String())
	require.Equal(t, `"9007199254740993"`, string(value.OfInt(9007199254740993).JSON()))
	require.Equal(t, `"12.50"`, string(value.OfDecimal(1250, 2).JSON()))
	require.Equal(t, "-0.05", value.OfDecimal(-5, 2).String())
	require.NotZero(t, value.CompareNumbers(value.OfInt(9007199254740993), value.OfFloat(9007199254740992)))
	require.Zero(t, value.CompareNumbers(value.OfDecimal(150, 2), value.OfFloat(1.5)))
	require.Positive(t, value.CompareNumbers(value.OfFloat(math.Inf(1)), value.OfBig(big1)))
}

// TestRounding: half up goes away from zero, half even to the even neighbour, floats by what they show.
func TestRounding(t *testing.T) {
	for _, c := range []struct {
		v        value.Value
		decimals int
		up, even string
	}{
		{value.OfFloat(2.675), 2, "2.68", "2.68"},
		{value.OfDecimal(25, 1), 0, "3", "2"},
		{value.OfDecimal(-25, 1), 0, "-3", "-2"},
		{value.OfDecimal(35, 1), 0, "4", "4"},
		{value.OfDecimal(124968, 4), 2, "12.50", "12.50"},
		{value.OfInt(7), 2, "7", "7"},
	} {
		require.Equal(t, c.up, value.RoundHalfUp(c.v, c.decimals).String(), "%s", c.v)
		require.Equal(t, c.even, value.RoundHalfEven(c.v, c.decimals).String(), "%s", c.v)
	}
}
