package standin

import (
	"encoding/json"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/pattern"
	"tovrel/core/profile"
	"tovrel/translator"
)

var (
	dialectLine = pattern.Of(`in the (\w+) dialect`)
	asOfLine    = pattern.Of(`Today is ([0-9-]+)`)
	datasetLine = pattern.Of(`^Tables of the dataset (\S+?)[ :(]`)
	tableLine   = pattern.Of(`^([A-Za-z_]\w*)(?:: .*)?$`)
	columnLine  = pattern.Of(`^  (\w+) ([A-Za-z]+(?:\([0-9, ]+\))?)((?:, .*?)?)(: .*)?$`)
	synonymPart = pattern.Of(` ?Also called: (.*?)\.(?: Values:|$)`)
	valuePart   = pattern.Of(`Values: (.*)$`)
)

// readPrompt reads the default prompt of chat translators back into a request: the pocket translator is no language model.
func readPrompt(asked chatRequest) translator.Request {
	r := translator.Request{Protocol: translator.Protocol, Thread: []translator.Turn{}}
	for i, m := range asked.Messages {
		switch m.Role {
		case "system":
			readSystem(m.Content, &r)
		case "user":
			if i == len(asked.Messages)-1 {
				r.Question = m.Content
				continue
			}
			said, _ := json.Marshal(map[string]string{"text": asked.Messages[i+1].Content}) // a text always encodes
			r.Thread = append(r.Thread, translator.Turn{Question: m.Content, Reply: said})
		}
	}
	return r
}

func readSystem(text string, r *translator.Request) {
	if m := dialectLine.FindStringSubmatch(text); m != nil {
		r.Dialect = m[1]
	}
	if m := asOfLine.FindStringSubmatch(text); m != nil {
		r.AsOf = m[1]
	}
	section := ""
	for line := range strings.SplitSeq(text, "\n") {
		switch trimmed := strings.TrimSpace(line); {
		case datasetLine.MatchString(line):
			r.Dataset.Name, section = datasetLine.FindStringSubmatch(line)[1], "tables"
		case trimmed == "Joins:" || trimmed == "Terms:" || trimmed == "Notes:":
			section = trimmed
		case strings.HasPrefix(line, "Answer with") || strings.HasPrefix(line, "Example:"):
			section = ""
		case trimmed == "":
		case section == "tables":
			readTableLine(line, r)
		case section == "Joins:":
			r.Dataset.Joins = append(r.Dataset.Joins, trimmed)
		case section == "Terms:":
			name, meaning, _ := strings.Cut(trimmed, ": ")
			if r.Briefing == nil {
				r.Briefing = &briefing.Beyond{Terms: map[string]string{}}
			}
			r.Briefing.Terms[name] = meaning
		}
	}
}

func readTableLine(line string, r *translator.Request) {
	if m := columnLine.FindStringSubmatch(line); m != nil && len(r.Dataset.Tables) > 0 {
		t := &r.Dataset.Tables[len(r.Dataset.Tables)-1]
		t.Columns = append(t.Columns, readColumn(m, line))
		return
	}
	if m := tableLine.FindStringSubmatch(line); m != nil {
		r.Dataset.Tables = append(r.Dataset.Tables, briefing.ToldTable{Name: m[1]})
	}
}

func readColumn(m []string, line string) briefing.ToldColumn {
	c := briefing.ToldColumn{Name: m[1], Type: m[2]}
	for _, role := range profile.Roles() {
		if strings.HasPrefix(m[3], ", "+role) {
			c.Role = profile.Role(role)
		}
	}
	if s := synonymPart.FindStringSubmatch(line); s != nil {
		c.Synonyms = strings.Split(s[1], ", ")
	}
	if v := valuePart.FindStringSubmatch(line); v != nil {
		c.Values = map[string]string{}
		for pair := range strings.SplitSeq(v[1], ";") {
			if code, label, ok := strings.Cut(strings.TrimSpace(pair), " = "); ok {
				c.Values[code] = label
			}
		}
	}
	if _, unit, ok := strings.Cut(m[3], ", in "); ok {
		c.Unit = unit
	}
	return c
}
