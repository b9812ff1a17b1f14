package dialect

import (
	"strings"
	"unicode"
)

// A format of times is read as its parts, which every style writes in its own letters. The columns: strftime (the embedded engine,
// SQLite, BigQuery), MySQL, to_char (PostgreSQL, Snowflake), letters (Spark, Trino, SQL Server), ClickHouse, in whose %M some versions see
// minutes and others the name of the month.
const (
	strftime = iota
	percent
	toChar
	letters
	house
)

// formatParts are the parts of formats, longer ones of a style before those that begin them; "" where a style has none of its own.
var formatParts = [][5]string{
	{"%H:%M:%S", "", "", "", "%T"}, {"%H:%M", "", "", "", "%R"},
	{"%Y", "%Y", "YYYY", "yyyy", "%Y"}, {"%B", "%M", "FMMonth", "MMMM", ""}, {"%b", "%b", "Mon", "MMM", ""},
	{"%A", "%W", "FMDay", "EEEE", ""},
	{"%a", "%a", "Dy", "EEE", ""}, {"%y", "%y", "YY", "yy", "%y"}, {"%-m", "%c", "FMMM", "", ""}, {"%-d", "%e", "FMDD", "", ""},
	{"%m", "%m", "MM", "MM", "%m"}, {"%j", "%j", "DDD", "", "%j"}, {"%d", "%d", "DD", "dd", "%d"}, {"%H", "%H", "HH24", "HH", "%H"},
	{"%I", "%h", "HH12", "hh", "%I"}, {"%M", "%i", "MI", "mm", ""}, {"%S", "%s", "SS", "ss", "%S"}, {"%p", "%p", "AM", "a", "%p"},
	{"%V", "%v", "IW", "", "%V"},
	{"%G", "%x", "IYYY", "", "%G"}, {"%U", "%U", "", "", ""}, {"%-H", "%k", "FMHH24", "", ""}, {"%-I", "%l", "FMHH12", "", ""},
}

// plainSpellings puts other spellings of a style into its usual ones.
var plainSpellings = map[int]*strings.Replacer{
	strftime: strings.NewReplacer("%F", "%Y-%m-%d", "%T", "%H:%M:%S", "%h", "%b"),
	house:    strings.NewReplacer("%F", "%Y-%m-%d", "%h", "%I"),
	percent:  strings.NewReplacer("%S", "%s", "%I", "%h", "%T", "%H:%i:%s", "%r", "%h:%i:%s %p"),
	toChar: strings.NewReplacer("yyyy", "YYYY", "yy", "YY", "mm", "MM", "dd", "DD", "hh24", "HH24", "hh12", "HH12", "mi", "MI", "ss", "SS",
		"mon", "Mon", "PM", "AM"),
	letters: strings.NewReplacer("uuuu", "yyyy", "dddd", "EEEE", "ddd", "EEE", "tt", "a"),
}

// reformatted is a format of one style in another; false where a part of it has no form there.
func reformatted(format string, from, to int) (string, bool) {
	if from == to {
		return format, true
	}
	format = plainSpellings[from].Replace(format)
	var out strings.Builder
	for format != "" {
		part, written, ok := formatPart(format, from, to)
		if !ok {
			return "", false
		}
		if before := out.String(); to >= toChar && before != "" && written != "" && before[len(before)-1] == written[0] &&
			unicode.IsLetter(rune(written[0])) {
			return "", false // they would be read as one
		}
		out.WriteString(written)
		format = format[len(part):]
	}
	return out.String(), true
}

// formatPart is the first part of a format, as the other style writes it.
func formatPart(format string, from, to int) (part, written string, ok bool) {
	for _, p := range formatParts {
		if p[from] != "" && p[to] != "" && strings.HasPrefix(format, p[from]) {
			return p[from], p[to], true
		}
	}
	first := rune(format[0])
	quote := map[int]byte{toChar: '"', letters: '\''}[from]
	switch {
	case quote != 0 && format[0] == quote:
		end := strings.IndexByte(format[1:], quote)
		if end < 0 {
			return "", "", false
		}
		return format[:end+2], plainIn(format[1:end+1], to), true
	case first == '%' || quote != 0 && (unicode.IsLetter(first) || first >= unicode.MaxASCII):
		return "", "", false // a part that is not known
	}
	return format[:1], plainIn(format[:1], to), true
}

// plainIn is text within a format of a style.
func plainIn(text string, style int) string {
	if !strings.ContainsFunc(text, unicode.IsLetter) {
		return text
	}
	switch style {
	case toChar:
		return `"` + text + `"`
	case letters:
		return "'" + text + "'"
	}
	return text
}
