package twin

import (
	"flag"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/profile"
	"tovrel/core/value"
	"tovrel/gallerytest"
)

// someFacts are facts of three tables: parents, children with periods and states, and a hierarchy.
func someFacts() *Facts {
	day := func(n int64) value.Value { return value.OfDate(n) }
	whole := func(n int64) value.Value { return value.OfInt(n) }
	f := &Facts{Tables: []*Table{
		{Name: "parents", Rows: 40, Columns: []*Column{{Name: "parent_id", Kind: value.Int, Unique: true, Distinct: 40, Min: whole(1)},
			{Name: "begun", Kind: value.Date, Distinct: 30, Min: day(1), Max: day(99)}}},
		{Name: "children", Rows: 300, Keys: [][]int{{1, 2}}, Columns: []*Column{
			{Name: "child_id", Kind: value.Int, Unique: true, NearlyUnique: true, Distinct: 300, Min: whole(1)},
			{Name: "parent_id", Kind: value.Int, Distinct: 40, Min: whole(1), Reference: true},
			{Name: "from_day", Kind: value.Date, Distinct: 90, Min: day(5), Max: day(120)},
			{Name: "to_day", Kind: value.Date, Distinct: 90, Nullable: true, Min: day(9), Max: day(150)},
			{Name: "place", Kind: value.Int, Distinct: 9, Min: whole(1)},
			{Name: "state", Kind: value.Text, Distinct: 2, values: []string{"old", "new"}},
			{Name: "fee", Kind: value.Decimal, Amount: true, Distinct: 200, Min: whole(0)},
			{Name: "sum", Kind: value.Decimal, Amount: true, Distinct: 200, Min: whole(0)}}},
		{Name: "kinds", Rows: 60, Columns: []*Column{{Name: "kind_id", Kind: value.Int, Unique: true, Distinct: 60, Min: whole(1)},
			{Name: "above", Kind: value.Int, Nullable: true, Distinct: 20, Min: whole(1)},
			{Name: "weight", Kind: value.Float, Amount: true, Distinct: 50, Min: whole(1)}}},
		{Name: "few", Rows: 5, Columns: []*Column{{Name: "few_id", Kind: value.Int, Unique: true, Distinct: 5, Min: whole(1)}}},
	}, Links: []Link{{From: profile.Place{Table: "children", Column: "parent_id"}, To: profile.Place{Table: "parents",
		Column: "parent_id"}}}}
	return f
}

// TestCandidates holds which laws are looked for, in their words; each has other words.
func TestCandidates(t *testing.T) {
	var out []string
	seen := map[string]bool{}
	for _, l := range Candidates(someFacts()) {
		if l.Kind == Follows {
			l.Values = []string{"old", "new"}
		}
		out = append(out, l.Words())
		require.False(t, seen[l.Words()], l.Words())
		seen[l.Words()] = true
	}
	gallerytest.Holds(t, "laws.txt", strings.Join(out, "\n")+"\n", flag.Lookup("update").Value.String() == "true")
}

// TestHolds: a law needs rows on which it is seen; where each row speaks for itself, one in a hundred may break it; an order must be one
// that rows of others would break.
func TestHolds(t *testing.T) {
	for want, laws := range map[bool][]Law{
		true: {{Kind: Counts, Rows: 12}, {Kind: Ordered, Rows: 300, Broken: 3, Chance: 37}, {Kind: Ordered, Rows: 12, Chance: 7},
			{Kind: Meets, Rows: 200, Broken: 2}, {Kind: OrderedAcross, Rows: 5000, Broken: 50, Chance: 900}},
		false: {{Kind: Counts, Rows: 11}, {Kind: Counts, Rows: 5000, Broken: 1}, {Kind: Ordered, Rows: 300, Broken: 4, Chance: 99},
			{Kind: Ordered, Rows: 300, Broken: 3, Chance: 36}, {Kind: Ordered, Rows: 500, Chance: 6}, {Kind: Meets, Rows: 199, Broken: 1},
			{Kind: Follows, Rows: 50, Chance: 6}, {Kind: Unlike, Rows: 900, Broken: 2}},
	} {
		for _, l := range laws {
			require.Equal(t, want, l.Holds(), "%+v", l)
		}
	}
}

// TestKeep: what laws speak of stays where it is, or together, and rows are taken only where that breaks none.
func TestKeep(t *testing.T) {
	grouped := func(kind LawKind, columns ...string) Law {
		return Law{Kind: kind, Table: "children", By: "parent_id", Columns: columns, Values: []string{"old", "new"}}
	}
	for name, c := range map[string]struct {
		laws                      []Law
		fixed                     string // columns of children that stay
		drops, orphans, parentsGo bool
	}{
		"none":       {nil, "child_id", true, true, true},
		"numbers":    {[]Law{grouped(Counts, "place")}, "child_id parent_id place", false, true, true},
		"no overlap": {[]Law{grouped(NoOverlap, "from_day", "to_day")}, "child_id parent_id from_day to_day", true, true, true},
		"no gap":     {[]Law{grouped(NoGap, "from_day", "to_day")}, "child_id parent_id from_day to_day", false, true, true},
		"states":     {[]Law{grouped(Follows, "state", "from_day")}, "child_id parent_id from_day state", true, true, true},
		"an order":   {[]Law{{Kind: Ordered, Table: "children", Columns: []string{"from_day", "to_day"}}}, "child_id", true, true, true},
		"every day": {[]Law{{Kind: EveryDay, Table: "children", Columns: []string{"from_day"}}}, "child_id from_day", false, false,
			false},
		"groups of others": {[]Law{{Kind: Counts, Table: "children", By: "state", Columns: []string{"place"}}}, "child_id place state",
			false, false, false},
		"two groups": {[]Law{grouped(Counts, "place"), {Kind: OneOpen, Table: "children", By: "state", Columns: []string{"to_day"}}},
			"child_id parent_id to_day place state", false, false, false},
	} {
		f := someFacts()
		f.Keep(c.laws)
		children := f.Table("children")
		var fixed []string
		for i, column := range children.Columns {
			if children.Fixed(i) {
				fixed = append(fixed, column.Name)
			}
		}
		require.Equal(t, c.fixed, strings.Join(fixed, " "), name)
		kinds := map[string]bool{}
		for _, table := range Make(f, nil, 1).Tables {
			for _, s := range table.Steps {
				kinds[table.Name+fmt.Sprintf(" %T", s)] = true
			}
		}
		require.Equal(t, []bool{c.drops, c.drops, c.orphans}, []bool{kinds["children twin.Drop"], kinds["children twin.Distinct"],
			kinds["children twin.Orphan"]}, name)
		require.Equal(t, c.parentsGo, kinds["parents twin.Drop"], name)
		require.Equal(t, c.laws, Make(f, nil, 2).Laws, name)
	}
}

// TestKeepAcross: an order with a parent leaves each side one direction; one that nearly holds keeps both where they are, each with its
// key. A hierarchy is a reference. Of a condition in SQL the columns that it names stay together.
func TestKeepAcross(t *testing.T) {
	across := Law{Kind: OrderedAcross, Table: "children", Columns: []string{"parent_id", "from_day"}, Values: []string{"parent_id"},
		Other: profile.Place{Table: "parents", Column: "begun"}}
	rooms := func(l Law) (child, parent Room) {
		f := someFacts()
		f.Keep([]Law{l})
		_, child, _, _ = f.Table("children").around(2)
		_, parent, _, _ = f.Table("parents").around(1)
		return child, parent
	}
	child, parent := rooms(across)
	require.Equal(t, []Room{MayRise, MayFall}, []Room{child, parent})
	above := across
	above.Number = 1
	child, parent = rooms(above)
	require.Equal(t, []Room{MayFall, MayRise}, []Room{child, parent})
	nearly := across
	nearly.Broken = 1
	f := someFacts()
	f.Keep([]Law{nearly, {Kind: Forest, Table: "kinds", Columns: []string{"above", "kind_id"}},
		{Kind: Meets, Table: "children", SQL: `fee <= "sum" OR place>1`}})
	_, _, hard, _ := f.Table("children").around(2)
	require.True(t, hard)
	require.Len(t, f.Links, 2)
	require.True(t, refersToItself(f, f.Table("kinds")))
	require.True(t, slices.ContainsFunc(f.Table("children").Blocks, func(b Block) bool { return slices.Equal(b.Columns, []int{4, 6, 7}) }))
}
