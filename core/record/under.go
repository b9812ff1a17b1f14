package record

// Under is what a run was made under on a dataset, beside its questions.
type Under struct {
	Told   string            `json:"told"`             // digest of the lines that its translator was told; they are kept as a table
	Judge  string            `json:"judge"`            // digest of what of the briefing its answers were judged by
	Tables map[string]string `json:"tables,omitempty"` // fingerprints
}

// JudgedAlike tells whether two runs' answers on a dataset were judged by the same labels, synonyms and units. Runs of earlier versions
// know only what was told: where that is the same, so is the rest.
func JudgedAlike(a, b Run, dataset string) bool {
	x, knowsX := a.Under[dataset]
	y, knowsY := b.Under[dataset]
	if knowsX && knowsY {
		return x.Judge == y.Judge
	}
	return ToldAlike(a, b, dataset)
}

// ToldAlike tells whether two runs' translators were told the same of a dataset, by the grounds of the questions that both asked.
func ToldAlike(a, b Run, dataset string) bool {
	for name, about := range a.About {
		ground, both := b.Grounds[name]
		if mine := a.Grounds[name].Briefing; both && about.Dataset == dataset && mine != "" && ground.Briefing != "" &&
			mine != ground.Briefing {
			return false
		}
	}
	return true
}
