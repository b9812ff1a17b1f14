package cause

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
)

// TestMend: an unknown name is replaced by the one that was meant, wherever it stands as a name, and nowhere else.
func TestMend(t *testing.T) {
	noFunction := func(name string) *engine.Failure {
		return &engine.Failure{Code: fault.UnknownFunction, Message: "Scalar Function with name " + name + " does not exist!", Position: -1}
	}
	for _, c := range []struct {
		query   string
		failure *engine.Failure
		want    string
	}{
		{"SELECT ifnull(a, 0) FROM t", noFunction("ifnull"), "SELECT coalesce(a, 0) FROM t"},
		{"SELECT IFNULL(a, ifnull(b, 0)) FROM t", noFunction("ifnull"), "SELECT coalesce(a, coalesce(b, 0)) FROM t"},
		{"SELECT ifnull(a, 'ifnull') -- ifnull\nFROM t", noFunction("ifnull"), "SELECT coalesce(a, 'ifnull') -- ifnull\nFROM t"},
		{"SELECT to_char(a, 'x') FROM t", noFunction("to_char"), ""}, // no function of the same arguments
		{"SELECT frobnicate(a) FROM t", noFunction("frobnicate"), ""},
		{"SELECT nvl(a, 0)", &engine.Failure{Code: fault.UnknownFunction, Message: "no such function: nvl", Position: -1},
			"SELECT coalesce(a, 0)"},
		{"SELECT fare FROM t WHERE fare > 1", &engine.Failure{Code: fault.UnknownColumn, Position: 7, Candidates: []string{"fares", "far"}},
			"SELECT fares FROM t WHERE fares > 1"},
		{`SELECT "Fare" FROM t`, &engine.Failure{Code: fault.UnknownColumn, Position: 7, Candidates: []string{"fares"}},
			"SELECT fares FROM t"},
		{"SELECT a FROM farmz", &engine.Failure{Code: fault.UnknownTable, Position: 14, Candidates: []string{"farms"}},
			"SELECT a FROM farms"},
		{"SELECT a FROM farmz", &engine.Failure{Code: fault.UnknownTable, Position: 14, Candidates: []string{"main.farms"}}, ""},
		{"SELECT a FROM farmz", &engine.Failure{Code: fault.UnknownTable, Position: 14}, ""},
		{"SELECT a FROM farmz", &engine.Failure{Code: fault.UnknownTable, Position: -1, Candidates: []string{"farms"}}, ""},
		{"SELECT a FROM farmz", &engine.Failure{Code: fault.UnknownTable, Position: 99, Candidates: []string{"farms"}}, ""},
		{"SELECT a FROM farmz", &engine.Failure{Code: fault.UnknownTable, Position: 3, Candidates: []string{"farms"}}, ""},
		// no name begins there
		{"SELEC 1", &engine.Failure{Code: fault.Syntax, Position: 0, Candidates: []string{"x"}}, ""},
	} {
		require.Equal(t, c.want, Mend(c.query, c.failure), c.query)
	}
}

// TestFailureFault: a query that does not run is told with its place, and with the dialect that it belongs to.
func TestFailureFault(t *testing.T) {
	for _, c := range []struct {
		query   string
		failure *engine.Failure
		says    []string
	}{
		{"SELECT a,\n  b FROM t", &engine.Failure{Code: fault.UnknownColumn, Message: "there is no b", Position: 12},
			[]string{"there is no b", "(line 2, column 3)"}},
		{"SELECT nvl(a, 0)", &engine.Failure{Code: fault.UnknownFunction, Message: "no such function: nvl", Position: 7},
			[]string{"line 1, column 8", "nvl belongs to the dialect of Oracle: here it is coalesce(a, b)"}},
		{"SELECT TOP 5 a FROM t", &engine.Failure{Code: fault.Syntax, Message: "syntax error", Position: -1},
			[]string{"`SELECT TOP 5` belongs to the dialect of SQL Server: here it is LIMIT n at the end"}},
		{"SELECT a FROM t LIMT 5", &engine.Failure{Code: fault.Syntax, Message: "syntax error", Position: -1}, []string{"syntax error"}},
	} {
		f := FailureFault(c.query, c.failure)
		require.Equal(t, c.failure.Code, f.Code)
		require.Equal(t, fault.Proved, f.Certainty)
		for _, words := range c.says {
			require.Contains(t, f.Evidence, words, c.query)
		}
		if len(c.says) == 1 && c.says[0] == "syntax error" {
			require.NotContains(t, f.Evidence, "dialect")
		}
	}
}
