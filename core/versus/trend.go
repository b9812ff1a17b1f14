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

// RegressedSince counts the questions that were solid in a run and are broken in a later one, like for like.
func RegressedSince(before, after Past) int {
	n := 0
	for name, is := range after.Standings {
		if is == score.Broken && before.Standings[name] == score.Solid &&
			len(before.Run.Grounds[name].Moved(after.Run.Grounds[name])) == 0 && after.Run.About[name].KnownWrong == "" {
			n++
		}
	}
	return n
}
