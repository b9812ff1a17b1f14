package value

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
)

// String is the canonical text: ISO 8601 for dates and times, shortest round-trip form for floats,
// "NULL" for null, hexadecimal after \x for blobs. Parse reads it back.
func (v Value) String() string {
	switch v.kind {
	case Null:
		return "NULL"
	case Bool:
		return strconv.FormatBool(v.num != 0)
	case Int, Decimal:
		return v.exactString()
	case Float:
		return formatFloat(math.Float64frombits(uint64(v.num)))
	case Date:
		return formatDate(v.num)
	case Time:
		return formatClock(v.num)
	case Timestamp:
		return formatTimestamp(v.num, "")
	case TimestampTZ:
		return formatTimestamp(v.num, "Z")
	case Interval:
		return v.intervalString()
	case Blob:
		return `\x` + hex.EncodeToString([]byte(v.text))
	}
	return v.text
}

// JSON is the value's form in JSON output; see AppendJSON.
func (v Value) JSON() json.RawMessage { return v.AppendJSON(nil) }

// AppendJSON appends the value's form in JSON output: numbers plain, integers beyond 2^53 and decimals as strings, the
// rest as canonical text; lists and structs as they are.
func (v Value) AppendJSON(b []byte) []byte {
	switch v.kind {
	case Null:
		return append(b, "null"...)
	case Bool:
		return strconv.AppendBool(b, v.num != 0)
	case Int:
		if v.big == nil && v.num >= -1<<53 && v.num <= 1<<53 {
			return strconv.AppendInt(b, v.num, 10)
		}
	case Float:
		f := math.Float64frombits(uint64(v.num))
		if !math.IsNaN(f) && !math.IsInf(f, 0) {
			return append(b, formatFloat(f)...)
		}
	case JSON:
		if json.Valid([]byte(v.text)) {
			return append(b, v.text...)
		}
	}
	return appendQuoted(b, v.String())
}

// appendQuoted appends a text as a JSON string.
func appendQuoted(b []byte, s string) []byte {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c == '"' || c == '\\' || c >= 0x7f || c == '<' || c == '>' || c == '&' {
			quoted, _ := json.Marshal(s) // a string always encodes
			return append(b, quoted...)
		}
	}
	b = append(append(append(b, '"'), s...), '"')
	return b
}

func (v Value) exactString() string {
	scale := int(v.scale)
	digits := strconv.FormatInt(v.num, 10)
	if v.big != nil {
		digits = v.big.String()
	}
	if scale == 0 {
		return digits
	}
	sign := ""
	if strings.HasPrefix(digits, "-") {
		sign, digits = "-", digits[1:]
	}
	if len(digits) <= scale {
		digits = strings.Repeat("0", scale-len(digits)+1) + digits
	}
	return sign + digits[:len(digits)-scale] + "." + digits[len(digits)-scale:]
}

func formatFloat(f float64) string {
	switch {
	case math.IsNaN(f):
		return "NaN"
	case math.IsInf(f, 1):
		return "Infinity"
	case math.IsInf(f, -1):
		return "-Infinity"
	}
	if a := math.Abs(f); a != 0 && (a < 1e-6 || a >= 1e21) {
		return strconv.FormatFloat(f, 'e', -1, 64)
	}
	return strconv.FormatFloat(f, 'f', -1, 64)
}

// Civil is the date of a day counted from 1970-01-01.
func Civil(days int64) (year, month, day int) {
	t := time.Unix(days*86400, 0).UTC()
	return t.Year(), int(t.Month()), t.Day()
}

func formatDate(days int64) string {
	if days >= math.MaxInt32 {
		return "infinity"
	}
	if days <= -math.MaxInt32 {
		return "-infinity"
	}
	return time.Unix(days*86400, 0).UTC().Format("2006-01-02")
}

func formatClock(us int64) string {
	s := us / 1e6
	return fmt.Sprintf("%02d:%02d:%02d%s", s/3600, s/60%60, s%60, fraction(us%1e6))
}

func formatTimestamp(us int64, zone string) string {
	if us == math.MaxInt64 {
		return "infinity"
	}
	if us <= -math.MaxInt64 {
		return "-infinity"
	}
	t := time.UnixMicro(us).UTC()
	return t.Format("2006-01-02 15:04:05") + fraction(int64(t.Nanosecond()/1000)) + zone
}

// fraction is ".5" for 500000 microseconds, "" for none.
func fraction(us int64) string {
	if us == 0 {
		return ""
	}
	return strings.TrimRight(fmt.Sprintf(".%06d", us), "0")
}

func (v Value) intervalString() string {
	var parts []string
	if v.scale != 0 {
		parts = append(parts, fmt.Sprintf("%d months", v.scale))
	}
	if v.days != 0 {
		parts = append(parts, fmt.Sprintf("%d days", v.days))
	}
	if v.num != 0 || len(parts) == 0 {
		sign, us := "", v.num
		if us < 0 {
			sign, us = "-", -us
		}
		parts = append(parts, sign+formatClock(us))
	}
	return strings.Join(parts, " ")
}
