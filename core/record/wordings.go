package record

import (
	"tovrel/core/score"
)

// BreakingWording is a wording that is answered worse than the other wordings of its question.
type BreakingWording struct {
	Question    string `json:"question"`
	Wording     string `json:"wording"`
	Attempts    int    `json:"attempts"` // none of them right
	OthersRight int    `json:"others_right"`
	Others      int    `json:"others"` // attempts in the other wordings
}

// BreakingWordings lists the wordings of which no scored attempt is right where another wording of the same question has one that is.
func BreakingWordings(attempts []Attempt) []BreakingWording {
	type key struct{ question, wording string }
	counts, all := map[key]Pairs{}, map[string]Pairs{}
	var order []key
	for _, a := range attempts {
		if a.Verdict == score.Unscored {
			continue
		}
		one := Pairs{Of: 1}
		if a.Verdict == score.Right {
			one.Agree = 1
		}
		k := key{a.Question, a.Wording}
		if counts[k].Of == 0 {
			order = append(order, k)
		}
		counts[k], all[a.Question] = counts[k].Plus(one), all[a.Question].Plus(one)
	}
	out := []BreakingWording{}
	for _, k := range order {
		own, whole := counts[k], all[k.question]
		if own.Agree == 0 && whole.Agree > 0 {
			out = append(out, BreakingWording{k.question, k.wording, own.Of, whole.Agree, whole.Of - own.Of})
		}
	}
	return out
}
