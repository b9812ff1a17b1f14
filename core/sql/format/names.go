package format

import (
	_ "embed" // the reserved words
	"strings"

	"tovrel/core/pattern"
)

//go:embed reserved.txt
var reservedText string

// reserved are the words that are no names without quotes, in lower case.
var reserved = func() map[string]bool {
	out := map[string]bool{}
	for word := range strings.FieldsSeq(reservedText) {
		out[word] = true
	}
	return out
}()

var plainName = pattern.Of(`^[A-Za-z_][A-Za-z0-9_]*$`)

// name is the name of a column, table or alias, in quotes where it needs them.
func (w *writer) name(n string) string {
	if w.style.Name != nil {
		return w.style.Name(n)
	}
	return Name(n)
}

// Name is a name in quotes where it needs them.
func Name(n string) string {
	if plainName.MatchString(n) && !reserved[strings.ToLower(n)] {
		return n
	}
	return quotedName(n)
}

func quotedName(n string) string { return `"` + strings.ReplaceAll(n, `"`, `""`) + `"` }

// functionName is a function's name; those that are words of the language, such as left, may be called.
func functionName(n string) string {
	if plainName.MatchString(n) {
		return n
	}
	return quotedName(n)
}

// quotedText is a text as a literal.
func quotedText(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

// dotted is a name of several parts.
func (w *writer) dotted(parts []string) string {
	written := make([]string, len(parts))
	for i, p := range parts {
		written[i] = w.name(p)
	}
	return strings.Join(written, ".")
}

// columnNames is a list of names in brackets; "" for none.
func (w *writer) columnNames(names []string) string {
	if len(names) == 0 {
		return ""
	}
	written := make([]string, len(names))
	for i, n := range names {
		written[i] = w.name(n)
	}
	return " (" + strings.Join(written, ", ") + ")"
}
