package claimtest

import (
	"fmt"
	"strings"

	"tovrel/core/claim"
	"tovrel/core/table"
)

// more draws a question of another make: two numbers a row, names alone, or a day; a right and a wrong reply to it.
func (d *drawing) more() []Reply {
	switch d.IntN(3) {
	case 0:
		return d.twoMeasures()
	case 1:
		return d.namesAlone()
	}
	return d.oneDay()
}

func literal(rows [][]string, names ...string) *table.Table {
	var cells [][]table.Cell
	for _, row := range rows {
		var out []table.Cell
		for _, text := range row {
			out = append(out, table.Cell{Text: text})
		}
		cells = append(cells, out)
	}
	t, err := table.FromRows(names, cells)
	if err != nil {
		panic(err)
	}
	return t
}

// twoMeasures has litres and loads for each place.
func (d *drawing) twoMeasures() []Reply {
	style := pick(d, writings...)
	var rows [][]string
	var litres, loads []float64
	for k, i := range d.Perm(len(places))[:2+d.IntN(3)] {
		litres, loads = append(litres, float64(2000+d.IntN(90000))+0.5*float64(d.IntN(2))), append(loads, float64(2+d.IntN(60)+70*k))
		rows = append(rows, []string{places[i], fmt.Sprint(litres[k]), fmt.Sprint(loads[k])})
	}
	e := claim.Expected{Table: literal(rows, "district", "litres", "loads"),
		Question: "How many litres and loads did each district deliver?",
		Units:    []string{"", "L", ""}}
	form := pick(d, "%s: %s litres in %s loads", "%s delivered %s litres with %s loads", "%s (%s L, %s loads)",
		"- %s: %s litres, %s loads", "| %s | %s | %s |")
	write := func(first, second []float64) string {
		var parts []string
		for k := range rows {
			parts = append(parts, fmt.Sprintf(form, rows[k][0], style.number(first[k], 1), style.number(second[k], 0)))
		}
		switch {
		case strings.HasPrefix(form, "|"):
			return "| district | litres | loads |\n|---|---:|---:|\n" + strings.Join(parts, "\n")
		case strings.HasPrefix(form, "-"):
			return strings.Join(parts, "\n")
		}
		return pick(d, joined(parts)+".", strings.Join(parts, "; ")+".", strings.Join(parts, ". ")+".")
	}
	spoiled := append([]float64(nil), loads...)
	made := "a number changed"
	if d.IntN(2) == 0 {
		spoiled[0], spoiled[1], made = spoiled[1], spoiled[0], "numbers swapped"
	} else {
		spoiled[d.IntN(len(spoiled))] += pick(d, 1.0, 10, 100)
	}
	return []Reply{{"two measures", "right", true, write(litres, loads), e}, {"two measures", made, false, write(litres, spoiled), e}}
}

// namesAlone asks for some of the names of a domain.
func (d *drawing) namesAlone() []Reply {
	domain := pick(d, places, people, tools)
	order := d.Perm(len(domain))
	n := 2 + d.IntN(3)
	var rows [][]string
	var names, other []string
	for k, i := range order {
		if k < n {
			rows, names = append(rows, []string{domain[i]}), append(names, domain[i])
		} else {
			other = append(other, domain[i])
		}
	}
	e := claim.Expected{Table: literal(rows, "name"), Domain: [][]string{domain}, Question: pick(d, "Which ones were not used in 2025?",
		"Which of them are overdue?",
		"List those with a deposit.")}
	write := func(names []string) string {
		if d.IntN(2) == 0 {
			return pick(d, "", "These are:\n", "I found the following:\n\n") + "- " + strings.Join(names, "\n- ")
		}
		return fmt.Sprintf(pick(d, "%s.", "These are %s.", "The answer is: %s.", "%s – that is all."), joined(names))
	}
	wrong, made := append(append([]string(nil), names...), other[0]), "one too many"
	switch d.IntN(3) {
	case 0:
		wrong, made = names[1:], "one is missing"
	case 1:
		wrong, made = append(append([]string(nil), names[1:]...), other[0]), "another one"
	}
	return []Reply{{"names", "right", true, write(names), e}, {"names", made, false, write(wrong), e}}
}

// oneDay asks for a date.
func (d *drawing) oneDay() []Reply {
	months := []string{"January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
		"December"}
	year, month, day := 2024+d.IntN(8), 1+d.IntN(12), 1+d.IntN(28)
	e := claim.Expected{Table: literal([][]string{{fmt.Sprintf("%04d-%02d-%02d", year, month, day)}}, "day"),
		Question: pick(d, "When was the first load?", "On which day did Ada Moss join?", "What is the date of the latest payment?")}
	write := func(year, month, day int) string {
		name := months[month-1]
		return fmt.Sprintf(pick(d, "%s.", "It was on %s.", "On %s.", "That happened on %s."), pick(d, fmt.Sprintf("%d %s %d", day, name,
			year),
			fmt.Sprintf("%s %d, %d", name, day, year), fmt.Sprintf("%04d-%02d-%02d", year, month, day), fmt.Sprintf("%02d.%02d.%d", day,
				month, year),
			fmt.Sprintf("%d %s %d", day, name[:3], year)))
	}
	wrong := [3]int{year, month, day}
	switch d.IntN(3) {
	case 0:
		wrong[0]--
	case 1:
		wrong[1] = wrong[1]%12 + 1
	default:
		wrong[2] = wrong[2]%28 + 1
	}
	return []Reply{{"a day", "right", true, write(year, month, day), e}, {"a day", "another day", false, write(wrong[0], wrong[1],
		wrong[2]), e}}
}
