package view

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/record"
	"tovrel/core/score"
)

// TestFoldRoles: the answers for roles that are worth the same for the same reason are one line; whatever differs stays, and so does every
// question without roles.
func TestFoldRoles(t *testing.T) {
	a := func(question string, v score.Verdict, why string) record.Attempt {
		return record.Attempt{Question: question, Verdict: v, Why: why}
	}
	all := []record.Attempt{a("s/q@role=a", score.Right, "same"), a("s/q@role=b", score.Right, "same"), a("s/q@role=c", score.Wrong, "no"),
		a("s/q@role=d", score.Right, "same"), a("s/p", score.Right, "same"), a("s/p", score.Right, "same"),
		a("s/p@role=a", score.Right, "same")}
	folded, more := foldRoles(all)
	var names []string
	for _, one := range folded {
		names = append(names, one.Question)
	}
	require.Equal(t, []string{"s/q@role=a", "s/q@role=c", "s/p", "s/p", "s/p@role=a"}, names)
	require.Equal(t, map[string]int{"s/q@role=a": 2}, more)
	require.Len(t, questionGrid(all).Exact().Rows, 7, "machines get every line")
}
