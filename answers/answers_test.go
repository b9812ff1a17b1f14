package answers_test

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"tovrel/answers"
)

// workbook writes a spreadsheet: by sheet, its rows from a cell on.
func workbook(t *testing.T, sheets map[string]map[string][][]any) string {
	t.Helper()
	f := excelize.NewFile()
	for name, blocks := range sheets {
		_, err := f.NewSheet(name)
		require.NoError(t, err)
		for at, rows := range blocks {
			column, line, err := excelize.CellNameToCoordinates(at)
			require.NoError(t, err)
			for i, row := range rows {
				cell, err := excelize.CoordinatesToCellName(column, line+i)
				require.NoError(t, err)
				require.NoError(t, f.SetSheetRow(name, cell, &row))
			}
		}
	}
	require.NoError(t, f.DeleteSheet("Sheet1"))
	path := filepath.Join(t.TempDir(), "answers.xlsx")
	require.NoError(t, f.SaveAs(path))
	return path
}

func csv(t *testing.T, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "answers.csv")
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

type reply struct {
	Query, Text, Model string
	Table              *struct {
		Columns []struct{ Name string } `json:"columns"`
		Rows    [][]any                 `json:"rows"`
	}
	Usage struct{ Cost float64 }
}

func read(t *testing.T, path string) (map[string]reply, []answers.Answer) {
	t.Helper()
	all, err := answers.Read(context.Background(), filepath.Base(path), path)
	require.NoError(t, err)
	out := map[string]reply{}
	for _, a := range all {
		var r reply
		require.NoError(t, json.Unmarshal(a.Reply, &r), string(a.Reply))
		out[a.Question] = r
	}
	return out, all
}

// TestList: a row for each answer, in a CSV file and in a spreadsheet, with tables that stand on sheets, in ranges and in files.
func TestList(t *testing.T) {
	path := workbook(t, map[string]map[string][][]any{
		"Answers": {"A1": {{"Question", "query", "table", "text", "latency_ms", "cost", "model"},
			{"s/one", "SELECT 1", "", "", 1500, 0.25, "m-1"}, {"s/two", "", "Second", "", nil, nil}, {},
			{"s/three", "", "Others!B2:C3", ""}, {"s/four", "", "'Others'!$B$6:$B$8"}, {"s/five", "", "", "There are 3."}}},
		"Second": {"A1": {{"shop", "n"}, {"East", 3}, {"West", 4}}},
		"Others": {"B2": {{"a", "b"}, {1, 2}}, "B6": {{"c"}, {7}, {8}}},
	})
	got, all := read(t, path)
	require.Len(t, all, 5)
	require.Equal(t, reply{Query: "SELECT 1", Model: "m-1", Usage: struct{ Cost float64 }{0.25}}, got["s/one"])
	require.Equal(t, 1500*time.Millisecond, all[0].Latency)
	require.Equal(t, 2, all[0].Line)
	require.Equal(t, [][]any{{"East", 3.0}, {"West", 4.0}}, got["s/two"].Table.Rows)
	require.Equal(t, [][]any{{1.0, 2.0}}, got["s/three"].Table.Rows)
	require.Equal(t, "b", got["s/three"].Table.Columns[1].Name)
	require.Equal(t, [][]any{{7.0}, {8.0}}, got["s/four"].Table.Rows)
	require.Equal(t, "There are 3.", got["s/five"].Text)
	require.Zero(t, all[4].Latency)

	path = csv(t, "\ufeffquestion,table\ns/one,beside.csv\ns/two,"+filepath.Base(path)+"\n")
	require.NoError(t, os.WriteFile(filepath.Join(filepath.Dir(path), "beside.csv"), []byte("x\n5\n"), 0o600))
	require.NoError(t, copyFile(workbook(t, map[string]map[string][][]any{"Only": {"A1": {{"y"}, {6}}}}),
		filepath.Join(filepath.Dir(path), "answers.xlsx")))
	got, _ = read(t, path)
	require.Equal(t, [][]any{{5.0}}, got["s/one"].Table.Rows)
	require.Equal(t, [][]any{{6.0}}, got["s/two"].Table.Rows, "of a workbook beside it")
}

func copyFile(from, to string) error {
	body, err := os.ReadFile(from)
	if err != nil {
		return err
	}
	return os.WriteFile(to, body, 0o600)
}

// TestSheets: without a list, each sheet is the answer of the question that it is named after.
func TestSheets(t *testing.T) {
	got, all := read(t, workbook(t, map[string]map[string][][]any{"one": {"A1": {{"n"}, {1}}}, "two": {"A1": {{"n"}, {2}, {3}}},
		"empty": {}}))
	require.Len(t, all, 2)
	require.Equal(t, [][]any{{2.0}, {3.0}}, got["two"].Table.Rows)
	require.Zero(t, all[0].Line)
}

// TestDefects: whatever is wrong with a row is said with the file, the row, and what to write instead.
func TestDefects(t *testing.T) {
	for text, want := range map[string]string{
		"question,qery\na,b\n":        `answers.csv:1: there is no column "qery"; did you mean "query"?`,
		"question,text,text\na,b,c\n": "answers.csv:1: the column text is there twice",
		"question,text\n,b\n":         "answers.csv:2: the row names no question",
		"question,text\na,b\na,c\n":   `answers.csv:3: "a" is answered in row 2 already`,
		"question,text\na,\n":         "answers.csv:2: the row has no answer",
		"question,text\na,one, two\n": "answers.csv:2: the row has 3 cells, and 2 columns are named; put texts that " +
			"hold a comma in quotes",
		"question,text,cost\na,b,cheap\n":                `answers.csv:2: the cost "cheap" is no amount of money`,
		"question,text,cost\na,b,-1\n":                   `the cost "-1"`,
		"question,text,latency_ms\na,b,1s\n":             `the latency "1s" is no number of milliseconds`,
		"question,text,latency_ms\na,b,99999999999999\n": "the latency",
		"question,table\na,nowhere.csv\n":                "nowhere.csv",
		"question,table\na,Sheet1!A1:B2\n":               "Sheet1!A1:B2 is no file with a table",
		"name,text\na,b\n":                               "no row names the columns",
		"question,text\n\n":                              "holds no answer",
		"":                                               "no row names the columns",
	} {
		_, err := answers.Read(context.Background(), "answers.csv", csv(t, text))
		require.ErrorContains(t, err, want, "%q", text)
	}
	path := workbook(t, map[string]map[string][][]any{"A": {"A1": {{"question", "table"}, {"s/one", "B!C"}, {"s/two", "Bee"}, {"s/3",
		"B!Z9:Z10"}}},
		"B": {"A1": {{"n"}, {1}}}})
	_, err := answers.Read(context.Background(), "answers.xlsx", path)
	for _, want := range []string{`"C" is no range of cells`, `has no sheet "Bee"`, "answers.xlsx:4"} {
		require.ErrorContains(t, err, want)
	}
	_, err = answers.Read(context.Background(), "gone.csv", filepath.Join(t.TempDir(), "gone.csv"))
	require.ErrorContains(t, err, "the answers gone.csv cannot be read: no such file or directory")
	require.False(t, answers.Readable("a.txt"))
	require.True(t, answers.Readable("A.XLSX"))
}
