package profile

import (
	"tovrel/core/value"
)

// BinsOf counts a column's values over equal parts of its range, where all of them are known and they have a range; nil where not.
func BinsOf(c *Column, parts int) []int64 {
	low, okLow := position(c.Min)
	high, okHigh := position(c.Max)
	if !okLow || !okHigh || !(high > low) {
		return nil
	}
	out := make([]int64, parts)
	for _, v := range c.Values {
		if at, ok := position(v.Value); ok {
			out[min(int((at-low)/(high-low)*float64(parts)), parts-1)] += v.Rows
		}
	}
	return out
}

// position is where a number, date or time stands on a line.
func position(v value.Value) (float64, bool) {
	if v.Kind().Temporal() {
		ticks, ok := v.Small()
		return float64(ticks), ok
	}
	return v.Float64()
}
