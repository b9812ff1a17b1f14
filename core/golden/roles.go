package golden

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/source"
	"tovrel/core/yamldoc"
)

// Parameter is something that the expected answer of a question depends on beside its text, such as the role of who asks, with its values.
type Parameter struct {
	Name   string
	Values []string
}

// RoleAnswer is what is expected for some values of a question's parameters, as it stands under its own heading.
type RoleAnswer struct {
	Title  string // behind "For"
	At     source.Position
	Answer Answer
}

// placeholder is where a parameter's value goes.
var placeholder = pattern.Of(`\{\{\s*([A-Za-z0-9_-]+)\s*\}\}`)

// unnamable are the characters of a value that an id does not have.
var unnamable = pattern.Of(`[^\p{L}\p{N}._-]+`)

// readFor reads the parameters of a question, in the order in which they are written.
func readFor(r *yamldoc.Reader, n yamldoc.Node) []Parameter {
	var out []Parameter
	for _, e := range r.Entries(n, "for") {
		p := Parameter{Name: e.Key, Values: r.Texts(e.Value, "the values of "+e.Key)}
		if !idForm.MatchString(p.Name) {
			r.Report(e.At, "bad-parameter", fmt.Sprintf("%q cannot be a parameter", p.Name), "name it as role or tier")
		}
		named := map[string]string{}
		for _, v := range p.Values {
			if before, taken := named[idOf(v)]; taken {
				r.Report(e.Value, "duplicate-value", fmt.Sprintf("%q and %q are one in the id of a question", before, v),
					"write one of them otherwise")
			}
			named[idOf(v)] = v
		}
		if len(p.Values) == 0 {
			r.Report(e.At, "no-values", fmt.Sprintf("for: %s has no values", p.Name), "write it as "+p.Name+": [north, south]")
		}
		out = append(out, p)
	}
	const most = 200
	if count := len(combinations(out)); count > most {
		r.Report(n, "too-many-values", fmt.Sprintf("for: makes %d questions of one", count), fmt.Sprintf("keep it to %d", most))
		return nil
	}
	return out
}

// idOf is a value as ids write it.
func idOf(value string) string { return strings.Trim(unnamable.ReplaceAllString(value, "-"), "-") }

// Each lists the questions as they are asked, in document order: one with parameters once for each of their combinations.
func (s *Set) Each() []*Question {
	var all []*Question
	for _, q := range s.Questions {
		all = append(all, q.Variants()...)
	}
	return all
}

// Variants are a question and its follow-ups as they are asked: themselves where it has no parameters, else the conversation of each
// combination of their values.
func (q *Question) Variants() []*Question {
	if len(q.For) == 0 {
		return append([]*Question{q}, q.FollowUps...)
	}
	var out []*Question
	for _, values := range combinations(q.For) {
		v := q.variant(q.For, values)
		out = append(out, v)
		before := v
		for _, next := range q.FollowUps {
			follow := next.variant(q.For, values)
			follow.After = before
			v.FollowUps = append(v.FollowUps, follow)
			out = append(out, follow)
			before = follow
		}
	}
	return out
}

// combinations are the products of the parameters' values, the last one turning fastest.
func combinations(all []Parameter) [][]string {
	out := [][]string{nil}
	for _, p := range all {
		var next [][]string
		for _, before := range out {
			for _, v := range p.Values {
				next = append(next, append(slices.Clone(before), v))
			}
		}
		out = next
	}
	return out
}

// variant is a question for one combination of values.
func (q *Question) variant(parameters []Parameter, values []string) *Question {
	user := map[string]string{}
	var suffix []string
	for i, p := range parameters {
		user[p.Name] = values[i]
		suffix = append(suffix, p.Name+"="+idOf(values[i]))
	}
	v := *q
	v.Base, v.User, v.FollowUps, v.For = q, user, nil, nil
	v.ID += "@" + strings.Join(suffix, ",")
	plain := func(text string) string { return fill(text, user, func(value string) string { return value }) }
	all := func(texts []string) []string {
		out := make([]string, len(texts))
		for i, text := range texts {
			out[i] = plain(text)
		}
		return out
	}
	v.Text, v.AlsoAsked, v.Mentions, v.Then = plain(q.Text), all(q.AlsoAsked), all(q.Mentions), plain(q.Then)
	v.Avoids, v.Second = all(q.Avoids), inSQL(q.Second, user)
	v.Formerly = make([]string, len(q.Formerly))
	for i, old := range q.Formerly {
		v.Formerly[i] = old + "@" + strings.Join(suffix, ",")
	}
	v.Answer = q.Answer.filled(user)
	for _, r := range q.Roles {
		if slices.Equal(r.values(parameters), values) {
			v.Answer = v.Answer.over(r.Answer.filled(user))
		}
	}
	v.Readings = nil
	for _, r := range q.Readings {
		v.Readings = append(v.Readings, &Reading{plain(r.Title), r.At, r.Answer.filled(user)})
	}
	v.States = nil
	for _, f := range q.States {
		one := Fact{At: f.At}
		for _, w := range f.Ways {
			w.Words, w.SQL, w.About = plain(w.Words), inSQL(w.SQL, user), all(w.About)
			one.Ways = append(one.Ways, w)
		}
		v.States = append(v.States, one)
	}
	return &v
}

// over is an answer with what a heading of its own says in place of what is said for all.
func (a Answer) over(own Answer) Answer {
	a.Table, a.File, a.FileAt = own.Table, own.File, own.FileAt
	if own.Query != "" {
		a.Query, a.QueryAt = own.Query, own.QueryAt
	}
	if len(own.Types) > 0 {
		a.Types = own.Types
	}
	return a
}

func (a Answer) filled(user map[string]string) Answer {
	a.Query = inSQL(a.Query, user)
	forms := map[string]string{}
	for dialect, query := range a.Forms {
		forms[dialect] = inSQL(query, user)
	}
	a.Forms = forms
	return a
}

// inSQL puts values into a query as literals in quotes.
func inSQL(query string, user map[string]string) string {
	return fill(query, user, func(value string) string { return "'" + strings.ReplaceAll(value, "'", "''") + "'" })
}

func fill(text string, user map[string]string, write func(string) string) string {
	return placeholder.ReplaceAllStringFunc(text, func(found string) string {
		if value, known := user[placeholder.FindStringSubmatch(found)[1]]; known {
			return write(value)
		}
		return found
	})
}

// values are those that the heading of a role's answer names, in the order of the parameters; nil where it does not name one of each.
// It is read as "role north", or with several as "role north, tier gold".
func (r *RoleAnswer) values(parameters []Parameter) []string {
	said := map[string]string{}
	for part := range strings.SplitSeq(r.Title, ",") {
		name, value, _ := strings.Cut(strings.TrimSpace(part), " ")
		said[strings.TrimSuffix(name, ":")] = strings.TrimSpace(value)
	}
	if len(said) != len(parameters) {
		return nil
	}
	var out []string
	for _, p := range parameters {
		i := slices.IndexFunc(p.Values, func(v string) bool { return strings.EqualFold(v, said[p.Name]) })
		if i < 0 {
			return nil
		}
		out = append(out, p.Values[i])
	}
	return out
}

// forRole begins what is expected for some values.
func (p *parser) forRole(b block, title string) {
	p.stray = nil
	r := &RoleAnswer{Title: title, At: source.Position{File: p.set.File, Line: b.line, Column: 1}}
	p.question.Roles = append(p.question.Roles, r)
	p.open(&body{what: "answer for a role", line: b.line, answer: &r.Answer})
}

// finishRoles checks the parameters of a question: what is written for them, and where they stand.
func (p *parser) finishRoles(q *Question) {
	parameters := q.For
	if q.After != nil {
		parameters = first(q).For
		if len(q.For) > 0 {
			p.report(q.At.Line, 1, "for-in-follow-up", "a follow-up has the parameters of its question",
				"put for: into the question's settings")
		}
	}
	seen := map[string]int{}
	for _, r := range q.Roles {
		values := r.values(parameters)
		key := strings.Join(values, "\x00")
		switch before := seen[key]; {
		case values == nil:
			p.report(r.At.Line, 1, "unknown-role", fmt.Sprintf("%q is none of the combinations of for:", r.Title), nearRole(parameters))
		case before > 0:
			p.report(r.At.Line, 1, "duplicate-role", fmt.Sprintf("%s is answered in line %d already", r.Title, before), "keep one of them")
		}
		seen[key] = r.At.Line
	}
	var known []string
	for _, param := range parameters {
		known = append(known, param.Name)
	}
	for _, text := range append([]string{q.Text, q.Then, q.Answer.Query}, q.AlsoAsked...) {
		for _, m := range placeholder.FindAllStringSubmatch(text, -1) {
			if !slices.Contains(known, m[1]) {
				p.report(q.At.Line, 1, "unknown-parameter", fmt.Sprintf("{{%s}} is no parameter of the question", m[1]),
					"add for: {"+m[1]+": [value, …]} to its settings; "+near.Hint(m[1], known))
			}
		}
	}
}

func first(q *Question) *Question {
	for q.After != nil {
		q = q.After
	}
	return q
}

// nearRole says how a heading names values.
func nearRole(parameters []Parameter) string {
	if len(parameters) == 0 {
		return "add for: {role: [north, south]} to the question's settings"
	}
	var parts []string
	for _, p := range parameters {
		if len(p.Values) > 0 {
			parts = append(parts, p.Name+" "+p.Values[0])
		}
	}
	return "write it as ### For " + strings.Join(parts, ", ")
}

// answeredByRole tells whether a question needs no answer for all: each combination has its own, or a follow-up has some.
func (q *Question) answeredByRole() bool {
	return q.allAnswered() || q.After != nil && first(q).allAnswered() && len(q.Roles) > 0
}

// allAnswered tells whether every combination of a question's parameters has an answer under a heading of its own.
func (q *Question) allAnswered() bool {
	return len(q.For) > 0 && !slices.ContainsFunc(q.Variants(), func(v *Question) bool { return v.After == nil && v.Answer.Empty() })
}
