package upkeep

import (
	"fmt"
	"math"
	"regexp"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/source"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/wording"
)

// checked is an answer of a question with what it is on the data of today.
type checked struct {
	answer  golden.Answer
	reading *golden.Reading // nil for the question's own
	table   *table.Table    // nil where it could not be had
	tree    *sql.Tree       // of its reference; nil without one
}

// suspect is a question whose answers are looked at for what is likely a mistake.
type suspect struct {
	set      *golden.Set
	question *golden.Question
	rules    match.Rules
	briefing *briefing.Briefing // nil for none
	answers  []checked          // the question's own first
}

// suspicion looks for one kind of mistake.
type suspicion func(s suspect) source.Problems

var suspicions = []suspicion{sameResults, acceptsEverything, hiddenColumns, unorderedTop, contradictsRanked, unknownTies,
	looseTolerance, unclearPercent, unknownTerms}

// suspicious are all warnings about a question, whose answers are sound.
func (s suspect) suspicious() source.Problems {
	var out source.Problems
	for _, look := range suspicions {
		out = append(out, look(s)...)
	}
	return out
}

func (s suspect) warn(at source.Position, code, message, remedy string) source.Problems {
	return source.Problems{{Position: at, Code: code, Severity: source.Warning, Message: message, Remedy: remedy,
		Excerpt: source.Line(s.set.Text(), at.Line)}}
}

// at is where an answer stands.
func (c checked) at(q *golden.Question) source.Position {
	switch {
	case c.answer.Query != "":
		return c.answer.QueryAt
	case c.answer.Table != nil:
		return c.answer.Table.At
	case c.reading != nil:
		return c.reading.At
	}
	return q.At
}

// sameResults finds readings whose result is accepted already on the data of today.
func sameResults(s suspect) source.Problems {
	var out source.Problems
	for i, c := range s.answers {
		if c.reading == nil || c.table == nil {
			continue
		}
		for _, before := range s.answers[:i] {
			if before.table == nil || !match.Match(before.table, c.table, s.rules, match.Known{}).Matched {
				continue
			}
			than := "the question's own answer"
			if before.reading != nil {
				than = fmt.Sprintf("the reading %q", before.reading.Title)
			}
			out = append(out, s.warn(c.reading.At, "same-result", "on this data the reading accepts nothing that "+than+
				" does not accept", "remove it, or add rows to the sample data that tell the two apart")...)
			break
		}
	}
	return out
}

// acceptsEverything finds answers that any table matches.
func acceptsEverything(s suspect) source.Problems {
	if s.rules.Choice("rows").Value != "contains" {
		return nil
	}
	var out source.Problems
	for _, c := range s.answers {
		if c.table != nil && c.table.Rows() == 0 {
			out = append(out, s.warn(c.at(s.question), "accepts-everything",
				"nothing is expected and more rows are allowed (rows: contains): every answer is right",
				"take rows: contains out, or expect a row")...)
		}
	}
	return out
}

// hiddenColumns finds references that read what the briefing hides from translators.
func hiddenColumns(s suspect) source.Problems {
	if s.briefing == nil {
		return nil
	}
	var out source.Problems
	for _, c := range s.answers {
		for _, p := range s.briefing.Hidden() {
			if c.tree != nil && c.tree.Reads(p.Table, p.Column) {
				out = append(out, s.warn(c.answer.QueryAt, "hidden-column",
					fmt.Sprintf("the query reads %s, which the briefing hides: no translator can know it", p),
					"use another column, or show it in the briefing")...)
			}
		}
	}
	return out
}

var asksForTop = regexp.MustCompile(`(?i)\b(top|first|last|largest|highest|lowest|smallest|fewest|biggest|best|` +
	`worst)\s+(\d+|two|three|four|five|six|seven|eight|nine|ten|twelve|twenty)\b|\b(two|three|four|five|six|seven|eight|` +
	`nine|ten)\s+(\w+\s+){0,3}(largest|highest|lowest|smallest|fewest|most|least|biggest|best|worst)\b|\bin (descending|` +
	`ascending) order\b|\branked?\b`)

// unorderedTop finds questions for the first of an order whose answer may come in any.
func unorderedTop(s suspect) source.Problems {
	own := s.answers[0]
	asked := asksForTop.FindString(s.question.Text)
	if asked == "" || own.table == nil || own.table.Rows() < 2 || s.rules.Choice("order").Value != "auto" {
		return nil
	}
	if own.tree != nil {
		if probe, has := own.tree.Probe(); len(own.tree.Outer().AskedOrder()) > 0 || has && probe.TopN != nil {
			return nil
		}
	}
	return s.warn(own.at(s.question), "unordered-top",
		fmt.Sprintf("the question asks for an order (%q), and its answer may come in any", asked),
		"order the reference query, or set order: {ranked: [COLUMN desc]}")
}

// contradictsRanked finds written rows that stand in another order than the rules ask for.
func contradictsRanked(s suspect) source.Problems {
	if order := s.rules.Choice("order").Value; order != "ranked" {
		return nil
	}
	var out source.Problems
	for _, c := range s.answers {
		if c.answer.Table == nil {
			continue
		}
		written, err := c.answer.Table.Typed(c.answer.Types)
		if err != nil {
			continue // found when it was read
		}
		if r := match.Match(written, written, s.rules, match.Known{}); !r.Matched {
			out = append(out, s.warn(c.answer.Table.At, "order-contradicts",
				"the rows of the table do not stand in the order that the rules ask for ("+s.rules.Choice("order").Argument+")",
				"put the rows in that order, or correct order:")...)
		}
	}
	return out
}

// unknownTies finds ranked answers without a reference query: whether ties were cut cannot be told.
func unknownTies(s suspect) source.Problems {
	c := s.answers[0]
	if c.answer.Query != "" || c.answer.Table == nil || s.rules.Choice("order").Value != "ranked" || s.rules.Sets("ties") ||
		len(c.answer.Table.Cells) < 2 {
		return nil
	}
	return s.warn(c.answer.Table.At, "ties-unknown",
		"the rows are ranked, and without a reference query nobody can tell whether others tie with the last one",
		"add the reference query, or say ties: strict")
}

// looseTolerance finds numbers so near each other that an answer with the wrong row's number is right.
func looseTolerance(s suspect) source.Problems {
	c := s.answers[0]
	if c.table == nil || c.table.Rows() < 2 || !s.rules.SetsAnywhere("numbers") {
		return nil
	}
	for i, column := range c.table.Columns {
		if !column.Type.Kind.Number() {
			continue
		}
		order := make([]int, column.Len())
		for row := range order {
			order[row] = (row + 1) % len(order)
		}
		moved := table.Table{Columns: append([]*table.Column(nil), c.table.Columns...)}
		moved.Columns[i] = table.NewColumn(column.Name, column.Type, column.Len())
		differs := false
		for row, from := range order {
			moved.Columns[i].Append(column.Value(from))
			differs = differs || column.Value(row).String() != column.Value(from).String()
		}
		if differs && match.Match(c.table, &moved, s.rules, match.Known{}).Matched {
			return s.warn(c.at(s.question), "loose-tolerance",
				fmt.Sprintf("the tolerance for %s is so wide that each row's number is right in the row before it",
					column.Name), "narrow numbers:, or let it be by-column")
		}
	}
	return nil
}

var (
	asksForPercent  = regexp.MustCompile(`(?i)\bper ?cent(age)?s?\b|%`)
	asksForFraction = regexp.MustCompile(`(?i)\b(share|fraction|proportion)\b`)
)

// unclearPercent finds questions for percents that are answered by fractions, and the other way round.
func unclearPercent(s suspect) source.Problems {
	c := s.answers[0]
	if c.table == nil || c.table.Rows() == 0 || s.rules.SetsAnywhere("scale") {
		return nil
	}
	percent, fraction := asksForPercent.MatchString(s.question.Text), asksForFraction.MatchString(s.question.Text)
	if !percent && !fraction || percent && fraction {
		return nil
	}
	for _, column := range c.table.Columns {
		kind := column.Type.Kind.String()
		if s.unitOf(column.Name) != "" || saysPercent(column.Name, c.answer.Query) ||
			!strings.Contains(kind, "float") && !strings.Contains(kind, "decimal") {
			continue
		}
		switch most := largest(column); {
		case percent && most > 0 && most <= 1:
			return s.warn(c.at(s.question), "unclear-percent",
				fmt.Sprintf("the question asks for percents, and %s holds fractions", column.Name),
				"multiply by 100, or set scale: fraction, so that both are right")
		case fraction && most > 1.5 && most <= 100 && len(c.table.Columns) <= 2:
			return s.warn(c.at(s.question), "unclear-percent",
				fmt.Sprintf("the question asks for a share, and %s holds percents", column.Name),
				"divide by 100, or set scale: percent, so that both are right")
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
func (s suspect) unitOf(column string) string {
	if s.briefing == nil {
		return ""
	}
	for _, t := range s.briefing.Tables {
		for _, c := range t.Columns {
			if strings.EqualFold(c.Name, column) {
				return c.Unit
			}
		}
	}
	return ""
}

var (
	measureTerm = regexp.MustCompile(`(?i)\b([a-z][a-z-]{2,})\s+(rate|ratio|margin|index|score|season|quota)s?\b`)
	quotedTerm  = regexp.MustCompile(`["“„«]([^"“”„«»]{3,40})["”“»]`)
	plainBefore = map[string]bool{"the": true, "what": true, "which": true, "average": true, "total": true, "highest": true,
		"lowest": true, "best": true, "mean": true, "monthly": true, "yearly": true, "daily": true, "this": true, "that": true,
		"and": true, "for": true, "per": true}
)

// unknownTerms finds words that seem to be terms of the business and that the briefing does not have.
func unknownTerms(s suspect) source.Problems {
	if s.briefing == nil {
		return nil
	}
	var terms []string
	for _, m := range measureTerm.FindAllStringSubmatch(s.question.Text, -1) {
		if !plainBefore[strings.ToLower(m[1])] {
			terms = append(terms, m[0])
		}
	}
	for _, m := range quotedTerm.FindAllStringSubmatch(s.question.Text, -1) {
		terms = append(terms, m[1])
	}
	said := wording.Fold(vocabulary(s.briefing))
	var out source.Problems
	for _, term := range terms {
		if folded := strings.TrimSuffix(wording.Fold(term), "s"); !strings.Contains(said, folded) {
			out = append(out, s.warn(s.question.At, "unknown-term", fmt.Sprintf("the briefing does not say what %q is", term),
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

var namedPercent = regexp.MustCompile(`(?i)(pct|per_?cent|perc|%)`)

// saysPercent tells whether a column's name or its query shows that it holds percents.
func saysPercent(column, sql string) bool {
	return namedPercent.MatchString(column) || strings.Contains(sql, "100")
}
