package sample_test

import (
	"cmp"
	"context"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"tovrel/core/table"
	"tovrel/dataset/sample"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// seen is all that is told of a file: how it is written, what was noticed, and the table that comes out, by Open and by Plain.
func seen(t *testing.T, path string, o sample.Options) string {
	t.Helper()
	var b strings.Builder
	file := filepath.Base(path)
	s, err := sample.Open(context.Background(), file, path, t.TempDir(), o)
	if err != nil {
		fmt.Fprintf(&b, "  refused: %s\n", strings.ReplaceAll(err.Error(), "\n", "\n    "))
	} else {
		fmt.Fprintf(&b, "  delimiter %q, skip %d, names %q, lines %v, guessed %v\n", s.Delimiter, s.Skip, s.Names, s.Rows,
			s.Guessed.Entries())
		for _, n := range s.Notes {
			fmt.Fprintf(&b, "  note %s, line %d, warning %t: %s\n", n.Code, n.Line, n.Warning, n.Message)
		}
		if s.Path != path && !strings.HasSuffix(path, ".json") {
			body, err := os.ReadFile(s.Path)
			require.NoError(t, err)
			fmt.Fprintf(&b, "  as CSV %q\n", body)
		}
	}
	plain, notes, err := sample.Plain(context.Background(), path)
	if err != nil {
		fmt.Fprintf(&b, "  no table: %s\n", strings.ReplaceAll(strings.ReplaceAll(err.Error(), filepath.Dir(path)+"/", ""), "\n", "\n    "))
		return b.String()
	}
	fmt.Fprintf(&b, "  table%s\n", shape(plain))
	for _, n := range notes {
		fmt.Fprintf(&b, "  and note %s: %s\n", n.Code, n.Message)
	}
	return b.String()
}

func shape(plain *table.Table) string {
	var b strings.Builder
	for _, c := range plain.Columns {
		fmt.Fprintf(&b, " | %s %s:", c.Name, c.Type.Kind)
		for row := range min(6, c.Len()) {
			if c.IsNull(row) {
				b.WriteString(" ∅")
			} else {
				fmt.Fprintf(&b, " %q", c.Value(row).String())
			}
		}
	}
	return b.String()
}

// TestTexts holds how text files are read that differ in one respect from a plain one: delimiter, decimals, dates, lines above and below,
// quotes, encoding.
func TestTexts(t *testing.T) {
	dir := t.TempDir()
	var got strings.Builder
	for i, c := range texts() {
		path := filepath.Join(dir, fmt.Sprintf("f%d%s", i, c.ending))
		require.NoError(t, os.WriteFile(path, []byte(c.body), 0o600))
		fmt.Fprintf(&got, "%s %.200q\n%s", c.name, c.body, strings.ReplaceAll(seen(t, path, c.options), filepath.Base(path), "FILE"))
	}
	gallerytest.Holds(t, "texts.txt", got.String(), *update)
}

type textCase struct {
	name, ending, body string
	options            sample.Options
}

func texts() []textCase {
	var out []textCase
	add := func(name, ending, body string, o sample.Options) { out = append(out, textCase{name, ending, body, o}) }
	rows := [][]string{{"name", "day", "amount", "n"}, {"Ash", "2031-01-31", "1234.5", "7"}, {"Elm", "2031-02-01", "0.25", ""},
		{"Oak, old", "", "-3", "12"}}
	joined := func(delimiter string, change func(cell string) string) string {
		var b strings.Builder
		for _, row := range rows {
			for i, cell := range row {
				cell = change(cell)
				if strings.Contains(cell, delimiter) || strings.ContainsAny(cell, "\"\n") {
					cell = `"` + strings.ReplaceAll(cell, `"`, `""`) + `"`
				}
				if i > 0 {
					b.WriteString(delimiter)
				}
				b.WriteString(cell)
			}
			b.WriteString("\n")
		}
		return b.String()
	}
	same := func(cell string) string { return cell }
	plain := joined(",", same)
	for _, d := range []string{",", ";", "\t", "|"} {
		for _, ending := range []string{".csv", ".tsv", ".txt"} {
			add("delimiter "+d, ending, joined(d, same), sample.Options{})
		}
	}
	for name, change := range writings() {
		add(name, ".csv", joined(";", change.Replace), sample.Options{})
		out[len(out)-1].name = name
	}
	for name, body := range bodies(plain) {
		add(name, ".csv", body, sample.Options{})
	}
	for name, o := range map[string]sample.Options{
		"header row 2": {HeaderRow: 2}, "header row 9": {HeaderRow: 9}, "semicolons": {Delimiter: ";"}, "tabs": {Delimiter: `\t`},
		"a long delimiter": {Delimiter: "::"}, "said latin-1": {Encoding: "latin-1"}, "said utf-8": {Encoding: "utf-8"},
		"said utf-16": {Encoding: "utf-16"}, "said klingon": {Encoding: "klingon"}, "said skip": {Writing: sample.Writing{SkipLast: 2}},
		"said decimal": {Writing: sample.Writing{Decimal: ",", Thousands: "."}},
		"said dates":   {Writing: sample.Writing{DateFormat: "%d.%m.%Y"}},
	} {
		add(name, ".csv", plain, o)
		add(name+", semicolons", ".csv", joined(";", strings.NewReplacer("1234.5", "1.234,5", "0.25", "0,25", "2031-01-31", "31.01.2031",
			"2031-02-01", "01.02.2031").Replace), o)
	}
	return inOrder(out)
}

// writings change how the cells of a plain file are written.
func writings() map[string]*strings.Replacer {
	return map[string]*strings.Replacer{
		"decimal comma":  strings.NewReplacer("1234.5", "1234,5", "0.25", "0,25"),
		"dots and comma": strings.NewReplacer("1234.5", "1.234,5", "0.25", "0,25"),
		"apostrophes":    strings.NewReplacer("1234.5", "1'234.5"),
		"spaces":         strings.NewReplacer("1234.5", "1 234,5", "0.25", "0,25"),
		"narrow spaces":  strings.NewReplacer("1234.5", "1\u202f234,5", "0.25", "0,25"),
		"days first":     strings.NewReplacer("2031-01-31", "31.01.2031", "2031-02-01", "01.02.2031"),
		"months first":   strings.NewReplacer("2031-01-31", "01/31/2031", "2031-02-01", "02/01/2031"),
		"days or months": strings.NewReplacer("2031-01-31", "03/01/2031", "2031-02-01", "02/01/2031"),
		"named months":   strings.NewReplacer("2031-01-31", "31 Jan 2031", "2031-02-01", "1 Feb 2031"),
		"moments":        strings.NewReplacer("2031-01-31", "31.01.2031 10:20", "2031-02-01", "01.02.2031 00:00"),
		"null words":     strings.NewReplacer("0.25", "NULL", "-3", "N/A"),
		"percent":        strings.NewReplacer("1234.5", "12%", "0.25", "25%", "-3", "3%"),
		"leading zeros":  strings.NewReplacer("7", "007", "12", "012"),
		"long numbers":   strings.NewReplacer("7", "12345678901234567", "12", "2"),
		"line in a cell": strings.NewReplacer("Ash", "A\nsh"),
		"quotes":         strings.NewReplacer("Ash", `A "sh"`),
		"truths":         strings.NewReplacer("7", "true", "12", "false"),
		"repeated names": strings.NewReplacer("amount", "day", "name", ""),
	}
}

// bodies are files that are otherwise than a plain one, each in one respect.
func bodies(plain string) map[string]string {
	lines := strings.SplitAfter(plain, "\n")
	return map[string]string{
		"a title above":         "Report of January\n" + plain,
		"two titles above":      "Report\n\n" + plain,
		"a total below":         plain + "Total,,1231.75,19\n",
		"a note below":          plain + "Source: the office\n",
		"blank lines":           lines[0] + "\n" + lines[1] + "\n\n" + lines[2] + lines[3],
		"no last line end":      strings.TrimSuffix(plain, "\n"),
		"carriage returns":      strings.ReplaceAll(plain, "\n", "\r\n"),
		"a short row":           lines[0] + "Ash,2031-01-31\n" + lines[2],
		"a long row":            lines[0] + lines[1] + "Elm,2031-02-01,1,2,3\n",
		"an open quote":         lines[0] + "\"Ash,2031-01-31,1,2\n",
		"a quote within":        lines[0] + "A\"sh,2031-01-31,1,2\n",
		"nothing":               "",
		"only a header":         lines[0],
		"only blanks":           "\n\n\n",
		"one column":            "name\nAsh\nElm\n",
		"numbers for names":     "1,2\n3,4\n",
		"a zero byte":           "a,b\nx\x00,1\n",
		"a mark of bytes":       "\xef\xbb\xbf" + plain,
		"sixteen bits":          utf16Text(plain, false, true),
		"sixteen bits, turned":  utf16Text(plain, true, true),
		"sixteen bits, no mark": utf16Text(plain, false, false),
		"eight bits":            "name,town\n\xc4hre,K\xf6ln\n",
		"bad bytes":             "name,town\nAsh,\xff\xfe\n",
		"quoted blanks":         "a,b\n\"\",1\n,2\n",
		"padded":                "a, b\n x , 1\n y , 2\n",
	}
}

// inOrder sorts cases by name, so that maps may make them.
func inOrder(all []textCase) []textCase {
	slices.SortStableFunc(all, func(a, b textCase) int {
		return cmp.Or(strings.Compare(a.name, b.name), strings.Compare(a.ending,
			b.ending))
	})
	return all
}

func utf16Text(s string, turned, mark bool) string {
	units := utf16.Encode([]rune(s))
	if mark {
		units = append([]uint16{0xfeff}, units...)
	}
	var out []byte
	for _, u := range units {
		if turned {
			out = append(out, byte(u>>8), byte(u))
		} else {
			out = append(out, byte(u), byte(u>>8))
		}
	}
	return string(out)
}

// TestSheets holds how spreadsheets are read: titles and blank rows, merged cells, dates in their formats, formulas, truths, several
// sheets.
func TestSheets(t *testing.T) {
	dir := t.TempDir()
	var got strings.Builder
	for _, c := range sheetCases() {
		f := excelize.NewFile()
		for at, value := range c.cells {
			require.NoError(t, f.SetCellValue("Sheet1", at, value))
		}
		if c.change != nil {
			require.NoError(t, c.change(f))
		}
		path := filepath.Join(dir, strings.ReplaceAll(c.name, " ", "-")+".xlsx")
		require.NoError(t, f.SaveAs(path))
		require.NoError(t, f.Close())
		fmt.Fprintf(&got, "%s\n%s", c.name, seen(t, path, c.options))
		all, err := sample.WorkbookSheets(path)
		if err != nil {
			fmt.Fprintf(&got, "  no workbook: %s\n", strings.ReplaceAll(err.Error(), dir+"/", ""))
		}
		for _, s := range all {
			fmt.Fprintf(&got, "  sheet %v\n", s)
		}
	}
	gallerytest.Holds(t, "sheets.txt", got.String(), *update)
}

// workbooks are sheets that are otherwise in what is beside or behind their cells.
func workbooks(plain map[string]any, with func(map[string]any) map[string]any) []sheetCase {
	return []sheetCase{
		{name: "header row 2", cells: with(nil), options: sample.Options{HeaderRow: 2}},
		{name: "header row 9", cells: with(nil), options: sample.Options{HeaderRow: 9}},
		{name: "nothing", cells: nil},
		{name: "merged", cells: with(map[string]any{"C1": "of", "C2": "both"}),
			change: func(f *excelize.File) error { return f.MergeCell("Sheet1", "C2", "C3") }},
		{name: "merged title", cells: map[string]any{"A1": "Prices", "A2": "code", "B2": "n", "A3": "x", "B3": 2},
			change: func(f *excelize.File) error { return f.MergeCell("Sheet1", "A1", "B1") }},
		{name: "formula", cells: with(map[string]any{"C1": "twice"}), change: func(f *excelize.File) error {
			return f.SetCellFormula("Sheet1", "C2", "B2*2")
		}},
		{name: "second sheet", cells: plain, change: func(f *excelize.File) error {
			if _, err := f.NewSheet("More"); err != nil {
				return err
			}
			return f.SetCellValue("More", "A1", "k")
		}},
		{name: "named sheet", cells: plain, options: sample.Options{Sheet: "more"}, change: func(f *excelize.File) error {
			if _, err := f.NewSheet("More"); err != nil {
				return err
			}
			return f.SetSheetRow("More", "A1", &[]any{"k", "v"})
		}},
		{name: "unknown sheet", cells: plain, options: sample.Options{Sheet: "Shet1"}},
		{name: "text of a number", cells: with(map[string]any{"C1": "t", "C2": "12", "C3": "0012"})},
		{name: "error", cells: with(map[string]any{"C1": "e", "C2": "#DIV/0!", "C3": "#N/A"})},
		{name: "spaces", cells: with(map[string]any{"C1": " padded ", "C2": " x ", "C3": "  "})},
		{name: "lines", cells: with(map[string]any{"C1": "two\nlines", "C2": "x\ny"})},
	}
}

// formats are those of numbers, of which some are of dates.
func formats() map[string]excelize.Style {
	custom := func(format string) excelize.Style { return excelize.Style{CustomNumFmt: &format} }
	return map[string]excelize.Style{"built in 14": {NumFmt: 14}, "built in 17": {NumFmt: 17},
		"built in 22": {NumFmt: 22},
		"built in 20": {NumFmt: 20}, "built in 45": {NumFmt: 45}, "built in 27": {NumFmt: 27}, "built in 36": {NumFmt: 36},
		"built in 37": {NumFmt: 37}, "built in 47": {NumFmt: 47}, "built in 48": {NumFmt: 48}, "built in 9": {NumFmt: 9},
		"built in 2": {NumFmt: 2}, "custom day": custom("dd.mm.yyyy"), "custom number": custom(`0.00 "days"`),
		"custom colour": custom("[Red]0.00"), "custom elapsed": custom("[h]:mm"), "custom text": custom("@")}
}

type sheetCase struct {
	name    string
	cells   map[string]any
	change  func(f *excelize.File) error
	options sample.Options
}

func sheetCases() []sheetCase {
	day := time.Date(2031, 5, 6, 0, 0, 0, 0, time.UTC)
	plain := map[string]any{"A1": "code", "B1": "n", "A2": "007", "B2": 1.25, "A3": "b", "B3": 3, "A4": "c"}
	with := func(more map[string]any) map[string]any {
		out := map[string]any{}
		for _, m := range []map[string]any{plain, more} {
			for k, v := range m {
				out[k] = v
			}
		}
		return out
	}
	styled := func(style excelize.Style, cells ...string) func(*excelize.File) error {
		return func(f *excelize.File) error {
			id, err := f.NewStyle(&style)
			if err != nil {
				return err
			}
			for _, at := range cells {
				if err := f.SetCellStyle("Sheet1", at, at, id); err != nil {
					return err
				}
			}
			return nil
		}
	}
	out := []sheetCase{{name: "plain", cells: plain},
		{name: "a title", cells: map[string]any{"A1": "Prices of May", "A3": "code", "B3": "n", "A4": "x", "B4": 2}},
		{name: "blank rows", cells: map[string]any{"A1": "code", "B1": "n", "A3": "x", "B3": 2, "A6": "y", "B6": 3}},
		{name: "no name", cells: with(map[string]any{"C2": "odd"})},
		{name: "two of a name", cells: with(map[string]any{"C1": "n", "C2": 5, "D1": "N", "D3": 6})},
		{name: "truths", cells: with(map[string]any{"C1": "is", "C2": true, "C3": false})},
		{name: "days", cells: with(map[string]any{"C1": "day", "C2": day, "C3": day.Add(36 * time.Hour)})},
		{name: "mixed", cells: with(map[string]any{"C1": "any", "C2": 5, "C3": "five", "C4": day})},
		{name: "large numbers", cells: with(map[string]any{"C1": "id", "C2": 12345678901234, "C3": 0.1 + 0.2})},
	}
	out = append(out, workbooks(plain, with)...)
	for format, style := range formats() {
		out = append(out, sheetCase{name: "format " + format, cells: with(map[string]any{"C1": "v", "C2": 45678.25, "C3": 45679}),
			change: styled(style, "C2", "C3")})
	}
	slices.SortStableFunc(out, func(a, b sheetCase) int { return strings.Compare(a.name, b.name) })
	return out
}
