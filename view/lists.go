package view

import (
	"fmt"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/source"
	"tovrel/core/table"
)

// Dataset is one row of the list of datasets.
type Dataset struct {
	Name        string          `json:"name"`
	State       string          `json:"state"`
	Fingerprint string          `json:"fingerprint"`
	AsOf        string          `json:"as_of"`
	Tables      []DatasetTable  `json:"tables"`
	Changes     []DatasetChange `json:"changes,omitempty"`
	Problem     string          `json:"problem,omitempty"`
}

// DatasetChange is how a table differs from its frozen copy; Table is "" for the dataset itself.
type DatasetChange struct {
	Table string `json:"table"`
	What  string `json:"what"`
	Gone  int64  `json:"rows_gone"`
	Added int64  `json:"rows_added"`
}

// DatasetTable is one table of a dataset; Rows is -1 where it is not frozen.
type DatasetTable struct {
	Name    string             `json:"name"`
	File    string             `json:"file"`
	Rows    int64              `json:"rows"`
	Columns []table.ColumnHead `json:"columns"`
}

type datasetsForm struct {
	Datasets []Dataset `json:"datasets"`
}

// Datasets shows datasets with their tables and how they stand.
func Datasets(datasets []Dataset) Screen {
	g, exact := datasetGrid(datasets, true), datasetGrid(datasets, false)
	g.Main, g.Exact = true, func() *Grid { return exact }
	screen := Screen{Data: datasetsForm{append([]Dataset{}, datasets...)}, Parts: []Part{{Grid: g}}}
	unfrozen := 0
	for _, d := range datasets {
		if d.State != "frozen" && d.State != "live" {
			unfrozen++
		}
		if d.Problem != "" {
			screen.Parts = append(screen.Parts, Part{Lines: []Text{{Tone: Wrong, Text: d.Problem}}})
		}
		if len(d.Changes) > 0 {
			screen.Parts = append(screen.Parts, Part{Title: "Changed since " + d.Name + " was frozen", Grid: changesGrid(d.Changes)})
		}
	}
	screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("%s, %d of them frozen as the files are now.",
		plural(len(datasets), "dataset", "datasets"), len(datasets)-unfrozen)}}
	if unfrozen > 0 {
		screen.Next = []string{"Freeze them with `tovrel data freeze`; a run does so by itself."}
	} else if len(datasets) > 0 {
		screen.Next = []string{fmt.Sprintf("Try a query with `tovrel data query %s \"SELECT …\"`.", datasets[0].Name)}
	}
	return screen
}

// datasetGrid has a row for each table; once names a dataset only at its first.
func datasetGrid(datasets []Dataset, once bool) *Grid {
	type row struct {
		Dataset
		table DatasetTable
		again bool
	}
	var rows []row
	for _, d := range datasets {
		for i, t := range d.Tables {
			rows = append(rows, row{d, t, once && i > 0})
		}
	}
	heading := func(name string, cell func(Dataset) Cell) column[row] {
		return declare(Column{Name: name, Keep: true}, func(r row) Cell {
			if r.again {
				return text("")
			}
			return cell(r.Dataset)
		})
	}
	return gridOf(rows,
		heading("dataset", func(d Dataset) Cell { return text(d.Name) }),
		heading("state", func(d Dataset) Cell { return stateCell(d.State) }),
		heading("as of", func(d Dataset) Cell { return text(d.AsOf) }),
		declare(Column{Name: "table", Keep: true}, func(r row) Cell { return text(r.table.Name) }),
		declare(Column{Name: "rows", Right: true, Keep: true}, func(r row) Cell { return rowsCell(r.table.Rows) }),
		declare(Column{Name: "columns", Wrap: true}, func(r row) Cell {
			return Cell{Text: columnWords(r.table.Columns, len(r.table.Columns)), Shown: columnWords(r.table.Columns, columnsShown)}
		}),
	)
}

func changesGrid(changes []DatasetChange) *Grid {
	g := gridOf(changes,
		declare(Column{Name: "table", Keep: true}, func(c DatasetChange) Cell { return text(c.Table) }),
		declare(Column{Name: "what"}, func(c DatasetChange) Cell { return text(c.What) }),
		declare(Column{Name: "rows gone", Right: true, Keep: true}, func(c DatasetChange) Cell { return count(int(c.Gone)) }),
		declare(Column{Name: "rows new", Right: true, Keep: true}, func(c DatasetChange) Cell { return count(int(c.Added)) }),
	)
	return g
}

func stateCell(state string) Cell {
	switch state {
	case "frozen":
		return Cell{Text: state, Tone: Right}
	case "stale":
		return Cell{Text: state, Tone: Lucky}
	}
	return Cell{Text: state, Tone: Unscored}
}

func rowsCell(rows int64) Cell {
	if rows < 0 {
		return Cell{Text: "", Shown: "–", Tone: Faint}
	}
	return count(int(rows))
}

// columnsShown is how many columns of a table are listed on a screen; the other outputs list all.
const columnsShown = 40

func columnWords(columns []table.ColumnHead, most int) string {
	var parts []string
	for _, c := range columns[:min(most, len(columns))] {
		parts = append(parts, c.Name+" "+c.Type)
	}
	if more := len(columns) - len(parts); more > 0 {
		parts = append(parts, fmt.Sprintf("and %s more", grouped(fmt.Sprint(more))))
	}
	return strings.Join(parts, ", ")
}

// Rows shows a query's result.
func Rows(t *table.Table) Screen {
	return Screen{Data: t, Parts: []Part{{Grid: tableGrid(t)}}}
}

// SetQuestion is one row of the list of questions.
type SetQuestion struct {
	Question   string   `json:"question"`
	Set        string   `json:"set"`
	Dataset    string   `json:"dataset"`
	Text       string   `json:"text"`
	Wordings   int      `json:"wordings"`
	Tags       []string `json:"tags"`
	Difficulty string   `json:"difficulty"`
	Weight     float64  `json:"weight"`
	Expect     string   `json:"expect"`
	Reference  bool     `json:"reference"`
	Readings   int      `json:"readings"`
	Follows    string   `json:"follows,omitempty"`
	Draft      bool     `json:"draft"`
	File       string   `json:"file"`
	Line       int      `json:"line"`
}

type questionsForm struct {
	Questions []SetQuestion `json:"questions"`
}

// Questions lists the questions of golden sets.
func Questions(sets []*golden.Set) Screen {
	form := questionsForm{[]SetQuestion{}}
	for _, s := range sets {
		for _, q := range s.All() {
			form.Questions = append(form.Questions, listed(s, q))
		}
	}
	g := gridOf(form.Questions,
		declare(Column{Name: "question", Keep: true}, func(q SetQuestion) Cell { return text(q.Question) }),
		declare(Column{Name: "text", Wrap: true}, func(q SetQuestion) Cell { return text(q.Text) }),
		declare(Column{Name: "wordings", Right: true, Spare: true}, func(q SetQuestion) Cell { return count(q.Wordings) }),
		declare(Column{Name: "difficulty", Spare: true}, func(q SetQuestion) Cell { return text(q.Difficulty) }),
		declare(Column{Name: "expects", Spare: true, Room: 18}, func(q SetQuestion) Cell { return text(expects(q)) }),
		declare(Column{Name: "tags", Spare: true, Wrap: true}, func(q SetQuestion) Cell { return text(strings.Join(q.Tags, ", ")) }),
	)
	g.Main = true
	return Screen{
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s in %s.", plural(len(form.Questions), "question", "questions"),
			plural(len(sets), "golden set", "golden sets"))}},
		Parts: []Part{{Grid: g}}, Data: form,
		Next: []string{"Check them with `tovrel set check`, run them with `tovrel run`."},
	}
}

func listed(s *golden.Set, q *golden.Question) SetQuestion {
	item := SetQuestion{Question: s.QuestionName(q), Set: s.Name, Dataset: s.Dataset, Text: q.Text, Wordings: len(q.Wordings()),
		Tags: append(append([]string{}, s.Tags...), q.Tags...), Difficulty: q.Difficulty, Weight: q.Weight, Expect: string(q.Expect),
		Reference: q.Answer.Query != "", Readings: len(q.Readings), Draft: q.Draft, File: q.At.File, Line: q.At.Line}
	if q.After != nil {
		item.Follows = s.QuestionName(q.After)
	}
	return item
}

func expects(q SetQuestion) string {
	words := q.Expect
	if q.Readings > 0 {
		words += fmt.Sprintf(", %s", plural(q.Readings, "other reading", "other readings"))
	}
	if q.Follows != "" {
		words += ", follow-up"
	}
	if q.Draft {
		words += ", draft"
	}
	return words
}

// Defect is the JSON form of a defect of a golden set.
type Defect struct {
	File     string `json:"file"`
	Line     int    `json:"line"`
	Column   int    `json:"column"`
	Question string `json:"question"`
	Code     string `json:"code"`
	Severity string `json:"severity"`
	Message  string `json:"message"`
	Remedy   string `json:"remedy"`
}

type checkForm struct {
	Questions int      `json:"questions"`
	Defects   []Defect `json:"defects"`
}

// Check shows the defects of golden sets; advice is listed where it is asked for, and else only counted. QuestionAt names the question at a
// place, "" for none.
func Check(questions int, problems source.Problems, advice bool, questionAt func(source.Position) string) Screen {
	form := checkForm{questions, []Defect{}}
	var lines []Text
	for _, p := range problems {
		if p.Severity == source.Advice && !advice {
			continue
		}
		form.Defects = append(form.Defects,
			Defect{p.File, p.Line, p.Column, questionAt(p.Position), p.Code, string(p.Severity), p.Message, p.Remedy})
		lines = append(lines, problemLines(p)...)
	}
	g := gridOf(form.Defects,
		declare(Column{Name: "file", Keep: true}, func(d Defect) Cell { return text(d.File) }),
		declare(Column{Name: "line", Right: true, Keep: true}, func(d Defect) Cell { return count(d.Line) }),
		declare(Column{Name: "column", Right: true, Keep: true}, func(d Defect) Cell { return count(d.Column) }),
		declare(Column{Name: "severity", Keep: true}, func(d Defect) Cell { return text(d.Severity) }),
		declare(Column{Name: "code", Keep: true}, func(d Defect) Cell { return text(d.Code) }),
		declare(Column{Name: "question"}, func(d Defect) Cell { return text(d.Question) }),
		declare(Column{Name: "message"}, func(d Defect) Cell { return text(d.Message) }),
		declare(Column{Name: "remedy"}, func(d Defect) Cell { return text(d.Remedy) }),
	)
	g.Main = true
	g.Machine = true
	screen := Screen{Data: form, Headline: []Text{checkHeadline(questions, problems)}, Parts: []Part{{Grid: g}}}
	if n := problems.Count(source.Advice); n > 0 && !advice {
		screen.Next = append(screen.Next, fmt.Sprintf("%s of advice: see with `tovrel set check --advice`.", plural(n, "piece", "pieces")))
	}
	if len(lines) > 0 {
		screen.Parts = append([]Part{{Lines: lines}}, screen.Parts...)
	}
	if problems.Errors() > 0 {
		screen.Next = append(screen.Next, "Correct the first one and check again with `tovrel set check`.")
	} else {
		screen.Next = append(screen.Next, "Run them with `tovrel run`.")
	}
	return screen
}

// problemLines are a problem's lines; what is no error begins with its severity.
func problemLines(p source.Problem) []Text {
	var lines []Text
	for i, l := range strings.Split(p.Error(), "\n") {
		tone := Plain
		if i > 0 {
			tone = Faint
		}
		if i == 0 && p.Severity != source.Error {
			l = string(p.Severity) + ": " + l
		}
		lines = append(lines, Text{Tone: tone, Text: l})
	}
	return lines
}

// checkHeadline counts errors and warnings apart.
func checkHeadline(questions int, problems source.Problems) Text {
	line := plural(questions, "question", "questions") + " checked, "
	warnings := plural(problems.Count(source.Warning), "warning", "warnings")
	switch errors := problems.Errors(); {
	case errors > 0:
		line, tone := line+plural(errors, "error", "errors"), Wrong
		if problems.Count(source.Warning) > 0 {
			line += " and " + warnings
		}
		return Text{Tone: tone, Text: line + "."}
	case problems.Count(source.Warning) > 0:
		return Text{Tone: Lucky, Text: line + "no errors, " + warnings + "."}
	}
	return Text{Tone: Right, Text: line + "no defects."}
}

type versionForm struct {
	Version string `json:"version"`
	Commit  string `json:"commit"`
}

// Version shows the program's version, and the commit that it was built from where that is known.
func Version(version, commit string) Screen {
	return Screen{Headline: []Text{{Text: "tovrel " + VersionWords(version, commit)}}, Data: versionForm{version, commit}}
}

// VersionWords are a version and its commit in words; a commit that is not known ("") is left out.
func VersionWords(version, commit string) string {
	if commit == "" {
		return version
	}
	return version + ", built from " + commit
}
