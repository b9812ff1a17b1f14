package sql

import "strings"

// Range is a part of a text, from a byte to before another.
type Range struct{ From, To int }

// Differing finds the parts in which two queries' texts differ, token by token: the longest common subsequence of their words,
// names, literals and signs, without regard to case, is what they share. Very long queries are not compared.
//
// Source: Wagner and Fischer, The string-to-string correction problem, 1974.
func Differing(a, b string) (inA, inB []Range) {
	x, y := Tokens(a), Tokens(b)
	const most = 2000
	if len(x) > most || len(y) > most {
		return nil, nil
	}
	common := make([][]int, len(x)+1)
	for i := range common {
		common[i] = make([]int, len(y)+1)
	}
	for i := len(x) - 1; i >= 0; i-- {
		for j := len(y) - 1; j >= 0; j-- {
			if strings.EqualFold(x[i].Text, y[j].Text) {
				common[i][j] = common[i+1][j+1] + 1
			} else {
				common[i][j] = max(common[i+1][j], common[i][j+1])
			}
		}
	}
	i, j := 0, 0
	for i < len(x) || j < len(y) {
		switch {
		case i < len(x) && j < len(y) && strings.EqualFold(x[i].Text, y[j].Text):
			i, j = i+1, j+1
		case j == len(y) || i < len(x) && common[i+1][j] >= common[i][j+1]:
			inA = extend(inA, x[i], a)
			i++
		default:
			inB = extend(inB, y[j], b)
			j++
		}
	}
	return inA, inB
}

// extend adds a token to ranges; one that only space parts from the last range goes into it.
func extend(ranges []Range, t Token, text string) []Range {
	end := t.Start + len(t.Text)
	if n := len(ranges); n > 0 && strings.TrimSpace(text[ranges[n-1].To:t.Start]) == "" &&
		!strings.Contains(text[ranges[n-1].To:t.Start], "\n") {
		ranges[n-1].To = end
		return ranges
	}
	return append(ranges, Range{t.Start, end})
}
