package briefing

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/profile"
	"tovrel/core/source"
)

// Extend adds to a briefing's text the tables, columns and joins that it does not name yet, and leaves every line that is there
// as it is. An empty text becomes a whole briefing. The error says where lines cannot be put.
func Extend(file string, text []byte, d *profile.Dataset) ([]byte, error) {
	b, problems := Parse(file, text)
	if len(problems) > 0 && len(strings.TrimSpace(string(text))) > 0 {
		return nil, problems
	}
	doc := &document{lines: strings.Split(strings.TrimRight(string(text), "\n"), "\n"), file: file}
	if strings.TrimSpace(string(text)) == "" {
		doc.lines = []string{"dataset: " + key(d.Name), "about: # say in one sentence what the data is about"}
	}
	if err := doc.tables(b, d); err != nil {
		return nil, err
	}
	if err := doc.joins(b, d); err != nil {
		return nil, err
	}
	extended := []byte(strings.Join(doc.lines, "\n") + "\n")
	if _, problems := Parse(file, extended); len(problems) > 0 { // read back before anything is written
		return nil, problems
	}
	return extended, nil
}

// document is a text to which lines are added.
type document struct {
	file  string
	lines []string
}

func (doc *document) tables(b *Briefing, d *profile.Dataset) error {
	at, indent, err := doc.block("tables", 0, 0)
	if err != nil {
		return err
	}
	if at < 0 {
		doc.lines = append(doc.lines, "tables:")
		at, indent = len(doc.lines), 2
	}
	// from the last table to the first, so that places above stay right
	order := append([]Table(nil), b.Tables...)
	slices.SortStableFunc(order, func(a, b Table) int { return cmp.Compare(b.At.Line, a.At.Line) })
	var fresh []string
	for _, t := range d.Tables {
		if b.Table(t.Name) == nil {
			fresh = append(fresh, doc.newTable(d, t, indent)...)
		}
	}
	doc.insert(at, fresh)
	for _, said := range order {
		t := d.Table(said.Name)
		if t == nil {
			continue
		}
		if err := doc.columns(b, d, said, t); err != nil {
			return err
		}
	}
	return nil
}

func (doc *document) newTable(d *profile.Dataset, t *profile.Table, indent int) []string {
	pad := strings.Repeat(" ", indent)
	lines := []string{pad + key(t.Name) + ":", pad + "  about: # one row is …", pad + "  columns:"}
	for _, c := range t.Columns {
		lines = append(lines, pad+"    "+columnLine(d, t, c))
	}
	return lines
}

// columns adds to a table that is there the columns that it does not name.
func (doc *document) columns(b *Briefing, d *profile.Dataset, said Table, t *profile.Table) error {
	var missing []*profile.Column
	for _, c := range t.Columns {
		if b.Column(profile.Place{Table: t.Name, Column: c.Name}) == nil {
			missing = append(missing, c)
		}
	}
	if len(missing) == 0 {
		return nil
	}
	end, indent, err := doc.blockAt(said.At.Line-1, said.Name)
	if err != nil {
		return err
	}
	at, inner, err := doc.block("columns", said.At.Line, end)
	if err != nil {
		return err
	}
	var lines []string
	if at < 0 {
		lines, at, inner = []string{strings.Repeat(" ", indent) + "columns:"}, end, indent+2
	}
	for _, c := range missing {
		lines = append(lines, strings.Repeat(" ", inner)+columnLine(d, t, c))
	}
	doc.insert(at, lines)
	return nil
}

func columnLine(d *profile.Dataset, t *profile.Table, c *profile.Column) string {
	role, _ := profile.RoleOf(d, t, c)
	line := key(c.Name) + ": {role: " + string(role)
	if unit := profile.UnitIn(c.Name); unit != "" && role == profile.Measure {
		line += ", unit: " + strconv.Quote(unit)
	}
	return line + "}"
}

func (doc *document) joins(b *Briefing, d *profile.Dataset) error {
	known := map[string]bool{}
	for _, j := range b.Joins {
		known[strings.ToLower(j.From.String()+" "+j.To.String())] = true
		known[strings.ToLower(j.To.String()+" "+j.From.String())] = true
	}
	var lines []string
	for _, l := range d.Links {
		if !known[strings.ToLower(l.From.String()+" "+l.To.String())] {
			lines = append(lines, "- "+item(fmt.Sprintf("%s = %s", l.From, l.To)))
		}
	}
	if len(lines) == 0 {
		return nil
	}
	at, indent, err := doc.block("joins", 0, 0)
	if err != nil {
		return err
	}
	if at < 0 {
		doc.lines = append(doc.lines, "joins:")
		at, indent = len(doc.lines), 2
	}
	for i := range lines {
		lines[i] = strings.Repeat(" ", indent) + lines[i]
	}
	doc.insert(at, lines)
	return nil
}

// block finds a key in a range of lines (all for 0, 0) and gives the line behind its block and how far its entries are
// indented; -1 where the key is not there.
func (doc *document) block(name string, from, to int) (end, indent int, err error) {
	if to == 0 {
		to = len(doc.lines)
	}
	for i := from; i < to; i++ {
		if strings.HasPrefix(strings.TrimSpace(doc.lines[i]), name+":") && (from > 0 || doc.lines[i][0] != ' ') {
			return doc.blockAt(i, name)
		}
	}
	return -1, 0, nil
}

func (doc *document) blockAt(line int, name string) (end, indent int, err error) {
	head := doc.lines[line]
	own := len(head) - len(strings.TrimLeft(head, " "))
	_, rest, _ := strings.Cut(head[own:], ":")
	if rest = strings.TrimSpace(rest); rest != "" && !strings.HasPrefix(rest, "#") {
		return 0, 0, source.Problems{{Position: source.Position{File: doc.file, Line: line + 1}, Code: "written-in-braces",
			Severity: source.Error,
			Message:  name + " is written on one line, so nothing can be added there", Remedy: "write its entries on lines of their own"}}
	}
	end, indent = line+1, own+2
	first := true
	for i := line + 1; i < len(doc.lines); i++ {
		trimmed := strings.TrimLeft(doc.lines[i], " ")
		if trimmed == "" || strings.HasPrefix(trimmed, "#") {
			continue
		}
		depth := len(doc.lines[i]) - len(trimmed)
		if depth < own || depth == own && !strings.HasPrefix(trimmed, "- ") {
			break
		}
		if first {
			indent, first = depth, false
		}
		end = i + 1
	}
	return end, indent, nil
}

func (doc *document) insert(at int, lines []string) {
	doc.lines = append(append(append([]string(nil), doc.lines[:at]...), lines...), doc.lines[at:]...)
}

// item writes a text as an item of a YAML list.
func item(text string) string {
	if !strings.ContainsAny(text, `"'#:{}[],&*!|>%@`+"`") {
		return text
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
}

// key writes a name as a YAML key.
func key(name string) string {
	for _, r := range name {
		if r != '_' && (r < '0' || r > '9') && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') {
			return strconv.Quote(name)
		}
	}
	switch strings.ToLower(name) {
	case "", "true", "false", "yes", "no", "null", "on", "off", "y", "n":
		return strconv.Quote(name)
	}
	if name[0] >= '0' && name[0] <= '9' {
		return strconv.Quote(name)
	}
	return name
}
