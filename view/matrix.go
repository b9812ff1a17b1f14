package view

import (
	"fmt"
	"strings"

	"tovrel/core/score"
	"tovrel/core/versus"
)

// matrixForm is one question of several runs beside each other, in JSON.
type matrixForm struct {
	Question string                    `json:"question"`
	Standing map[string]score.Standing `json:"standing"` // by the run's name
	Alone    string                    `json:"alone,omitempty"`
	Moved    bool                      `json:"moved_ground,omitempty"`
}

func matrixFormOf(s versus.Several, all bool) []matrixForm {
	names := versus.Names(s.Sides)
	out := []matrixForm{}
	for _, row := range s.Matrix {
		if !row.Differ && !all {
			continue
		}
		f := matrixForm{Question: row.Question, Standing: map[string]score.Standing{}, Moved: row.Moved}
		for i, standing := range row.Standings {
			if standing != "" {
				f.Standing[names[i]] = standing
			}
		}
		if row.Alone >= 0 {
			f.Alone = names[row.Alone]
		}
		out = append(out, f)
	}
	return out
}

// standingSigns are those of the verdicts, so that they need no learning; a run that did not ask a question has none.
var standingSigns = map[score.Standing]Cell{score.Solid: {Text: "solid", Shown: "●", Tone: Right},
	score.Flaky: {Text: "flaky", Shown: "◐", Tone: Lucky}, score.Broken: {Text: "broken", Shown: "✕", Tone: Wrong},
	score.Open: {Text: "open", Shown: "·", Tone: Faint}, "": {}}

// matrixParts lay runs beside each other: the questions where they differ, a sign for each run, and who is alone right.
func matrixParts(s versus.Several, all bool) []Part {
	names := versus.Names(s.Sides)
	g := &Grid{Main: all, Columns: []Column{{Name: "question", Keep: true}}}
	for _, name := range names {
		g.Columns = append(g.Columns, Column{Name: name, Keep: true, Right: true})
	}
	same := 0
	for _, row := range s.Matrix {
		if !row.Differ {
			same++
			if !all {
				continue
			}
		}
		cells := []Cell{text(row.Question)}
		for _, standing := range row.Standings {
			cells = append(cells, standingSigns[standing])
		}
		g.Rows = append(g.Rows, cells)
	}
	title := "Question by question, where the runs differ"
	if all {
		title = "Question by question"
	}
	var legend []string
	for i, side := range s.Sides {
		legend = append(legend, names[i]+" "+side.Run.Translator)
	}
	lines := []Text{{Text: strings.Join(legend, " · ")},
		{Tone: Faint, Text: "● solid  ◐ flaky  ✕ broken  · not scored; nothing where it was not asked"}}
	if !all && same > 0 {
		lines = append(lines, Text{Tone: Faint, Text: fmt.Sprintf("%s alike in all; all with --all.", plural(same, "question is",
			"questions are"))})
	}
	if len(g.Rows) == 0 {
		g = nil
	}
	return []Part{{Title: title, Lines: lines, EachQuestion: true}, {Grid: g, EachQuestion: true},
		{Lines: aloneLines(s, names), Figures: true}}
}

func aloneLines(s versus.Several, names []string) []Text {
	var lines []Text
	for i, questions := range s.AloneRight() {
		if len(questions) > 0 {
			lines = append(lines, Text{Text: fmt.Sprintf("%s (%s) alone is right on %s: %s.", s.Sides[i].Run.Translator, names[i],
				plural(len(questions), "question", "questions"), someOf(questions))})
		}
	}
	if len(lines) == 0 {
		lines = []Text{{Text: "No run alone is right on any question."}}
	}
	return lines
}
