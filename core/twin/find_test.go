package twin_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/core/value"
)

// rowsOf makes a sample of texts; amounts names the columns of amounts.
func rowsOf(t *testing.T, name string, names []string, rows [][]string, amounts ...string) twin.Rows {
	t.Helper()
	var cells [][]table.Cell
	for _, row := range rows {
		var one []table.Cell
		for _, text := range row {
			one = append(one, table.Cell{Text: text, Null: text == ""})
		}
		cells = append(cells, one)
	}
	sample, err := table.FromRows(names, cells)
	require.NoError(t, err)
	out := twin.Rows{Name: name, Rows: int64(len(rows)), Sample: sample, Codes: map[string]bool{}}
	for i, c := range sample.Columns {
		seen := map[string]bool{}
		low, high := value.Value{}, value.Value{}
		for row := range c.Len() {
			v := c.Value(row)
			seen[v.String()] = true
			if !v.IsNull() && (low.IsNull() || value.Compare(v, low) < 0) {
				low = v
			}
			if !v.IsNull() && (high.IsNull() || value.Compare(v, high) > 0) {
				high = v
			}
		}
		amount := false
		for _, a := range amounts {
			amount = amount || a == names[i]
		}
		out.Types, out.Unique, out.Loose = append(out.Types, "T"), append(out.Unique, len(seen) == len(rows)), append(out.Loose, false)
		out.Amount, out.Min, out.Max = append(out.Amount, amount), append(out.Min, low), append(out.Max, high)
	}
	return out
}

// loans is a table with one dependency of each kind.
func loans(t *testing.T) twin.Rows {
	var rows [][]string
	for i := range 60 {
		code := []string{"GA", "WO", "ME"}[i*7%5%3]
		label := map[string]string{"GA": "Garden", "WO": "Wood", "ME": "Metal"}[code]
		gross, off := 100+i*37%91, i*13%17
		back := ""
		if i%4 > 0 {
			back = fmt.Sprintf("2031-%02d-%02d", 3+i/28, 1+i%28)
		}
		rows = append(rows, []string{fmt.Sprint(i + 1), code, label, fmt.Sprint(gross), fmt.Sprint(off),
			fmt.Sprint(gross - off), fmt.Sprintf("2031-%02d-%02d", 1+i/28, 1+i%28/2*2), back, []string{"yes", "no"}[i*11%7%2]})
	}
	return rowsOf(t, "loans", []string{"id", "code", "label", "gross", "off", "net", "out", "back", "paid"}, rows, "gross", "off", "net")
}

// block is the columns that move with one.
func block(facts *twin.Table, column string) (names []string, fixed bool) {
	at := facts.Column(column)
	for _, b := range facts.Blocks {
		if slices.Contains(b.Columns, at) {
			for _, other := range b.Columns {
				names = append(names, facts.Columns[other].Name)
			}
			return names, b.Fixed
		}
	}
	return nil, false
}

func TestFind(t *testing.T) {
	facts := twin.Find([]twin.Rows{loans(t)}, nil).Table("loans")
	for column, want := range map[string][]string{"code": {"code", "label"}, "gross": {"gross", "off", "net"}, "paid": {"paid"}} {
		names, fixed := block(facts, column)
		require.Equal(t, want, names, column)
		require.False(t, fixed, column)
	}
	names, fixed := block(facts, "out")
	require.True(t, fixed, "dates rise with the numbers of the rows")
	require.Subset(t, names, []string{"id", "out", "back"})
}

func TestFindAcross(t *testing.T) {
	parents := rowsOf(t, "shops", []string{"shop", "town", "orders"},
		[][]string{{"1", "Ferry", "3"}, {"2", "Wold", "1"}, {"3", "Ferry", "2"}, {"4", "Stone", "4"}, {"5", "Wold", "5"},
			{"6", "Stone", "6"}}, "orders")
	var rows [][]string
	var beside [][]string
	for shop, n := range []int{3, 1, 2, 4, 5, 6} {
		for i := range n {
			row := []string{fmt.Sprint(len(rows) + 1), fmt.Sprint(shop + 1), fmt.Sprint(10 + i*7%5)}
			rows, beside = append(rows, row), append(beside, []string{fmt.Sprint(shop + 1), "x", fmt.Sprint(n)})
		}
	}
	children := rowsOf(t, "sales", []string{"sale", "shop", "amount"}, rows, "amount")
	joined := rowsOf(t, "j", []string{"shop", "town", "orders"}, beside)
	var sums [][]string
	for shop, n := range []int{3, 1, 2, 4, 5, 6} {
		sums = append(sums, []string{fmt.Sprint(shop + 1), "x", fmt.Sprint(n), fmt.Sprint(n)})
	}
	link := profile.Link{From: profile.Place{Table: "sales", Column: "shop"}, To: profile.Place{Table: "shops", Column: "shop"}}
	facts := twin.Find([]twin.Rows{parents, children}, []twin.Joined{{Link: link, Child: children.Sample, Parent: joined.Sample,
		Sums: rowsOf(t, "s", []string{"shop", "town", "orders", "n"}, sums).Sample, SumOf: []twin.Summed{{Says: "the number of rows"}}}})
	require.True(t, facts.Links[0].Whole, "orders counts the children")
	require.Equal(t, []string{"shops: orders is the number of rows by sales.shop", "sales: sale rises or falls with shop"}, said(facts))
	_, fixed := block(facts.Table("shops"), "orders")
	require.True(t, fixed)
	for _, step := range twin.Make(facts, nil, 1).Tables[1].Steps {
		require.NotContains(t, []string{"twin.Drop", "twin.Orphan", "twin.Copy"}, fmt.Sprintf("%T", step), "no child may go or come")
	}
	facts.Deny([]string{"shops: orders is the number of rows by sales.shop", "sales: no two rows have the same sale"})
	facts.Keep(nil)
	require.False(t, facts.Links[0].Whole)
	require.Equal(t, []string{"sales: sale rises or falls with shop"}, said(facts))
	_, fixed = block(facts.Table("shops"), "orders")
	require.False(t, fixed, "what is denied need not be kept")
	require.False(t, facts.Table("sales").Columns[0].Unique)
}

// said are the dependencies that were found, in words.
func said(f *twin.Facts) []string {
	var out []string
	for _, d := range f.Found() {
		out = append(out, d.Words())
	}
	return out
}

// TestNearly: what holds but for one row in a hundred, of many, is kept; its columns stay together. Fewer rows, or more that break it, are
// no fact.
func TestNearly(t *testing.T) {
	labels := map[string]string{"1": "raw", "2": "cleaned", "3": "sent", "4": "paid"}
	for _, c := range []struct {
		rows, broken int
		want         bool
	}{{400, 0, true}, {400, 4, true}, {400, 40, false}, {190, 19, false}, {199, 0, true}, {250, 2, true}} {
		var rows [][]string
		for i := range c.rows {
			code := fmt.Sprint(1 + i*i%7%4)
			label := labels[code]
			if i%(c.rows/max(1, c.broken)) == 3 && i/(c.rows/max(1, c.broken)) < c.broken {
				label = labels[fmt.Sprint(1+(i*i%7+1+i/10%3)%4)]
			}
			rows = append(rows, []string{fmt.Sprint(i), code, label})
		}
		facts := twin.Find([]twin.Rows{rowsOf(t, "steps", []string{"id", "code", "label"}, rows)}, nil)
		together, _ := block(facts.Table("steps"), "label")
		require.Equal(t, c.want, slices.Contains(together, "code"), "%d of %d", c.broken, c.rows)
		words := "steps: code determines label"
		isWords := func(l twin.Law) bool { return l.Words() == words }
		require.Equal(t, c.want, slices.ContainsFunc(twin.Candidates(facts), isWords) ||
			slices.ContainsFunc(twin.Candidates(facts), func(l twin.Law) bool { return l.Words() == "steps: label determines code" }))
		facts.Deny([]string{words, "steps: label determines code"})
		facts.Keep(nil)
		together, _ = block(facts.Table("steps"), "label")
		require.NotContains(t, together, "code")
	}
}

// TestNearlyComputed: a formula that one row in a hundred breaks is kept with its exceptions, and children that nearly sum up too.
func TestNearlyComputed(t *testing.T) {
	for _, c := range []struct {
		rows, broken int
		want         bool
	}{{300, 0, true}, {300, 3, true}, {300, 9, false}, {150, 4, false}} {
		var lines [][]string
		for i := range c.rows {
			pieces, price := 1+i*7%11, 2+i*i%13
			total := pieces * price
			if i%30 == 7 && i/30 < c.broken {
				total += 5000
			}
			lines = append(lines, []string{fmt.Sprint(i), fmt.Sprint(pieces), fmt.Sprint(price), fmt.Sprint(total)})
		}
		facts := twin.Find([]twin.Rows{rowsOf(t, "lines", []string{"id", "pieces", "price", "total"}, lines, "pieces", "price", "total")},
			nil)
		at := slices.IndexFunc(facts.Found(), func(d twin.Found) bool {
			return d.Words() == "lines: total is computed from pieces and "+
				"price"
		})
		require.Equal(t, c.want, at >= 0, "%d of %d: %v", c.broken, c.rows, said(facts))
		if c.want {
			require.Equal(t, c.broken, facts.Found()[at].Broken)
			together, _ := block(facts.Table("lines"), "total")
			require.Contains(t, together, "pieces")
		}
	}
}

// TestComputed: what is computed is said once, by its simplest formula.
func TestComputed(t *testing.T) {
	var rows [][]string
	for i := range 40 {
		pieces, price := 1+i*7%11, 2+i*i%13
		rows = append(rows, []string{fmt.Sprint(i), fmt.Sprint(pieces), fmt.Sprintf("%d.50", price), fmt.Sprintf("%.2f", float64(pieces)*
			(float64(price)+0.5))})
	}
	facts := twin.Find([]twin.Rows{rowsOf(t, "lines", []string{"id", "pieces", "price", "total"}, rows, "pieces", "price", "total")}, nil)
	require.Equal(t, []string{"lines: total is computed from pieces and price"}, said(facts))
	facts.Deny(said(facts))
	facts.Keep(nil)
	together, _ := block(facts.Table("lines"), "total")
	require.Equal(t, []string{"total"}, together)
}

// TestMake: the steps keep to what was found, put values beside boundaries, and are the same for the same seed.
func TestMake(t *testing.T) {
	facts := twin.Find([]twin.Rows{loans(t)}, nil)
	bounds := []twin.Boundary{{Column: "paid", Values: []string{"yes", "never"}},
		{Column: "out", Values: []string{"2031-02-10", "2040-01-01"}}, {Column: "gross", Values: []string{"150"}}}
	plan := twin.Make(facts, bounds, 2)
	require.Equal(t, plan, twin.Make(facts, bounds, 2))
	salted := map[string][]string{}
	for _, step := range plan.Tables[0].Steps {
		switch s := step.(type) {
		case twin.Salt:
			salted[s.Column] = append(salted[s.Column], s.Value)
		case twin.Land:
			salted[s.Column] = append(salted[s.Column], s.Value)
		case twin.Jitter:
			require.NotContains(t, []string{"gross", "off", "net"}, s.Column, "a sum would break")
		}
	}
	require.Equal(t, []string{"yes"}, salted["paid"], "no row has another code")
	require.ElementsMatch(t, []string{"2031-02-09", "2031-02-10", "2031-02-11"}, salted["out"],
		"on and beside the boundary, within the column's range")
	require.Empty(t, salted["gross"], "it is part of a sum")
}
