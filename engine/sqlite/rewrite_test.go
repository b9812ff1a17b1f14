package sqlite

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/value"
)

// TestStoredCells: what was there before is stored as it was; what is new is a number, a moment in the form of the others, or a text.
func TestStoredCells(t *testing.T) {
	s := stored{cells: []map[string]any{{"7": "7", "a": []byte{0}}, {"1": int64(1)}, {}, {}, {}},
		kinds: []value.Kind{value.Text, value.Int, value.Float, value.Timestamp, value.Date},
		like:  []string{"", "", "", "2031-06-30T08:15", "2031-06-30"}}
	text := func(s string) *string { return &s }
	for _, c := range []struct {
		column int
		text   *string
		want   any
	}{
		{0, text("7"), "7"}, {0, text("a"), []byte{0}}, {0, text("new"), "new"}, {0, nil, nil}, {1, text("1"), int64(1)},
		{1, text("60"), int64(60)}, {2, text("2.5"), 2.5}, {2, text("soon"), "soon"}, {3, text("2031-01-01 10:00:00"), "2031-01-01T10:00"},
		{4, text("2031-01-01"), "2031-01-01"},
	} {
		require.Equal(t, c.want, s.of(c.column, c.text), "%d %v", c.column, c.want)
	}
	for _, c := range [][3]string{{"2031-01-01 10:00:00", "2031-06-30 08:15:00", "2031-01-01 10:00:00"},
		{"2031-01-01 10:00:00", "2031-06-30", "2031-01-01"}, {"2031-01-01 10:00:00", "", "2031-01-01 10:00:00"},
		{"2031-01-01", "2031-06-30 08:15:00", "2031-01-01"}, {"2031-01-01 10:00:00", "1924991999", "2031-01-01"}} {
		require.Equal(t, c[2], writtenLike(c[0], c[1]), c[1])
	}
}
