package briefing

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Lines write what a translator is told as lines, one for each thing that can change by itself, in the order of the tables: two of them
// are told apart line by line. Numbers of rows are of the data, and are left out.
func Lines(told Dataset, beyond *Beyond) []string {
	var out []string
	add := func(format string, words ...any) {
		out = append(out, strings.Join(strings.Fields(fmt.Sprintf(format, words...)), " "))
	}
	if told.About != "" {
		add("about %s", told.About)
	}
	for _, t := range told.Tables {
		if t.About != "" {
			add("%s: about %s", t.Name, t.About)
		}
		for _, c := range t.Columns {
			place := t.Name + "." + c.Name
			add("%s: type %s", place, c.Type)
			for _, said := range [][2]string{{"role", string(c.Role)}, {"about", c.About}, {"unit", c.Unit}} {
				if said[1] != "" {
					add("%s: %s %s", place, said[0], said[1])
				}
			}
			if len(c.Synonyms) > 0 {
				add("%s: synonyms [%s]", place, strings.Join(c.Synonyms, ", "))
			}
			for _, code := range slices.Sorted(maps.Keys(c.Values)) {
				add("%s: value %s is %s", place, code, c.Values[code])
			}
		}
	}
	for _, join := range told.Joins {
		add("join %s", join)
	}
	return append(out, beyond.lines()...)
}

func (b *Beyond) lines() []string {
	if b == nil {
		return nil
	}
	var out []string
	for _, name := range slices.Sorted(maps.Keys(b.Terms)) {
		out = append(out, "term "+name+": "+oneLine(b.Terms[name]))
	}
	for _, note := range b.Notes {
		out = append(out, "note "+oneLine(note))
	}
	for _, e := range b.Examples {
		out = append(out, "example "+oneLine(e.Question)+" → "+oneLine(e.Query))
	}
	return out
}

func oneLine(text string) string { return strings.Join(strings.Fields(text), " ") }

// Changed are the lines that one text has and the other lacks, with "-" before what went and "+" before what came, in the order of the
// lines: what went stands before what came in its place.
func Changed(before, after []string) []string {
	had, has := counted(before), counted(after)
	var out []string
	i := 0
	for _, line := range after {
		for i < len(before) && has[before[i]] == 0 {
			out = append(out, "- "+before[i])
			i++
		}
		if had[line] == 0 {
			out = append(out, "+ "+line)
		} else if i < len(before) && before[i] == line {
			i++
		}
	}
	for ; i < len(before); i++ {
		if has[before[i]] == 0 {
			out = append(out, "- "+before[i])
		}
	}
	return out
}

func counted(lines []string) map[string]int {
	out := map[string]int{}
	for _, line := range lines {
		out[line]++
	}
	return out
}

// Judging writes what of a briefing the judgement of answers rests on: labels, units, synonyms and what is hidden. Two briefings with
// equal lines judge alike. Nil says nothing.
func (b *Briefing) Judging() []string {
	if b == nil {
		return nil
	}
	var out []string
	for _, t := range b.Tables {
		for _, c := range t.Columns {
			line := fmt.Sprintf("%s.%s %q %q %t", t.Name, c.Name, c.Unit, c.Synonyms, c.Hide)
			for _, code := range c.Codes {
				line += fmt.Sprintf(" %q=%q", code.Value, code.Label)
			}
			if c.Unit != "" || len(c.Synonyms)+len(c.Codes) > 0 || c.Hide {
				out = append(out, line)
			}
		}
	}
	slices.Sort(out)
	return out
}
