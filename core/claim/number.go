package claim

import (
	"math"
	"strconv"
	"strings"

	"tovrel/core/pattern"
)

// number is a number as it was said.
type number struct {
	text      string
	value     float64 // with its magnitude word, without its percent
	decimals  int     // shown behind the decimal mark
	magnitude int     // power of ten of its magnitude word; 0 for none
	zeros     int     // at its end, before its magnitude
	percent   bool
	currency  bool
	fraction  bool     // in words, such as two thirds
	worded    bool     // in words
	hedge     hedge    // what was said of its precision
	other     *reading // under the other writing of numbers; nil where the writing is decided
	open      bool     // nothing decides which writing it is in
}

// reading is another way to read a number's digits.
type reading struct {
	value    float64
	decimals int
}

// hedge says how a number is meant.
type hedge int

const (
	plain hedge = iota
	around
	above // the value is a little more
	below // the value is a little less
)

// style is the writing of a text's numbers.
type style int

const (
	undecided    style = iota
	pointDecimal       // 1,234.5
	commaDecimal       // 1.234,5 and 1 234,5
)

var (
	digits = pattern.Of(`^(?:\d{1,3}(?:[ ']\d{3})+(?:[.,]\d+)?|\d+(?:[.,]\d+)*)`)
	// numberStart has the sign and the currency before the digits.
	numberStart = pattern.Of(`^(?:([-+])\s?)?(?:([$€£¥]|(?i:eur|usd|gbp|chf)\s)\s?)?(?:([-])\s?)?`)
	numberEnd   = pattern.Of(`^(?i)(?:\s?(%|‰|percent\b|per\s?cent\b|pct\b|prozent\b|pour ?cent\b)|` +
		`(?:\s?(k|mn|bn|mio|mrd|tsd)\b\.?|(m)(?:\b\.?)|\s(hundred|thousand|thousands|million|millions|billion|billions|dozen)\b))?`)
	currencyEnd = pattern.Of(`^(?i)\s?(€|\$|£|¥|eur\b|euros?\b|usd\b|dollars?\b|gbp\b|pounds?\b|chf\b|francs?\b)`)
	allDigits   = pattern.Of(`\d+(?:[.,' ]\d+)+`)
)

var magnitudes = map[string]int{"k": 3, "tsd": 3, "thousand": 3, "thousands": 3, "m": 6, "mn": 6, "mio": 6, "million": 6, "millions": 6,
	"bn":  9,
	"mrd": 9, "billion": 9, "billions": 9, "hundred": 2}

// styleOf decides the writing of a text's numbers from those that can be read in one way only; undecided where none tells, or they
// disagree.
func styleOf(text string) style {
	found := undecided
	for _, raw := range allDigits.FindAllString(plainMarks(text), -1) {
		s := ownStyle(digits.FindString(raw))
		switch {
		case s == undecided:
		case found == undecided:
			found = s
		case found != s:
			return undecided
		}
	}
	return found
}

// ownStyle is what a number's digits alone tell of its writing.
func ownStyle(raw string) style {
	marks := strings.Map(func(r rune) rune {
		if r == '.' || r == ',' {
			return r
		}
		return -1
	}, raw)
	if marks == "" {
		return undecided
	}
	last := strings.LastIndexAny(raw, ".,")
	behind, before := len(raw)-last-1, strings.IndexAny(raw, ".,")
	decimal := map[byte]style{'.': pointDecimal, ',': commaDecimal}
	thousands := map[byte]style{',': pointDecimal, '.': commaDecimal}
	switch {
	case strings.ContainsAny(raw, " '"), marks[0] != marks[len(marks)-1]:
		return decimal[raw[last]]
	case len(marks) > 1:
		return thousands[raw[last]]
	case behind != 3 || before > 3 || raw[0] == '0':
		return decimal[raw[last]]
	}
	return undecided
}

// readDigits reads digits under a style; false where they are none under it.
func readDigits(raw string, s style) (reading, bool) {
	point := byte('.')
	if s == commaDecimal {
		point = ','
	}
	var clean strings.Builder
	decimals, seen := 0, false
	for i := range len(raw) {
		switch c := raw[i]; {
		case c >= '0' && c <= '9':
			clean.WriteByte(c)
			if seen {
				decimals++
			}
		case c == point && !seen:
			clean.WriteByte('.')
			seen = true
		case seen:
			return reading{}, false // a group behind the decimal mark
		}
	}
	x, err := strconv.ParseFloat(clean.String(), 64)
	return reading{x, decimals}, err == nil
}

// numberAt reads a number that begins at a text's beginning; the length is 0 where none does, and below 0 where that many bytes are
// digits that make no number.
func numberAt(text string, s style) (n number, length int) {
	start := numberStart.FindStringSubmatch(text)
	raw := digits.FindString(text[len(start[0]):])
	if raw == "" {
		return n, 0
	}
	length = len(start[0]) + len(raw)
	end := numberEnd.FindStringSubmatch(text[length:])
	length += len(end[0])
	n.percent, n.currency = end[1] != "", start[2] != ""
	if unit := currencyEnd.FindString(text[length:]); unit != "" {
		n.currency = true
		length += len(unit)
	}
	read, ok := n.readAs(raw, s)
	if !ok {
		return number{}, -length
	}
	if strings.HasPrefix(text[length:], "²") || strings.HasPrefix(text[length:], "³") { // 12m² are metres
		length -= len(end[3])
		end[3] = ""
	}
	n.magnitude = magnitudes[strings.ToLower(end[2]+end[3]+end[4])]
	n.value, n.decimals, n.text = read.value, read.decimals, strings.TrimSpace(text[:length])
	if strings.EqualFold(end[4], "dozen") {
		n.value *= 12
	}
	if read.decimals == 0 {
		for n.zeros = 0; n.zeros < len(raw) && raw[len(raw)-1-n.zeros] == '0'; n.zeros++ {
		}
	}
	if start[1] == "-" || start[3] == "-" {
		n.value = -n.value
	}
	n.value *= math.Pow10(n.magnitude)
	return n, length
}

// readAs reads digits under their own writing, else under a text's. Where neither decides they are read as English, and as Germans and
// the
// French write, which is what n.other then says; but nobody says 61,187 %.
func (n *number) readAs(raw string, s style) (reading, bool) {
	own := ownStyle(raw)
	if own == undecided {
		own = s
	}
	if own != undecided {
		return readDigits(raw, own)
	}
	if n.percent && strings.Contains(raw, ",") {
		return readDigits(raw, commaDecimal)
	}
	if other, ok := readDigits(raw, commaDecimal); ok && strings.ContainsAny(raw, ".,") && !n.percent {
		n.other, n.open = &other, strings.Contains(raw, ".")
	}
	return readDigits(raw, pointDecimal)
}

// fits says how well a said number states a value.
type fit int

const (
	misses  fit = iota
	loosely     // it could be meant, at a precision that is not said
	rounded
	exactly
)

// exact is the share by which numbers may differ that are the same.
const exact = 1e-9

// states tells how a number states a value; whole says that the value is a count, which nobody rounds without a word of it.
func (n number) states(x float64, whole bool) fit {
	best := n.reads(x, n.value, n.decimals, whole)
	if n.other != nil {
		other := n.reads(x, n.other.value*math.Pow10(n.magnitude), n.other.decimals, whole)
		switch {
		case n.open && (best >= rounded) != (other >= rounded):
			return loosely
		case other >= rounded && best < rounded:
			return loosely
		}
	}
	return best
}

func (n number) reads(x, y float64, decimals int, whole bool) fit {
	scale := math.Max(math.Abs(x), math.Abs(y))
	off := math.Abs(x - y)
	if off <= exact*scale {
		return exactly
	}
	if n.fraction {
		return closeFraction(off)
	}
	if x < 0 && y > 0 { // a loss of 12, a balance that is down by 12
		x = -x
		if off = math.Abs(x - y); off <= exact*scale {
			return loosely
		}
	}
	step := math.Pow10(n.magnitude - decimals)
	coarse := math.Pow10(n.magnitude + n.zeros)
	vague := n.hedge != plain || n.magnitude > 0
	switch {
	case whole && !vague && !n.percent:
		return n.coarsely(x, y, coarse)
	case n.hedge != plain && decimals == 0:
		step = coarse
	}
	if !n.within(x, y, step) {
		return n.coarsely(x, y, coarse)
	}
	if math.Abs(y) < 9.5*step && off > 0.03*math.Abs(x) {
		return loosely // one digit says little
	}
	return rounded
}

func closeFraction(off float64) fit {
	switch {
	case off <= 0.01:
		return rounded
	case off <= 0.04:
		return loosely
	}
	return misses
}

// within tells whether a value is said in steps.
func (n number) within(x, y, step float64) bool {
	half := step / 2 * (1 + 1e-9)
	switch n.hedge {
	case above:
		return x >= y && x-y < step || math.Abs(x-y) <= half/10
	case below:
		return x <= y && y-x < step || math.Abs(x-y) <= half/10
	}
	return math.Abs(x-y) <= half
}

// coarsely tells a number that may be rounded to its last zeros without a word of it.
func (n number) coarsely(x, y, coarse float64) fit {
	if n.zeros > 1 && math.Abs(y) >= 9.5*coarse && math.Abs(x-y) <= coarse/2*(1+1e-9) {
		return loosely
	}
	return misses
}
