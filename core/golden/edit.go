package golden

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
)

// An edit changes exactly the bytes that it is about and gives the new document; the set must not have been edited since it was
// parsed. Every edit is read back: one that would damage the document is an error.

// Answered is an answer to be written into a document.
type Answered struct {
	Query    string // "" for none
	Table    string // as FormatTable writes it; "" where the answer lies in a file
	File     string // "" for none
	Accepted string // the value of accepted:, such as {run: 12, date: 2031-06-30, by: Ann}
}

// splice puts a text in the place of some bytes.
type splice struct {
	start, end int
	text       string
}

// spliced applies splices that do not overlap, with the line endings of the document, and reads the result back.
func (s *Set) spliced(all ...splice) ([]byte, error) {
	slices.SortStableFunc(all, func(a, b splice) int { return cmp.Compare(a.start, b.start) })
	windows := bytes.Contains(s.text, []byte("\r\n"))
	var b bytes.Buffer
	done := 0
	for _, one := range all {
		b.Write(s.text[done:one.start])
		text := one.text
		if windows {
			text = strings.ReplaceAll(text, "\n", "\r\n")
		}
		b.WriteString(text)
		done = one.end
	}
	b.Write(s.text[done:])
	if _, problems := Parse(s.File, b.Bytes()); (s.Sound || len(s.Questions) == 0) && len(problems) > 0 {
		return nil, fmt.Errorf("the document would not be well-formed with this change: %w", problems)
	}
	return b.Bytes(), nil
}

// ReplaceTable puts other lines in the place of an answer's written table. The answer must have a table. It errs as ReplaceTables does.
func (s *Set) ReplaceTable(a *Answer, table string) ([]byte, error) {
	return s.spliced(splice{a.Table.start, a.Table.end, table})
}

// ReplaceTables writes the tables of several answers at once: in the place of what is written, or below the query of an answer that has
// none yet. It errs where the document would not be read back as it was meant.
func (s *Set) ReplaceTables(tables map[*Answer]string) ([]byte, error) {
	var all []splice
	for a, table := range tables {
		if a.Table != nil {
			all = append(all, splice{a.Table.start, a.Table.end, table})
		} else {
			all = append(all, s.belowQuery(a, table))
		}
	}
	return s.spliced(all...)
}

// belowQuery puts a table below an answer's query.
func (s *Set) belowQuery(a *Answer, table string) splice {
	index := lineIndex(s.text)
	at := lineEnd(index, s.fenceLine(index, a.QueryAt.Line), len(s.text))
	return splice{at, at, "\n" + table + "\n"}
}

// AddReading adds an accepted reading to a question, behind those that it has. It errs where the title is taken or the document would
// not be read back as it was meant.
func (s *Set) AddReading(q *Question, title string, a Answered) ([]byte, error) {
	last := q.At.Line
	for _, r := range q.Readings {
		last = r.At.Line
	}
	index := lineIndex(s.text)
	at := len(s.text)
	if next := s.nextHeading(last); next > 0 {
		at = index[next-1]
	}
	before := "\n"
	if at == len(s.text) && !bytes.HasSuffix(s.text, []byte("\n")) {
		before = "\n\n"
	} else if bytes.HasSuffix(bytes.ReplaceAll(s.text[:at], []byte("\r"), nil), []byte("\n\n")) {
		before = ""
	}
	after := ""
	if at < len(s.text) {
		after = "\n"
	}
	return s.spliced(splice{at, at, before + "### Reading: " + title + "\n\n" + readingBody(a) + after})
}

// Begin is the text of a new set without questions.
func Begin(name, dataset string) []byte {
	return []byte("---\ngolden-set: " + name + "\ndataset: " + dataset + "\n---\n\n# " + name + "\n")
}

// FreeID proposes an id for a question that no other of the set has.
func (s *Set) FreeID(text string) string {
	used := map[string]bool{}
	for _, q := range s.All() {
		used[q.ID] = true
	}
	id := slug(text)
	for n := 2; used[id]; n++ {
		id = fmt.Sprintf("%s-%d", slug(text), n)
	}
	return id
}

// readingBody is what stands under the heading of a new reading.
func readingBody(a Answered) string {
	settings := "accepted: " + a.Accepted + "\n"
	if a.File != "" {
		settings += "expected: " + a.File + "\n"
	}
	parts := []string{"```yaml\n" + settings + "```\n"}
	if a.Query != "" {
		parts = append(parts, sqlFence(a.Query))
	}
	if a.Table != "" {
		parts = append(parts, a.Table+"\n")
	}
	return strings.Join(parts, "\n")
}

func sqlFence(query string) string { return "```sql\n" + strings.TrimSpace(query) + "\n```\n" }

// nextHeading is the line of the first heading of level 1 to 3 behind a line; 0 for none.
func (s *Set) nextHeading(line int) int {
	for _, b := range blocksOf(s.text, s.bodyFrom) {
		if b.kind == headingBlock && b.level <= 3 && b.line > line {
			return b.line
		}
	}
	return 0
}

// ReplaceAnswer puts another answer in the place of a question's own. It errs where the document would not be read back as it was meant.
func (s *Set) ReplaceAnswer(q *Question, a Answered) ([]byte, error) {
	old := &q.Answer
	if old.File != "" {
		return nil, errors.New("its expected answer lies in a file: replace that file, or accept another reading")
	}
	if a.File != "" && old.settingsAt > 0 {
		return nil, errors.New("the answer is too large for a table, and the question has settings already: write the file " +
			"and expected: by hand, or accept another reading")
	}
	index := lineIndex(s.text)
	var all []splice
	settings := s.settingsSplice(q, a, index)
	all = append(all, settings)
	switch {
	case old.Query != "" && a.Query != "":
		all = append(all, splice{index[old.QueryAt.Line-1], s.fenceEnd(index, old.QueryAt.Line), strings.TrimSpace(a.Query) + "\n"})
	case old.Query != "": // what was computed is not any more
		from, to := old.QueryAt.Line-1, s.fenceLine(index, old.QueryAt.Line)
		all = append(all, splice{index[from-1], lineEnd(index, to, len(s.text)), ""})
	}
	switch {
	case old.Table != nil && a.Table != "":
		text := a.Table
		if old.Query == "" && a.Query != "" {
			text = sqlFence(a.Query) + "\n" + text
		}
		all = append(all, splice{old.Table.start, old.Table.end, text})
	case old.Table != nil:
		all = append(all, splice{old.Table.start, old.Table.end, ""})
	case a.Table != "" && old.Query != "":
		all = append(all, s.belowQuery(old, a.Table))
	}
	return s.spliced(all...)
}

// settingsSplice writes accepted: into a question's settings, which it makes where there are none.
func (s *Set) settingsSplice(q *Question, a Answered, index lines) splice {
	accepted := "accepted: " + a.Accepted + "\n"
	if q.Answer.settingsAt == 0 {
		at := lineEnd(index, q.At.Line, len(s.text))
		file := ""
		if a.File != "" {
			file = "expected: " + a.File + "\n"
		}
		return splice{at, at, "\n```yaml\n" + accepted + file + "```\n"}
	}
	first := q.Answer.settingsAt + 1
	end := s.fenceLine(index, first)
	for line := first; line < end; line++ {
		if strings.HasPrefix(string(s.text[index[line-1]:lineEnd(index, line, len(s.text))]), "accepted:") {
			last := line + 1
			for last < end && strings.HasPrefix(string(s.text[index[last-1]:]), " ") { // a mapping over several lines
				last++
			}
			return splice{index[line-1], index[last-1], accepted}
		}
	}
	return splice{index[end-1], index[end-1], accepted}
}

// fenceLine is the line that closes the code block whose content begins in a line.
func (s *Set) fenceLine(index lines, from int) int {
	for line := from; line <= len(index); line++ {
		if closesFence(s.text, index, line) {
			return line
		}
	}
	return len(index)
}

func (s *Set) fenceEnd(index lines, from int) int { return index[s.fenceLine(index, from)-1] }

// lineEnd is the offset behind a line with its ending.
func lineEnd(index lines, line, end int) int {
	if line < len(index) {
		return index[line]
	}
	return end
}
