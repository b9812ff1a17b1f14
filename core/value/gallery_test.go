package value_test

import (
	"flag"
	"fmt"
	"strings"
	"testing"

	"tovrel/core/value"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// galleryTexts are cells as files have them.
var galleryTexts = []string{
	"", "0", "-0", "7", "-7", "+7", "007", "1.50", ".5", "5.", "1e3", "1E-2", "1,5", "1 000", "0x1f", "NaN", "Infinity",
	"-inf", "9223372036854775807", "9223372036854775808", "-9223372036854775808", "123456789012345678901234567890.125",
	"1e400", "1e-400", "true", "FALSE", "t", "yes", "2031-05-01", "2031-5-1", "2031-13-01", "2031-02-29", "2032-02-29",
	"0001-01-01", "-0044-03-15", "12031-01-01", "2031-05-01 10:20:30", "2031-05-01T10:20:30", "2031-05-01 10:20:30.123456789",
	"2031-05-01 24:00:00", "2031-05-01 10:20:30Z", "2031-05-01 10:20:30+02", "2031-05-01 10:20:30-03:30", "10:20",
	"10:20:30.5", "25:00:00", "24:00:00", "3 days", "1 year 2 months", "-1 days", "01:00:00", "P1D", "[1, 2]", `{"a": 1}`,
	`"quoted"`, `\x00ff`, "text", " padded ", "ä€\n\t\x01", "null", "NULL",
}

// numbered is what a value is as a number; "" for none.
func numbered(v value.Value) string {
	if !v.Kind().Number() {
		return ""
	}
	f, isFloat := v.Float64()
	small, isSmall := v.Small()
	exact, isExact := v.Exact()
	out := fmt.Sprintf("; %g %t, %d %t, %s %t", f, isFloat, small, isSmall, exact, isExact)
	if isExact {
		out += fmt.Sprintf("; rounded %s and %s, shifted %s", value.RoundHalfUp(v, 1), value.RoundHalfEven(v, 1),
			value.Shift(v, 2, value.Type{Kind: value.Decimal, Scale: 3}))
	}
	return out
}

var galleryKinds = []value.Kind{value.Bool, value.Int, value.Decimal, value.Float, value.Text, value.Blob, value.JSON, value.Date,
	value.Time, value.Timestamp, value.TimestampTZ, value.Interval}

// TestGallery holds what each text is as a value of each kind, how that is written, and what it is as a number.
func TestGallery(t *testing.T) {
	var out strings.Builder
	var all []value.Value
	for _, text := range galleryTexts {
		decimals, plain := value.PlainNumber(text)
		rational, isRational := value.Rational(text)
		fmt.Fprintf(&out, "# %q plain %d %t, unheld %t, rational %v %t\n", text, decimals, plain, value.Unheld(text), rational, isRational)
		fails := ""
		for _, kind := range galleryKinds {
			for _, scale := range []int{0, 2} {
				v, err := value.Parse(text, value.Type{Kind: kind, Scale: scale})
				if kind != value.Decimal && scale > 0 {
					continue
				}
				if err != nil {
					fails += " " + kind.String()
					continue
				}
				fmt.Fprintf(&out, "  %s %d: %q %s %s%s\n", kind, scale, v, v.JSON(), v.Type(), numbered(v))
				all = append(all, v)
			}
		}
		fmt.Fprintf(&out, "  none of%s\n", fails)
	}
	for i, a := range all {
		var line strings.Builder
		for j := i % 7; j < len(all); j += 7 {
			line.WriteByte("<=>"[value.Compare(a, all[j])+1])
			if a.Kind().Number() && all[j].Kind().Number() {
				line.WriteByte("<=>"[value.CompareNumbers(a, all[j])+1])
			}
		}
		fmt.Fprintf(&out, "%s %q %s\n", a.Kind(), a, line.String())
	}
	for _, name := range []string{"BIGINT", "int4", "INTEGER", "interval", "TIMESTAMP WITH TIME ZONE", "timestamptz", "datetime",
		"DECIMAL(10,2)", "numeric", "real", "double precision", "character varying(20)",
		"text", "bytea", "BLOB", "bool", "date", "time", "JSON", "uuid",
		"INTEGER[]", "STRUCT(a INTEGER)", "ENUM('a')", "hugeint", "", "tinyint unsigned", "intx", "booleans"} {
		kind, known := value.KindOfSQL(name)
		named, isName := value.KindNamed(strings.ToLower(name))
		fmt.Fprintf(&out, "%q is %s %t, said %q; by name %s %t\n", name, kind, known, value.SQLWord(name), named, isName)
	}
	gallerytest.Holds(t, "values.txt", out.String(), *update)
}
