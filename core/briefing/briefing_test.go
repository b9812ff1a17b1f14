package briefing_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/briefing"
	"tovrel/core/profile"
	"tovrel/core/profile/profiletest"
)

// quarry is a dataset of made-up blocks of stone and the carts that take them.
func quarry() *profile.Dataset {
	link := profile.Link{From: profile.Place{Table: "carts", Column: "block_id"}, To: profile.Place{Table: "blocks", Column: "block_id"}}
	return profiletest.Count("quarry", []profile.Link{link},
		profiletest.Table{Name: "blocks", Columns: []string{"block_id", "stone", "weight_kg"},
			Rows: [][]string{{"1", "gr", "10.5"}, {"2", "sl", "20.5"}, {"3", "gr", "7.5"}}},
		profiletest.Table{Name: "carts", Columns: []string{"cart no", "block_id", "paid", "secret"},
			Rows: [][]string{{"1", "1", "true", "x"}, {"2", "1", "false", "y"}}})
}

const whole = `dataset: quarry
about: Blocks of stone
tables:
  blocks:
    about: one row is one block
    columns:
      stone: {values: {gr: granite, sl: slate}, synonyms: [rock]}
      weight_kg: {role: measure, unit: kg, about: without the cart}
  Carts:
    columns:
      secret: {hide: true}
      paid: {share-values: true}
joins:
  - carts.block_id = blocks.block_id
terms:
  heavy: more than 10 kg
notes: [Slate is sold by the ton.]
examples:
  - {question: How many blocks?, query: SELECT count(*) FROM blocks}
`

func parse(t *testing.T, text string) *briefing.Briefing {
	t.Helper()
	b, problems := briefing.Parse("b.yaml", []byte(text))
	require.Empty(t, problems)
	return b
}

// TestParse holds what is read of a whole briefing, with places.
func TestParse(t *testing.T) {
	b := parse(t, whole)
	require.Equal(t, "quarry", b.Dataset)
	require.Equal(t, "Blocks of stone", b.About)
	require.Equal(t, "one row is one block", b.Table("BLOCKS").About)
	stone := b.Column(profile.Place{Table: "blocks", Column: "Stone"})
	require.Equal(t, "b.yaml:7:7", stone.At.String())
	require.Equal(t, []string{"rock"}, stone.Synonyms)
	require.Equal(t, "slate", stone.Codes[1].Label)
	weight := b.Column(profile.Place{Table: "blocks", Column: "weight_kg"})
	require.Equal(t, "measure kg without the cart", fmt.Sprint(weight.Role, " ", weight.Unit, " ", weight.About))
	require.Equal(t, []profile.Place{{Table: "Carts", Column: "secret"}}, b.Hidden())
	require.True(t, *b.Column(profile.Place{Table: "carts", Column: "paid"}).ShareValues)
	require.Equal(t, "carts.block_id blocks.block_id", b.Joins[0].From.String()+" "+b.Joins[0].To.String())
	require.Equal(t, "b.yaml:16:3 heavy more than 10 kg", fmt.Sprint(b.Terms[0].At, " ", b.Terms[0].Name, " ", b.Terms[0].Definition))
	require.Equal(t, []string{"Slate is sold by the ton."}, b.Notes)
	require.Equal(t, "SELECT count(*) FROM blocks", b.Examples[0].Query)
	require.Nil(t, b.Table("stones"))
	require.Nil(t, b.Column(profile.Place{Table: "blocks", Column: "colour"}))
	require.Nil(t, b.Column(profile.Place{Table: "stones", Column: "stone"}))
	require.Nil(t, (*briefing.Briefing)(nil).Table("blocks"))
	require.Empty(t, parse(t, "").Tables)
}

// TestDefects holds what is said of briefings that are wrong, and where.
func TestDefects(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"tabels: {}", `1:1 unknown-key b.yaml has no key "tabels"; did you mean "tables"?`},
		{"tables: [a]", "1:9 yaml-type tables must be a mapping of keys to values; write it as `key: value` lines"},
		{"tables:\n  a: {colums: {}}", `2:7 unknown-key table a has no key "colums"; did you mean "columns"?`},
		{"tables:\n  a: {columns: {x: {role: mesure}}}", `2:27 unknown-role there is no role "mesure"; did you mean "measure"?`},
		{"tables:\n  a: {columns: {x: {rol: key}}}", `2:21 unknown-key column x has no key "rol"; did you mean "role"?`},
		{"tables:\n  a: {columns: {x: {hide: maybe}}}", "2:27 yaml-type hide must be true or false; "},
		{"joins: [a = b]",
			`1:9 bad-join "a = b" is no join; write it as loads.farm_id = farms.farm_id; names with spaces or dots in double quotes`},
		{"examples: [{question: x}]", "1:12 example-incomplete an example needs a question and a query; write both"},
		{"examples: [{question: x, sql: y}]", `1:12 example-incomplete an example needs a question and a query; write both`},
		{"facts: [no table]",
			`1:9 bad-fact "no table" is no fact; write it as "payments: net = gross - deductions": a table and a condition, in quotes`},
		{"not-facts: [\"blocks:\"]", `1:13 bad-fact "blocks:" is no fact; write it as "payments: net = gross - deductions": a table and ` +
			"a condition, in quotes"},
		{"terms: {a: [b]}", "1:12 yaml-type the definition of a must be a text; write one value, in quotes if it holds special characters"},
		{"dataset: {a: b}", "1:10 yaml-type dataset must be a text; write one value, in quotes if it holds special characters"},
	} {
		_, problems := briefing.Parse("b.yaml", []byte(c.text))
		require.NotEmpty(t, problems, c.text)
		p := problems[0]
		require.Equal(t, c.want, fmt.Sprintf("%d:%d %s %s; %s", p.Line, p.Column, p.Code, p.Message, p.Remedy), c.text)
	}
}

// TestFacts: a fact is a table and a condition, which may hold colons itself.
func TestFacts(t *testing.T) {
	b, problems := briefing.Parse("b.yaml", []byte("facts:\n  - \"blocks: weight_kg::INT > 0\"\nnot-facts: ['stones: x']\n"))
	require.Empty(t, problems)
	require.Equal(t, []string{"blocks: weight_kg::INT > 0", "blocks", "weight_kg::INT > 0"}, []string{b.Facts[0].Text, b.Facts[0].Table,
		b.Facts[0].Condition})
	require.Equal(t, 2, b.Facts[0].At.Line)
	found := briefing.Check(b, quarry(), nil)
	require.Len(t, found, 1)
	require.Equal(t, `3 unknown-table a fact is about a table "stones", which the dataset does not have`, fmt.Sprintf("%d %s %s",
		found[0].Line, found[0].Code, found[0].Message))
}

// TestCheck holds what does not agree with the data or the golden questions: a part of a briefing that is right, with one thing changed.
func TestCheck(t *testing.T) {
	questions := []briefing.Golden{{Name: "blocks/all", Wordings: []string{"How many blocks are there?", "Count of blocks"},
		Reference: "SELECT count(*) FROM blocks WHERE true"}}
	for _, c := range []struct{ from, to, want string }{
		{"", "", ""},
		{"dataset: quarry", "dataset: mine", "error other-dataset 1: the briefing is for dataset mine, and is given to quarry"},
		{"dataset: quarry\n", "", ""},
		{"  blocks:\n", "  blocs:\n", `error unknown-table 4: the dataset has no table "blocs"`},
		{"stone: {", "stones: {", `error unknown-column 7: table blocks has no column "stones"`},
		{"{gr: granite", "{gx: granite", `warning value-missing 7: the value "gx" does not occur in the data`},
		{"sl: slate}", "sl: Granite}", `warning label-twice 7: the label "Granite" stands for both "gr" and "sl"`},
		{"[rock]", "[rock, Weight kg]", `warning synonym-collides 7: the synonym "Weight kg" also means weight_kg`},
		{"unit: kg", "synonyms: [ROCK]", `warning synonym-collides 8: the synonym "ROCK" also means stone`},
		{"= blocks.block_id", "= blocks.id", `error unknown-column 14: the join names the column "id", which blocks does not have`},
		{"- carts.", "- carps.", `error unknown-table 14: the join names the table "carps", which the dataset does not have`},
		{"more than 10 kg", "secret is x", `error term-names-hidden 16: the term "heavy" names Carts.secret, which is hidden`},
		{"more than 10 kg", "it is secretly so", ""},
		{"How many blocks?", "how many blocks ARE there",
			`error example-leak 19: the example "how many blocks ARE there" repeats the golden question blocks/all`},
		{"SELECT count(*) FROM blocks}", "select COUNT( * ) from blocks where TRUE}",
			`error example-leak 19: the example "How many blocks?" repeats the golden question blocks/all`},
	} {
		text := strings.Replace(whole, c.from, c.to, 1)
		require.True(t, c.from == "" || text != whole, c.from)
		var got []string
		for _, f := range briefing.Check(parse(t, text), quarry(), questions) {
			require.NotEmpty(t, f.Remedy, f.Message)
			require.Equal(t, "b.yaml", f.File)
			got = append(got, fmt.Sprintf("%s %s %d: %s", f.Severity, f.Code, f.Line, f.Message))
		}
		require.Equal(t, c.want, strings.Join(got, "\n"), "%s for %s", c.to, c.from)
	}
}

// TestSettled: what a briefing answers is open no more; what will be wrong stays.
func TestSettled(t *testing.T) {
	b := parse(t, whole)
	for _, c := range []struct {
		finding profile.Finding
		open    bool
	}{
		{profile.Finding{Table: "blocks", Column: "weight_kg", Code: "unit-in-name"}, false},
		{profile.Finding{Table: "blocks", Column: "weight_kg", Code: "named-alike"}, false},
		{profile.Finding{Table: "blocks", Column: "weight_kg", Code: "outer-spaces"}, true},
		{profile.Finding{Table: "blocks", Column: "stone", Code: "unit-in-name"}, true},
		{profile.Finding{Table: "blocks", Column: "stone", Code: "named-alike"}, true},
		{profile.Finding{Table: "carts", Column: "secret", Severity: profile.Warning}, false},
		{profile.Finding{Table: "carts", Column: "secret", Severity: profile.Error}, true},
		{profile.Finding{Table: "other", Column: "x"}, true},
	} {
		require.Equal(t, c.open, len(briefing.Settled(b, []profile.Finding{c.finding})) == 1, "%+v", c.finding)
	}
}

// TestTell holds what translators are told at each level, and that what is hidden is told at none.
func TestTell(t *testing.T) {
	schema := briefing.Dataset{Name: "quarry", Tables: []briefing.ToldTable{
		{Name: "blocks", Rows: 3, Columns: []briefing.ToldColumn{{Name: "block_id", Type: "BIGINT"}, {Name: "stone", Type: "VARCHAR"},
			{Name: "weight_kg", Type: "DOUBLE"}}},
		{Name: "carts", Rows: 2, Columns: []briefing.ToldColumn{{Name: "paid", Type: "BOOLEAN"}, {Name: "secret", Type: "VARCHAR"}}},
	}}
	values := func(p profile.Place) []string {
		require.NotEqual(t, "secret", p.Column, "the values of hidden columns are not even asked for")
		return map[string][]string{"blocks.stone": {"gr", "xx"}, "carts.paid": {"true", "false"}}[p.String()]
	}
	text := strings.Replace(whole, "  - carts.block_id = blocks.block_id\n",
		"  - carts.block_id = blocks.block_id\n  - carts.secret = blocks.stone\n", 1)
	for _, c := range []struct {
		level briefing.Level
		share bool
		want  string
	}{
		{briefing.None, false,
			"quarry:  | blocks 3  block_id BIGINT  , stone VARCHAR  , weight_kg DOUBLE  | carts 2  paid BOOLEAN  | [] | "},
		{briefing.None, true,
			"quarry:  | blocks 3  block_id BIGINT  , stone VARCHAR  , weight_kg DOUBLE  | carts 2  paid BOOLEAN  | [] | "},
		{briefing.Schema, false,
			"quarry: Blocks of stone | blocks 3 one row is one block block_id BIGINT  , stone VARCHAR  [rock] map[gr:granite sl:slate], " +
				"weight_kg DOUBLE measure kg | carts 2  paid BOOLEAN  map[false:false true:true] | [carts.block_id = blocks.block_id] | "},
		{briefing.Full, true,
			"quarry: Blocks of stone | blocks 3 one row is one block block_id BIGINT  , stone VARCHAR  [rock] " +
				"map[gr:granite sl:slate xx:xx], " +
				"weight_kg DOUBLE measure kg | carts 2  paid BOOLEAN  map[false:false true:true] | [carts.block_id = blocks.block_id] | " +
				"map[heavy:more than 10 kg] [Slate is sold by the ton.] [{How many blocks? SELECT count(*) FROM blocks}]"},
	} {
		told, beyond := briefing.Tell(schema, parse(t, text), c.level, c.share, values)
		require.Equal(t, strings.Fields(c.want), strings.Fields(inOneLine(told, beyond)), "%s %t", c.level, c.share)
	}
	told, beyond := briefing.Tell(schema, nil, briefing.Full, false, values)
	require.Nil(t, beyond)
	require.Len(t, told.Tables[1].Columns, 2)
	require.Empty(t, told.Tables[0].Columns[1].Values)
}

// inOneLine is what is told in one line.
func inOneLine(d briefing.Dataset, b *briefing.Beyond) string {
	out := d.Name + ": " + d.About
	for _, t := range d.Tables {
		var columns []string
		for _, c := range t.Columns {
			line := fmt.Sprintf("%s %s %s %s", c.Name, c.Type, c.Role, c.Unit)
			if len(c.Synonyms) > 0 {
				line += fmt.Sprint(c.Synonyms, " ")
			}
			if len(c.Values) > 0 {
				line += fmt.Sprint(c.Values)
			}
			columns = append(columns, line)
		}
		out += fmt.Sprintf(" | %s", strings.Join(strings.Fields(fmt.Sprint(t.Name, " ", t.Rows, " ", t.About, " ", strings.Join(columns,
			", "))), " "))
	}
	out += fmt.Sprint(" | ", d.Joins, " | ")
	if b != nil {
		out += fmt.Sprint(b.Terms, " ", b.Notes, " ", b.Examples)
	}
	return out
}

// TestExtend: what is not named yet is added, every line that is there stays as it is, and a second time nothing is left to add.
func TestExtend(t *testing.T) {
	texts := []string{"", "dataset: quarry\n", "# mine\nabout: x # here\n\n# the end\n", whole, strings.ReplaceAll(whole, "\n  ", "\n    "),
		"tables:\n  blocks:\n", "tables:\n  blocks:\n    columns:\n      stone: {hide: true} # why\nnotes: [x]\n",
		"joins:\n- carts.block_id = blocks.block_id\n",
		"joins:\n  - blocks.block_id = carts.block_id\ntables:\n  carts:\n    about: no columns\n",
		"notes:\n  - a\ntables: # all\n    carts:\n        columns:\n            paid: {role: key}\n"}
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SampledFrom(texts).Draw(t, "text")
		if rapid.Bool().Draw(t, "without end") {
			text = strings.TrimSuffix(text, "\n")
		}
		extended, err := briefing.Extend("b.yaml", []byte(text), quarry())
		require.NoError(t, err, text)
		at := 0
		added := strings.Split(string(extended), "\n")
		for line := range strings.SplitSeq(strings.TrimRight(text, "\n"), "\n") {
			for at < len(added) && added[at] != line {
				at++
			}
			require.Less(t, at, len(added), "%q is lost from\n%s\nin\n%s", line, text, extended)
			at++
		}
		b, problems := briefing.Parse("b.yaml", extended)
		require.Empty(t, problems)
		for _, table := range quarry().Tables {
			for _, c := range table.Columns {
				require.NotNil(t, b.Column(profile.Place{Table: table.Name, Column: c.Name}), "%s.%s\n%s", table.Name, c.Name, extended)
			}
		}
		require.NotEmpty(t, b.Joins)
		again, err := briefing.Extend("b.yaml", extended, quarry())
		require.NoError(t, err)
		require.Equal(t, string(extended), string(again))
	})
	extended, err := briefing.Extend("b.yaml", nil, quarry())
	require.NoError(t, err)
	require.Equal(t, `dataset: quarry
about: # say in one sentence what the data is about
tables:
  blocks:
    about: # one row is …
    columns:
      block_id: {role: key}
      stone: {role: dimension}
      weight_kg: {role: measure, unit: "kg"}
  carts:
    about: # one row is …
    columns:
      "cart no": {role: key}
      block_id: {role: key}
      paid: {role: dimension}
      secret: {role: dimension}
joins:
  - carts.block_id = blocks.block_id
`, string(extended))
	_, err = briefing.Extend("b.yaml", []byte("tables: [x]\n"), quarry())
	require.ErrorContains(t, err, "b.yaml:1:9: tables must be a mapping")
}
