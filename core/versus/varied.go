package versus

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/record"
)

// Varied is something that two runs were made under differently. It is no moved ground: what it was worth is what is compared.
type Varied struct {
	What    string   `json:"what"`
	Changed []string `json:"changed"` // one line each: "m-1 → m-2", or what went (-) and came (+)
}

// The things that can vary.
const (
	VariedTranslator = "translator"
	VariedVersion    = "version"
	VariedSettings   = "settings"
	VariedModel      = "model"
	VariedProtocol   = "protocol"
	VariedLevel      = "level"
	VariedBriefing   = "briefing"
	VariedData       = "data"
	VariedRepeats    = "repeats"
	VariedTool       = "tool"
)

// Holdable lists what can be held: where it differs, the ground has moved.
func Holdable() []string { return []string{VariedBriefing, VariedModel, VariedSettings} }

// holding is what of the circumstances of two runs is held.
type holding struct {
	what   []string
	varied []Varied
	runs   [2]record.Run
}

// held are the circumstances of a question that are held and differ between two runs.
func (h holding) held(dataset string) []string {
	var out []string
	for _, what := range h.what {
		differs := slices.ContainsFunc(h.varied, func(v Varied) bool { return v.What == what })
		if what == VariedBriefing {
			differs = toldOtherwise(h.runs[0], h.runs[1], dataset)
		}
		if differs {
			out = append(out, what)
		}
	}
	return out
}

// variedBetween lists what two runs were made under differently, in a fixed order.
func variedBetween(a, b Side) []Varied {
	var out []Varied
	step := func(what, before, after string) {
		if before != after {
			out = append(out, Varied{what, []string{cmp.Or(before, "not known") + " → " + cmp.Or(after, "not known")}})
		}
	}
	if BaseName(a.Run.Translator) != BaseName(b.Run.Translator) {
		step(VariedTranslator, a.Run.Translator, b.Run.Translator)
	} else {
		step(VariedVersion, a.Run.Translator, b.Run.Translator)
	}
	if a.Run.Translator == b.Run.Translator && a.Run.Settings != b.Run.Settings && a.Run.Settings != "" && b.Run.Settings != "" {
		out = append(out, Varied{VariedSettings, []string{"what tovrel.yaml says of " + a.Run.Translator + ", under the same version"}})
	}
	if len(a.Run.Models)+len(b.Run.Models) > 0 {
		step(VariedModel, strings.Join(a.Run.Models, ", "), strings.Join(b.Run.Models, ", "))
	}
	step(VariedProtocol, protocolOf(a.Run), protocolOf(b.Run))
	if a.Run.Options.Brief != "" && b.Run.Options.Brief != "" {
		step(VariedLevel, a.Run.Options.Brief, b.Run.Options.Brief)
	}
	out = append(out, variedBriefing(a, b)...)
	out = append(out, variedData(a.Run, b.Run)...)
	if a.Run.Options.Repeats > 0 && b.Run.Options.Repeats > 0 {
		step(VariedRepeats, strconv.Itoa(a.Run.Options.Repeats), strconv.Itoa(b.Run.Options.Repeats))
	}
	if a.Run.Tool != "" && b.Run.Tool != "" {
		step(VariedTool, a.Run.Tool, b.Run.Tool)
	}
	return out
}

func protocolOf(r record.Run) string { return strconv.Itoa(max(1, r.Protocol)) }

// variedBriefing is what was told differently of the datasets that both runs asked of; where the levels differ, that says it.
func variedBriefing(a, b Side) []Varied {
	sameLevel := a.Run.Options.Brief == b.Run.Options.Brief
	var changed []string
	for _, dataset := range sharedDatasets(a.Run, b.Run) {
		if !toldOtherwise(a.Run, b.Run, dataset) {
			continue
		}
		lines := briefing.Changed(a.Told[dataset], b.Told[dataset])
		if len(a.Told[dataset]) == 0 || len(b.Told[dataset]) == 0 {
			lines = []string{"what was told of " + dataset + ", of which a run of an earlier version does not keep the lines"}
		}
		changed = append(changed, lines...)
	}
	if len(changed) == 0 || !sameLevel {
		return nil
	}
	return []Varied{{VariedBriefing, changed}}
}

// toldOtherwise tells whether two runs' translators were told different things of a dataset.
func toldOtherwise(a, b record.Run, dataset string) bool {
	x, knowsX := a.Under[dataset]
	y, knowsY := b.Under[dataset]
	if knowsX && knowsY {
		return x.Told != y.Told
	}
	return !record.ToldAlike(a, b, dataset)
}

// variedData are the tables whose rows have changed, or the datasets where the tables are not known.
func variedData(a, b record.Run) []Varied {
	var changed []string
	for _, dataset := range sharedDatasets(a, b) {
		if a.Datasets[dataset] == b.Datasets[dataset] {
			continue
		}
		x, y := a.Under[dataset].Tables, b.Under[dataset].Tables
		if len(x) == 0 || len(y) == 0 {
			changed = append(changed, dataset)
			continue
		}
		tables := maps.Clone(x)
		maps.Copy(tables, y)
		for _, table := range slices.Sorted(maps.Keys(tables)) {
			if x[table] != y[table] {
				changed = append(changed, dataset+"."+table)
			}
		}
	}
	if len(changed) == 0 {
		return nil
	}
	return []Varied{{VariedData, changed}}
}

func sharedDatasets(a, b record.Run) []string {
	var out []string
	for _, name := range datasetsOf(a) {
		if _, both := b.Datasets[name]; both {
			out = append(out, name)
		}
	}
	return out
}
