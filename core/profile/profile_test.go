package profile_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/profile"
	"tovrel/core/profile/profiletest"
)

// one counts a table of one column, whose cells are a text with blanks between; "_" is a blank within a cell.
func one(name, cells string) *profile.Dataset {
	var rows [][]string
	for cell := range strings.FieldsSeq(cells) {
		rows = append(rows, []string{strings.ReplaceAll(cell, "_", " ")})
	}
	return profiletest.Count("d", nil, profiletest.Table{Name: "things", Columns: []string{name}, Rows: rows})
}

// TestFindings holds each finding of one column: cells that have it, with the example that is shown, and cells that nearly have it.
func TestFindings(t *testing.T) {
	for _, c := range []struct{ name, cells, want string }{
		{"state", "open shut n/a open", "warning null-words n/a"},
		{"state", "open shut N/A - ? open open open", "warning null-words -"}, // the commonest, then the least
		{"state", "none none none x", ""},                                     // half and more of it: a category of its own
		{"state", "none none none none", "warning null-words none"},           // all of it
		{"state", "open shut nothing", ""},
		{"price", "1.234,50 2.345,75", "error numbers-as-text 1.234,50"},
		{"price", "€_12 €_15 n/a", "error numbers-as-text €_12; warning null-words n/a"},
		{"price", "12_% 15_%", "error numbers-as-text 12_%"},
		{"price", "5kg 7kg 12kg", "error numbers-as-text 12kg"},
		{"price", "1,5 2,5", "error numbers-as-text 1,5"},
		{"price", "12-18 19-25", ""},
		{"code", "007 008 123", "hint leading-zeros 007"},
		{"code", "-01 12", "hint leading-zeros -01"},
		{"number", "7 8 x", "error mixed-types x"},
		{"number", "7 8 9 n/a", "warning null-words n/a"}, // the null word explains it
		{"number", "7 x y", ""},
		{"at", "30.06.2031 01.07.2031", "error dates-as-text 01.07.2031"},
		{"at", "06/30/2031 07/01/2031", "error dates-as-text 06/30/2031"},
		{"at", "01.02.2031 03.04.2031", "error ambiguous-dates 01.02.2031"},
		{"at", "30.06.2031 06.30.2031", "error ambiguous-dates 06.30.2031"},
		{"at", "2031-06-30 2031-07-01", ""},
		{"kind", "Red red blue blue", `error mixed-case "Red"_/_"red"`},
		{"kind", "Red red blue", ""}, // no categories: values do not recur
		{"kind", "red blue red blue", ""},
		{"label", "_a b a", `warning outer-spaces "_a"`},
		{"town", "Alder,_A1 Birch,_B2 Cedar,_C3", "warning several-facts Alder,_A1"},
		{"town", "Alder_(A1) Birch_(B2) Cedar_(C3)", "warning several-facts Alder_(A1)"},
		{"town", "Smith,_Ann Jones,_Bob Brown,_Cy", ""}, // names with a comma
		{"town", "red,_big red,_small blue,_big blue,_small red,_big", "warning several-facts red,_big"},
		{"load_kg", "1 2 3", "hint unit-in-name load_kg"},
		{"load [t]", "1.5 2.5", "hint unit-in-name load_[t]"},
		{"load_kg", "a b", ""},
		{"kg", "1 2 3", ""},
		{"id", "1 2 3 3 4", "error key-not-unique 3_occurs_2_times"},
		{"thing_id", "1 2 3 3 4", "error key-not-unique 3_occurs_2_times"},
		{"thing_id", "1 1 2 2 2", ""}, // repeated too often for a key
		{"id", "1 2 3", ""},
	} {
		var got []string
		for _, f := range profile.Inspect(one(c.name, c.cells)) {
			require.NotEmpty(t, f.Message)
			require.NotEmpty(t, f.Remedy)
			require.Equal(t, "things", f.Table)
			got = append(got, fmt.Sprintf("%s %s %s", f.Severity, f.Code, strings.ReplaceAll(f.Example, " ", "_")))
		}
		require.Equal(t, c.want, strings.Join(got, "; "), "%s: %s", c.name, c.cells)
	}
}

// TestDayOrMonth: which stands first in dates that are texts is told by what cannot be a month.
func TestDayOrMonth(t *testing.T) {
	for cells, words := range map[string]string{
		"13.02.2031 01.02.2031": "the day first", "02/13/2031 02/01/2031": "the month first", "13.12.2031 01.02.2031": "the day first",
		"12/13/2031 02/01/2031": "the month first", "12.11.2031 11.12.2031": "nothing tells day from month",
		"13.13.2031 01.02.2031": "the day first in some rows and the month first in others",
	} {
		found := profile.Inspect(one("at", cells))
		require.Len(t, found, 1)
		require.Contains(t, found[0].Message, words, cells)
	}
}

// TestNearConstant holds from how many rows on a column of one value says something.
func TestNearConstant(t *testing.T) {
	for _, c := range []struct {
		cells string
		want  string
	}{
		{strings.Repeat("a ", 19), ""}, {strings.Repeat("a ", 20), "has the same value in every row that has one"},
		{strings.Repeat("∅ ", 20), "is null in every row"}, {strings.Repeat("∅ ", 19) + "a",
			"has the same value in every row that has one"},
		{strings.Repeat("a ", 99) + "b", "has one value in 99 of 100 rows: a condition on it hardly shows"},
		{strings.Repeat("a ", 98) + "b b", ""},
	} {
		got := ""
		for _, f := range profile.Inspect(one("state", c.cells)) {
			if f.Code == "near-constant" {
				require.Equal(t, profile.Hint, f.Severity)
				got = f.Message
			}
		}
		require.Equal(t, c.want, got, c.cells)
	}
}

// TestTables holds the findings of a whole table: sums in the last row, blank rows, names that are alike, orphans.
func TestTables(t *testing.T) {
	codes := func(d *profile.Dataset) string {
		var got []string
		for _, f := range profile.Inspect(d) {
			got = append(got, f.Code+" "+f.Example)
		}
		return strings.Join(got, "; ")
	}
	rows := func(lines ...string) [][]string {
		var out [][]string
		for _, l := range lines {
			out = append(out, strings.Split(l, " "))
		}
		return out
	}
	sums := profiletest.Table{Name: "t", Columns: []string{"what", "a", "b"}, Rows: rows("x 1 10", "y 2 20", "z 3 31")}
	require.Empty(t, codes(profiletest.Count("d", nil, sums)))
	sums.Rows = append(sums.Rows, []string{"w", "6", "61"})
	require.Equal(t, "totals-row 2 columns of the last row are the sums of the rows above", codes(profiletest.Count("d", nil, sums)))
	sums.Rows[3] = []string{"w", "6", "60"}
	require.Empty(t, codes(profiletest.Count("d", nil, sums)), "one sum alone is chance")
	sums.Rows[3] = []string{"Total", "7", "60"}
	require.Equal(t, "totals-row Total", codes(profiletest.Count("d", nil, sums)))
	sums.Rows[3] = []string{"Totally", "7", "60"}
	require.Empty(t, codes(profiletest.Count("d", nil, sums)))
	sums.Rows[3] = []string{"∅", "∅", "∅"}
	require.Equal(t, "blank-rows ", codes(profiletest.Count("d", nil, sums)))

	for _, c := range []struct {
		a, b  string
		alike bool
	}{
		{"farm_id", "farm id", true}, {"price", "prices", true}, {"amount", "amount2", true}, {"amount", "amount_10", true}, {"delivery",
			"delivary", true},
		{"Total", "total", true}, {"gross", "net", false}, {"date", "rate", false}, {"a1", "a2", false}, {"delivery", "deliveries", true},
		{"street", "xtreet", false}, {"farms", "forms", false},
	} {
		d := profiletest.Count("d", nil, profiletest.Table{Name: "t", Columns: []string{c.a, c.b}, Rows: rows("x y", "z w")})
		require.Equal(t, c.alike, strings.Contains(codes(d), "named-alike "+c.a+" / "+c.b), "%s %s", c.a, c.b)
	}

	link := profile.Link{From: profile.Place{Table: "t", Column: "x"}, To: profile.Place{Table: "u", Column: "x"}, Rows: 10, Orphans: 5,
		Examples: []string{"17"}}
	d := profiletest.Count("d", []profile.Link{link}, profiletest.Table{Name: "t", Columns: []string{"x"}, Rows: rows("1", "2")})
	require.Equal(t, "orphans 17", codes(d))
	d.Links[0].Orphans = 6
	require.Empty(t, codes(d), "where most have none, it is no link")
	d.Links[0].Orphans = 0
	require.Empty(t, codes(d))
}

// TestRoles holds what columns are told to be, and why.
func TestRoles(t *testing.T) {
	many := func(of string) string { return strings.Repeat(of+" ", 20) }
	for _, c := range []struct{ name, cells, role, why string }{
		{"at", "2031-06-30 2031-07-01", "time", "its type is date"},
		{"at", "10:00 11:00", "time", "its type is time"},
		{"load_id", "1 2 3", "key", "every row has a value of its own, and it is named like a key"},
		{"load_id", "1 1 3", "key", "it holds whole numbers and is named like a key"},
		{"member no", "1 1 3", "key", "it holds whole numbers and is named like a key"},
		{"barcode", "a b c", "key", "every row has a value of its own, and it is named like a key"},
		{"barcode", "a a c", "dimension", "it is text with 2 values"},
		{"bid", "10 20 30", "measure", "its type is integer and its values vary"}, // ends in id, and is no key
		{"farmId", "1 1 3", "key", "it holds whole numbers and is named like a key"},
		{"FARM_ID", "1 1 3", "key", "it holds whole numbers and is named like a key"},
		{"paid", "true false", "dimension", "it is true or false"},
		{"year", "2030 2031 2030", "time", "its values are years"},
		{"fiscal year", "2030 2031", "time", "its values are years"},
		{"year", "1 2 3", "measure", "its type is integer and its values vary"},
		{"yearly", "2030 2031", "measure", "its type is integer and its values vary"},
		{"litres", "10.5 11.5", "measure", "its type is decimal and its values vary"},
		{"grade", many("1 2 3"), "dimension", "it holds only 3 whole numbers"},
		{"cycles", many("1 2 3"), "measure", "its type is integer and its values vary"}, // things in the plural
		{"delay_min", many("1 2 3"), "measure", "its type is integer and its values vary"},
		{"status", many("1 2 3"), "dimension", "it holds only 3 whole numbers"}, // no plural
		{"class", many("1 2 3"), "dimension", "it holds only 3 whole numbers"},
		{"qty", many("1 2 3"), "measure", "its type is integer and its values vary"},
		{"grade", "1 2 3 4 5 6 7 8 9 10 11 12 13 14", "measure", "its type is integer and its values vary"},
		{"town", "a b a", "dimension", "it is text with 2 values"},
	} {
		d := one(c.name, c.cells)
		role, why := profile.RoleOf(d, d.Tables[0], d.Tables[0].Columns[0])
		require.Equal(t, c.role+": "+c.why, string(role)+": "+why, "%s: %.40s", c.name, c.cells)
	}
	d := one("ward", "1 2 2")
	d.Links = []profile.Link{{From: profile.Place{Table: "things", Column: "ward"}, To: profile.Place{Table: "wards", Column: "no"}}}
	role, why := profile.RoleOf(d, d.Tables[0], d.Tables[0].Columns[0])
	require.Equal(t, "key: its values are those of wards.no", string(role)+": "+why)
	d.Links[0].From, d.Links[0].To = d.Links[0].To, d.Links[0].From
	role, why = profile.RoleOf(d, d.Tables[0], d.Tables[0].Columns[0])
	require.Equal(t, "key: wards.no refers to it", string(role)+": "+why)
}

// TestCandidates holds which columns are taken to refer to others.
func TestCandidates(t *testing.T) {
	parent := func(name, key string, cells ...string) profiletest.Table {
		t := profiletest.Table{Name: name, Columns: []string{key}}
		for _, c := range cells {
			t.Rows = append(t.Rows, []string{c})
		}
		return t
	}
	for _, c := range []struct {
		from, to profiletest.Table
		want     string
	}{
		{parent("loads", "farm_id", "1", "1", "2"), parent("farms", "farm_id", "1", "2", "3"), "loads.farm_id farms.farm_id named=true"},
		{parent("loads", "farm_id", "1", "1", "2"), parent("farms", "id", "1", "2", "3"), "loads.farm_id farms.id named=true"},
		{parent("loads", "farm", "1", "1", "2"), parent("farms", "id", "1", "2", "3"), "loads.farm farms.id named=true"},
		{parent("loads", "article", "a", "a", "b"), parent("articles", "code", "a", "b", "c"), "loads.article articles.code named=true"},
		{parent("loads", "delivering_farm_id", "1", "1", "2"), parent("farms", "farm_id", "1", "2", "3"),
			"loads.delivering_farm_id farms.farm_id named=true"},
		{parent("loads", "place", "a", "b", "c", "c"), parent("towns", "town", "a", "b", "c"), "loads.place towns.town named=false"},
		// by its values
		{parent("loads", "place", "a", "b", "x", "x"), parent("towns", "town", "a", "b", "c"), ""},
		{parent("loads", "place", "a", "b", "b"), parent("towns", "town", "a", "b", "c"), ""}, // two values are chance
		{parent("loads", "litres", "1", "1", "2"), parent("farms", "farm_id", "1", "2", "3"), ""},
		{parent("loads", "farm_id", "a", "a", "b"), parent("farms", "farm_id", "1", "2", "3"), ""}, // another kind
		{parent("loads", "farm_id", "1", "1", "2"), parent("farms", "farm_id", "1", "1", "3"), ""}, // no key
		{parent("loads", "id", "1", "2", "2"), parent("farms", "id", "1", "2", "3"), ""},           // each has its own
		{parent("b", "farm_id", "1", "2", "3"), parent("a", "farm_id", "1", "2", "3"), "a.farm_id b.farm_id named=true"},
	} {
		var got []string
		for _, l := range profile.Candidates(profiletest.Count("d", nil, c.from, c.to)) {
			got = append(got, fmt.Sprintf("%s %s named=%t", l.From, l.To, l.Named()))
		}
		require.Equal(t, c.want, strings.Join(got, "; "), "%s.%s %s.%s", c.from.Name, c.from.Columns[0], c.to.Name, c.to.Columns[0])
	}
}

// TestSharedKeys: a key that many tables number their own rows by joins none of them; one that few share does.
func TestSharedKeys(t *testing.T) {
	for tables, want := range map[int]int{2: 1, 20: 190, 21: 0, 60: 0} {
		var all []profiletest.Table
		for i := range tables {
			all = append(all, profiletest.Table{Name: fmt.Sprintf("ledger_%02d", i), Columns: []string{"entry_no"},
				Rows: [][]string{{"1"}, {"2"}, {"3"}}})
		}
		require.Len(t, profile.Candidates(profiletest.Count("d", nil, all...)), want, "%d tables", tables)
	}
}

// TestJoins holds that a join of any names is read back from how it is written.
func TestJoins(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	name := func() string {
		letters := make([]rune, 1+random.IntN(5))
		for i := range letters {
			letters[i] = []rune(`ab_é "".=7`)[random.IntN(10)]
		}
		return string(letters)
	}
	for range 2000 {
		from, to := profile.Place{Table: name(), Column: name()}, profile.Place{Table: name(), Column: name()}
		text := from.String() + " = " + to.String()
		a, b, ok := profile.ParseJoin(text)
		require.True(t, ok, text)
		require.Equal(t, [2]profile.Place{from, to}, [2]profile.Place{a, b}, text)
	}
	for _, text := range []string{"", "a = b", "a.b", "a.b = c", "a.b == c.d", "a.b = c.d e", `"a.b = c.d`, "a b.c = d.e"} {
		_, _, ok := profile.ParseJoin(text)
		require.False(t, ok, text)
	}
	from, to, ok := profile.ParseJoin(`  wards."Ward no"=beds.id `)
	require.True(t, ok)
	require.Equal(t, `wards."Ward no" beds.id`, from.String()+" "+to.String())
}

// TestFacts holds the small facts of counted columns.
func TestFacts(t *testing.T) {
	d := one("a", "1 1 2 ∅")
	c := d.Column(profile.Place{Table: "things", Column: "a"})
	require.NotNil(t, c)
	require.EqualValues(t, 3, c.Filled())
	require.True(t, c.Complete())
	require.False(t, c.Unique())
	c.Values = c.Values[:1]
	require.False(t, c.Complete())
	require.Nil(t, d.Column(profile.Place{Table: "things", Column: "b"}))
	require.Nil(t, d.Column(profile.Place{Table: "other", Column: "a"}))
	require.Equal(t, d.Tables[0], d.Table("Things"), "in any case, as in SQL")
	unique := one("a", "1 2").Tables[0].Columns[0]
	require.True(t, unique.Unique())
	require.False(t, one("a", "1 2 ∅").Tables[0].Columns[0].Unique())
	require.False(t, one("a", "").Tables[0].Columns[0].Unique(), "no rows")
}

// TestUnits holds which units names end in.
func TestUnits(t *testing.T) {
	for name, unit := range map[string]string{"load_kg": "kg", "share_pct": "%", "fee EUR": "EUR", "temp (°C)": "°C", "size [m]": "m",
		"kg": "", "kg_load": "",
		"price_xyz": "", "": "", "wait_mins": "min", "flow [ l/s ]": "l/s", "delay_ms": "ms"} {
		require.Equal(t, unit, profile.UnitIn(name), name)
	}
}

// TestBins holds that the bins of a column hold each of its values once, in the parts of its range.
func TestBins(t *testing.T) {
	d := one("a", "0 1 2 3 4 5 6 7 8 9 10")
	bins := profile.BinsOf(d.Tables[0].Columns[0], 5)
	require.Len(t, bins, 5)
	total := int64(0)
	for _, n := range bins {
		require.Positive(t, n)
		total += n
	}
	require.EqualValues(t, 11, total)
	require.EqualValues(t, 2, bins[0])
	require.EqualValues(t, 3, bins[4], "the largest value is in the last bin")
}

// TestSortFindings: the worst first, then by place.
func TestSortFindings(t *testing.T) {
	want := []profile.Finding{
		{Severity: profile.Error, Table: "a", Column: "x", Code: "1"}, {Severity: profile.Error, Table: "b", Column: "a", Code: "1"},
		{Severity: profile.Warning, Table: "a", Line: 1, Column: "z"}, {Severity: profile.Warning, Table: "a", Line: 2, Column: "a",
			Code: "1"},
		{Severity: profile.Warning, Table: "a", Line: 2, Column: "a", Code: "2"}, {Severity: profile.Hint, Table: "a"},
	}
	random := rand.New(rand.NewPCG(1, 1))
	for range 30 {
		got := append([]profile.Finding(nil), want...)
		random.Shuffle(len(got), func(i, j int) { got[i], got[j] = got[j], got[i] })
		profile.Sort(got)
		require.Equal(t, want, got)
	}
}
