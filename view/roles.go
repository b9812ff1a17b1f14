package view

import (
	"fmt"
	"strings"

	"tovrel/core/record"
)

// foldRoles leaves out the attempts for roles whose answers are worth what the first one's is, for the same reason, and counts them by
// the question that stays.
func foldRoles(attempts []record.Attempt) (folded []record.Attempt, more map[string]int) {
	type kind struct{ question, wording, verdict, why string }
	first, more := map[kind]string{}, map[string]int{}
	for _, a := range attempts {
		base, _, isRole := strings.Cut(a.Question, "@")
		k := kind{base, fmt.Sprint(a.Repeat), string(a.Verdict), whyOf(a)}
		if before, has := first[k]; isRole && has && before != a.Question {
			more[before]++
			continue
		}
		if isRole {
			first[k] = a.Question
		}
		folded = append(folded, a)
	}
	return folded, more
}
