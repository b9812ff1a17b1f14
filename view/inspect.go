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
	of := func(name string, cell func(f profile.Finding) string) column[profile.Finding] {
		return declare(Column{Name: name}, func(f profile.Finding) Cell { return text(cell(f)) })
	}
	g := gridOf(findings,
		of("severity", func(f profile.Finding) string { return string(f.Severity) }),
		of("code", func(f profile.Finding) string { return f.Code }),
		of("table", func(f profile.Finding) string { return f.Table }),
		of("column", func(f profile.Finding) string { return f.Column }),
		of("file", func(f profile.Finding) string { return f.File }),
		declare(Column{Name: "line", Right: true}, func(f profile.Finding) Cell {
			if f.Line == 0 {
				return text("")
			}
			return text(fmt.Sprint(f.Line))
		}),
		of("message", func(f profile.Finding) string { return f.Message }),
		of("example", func(f profile.Finding) string { return f.Example }),
		of("remedy", func(f profile.Finding) string { return f.Remedy }),
	)
	g.Main = true
	g.Machine = true
	counts := map[profile.Severity]int{}
	var lines []Text
	for _, f := range findings {
		counts[f.Severity]++
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
