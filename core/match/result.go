package match

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Remark is a harmless difference that a right answer shows.
type Remark string

// The remarks that the tables show.
const (
	ExtraColumn Remark = "extra-column"
	Rounded     Remark = "rounded"
	Reordered   Remark = "reordered"
	Renamed     Remark = "renamed"
	Relabelled  Remark = "relabelled"
	Rescaled    Remark = "rescaled"
	Reformatted Remark = "reformatted"
	Crosstab    Remark = "crosstab"
	Tied        Remark = "tied"
	Empty       Remark = "empty"
	TotalRow    Remark = "total-row"
)

// ColumnPair is an expected column with the answer column that stands for it; Answer is -1 for none.
type ColumnPair struct {
	Expected int `json:"Expected"`
	Answer   int `json:"Answer"`
	How      How `json:"How"`
}

// Cell is a place where a pair of rows differs. Rows and columns count from 0.
type Cell struct {
	ExpectedRow, AnswerRow int
	Column                 int // of the expected table
	Expected, Answer       value.Value
}

// Result is the judgement with everything that led to it.
type Result struct {
	Tables    Tables // what was compared: a crosstab in its long form, the rows chosen among tied ones
	Matched   bool
	Why       string   // the rule that decided, in words
	Closeness *float64 // cell F1 under the alignment; nil where there was nothing to score
	Remarks   []Remark // only where Matched
	Faults    []fault.Fault
	Notes     []string // bounds that were hit
	Columns   []ColumnPair
	Extra     []int  // answer columns that nothing was expected of
	AnswerOf  []int  // answer row of each expected row, equal or nearest; -1 for none
	Cells     []Cell // all differing cells of paired rows, by expected row and column
	Missing   []int  // expected rows without a counterpart
	ExtraRows []int
	NeedsLook bool // it does not match, and would where columns were taken by content that too little speaks for
}

// Tables are an expected and an answer table.
type Tables struct {
	Expected, Answer *table.Table
}

// addRemark adds a remark to a right answer.
func (r *Result) addRemark(remark Remark) {
	r.Remarks = append(r.Remarks, remark)
	slices.Sort(r.Remarks)
	r.Why = why(*r)
}

// judge sums up the best alignment.
func (m *matcher) judge(a alignment) Result {
	rowsMatch := a.outcome.complete() || m.blankForEmpty(a)
	remarks := m.remarks(a)
	if a.outcome.bounded {
		m.note(fmt.Sprintf("rows: more than %d rows cannot be told apart by exact columns; they were paired in order", maxGroup))
	}
	if !rowsMatch {
		a.outcome.pairNearest(m)
	}
	if rowsMatch && !a.outcome.complete() { // a blank row for none: nothing is left over
		a.outcome = &outcome{comparers: a.outcome.comparers}
	}
	r := Result{Tables: Tables{m.expected, m.answer}, AnswerOf: a.outcome.answerOf, Missing: a.outcome.missing, ExtraRows: a.outcome.extra}
	for i, j := range a.to {
		r.Columns = append(r.Columns, ColumnPair{i, j, a.how[i]})
	}
	r.Extra = m.extraColumns(a)
	r.Cells = m.cells(a)
	m.judgeColumns(&r)
	if rowsMatch && len(r.Faults) == 0 {
		wrong, reordered := m.judgeOrder(a)
		if wrong != "" {
			r.Faults = append(r.Faults, fault.Fault{Code: fault.WrongOrder, Certainty: fault.Proved, Evidence: wrong})
		} else if reordered {
			remarks = append(remarks, Reordered)
		}
	}
	r.Closeness = m.closeness(a, r)
	r.Matched = rowsMatch && len(r.Faults) == 0
	if r.Matched {
		slices.Sort(remarks)
		r.Remarks = remarks
	}
	r.Why, r.Notes = why(r), append(columnNotes("expected", m.expected), append(columnNotes("answer", m.answer), m.notes...)...)
	return r
}

// columnNotes are what a reader should know of a table's columns.
func columnNotes(side string, t *table.Table) []string {
	var out []string
	for _, c := range t.Columns {
		if c.Note != "" {
			out = append(out, side+": "+c.Note)
		}
	}
	return out
}

// blankForEmpty tells whether one row of nulls stands for no row, or the reverse, as `null: blank` allows.
func (m *matcher) blankForEmpty(a alignment) bool {
	if m.rules.get("null").Value != "blank" || a.open() > 0 {
		return false
	}
	return m.expected.Rows() == 0 && blankRow(m.answer) || m.answer.Rows() == 0 && blankRow(m.expected)
}

func blankRow(t *table.Table) bool {
	if t.Rows() != 1 {
		return false
	}
	for _, c := range t.Columns {
		if !c.IsNull(0) && strings.TrimSpace(c.Value(0).String()) != "" {
			return false
		}
	}
	return true
}

// judgeColumns finds the faults that the columns alone show.
func (m *matcher) judgeColumns(r *Result) {
	add := func(code fault.Code, evidence string) {
		r.Faults = append(r.Faults, fault.Fault{Code: code, Certainty: fault.Proved, Evidence: evidence})
	}
	var missing, measures []string
	for _, p := range r.Columns {
		if p.Answer < 0 {
			missing = append(missing, m.expected.Columns[p.Expected].Name)
		}
	}
	if len(missing) > 0 {
		add(fault.ColumnMissing, fmt.Sprintf("the answer has no column for %s", strings.Join(missing, ", ")))
	}
	if m.swap[0] != "" {
		add(fault.ColumnsSwapped, fmt.Sprintf("%s and %s hold each other's values", m.swap[0], m.swap[1]))
	}
	for _, j := range r.Extra {
		if m.answer.Columns[j].Type.Kind.Number() {
			measures = append(measures, m.answer.Columns[j].Name)
		}
	}
	switch {
	case len(r.Extra) > 0 && m.rules.get("extra-columns").Value == "wrong":
		add(fault.ColumnForbidden, "the rules allow no extra columns, and the answer has "+strings.Join(m.answerNames(r.Extra), ", "))
	case len(measures) > len(m.expected.Columns):
		add(fault.ColumnForbidden, fmt.Sprintf("%d extra measures stand beside %d asked columns: %s",
			len(measures), len(m.expected.Columns), strings.Join(measures, ", ")))
	}
}

func (m *matcher) answerNames(columns []int) []string {
	var out []string
	for _, j := range columns {
		out = append(out, m.answer.Columns[j].Name)
	}
	return out
}

func (m *matcher) extraColumns(a alignment) []int {
	taken := map[int]bool{}
	for _, j := range a.to {
		taken[j] = true
	}
	var extra []int
	for j := range m.answer.Columns {
		if !taken[j] {
			extra = append(extra, j)
		}
	}
	return extra
}

// remarks are the harmless differences of an alignment; the order's is added when it is judged.
func (m *matcher) remarks(a alignment) []Remark {
	var remarks []Remark
	found := map[Remark]bool{ExtraColumn: len(m.extraColumns(a)) > 0, Empty: m.expected.Rows() == 0}
	for i, j := range a.to {
		if j < 0 {
			continue
		}
		e, c := m.expected.Columns[i].Name, m.answer.Columns[j].Name
		found[Renamed] = found[Renamed] || fold(e) != fold(c) && !m.synonymous(e, c)
		found[a.outcome.comparers[i].remark] = true
		found[Rounded] = found[Rounded] || a.outcome.comparers[i].mode == answerRounded
	}
	delete(found, "")
	for remark, holds := range found {
		if holds {
			remarks = append(remarks, remark)
		}
	}
	return remarks
}

func (m *matcher) cells(a alignment) []Cell {
	var cells []Cell
	for _, i := range a.outcome.nearest {
		j := a.outcome.answerOf[i]
		for column, c := range a.outcome.comparers {
			if c != nil && !c.equal(i, j) {
				cells = append(cells, Cell{i, j, column, m.expected.Columns[column].Value(i), m.answer.Columns[a.to[column]].Value(j)})
			}
		}
	}
	return cells
}

// closeness is the F1 of cells: twice the equal cells by all cells of both tables. Extra columns count only where the
// rules refuse them.
//
// Source: van Rijsbergen, Information retrieval, 1979, chapter 7, with precision and recall alike.
func (m *matcher) closeness(a alignment, r Result) *float64 {
	if r.AnswerOf == nil { // a blank row for none
		return nil
	}
	aligned := 0
	for _, j := range a.to {
		if j >= 0 {
			aligned++
		}
	}
	paired := len(r.AnswerOf) - len(r.Missing)
	equal := paired*aligned - len(r.Cells)
	answerColumns := aligned
	for _, f := range r.Faults {
		if f.Code == fault.ColumnForbidden {
			answerColumns = len(m.answer.Columns)
		}
	}
	answerRows := m.answer.Rows()
	if a.outcome.forgive {
		answerRows = paired
	}
	all := m.expected.Rows()*len(m.expected.Columns) + answerRows*answerColumns
	if all == 0 {
		return nil
	}
	f1 := 2 * float64(equal) / float64(all)
	return &f1
}

// why puts into words what decided.
func why(r Result) string {
	switch {
	case r.Matched && len(r.Remarks) == 0:
		return "every row has its equal"
	case r.Matched:
		return "every row has its equal, with harmless differences"
	case len(r.Faults) > 0:
		return r.Faults[0].Evidence
	}
	var parts []string
	if n := len(r.Cells); n > 0 {
		parts = append(parts, plural(n, "cell differs", "cells differ"))
	}
	if n := len(r.Missing); n > 0 {
		parts = append(parts, plural(n, "row is missing", "rows are missing"))
	}
	if n := len(r.ExtraRows); n > 0 {
		parts = append(parts, plural(n, "row is extra", "rows are extra"))
	}
	return strings.Join(parts, ", ")
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
