package match_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
)

// TestReplies judges replies in words, each case with its reason.
func TestReplies(t *testing.T) {
	domain := [][]string{{"North_Vale", "North Vale", "South Vale", "Old Lock"}}
	for _, c := range []struct {
		reason, expected, question, reply string
		right                             bool
	}{
		{"the value is stated", "n/2109", "How many loads in May 2031?", "In May 2031 there were 2,109 loads.", true},
		{"another number", "n/2109", "How many loads?", "There were 2,110 loads.", false},
		{"a competing number", "n/2109", "How many loads?", "There were 2109 or maybe 2,200 loads.", false},
		{"a number of the question does not compete", "n/7", "Of 500 farms, how many are late?", "7 of the 500 farms are late.", true},
		{"a date does not compete", "n/7", "How many?", "On 2031-06-30 there were 7.", true},
		{"a worded date does not compete", "n/7", "How many?", "As of 30 June 2031 there were 7.", true},
		{"list positions do not compete", "d n/x 7/y 8", "Which?", "1. x with 7\n2. y with 8", true},
		{"the values of a row stand together", "d n/x 7/y 8", "Which?", "x has 8. y has 7.", false},
		{"both values in one sentence", "d n/Lock 18234.5", "Which?", "Lock delivered 18,234.5 litres.", true},
		{"words are whole", "d/Lock", "Which?", "Lockwood did.", false},
		{"words are folded", "d/Lock", "Which?", "LOCK did.", true},
		{"a negated value does not count", "d/Lock", "Which?", "It was not Lock.", false},
		{"another value of the domain", "d/Lock", "Which?", "Lock, or South Vale.", false},
		{"a negated other value does not compete", "d/Lock", "Which?", "Lock, not South Vale.", true},
		{"a value of the question does not compete", "d/Lock", "Did South Vale lead?", "No, Lock led South Vale.", true},
		{"a share in percent", "p/0.1532", "What share?", "About 15.3% of them.", true},
		{"a rounding too far", "p/12.4968", "How much?", "About 12.6 litres.", false},
		{"a rounding", "p/12.4968", "How much?", "About 12.50 litres.", true},
		{"a whole number takes no rounding", "n/12346", "How many?", "About 12300.", false},
		{"currency and signs", "p/-1234.50", "How much?", "The balance is -€ 1,234.50.", true},
		{"a date is stated", "d/2031-05-01", "When?", "On 1 May 2031.", true},
		{"a boolean is stated", "b/true", "Is it?", "Yes, it is.", true},
		{"nothing expected, none", "d", "Which farms?", "None of them.", true},
		{"nothing expected, no …", "d", "Which farms?", "There were no such farms.", true},
		{"nothing expected, something said", "d", "Which farms?", "Lock is one.", false},
		{"nothing said", "n/7", "How many?", "I do not know.", false},
	} {
		t.Run(c.reason, func(t *testing.T) {
			r := match.Text(tableOf(c.expected), c.reply, c.question, domain)
			require.Equal(t, c.right, r.Matched, r.Why)
			require.NotEmpty(t, r.Why)
		})
	}
	r := match.Text(tableOf("n/1/2/3/4"), "1, 2, 3 and 4", "Which?", nil)
	require.True(t, r.TooLong)
	require.False(t, r.Matched)
}
