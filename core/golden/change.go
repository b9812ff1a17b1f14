package golden

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"tovrel/core/pattern"
)

// Setting is one key of a settings block with its value as YAML; an empty value takes the key out.
type Setting struct{ Key, Value string }

// List is a list as the value of a setting; "" for none.
func List(items []string) string {
	if len(items) == 0 {
		return ""
	}
	quoted := make([]string, len(items))
	for i, item := range items {
		quoted[i] = Scalar(item)
	}
	return "[" + strings.Join(quoted, ", ") + "]"
}

// Scalar is a text as a value in settings, in quotes where it needs them.
func Scalar(text string) string {
	if plainWord.MatchString(text) && !yamlWords[strings.ToLower(text)] {
		return text
	}
	return quote(text)
}

// plainWord needs no quotes in YAML, but for the words that YAML reads as something else.
var (
	plainWord = pattern.Of(`^[A-Za-z][A-Za-z0-9_-]*$`)
	yamlWords = map[string]bool{"true": true, "false": true, "null": true, "yes": true, "no": true, "on": true, "off": true,
		"y": true, "n": true}
)

// quote is a text as the value of a setting.
func quote(text string) string {
	var b strings.Builder
	encoder := json.NewEncoder(&b)
	encoder.SetEscapeHTML(false) // <, > and & stay readable
	_ = encoder.Encode(text)     // a text always encodes; JSON is YAML
	return strings.TrimSpace(b.String())
}

// Edit is what changes of a question; what is empty stays.
type Edit struct {
	Text     string // the question itself
	Settings []Setting
	Query    string
	Table    string // as FormatTable writes it
}

// EditQuestion changes a question in its place, and nothing else. It errs where the document would not be read back as it was meant,
// and changes nothing then.
func (s *Set) EditQuestion(q *Question, e Edit) ([]byte, error) {
	index := lineIndex(s.text)
	var all []splice
	if e.Text != "" {
		heading := "## "
		if q.After != nil {
			heading = "### Follow-up: "
		}
		all = append(all, splice{index[q.At.Line-1], lineEnd(index, q.At.Line, len(s.text)), heading + Escape(e.Text) + " {#" +
			q.ID + "}\n"})
	}
	all = append(all, s.settingSplices(q, e.Settings, index)...)
	a := &q.Answer
	switch {
	case e.Query == "":
	case a.Query == "":
		return nil, errors.New("it has no reference query yet: add one by hand")
	default:
		all = append(all, splice{index[a.QueryAt.Line-1], s.fenceEnd(index, a.QueryAt.Line), strings.TrimSpace(e.Query) + "\n"})
	}
	switch {
	case e.Table == "":
	case a.Table == nil:
		return nil, errors.New("it has no expected table in the document: add one by hand")
	default:
		all = append(all, splice{a.Table.start, a.Table.end, e.Table})
	}
	return s.spliced(all...)
}

// settingSplices write keys into a question's settings, which they make where there are none.
func (s *Set) settingSplices(q *Question, settings []Setting, index lines) []splice {
	if len(settings) == 0 {
		return nil
	}
	if q.Answer.settingsAt == 0 {
		block := settingsBlock(settings)
		if block == "" {
			return nil
		}
		at := lineEnd(index, q.At.Line, len(s.text))
		return []splice{{at, at, "\n" + block}}
	}
	first := q.Answer.settingsAt + 1
	end := s.fenceLine(index, first)
	var out []splice
	var added strings.Builder
	for _, setting := range settings {
		text := ""
		if setting.Value != "" {
			text = setting.Key + ": " + setting.Value + "\n"
		}
		from, to := s.settingLines(index, first, end, setting.Key)
		if from == 0 {
			added.WriteString(text)
			continue
		}
		out = append(out, splice{index[from-1], index[to-1], text})
	}
	if added.String() != "" {
		out = append(out, splice{index[end-1], index[end-1], added.String()})
	}
	return out
}

// settingLines are the lines of a key in a settings block: from the first to before the last; 0 where it has none.
func (s *Set) settingLines(index lines, first, end int, key string) (from, to int) {
	for line := first; line < end; line++ {
		if !strings.HasPrefix(string(s.text[index[line-1]:]), key+":") {
			continue
		}
		next := line + 1
		for next < end && strings.ContainsAny(string(s.text[index[next-1]:index[next-1]+1]), " \t-\r\n#]}") {
			next++
		}
		return line, next
	}
	return 0, 0
}

func settingsBlock(settings []Setting) string {
	var body strings.Builder
	for _, setting := range settings {
		if setting.Value != "" {
			body.WriteString(setting.Key + ": " + setting.Value + "\n")
		}
	}
	if body.String() == "" {
		return ""
	}
	return "```yaml\n" + body.String() + "```\n"
}

var markdownMarks = pattern.Of("[\\\\`*_\\[\\]<>{}|#]")

// Escape keeps a text from being read as Markdown.
func Escape(text string) string { return markdownMarks.ReplaceAllString(text, `\$0`) }

// New is a question to be added.
type New struct {
	ID, Text string
	Note     string // free text for readers; "" for none
	Settings []Setting
	Answered
}

// Add adds a question at the end of the set. It errs where the name is taken or the document would not be read back as it was meant.
func (s *Set) Add(n New) ([]byte, error) {
	if !idForm.MatchString(n.ID) {
		return nil, fmt.Errorf("%q cannot be an id: use letters, digits, dots, dashes and underscores", n.ID)
	}
	before := "\n"
	switch plain := strings.ReplaceAll(string(s.text), "\r", ""); {
	case !strings.HasSuffix(plain, "\n"):
		before = "\n\n"
	case strings.HasSuffix(plain, "\n\n"):
		before = ""
	}
	if n.File != "" {
		n.Settings = append(n.Settings, Setting{"expected", n.File})
	}
	parts := []string{"## " + Escape(n.Text) + " {#" + n.ID + "}\n"}
	if n.Note != "" {
		parts = append(parts, n.Note+"\n")
	}
	if block := settingsBlock(n.Settings); block != "" {
		parts = append(parts, block)
	}
	if n.Query != "" {
		parts = append(parts, sqlFence(n.Query))
	}
	if n.Table != "" {
		parts = append(parts, n.Table+"\n")
	}
	return s.spliced(splice{len(s.text), len(s.text), before + strings.Join(parts, "\n")})
}
