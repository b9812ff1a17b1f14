package view

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/core/fault"
)

// StrengthOf is how many edits of a question's reference query its expected answer tells from the right one.
type StrengthOf struct {
	Question  string         `json:"question"`
	Edits     int            `json:"edits"`
	ToldApart int            `json:"told_apart"`
	Survivors []SurvivorForm `json:"survivors"`
	Why       string         `json:"why,omitempty"` // why nothing was tried

	Codes map[fault.Code]ToldForm `json:"faults"`
}

// ToldForm counts the edits of one fault.
type ToldForm struct {
	Edits int `json:"edits"`
	Apart int `json:"told_apart"`
}

// RowForm is a row that would tell a survivor apart.
type RowForm struct {
	Table   string    `json:"table"`
	Columns []string  `json:"columns"`
	Cells   []*string `json:"cells"` // null for null
	Why     string    `json:"why"`
}

// SurvivorForm is an edit that the expected answer cannot tell from the right query.
type SurvivorForm struct {
	Edit  string     `json:"edit"`
	Code  fault.Code `json:"code"`
	Query string     `json:"query"`
	Row   *RowForm   `json:"row"` // null where none is known
}

func (s StrengthOf) share() float64 {
	if s.Edits == 0 {
		return 1
	}
	return float64(s.ToldApart) / float64(s.Edits)
}

type strengthForm struct {
	Strength  *float64       `json:"strength"` // null where nothing was tried
	Sets      []strengthPart `json:"sets"`
	Faults    []strengthPart `json:"faults"`
	Questions []StrengthOf   `json:"questions"`
}

type strengthPart struct {
	Name      string `json:"name"`
	Edits     int    `json:"edits"`
	ToldApart int    `json:"told_apart"`
}

// StrengthScreen shows the strength of golden sets, the weakest question first. AddsRows says that rows were looked for already.
func StrengthScreen(all []StrengthOf, addsRows bool) Screen {
	sorted := append([]StrengthOf(nil), all...)
	slices.SortStableFunc(sorted, func(a, b StrengthOf) int { return cmp.Compare(a.share(), b.share()) })
	form := strengthForm{Questions: sorted, Sets: []strengthPart{}, Faults: []strengthPart{}}
	if form.Questions == nil {
		form.Questions = []StrengthOf{}
	}
	edits, told, survivors, codes := form.addUp()
	screen := Screen{Headline: []Text{{Tone: Strong, Text: "No question has a reference query that could be edited."}}}
	if edits > 0 {
		share := float64(told) / float64(edits)
		form.Strength = &share
		screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("Strength %s: the expected answers tell %d of %d edited "+
			"queries from the right one.", Percent(share), told, edits)}}
	}
	screen.Data = form
	if bars := survivorBars(survivors, codes); len(bars) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "Survivors by fault: mistakes that these answers would not notice", Bars: bars})
	}
	screen.Parts = append(screen.Parts, Part{Title: "Questions, the weakest first", Grid: strengthGrid(sorted)})
	if len(sorted) > 0 && len(sorted[0].Survivors) > 0 {
		screen.Next = []string{fmt.Sprintf("See all survivors of the weakest with `tovrel set strength %s`.", sorted[0].Question)}
	}
	if len(sorted) == 1 {
		screen.Parts = append(screen.Parts, survivorParts(sorted[0])...)
		screen.Next = nil
		if one := sorted[0]; len(one.Survivors) > 0 && !addsRows {
			screen.Next = []string{fmt.Sprintf("A row in the sample data that makes a survivor's result differ strengthens "+
				"the answer: look for such rows with `tovrel set strength %s --add-rows`.", one.Question)}
		}
	}
	return screen
}

// addUp makes the parts of sets and faults of the questions, and gives the edits, those that were told apart, and both by fault.
func (form *strengthForm) addUp() (edits, told int, survivors map[fault.Code]int, codes map[fault.Code]ToldForm) {
	sets := map[string]*strengthPart{}
	survivors, codes = map[fault.Code]int{}, map[fault.Code]ToldForm{}
	for _, s := range form.Questions {
		for code, n := range s.Codes {
			codes[code] = ToldForm{codes[code].Edits + n.Edits, codes[code].Apart + n.Apart}
		}
		edits, told = edits+s.Edits, told+s.ToldApart
		set := setOf(s.Question)
		if sets[set] == nil {
			sets[set] = &strengthPart{Name: set}
		}
		sets[set].Edits, sets[set].ToldApart = sets[set].Edits+s.Edits, sets[set].ToldApart+s.ToldApart
		for _, v := range s.Survivors {
			survivors[v.Code]++
		}
	}
	for _, code := range fault.Codes() {
		if n, has := codes[code]; has {
			form.Faults = append(form.Faults, strengthPart{string(code), n.Edits, n.Apart})
		}
	}
	for _, name := range slices.Sorted(maps.Keys(sets)) {
		form.Sets = append(form.Sets, *sets[name])
	}
	return edits, told, survivors, codes
}

func strengthGrid(sorted []StrengthOf) *Grid {
	g := gridOf(sorted,
		declare(Column{Name: "question", Keep: true}, func(s StrengthOf) Cell { return text(s.Question) }),
		declare(Column{Name: "strength", Right: true, Keep: true}, StrengthOf.cell),
		declare(Column{Name: "edits", Right: true, Spare: true}, func(s StrengthOf) Cell { return count(s.Edits) }),
		declare(Column{Name: "survivors", Right: true, Spare: true}, func(s StrengthOf) Cell { return count(len(s.Survivors)) }),
		declare(Column{Name: "the first survivor", Wrap: true}, StrengthOf.first),
	)
	g.Main = true
	return g
}

func (s StrengthOf) cell() Cell {
	if s.Edits == 0 {
		return share(nil)
	}
	of := s.share()
	return share(&of)
}

// first is the first survivor, or why nothing was tried.
func (s StrengthOf) first() Cell {
	if len(s.Survivors) == 0 {
		return text(s.Why)
	}
	return text(fmt.Sprintf("%s: %s", s.Survivors[0].Code, s.Survivors[0].Edit))
}

// words lists the cells of a row.
func (r *RowForm) words() string {
	var parts []string
	for i, name := range r.Columns {
		cell := "NULL"
		if r.Cells[i] != nil {
			cell = *r.Cells[i]
		}
		parts = append(parts, name+" "+cell)
	}
	return strings.Join(parts, ", ")
}

func survivorBars(survivors map[fault.Code]int, codes map[fault.Code]ToldForm) []Bar {
	var bars []Bar
	for _, code := range fault.Codes() {
		if n := survivors[code]; n > 0 {
			bars = append(bars, Bar{Name: string(code), Value: n, Note: "of " + plural(codes[code].Edits, "edit", "edits")})
		}
	}
	slices.SortStableFunc(bars, func(a, b Bar) int { return cmp.Compare(b.Value, a.Value) })
	return bars
}

// survivorParts show every survivor of a question with its query.
func survivorParts(s StrengthOf) []Part {
	var parts []Part
	for _, v := range s.Survivors {
		parts = append(parts, Part{Title: fmt.Sprintf("%s: %s", v.Code, v.Edit), Code: &Code{"sql", v.Query}})
		if v.Row != nil {
			parts = append(parts, Part{Lines: []Text{{Text: "A row of " + v.Row.Table + " that would tell it apart: " + v.Row.words()}}})
		}
	}
	return parts
}
