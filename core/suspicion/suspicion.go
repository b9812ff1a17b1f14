// Package suspicion looks at the answers of a question of a golden set for what is likely a mistake: not a defect, since the set can be
// read and its queries run, but something that a careful reader would ask about. Each kind is a function of the question and of what
// its answers are on the data of today; it runs nothing.
package suspicion

import (
	"fmt"
	"math"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/pattern"
	"tovrel/core/source"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/wording"
)

// Answer is an answer of a question with what it is on the data of today.
type Answer struct {
	Answer  golden.Answer
	Reading *golden.Reading // nil for the question's own
	Table   *table.Table    // nil where it could not be had
	Tree    *sql.Tree       // of its reference; nil without one
}

// Subject is a question whose answers are looked at for what is likely a mistake.
type Subject struct {
	Set      *golden.Set
	Question *golden.Question
	Rules    match.Rules
	Briefing *briefing.Briefing // nil for none
	Answers  []Answer           // the question's own first
}

// suspicion looks for one kind of mistake.
type suspicion func(s Subject) source.Problems

var suspicions = []suspicion{sameResults, acceptsEverything, hiddenColumns, unorderedTop, contradictsRanked, unknownTies,
	looseTolerance, unclearPercent, unknownTerms}

// Find gives all warnings about a question whose answers are sound, in a fixed order of their kinds.
func (s Subject) Find() source.Problems {
	var out source.Problems
	for _, look := range suspicions {
		out = append(out, look(s)...)
	}
	return out
}

// Warn is one warning, with the line of the document that it stands at.
func (s Subject) Warn(at source.Position, code, message, remedy string) source.Problems {
	return source.Problems{{Position: at, Code: code, Severity: source.Warning, Message: message, Remedy: remedy,
		Excerpt: source.Line(s.Set.Text(), at.Line)}}
}

// at is where an answer stands.
func (c Answer) at(q *golden.Question) source.Position {
	switch {
	case c.Answer.Query != "":
		return c.Answer.QueryAt
	case c.Answer.Table != nil:
		return c.Answer.Table.At
	case c.Reading != nil:
		return c.Reading.At
	}
	return q.At
}

// sameResults finds readings whose result is accepted already on the data of today.
func sameResults(s Subject) source.Problems {
	var out source.Problems
	for i, c := range s.Answers {
		if c.Reading == nil || c.Table == nil {
			continue
		}
		for _, before := range s.Answers[:i] {
			if before.Table == nil || !match.Match(before.Table, c.Table, s.Rules, match.Known{}).Matched {
				continue
			}
			than := "the question's own answer"
			if before.Reading != nil {
				than = fmt.Sprintf("the reading %q", before.Reading.Title)
			}
			out = append(out, s.Warn(c.Reading.At, "same-result", "on this data the reading accepts nothing that "+than+
				" does not accept", "remove it, or add rows to the sample data that tell the two apart")...)
			break
		}
	}
	return out
}

// acceptsEverything finds answers that any table matches.
func acceptsEverything(s Subject) source.Problems {
	if s.Rules.Choice("rows").Value != "contains" {
		return nil
	}
	var out source.Problems
	for _, c := range s.Answers {
		if c.Table != nil && c.Table.Rows() == 0 {
			out = append(out, s.Warn(c.at(s.Question), "accepts-everything",
				"nothing is expected and more rows are allowed (rows: contains): every answer is right",
				"take rows: contains out, or expect a row")...)
		}
	}
	return out
}

// hiddenColumns finds references that read what the briefing hides from translators.
func hiddenColumns(s Subject) source.Problems {
	if s.Briefing == nil {
		return nil
	}
	var out source.Problems
	for _, c := range s.Answers {
		for _, p := range s.Briefing.Hidden() {
			if c.Tree != nil && c.Tree.Reads(p.Table, p.Column) {
				out = append(out, s.Warn(c.Answer.QueryAt, "hidden-column",
					fmt.Sprintf("the query reads %s, which the briefing hides: no translator can know it", p),
					"use another column, or show it in the briefing")...)
			}
		}
	}
	return out
}

var asksForTop = pattern.Of(`(?i)\b(top|first|last|largest|highest|lowest|smallest|fewest|biggest|best|` +
	`worst)\s+(\d+|two|three|four|five|six|seven|eight|nine|ten|twelve|twenty)\b|\b(two|three|four|five|six|seven|eight|` +
	`nine|ten)\s+(\w+\s+){0,3}(largest|highest|lowest|smallest|fewest|most|least|biggest|best|worst)\b|\bin (descending|` +
	`ascending) order\b|\branked?\b`)

// unorderedTop finds questions for the first of an order whose answer may come in any.
func unorderedTop(s Subject) source.Problems {
	own := s.Answers[0]
	asked := asksForTop.FindString(s.Question.Text)
	if asked == "" || own.Table == nil || own.Table.Rows() < 2 || s.Rules.Choice("order").Value != "auto" {
		return nil
	}
	if own.Tree != nil {
		if probe, has := own.Tree.Probe(); len(own.Tree.Outer().AskedOrder()) > 0 || has && probe.TopN != nil {
			return nil
		}
	}
	return s.Warn(own.at(s.Question), "unordered-top",
		fmt.Sprintf("the question asks for an order (%q), and its answer may come in any", asked),
		"order the reference query, or set rules: {order: {ranked: [COLUMN desc]}}")
}

// contradictsRanked finds written rows that stand in another order than the rules ask for.
func contradictsRanked(s Subject) source.Problems {
	if order := s.Rules.Choice("order").Value; order != "ranked" {
		return nil
	}
	var out source.Problems
	for _, c := range s.Answers {
		if c.Answer.Table == nil {
			continue
		}
		written, err := c.Answer.Table.Typed(c.Answer.Types)
		if err != nil {
			continue // found when it was read
		}
		if r := match.Match(written, written, s.Rules, match.Known{}); !r.Matched {
			out = append(out, s.Warn(c.Answer.Table.At, "order-contradicts",
				"the rows of the table do not stand in the order that the rules ask for ("+s.Rules.Choice("order").Argument+")",
				"put the rows in that order, or correct rules: {order: …}")...)
		}
	}
	return out
}

// unknownTies finds ranked answers without a reference query: whether ties were cut cannot be told.
func unknownTies(s Subject) source.Problems {
	c := s.Answers[0]
	if c.Answer.Query != "" || c.Answer.Table == nil || s.Rules.Choice("order").Value != "ranked" || s.Rules.Sets("ties") ||
		len(c.Answer.Table.Cells) < 2 {
		return nil
	}
	return s.Warn(c.Answer.Table.At, "ties-unknown",
		"the rows are ranked, and without a reference query nobody can tell whether others tie with the last one",
		"add the reference query, or set rules: {ties: strict}")
}

// looseTolerance finds numbers so near each other that an answer with the wrong row's number is right.
func looseTolerance(s Subject) source.Problems {
	c := s.Answers[0]
	if c.Table == nil || c.Table.Rows() < 2 || !s.Rules.SetsAnywhere("numbers") {
		return nil
	}
	for i, column := range c.Table.Columns {
		if !column.Type.Kind.Number() {
			continue
		}
		order := make([]int, column.Len())
		for row := range order {
			order[row] = (row + 1) % len(order)
		}
		moved := table.Table{Columns: append([]*table.Column(nil), c.Table.Columns...)}
		moved.Columns[i] = table.NewColumn(column.Name, column.Type, column.Len())
		differs := false
		for row, from := range order {
			moved.Columns[i].Append(column.Value(from))
			differs = differs || column.Value(row).String() != column.Value(from).String()
		}
		if differs && match.Match(c.Table, &moved, s.Rules, match.Known{}).Matched {
			return s.Warn(c.at(s.Question), "loose-tolerance",
				fmt.Sprintf("the tolerance for %s is so wide that each row's number is right in the row before it",
					column.Name), "narrow rules: {numbers: …}, or narrow it for one column alone")
		}
	}
	return nil
}

var (
	asksForPercent  = pattern.Of(`(?i)\bper ?cent(age)?s?\b|%`)
	asksForFraction = pattern.Of(`(?i)\b(share|fraction|proportion)\b`)
)

// unclearPercent finds questions for percents that are answered by fractions, and the other way round.
func unclearPercent(s Subject) source.Problems {
	c := s.Answers[0]
	if c.Table == nil || c.Table.Rows() == 0 || s.Rules.SetsAnywhere("scale") {
		return nil
	}
	percent, fraction := asksForPercent.MatchString(s.Question.Text), asksForFraction.MatchString(s.Question.Text)
	if !percent && !fraction || percent && fraction {
		return nil
	}
	for _, column := range c.Table.Columns {
		kind := column.Type.Kind.String()
		if s.unitOf(column.Name) != "" || saysPercent(column.Name, c.Answer.Query) ||
			!strings.Contains(kind, "float") && !strings.Contains(kind, "decimal") {
			continue
		}
		switch most := largest(column); {
		case percent && most > 0 && most <= 1:
			return s.Warn(c.at(s.Question), "unclear-percent",
				fmt.Sprintf("the question asks for percents, and %s holds fractions", column.Name),
				"multiply by 100, or set rules: {scale: fraction}, so that both are right")
		case fraction && most > 1.5 && most <= 100 && len(c.Table.Columns) <= 2:
			return s.Warn(c.at(s.Question), "unclear-percent",
				fmt.Sprintf("the question asks for a share, and %s holds percents", column.Name),
				"divide by 100, or set rules: {scale: percent}, so that both are right")
		}
	}
	return nil
}

// largest is the largest of a column's numbers, without their signs.
func largest(column *table.Column) float64 {
	most := 0.0
	for row := range column.Len() {
		if f, ok := column.Value(row).Float64(); ok {
			most = math.Max(most, math.Abs(f))
		}
	}
	return most
}

// unitOf is the unit that the briefing says of a column of a name; "" for none.
func (s Subject) unitOf(column string) string {
	if s.Briefing == nil {
		return ""
	}
	for _, t := range s.Briefing.Tables {
		for _, c := range t.Columns {
			if strings.EqualFold(c.Name, column) {
				return c.Unit
			}
		}
	}
	return ""
}

var (
	measureTerm = pattern.Of(`(?i)\b([a-z][a-z-]{2,})\s+(rate|ratio|margin|index|score|season|quota)s?\b`)
	quotedTerm  = pattern.Of(`["“„«]([^"“”„«»]{3,40})["”“»]`)
	plainBefore = map[string]bool{"the": true, "what": true, "which": true, "average": true, "total": true, "highest": true,
		"lowest": true, "best": true, "mean": true, "monthly": true, "yearly": true, "daily": true, "this": true, "that": true,
		"and": true, "for": true, "per": true}
)

// unknownTerms finds words that seem to be terms of the business and that the briefing does not have.
func unknownTerms(s Subject) source.Problems {
	if s.Briefing == nil {
		return nil
	}
	var terms []string
	for _, m := range measureTerm.FindAllStringSubmatch(s.Question.Text, -1) {
		if !plainBefore[strings.ToLower(m[1])] {
			terms = append(terms, m[0])
		}
	}
	for _, m := range quotedTerm.FindAllStringSubmatch(s.Question.Text, -1) {
		terms = append(terms, m[1])
	}
	said := wording.Fold(vocabulary(s.Briefing))
	var out source.Problems
	for _, term := range terms {
		if folded := strings.TrimSuffix(wording.Fold(term), "s"); !strings.Contains(said, folded) {
			out = append(out, s.Warn(s.Question.At, "unknown-term", fmt.Sprintf("the briefing does not say what %q is", term),
				"define it under terms: of the briefing")...)
		}
	}
	return out
}

// vocabulary is everything that a briefing says.
func vocabulary(b *briefing.Briefing) string {
	parts := append([]string{b.About}, b.Notes...)
	for _, t := range b.Terms {
		parts = append(parts, t.Name, t.Definition)
	}
	for _, t := range b.Tables {
		parts = append(parts, t.Name, t.About)
		for _, c := range t.Columns {
			parts = append(parts, c.Name, c.About)
			parts = append(parts, c.Synonyms...)
			for _, code := range c.Codes {
				parts = append(parts, code.Value, code.Label)
			}
		}
	}
	return strings.Join(parts, " . ")
}

var namedPercent = pattern.Of(`(?i)(pct|per_?cent|perc|%)`)

// saysPercent tells whether a column's name or its query shows that it holds percents.
func saysPercent(column, sql string) bool {
	return namedPercent.MatchString(column) || strings.Contains(sql, "100")
}
