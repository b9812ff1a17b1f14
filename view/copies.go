package view

import "fmt"

// Copy is a frozen copy of a dataset.
type Copy struct {
	Dataset     string `json:"dataset"`
	Twin        int    `json:"twin,omitempty"` // its number, of a twin
	Fingerprint string `json:"fingerprint"`
}

type tidiedForm struct {
	Removed []Copy `json:"removed"`
	Bytes   int64  `json:"bytes"`
	DryRun  bool   `json:"dry_run"`
}

// Tidied shows the frozen copies that were removed, or would be.
func Tidied(copies []Copy, bytes int64, dryRun bool) Screen {
	g := gridOf(copies,
		declare(Column{Name: "dataset", Keep: true}, func(c Copy) Cell {
			if c.Twin > 0 {
				return text(fmt.Sprintf("%s, twin %d", c.Dataset, c.Twin))
			}
			return text(c.Dataset)
		}),
		declare(Column{Name: "fingerprint"}, func(c Copy) Cell { return text(c.Fingerprint) }),
	)
	g.Main = true
	verb := "removed"
	if dryRun {
		verb = "would be removed"
	}
	screen := Screen{Data: tidiedForm{append([]Copy{}, copies...), bytes, dryRun},
		Headline: []Text{{Text: fmt.Sprintf("%s %s (%.1f MB).", plural(len(copies), "copy", "copies"), verb, float64(bytes)/(1<<20))}}}
	if len(copies) == 0 {
		screen.Headline = []Text{{Text: "Every frozen copy is needed by the present files or by a run."}}
		g.Machine = true
	}
	screen.Parts = []Part{{Grid: g}}
	return screen
}
