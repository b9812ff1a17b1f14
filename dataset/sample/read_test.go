package sample

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/trouble"
)

// writtenTo is the path of a file with a text.
func writtenTo(t require.TestingT, dir, name, text string) string {
	path := filepath.Join(dir, name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

// TestAsTheStandardReader: a well-formed CSV has the cells that the standard library's reader finds, and one that it refuses is refused.
func TestAsTheStandardReader(t *testing.T) {
	dir := t.TempDir()
	cell := rapid.SampledFrom([]string{"", "a", "12", "1.5", "ä b", `"x"`, `"a,b"`, `"say ""so"""`, "\"two\nlines\"", "\"two\r\nlines\"",
		`""`, `"`, `a"b`, ` "x"`, `"x" `, "'"})
	rapid.Check(t, func(t *rapid.T) {
		delimiter := rapid.SampledFrom([]byte{',', ';', '\t'}).Draw(t, "delimiter")
		end := rapid.SampledFrom([]string{"\n", "\r\n"}).Draw(t, "end")
		columns := rapid.IntRange(1, 4).Draw(t, "columns")
		var text strings.Builder
		for row := range rapid.IntRange(1, 5).Draw(t, "rows") {
			cells := make([]string, columns)
			for i := range cells {
				if cells[i] = cell.Draw(t, "cell"); row == 0 {
					cells[i] = fmt.Sprint("c", i)
				}
			}
			if row > 0 && rapid.IntRange(0, 9).Draw(t, "ragged") == 0 {
				cells = append(cells, "more")
			}
			text.WriteString(strings.Join(cells, string(delimiter)) + end)
		}
		body := text.String()
		if rapid.Bool().Draw(t, "no last end") {
			body = strings.TrimSuffix(body, end)
		}
		standard := csv.NewReader(strings.NewReader(body))
		standard.Comma = rune(delimiter)
		want, wantErr := standard.ReadAll()
		got, err := ReadCSV(writtenTo(t, dir, "f.csv", body), delimiter, 0)
		if wantErr != nil {
			require.Error(t, err, "%q", body)
			return
		}
		require.NoError(t, err, "%q", body)
		require.Equal(t, want[0], got.Names(), "%q", body)
		require.Equal(t, len(want)-1, got.Rows(), "%q", body)
		for i, row := range want[1:] {
			for j, text := range row {
				v := got.Row(i)[j]
				text = strings.ReplaceAll(text, "\r\n", "\n")
				if v.IsNull() {
					require.Empty(t, text, "%q", body)
					continue
				}
				require.Equal(t, text, strings.ReplaceAll(v.String(), "\r\n", "\n"), "%q: row %d, column %d", body, i, j)
			}
		}
	})
}

// TestDefectsOfFiles: what is wrong with a file is told with its line.
func TestDefectsOfFiles(t *testing.T) {
	for _, c := range []struct{ name, text, want string }{
		{"f.csv", "", "f.csv:1: the file is empty"},
		{"f.csv", "\xef\xbb\xbf\n \n", "f.csv:1: the file is empty"},
		{"f.csv", "a,b\n1,2\n3\n", "f.csv:3: this row has 1 cells and the header has 2"},
		{"f.csv", "a,b\n\n1,2\n\n3,4,5\n", "f.csv:5: this row has 3 cells and the header has 2"},
		{"f.csv", "a,b\n1,\"x\ny\"\n3\n", "f.csv:4: this row has 1 cells and the header has 2"}, // a line break within quotes counts
		{"f.csv", "a,b\n1,\"x\n", "f.csv:2: a quote is not closed"},
		{"f.csv", "a,b\n1,x\"y\n", "f.csv:2: a quote stands in the middle of a cell"},
		{"f.csv", "a,b\n1,\"x\"y\n", "f.csv:2: something follows the closing quote of a cell"},
		{"f.csv", "a,b\n1,\"x\"\ry\n", "f.csv:2: something follows the closing quote of a cell"},
		{"f.jsonl", "{\"a\": 1}\n[1]\n", "f.jsonl:2: not a JSON object: it begins with something else"},
		{"f.jsonl", "{\"a\": 1}\n\n{\"a\": \n", "f.jsonl:3: not a JSON object"},
		{"f.jsonl", "7\n", "f.jsonl:1: not a JSON object"},
		{"f.jsonl", "{\"a\": 1\n", "f.jsonl:1: not a JSON object"},
		{"f.json", "[{\"a\": 1}, 2]", "f.json: entry 2 is not a JSON object"},
		{"f.json", "[\n{\"a\": 1},\n{]", "f.json:3: invalid character"},
		{"f.json", "{\"columns\": [\"a\"],\n\"rows\": [[1, 2]]}", "row 1 has 2 cells where there are 1 columns"},
		{"f.json", "{\"columns\": [\"a\"]\n\"rows\": 1}", "f.json:2: not a table of the form"},
		{"f.txt", "a", `files ending in ".txt" are not read; the endings are .csv, .tsv, .json, .jsonl, .parquet`},
		{"f.parquet", "no parquet", "f.parquet"},
	} {
		dir := t.TempDir()
		_, err := Read(context.Background(), writtenTo(t, dir, c.name, c.text))
		require.ErrorContains(t, err, c.want, "%q", c.text)
		require.Equal(t, 3, trouble.ExitCode(err))
	}
	_, err := Read(context.Background(), filepath.Join(t.TempDir(), "none.csv"))
	require.ErrorContains(t, err, "none.csv")
	require.Equal(t, 3, trouble.ExitCode(err))
}

// TestSkippedLines: lines before the header are left out, and still count.
func TestSkippedLines(t *testing.T) {
	path := writtenTo(t, t.TempDir(), "f.csv", "Report\nof \"May\na,b\n1,2\n3\n")
	_, err := ReadCSV(path, ',', 2)
	require.ErrorContains(t, err, ":5: this row has 1 cells")
	path = writtenTo(t, t.TempDir(), "f.csv", "Report\na,b\r\n1,2\r\n")
	read, err := ReadCSV(path, ',', 1)
	require.NoError(t, err)
	require.Equal(t, []string{"a", "b"}, read.Names())
	require.Equal(t, 1, read.Rows())
	read, err = ReadCSV(writtenTo(t, t.TempDir(), "f.csv", "\xef\xbb\xbfa;b\n\n1;\"\"\n"), ';', 0)
	require.NoError(t, err)
	require.Equal(t, []string{"a", "b"}, read.Names())
	require.False(t, read.Row(0)[1].IsNull(), "the empty text in quotes is a text")
	read, err = ReadCSV(path, ',', 9)
	require.NoError(t, err)
	require.Empty(t, read.Columns, "more lines are left out than there are")
}

// TestObjects: objects are rows, with the columns in the order in which they first occur and nulls where a key is missing, in lines and
// in a list.
func TestObjects(t *testing.T) {
	dir := t.TempDir()
	key := rapid.SampledFrom([]string{"a", "b", "ä c", ""})
	one := rapid.SampledFrom([]any{nil, 1, 2.5, true, "x", "1", "", []int{1}, map[string]int{"k": 1}})
	rapid.Check(t, func(t *rapid.T) {
		var objects []json.RawMessage
		var names []string
		var want []map[string]any
		for range rapid.IntRange(1, 5).Draw(t, "objects") {
			keys := rapid.SliceOfNDistinct(key, 0, 4, rapid.ID).Draw(t, "keys")
			var b bytes.Buffer
			b.WriteByte('{')
			row := map[string]any{}
			for i, k := range keys {
				if i > 0 {
					b.WriteString(", ")
				}
				v := one.Draw(t, "value")
				row[k] = v
				name, _ := json.Marshal(k)
				text, _ := json.Marshal(v)
				fmt.Fprintf(&b, "%s: %s", name, text)
				if !slices.Contains(names, k) {
					names = append(names, k)
				}
			}
			b.WriteByte('}')
			objects, want = append(objects, b.Bytes()), append(want, row)
		}
		list, err := json.Marshal(objects)
		require.NoError(t, err)
		lines := string(bytes.Join(rawBytes(objects), []byte("\n")))
		for _, f := range []struct{ name, text string }{{"f.json", string(list)}, {"f.jsonl", lines}, {"f.jsonl", lines + "\n\n"}} {
			got, err := Read(context.Background(), writtenTo(t, dir, f.name, f.text))
			require.NoError(t, err, f.text)
			require.Equal(t, names, append([]string(nil), got.Names()...), f.text)
			if len(names) > 0 {
				require.Equal(t, len(want), got.Rows(), f.text)
			}
			for i, row := range want {
				for j, name := range names {
					if row[name] == nil {
						require.True(t, got.Row(i)[j].IsNull(), f.text)
						continue
					}
					require.False(t, got.Row(i)[j].IsNull(), f.text)
					if text, ok := row[name].(string); ok {
						require.Equal(t, text, got.Row(i)[j].String(), f.text)
					}
				}
			}
		}
	})
	read, err := Read(context.Background(), writtenTo(t, dir, "twice.jsonl", `{"a": 1, "a": 2}`+"\n"+`{"a": 3}`))
	require.NoError(t, err)
	require.Equal(t, "2", read.Row(0)[0].String(), "of a key that is there twice the last counts")
	require.Equal(t, "3", read.Row(1)[0].String())
}

func rawBytes(all []json.RawMessage) [][]byte {
	out := make([][]byte, len(all))
	for i, raw := range all {
		out[i] = raw
	}
	return out
}

// TestNoTable: objects that have hardly a key in common are no table, where the cells would be millions.
func TestNoTable(t *testing.T) {
	var b strings.Builder
	for i := range 3000 {
		fmt.Fprintf(&b, "{\"k%d\": 1}\n", i)
	}
	_, err := Read(context.Background(), writtenTo(t, t.TempDir(), "f.jsonl", b.String()))
	require.ErrorContains(t, err, "nearly all of them missing in each: that is no table")
	require.ErrorContains(t, err, "f.jsonl:2237:") // 2,237 objects with as many keys are the first five million cells
}
