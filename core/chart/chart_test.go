package chart_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/chart"
	"tovrel/core/table"
)

// data are loads of three districts over some days.
func data(t *testing.T) *table.Table {
	t.Helper()
	var rows [][]table.Cell
	for _, line := range []string{"North 10 2031-01-05 acc", "South 20 2031-01-20 acc", "North 30 2031-02-01 rej", "West 5 2031-02-03 acc",
		"South 7.5 2030-12-31 acc", "West NULL 2031-02-28 acc"} {
		var row []table.Cell
		for _, text := range strings.Fields(line) {
			row = append(row, table.Cell{Text: text, Null: text == "NULL"})
		}
		rows = append(rows, row)
	}
	out, err := table.FromRows([]string{"district", "litres", "day", "status"}, rows)
	require.NoError(t, err)
	return out
}

// drawn are the rows that a specification draws, as text.
func drawn(t *testing.T, spec string) string {
	t.Helper()
	s, err := chart.Parse([]byte(spec))
	require.NoError(t, err, spec)
	require.Empty(t, s.Beyond, spec)
	d, err := s.Draw(data(t))
	if err != nil {
		return err.Error()
	}
	var rows []string
	for row := range d.Table.Rows() {
		var cells []string
		for _, v := range d.Table.Row(row) {
			cells = append(cells, v.String())
		}
		rows = append(rows, strings.Join(cells, " "))
	}
	return strings.Join(d.Table.Names(), " ") + ": " + strings.Join(rows, ", ")
}

// cases reads a table of cases: a specification on a line, what comes of it on the next behind "=>".
func cases(t *testing.T, name string) map[string]string {
	t.Helper()
	body, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	out := map[string]string{}
	lines := strings.Split(strings.TrimSpace(string(body)), "\n")
	for i := 0; i+1 < len(lines); i += 2 {
		out[lines[i]] = strings.TrimPrefix(lines[i+1], "  => ")
	}
	require.Greater(t, len(out), 8)
	return out
}

// TestDraw: what a chart draws is what its encoding and its transforms make of the data.
func TestDraw(t *testing.T) {
	for spec, want := range cases(t, "draw.txt") {
		require.Equal(t, want, drawn(t, spec), spec)
	}
}

// TestParse: an invalid specification names the key and its place; what is beyond the judge says so; what is not known is listed.
func TestParse(t *testing.T) {
	for spec, message := range cases(t, "invalid.txt") {
		_, err := chart.Parse([]byte(spec))
		require.ErrorContains(t, err, message, spec)
	}
	for spec, beyond := range cases(t, "beyond.txt") {
		s, err := chart.Parse([]byte(spec))
		require.NoError(t, err, spec)
		require.Contains(t, s.Beyond, beyond, spec)
	}
	s, err := chart.Parse([]byte(`{"mark": "bar", "$schema": "x", "evil": 1,
		"encoding": {"x": {"field": "a", "onclick": 1}, "z": {"field": "b"}}}`))
	require.NoError(t, err)
	require.ElementsMatch(t, []string{"encoding.z", "encoding.x.onclick", "evil"}, s.Dropped)
}

// TestForm: each fault of a form is found by itself, and what is as asked has none.
func TestForm(t *testing.T) {
	form := chart.Form{Marks: []string{"bar"}, Fields: map[string]string{"x": "district", "y": "litres", "color": "none"}, Sort: "-y",
		Zero: true, Titles: true}
	for spec, want := range cases(t, "form.txt") {
		s, err := chart.Parse([]byte(spec))
		require.NoError(t, err, spec)
		d, err := s.Draw(data(t))
		require.NoError(t, err, spec)
		shown := func(i int) string { return d.Table.Columns[i].Name }
		codes := []string{}
		for _, f := range form.Faults(s, d, shown, map[string]string{"litres": "L"}) {
			codes = append(codes, string(f.Code))
			require.NotEmpty(t, f.Evidence)
		}
		if len(codes) == 0 {
			codes = []string{"none"}
		}
		require.Equal(t, want, strings.Join(codes, " "), spec)
		require.NotEmpty(t, s.Words())
	}
}
