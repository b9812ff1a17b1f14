package claim_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/claim"
	"tovrel/core/match"
	"tovrel/core/table"
)

// tableOf reads "a b/x 1/y 2": columns, then rows; "_" in a cell is a space, "-" alone nothing.
func tableOf(spec string) *table.Table {
	lines := strings.Split(spec, "/")
	names := strings.Fields(lines[0])
	var rows [][]table.Cell
	for _, l := range lines[1:] {
		var row []table.Cell
		for _, cell := range strings.Fields(l) {
			row = append(row, table.Cell{Text: strings.ReplaceAll(cell, "_", " "), Null: cell == "-"})
		}
		rows = append(rows, row)
	}
	t, err := table.FromRows(names, rows)
	if err != nil {
		panic(err)
	}
	return t
}

// oneAnswers are texts, most of them where one row is expected, each with its reason.
var oneAnswers = []struct {
	reason, expected, question, reply string
	want                              claim.Verdict
}{
	{"the value is stated", "n/2109", "How many loads in May 2031?", "In May 2031 there were 2,109 loads.", claim.Right},
	{"another number", "n/2109", "How many loads?", "There were 2,110 loads.", claim.Wrong},
	{"a competing number", "n/2109", "How many loads?", "There were 2109 or maybe 2,200 loads.", claim.Unsure},
	{"a number of the question does not compete", "n/7", "Of 500 farms, how many are late?", "7 of the 500 farms are late.",
		claim.Right},
	{"a date does not compete", "n/7", "How many?", "On 2031-06-30 there were 7.", claim.Right},
	{"a worded date does not compete", "n/7", "How many?", "As of 30 June 2031 there were 7.", claim.Right},
	{"list positions do not compete", "d n/x 7/y 8", "Which?", "1. x with 7\n2. y with 8", claim.Right},
	{"the values of a row stand together", "d n/x 7/y 8", "Which?", "x has 8. y has 7.", claim.Wrong},
	{"both values in one sentence", "d n/Lock 18234.5", "Which?", "Lock delivered 18,234.5 litres.", claim.Right},
	{"words are whole", "d/Lock", "Which?", "Lockwood did.", claim.Unsure},
	{"words are folded", "d/Lock", "Which?", "LOCK did.", claim.Right},
	{"a negated value does not count", "d/Lock", "Which?", "It was not Lock.", claim.Wrong},
	{"another value of the domain", "d/Lock", "Which?", "Lock, or South Vale.", claim.Wrong},
	{"a negated other value does not compete", "d/Lock", "Which?", "Lock, not South Vale.", claim.Right},
	{"a value of the question does not compete", "d/Lock", "Did South Vale lead?", "No, Lock led South Vale.", claim.Right},
	{"a share in percent", "p/0.1532", "What share?", "About 15.3% of them.", claim.Right},
	{"a rounding too far", "p/12.4968", "How much?", "About 12.6 litres.", claim.Wrong},
	{"a rounding", "p/12.4968", "How much?", "About 12.50 litres.", claim.Right},
	{"a whole number with a hedge may be rounded", "n/12346", "How many?", "About 12300.", claim.Right},
	{"a whole number without one may not", "n/12346", "How many?", "12,347 loads.", claim.Wrong},
	{"round, and without a hedge", "n/12346", "How many?", "It is 12,300.", claim.Unsure},
	{"currency and signs", "p/-1234.50", "How much?", "The balance is -€ 1,234.50.", claim.Right},
	{"a date is stated", "d/2031-05-01", "When?", "On 1 May 2031.", claim.Right},
	{"a date as Germans write it", "d/2031-05-21", "When?", "That was on 21.05.2031.", claim.Right},
	{"a date as the French write it", "d/2031-05-21", "When?", "It was the 21 mai 2031.", claim.Right},
	{"another date", "d/2031-05-21", "When?", "On 22 May 2031.", claim.Wrong},
	{"a boolean is stated", "b/true", "Is it?", "Yes, it is.", claim.Right},
	{"a boolean is denied", "b/true", "Is it?", "No, it is not.", claim.Wrong},
	{"nothing expected, none", "d", "Which farms?", "None of them.", claim.Right},
	{"nothing expected, no …", "d", "Which farms?", "There were no such farms.", claim.Right},
	{"nothing expected, something said", "d", "Which farms?", "Lock is one.", claim.Wrong},
	{"nothing said", "n/7", "How many?", "I do not know.", claim.Unsure},
	{"a share with what it is of", "late_share/0.612", "What share of the trips was late?", "61.2 % of the trips (918 of 1,500).",
		claim.Right},
	{"another share", "late_share/0.612", "What share of the trips was late?", "61.3 % of the trips (918 of 1,500).", claim.Wrong},
	{"a quotient alone", "late_share/0.612", "What share of the trips was late?", "918 of the 1,500 trips.", claim.Right},
	{"a share of another period", "late_share/0.612", "What share of the trips was late?", "8.2 % in 2030.", claim.Wrong},
	{"two thirds", "late_share/0.6667", "What share of the trips was late?", "About two thirds of them.", claim.Right},
	{"a true second", "n/28", "How many people did the fullest boat carry?", "28 people, well ahead of Hamlet (24).", claim.Right},
	{"a thousand euro", "fares/207800.40", "What did all trips earn?", "They earned about 208 thousand euro.", claim.Right},
	{"another thousand euro", "fares/207800.40", "What did all trips earn?", "They earned about 218 thousand euro.", claim.Wrong},
	{"a German writing", "fares/207800.40", "What did all trips earn?", "It is 207.800,40 €.", claim.Right},
	{"a French writing", "fares/207800.40", "What did all trips earn?", "It is 207 800,40 €.", claim.Right},
	{"nothing decides the writing", "n/12345", "How many litres?", "There were 12.345 litres.", claim.Unsure},
	{"a lot", "n/12345", "How many litres?", "Roughly a lot.", claim.Unsure},
	{"corrected", "n/12", "How many boats?", "There are 14 boats. Sorry, it is 12.", claim.Right},
	{"corrected to what is wrong", "n/14", "How many boats?", "There are 14 boats. Sorry, it is 12.", claim.Wrong},
	{"zero in words", "n/0", "How many boats?", "There are no boats.", claim.Right},
	{"none of them", "n/0", "How many boats sank?", "None of them.", claim.Right},
	{"a number in words", "n/28", "How many boats?", "There are twenty-eight boats.", claim.Right},
	{"the second is named first", "d/Lock", "Which?", "South Vale, ahead of Lock.", claim.Wrong},
	{"the first is held against the second", "d/Lock", "Which?", "Lock, ahead of South Vale.", claim.Right},
}

func TestOneAnswer(t *testing.T) {
	domain := [][]string{{"North_Vale", "North Vale", "South Vale", "Old Lock", "Lock"}}
	for _, c := range oneAnswers {
		t.Run(c.reason, func(t *testing.T) {
			f := claim.Judge(c.reply, claim.Expected{Table: tableOf(c.expected), Question: c.question, Domain: domain})
			require.Equal(t, c.want, f.Verdict, "%+v", f)
			require.NotEmpty(t, f.Why)
		})
	}
}

// TestTies: any choice among rows that are tied at the cut is right, unless the rules want these.
func TestTies(t *testing.T) {
	full := tableOf("tool loans/saw 9/drill 7/lamp 7/rake 7/hoe 2")
	e := claim.Expected{Table: tableOf("tool loans/saw 9/drill 7"), Full: full, Ranked: true, Question: "Which two tools are lent most?",
		Known: match.Known{Ranking: []match.Key{{Column: 1, Descending: true}}, Cut: &match.Cut{Full: full, Keep: 2}}}
	for text, want := range map[string]claim.Verdict{"Saw (9) and drill (7).": claim.Right, "Saw (9) and rake (7).": claim.Right,
		"1. saw: 9\n2. lamp: 7": claim.Right, "Saw (9) and hoe (2).": claim.Wrong, "Rake (7) and lamp (7).": claim.Wrong} {
		f := claim.Judge(text, e)
		require.Equal(t, want, f.Verdict, "%s: %+v", text, f)
		require.Equal(t, want == claim.Right && !strings.Contains(text, "drill"), f.Tied)
	}
	require.NoError(t, e.Rules.ParseRule("ties=strict"))
	require.Equal(t, claim.Wrong, claim.Judge("Saw (9) and rake (7).", e).Verdict)
}
