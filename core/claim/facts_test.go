package claim_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/claim"
	"tovrel/core/value"
)

func inWords(texts ...string) (out []claim.Fact) {
	for _, text := range texts {
		out = append(out, claim.Fact{Ways: []claim.Way{{Words: text}}, Said: text})
	}
	return out
}

func TestFacts(t *testing.T) {
	payment := claim.Facts{States: inWords("gross payment less deductions"), Question: "What does net payment mean here?",
		Avoids: []string{"includes deductions"}, Synonyms: [][]string{{"deductions", "withholdings"}}}
	trip := claim.Facts{States: inWords("a trip that did not take place"), Question: "What is a void trip?"}
	farms := value.OfInt(53)
	counted := claim.Facts{States: []claim.Fact{{Ways: []claim.Way{{Value: &farms, About: []string{"farm", "member"}}},
		Said: "53 farms"}}}
	unusual := claim.Facts{States: append(inWords("the last payment was in May", "litres fell in April"), claim.Fact{Said: "either",
		Ways: []claim.Way{{Words: "no payments since May"}, {Words: "payments stopped"}}}), Enough: 2}
	for _, c := range []struct {
		facts claim.Facts
		text  string
		want  claim.Verdict
	}{
		{payment, "Net payment is the gross payment less all deductions.", claim.Right},
		{payment, "It is what is left: the gross payment minus deductions.", claim.Right},
		{payment, "Net payments are gross payments less withholdings.", claim.Right},
		{payment, "It is deductions less the gross payment.", claim.Unsure},
		{payment, "Net payment includes deductions. It is the gross payment less deductions.", claim.Wrong},
		{payment, "It is the amount that a farm receives.", claim.Wrong},
		{payment, "It is not the gross payment less deductions.", claim.Wrong},
		{payment, "It is the gross amount.", claim.Unsure},
		{trip, "A void trip is a trip that did not take place.", claim.Right},
		{trip, "Trips that never took place.", claim.Right},
		{trip, "A void trip is one which didn't take place.", claim.Right},
		{trip, "Void trips did not take place; each is a trip on paper.", claim.Right},
		{trip, "A void trip is a trip at night.", claim.Wrong},
		{trip, "A void trip is a trip that did take place.", claim.Wrong},
		{counted, "There are 53 farms.", claim.Right},
		{counted, "We have fifty-three members.", claim.Right},
		{counted, "There are 54 farms.", claim.Wrong},
		{counted, "There are 12 farms and 53 tankers.", claim.Wrong},
		{counted, "There are 53 tankers.", claim.Wrong},
		{unusual, "Litres fell in April. Payments stopped.", claim.Right},
		{unusual, "The last payment was in May, and litres fell in April.", claim.Right},
		{unusual, "Litres fell in April.", claim.Wrong},
		{unusual, "Nothing at all.", claim.Wrong},
	} {
		f := claim.JudgeFacts(c.text, c.facts)
		require.Equal(t, c.want, f.Verdict, "%s: %+v", c.text, f)
		require.NotEmpty(t, f.Why)
		require.Equal(t, len(c.facts.States),
			len(f.Stated)+len(f.Partly)+len(f.Missing)+map[bool]int{true: len(c.facts.States)}[f.Contradicted != ""])
	}
}
