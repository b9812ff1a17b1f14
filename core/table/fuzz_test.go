package table_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/table"
)

// FuzzFromJSON: any JSON is a table or an error, and a table is the same when it is written and read again.
func FuzzFromJSON(f *testing.F) {
	for _, seed := range []string{`{"columns": ["a"], "rows": [[1], [null], ["x"]]}`, `{"columns": ["a"], "rows": [[1e400]]}`,
		`{"columns": [{"name": "a", "type": "decimal"}], "rows": [["1.50"], [2]]}`, `{"columns": [], "rows": []}`,
		`{"columns": ["d"], "rows": [["2031-05-01"], ["0000-00-00"]]}`,
		`{"columns": ["a", "a"], "rows": [[true, [1]], [false, {"x": 1}]]}`,
		`{"columns": ["n"], "rows": [[-0.0], [1E+2], [0.10]]}`, `[1]`, `{"columns": null}`, `{"columns": ["a"], "rows": [[]]}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, body []byte) {
		read, err := table.FromJSON(body)
		if err != nil {
			return
		}
		written, err := read.MarshalJSON()
		require.NoError(t, err)
		again, err := table.FromJSON(written)
		require.NoError(t, err, string(written))
		require.Equal(t, len(read.Columns), len(again.Columns))
		require.Equal(t, read.Rows(), again.Rows())
	})
}
