package match_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
)

// ruleCases hold every value of every rule, both ways: "yes" where the tables match under it. Rules are separated by "; ".
var ruleCases = []struct {
	reason, expected, answer, rules string
	yes                             bool
	remark                          string
}{
	{"rows exact: no more rows", "a/x", "a/x/y", "rows=exact", false, ""},
	{"rows contains: more rows are forgiven", "a n/x 1", "a n/y 2/x 1/z 3", "rows=contains", true, ""},
	{"rows contains: a missing row is not", "a n/x 1/w 4", "a n/y 2/x 1/z 3", "rows=contains", false, ""},
	{"rows contains: duplicates count", "a/x/x", "a/x/y", "rows=contains", false, ""},
	{"rows contains: under other names", "a n/x 1/y 2", "p q/y 2/x 1/z 3", "rows=contains", true, ""},
	{"rows contains: order still counts", "a n/x 3/y 1", "a n/y 1/z 2/x 3", "rows=contains; order=ranked:n desc", false, ""},
	{"rows contains: order with forgiven rows between", "a n/x 3/y 1", "a n/x 3/z 2/y 1", "rows=contains; order=ranked:n desc", true, ""},
	{"rows contains: strict order with forgiven rows between", "a n/x 3/y 1", "a n/z 9/x 3/w 2/y 1",
		"rows=contains; order=strict", true, ""},

	{"order any", "a/2/1", "a/1/2", "order=any", true, "reordered"},
	{"order auto without a reference is any", "a/2/1", "a/1/2", "order=auto", true, "reordered"},
	{"order strict kept", "a/2/1", "a/2/1", "order=strict", true, ""},
	{"order strict broken", "a/2/1", "a/1/2", "order=strict", false, ""},
	{"order strict with duplicates", "a/2/2/1", "a/2/2/1", "order=strict", true, ""},
	{"order ranked by two keys", "a n/x 3/y 3/z 1", "a n/x 3/y 3/z 1", "order=ranked:n desc, a", true, ""},
	{"order ranked by two keys, the second broken", "a n/x 3/y 3/z 1", "a n/y 3/x 3/z 1", "order=ranked:n desc, a", false, ""},

	{"columns name: a synonym of none", "a/1", "b/1", "columns=name", false, ""},
	{"columns position", "a b/1 2", "b a/1 2", "columns=position", true, "renamed"},
	{"columns position: too few", "a b/1 2", "a/1", "columns=position", false, ""},
	{"columns auto: content", "a b/x 1/y 2/z 3", "p q/1 x/2 y/3 z", "columns=auto", true, "renamed"},

	{"extra columns noted", "a/x/y", "a b/x p/y q", "extra-columns=note", true, "extra-column"},
	{"extra columns wrong", "a/x/y", "a b/x p/y q", "extra-columns=wrong", false, ""},

	{"numbers exact: the same", "a/1.5/2.5", "a/1.5/2.5", "numbers=exact", true, ""},
	{"numbers exact: no rounding", "a/1.254/2.345", "a/1.25/2.35", "numbers=exact", false, ""},
	{"numbers exact: -0 is 0", "a/0.0e0", "a/-0.0e0", "numbers=exact", true, ""},
	{"numbers exact: NaN is NaN", "a/NaN/1.5", "a/NaN/1.5", "numbers=exact", true, ""},
	{"numbers shown: infinities by sign", "a/Infinity/1.5", "a/-Infinity/1.5", "numbers=shown", false, ""},
	{"numbers shown: infinity is itself", "a/Infinity/1.5", "a/Infinity/1.5", "numbers=shown", true, ""},
	{"numbers rel: within", "a/100.0/2.5", "a/100.9/2.5", "numbers=rel:0.01", true, ""},
	{"numbers rel: beyond", "a/100.0/2.5", "a/101.9/2.5", "numbers=rel:0.01", false, ""},
	{"numbers abs: within, exactly", "a/12.50/2.00", "a/12.51/2.00", "numbers=abs:0.01", true, ""},
	{"numbers abs: beyond, exactly", "a/12.50/2.00", "a/12.52/2.00", "numbers=abs:0.01", false, ""},
	{"numbers abs: floats", "a/0.1e0/0.2e0", "a/0.11e0/0.2e0", "numbers=abs:0.01", true, ""},
	{"numbers abs does not loosen whole numbers", "a/12/2", "a/13/2", "numbers=abs:1", false, ""},
	{"numbers abs by column loosens whole numbers", "a/12/2", "a/13/2", "a.numbers=abs:1", true, ""},
	{"numbers digits: the same rounded", "a/12.44/2.50", "a/12.4/2.5", "numbers=digits:1", true, ""},
	{"numbers digits: not the same rounded", "a/12.46/2.50", "a/12.4/2.5", "numbers=digits:1", false, ""},
	{"numbers digits: to whole numbers", "a/12.4/2.6", "a/12/3", "numbers=digits:0", true, ""},
	{"numbers by column, others stay", "a b/1.5 1.5", "a b/1.6 1.6", "a.numbers=abs:0.1", false, ""},
	{"tolerance is a one-to-one pairing", "a/1.00/1.01", "a/1.01/1.02", "numbers=abs:0.01", true, ""},
	{"tolerance: two rows cannot share one", "a/1.00/1.00", "a/1.01/1.50", "numbers=abs:0.01", false, ""},
	{"two tolerance columns need a largest pairing", "a b/1.00 5.00/1.01 5.01", "a b/1.01 5.00/1.00 5.01", "numbers=abs:0.01", true, ""},

	{"scale strict", "s/0.153/0.847", "s/15.3/84.7", "scale=strict", false, ""},
	{"scale fraction: percent for a fraction", "s/0.153/0.847", "s/15.3/84.7", "scale=fraction", true, "rescaled"},
	{"scale fraction: not half a column", "s/0.153/0.847", "s/15.3/0.847", "scale=fraction", false, ""},
	{"scale percent: a fraction for percent", "s/15.3/84.7", "s/0.153/0.847", "scale=percent", true, "rescaled"},
	{"scale percent: not the reverse", "s/0.153/0.847", "s/15.3/84.7", "scale=percent", false, ""},

	{"text exact: case counts", "a/Lock", "a/lock", "text=exact", false, ""},
	{"text fold: case does not", "a/Lock", "a/lock", "text=fold", true, ""},
	{"text fold: composition of accents", "a/caf\u00e9", "a/cafe\u0301", "text=fold", true, ""},
	{"text fold: another letter", "a/Lock", "a/Look", "text=fold", false, ""},

	{"format read: months", "m n/2031-05-01 1/2031-06-01 2", "m n/2031-05 1/2031-06 2", "format=read", true, "reformatted"},
	{"format read: quarters", "m n/2031-04-01 1/2031-07-01 2", "m n/2031-Q2 1/2031-Q3 2", "format=read", true, "reformatted"},
	{"format read: a year", "m n/2030-01-01 1/2031-01-01 2", "m n/2030 1/2031 2", "format=read", true, "reformatted"},
	{"format read: not a later day", "m n/2031-05-02 1/2031-06-01 2", "m n/2031-05 1/2031-06 2", "format=read", false, ""},
	{"format strict: months", "m n/2031-05-01 1", "m n/2031-05 1", "format=strict", false, ""},
	{"format read: separators", "n/1234.50/7.25", "n/1,234.50/7.25", "format=read", true, "reformatted"},
	{"format read: percent signs for percent", "n/15.3/84.7", "n/15.3%/84.7%", "format=read", true, "reformatted"},
	{"format read: percent signs for a fraction", "n/0.153/0.847", "n/15.3%/84.7%", "format=read", true, "reformatted"},
	{"format read: currency", "n/12/15", "n/€12/€15", "format=read", true, "reformatted"},
	{"format read: not half a column", "n/12/15", "n/€12/x", "format=read", false, ""},
	{"format strict: separators", "n/1234.50", "n/1,234.50", "format=strict", false, ""},

	{"null strict", "a n/x -", "a n/x 0", "null=strict", false, ""},
	{"null zero: null is nought", "a n/x -/y 1", "a n/x 0/y 1", "null=zero", true, ""},
	{"null zero: not another number", "a n/x -/y 1", "a n/x 2/y 1", "null=zero", false, ""},
	{"null zero: decimals", "a n/x -/y 1.5", "a n/x 0.0/y 1.5", "null=zero", true, ""},
	{"null blank: null is blank", "a b/x -/y z", "a b/x _/y z", "null=blank", true, ""},
	{"null blank: not a text", "a b/x -/y z", "a b/x w/y z", "null=blank", false, ""},
	{"null blank: one row of nulls for no row", "a b", "a b/- -", "null=blank", true, "empty"},
	{"null strict: one row of nulls is a row", "a b", "a b/- -", "null=strict", false, ""},

	{"layout long: a crosstab is another table", "d y n/x 2030 1/x 2031 2/y 2030 3/y 2031 4", "d 2030 2031/x 1 2/y 3 4",
		"layout=long", false, ""},
	{"layout any: the answer is a crosstab", "d y n/x 2030 1/x 2031 2/y 2030 3/y 2031 4", "d 2030 2031/x 1 2/y 3 4",
		"layout=any", true, "crosstab"},
	{"layout any: the expected one is", "d 2030 2031/x 1 2/y 3 4", "d y n/x 2030 1/x 2031 2/y 2030 3/y 2031 4", "layout=any",
		true, "crosstab"},
	{"layout any: month names", "d m n/x 1 7/x 2 8", "d Jan February/x 7 8", "layout=any", true, "crosstab"},
	{"layout any: missing combinations are nulls", "d y n/x 2030 1/y 2031 4", "d 2030 2031/x 1 -/y - 4", "layout=any", true, "crosstab"},
	{"layout any: noughts are not nulls", "d y n/x 2030 1/y 2031 4", "d 2030 2031/x 1 0/y 0 4", "layout=any", false, ""},
	{"layout any: noughts under null zero", "d y n/x 2030 1/y 2031 4", "d 2030 2031/x 1 0/y 0 4", "layout=any; null=zero", true,
		"crosstab"},
	{"layout any: a wrong cell", "d y n/x 2030 1/x 2031 2", "d 2030 2031/x 1 3", "layout=any", false, ""},
	{"layout any: without a key column", "y n/2030 1/2031 2", "2030 2031/1 2", "layout=any", true, "crosstab"},
}

func TestRules(t *testing.T) {
	for _, c := range ruleCases {
		t.Run(c.reason, func(t *testing.T) {
			var rules match.Rules
			for r := range strings.SplitSeq(c.rules, "; ") {
				require.NoError(t, rules.ParseRule(r))
			}
			r := match.Match(tableOf(c.expected), tableOf(c.answer), rules, match.Known{})
			require.Equal(t, c.yes, r.Matched, r.Why)
			if c.remark != "" {
				require.Contains(t, r.Remarks, match.Remark(c.remark))
			}
		})
	}
}

// TestUnitsAndLabels: what a briefing tells of a column.
func TestUnitsAndLabels(t *testing.T) {
	districts := map[string]string{"NV": "North", "OL": "Old"}
	known := match.Known{Labels: []map[string]string{districts, nil}, Units: []string{"", "%"},
		Synonyms: map[string][]string{"share": {"part"}}}
	e := tableOf("district share/NV 15.3/OL 84.7")
	for answer, want := range map[string]string{
		"district share/North 15.3/Old 84.7": "[relabelled]",
		"district share/NV 0.153/OL 0.847":   "[rescaled]",
		"district part/NV 15.3/OL 84.7":      "[]",
		"district share/North 15.3/OL 84.7":  "wrong",
		"district share/North 15.3/New 84.7": "wrong",
	} {
		r := match.Match(e, tableOf(answer), match.Rules{}, known)
		if want == "wrong" {
			require.False(t, r.Matched, answer)
			continue
		}
		require.True(t, r.Matched, "%s: %s", answer, r.Why)
		require.Equal(t, want, "["+joinRemarks(r.Remarks)+"]")
	}
	var strict match.Rules
	require.NoError(t, strict.ParseRule("labels=strict"))
	require.False(t, match.Match(e, tableOf("district share/North 15.3/Old 84.7"), strict, known).Matched)
}

func joinRemarks(remarks []match.Remark) string {
	var out []string
	for _, r := range remarks {
		out = append(out, string(r))
	}
	return strings.Join(out, " ")
}

// TestCut: any choice among the rows tied at a cut is right, and all of them; nothing else is.
func TestCut(t *testing.T) {
	full := tableOf("a n/p 9/q 5/r 5/s 5/t 1")
	known := match.Known{Ranking: []match.Key{{Column: 1, Descending: true}}, Cut: &match.Cut{Full: full, Keep: 3}}
	for answer, right := range map[string]bool{
		"a n/p 9/q 5/r 5":         true,
		"a n/p 9/r 5/s 5":         true,
		"a n/p 9/s 5/q 5/r 5":     true,
		"a n/p 9/q 5":             false,
		"a n/q 5/r 5/s 5":         false,
		"a n/p 9/q 5/t 1":         false,
		"a n/q 5/p 9/r 5":         false,
		"a n/p 9/q 5/r 5/s 5/t 1": false,
		"x y/p 9/s 5/q 5":         true,
	} {
		r := match.Match(full.Head(3), tableOf(answer), match.Rules{}, known)
		require.Equal(t, right, r.Matched, "%s: %s", answer, r.Why)
	}
	var strict match.Rules
	require.NoError(t, strict.ParseRule("ties=strict"))
	require.False(t, match.Match(full.Head(3), tableOf("a n/p 9/r 5/s 5"), strict, known).Matched)
}
