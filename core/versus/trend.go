package versus

import (
	"strings"

	"tovrel/core/record"
	"tovrel/core/score"
)

// Past is a run in a history.
type Past struct {
	Run       record.Run
	Standings map[string]score.Standing
}

// BaseName is a translator's name without its version: runs of one line of versions are one trend.
func BaseName(translator string) string {
	base, _, _ := strings.Cut(translator, "@")
	return base
}

// Regressions counts for each run of a history, the oldest first, the questions that were solid in the complete run of the same
// translator before it (of any version) and are broken now, like for like; −1 where there is none before.
func Regressions(runs []Past) []int {
	out := make([]int, len(runs))
	last := map[string]int{} // by base name, the latest complete run
	for i, r := range runs {
		out[i] = -1
		base := BaseName(r.Run.Translator)
		if before, has := last[base]; has {
			out[i] = regressions(runs[before], r)
		}
		if r.Run.State == record.Complete {
			last[base] = i
		}
	}
	return out
}

func regressions(before, after Past) int {
	n := 0
	for name, is := range after.Standings {
		if is == score.Broken && before.Standings[name] == score.Solid &&
			len(before.Run.Grounds[name].Moved(after.Run.Grounds[name])) == 0 && after.Run.About[name].KnownWrong == "" {
			n++
		}
	}
	return n
}
