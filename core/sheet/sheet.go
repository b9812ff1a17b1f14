// Package sheet says how texts and names stand in spreadsheets.
package sheet

import (
	"fmt"
	"strconv"
	"strings"
)

// Harmless keeps a text from being taken for a formula by a spreadsheet: one that would start one gets an apostrophe before it.
func Harmless(s string) string {
	if s == "" || !strings.ContainsAny(s[:1], "=+-@\t\r\n|") {
		return s
	}
	if _, err := strconv.ParseFloat(s, 64); err == nil {
		return s // a number
	}
	return "'" + s
}

// Plain undoes what Harmless does, and takes the space around a text away.
func Plain(cell string) string {
	if strings.HasPrefix(cell, "'") && Harmless(cell[1:]) == cell {
		return strings.TrimSpace(cell[1:])
	}
	return strings.TrimSpace(cell)
}

// longestName is what spreadsheets allow.
const longestName = 31

// Name is a title as far as a sheet can have it as its name, and no other sheet has; the used names, in small letters, are noted. Nil
// stands for no other sheets.
func Name(title string, used map[string]bool) string {
	name := strings.TrimSpace(strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]'`, r) {
			return ' '
		}
		return r
	}, title))
	if name == "" {
		name = "Table"
	}
	short := func(room int) string {
		runes := []rune(name)
		return strings.TrimSpace(string(runes[:min(len(runes), room)]))
	}
	out := short(longestName)
	for n := 2; used[strings.ToLower(out)]; n++ {
		suffix := fmt.Sprintf(" %d", n)
		out = short(longestName-len(suffix)) + suffix
	}
	if used != nil {
		used[strings.ToLower(out)] = true
	}
	return out
}
