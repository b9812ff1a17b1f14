package golden

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"tovrel/core/pattern"
	"tovrel/core/source"
	"tovrel/core/yamldoc"
)

// Parse reads a golden set. It gives as much of the set as can be read together with all defects, in order; none means
// that the document is well-formed.
func Parse(file string, text []byte) (*Set, source.Problems) {
	p := &parser{set: &Set{File: file, text: text}, ids: map[string]int{}}
	if !utf8.Valid(text) {
		p.report(1, 1, "not-utf8", "the file is not UTF-8", "save it in that encoding")
		return p.set, p.problems
	}
	if !p.withinBounds(text) {
		return p.set, p.problems
	}
	from := p.frontMatter()
	p.set.bodyFrom = from
	for _, b := range blocksOf(text, from) {
		p.block(b)
	}
	p.finish()
	p.problems.Sort()
	p.set.Sound = len(p.problems) == 0
	return p.set, p.problems
}

type parser struct {
	set      *Set
	problems source.Problems
	ids      map[string]int // line of each id

	root     *Question // the question of the present ## section
	question *Question // the question or follow-up that readings belong to
	body     *body     // where blocks go now; nil before the first question
	stray    *block    // a heading of level 3 that starts free text
	bodies   []*body
}

// body is what a question, follow-up or reading has under its heading.
type body struct {
	what     string // "question", "follow-up", "reading"
	line     int
	question *Question // nil for a reading
	answer   *Answer
	settings bool
}

// maxProblems bounds what is reported of one document: what is mended first makes room for the others.
const maxProblems = 500

func (p *parser) report(line, column int, code, message, remedy string) {
	if len(p.problems) >= maxProblems {
		return
	}
	p.problems = append(p.problems, source.Problem{
		Position: source.Position{File: p.set.File, Line: line, Column: column},
		Code:     code, Severity: source.Error, Message: message, Remedy: remedy, Excerpt: source.Line(p.set.text, line),
	})
}

// frontMatter reads the YAML between the first two lines of three dashes and gives the offset behind it.
func (p *parser) frontMatter() int {
	text := p.set.text
	skip := 0
	if bytes.HasPrefix(text, []byte("\xef\xbb\xbf")) {
		skip = 3
	}
	first, rest, _ := bytes.Cut(text[skip:], []byte("\n"))
	if strings.TrimSpace(string(first)) != "---" {
		p.report(1, 1, "front-matter-missing", "the file does not start with front matter",
			"begin it with a line ---, then golden-set: and dataset:, then a line ---")
		return 0
	}
	var yaml bytes.Buffer
	offset := skip + len(first) + 1
	for len(rest) > 0 {
		l, after, _ := bytes.Cut(rest, []byte("\n"))
		offset += len(l) + 1
		if strings.TrimRight(string(l), " \t\r") == "---" {
			p.readFrontMatter(yaml.Bytes())
			return min(offset, len(text))
		}
		yaml.Write(bytes.TrimSuffix(l, []byte("\r")))
		yaml.WriteByte('\n')
		rest = after
	}
	p.report(1, 1, "front-matter-open", "the front matter is not closed", "end it with a line ---")
	return len(text)
}

func (p *parser) readFrontMatter(yaml []byte) {
	r, root := yamldoc.Read(p.set.File, p.set.text, yaml, 1)
	fields := r.Fields(root, "the front matter", yamldoc.Keys{Known: []string{"golden-set", "dataset", "owner", "tags", "rules"}})
	s := p.set
	if n := fields["golden-set"]; n != nil {
		if s.Name = r.Text(n, "golden-set"); s.Name != "" && !idForm.MatchString(s.Name) {
			r.Report(n, "bad-id", fmt.Sprintf("%q cannot be a set's name", s.Name), idRemedy)
		}
	}
	if n := fields["dataset"]; n != nil {
		s.Dataset = r.Text(n, "dataset")
	}
	if n := fields["owner"]; n != nil {
		s.Owner = r.Text(n, "owner")
	}
	s.Tags = r.Texts(fields["tags"], "tags")
	s.Rules = ReadRules(r, fields["rules"])
	p.problems = append(p.problems, r.Problems...)
	if len(r.Problems) > 0 {
		return
	}
	if s.Name == "" {
		p.report(1, 1, "set-name-missing", "the front matter names no set", "add golden-set: NAME")
	}
	if s.Dataset == "" {
		p.report(1, 1, "dataset-missing", "the front matter names no dataset", "add dataset: NAME, as in tovrel.yaml")
	}
}

func (p *parser) block(b block) {
	switch {
	case b.kind == headingBlock:
		p.heading(b)
	case p.stray != nil:
		p.report(b.line, 1, "stray-section", fmt.Sprintf("this %s stands under %q, which is neither a reading nor a follow-up",
			blockNames[b.kind], p.stray.text), "begin the heading with `Reading: `, `Follow-up: ` or `For `, or move the block up")
	case p.body == nil: // free text before the first question
	case b.open:
		p.report(b.line, 1, "code-block-open", "this code block is not closed", "end it with a line ```")
	case b.kind == yamlBlock:
		p.settings(b)
	case b.kind == sqlBlock:
		p.query(b)
	case b.kind == tableBlock:
		p.table(b)
	}
}

var blockNames = map[blockKind]string{yamlBlock: "settings block", sqlBlock: "query", tableBlock: "table"}

func (p *parser) heading(b block) {
	title, id := splitID(b.text)
	switch {
	case b.level == 1:
		p.root, p.question, p.body, p.stray = nil, nil, nil, nil
	case b.level == 2:
		p.stray = nil
		p.root = p.newQuestion(b, "question", title, id)
		p.set.Questions = append(p.set.Questions, p.root)
	case b.level > 3:
	case headed(title, "Reading:") != "" || strings.EqualFold(title, "Reading:"):
		p.reading(b, headed(title, "Reading:"))
	case p.root != nil && len(p.root.For) > 0 && headed(title, "For ") != "":
		p.forRole(b, headed(title, "For "))
	case headed(title, "Follow-up:") != "" || strings.EqualFold(title, "Follow-up:"):
		p.followUp(b, headed(title, "Follow-up:"), id)
	case p.root != nil:
		p.stray = &b
	}
}

// headed is what stands behind a heading's first word, "" where it has another.
func headed(title, word string) string {
	if len(title) >= len(word) && strings.EqualFold(title[:len(word)], word) {
		return strings.TrimSpace(title[len(word):])
	}
	return ""
}

var (
	idSuffix = pattern.Of(`\s*\{#([^}]*)\}\s*$`)
	idForm   = pattern.Of(`^[A-Za-z0-9][A-Za-z0-9._-]*$`)
)

const idRemedy = "use letters, digits, dots, dashes and underscores, such as top-district-may"

func splitID(text string) (title, id string) {
	m := idSuffix.FindStringSubmatchIndex(text)
	if m == nil {
		return text, ""
	}
	return text[:m[0]], text[m[2]:m[3]]
}

func (p *parser) newQuestion(b block, what, title, id string) *Question {
	q := &Question{ID: id, Text: title, At: source.Position{File: p.set.File, Line: b.line, Column: 1},
		Settings: Settings{Weight: 1, Expect: ExpectAnswer}}
	column := max(1, strings.Index(b.raw, "{#")+1)
	switch {
	case title == "":
		p.report(b.line, 1, "question-without-text", "this heading asks nothing", "write the question behind the ## marks")
	case id == "":
		p.report(b.line, max(1, len(b.raw)), "question-without-id", "this "+what+" has no id", "end the heading with {#"+slug(title)+"}")
	case !idForm.MatchString(id):
		p.report(b.line, column, "bad-id", fmt.Sprintf("%q cannot be an id", id), idRemedy)
	case p.ids[id] > 0:
		p.report(b.line, column, "duplicate-id", fmt.Sprintf("the id %q is already used in line %d", id, p.ids[id]),
			"give this question another id")
	default:
		p.ids[id] = b.line
	}
	p.question = q
	p.open(&body{what: what, line: b.line, question: q, answer: &q.Answer})
	return q
}

func (p *parser) open(b *body) {
	p.body = b
	p.bodies = append(p.bodies, b)
}

// slug proposes an id from a question's words.
func slug(title string) string {
	words := strings.FieldsFunc(strings.ToLower(title), func(r rune) bool { return (r < 'a' || r > 'z') && (r < '0' || r > '9') })
	if len(words) == 0 {
		return "my-question"
	}
	return strings.Join(words[:min(len(words), 5)], "-")
}

func (p *parser) reading(b block, title string) {
	p.stray = nil
	if p.question == nil {
		p.report(b.line, 1, "reading-without-question", "this reading has no question above it",
			"put it under the question it belongs to")
		p.body = nil
		return
	}
	r := &Reading{Title: title, At: source.Position{File: p.set.File, Line: b.line, Column: 1}}
	if title == "" {
		p.report(b.line, max(1, len(b.raw)), "reading-without-title", "this reading has no title",
			"say after `Reading:` how the question is read")
	}
	for _, other := range p.question.Readings {
		if title != "" && other.Title == title {
			p.report(b.line, 1, "duplicate-reading",
				fmt.Sprintf("the question already has a reading %q in line %d", title, other.At.Line), "give it another title")
		}
	}
	p.question.Readings = append(p.question.Readings, r)
	p.open(&body{what: "reading", line: b.line, answer: &r.Answer})
}

func (p *parser) followUp(b block, title, id string) {
	p.stray = nil
	if p.root == nil {
		p.report(b.line, 1, "follow-up-without-question", "this follow-up has no question above it",
			"put it under the question it follows")
		p.body = nil
		return
	}
	before := p.root
	if n := len(p.root.FollowUps); n > 0 {
		before = p.root.FollowUps[n-1]
	}
	q := p.newQuestion(b, "follow-up", title, id)
	q.After = before
	p.root.FollowUps = append(p.root.FollowUps, q)
}

func (p *parser) query(b block) {
	a := p.body.answer
	switch {
	case a.Query != "":
		p.report(b.line, 1, "second-query", fmt.Sprintf("this %s already has a query in line %d", p.body.what, a.QueryAt.Line),
			"put another accepted query under a heading `### Reading: …`")
	case strings.TrimSpace(b.text) == "":
		p.report(b.line, 1, "query-empty", "this query is empty", "write the reference query or remove the block")
	default:
		a.Query, a.QueryAt = strings.TrimSpace(b.text), source.Position{File: p.set.File, Line: b.line + 1, Column: 1}
	}
}

func (p *parser) table(b block) {
	a := p.body.answer
	if a.Table != nil {
		p.report(b.line, 1, "second-table", fmt.Sprintf("this %s already has a table in line %d", p.body.what, a.Table.At.Line),
			"put another accepted answer under a heading `### Reading: …`")
		return
	}
	a.Table = p.readTable(b)
}

// finish checks what only a whole body shows.
func (p *parser) finish() {
	if len(p.set.Questions) == 0 && len(p.problems) == 0 {
		p.report(1, 1, "no-questions", "the set has no questions", "add one under a heading `## …? {#id}`")
	}
	for _, b := range p.bodies {
		p.finishBody(b)
	}
}

func (p *parser) finishBody(b *body) {
	a := b.answer
	if a.Table != nil && a.File != "" {
		p.report(a.FileAt.Line, a.FileAt.Column, "table-and-file", "this "+b.what+
			" has a table and a file with its expected answer", "keep one of them")
	}
	if a.Table != nil && len(p.problems) == 0 {
		if _, err := a.Table.Typed(a.Types); err != nil {
			p.report(a.Table.At.Line, 1, "cell-type", err.Error(), "correct the cell, or the type under types:")
		}
	}
	for name := range a.Types {
		if a.Table != nil && !hasName(a.Table.Names, name) {
			p.report(a.Table.At.Line, 1, "unknown-column",
				fmt.Sprintf("types: names the column %q, which the table does not have", name), "correct the name")
		}
	}
	if b.question == nil {
		if a.Empty() {
			p.report(b.line, 1, "nothing-expected", "this "+b.what+" expects nothing", "give it a reference query or an expected table")
		}
		return
	}
	p.finishQuestion(b)
}

func hasName(names []string, name string) bool {
	return slices.Contains(names, name)
}

func (p *parser) finishQuestion(b *body) {
	q := b.question
	p.finishRoles(q)
	if p.factsAmiss(b, q) {
		return
	}
	switch {
	case q.Chart != nil && b.answer.Empty():
		p.report(b.line, 1, "chart-without-answer", "this "+b.what+" asks for a chart and expects no data",
			"give it a reference query or an expected table")
	case len(q.States) > 0 || q.answeredByRole():
	case b.answer.Empty() && !q.Draft && (q.Expect == ExpectAnswer || q.Expect == ExpectEither):
		p.report(b.line, 1, "nothing-expected", "this "+b.what+" expects nothing",
			"give it a reference query, an expected table, facts under states:, or `expect: clarify` or `decline` in its settings")
	case !b.answer.Empty() && q.Expect == ExpectDecline:
		p.report(b.line, 1, "decline-with-answer", "this "+b.what+" expects to be declined and has an answer",
			"remove the answer or `expect: decline`")
	case q.Expect == ExpectClarify && len(q.Mentions) == 0:
		p.report(b.line, 1, "clarify-without-mentions", "this "+b.what+" expects to be asked back, but not about what",
			"add mentions: [word, …] to its settings")
	case q.Then != "" && b.answer.Empty():
		p.report(b.line, 1, "then-without-answer", "this "+b.what+" says what comes then, but not what the answer to that is",
			"give it a reference query or an expected table")
	}
}

// factsAmiss reports what does not go together with the facts of a question.
func (p *parser) factsAmiss(b *body, q *Question) bool {
	switch {
	case len(q.States) > 0 && !b.answer.Empty():
		p.report(b.line, 1, "facts-with-answer", "this "+b.what+" lists facts and has an answer", "keep one of them")
	case len(q.States) == 0 && len(q.Avoids) > 0:
		p.report(b.line, 1, "avoids-without-facts", "this "+b.what+" says what to avoid, but no facts",
			"add states: [fact, …] to its settings")
	default:
		return false
	}
	return true
}
