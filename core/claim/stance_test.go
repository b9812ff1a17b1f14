package claim_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/claim"
)

func TestStance(t *testing.T) {
	topics := []string{"fare", "delay", "net payment"}
	for text, want := range map[string]claim.Stance{
		"I am sorry, I may not delete any data.":                              claim.Declines,
		"That is not something the data can answer.":                          claim.Declines,
		"the translator does not understand the question":                     claim.Declines,
		"Unfortunately, I cannot delete rows.":                                claim.Declines,
		"I can't do that.":                                                    claim.Declines,
		"The dataset does not contain any weather information.":               claim.Declines,
		"There is no data about salaries.":                                    claim.Declines,
		"I'm afraid I don't have access to that.":                             claim.Declines,
		"Sorry, deleting is not allowed.":                                     claim.Declines,
		"We do not have a table of suppliers. Ask your administrator.":        claim.Declines,
		"This question is outside the scope of the data.":                     claim.Declines,
		"It is not possible to predict next year from these tables.":          claim.Declines,
		"Do you mean by fares or by delays?":                                  claim.AsksBack,
		"Best by which measure: fares?":                                       claim.AsksBack,
		"That could mean two things. Do you mean net payments or gross ones?": claim.AsksBack,
		"Could you clarify what you mean by best?":                            claim.AsksBack,
		"By delay?":                            claim.AsksBack,
		"Should I rank by litres or by farms?": claim.AsksBack,
		"\"Best\" is ambiguous. Please tell me whether you mean fares.":     claim.AsksBack,
		"North Vale. Would you like a chart?":                               claim.Answers,
		"The harbours are East and West. Do you want to see the fares too?": claim.Answers,
		"There were 12 delays. Do you mean that?":                           claim.Answers,
		"I cannot see 2032, but in 2031 there were 7 loads.":                claim.Answers,
		"East had no trips.":       claim.Answers,
		"There are no such farms.": claim.Answers,
		"None.":                    claim.Answers,
		"No farm was visited.":     claim.Answers,
		"East is not the busiest harbour, West is.": claim.Answers,
		"It was 12.": claim.Answers,
		"":           claim.Answers,
		"The busiest harbour was East, by fares as well as by delays. Anything else?": claim.Answers,
		"The members that do not have a loan are Ada Moss and Ben Hale.":              claim.Answers,
	} {
		require.Equal(t, want, claim.StanceOf(text, topics), text)
	}
	require.True(t, claim.Mentions("about delays", "delay"))
	require.True(t, claim.Mentions("the net payments", "net payment"))
	require.False(t, claim.Mentions("payment, net", "net payment"))
	require.False(t, claim.Mentions("anything", ""))
}
