package view

import (
	"fmt"
	"strings"

	"tovrel/core/profile"
)

type findingsForm struct {
	Dataset  string            `json:"dataset"`
	Findings []profile.Finding `json:"findings"`
}

var severityTone = map[profile.Severity]Tone{profile.Error: Wrong, profile.Warning: Lucky, profile.Hint: Faint}

// Findings shows what will hurt in a dataset, the worst first.
func Findings(dataset string, findings []profile.Finding) Screen {
	screen := Screen{Data: findingsForm{dataset, append([]profile.Finding{}, findings...)}}
	g := &Grid{Main: true, Machine: true, Columns: []Column{{Name: "severity"}, {Name: "code"}, {Name: "table"},
		{Name: "column"}, {Name: "file"}, {Name: "line", Right: true}, {Name: "message"}, {Name: "example"}, {Name: "remedy"}}}
	counts := map[profile.Severity]int{}
	var lines []Text
	for _, f := range findings {
		counts[f.Severity]++
		line := ""
		if f.Line > 0 {
			line = fmt.Sprint(f.Line)
		}
		g.Rows = append(g.Rows, []Cell{text(string(f.Severity)), text(f.Code), text(f.Table), text(f.Column), text(f.File),
			text(line), text(f.Message), text(f.Example), text(f.Remedy)})
		lines = append(lines, findingLines(f)...)
	}
	screen.Parts = []Part{{Lines: lines}, {Grid: g}}
	if len(findings) == 0 {
		screen.Headline = []Text{{Tone: Right, Text: fmt.Sprintf("%s: nothing found that will hurt.", dataset)}}
		screen.Parts = []Part{{Grid: g}}
		screen.Next = []string{fmt.Sprintf("See its columns with `tovrel data profile %s`.", dataset)}
		return screen
	}
	screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("%s: %s: %s, %s, %s.", dataset, plural(len(findings), "finding", "findings"),
		plural(counts[profile.Error], "error", "errors"), plural(counts[profile.Warning], "warning", "warnings"),
		plural(counts[profile.Hint], "hint", "hints"))}}
	screen.Next = []string{fmt.Sprintf("Correct the files, freeze them with `tovrel data freeze %s`, and inspect again.", dataset)}
	return screen
}

// findingLines are a finding's own line, and what to do below it.
func findingLines(f profile.Finding) []Text {
	at := f.Table
	if f.Column != "" {
		at += "." + f.Column
	}
	if f.File != "" {
		place := f.File
		if f.Line > 0 {
			place += fmt.Sprintf(":%d", f.Line)
		}
		at = strings.TrimSpace(at + " " + place)
	}
	message := f.Message
	if f.Example != "" {
		message += ", e.g. " + f.Example
	}
	lines := []Text{
		{Tone: severityTone[f.Severity], Text: fmt.Sprintf("%-7s  %s  %s", f.Severity, f.Code, at)},
		{Text: "         " + message},
	}
	if f.Remedy != "" {
		lines = append(lines, Text{Tone: Faint, Text: "         " + f.Remedy})
	}
	return lines
}
