package twin_test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/profile"
	"tovrel/core/twin"
)

var update = flag.Bool("update", false, "rewrite the plans; read what changed")

// school is two tables with keys of two columns, codes with labels, sums, days that follow days, and links.
func school(t *testing.T) ([]twin.Rows, []twin.Joined) {
	day := func(n int) string {
		return time.Date(2030, 9, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n).Format(time.DateOnly)
	}
	rooms := [][]string{{"A1", "north", "30", "board"}, {"A2", "north", "25", "board"}, {"B1", "south", "60", "screen"}, {"B2", "south",
		"60", ""},
		{"C1", "yard", "200", "screen"}, {"C2", "yard", "12", "board"}}
	var lessons, joined [][]string
	for i := range 90 {
		room := rooms[i*5%7%6]
		subject := []string{"MA", "BI", "HI", "AR"}[i*11%9%4]
		teacher := map[string]string{"MA": "Pine", "BI": "Oak", "HI": "Elm", "AR": "Ash"}[subject]
		girls, boys := 3+i*7%13, 2+i*5%11
		held, marked := day(i/2), day(i/2+7)
		fee := []string{"2.50", "4.00", "2.50", "0.00"}[i%4]
		note := ""
		if i%9 == 0 {
			note = "moved"
		}
		lessons = append(lessons, []string{held, fmt.Sprint(i%2 + 1), room[0], subject, teacher, fmt.Sprint(girls), fmt.Sprint(boys),
			fmt.Sprint(girls + boys), marked, fee, note, "yes"})
		joined = append(joined, room)
	}
	one := rowsOf(t, "lessons", []string{"held", "period", "room", "subject", "teacher", "girls", "boys", "pupils", "marked", "fee",
		"note", "public"},
		lessons, "girls", "boys", "pupils", "fee")
	other := rowsOf(t, "rooms", []string{"room", "wing", "seats", "wall"}, rooms, "seats")
	link := profile.Link{From: profile.Place{Table: "lessons", Column: "room"}, To: profile.Place{Table: "rooms", Column: "room"}}
	beside := rowsOf(t, "j", []string{"room", "wing", "seats", "wall"}, joined)
	return []twin.Rows{one, other}, []twin.Joined{{Link: link, Child: one.Sample, Parent: beside.Sample}}
}

// tellMade tells the changes of single rows that are planned for a question.
func tellMade(got *strings.Builder, facts *twin.Facts, bounds []twin.Boundary, reads, names func(string) bool) {
	for _, m := range twin.ForQuestion(facts, bounds, reads, names) {
		fmt.Fprintf(got, "  made in %s\n", m.Table.Name)
		for _, c := range m.Changes {
			text := ""
			if c.Text != nil {
				text = *c.Text
			}
			fmt.Fprintf(got, "    %v %q %q in order %+v, filled %t\n", c.Columns, text, c.Other, c.Order, c.Filled)
		}
		for _, g := range m.Gone {
			fmt.Fprintf(got, "    gone by %s, with %v\n", g.From.Column, g.With)
		}
	}
}

// TestPlans holds the facts that are found of made-up tables, and the steps of the first twins of them: what is kept and what is changed.
func TestPlans(t *testing.T) {
	var got strings.Builder
	tell := func(name string, tables []twin.Rows, joined []twin.Joined, bounds []twin.Boundary) {
		facts := twin.Find(tables, joined)
		unique, notNull, dependencies, references := facts.Count()
		fmt.Fprintf(&got, "%s: %d unique, %d not null, %d dependencies, %d references\n", name, unique, notNull, dependencies, references)
		for _, table := range facts.Tables {
			fmt.Fprintf(&got, "  %s: keys %v, blocks %v, pins %+v\n", table.Name, table.Keys, table.Blocks, table.Pins)
			for i, c := range table.Columns {
				fmt.Fprintf(&got, "    %d %s %s, unique %t %t, reference %t, nullable %t, %d from %s to %s, codes %v, fixed %t\n", i,
					c.Name, c.Kind,
					c.Unique, c.NearlyUnique, c.Reference, c.Nullable, c.Distinct, c.Min, c.Max, c.Codes, table.Fixed(i))
			}
		}
		for _, rows := range tables {
			fmt.Fprintf(&got, "  candidate keys of %s: %v\n", rows.Name, twin.CandidateKeys(rows))
		}
		for seed := 1; seed <= 3; seed++ {
			for _, table := range twin.Make(facts, bounds, seed).Tables {
				fmt.Fprintf(&got, "  twin %d of %s, in order of %+v, pinned %+v\n", seed, table.Name, table.Order, table.Pins)
				for _, step := range table.Steps {
					fmt.Fprintf(&got, "    %s %+v\n", strings.TrimPrefix(fmt.Sprintf("%T", step), "twin."), step)
				}
			}
		}
	}
	tell("loans", []twin.Rows{loans(t)}, nil, []twin.Boundary{{Column: "paid", Values: []string{"yes"}}, {Column: "out",
		Values: []string{"2031-02-10"}},
		{Column: "off", Values: []string{"5"}}})
	tables, joined := school(t)
	tell("school", tables, joined, []twin.Boundary{{Column: "held", Values: []string{"2030-09-15"}}, {Column: "fee",
		Values: []string{"2.50"}},
		{Column: "subject", Values: []string{"MA"}}, {Column: "seats", Values: []string{"30"}}})
	tell("school alone", tables[:1], nil, nil)
	few := rowsOf(t, "few", []string{"id", "n"}, [][]string{{"1", "5"}, {"2", "7"}}, "n")
	tell("few", []twin.Rows{few}, nil, nil)

	got.WriteString("rows made for questions on school\n")
	facts, all := twin.Find(tables, joined), func(string) bool { return true }
	bounds := []twin.Boundary{{Column: "held", Values: []string{"2030-09-15"}}, {Column: "fee", Values: []string{"2.50"},
		Others: []string{"boys"}}, {Column: "subject", Values: []string{"MA"}}}
	tellMade(&got, facts, bounds, all, all)
	tellMade(&got, facts, bounds, twin.Named([]string{"Lessons"}), twin.Named([]string{"fee", "NOTE"}))

	const file = "../../testdata/gallery/twinplans.txt"
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(got.String()), 0o600))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	require.Equal(t, strings.Split(string(want), "\n"), strings.Split(got.String(), "\n"))
}

// TestBeside: the values beside a boundary are the next ones of its type.
func TestBeside(t *testing.T) {
	for _, c := range []struct {
		kind    string
		literal string
		want    []string
	}{
		{"BIGINT", "5", []string{"4", "5", "6"}}, {"DATE", "2031-03-01", []string{"2031-02-28", "2031-03-01", "2031-03-02"}},
		{"DATE", "2028-03-01", []string{"2028-02-29", "2028-03-01", "2028-03-02"}},
	} {
		require.ElementsMatch(t, c.want, twin.Beside(c.kind, []string{c.literal}), "%s %s", c.kind, c.literal)
	}
	require.NotContains(t, twin.Beside("BIGINT", []string{"soon"}), "soon")
	require.NotContains(t, twin.Beside("DATE", []string{"soon"}), "soon")
}
