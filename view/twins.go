package view

import (
	"fmt"
	"strconv"
	"strings"
)

// TwinForm is the JSON form of a twin.
type TwinForm struct {
	Number      int         `json:"number"`
	Fingerprint string      `json:"fingerprint"`
	Kept        TwinFacts   `json:"kept"`
	Tables      []TwinTable `json:"tables"`
}

// TwinFacts counts what a twin has in common with its original.
type TwinFacts struct {
	Unique       int `json:"unique"`
	NotNull      int `json:"not_null"`
	Dependencies int `json:"dependencies"`
	References   int `json:"references"`
}

// TwinTable is a table of a twin.
type TwinTable struct {
	Name string `json:"name"`
	Rows int64  `json:"rows"`
	Was  int64  `json:"rows_of_original"`
}

type twinsForm struct {
	Dataset string     `json:"dataset"`
	Twins   []TwinForm `json:"twins"`
}

// Twins shows the twins of a dataset.
func Twins(dataset string, twins []TwinForm) Screen {
	g := &Grid{Main: true, Columns: []Column{{Name: "twin", Right: true}, {Name: "table", Keep: true},
		{Name: "rows", Right: true}, {Name: "in the sample", Right: true}, {Name: "fingerprint", Spare: true}}}
	for _, t := range twins {
		for _, table := range t.Tables {
			g.Rows = append(g.Rows, []Cell{text(strconv.Itoa(t.Number)), text(table.Name), count(int(table.Rows)),
				count(int(table.Was)), {Text: t.Fingerprint, Shown: t.Fingerprint[:8], Tone: Faint}})
		}
	}
	screen := Screen{Data: twinsForm{dataset, twins}, Parts: []Part{{Grid: g}},
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s has %s.", dataset, plural(len(twins), "twin", "twins"))}}}
	if len(twins) > 0 {
		k := twins[0].Kept
		screen.Headline = append(screen.Headline,
			Text{Text: "They keep " + strings.Join([]string{plural(k.Unique, "set of columns that never repeats",
				"sets of columns that never repeat"),
				plural(k.NotNull, "column without nulls", "columns without nulls"),
				plural(k.Dependencies, "dependency between columns", "dependencies between columns"),
				plural(k.References, "reference", "references")}, ", ") + "."})
	}
	screen.Next = []string{fmt.Sprintf("Try right answers on them with `tovrel run --twins %d`.", len(twins))}
	return screen
}
