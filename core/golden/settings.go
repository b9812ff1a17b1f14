package golden

import (
	"errors"
	"fmt"
	"strings"

	"tovrel/core/dialect"
	"tovrel/core/match"
	"tovrel/core/near"
	"tovrel/core/value"
	"tovrel/core/yamldoc"
)

var questionKeys = yamldoc.Keys{
	Known: []string{"also-asked", "tags", "difficulty", "weight", "rules", "types", "dialect", "expected", "expect",
		"mentions", "then", "draft", "known-wrong", "second-query", "rejected", "formerly", "accepted",
		"states", "enough", "avoids", "about", "chart", "for", "queries"},
}

var readingKeys = yamldoc.Keys{Known: []string{"types", "expected", "accepted"}}

// settings reads the YAML block of a question, follow-up or reading.
func (p *parser) settings(b block) {
	if p.body.settings {
		p.report(b.line, 1, "second-settings", "this "+p.body.what+" already has a settings block", "join the two blocks")
		return
	}
	p.body.settings = true
	p.body.answer.settingsAt = b.line
	r, root := yamldoc.Read(p.set.File, p.set.text, []byte(b.text), b.line)
	keys := readingKeys
	if p.body.question != nil {
		keys = questionKeys
	}
	fields := r.Fields(root, "the settings of a "+p.body.what, keys)
	a := p.body.answer
	if n := fields["expected"]; n != nil {
		a.File, a.FileAt = r.Text(n, "expected"), r.Position(n)
	}
	a.Types = ReadTypes(r, fields["types"])
	if n := fields["accepted"]; n != nil {
		r.Fields(n, "accepted", yamldoc.Keys{Known: []string{"run", "date", "by"}}) // for people; nothing rests on it
	}
	if q := p.body.question; q != nil {
		readSettings(r, fields, &q.Settings)
		q.Types, a.Forms = a.Types, q.Queries
	}
	p.problems = append(p.problems, r.Problems...)
}

func readSettings(r *yamldoc.Reader, fields map[string]yamldoc.Node, s *Settings) {
	s.AlsoAsked = r.Texts(fields["also-asked"], "also-asked")
	s.Tags = r.Texts(fields["tags"], "tags")
	s.Mentions = r.Texts(fields["mentions"], "mentions")
	s.Rules = ReadRules(r, fields["rules"])
	s.Rejected = r.Texts(fields["rejected"], "rejected")
	s.Formerly = r.Texts(fields["formerly"], "formerly")
	if n := fields["known-wrong"]; n != nil {
		s.KnownWrong = r.Text(n, "known-wrong")
		if s.KnownWrong == "" {
			r.Report(n, "known-wrong-reason", "known-wrong says no reason", "say in a few words why the answer is known to be wrong")
		}
	}
	if n := fields["second-query"]; n != nil {
		s.Second, s.SecondAt = r.Text(n, "second-query"), r.Position(n)
	}
	readFacts(r, fields, s)
	s.For = readFor(r, fields["for"])
	if n := fields["chart"]; n != nil {
		s.Chart = readChart(r, n)
	}
	if n := fields["difficulty"]; n != nil {
		s.Difficulty = r.Text(n, "difficulty")
	}
	if n := fields["dialect"]; n != nil {
		s.Dialect = r.Text(n, "dialect")
	}
	s.Queries = readQueries(r, fields["queries"])
	if n := fields["then"]; n != nil {
		s.Then = r.Text(n, "then")
	}
	if n := fields["draft"]; n != nil {
		s.Draft = r.Bool(n, "draft")
	}
	if n := fields["weight"]; n != nil {
		if s.Weight = r.Number(n, "weight", 0); s.Weight == 0 {
			r.Report(n, "bad-weight", "a weight of 0 leaves the question out of every figure", "give it a weight above 0, or draft: true")
		}
	}
	if n := fields["expect"]; n != nil {
		s.Expect = readExpect(r, n)
	}
}

// readQueries reads a query in other dialects, by their names.
func readQueries(r *yamldoc.Reader, n yamldoc.Node) map[string]string {
	if n == nil {
		return nil
	}
	out := map[string]string{}
	for _, e := range r.Entries(n, "queries") {
		if !dialect.Known(e.Key) || e.Key == dialect.Embedded {
			r.Report(e.At, "unknown-value", fmt.Sprintf("there is no other dialect %q", e.Key), near.Hint(e.Key, dialect.Names()[1:]))
			continue
		}
		out[e.Key] = strings.TrimSpace(r.Text(e.Value, "queries"))
	}
	return out
}

var expectations = []string{string(ExpectAnswer), string(ExpectClarify), string(ExpectEither), string(ExpectDecline)}

func readExpect(r *yamldoc.Reader, n yamldoc.Node) Expect {
	text := r.Text(n, "expect")
	for _, e := range expectations {
		if e == text {
			return Expect(e)
		}
	}
	r.Report(n, "unknown-value", fmt.Sprintf("expect has no value %q", text), "its values are "+strings.Join(expectations, ", "))
	return ExpectAnswer
}

var writableTypes = []string{"boolean", "integer", "decimal", "float", "text", "date", "time", "timestamp", "timestamptz", "blob", "json"}

// ReadTypes reads a mapping of column names to type names.
func ReadTypes(r *yamldoc.Reader, n yamldoc.Node) map[string]value.Kind {
	types := map[string]value.Kind{}
	for _, e := range r.Entries(n, "types") {
		name := r.Text(e.Value, "a type")
		kind, ok := value.KindNamed(name)
		if !ok || !hasName(writableTypes, name) {
			r.Report(e.Value, "unknown-type", fmt.Sprintf("there is no type %q", name), near.Hint(name, writableTypes))
			continue
		}
		types[e.Key] = kind
	}
	return types
}

// ReadRules reads a rules mapping: KEY: VALUE, KEY: {VALUE: ARGUMENT}, and by-column: {COLUMN: {KEY: …}}.
func ReadRules(r *yamldoc.Reader, n yamldoc.Node) match.Rules {
	var rules match.Rules
	for _, e := range r.Entries(n, "rules") {
		if e.Key != "by-column" {
			reportRule(r, e, rules.Set(e.Key, readChoice(r, e.Value)))
			continue
		}
		for _, column := range r.Entries(e.Value, "by-column") {
			for _, rule := range r.Entries(column.Value, "the rules of a column") {
				reportRule(r, rule, rules.SetColumn(column.Key, rule.Key, readChoice(r, rule.Value)))
			}
		}
	}
	return rules
}

func reportRule(r *yamldoc.Reader, e yamldoc.Entry, err error) {
	var wrong *match.RuleError
	if !errors.As(err, &wrong) {
		return
	}
	if wrong.Problem == match.UnknownRule {
		r.Report(e.At, "unknown-key", wrong.Message, "")
		return
	}
	r.Report(e.Value, "unknown-value", wrong.Message, "")
}

func readChoice(r *yamldoc.Reader, n yamldoc.Node) match.Choice {
	if !yamldoc.IsMapping(n) {
		return match.Choice{Value: r.Text(n, "a rule")}
	}
	entries := r.Entries(n, "a rule")
	if len(entries) != 1 {
		r.Report(n, "unknown-value", "a rule has one value", "write it as KEY: VALUE or KEY: {VALUE: ARGUMENT}")
		return match.Choice{}
	}
	return match.Choice{Value: entries[0].Key, Argument: strings.Join(r.Texts(entries[0].Value, "a rule's argument"), ", ")}
}
