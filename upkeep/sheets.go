package upkeep

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/sheet"
	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/core/wording"
	"tovrel/dataset/sample"
	"tovrel/expect"
	"tovrel/trouble"
)

// SheetChange is what a spreadsheet changes of a question.
type SheetChange struct {
	Question string
	Changed  []string // columns, sorted; "new" alone for a new question
}

// FromSheets takes a spreadsheet in the form of an export over into golden sets: it gives the sets as they are then, and what changed.
// Problems stand at the rows of the file. It errs with source.Problems at the rows of the file that cannot be taken over, and takes
// nothing over then.
func FromSheets(file string, sheets []sample.WorkbookSheet, sets []*golden.Set, read expect.Tables) ([]*golden.Set, []SheetChange, error) {
	b := &bookImport{file: file, sheets: sheets, sets: sets, read: read}
	if err := b.run(); err != nil {
		return nil, nil, err
	}
	if len(b.problems) > 0 {
		return nil, nil, trouble.As(trouble.Unreadable, b.problems)
	}
	return b.sets, b.changes, nil
}

// bookImport takes a spreadsheet over into golden sets. Sets are parsed anew after each change.
type bookImport struct {
	file     string
	sheets   []sample.WorkbookSheet
	sets     []*golden.Set
	read     expect.Tables
	at       map[string]int // columns
	changes  []SheetChange
	problems source.Problems
}

func (b *bookImport) problem(row int, code, message, remedy string) {
	b.problems = append(b.problems, source.Problem{Position: source.Position{File: b.file, Line: row + 1}, Code: code,
		Severity: source.Error, Message: message, Remedy: remedy})
}

func (b *bookImport) run() error {
	questions := b.questions()
	if questions == nil {
		return trouble.New(trouble.Usage, "%s has no sheet of questions: its first row must name the columns %s", b.file,
			strings.Join(golden.SheetColumns(), ", "))
	}
	b.at = map[string]int{}
	for i, name := range questions.Rows[0] {
		if !slices.Contains(golden.SheetColumns(), name) {
			b.problem(0, "unknown-column", fmt.Sprintf("there is no column %q", name), near.Hint(name, golden.SheetColumns()))
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
	q := set.QuestionOf(id)
	if id == "" { // taken over before: the same words
		words := wording.Fold(sheet.Plain(cell("text")))
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
	b.changes = append(b.changes, SheetChange{Question: name + "/" + id, Changed: what})
	parsed, problems := golden.Parse(set.File, text)
	b.problems = append(b.problems, problems...)
	b.sets[at] = parsed
}

// added adds a question.
func (b *bookImport) added(set *golden.Set, id string, cell func(string) string) (text []byte, name string, err error) {
	words := sheet.Plain(cell("text"))
	if words == "" {
		return nil, id, fmt.Errorf("the question has no text")
	}
	if id == "" {
		id = set.FreeID(words)
	}
	n := golden.New{ID: id, Text: strings.Join(strings.Fields(words), " "),
		Answered: golden.Answered{Query: sheet.Plain(cell("reference_query"))}}
	n.Settings = append(n.Settings, golden.Setting{Key: "also-asked", Value: golden.List(lines(cell("also_asked")))},
		golden.Setting{Key: "tags", Value: golden.List(Listed(cell("tags")))})
	for column, key := range scalars {
		if v := sheet.Plain(cell(column)); v != "" && v != defaults[column] {
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
	reading := cell("reading")
	answer, err := q.ReadingOf(reading)
	if err != nil {
		return nil, nil, err
	}
	written, err := WrittenTable(b.read, set, answer)
	if err != nil {
		return nil, nil, err
	}
	before := golden.SheetCells(set, q, reading, answer)
	delete(before, "question")
	delete(before, "reading")
	var e golden.Edit
	for _, column := range slices.Sorted(maps.Keys(before)) {
		was := before[column]
		if _, has := b.at[column]; !has || unchanged(column, was, cell(column)) {
			continue
		}
		if reading != "" {
			return nil, nil, fmt.Errorf("%s of a reading is changed: do that in the golden set", column)
		}
		what = append(what, column)
		setColumn(&e, column, sheet.Plain(cell(column)))
	}
	if rows := b.table(cell("table")); rows != nil && written != nil && !sameCells(rows, written) {
		if reading != "" {
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

// unchanged tells a cell that holds what the export would write; a blank one stands for a default, and for what must not be blank.
func unchanged(column, was, now string) bool {
	return now == sheet.Harmless(was) || now == was || now == "" && (was == defaults[column] || needed[column])
}

// setColumn adds to an edit what a column says now.
func setColumn(e *golden.Edit, column, now string) {
	switch column {
	case "text":
		e.Text = strings.Join(strings.Fields(now), " ")
	case "also_asked":
		e.Settings = append(e.Settings, golden.Setting{Key: "also-asked", Value: golden.List(lines(now))})
	case "tags":
		e.Settings = append(e.Settings, golden.Setting{Key: "tags", Value: golden.List(Listed(now))})
	case "reference_query":
		e.Query = now
	default:
		if now == defaults[column] {
			now = ""
		}
		e.Settings = append(e.Settings, golden.Setting{Key: scalars[column], Value: now})
	}
}

// table finds the sheet of an expected table; nil for none.
func (b *bookImport) table(title string) [][]string {
	if title == "" {
		return nil
	}
	wanted := sheet.Name(title, nil)
	for _, s := range b.sheets {
		if strings.EqualFold(s.Name, wanted) && len(s.Rows) > 0 {
			return s.Rows
		}
	}
	return nil
}

func lines(cell string) []string { return nonEmpty(strings.Split(sheet.Plain(cell), "\n")) }

// Listed are the parts of a list that is written with commas.
func Listed(cell string) []string { return nonEmpty(strings.Split(sheet.Plain(cell), ",")) }

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
func sameCells(rows [][]string, t *table.Table) bool {
	if len(rows) != t.Rows()+1 || len(rows[0]) != len(t.Columns) {
		return false
	}
	for i, c := range t.Columns {
		if rows[0][i] != sheet.Harmless(c.Name) {
			return false
		}
		for r := range t.Rows() {
			now, was := "", ""
			if i < len(rows[r+1]) {
				now = rows[r+1][i]
			}
			if v := c.Value(r); !v.IsNull() {
				was = v.String()
			}
			if !sameCell(now, was) {
				return false
			}
		}
	}
	return true
}

// sameCell tells whether a cell of a sheet is what was written there; spreadsheets write numbers anew.
func sameCell(now, was string) bool {
	if now == was || now == sheet.Harmless(was) {
		return true
	}
	x, errX := strconv.ParseFloat(now, 64)
	y, errY := strconv.ParseFloat(was, 64)
	return errX == nil && errY == nil && x == y
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
				one[i] = table.Cell{Text: sheet.Plain(row[i])}
			}
		}
		cells = append(cells, one)
	}
	for i, name := range names {
		names[i] = sheet.Plain(name)
	}
	t, err := table.FromRows(names, cells)
	if err != nil {
		return "", err
	}
	return golden.FormatTable(t)
}

// WrittenTable is an answer's table as it is written; nil for one that is computed. It errs as expect.Written does.
func WrittenTable(read expect.Tables, s *golden.Set, answer golden.Answer) (*table.Table, error) {
	if answer.Table == nil && answer.File == "" {
		return nil, nil
	}
	return expect.Written(read, s, answer)
}
