package table

import (
	"math"
	"strings"

	"tovrel/core/value"
)

// significant is how many digits of a float people are shown.
const significant = 6

// DisplayDecimals is how many decimals a number column is shown with: a decimal column its scale; a float column as many
// as its cells need, at most 6 behind the first significant digit of its smallest cell.
func DisplayDecimals(c *Column) int {
	if c.Type.Kind != value.Float {
		return c.Type.Scale
	}
	needed, smallest := 0, math.Inf(1)
	for i := range c.Len() {
		v := c.Value(i)
		exact, ok := v.Exact()
		if !ok {
			continue
		}
		if _, frac, ok := strings.Cut(exact.String(), "."); ok {
			needed = max(needed, len(frac))
		}
		if f, _ := v.Float64(); f != 0 {
			smallest = math.Min(smallest, math.Abs(f))
		}
	}
	if math.IsInf(smallest, 0) {
		return 0
	}
	return min(needed, max(2, significant-1-int(math.Floor(math.Log10(smallest)))))
}

// DisplayNumber writes a number with a number of decimals, padded with zeros; what has no decimal form as it is.
func DisplayNumber(v value.Value, decimals int) string {
	exact, ok := value.RoundHalfEven(v, decimals).Exact()
	if !ok {
		return v.String()
	}
	text := exact.String()
	whole, frac, _ := strings.Cut(text, ".")
	if decimals == 0 {
		return whole
	}
	return whole + "." + frac + strings.Repeat("0", max(0, decimals-len(frac)))
}
