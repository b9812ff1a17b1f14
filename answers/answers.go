// Package answers reads answers that somebody copied from a tool that cannot be connected: a CSV file or a spreadsheet with a row for each
// answer, or with a sheet for each. It asks and judges nothing.
//
// Errors are of kind trouble.Unreadable and name the file and the row.
package answers

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/wording"
	"tovrel/dataset/sample"
	"tovrel/trouble"
)

// Answer is one copied answer.
type Answer struct {
	Question string // id, set/id, or the wording
	Line     int    // row of the file; 0 where a sheet is the answer
	Reply    json.RawMessage
	Latency  time.Duration // 0 where it is not known
}

// Readable tells whether a file is one of answers by its ending.
func Readable(path string) bool {
	return slices.Contains([]string{".csv", ".xlsx"}, strings.ToLower(filepath.Ext(path)))
}

// columns are those of a list of answers.
var columns = []string{"question", "query", "table", "text", "latency_ms", "cost", "model"}

// Read reads answers; name is how messages call the file. Tables that a row names are read from beside the file.
func Read(ctx context.Context, name, path string) ([]Answer, error) {
	sheets, err := sample.WorkbookSheets(path)
	if err != nil {
		var pathError *os.PathError
		if errors.As(err, &pathError) {
			err = pathError.Err
		}
		return nil, trouble.New(trouble.Unreadable, "the answers %s cannot be read: %w", name, err)
	}
	r := reader{ctx: ctx, name: name, path: path}
	at := slices.IndexFunc(sheets, func(s sample.WorkbookSheet) bool { return len(s.Rows) > 0 && has(s.Rows[0], "question") })
	switch {
	case at >= 0:
		r.list(sheets[at].Rows)
	case len(sheets) > 0 && sheets[0].Name != "":
		r.sheets(sheets)
	default:
		r.problem(1, "no row names the columns", "begin with a row of "+strings.Join(columns, ", ")+"; question and one of query, table "+
			"and text are needed")
	}
	if len(r.problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, r.problems)
	}
	if len(r.answers) == 0 {
		return nil, trouble.New(trouble.Unreadable, "%s holds no answer", name)
	}
	return r.answers, nil
}

func has(row []string, name string) bool {
	return slices.ContainsFunc(row, func(cell string) bool { return strings.EqualFold(strings.TrimSpace(cell), name) })
}

type reader struct {
	ctx        context.Context
	name, path string
	answers    []Answer
	problems   source.Problems
}

func (r *reader) problem(line int, message, remedy string) {
	r.problems = append(r.problems, source.Problem{Position: source.Position{File: r.name, Line: line}, Code: "copied-answer",
		Severity: source.Error, Message: message, Remedy: remedy})
}

// list reads a row for each answer.
func (r *reader) list(rows [][]string) {
	at := map[string]int{}
	for i, cell := range rows[0] {
		name := strings.ToLower(strings.TrimSpace(cell))
		switch _, twice := at[name]; {
		case name == "":
		case !slices.Contains(columns, name):
			r.problem(1, fmt.Sprintf("there is no column %q", cell), near.Hint(name, columns))
		case twice:
			r.problem(1, fmt.Sprintf("the column %s is there twice", name), "keep one of them")
		default:
			at[name] = i
		}
	}
	seen := map[string]int{}
	for i, row := range rows[1:] {
		line := i + 2
		cell := func(name string) string {
			if c, known := at[name]; known && c < len(row) {
				return strings.TrimSpace(row[c])
			}
			return ""
		}
		question := cell("question")
		if len(row) > len(rows[0]) && strings.TrimSpace(strings.Join(row[len(rows[0]):], "")) != "" {
			r.problem(line, fmt.Sprintf("the row has %d cells, and %d columns are named", len(row), len(rows[0])),
				"put texts that hold a comma in quotes")
			continue
		}
		if question == "" {
			if strings.TrimSpace(strings.Join(row, "")) != "" {
				r.problem(line, "the row names no question", "write its id, such as set/question, or its wording")
			}
			continue
		}
		if before := seen[wording.Fold(question)]; before > 0 {
			r.problem(line, fmt.Sprintf("%q is answered in row %d already", question, before), "keep one of them")
		}
		seen[wording.Fold(question)] = line
		r.answer(question, line, cell)
	}
}

// answer reads one row.
func (r *reader) answer(question string, line int, cell func(name string) string) {
	reply := map[string]any{}
	for _, key := range []string{"query", "text", "model"} {
		if said := cell(key); said != "" {
			reply[key] = said
		}
	}
	if ref := cell("table"); ref != "" {
		t, err := r.table(ref)
		if err != nil {
			r.problem(line, err.Error(), "name a sheet (Answers2), a range (Sheet1!A3:D20), or a file beside this one")
			return
		}
		reply["table"] = t
	}
	if reply["query"] == nil && reply["text"] == nil && reply["table"] == nil {
		r.problem(line, "the row has no answer", "fill in query, table or text; leave the row out where the tool was not asked")
		return
	}
	if text := cell("cost"); text != "" {
		cost, err := strconv.ParseFloat(text, 64)
		if err != nil || cost < 0 {
			r.problem(line, fmt.Sprintf("the cost %q is no amount of money", text), "write it as 0.004")
			return
		}
		reply["usage"] = map[string]any{"cost": cost}
	}
	a := Answer{Question: question, Line: line}
	if text := cell("latency_ms"); text != "" {
		ms, err := strconv.ParseFloat(text, 64)
		if err != nil || ms < 0 || ms > float64(24*time.Hour/time.Millisecond) {
			r.problem(line, fmt.Sprintf("the latency %q is no number of milliseconds", text), "write it as 1200")
			return
		}
		a.Latency = time.Duration(ms * float64(time.Millisecond))
	}
	a.Reply, _ = json.Marshal(reply) // texts, numbers and JSON always encode
	r.answers = append(r.answers, a)
}

// sheets takes each sheet for the answer table of the question that it is named after.
func (r *reader) sheets(sheets []sample.WorkbookSheet) {
	for _, s := range sheets {
		if len(s.Rows) == 0 {
			continue
		}
		t, err := r.table(s.Name)
		if err != nil {
			r.problem(0, fmt.Sprintf("the sheet %s: %v", s.Name, err), "begin it with a row of column names")
			continue
		}
		reply, _ := json.Marshal(map[string]any{"table": t}) // JSON always encodes
		r.answers = append(r.answers, Answer{Question: s.Name, Reply: reply})
	}
}

// table reads the table that a cell names: a sheet or a range of the same workbook, or a file beside it, which may name a sheet too.
func (r *reader) table(ref string) (json.RawMessage, error) {
	path := r.path + "#" + ref
	file, _, _ := strings.Cut(ref, "#")
	if sample.Readable(file) {
		path = filepath.Join(filepath.Dir(r.path), ref)
	} else if !strings.EqualFold(filepath.Ext(r.path), ".xlsx") {
		return nil, fmt.Errorf("%s is no file with a table", ref)
	}
	t, _, err := sample.Plain(r.ctx, path)
	if err != nil {
		return nil, err
	}
	body, err := t.MarshalJSON()
	return body, err
}
