package value

import (
	"encoding/hex"
	"fmt"
	"math"
	"math/big"
	"strconv"
	"strings"
	"time"
)

// Parse reads the canonical text of a type (see Value.String). Numbers are plain: no separators, no leading zeros, no plus sign.
// Decimals need at most the type's scale. It errs where the text is none of the type, or a number is beyond what the type holds.
func Parse(text string, t Type) (Value, error) {
	v, ok := Value{}, false
	switch t.Kind {
	case Null:
		ok = text == "NULL"
	case Bool:
		v, ok = parseBool(text)
	case Int:
		v, ok = parseExact(text)
		ok = ok && v.kind == Int
	case Decimal:
		v, ok = parseDecimal(text, t.Scale)
	case Float:
		v, ok = parseFloat(text)
	case Text:
		return OfText(text), nil
	case Date:
		v, ok = parseDate(text)
	case Time:
		v, ok = parseClock(text)
	case Timestamp:
		v, ok = parseTimestamp(text)
	case TimestampTZ:
		v, ok = parseTimestampTZ(text)
	case Blob:
		v, ok = parseBlob(text)
	case JSON:
		return OfJSON(text), nil
	}
	if !ok {
		return Value{}, fmt.Errorf("%q is not of type %s", text, t)
	}
	return v, nil
}

func parseBool(s string) (Value, bool) {
	switch s {
	case "true", "TRUE", "True":
		return OfBool(true), true
	case "false", "FALSE", "False":
		return OfBool(false), true
	}
	return Value{}, false
}

// mostDigits is how many characters a number may have. Longer ones, and those with an exponent beyond a float's, are texts: no type of
// any engine here holds them.
const mostDigits = 300

// PlainNumber tells whether text is a number in canonical form that some type holds, and how many digits follow its point
// (-1 with an exponent).
func PlainNumber(s string) (decimals int, ok bool) {
	decimals, ok = numberForm(s)
	return decimals, ok && held(s, decimals)
}

// Unheld tells whether text has the form of a number and no type holds it.
func Unheld(s string) bool {
	decimals, ok := numberForm(s)
	return ok && !held(s, decimals)
}

func held(s string, decimals int) bool {
	if len(s) > mostDigits {
		return false
	}
	if decimals >= 0 {
		return true
	}
	_, err := strconv.ParseFloat(s, 64)
	return err == nil
}

// Rational reads a number in canonical form exactly; false for anything else.
func Rational(s string) (*big.Rat, bool) {
	v, ok := parseExact(s)
	if !ok {
		return nil, false
	}
	return v.rat(), true
}

// digitsFrom is the place behind the digits that begin at a place.
func digitsFrom(s string, i int) int {
	for i < len(s) && s[i] >= '0' && s[i] <= '9' {
		i++
	}
	return i
}

// numberForm is PlainNumber without its bounds.
func numberForm(s string) (decimals int, ok bool) {
	start := 0
	if strings.HasPrefix(s, "-") {
		start++
	}
	i := digitsFrom(s, start)
	if i == start || s[start] == '0' && i-start > 1 {
		return 0, false
	}
	if i < len(s) && s[i] == '.' {
		end := digitsFrom(s, i+1)
		if decimals = end - i - 1; decimals == 0 {
			return 0, false
		}
		i = end
	}
	if i == len(s) {
		return decimals, true
	}
	return -1, isExponent(s[i:])
}

// isExponent tells a text such as e5, E+5 or e-12.
func isExponent(s string) bool {
	if s[0] != 'e' && s[0] != 'E' {
		return false
	}
	digits := 1
	if digits < len(s) && (s[digits] == '+' || s[digits] == '-') {
		digits++
	}
	return digitsFrom(s, digits) == len(s) && len(s) > digits
}

// parseExact reads an integer or decimal; an exponent is taken in as far as it stays reasonable.
func parseExact(s string) (Value, bool) {
	decimals, ok := PlainNumber(s)
	if !ok {
		return Value{}, false
	}
	if decimals == 0 && len(s) <= 18 {
		i, err := strconv.ParseInt(s, 10, 64)
		return OfInt(i), err == nil
	}
	if decimals > 0 && len(s) <= 18 { // fits 64 bits with its point taken out
		return OfDecimal(digitsOf(s), decimals), true
	}
	mantissa, exponent := s, 0
	if decimals < 0 {
		at := strings.IndexAny(s, "eE")
		var err error
		if exponent, err = strconv.Atoi(s[at+1:]); err != nil || exponent > 400 || exponent < -400 {
			return Value{}, false
		}
		mantissa = s[:at]
	}
	whole, frac, _ := strings.Cut(mantissa, ".")
	unscaled, _ := new(big.Int).SetString(whole+frac, 10)
	scale := len(frac) - exponent
	if scale < 0 {
		unscaled.Mul(unscaled, pow10(-scale))
		scale = 0
	}
	return OfBigDecimal(unscaled, scale), true
}

// digitsOf is a plain number with its point taken out.
func digitsOf(s string) int64 {
	n, negative := int64(0), false
	for i := range len(s) {
		switch {
		case s[i] == '-':
			negative = true
		case s[i] != '.':
			n = 10*n + int64(s[i]-'0')
		}
	}
	if negative {
		return -n
	}
	return n
}

func parseDecimal(s string, scale int) (Value, bool) {
	v, ok := parseExact(s)
	if !ok || int(v.scale) > scale {
		return v, false
	}
	if int(v.scale) == scale {
		return v, true
	}
	unscaled, has := v.Unscaled()
	return OfBigDecimal(new(big.Int).Mul(unscaled, pow10(scale-has)), scale), true
}

func parseFloat(s string) (Value, bool) {
	switch s {
	case "NaN":
		return OfFloat(math.NaN()), true
	case "Infinity":
		return OfFloat(math.Inf(1)), true
	case "-Infinity":
		return OfFloat(math.Inf(-1)), true
	}
	if _, ok := PlainNumber(s); !ok {
		return Value{}, false
	}
	f, err := strconv.ParseFloat(s, 64)
	return OfFloat(f), err == nil
}

func parseDate(s string) (Value, bool) {
	if len(s) != 10 || s[4] != '-' || s[7] != '-' {
		return Value{}, false
	}
	for i := range len(s) {
		if i != 4 && i != 7 && (s[i] < '0' || s[i] > '9') {
			return Value{}, false
		}
	}
	year, month, day := int(digitsOf(s[:4])), int(digitsOf(s[5:7])), int(digitsOf(s[8:]))
	if month < 1 || month > 12 || day < 1 || day > daysIn(year, month) {
		return Value{}, false
	}
	return OfDate(daysFromCivil(year, month, day)), true
}

func daysIn(year, month int) int {
	switch month {
	case 2:
		if year%4 == 0 && (year%100 != 0 || year%400 == 0) {
			return 29
		}
		return 28
	case 4, 6, 9, 11:
		return 30
	}
	return 31
}

// daysFromCivil counts days since 1970-01-01 in the Gregorian calendar
// (Hinnant: chrono-compatible low-level date algorithms, 2013).
func daysFromCivil(year, month, day int) int64 {
	if month <= 2 {
		year--
	}
	era := year / 400
	if year < 0 {
		era = (year - 399) / 400
	}
	ofEra := year - era*400
	ofYear := (153*((month+9)%12)+2)/5 + day - 1
	return int64(era)*146097 + int64(ofEra*365+ofEra/4-ofEra/100+ofYear) - 719468
}

func parseClock(s string) (Value, bool) {
	if len(s) < 5 || s[2] != ':' {
		return Value{}, false
	}
	for _, layout := range []string{"15:04:05.999999", "15:04"} {
		if t, err := time.Parse(layout, s); err == nil {
			return OfTime(int64(t.Hour())*3600e6 + int64(t.Minute())*60e6 + int64(t.Second())*1e6 + int64(t.Nanosecond()/1000)), true
		}
	}
	return Value{}, false
}

func parseTimestamp(s string) (Value, bool) {
	if len(s) < 16 || s[4] != '-' || s[7] != '-' {
		return Value{}, false
	}
	for _, layout := range []string{"2006-01-02 15:04:05.999999", "2006-01-02T15:04:05.999999", "2006-01-02 15:04", "2006-01-02T15:04"} {
		if t, err := time.Parse(layout, s); err == nil {
			return OfTimestamp(t.UnixMicro()), true
		}
	}
	return Value{}, false
}

func parseTimestampTZ(s string) (Value, bool) {
	if len(s) < 17 || s[4] != '-' || s[7] != '-' {
		return Value{}, false
	}
	for _, clock := range []string{"15:04:05.999999", "15:04"} {
		for _, zone := range []string{"Z07:00", "Z0700", "Z07"} {
			for _, between := range []string{" ", "T"} {
				if t, err := time.Parse("2006-01-02"+between+clock+zone, s); err == nil {
					return OfTimestampTZ(t.UnixMicro()), true
				}
			}
		}
	}
	return Value{}, false
}

func parseBlob(s string) (Value, bool) {
	if !strings.HasPrefix(s, `\x`) {
		return Value{}, false
	}
	b, err := hex.DecodeString(s[2:])
	return OfBlob(string(b)), err == nil
}
