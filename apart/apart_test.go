package apart

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/expect"
)

var shopTables = []engine.Table{{Name: "shops", Rows: 9, Columns: []engine.Column{{Name: "shop", Type: "INTEGER"}}},
	{Name: "Sales", Rows: 90, Columns: []engine.Column{{Name: "sale", Type: "INTEGER"}, {Name: "shop", Type: "INTEGER"}, {Name: "n",
		Type: "BIGINT"}}}, {Name: "items", Rows: 400}, {Name: "tree", Rows: 4}}

func refersTo(from, to string) twin.Law {
	return twin.Law{Kind: twin.Refers, Table: from, Columns: []string{"x"}, Other: profile.Place{Table: to, Column: "x"}}
}

// TestChildrenFirst: what refers to others comes before them; a circle ends somewhere, the larger table first.
func TestChildrenFirst(t *testing.T) {
	names := func(tables []engine.Table) []string {
		var out []string
		for _, one := range tables {
			out = append(out, one.Name)
		}
		return out
	}
	laws := []twin.Law{refersTo("sales", "Shops"), refersTo("items", "sales"), {Kind: twin.Unlike, Table: "shops"}}
	require.Equal(t, []string{"items", "Sales", "shops", "tree"}, names(childrenFirst(shopTables, laws)))
	require.Equal(t, []string{"shops", "Sales", "items", "tree"}, names(childrenFirst(shopTables, []twin.Law{refersTo("shops", "sales"),
		refersTo("sales", "items")})))
	require.Len(t, childrenFirst(shopTables, []twin.Law{refersTo("shops", "sales"), refersTo("sales", "shops")}), 4)
	require.True(t, refers([]twin.Law{{Kind: twin.Forest, Table: "Tree"}}, "tree", "tree"))
	require.False(t, refers([]twin.Law{{Kind: twin.Forest, Table: "Tree"}}, "tree", "shops"))
}

// TestKeyOf: the key is one column in which no two rows are the same.
func TestKeyOf(t *testing.T) {
	laws := []twin.Law{{Kind: twin.Unlike, Table: "sales", Columns: []string{"shop", "n"}}, {Kind: twin.Refers, Table: "sales",
		Columns: []string{"shop"}}, {Kind: twin.Unlike, Table: "Sales", Columns: []string{"sale"}}}
	require.Equal(t, "sale", KeyOf("sales", laws))
	require.Empty(t, KeyOf("shops", laws))
}

// TestChangesOf: changes of one column stand in one step, rows of their own; what refers to rows that are gone goes with them.
func TestChangesOf(t *testing.T) {
	b := NewBase(nil, shopTables, "duckdb")
	sales := &twin.Made{Table: &twin.Table{Name: "Sales", Rows: 90, Columns: []*twin.Column{{Name: "sale"}, {Name: "shop"}, {Name: "n",
		Type: "BIGINT"}}}}
	text := "60"
	set := &twin.Change{Columns: []string{"n"}, Text: &text, Filled: true}
	like := &twin.Change{Columns: []string{"shop", "n"}}
	link := twin.Link{From: profile.Place{Table: "Sales", Column: "shop"}, To: profile.Place{Table: "shops", Column: "shop"}}
	below := twin.Link{From: profile.Place{Table: "items", Column: "sale"}, To: profile.Place{Table: "Sales", Column: "sale"}}
	gone := &twin.Gone{Link: link, With: []twin.Link{below}}
	got := b.changesOf([]atom{{of: sales, change: set, row: 7}, {of: sales, change: like, row: 9},
		{of: sales, gone: gone, rows: twin.Spans{{3, 5}}, parent: "2"}, {of: sales, gone: gone, rows: twin.Spans{{88, 90}}, parent: "3"}})
	before := int64(8)
	only := twin.Only{Rows: twin.Spans{{0, 3}, {5, 88}}}
	require.Equal(t, Changes{"Sales": {
		twin.Set{Column: "n", Type: "BIGINT", Cells: []twin.Put{{Rows: twin.Spans{{7, 8}}, Text: &text}, {Rows: twin.Spans{{9, 10}},
			Of: &before}}},
		twin.Set{Column: "shop", Cells: []twin.Put{{Rows: twin.Spans{{9, 10}}, Of: &before}}}, only},
		"items": {twin.Kept{Column: "sale", Table: "Sales", Key: "sale", By: []twin.Step{only}}}}, got)
}

// TestWords: a change is said by its row's key and what becomes of it.
func TestWords(t *testing.T) {
	sales, text, key := &twin.Made{Table: &twin.Table{Name: "sales"}}, "60", "17"
	rows := &fault.Rows{Columns: []string{"sale", "n"}, First: [][]*string{{&key, nil}}}
	for want, c := range map[string]struct {
		change twin.Change
		key    string
	}{
		"sales.sale 17 at n 60":                           {twin.Change{Columns: []string{"n"}, Text: &text, Filled: true}, "sale"},
		"sales.sale 17 without n":                         {twin.Change{Columns: []string{"n"}, Filled: true}, "sale"},
		"sales.sale 17 at n as in m":                      {twin.Change{Columns: []string{"n"}, Other: "m", Filled: true}, "sale"},
		"a row of sales like the row before it in n, m":   {twin.Change{Columns: []string{"n", "m"}}, ""},
		"a row of sales at n 60":                          {twin.Change{Columns: []string{"n"}, Text: &text, Filled: true}, "n"},
		"sales.sale 17 like the row before it in n alone": {twin.Change{Columns: []string{"n alone"}}, "sale"},
	} {
		require.Equal(t, want, atom{of: sales, change: &c.change}.words(rows, c.key))
	}
}

// TestConditions: codes are among the literals, moments and amounts between them where there are two.
func TestConditions(t *testing.T) {
	of := &twin.Table{Columns: []*twin.Column{{Name: "state", Kind: value.Text}, {Name: "shop", Kind: value.Int}, {Name: "day",
		Kind: value.Date,
		Type: "DATE"}, {Name: "n", Kind: value.Decimal, Type: "DECIMAL(9,2)", Amount: true}}}
	require.Equal(t, []string{`CAST("state" AS VARCHAR) IN ('done', 'it''s')`, `CAST("shop" AS VARCHAR) IN ('7')`,
		`"day" BETWEEN least(TRY_CAST('2031-01-01' AS DATE), TRY_CAST('2031-02-01' AS DATE)) AND greatest(` +
			`TRY_CAST('2031-01-01' AS DATE), TRY_CAST('2031-02-01' AS DATE))`},
		conditions(of, []twin.Boundary{{Column: "STATE", Values: []string{"done", "it's"}}, {Column: "day", Values: []string{"2031-01-01",
			"2031-02-01"}}, {Column: "n", Values: []string{"60"}}, {Column: "shop", Values: []string{"7"}}, {Column: "other",
			Values: []string{"1"}}}))
	require.Empty(t, conditions(of, []twin.Boundary{{Column: "day", Others: []string{"n"}}}))
}

// asked remembers queries and answers with a table.
type asked struct {
	requests []engine.Request
	fail     error
}

func (a *asked) Query(_ context.Context, r engine.Request) (engine.Result, error) {
	a.requests = append(a.requests, r)
	return engine.Result{Table: &table.Table{}, Tree: []byte("tree"), Instead: "SELECT 1 FROM shops"}, a.fail
}

var _ expect.Queries = &asked{}

// TestChangedQueries: a query sees the changed table under its own name, its tree is its own and asked for once, and one that is a tree is
// written once.
func TestChangedQueries(t *testing.T) {
	q := &asked{}
	on := NewBase(q, shopTables, "duckdb").With(Changes{"shops": {twin.Only{Rows: twin.Spans{{2, 3}}}}})
	for range 2 {
		got, err := on.Query(context.Background(), engine.Request{SQL: "SELECT 2 FROM shops;", Tree: true})
		require.NoError(t, err)
		require.Equal(t, "tree", string(got.Tree))
		_, err = on.Query(context.Background(), engine.Request{Serialised: "{}"})
		require.NoError(t, err)
	}
	seen := `WITH "shops" AS (SELECT * FROM main."shops" WHERE (false OR rowid BETWEEN 2 AND 2)) SELECT * FROM (SELECT %d FROM shops` +
		"\n)"
	two, one := engine.Request{SQL: fmt.Sprintf(seen, 2)}, engine.Request{SQL: fmt.Sprintf(seen, 1)}
	require.Equal(t, []engine.Request{two, {SQL: "SELECT 2 FROM shops;", Tree: true, ParseOnly: true}, {Serialised: "{}", ParseOnly: true},
		one, two,
		one}, q.requests)
	q.fail = errors.New("gone")
	_, err := on.Query(context.Background(), engine.Request{SQL: "SELECT 3"})
	require.ErrorContains(t, err, "gone")
}
