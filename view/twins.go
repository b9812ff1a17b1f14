package view

import (
	"fmt"
	"math"
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
	Laws         int `json:"laws"`
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

// TwinCost is what making twins of a dataset of so many rows takes, in seconds, in words.
func TwinCost(name string, twins int, rows int64, seconds float64) string {
	what := fmt.Sprintf("%d twins of %s are", twins, name)
	if twins == 1 {
		what = fmt.Sprintf("One twin of %s is", name)
	}
	return fmt.Sprintf("%s made first, of %s rows: about %s. They are kept for later runs.", what, grouped(fmt.Sprint(rows)),
		Milliseconds(math.Ceil(seconds)*1000))
}

// Twins shows the twins of a dataset.
func Twins(dataset string, twins []TwinForm) Screen {
	type row struct {
		twin  TwinForm
		table TwinTable
	}
	var rows []row
	for _, t := range twins {
		for _, table := range t.Tables {
			rows = append(rows, row{t, table})
		}
	}
	g := gridOf(rows,
		declare(Column{Name: "twin", Right: true}, func(r row) Cell { return text(strconv.Itoa(r.twin.Number)) }),
		declare(Column{Name: "table", Keep: true}, func(r row) Cell { return text(r.table.Name) }),
		declare(Column{Name: "rows", Right: true}, func(r row) Cell { return count(int(r.table.Rows)) }),
		declare(Column{Name: "in the sample", Right: true}, func(r row) Cell { return count(int(r.table.Was)) }),
		declare(Column{Name: "fingerprint", Spare: true}, func(r row) Cell {
			return Cell{Text: r.twin.Fingerprint, Shown: r.twin.Fingerprint[:8], Tone: Faint}
		}),
	)
	g.Main = true
	screen := Screen{Data: twinsForm{dataset, twins}, Parts: []Part{{Grid: g}},
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s has %s.", dataset, plural(len(twins), "twin", "twins"))}}}
	if len(twins) > 0 {
		k := twins[0].Kept
		screen.Headline = append(screen.Headline,
			Text{Text: "They keep " + strings.Join([]string{plural(k.Unique, "set of columns that never repeats",
				"sets of columns that never repeat"),
				plural(k.NotNull, "column without nulls", "columns without nulls"),
				plural(k.Dependencies, "dependency between columns", "dependencies between columns"),
				plural(k.References, "reference", "references"), plural(k.Laws, "further fact", "further facts")}, ", ") + "."})
	}
	screen.Next = []string{fmt.Sprintf("What else they keep: `tovrel data twin %s --facts`.", dataset),
		fmt.Sprintf("Try right answers on them with `tovrel run --twins %d`.", len(twins))}
	return screen
}

// FactForm is the JSON form of a fact that twins keep.
type FactForm struct {
	Fact   string `json:"fact"` // as a briefing may repeat it
	Table  string `json:"table"`
	Rows   int64  `json:"rows"`   // on which it was seen
	Broken int64  `json:"broken"` // of the sample's rows, that break it
	Source string `json:"source"` // found; briefing
}

type factsForm struct {
	Dataset string     `json:"dataset"`
	Facts   []FactForm `json:"facts"`
}

// Facts shows what twins of a dataset keep besides keys and what the columns of a row tell of each other.
func Facts(dataset, briefing string, facts []FactForm) Screen {
	g := gridOf(facts,
		declare(Column{Name: "fact", Keep: true}, func(f FactForm) Cell { return text(f.Fact) }),
		declare(Column{Name: "rows", Right: true}, func(f FactForm) Cell { return count(int(f.Rows)) }),
		declare(Column{Name: "broken by", Right: true}, func(f FactForm) Cell { return count(int(f.Broken)) }),
		declare(Column{Name: "source"}, func(f FactForm) Cell { return Cell{Text: f.Source, Tone: Faint} }),
	)
	g.Main = true
	nearly := 0
	for _, f := range facts {
		if f.Broken > 0 {
			nearly++
		}
	}
	screen := Screen{Data: factsForm{dataset, facts}, Parts: []Part{{Grid: g}},
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("Twins of %s keep %s.", dataset, plural(len(facts), "fact", "facts"))}}}
	if nearly > 0 {
		screen.Headline = append(screen.Headline,
			Text{Text: fmt.Sprintf("%d of them nearly hold: no more rows break them than here.", nearly)})
	}
	if briefing == "" {
		briefing = "a briefing (`tovrel data profile " + dataset + " --write` makes one)"
	}
	screen.Next = []string{"One that is chance: put its line under `not-facts:` in " + briefing + ".",
		"One that is missing: put \"TABLE: CONDITION\" in SQL under `facts:`."}
	return screen
}
