package cli

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/core/wording"
	"tovrel/dataset/sample"
	"tovrel/expect"
	"tovrel/files"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newSetImportCmd(a *app) *cobra.Command {
	var dryRun bool
	cmd := &cobra.Command{
		Use: "import FILE", Short: "Take changes and new questions over from a spreadsheet that `set export` wrote", Args: usage(cobra.ExactArgs(1)),
		Long: "Reads an .xlsx or .csv file in the form of `tovrel set export`: what differs from the golden sets is written into them, and nothing\nelse; a file that was not changed changes nothing. A row whose question is a set's name, or a name that the set does not have, is a\nnew question; without a reference query and a table it is a draft. A question that the file lacks stays.",
		RunE: func(_ *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			return a.setImport(w, args[0], dryRun)
		},
	}
	cmd.Flags().BoolVar(&dryRun, "dry-run", false, "only show what would change")
	return cmd
}

func (a *app) setImport(w *workspace.Workspace, path string, dryRun bool) error {
	sheets, err := sample.WorkbookSheets(path)
	if err != nil {
		return trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	sets, err := a.sets(w, nil)
	if err != nil {
		return err
	}
	b := &bookImport{file: path, sheets: sheets, sets: sets, read: expectedFiles(w)}
	if err := b.run(); err != nil {
		return err
	}
	if len(b.problems) > 0 {
		return trouble.As(trouble.Unreadable, b.problems)
	}
	if !dryRun {
		var changes []files.Change
		for i, s := range sets {
			if string(b.sets[i].Text()) != string(s.Text()) {
				changes = append(changes, w.SetFile(s, b.sets[i].Text()))
			}
		}
		if err := files.WriteAll(changes); err != nil {
			return err
		}
	}
	return a.show(view.Imported(b.changes, dryRun))
}

// bookImport takes a spreadsheet over into golden sets. Sets are parsed anew after each change.
type bookImport struct {
	file     string
	sheets   []sample.WorkbookSheet
	sets     []*golden.Set
	read     expect.Tables
	at       map[string]int // columns
	changes  []view.ImportChange
	problems source.Problems
}

func (b *bookImport) problem(row int, code, message, remedy string) {
	b.problems = append(b.problems, source.Problem{Position: source.Position{File: b.file, Line: row + 1}, Code: code, Severity: source.Error, Message: message, Remedy: remedy})
}

func (b *bookImport) run() error {
	questions := b.questions()
	if questions == nil {
		return trouble.New(trouble.Usage, "%s has no sheet of questions: its first row must name the columns %s", b.file, strings.Join(view.SheetColumns(), ", "))
	}
	b.at = map[string]int{}
	for i, name := range questions.Rows[0] {
		if !slices.Contains(view.SheetColumns(), name) {
			b.problem(0, "unknown-column", fmt.Sprintf("there is no column %q", name), near.Hint(name, view.SheetColumns()))
		}
		b.at[name] = i
	}
	b.sets = slices.Clone(b.sets)
	for i, row := range questions.Rows[1:] {
		if strings.TrimSpace(strings.Join(row, "")) != "" && len(b.problems) == 0 {
			b.row(i+1, row)
		}
	}
	return nil
}

// questions is the sheet whose header names questions.
func (b *bookImport) questions() *sample.WorkbookSheet {
	for i, s := range b.sheets {
		if len(s.Rows) > 0 && slices.Contains(s.Rows[0], "question") && slices.Contains(s.Rows[0], "text") {
			return &b.sheets[i]
		}
	}
	return nil
}

// row takes over one row.
func (b *bookImport) row(number int, row []string) {
	cell := func(name string) string {
		if i, has := b.at[name]; has && i < len(row) {
			return row[i]
		}
		return ""
	}
	name, id, _ := strings.Cut(cell("question"), "/")
	at := slices.IndexFunc(b.sets, func(s *golden.Set) bool { return s.Name == name })
	if at < 0 {
		var names []string
		for _, s := range b.sets {
			names = append(names, s.Name)
		}
		b.problem(number, "unknown-set", fmt.Sprintf("there is no golden set %q", name), near.Hint(name, names))
		return
	}
	set := b.sets[at]
	q := questionOf(set, id)
	if id == "" { // taken over before: the same words
		words := wording.Fold(plainText(cell("text")))
		if i := slices.IndexFunc(set.All(), func(q *golden.Question) bool { return wording.Fold(q.Text) == words }); i >= 0 {
			q = set.All()[i]
			id = q.ID
		}
	}
	var text []byte
	var what []string
	var err error
	switch {
	case q == nil && cell("reading") == "":
		what = []string{"new"}
		text, id, err = b.added(set, id, cell)
	case q == nil:
		err = fmt.Errorf("it is a reading of a question that is not there")
	default:
		text, what, err = b.edited(set, q, cell)
	}
	if err != nil {
		b.problem(number, "not-taken-over", fmt.Sprintf("%s/%s: %v", name, id, err), "correct the row, or change the golden set by hand")
		return
	}
	if len(what) == 0 {
		return
	}
	b.changes = append(b.changes, view.ImportChange{Question: name + "/" + id, Changed: what})
	parsed, problems := golden.Parse(set.File, text)
	b.problems = append(b.problems, problems...)
	b.sets[at] = parsed
}

func questionOf(set *golden.Set, id string) *golden.Question {
	for _, q := range set.All() {
		if q.ID == id {
			return q
		}
	}
	return nil
}

// added adds a question.
func (b *bookImport) added(set *golden.Set, id string, cell func(string) string) (text []byte, name string, err error) {
	words := plainText(cell("text"))
	if words == "" {
		return nil, id, fmt.Errorf("the question has no text")
	}
	if id == "" {
		id = set.FreeID(words)
	}
	n := golden.New{ID: id, Text: strings.Join(strings.Fields(words), " "), Answered: golden.Answered{Query: plainText(cell("reference_query"))}}
	n.Settings = append(n.Settings, golden.Setting{Key: "also-asked", Value: golden.List(lines(cell("also_asked")))}, golden.Setting{Key: "tags", Value: golden.List(commas(cell("tags")))})
	for column, key := range scalars {
		if v := plainText(cell(column)); v != "" && v != defaults[column] {
			n.Settings = append(n.Settings, golden.Setting{Key: key, Value: v})
		}
	}
	if rows := b.table(cell("table")); rows != nil {
		if n.Table, err = tableText(rows); err != nil {
			return nil, id, err
		}
	}
	if n.Query == "" && n.Table == "" && (cell("expect") == "" || cell("expect") == string(golden.ExpectAnswer)) {
		n.Settings = append(n.Settings, golden.Setting{Key: "draft", Value: "true"})
	}
	slices.SortStableFunc(n.Settings, func(x, y golden.Setting) int { return strings.Compare(x.Key, y.Key) })
	text, err = set.Add(n)
	return text, id, err
}

// scalars are the columns of plain settings, and the keys that they are; defaults are the values that need not be written.
var (
	scalars  = map[string]string{"difficulty": "difficulty", "weight": "weight", "expect": "expect"}
	needed   = map[string]bool{"text": true, "reference_query": true} // blank, they stay as they are
	defaults = map[string]string{"weight": "1", "expect": "answer"}
)

// edited changes what differs from what the export would write.
func (b *bookImport) edited(set *golden.Set, q *golden.Question, cell func(string) string) (text []byte, what []string, err error) {
	row, err := view.SheetRow(set, q, cell("reading"), func(a golden.Answer) (*table.Table, error) { return writtenTable(b.read, set, a) })
	if err != nil {
		return nil, nil, err
	}
	var e golden.Edit
	for _, column := range slices.Sorted(maps.Keys(row.Cells)) {
		was := row.Cells[column]
		if _, has := b.at[column]; !has || cell(column) == render.Harmless(was) || cell(column) == was || cell(column) == "" && (was == defaults[column] || needed[column]) {
			continue
		}
		if row.Reading {
			return nil, nil, fmt.Errorf("%s of a reading is changed: do that in the golden set", column)
		}
		what = append(what, column)
		now := plainText(cell(column))
		switch column {
		case "text":
			e.Text = strings.Join(strings.Fields(now), " ")
		case "also_asked":
			e.Settings = append(e.Settings, golden.Setting{Key: "also-asked", Value: golden.List(lines(now))})
		case "tags":
			e.Settings = append(e.Settings, golden.Setting{Key: "tags", Value: golden.List(commas(now))})
		case "reference_query":
			e.Query = now
		default:
			if now == defaults[column] {
				now = ""
			}
			e.Settings = append(e.Settings, golden.Setting{Key: scalars[column], Value: now})
		}
	}
	if rows := b.table(cell("table")); rows != nil && row.Table != nil && !sameCells(rows, row.Table) {
		if row.Reading {
			return nil, nil, fmt.Errorf("the table of a reading is changed: do that in the golden set")
		}
		what = append(what, "table")
		if e.Table, err = tableText(rows); err != nil {
			return nil, nil, err
		}
	}
	slices.Sort(what)
	slices.SortFunc(e.Settings, func(x, y golden.Setting) int { return strings.Compare(x.Key, y.Key) })
	if len(what) == 0 {
		return nil, nil, nil
	}
	text, err = set.EditQuestion(q, e)
	return text, what, err
}

// table finds the sheet of an expected table; nil for none.
func (b *bookImport) table(title string) [][]string {
	if title == "" {
		return nil
	}
	wanted := render.SheetName(title)
	for _, s := range b.sheets {
		if strings.EqualFold(s.Name, wanted) && len(s.Rows) > 0 {
			return s.Rows
		}
	}
	return nil
}

// plainText undoes what keeps a text from being taken for a formula.
func plainText(cell string) string {
	if strings.HasPrefix(cell, "'") && render.Harmless(cell[1:]) == cell {
		return strings.TrimSpace(cell[1:])
	}
	return strings.TrimSpace(cell)
}

func lines(cell string) []string { return nonEmpty(strings.Split(plainText(cell), "\n")) }

func commas(cell string) []string { return nonEmpty(strings.Split(plainText(cell), ",")) }

func nonEmpty(parts []string) []string {
	var out []string
	for _, p := range parts {
		if p = strings.TrimSpace(p); p != "" {
			out = append(out, p)
		}
	}
	return out
}

// sameCells tells whether a sheet holds what the export of a table would.
func sameCells(rows [][]string, g *view.Grid) bool {
	if len(rows) != len(g.Rows)+1 {
		return false
	}
	at := func(row []string, i int) string {
		if i < len(row) {
			return row[i]
		}
		return ""
	}
	for i, c := range g.Columns {
		if at(rows[0], i) != render.Harmless(c.Name) {
			return false
		}
		for r, cells := range g.Rows {
			now, was := at(rows[r+1], i), cells[i].Text
			x, errX := strconv.ParseFloat(now, 64)
			y, errY := strconv.ParseFloat(was, 64)
			if now != render.Harmless(was) && now != was && !(errX == nil && errY == nil && x == y) {
				return false
			}
		}
	}
	return len(rows[0]) == len(g.Columns)
}

// tableText is a changed sheet as a golden table; a blank cell is null.
func tableText(rows [][]string) (string, error) {
	names := rows[0]
	var cells [][]table.Cell
	for _, row := range rows[1:] {
		one := make([]table.Cell, len(names))
		for i := range names {
			one[i] = table.Cell{Null: true}
			if i < len(row) && row[i] != "" {
				one[i] = table.Cell{Text: plainText(row[i])}
			}
		}
		cells = append(cells, one)
	}
	for i, name := range names {
		names[i] = plainText(name)
	}
	t, err := table.FromRows(names, cells)
	if err != nil {
		return "", err
	}
	return golden.FormatTable(t)
}

// writtenTable is an answer's table as it is written; nil for one that is computed.
func writtenTable(read expect.Tables, s *golden.Set, answer golden.Answer) (*table.Table, error) {
	if answer.Table == nil && answer.File == "" {
		return nil, nil
	}
	return expect.Written(read, s, answer)
}
