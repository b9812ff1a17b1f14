package view

import (
	"fmt"
	"strings"
)

// CoveredForm says how many questions exercise something.
type CoveredForm struct {
	Dataset   string `json:"dataset"`
	Kind      string `json:"kind"`
	Name      string `json:"name"`
	Questions int    `json:"questions"`
	Role      string `json:"role"`
}

type coverageForm struct {
	Questions   int           `json:"questions"`
	Covered     []CoveredForm `json:"covered"`
	Suggestions []string      `json:"suggestions"`
}

// Coverage shows what golden sets exercise of the data and of what queries are made of, and what is missing.
func Coverage(questions int, all []CoveredForm) Screen {
	form := coverageForm{Questions: questions, Covered: all, Suggestions: []string{}}
	if form.Covered == nil {
		form.Covered = []CoveredForm{}
	}
	missing, most := 0, 1
	for _, c := range all {
		most = max(most, c.Questions)
		if c.Questions == 0 {
			missing++
			form.Suggestions = append(form.Suggestions, suggestion(c))
		}
	}
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: fmt.Sprintf("%s exercise %d of %d things; %d are missing.", plural(questions, "question", "questions"),
			len(all)-missing, len(all), missing)}}}
	screen.Parts = append(screen.Parts, heat(all, most)...)
	g := gridOf(all,
		declare(Column{Name: "dataset"}, func(c CoveredForm) Cell { return text(c.Dataset) }),
		declare(Column{Name: "kind"}, func(c CoveredForm) Cell { return text(c.Kind) }),
		declare(Column{Name: "name"}, func(c CoveredForm) Cell { return text(c.Name) }),
		declare(Column{Name: "questions", Right: true}, func(c CoveredForm) Cell { return count(c.Questions) }),
	)
	g.Main = true
	g.Machine = true
	screen.Parts = append(screen.Parts, Part{Grid: g})
	if len(form.Suggestions) > 0 {
		var lines []Text
		for _, s := range form.Suggestions {
			lines = append(lines, Text{Text: s})
		}
		screen.Parts = append(screen.Parts, Part{Title: "What is missing", Lines: lines})
	}
	return screen
}

func suggestion(c CoveredForm) string {
	switch c.Kind {
	case "feature":
		return fmt.Sprintf("No question needs a query with %s.", c.Name)
	case "term":
		return fmt.Sprintf("No question of %s uses the term %q.", c.Dataset, c.Name)
	case "difficulty":
		return fmt.Sprintf("No question is %s.", c.Name)
	case "null":
		return fmt.Sprintf("No question of %s uses %s, which has nulls.", c.Dataset, c.Name)
	case "fault":
		return fmt.Sprintf("No answer would notice the fault %s.", c.Name)
	}
	return fmt.Sprintf("No question of %s uses the %s %s.", c.Dataset, c.Kind, c.Name)
}

// heat draws a line for each table and kind: a block for each column, the fuller the more questions use it.
func heat(all []CoveredForm, most int) []Part {
	shades := []rune("·░▒▓█")
	type row struct {
		name, blocks string
		used, of     int
	}
	var rows []row
	index := map[string]int{}
	for _, c := range all {
		name := strings.TrimSpace(c.Dataset + " " + c.Kind + "s")
		switch c.Kind {
		case "table":
			continue
		case "column":
			table, _, _ := strings.Cut(c.Name, ".")
			name = c.Dataset + "." + table
		case "difficulty":
			name = "difficulties"
		}
		i, known := index[name]
		if !known {
			i = len(rows)
			index[name] = i
			rows = append(rows, row{name: name})
		}
		shade := 0
		if c.Questions > 0 {
			shade = min(len(shades)-1, 1+(c.Questions-1)*(len(shades)-1)/most)
			rows[i].used++
		}
		rows[i].blocks += string(shades[shade])
		rows[i].of++
	}
	g := gridOf(rows,
		declare(Column{Name: "of", Keep: true}, func(r row) Cell { return text(r.name) }),
		declare(Column{Name: "a block each, the darker the more questions"}, func(r row) Cell { return text(r.blocks) }),
		declare(Column{Name: "used", Right: true}, func(r row) Cell { return count(r.used) }),
		declare(Column{Name: "of", Right: true}, func(r row) Cell { return count(r.of) }),
	)
	return []Part{{Title: "Coverage", Grid: g}}
}
