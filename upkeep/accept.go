package upkeep

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"path/filepath"

	"tovrel/core/golden"
	"tovrel/core/table"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/workspace"
)

// Acceptance is what accepting an answer into a golden set writes.
type Acceptance struct {
	Answered golden.Answered
	Title    string // of the reading; "" where the answer is replaced
	Rows     *table.Table
	File     string // of a large answer, beside the set; "" for none
	text     []byte // of the whole document
}

// Accepting says how an answer is accepted.
type Accepting struct {
	Query      string // that gives it; "" for a table that came
	Rows       *table.Table
	Run        int    // in which it was given
	Translator string // that gave it
	Title      string // of the new reading; "" for one that names the translator
	By         string // who accepts it
	On         string // the day, as 2031-06-30
	Replace    bool   // it becomes the expected answer
}

// FitsDocument is up to how many rows an answer stands in the document itself.
const FitsDocument = 40

// Accept writes an answer into a copy of a question's document. The error says why the document cannot take it.
func Accept(c workspace.Chosen, what Accepting) (Acceptance, error) {
	out := Acceptance{Rows: what.Rows, Answered: golden.Answered{Query: what.Query,
		Accepted: fmt.Sprintf("{run: %d, date: %s, by: %q}", what.Run, what.On, what.By)}}
	var err error
	if c.Question.Base != nil {
		return out, trouble.New(trouble.Usage, "%s is asked for %d combinations of for:, and this answer is one of them; write it under "+
			"a heading of its own in %s, such as ### For role north", c.Question.Base.ID, len(c.Question.Base.Variants()), c.Set.File)
	}
	if out.Rows.Rows() > FitsDocument {
		out.File = filepath.ToSlash(filepath.Join("answers", fmt.Sprintf("%s-run%d.csv", c.Question.ID, what.Run)))
		out.Answered.File = out.File
	} else if out.Answered.Table, err = golden.FormatTable(out.Rows); err != nil {
		return out, trouble.New(trouble.Usage, "%s: %w", c.Name(), err)
	}
	if what.Replace {
		out.text, err = c.Set.ReplaceAnswer(c.Question, out.Answered)
	} else {
		out.Title = readingTitle(c.Question, what.Title, what.Translator)
		out.text, err = c.Set.AddReading(c.Question, out.Title, out.Answered)
	}
	if err != nil {
		return out, trouble.New(trouble.Usage, "%s cannot take the answer: %w", c.Set.File, err)
	}
	return out, nil
}

// readingTitle is a title that no other reading of the question has.
func readingTitle(q *golden.Question, wanted, translator string) string {
	if wanted == "" {
		wanted = "as " + translator + " answered"
	}
	used := map[string]bool{}
	for _, r := range q.Readings {
		used[r.Title] = true
	}
	title := wanted
	for n := 2; used[title]; n++ {
		title = fmt.Sprintf("%s, %d", wanted, n)
	}
	return title
}

// Changes are the files to write: the document, and a large answer beside it. It errs where the rows have no form as CSV.
func (a Acceptance) Changes(w *workspace.Workspace, set *golden.Set) ([]files.Change, error) {
	var changes []files.Change
	if a.File != "" {
		text, err := TableCSV(a.Rows)
		if err != nil {
			return nil, err
		}
		changes = append(changes, files.Change{Path: w.ExpectedPath(set, golden.Answer{File: a.File}), Text: text})
	}
	return append(changes, w.SetFile(set, a.text)), nil
}

// TableCSV is an answer as CSV, at full precision, in the words that golden tables have for nulls. It errs where the rows have no form
// as CSV.
func TableCSV(t *table.Table) ([]byte, error) {
	var b bytes.Buffer
	err := writeTable(&b, t)
	return b.Bytes(), err
}

func writeTable(w io.Writer, t *table.Table) error {
	c := csv.NewWriter(w)
	names := make([]string, len(t.Columns))
	for i, column := range t.Columns {
		names[i] = column.Name
	}
	records := [][]string{names}
	for row := range t.Rows() {
		record := make([]string, len(t.Columns))
		for i, column := range t.Columns {
			record[i] = "NULL"
			if v := column.Value(row); !v.IsNull() {
				record[i] = v.String()
			}
		}
		records = append(records, record)
	}
	return c.WriteAll(records)
}
